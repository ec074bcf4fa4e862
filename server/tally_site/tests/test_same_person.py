"""A write that was made on somebody's screen is kept under their name, or not at all."""

from definition.models.parts import Part
from django.http import HttpResponse
from django.test import Client, TestCase
from testing import Api

from tally_site.same_person import SamePerson


class SamePersonWrites(TestCase):
    def answer(self, client: Client, **headers: str) -> HttpResponse:
        body = {"number": "S-1", "kind": "bought", "unit": "ea"}
        return client.post("/api/parts", body, content_type="application/json", headers=headers)

    def write(self, client: Client, **headers: str) -> int:
        return self.answer(client, **headers).status_code

    def test_who_came_in_meanwhile_writes_nothing_for_the_one_before(self) -> None:
        client = Api("engineer").client
        for other in ("buyer", "Engineer", "engineer%20", "engineer\x00", "%", "é"):
            self.assertEqual(self.write(client, **{"X-Person": other}), 401, other)
        self.assertFalse(Part.objects.exists())
        self.assertEqual(self.write(client, **{"X-Person": "engineer"}), 200)

    def test_nobody_is_somebody_else_too(self) -> None:
        refused = self.answer(Client(), **{"X-Person": "engineer"})
        self.assertEqual(refused.status_code, 401)
        self.assertIn("You are signed out", refused.json()["message"])

    def test_who_is_there_instead_is_said(self) -> None:
        refused = self.answer(Api("buyer").client, **{"X-Person": "engineer"})
        self.assertIn("In this browser buyer is signed in now", refused.json()["message"])

    def test_a_program_that_says_nothing_of_it_goes_on(self) -> None:
        self.assertEqual(self.write(Api("engineer").client), 200)

    def test_one_may_come_in_where_another_is(self) -> None:
        client = Api("engineer").client
        self.assertEqual(client.delete("/api/session", headers={"X-Person": "buyer"}).status_code, 200)

    def test_a_name_with_letters_of_its_own_is_written_as_in_an_address(self) -> None:
        """As RFC 3986 has it: everything but letters, digits and four marks in UTF-8 by its bytes."""

        class Asked:
            path = "/api/parts"
            headers = {"X-Person": "J%C3%BCrgen%20%26%20S%C3%B6hne%21"}

            class user:
                get_username = staticmethod(lambda: "Jürgen & Söhne!")

        through = SamePerson(lambda request: "through")  # type: ignore[arg-type, return-value]
        self.assertEqual(through(Asked()), "through")  # type: ignore[arg-type]
