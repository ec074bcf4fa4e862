"""Programs that read with a token: what it opens, what it does not, and that it ends at once."""

from datetime import timedelta
from typing import Any

from django.test import Client, TestCase, override_settings
from django.utils.timezone import localdate
from testing import Api, load, rod_and_tube

from accounts.models import Token


class Tokens(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.engineer = Api("engineer")
        self.made = self.make(self.engineer, subjects=["parts", "costs"])
        # A program has no session of anybody.
        self.program = Client()

    def make(self, api: Api, **more: Any) -> dict[str, Any]:
        status, answer = api.post("/tokens", {"name": "nightly list", "subjects": ["parts"], "days": 30} | more)
        self.assertEqual(status, 200, answer)
        return answer

    def read(self, path: str, token: str | None = None, method: str = "get") -> int:
        send = getattr(self.program, method)
        return send(f"/api{path}", headers={"Authorization": f"Bearer {token or self.made['token']}"}).status_code

    def test_it_reads_what_it_was_given_and_nothing_else(self) -> None:
        self.assertEqual(self.read("/parts"), 200)
        self.assertEqual(self.read("/parts/one?number=RT-1"), 200)
        for path in ("/sheets", "/partners", "/orders", "/tokens", "/session/columns", "/today", "/jobs/1", "/requests"):
            self.assertIn(self.read(path), (403, 404, 405), path)
        self.assertEqual(self.program.get("/api/parts").status_code, 401)
        self.assertEqual(self.read("/parts", "rt_somebody-elses"), 401)
        self.assertEqual(self.read("/parts", self.made["token"][:-1]), 401)
        # It is noted, to the hour.
        self.assertIsNotNone(self.engineer.get("/tokens")[1]["tokens"][0]["used_at"])

    def test_it_cannot_write(self) -> None:
        for method in ("post", "put", "patch", "delete"):
            for path in ("/parts", "/parts/one?number=RT-1", "/tokens", "/session"):
                self.assertGreaterEqual(self.read(path, method=method), 400, (method, path))
        with_csrf_off = Client(enforce_csrf_checks=False)
        answer = with_csrf_off.post(
            "/api/parts",
            {"number": "N", "kind": "bought", "unit": "ea"},
            "application/json",
            headers={"Authorization": f"Bearer {self.made['token']}"},
        )
        self.assertEqual((answer.status_code, answer.json()["message"]), (403, "A token only reads. Nothing was saved."))

    def test_a_revoked_one_and_one_that_ran_out_are_refused_at_once(self) -> None:
        self.assertEqual(self.read("/parts"), 200)
        status, answer = self.engineer.post(f"/tokens/{self.made['id']}/revoke", {})
        self.assertEqual((status, answer["tokens"][0]["holds"]), (200, False))
        self.assertEqual(self.read("/parts"), 401)
        self.assertEqual(self.engineer.post(f"/tokens/{self.made['id']}/revoke", {})[0], 404)
        other = self.make(self.engineer, days=1)
        self.assertEqual(self.read("/parts", other["token"]), 200)
        Token.objects.filter(pk=other["id"]).update(until=localdate() - timedelta(days=1))
        self.assertEqual(self.read("/parts", other["token"]), 401)

    def test_it_goes_with_its_person(self) -> None:
        self.assertEqual(Api("viewer").post(f"/tokens/{self.made['id']}/revoke", {})[0], 404, "not one's own")
        self.assertEqual(Api("viewer").get("/tokens")[1]["tokens"], [])
        viewers = self.make(Api("viewer"), subjects=["buying"])["token"]
        self.assertEqual(self.read("/orders", viewers), 200)
        with override_settings(PRICES_HIDDEN=True):
            self.assertEqual(self.read("/orders", viewers), 403)
        self.engineer.user.is_active = False
        self.engineer.user.save()
        self.assertEqual(self.read("/parts"), 401)

    def test_it_is_kept_nowhere(self) -> None:
        token = self.made["token"]
        self.assertNotIn(token, str(list(Token.objects.values())))
        self.assertNotIn(token, str(self.engineer.get("/tokens")[1]))
        self.assertGreater(len(token), 40)

    def test_what_cannot_be_made_is_named(self) -> None:
        for fields, place in (
            ({"name": " "}, "name"),
            ({"name": "x" * 61}, "name"),
            ({"subjects": []}, "subjects"),
            ({"subjects": ["rights"]}, "subjects"),
            ({"days": 0}, "days"),
            ({"days": 401}, "days"),
        ):
            body = {"name": "list", "subjects": ["parts"], "days": 9} | fields
            status, answer = self.engineer.post("/tokens", body)
            self.assertEqual((status, [p["place"] for p in answer["problems"]]), (422, [place]))
        for _ in range(19):
            self.make(self.engineer)
        self.assertEqual(self.engineer.post("/tokens", {"name": "one more", "subjects": ["parts"]})[0], 422)
        self.engineer.post(f"/tokens/{self.made['id']}/revoke", {})
        self.make(self.engineer)
