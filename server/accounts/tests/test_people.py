"""People: added, given roles, locked out; passwords and sessions; what is refused, and what is noted of it."""

from axes.utils import reset
from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from testing import PASSWORD, Api, load, rod_and_tube

from accounts.models import FirstPassword, Noted

GOOD = "quay-side-mooring"


class People(TestCase):
    def setUp(self) -> None:
        self.admin = Api("administrator")

    def person(self, name: str) -> dict:
        return next(p for p in self.admin.get("/people")[1]["people"] if p["name"] == name)

    def add(self, **more: object) -> tuple[int, dict]:
        return self.admin.post("/people", {"name": "nora", "full_name": "Nora Vane", "roles": ["buyer"], "password": GOOD} | more)

    def signed_in(self, name: str, password: str) -> Client:
        """Somebody's browser, whose password counts as one of their own."""
        FirstPassword.objects.all().delete()
        client = Client()
        client.get("/api/session")
        said = client.post("/api/session", {"user": name, "password": password}, content_type="application/json")
        client.said = said.status_code  # type: ignore[attr-defined]
        return client

    def test_somebody_new_signs_in_and_may_what_the_role_may(self) -> None:
        load(rod_and_tube())
        self.assertEqual(self.add()[0], 200)
        nora = self.signed_in("nora", GOOD)
        refused = nora.get("/api/session").json()["refused"]
        self.assertEqual(("parts" in refused, "sheets" in refused, "people" in refused), (False, True, True))
        self.assertIsNotNone(self.person("nora")["last_here"])
        # Another role, and it is so at once, in the session that is open.
        self.assertEqual(self.admin.post("/people/change", {"name": "nora", "roles": ["engineer", "viewer"]})[0], 200)
        self.assertNotIn("sheets", nora.get("/api/session").json()["refused"])
        self.assertEqual(self.person("nora")["roles"], ["engineer", "viewer"])
        self.assertEqual(
            [(n.by, n.person, n.what) for n in Noted.objects.all()],
            [
                ("administrator", "nora", "buyer before, engineer, viewer now"),
                ("nora", "nora", "signed in"),
                ("administrator", "nora", "added as buyer"),
            ],
        )

    def test_who_is_locked_out_is_out_at_once(self) -> None:
        self.add()
        nora = self.signed_in("nora", GOOD)
        self.assertEqual(nora.get("/api/parts").status_code, 200)
        self.assertEqual(self.admin.post("/people/change", {"name": "nora", "active": False})[0], 200)
        self.assertEqual(nora.get("/api/parts").status_code, 401)
        self.assertEqual(self.signed_in("nora", GOOD).said, 422)
        self.admin.post("/people/change", {"name": "nora", "active": True})
        self.assertEqual(self.signed_in("nora", GOOD).said, 200)

    def test_passwords_and_sessions(self) -> None:
        self.add()
        here, elsewhere = self.signed_in("nora", GOOD), self.signed_in("nora", GOOD)
        post = {"content_type": "application/json"}
        wrong = here.post("/api/people/own-password", {"old": "guess", "password": "another-good-one"}, **post)
        self.assertEqual((wrong.status_code, wrong.json()["problems"][0]["place"]), (422, "old"))
        with self.settings(AXES_FAILURE_LIMIT=3):
            said = [
                here.post("/api/people/own-password", {"old": f"guess {n}", "password": GOOD}, **post).json()["message"] for n in range(3)
            ]
            self.assertIn("Too many wrong tries", said[-1])
            reset()
        weak = here.post("/api/people/own-password", {"old": GOOD, "password": "12345"}, **post)
        self.assertEqual((weak.status_code, weak.json()["problems"][0]["place"]), (422, "password"))
        done = here.post("/api/people/own-password", {"old": GOOD, "password": "another-good-one"}, **post)
        self.assertEqual((done.status_code, done.json()), (200, {"sessions": 1}))
        self.assertEqual((here.get("/api/parts").status_code, elsewhere.get("/api/parts").status_code), (200, 401))
        # Lost: the administrator gives another one, and whoever had found the old one is out.
        self.assertEqual(self.admin.post("/people/password", {"name": "nora", "password": GOOD})[0], 200)
        self.assertEqual(here.get("/api/parts").status_code, 401)
        again, other = self.signed_in("nora", GOOD), self.signed_in("nora", GOOD)
        self.assertEqual(again.post("/api/people/own-sessions", **post).json(), {"sessions": 1})
        self.assertEqual((again.get("/api/parts").status_code, other.get("/api/parts").status_code), (200, 401))
        self.assertEqual(self.admin.post("/people/sessions", {"name": "nora"})[1], {"sessions": 1})
        self.assertEqual(again.get("/api/parts").status_code, 401)
        self.assertEqual(again.post("/api/people/sessions", {"name": "administrator"}, **post).status_code, 401)
        nora = self.signed_in("nora", GOOD)
        self.assertEqual(nora.post("/api/people/sessions", {"name": "administrator"}, **post).status_code, 403)

    def test_what_is_wrong_is_said_by_its_field_and_nothing_is_saved(self) -> None:
        self.add()
        for more, place in (
            ({"name": "Nora"}, "name"),
            ({"name": ""}, "name"),
            ({"name": "a b"}, "name"),
            ({"name": "x" * 61}, "name"),
            ({"name": "o", "roles": ["king"]}, "roles"),
            ({"name": "o", "password": "o" * 1001}, "password"),
            ({"name": "o", "password": "password"}, "password"),
            ({"name": "o", "full_name": "a\nb"}, "full_name"),
        ):
            status, said = self.add(**more)
            self.assertEqual((status, said["problems"][0]["place"]), (422, place), more)
        self.assertEqual(get_user_model().objects.count(), 2)
        self.assertEqual(self.admin.post("/people/change", {"name": "nobody", "active": False})[0], 404)
        self.assertEqual(Noted.objects.count(), 1)

    def test_somebody_stays_who_may_do_this(self) -> None:
        for change in ({"active": False}, {"roles": ["viewer"]}):
            status, said = self.admin.post("/people/change", {"name": "administrator"} | change)
            self.assertEqual(status, 422)
            self.assertIn("make another administrator first", said["message"])
        self.assertEqual(self.person("administrator")["roles"], ["administrator"])
        self.add(roles=["administrator"])
        self.assertEqual(self.admin.post("/people/change", {"name": "administrator", "roles": ["viewer"]})[0], 200)
        # From now on that is nothing for them any more.
        self.assertEqual(self.admin.get("/people")[0], 403)

    def test_who_has_all_rights_is_out_of_reach_of_who_has_not(self) -> None:
        get_user_model().objects.create_superuser("root", password=PASSWORD)
        self.assertEqual(self.admin.post("/people/password", {"name": "root", "password": GOOD})[0], 422)
        self.assertEqual(self.admin.post("/people/change", {"name": "root", "active": False})[0], 422)
        self.assertEqual(self.signed_in("root", PASSWORD).said, 200)
        self.assertTrue(self.person("root")["all_rights"])

    def test_only_administrators_see_who_is_here(self) -> None:
        for role in ("engineer", "accountant", "buyer", "shop", "viewer"):
            self.assertEqual(Api(role).get("/people")[0], 403)
        with self.assertNumQueries(9):
            self.admin.get("/people")
