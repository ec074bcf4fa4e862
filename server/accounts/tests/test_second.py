"""A second factor: against RFC 6238, through signing in, where it is asked of everybody, and where it was lost.

The key and the codes of RFC 6238, appendix B (SHA-1), are from memory: at 59 s 94287082, at 1111111109 s 07081804, of which six digits are the last.
"""

import time
from base64 import b32decode
from typing import Any
from unittest.mock import patch

from django.test import Client, TestCase, override_settings
from django_otp.oath import TOTP
from django_otp.plugins.otp_static.models import StaticToken
from tally_core.basics.errors import ProblemsError
from testing import PASSWORD, Api, person

from accounts.models import Authenticator, Noted


def code_of(secret: str, steps: int = 0) -> str:
    """What an authenticator shows, some steps of half a minute from now."""
    shown = TOTP(b32decode(secret + "=" * (-len(secret) % 8)), drift=steps)
    shown.time = time.time()
    return f"{shown.token():06d}"


class SecondFactor(TestCase):
    def setUp(self) -> None:
        self.api = Api("engineer")

    def sign_in(self, code: str = "", name: str = "engineer", client: Client | None = None) -> tuple[int, dict[str, Any]]:
        body = {"user": name, "password": PASSWORD, "code": code}
        answer = (client or Client()).post("/api/session", body, content_type="application/json")
        return answer.status_code, answer.json()

    def set_up(self) -> tuple[str, list[str]]:
        status, begun = self.api.post("/people/own-second", {"password": PASSWORD})
        self.assertEqual(status, 200, begun)
        # The code of a moment ago is taken, too, so that a later one is left for signing in.
        status, said = self.api.post("/people/own-second/confirm", {"code": code_of(begun["secret"], -1)})
        self.assertEqual(status, 200, said)
        return begun["secret"], said["codes"]

    def test_codes_are_those_of_the_standard(self) -> None:
        device = Authenticator.made_for(person("buyer"), b"12345678901234567890", confirmed=True, tolerance=0)
        for moment, code in ((59, "287082"), (1111111109, "081804")):
            device.last_t, device.throttling_failure_count = -1, 0
            device.save()
            with patch("time.time", return_value=moment):
                self.assertTrue(device.verify_token(code), moment)
                self.assertFalse(device.verify_token(code), "each holds once")

    def test_from_setting_it_up_to_signing_in_and_taking_it_away(self) -> None:
        self.assertEqual(self.api.get("/people/own-second")[1], {"has": False, "needed": False, "left": 0})
        self.assertEqual(self.api.post("/people/own-second", {"password": "wrong"})[0], 422)
        # Begun and not confirmed, it counts for nothing.
        begun = self.api.post("/people/own-second", {"password": PASSWORD})[1]
        self.assertTrue(begun["address"].startswith("otpauth://totp/Round%20Tally%3Aengineer?secret=" + begun["secret"]), begun["address"])
        self.assertTrue(begun["picture"].startswith("data:image/svg+xml"))
        self.assertEqual(self.api.post("/people/own-second/confirm", {"code": "12345"})[0], 422)
        self.assertEqual(self.sign_in()[0], 200)
        Authenticator.objects.all().delete()
        secret, codes = self.set_up()
        self.assertEqual((len(codes), self.api.get("/people/own-second")[1]), (8, {"has": True, "needed": False, "left": 8}))
        self.assertEqual(self.api.post("/people/own-second", {"password": PASSWORD})[0], 422)
        # Name and password alone open nothing.
        status, said = self.sign_in()
        self.assertEqual((status, said["problems"][0]["place"]), (422, "code"))
        self.assertEqual(self.sign_in(code_of(secret))[0], 200)
        self.assertEqual(self.sign_in(code_of(secret))[0], 422, "the same code again")
        # Who reads the database does not read the codes.
        self.assertFalse(StaticToken.objects.filter(token__in=codes).exists())
        # A code for the day it is lost holds once; the others stay.
        self.assertEqual(self.sign_in(f" {codes[0]} ")[0], 200)
        self.assertEqual(Noted.objects.first().what, "signed in with a code for the day it is lost")  # type: ignore[union-attr]
        self.assertEqual(self.sign_in(codes[0])[0], 422)
        self.assertEqual(self.api.get("/people/own-second")[1]["left"], 7)
        # Taken away by proving both.
        for proof in ({"password": "wrong", "code": codes[3]}, {"password": PASSWORD, "code": ""}):
            self.assertEqual(self.api.post("/people/own-second/drop", proof)[0], 422)
        Authenticator.objects.update(throttling_failure_count=0)
        with patch("django_otp.models.ThrottlingMixin.verify_is_allowed", return_value=(True, None)):
            status, left = self.api.post("/people/own-second/drop", {"password": PASSWORD, "code": codes[3]})
        self.assertEqual((status, left), (200, {"has": False, "needed": False, "left": 0}))
        self.assertEqual(self.sign_in()[0], 200)

    def test_its_secret_is_sealed_by_the_key_of_the_server_for_its_person(self) -> None:
        secret, codes = self.set_up()
        plain = b32decode(secret)
        (kept,) = Authenticator.objects.values_list("key", flat=True)
        self.assertNotIn(plain.hex(), kept)
        # Laid in the place of somebody else's it opens nothing.
        other = Authenticator.made_for(person("viewer"), confirmed=True)
        self.assertNotEqual(other.key, Authenticator.made_for(person("buyer"), other.bin_key).key)
        Authenticator.objects.filter(pk=other.pk).update(key=kept)
        with self.assertRaises(ProblemsError):
            other.refresh_from_db()
            other.bin_key  # noqa: B018
        # Under another key of the server one comes in by a code for the day it is lost, and is told so.
        with override_settings(SECRET_KEY="another" * 8):
            status, said = self.sign_in(code_of(secret))
            self.assertEqual((status, said["problems"][0]["place"]), (422, "code"))
            self.assertIn("codes for the day it is lost", said["message"])
            self.assertEqual(self.sign_in(codes[0])[0], 200)

    def test_wrong_codes_are_counted_and_the_next_has_to_wait(self) -> None:
        secret, _ = self.set_up()
        said = [self.sign_in("000000")[1]["message"] for _ in range(2)]
        self.assertIn("does not hold", said[0])
        self.assertIn("Too many codes", said[1])
        self.assertIn("Too many codes", self.sign_in(code_of(secret))[1]["message"], "not even the right one now")

    def test_where_it_is_asked_of_everybody_nothing_else_opens_before(self) -> None:
        with override_settings(SECOND_FACTOR="everybody"):
            client = Client()
            status, said = self.sign_in(client=client)
            self.assertEqual((status, said["wants_second"]), (200, True))
            self.assertEqual(client.get("/api/parts").status_code, 403)
            self.assertEqual(client.get("/api/people/own-second").json(), {"has": False, "needed": True, "left": 0})
            # A session that was open before it was asked for sets one up, too, and goes on.
            self.assertEqual(self.api.get("/parts")[0], 403)
            secret, _ = self.set_up()
            self.assertEqual(self.api.get("/parts")[0], 200)
            self.assertEqual(client.get("/api/parts").status_code, 403)
            self.assertEqual(self.sign_in(code_of(secret), client=client)[0], 200)
            self.assertEqual(client.get("/api/parts").status_code, 200)
        with override_settings(SECOND_FACTOR="administrators"):
            self.assertFalse(self.sign_in(name=person("viewer").username)[1]["wants_second"])
            self.assertTrue(self.sign_in(name=person("administrator").username)[1]["wants_second"])

    def test_an_administrator_takes_away_what_was_lost(self) -> None:
        self.set_up()
        admin = Api("administrator")
        self.assertEqual([p["second"] for p in admin.get("/people")[1]["people"] if p["name"] == "engineer"], [True])
        self.assertEqual(self.api.post("/people/second", {"name": "engineer"})[0], 403)
        self.assertEqual(admin.post("/people/second", {"name": "engineer"})[0], 200)
        self.assertEqual(self.api.get("/parts")[0], 401, "who had it is out")
        self.assertEqual(self.sign_in()[0], 200)
        self.assertEqual(admin.post("/people/second", {"name": "engineer"})[0], 422)
        self.assertEqual(admin.post("/people/second", {"name": "nobody"})[0], 404)
