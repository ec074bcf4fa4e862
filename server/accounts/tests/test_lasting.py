"""How long a session lasts, which ones are open, and what a password opens that somebody else gave."""

import time
from datetime import timedelta
from unittest.mock import patch

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.utils.timezone import now
from testing import PASSWORD, Api, person

from accounts import lasting
from accounts.models import FirstPassword, Noted

GIVEN, OWN = "quay-side-mooring", "a-rope-of-their-own"


def signed_in(name: str, password: str, **more: str) -> tuple[Client, int, dict]:
    client = Client(**more)
    said = client.post("/api/session", {"user": name, "password": password}, content_type="application/json")
    return client, said.status_code, said.json()


class Lasting(TestCase):
    def setUp(self) -> None:
        person("engineer")

    def at(self, hours: float):
        """A clock that many hours ahead, where sessions look at it."""
        return patch.object(lasting.time, "time", return_value=time.time() + hours * 3600)

    def test_hours_without_a_request_end_it_and_requests_keep_it(self) -> None:
        client, _, _ = signed_in("engineer", PASSWORD)
        idle = settings.SESSION_IDLE_SECONDS / 3600
        for hours in (idle * 0.9, idle * 1.8):
            with self.at(hours):
                self.assertEqual(client.get("/api/parts").status_code, 200)
        with self.at(idle * 2.9):
            self.assertEqual(client.get("/api/session").json()["user"], "")
        # It is gone, and not only then.
        self.assertEqual(client.get("/api/parts").status_code, 401)

    def test_days_end_it_whatever_is_done_in_it(self) -> None:
        client, _, _ = signed_in("engineer", PASSWORD)
        most, step = settings.SESSION_COOKIE_AGE / 3600, settings.SESSION_IDLE_SECONDS / 3600 * 0.9
        hours = 0.0
        while (hours := hours + step) < most:
            with self.at(hours):
                self.assertEqual(client.get("/api/parts").status_code, 200)
        with self.at(most + 0.1):
            self.assertEqual(client.get("/api/parts").status_code, 401)

    def test_that_it_is_in_use_is_kept_every_five_minutes_and_not_with_each_request(self) -> None:
        client, _, _ = signed_in("engineer", PASSWORD)
        for minutes, writes in ((1, 0), (4.9, 0), (5.1, 1), (5.2, 0)):
            with self.at(minutes / 60), CaptureQueriesContext(connection) as seen:
                client.get("/api/session")
            self.assertEqual(sum("UPDATE" in q["sql"] for q in seen.captured_queries), writes, minutes)

    def test_one_sees_where_one_is_signed_in_and_ends_it_there(self) -> None:
        here, _, _ = signed_in("engineer", PASSWORD, REMOTE_ADDR="192.0.2.1", headers={"User-Agent": "one"})
        there, _, _ = signed_in("engineer", PASSWORD, REMOTE_ADDR="192.0.2.2", headers={"User-Agent": "other"})
        signed_in("engineer", PASSWORD)
        person("buyer")
        somebody, _, _ = signed_in("buyer", PASSWORD)
        found = here.get("/api/people/own-sessions").json()
        self.assertEqual(len(found), 3)
        mine = next(s for s in found if s["here"])
        self.assertEqual((mine["place"], mine["program"]), ("192.0.2.1", "one"))
        # By its name a session cannot be opened.
        self.assertFalse(Session.objects.filter(session_key__in=[s["name"] for s in found]).exists())
        name = next(s["name"] for s in found if s["place"] == "192.0.2.2")
        post = {"content_type": "application/json"}
        self.assertEqual(somebody.post("/api/people/own-sessions", {"name": name}, **post).json(), {"sessions": 0})
        self.assertEqual(here.post("/api/people/own-sessions", {"name": mine["name"]}, **post).json(), {"sessions": 0})
        self.assertEqual(here.post("/api/people/own-sessions", {"name": name}, **post).json(), {"sessions": 1})
        self.assertEqual((here.get("/api/parts").status_code, there.get("/api/parts").status_code), (200, 401))
        with self.at(settings.SESSION_IDLE_SECONDS / 3600 + 1):
            self.assertEqual(lasting.open_sessions(person("engineer")), [])

    def test_sessions_that_ran_out_go_when_somebody_signs_in(self) -> None:
        signed_in("engineer", PASSWORD)
        Session.objects.update(expire_date=now() - timedelta(days=1))
        signed_in("engineer", PASSWORD)
        self.assertEqual(Session.objects.count(), 1)


class FirstPasswords(TestCase):
    def setUp(self) -> None:
        self.admin = Api("administrator")
        self.admin.post("/people", {"name": "nora", "full_name": "Nora Vane", "roles": ["engineer"], "password": GIVEN})

    def test_a_given_password_opens_nothing_but_the_choice_of_ones_own(self) -> None:
        nora, status, said = signed_in("nora", GIVEN)
        self.assertEqual((status, said["wants_password"]), (200, True))
        for path in ("/api/parts", "/api/people/own-sessions", "/api/tokens"):
            self.assertEqual(nora.get(path).status_code, 403, path)
        post = {"content_type": "application/json"}
        self.assertIn("choose one of your own", nora.post("/api/parts", {"number": "X"}, **post).json()["message"])
        same = nora.post("/api/people/own-password", {"old": GIVEN, "password": GIVEN}, **post)
        self.assertEqual((same.status_code, same.json()["problems"][0]["place"]), (422, "password"))
        self.assertEqual(nora.post("/api/people/own-password", {"old": GIVEN, "password": OWN}, **post).status_code, 200)
        self.assertEqual((nora.get("/api/parts").status_code, nora.get("/api/session").json()["wants_password"]), (200, False))
        self.assertFalse(signed_in("nora", OWN)[2]["wants_password"])

    def test_it_runs_out_and_another_one_is_asked_for_again(self) -> None:
        FirstPassword.objects.update(given_at=now() - timedelta(days=7, minutes=1))
        _, status, said = signed_in("nora", GIVEN)
        self.assertEqual((status, said["problems"][0]["place"]), (422, "password"))
        self.assertIn("more than 7 days ago", said["message"])
        self.assertFalse(Session.objects.filter(session_data__contains="nora").exists())
        self.admin.post("/people/password", {"name": "nora", "password": OWN})
        self.assertTrue(signed_in("nora", OWN)[2]["wants_password"])

    def test_words_of_the_place_are_no_password(self) -> None:
        for password, taken in (
            ("RoundTally2026!", False),
            ("costing-costing-1", False),
            ("nora-vane-1", False),
            ("tally of the old harbour", True),
            ("x" * 64, True),
            ("quayside9", False),
        ):
            name = f"n{abs(hash(password))}"
            status, said = self.admin.post("/people", {"name": name, "full_name": "Nora Vane", "roles": [], "password": password})
            self.assertEqual(status == 200, taken, (password, said))
        self.assertEqual(get_user_model().objects.filter(username__startswith="n").exclude(username="nora").count(), 2)

    def test_wrong_passwords_are_noted_with_where_they_came_from_until_the_door_is_closed(self) -> None:
        for _ in range(settings.AXES_FAILURE_LIMIT + 5):
            signed_in("nora", "wrong", REMOTE_ADDR="192.0.2.7")
        noted = Noted.objects.filter(person="nora", what="wrong password")
        self.assertEqual({n.by for n in noted}, {"192.0.2.7"})
        self.assertLessEqual(noted.count(), settings.AXES_FAILURE_LIMIT)
        self.assertGreater(noted.count(), settings.AXES_FAILURE_LIMIT - 2)
