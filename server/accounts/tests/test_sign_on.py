"""Coming in by a company's own sign-on, against a stand-in that speaks OpenID Connect, and what does not hold of its answers.

OpenID Connect Core 1.0, 3.1.3.7 (what is checked of a token: its issuer, its audience, its key, its nonce), RFC 7636 (PKCE) and RFC 8176 (``mfa``),
by their numbers from memory; the client is Authlib's, the stand-in is ours.
"""

import json
import os
import tempfile
from pathlib import Path
from typing import Any
from unittest.mock import patch
from urllib.parse import parse_qs, urlencode, urlsplit

import httpx
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import OperationalError
from django.test import Client, TestCase, override_settings
from outside import sign_on
from outside.tests.standing import running, switch
from testing import PASSWORD, Api, person

from accounts.models import Identity, Noted
from standins.sign_on import CLIENT, SECRET, Server


class SignOn(TestCase):
    def setUp(self) -> None:
        answering = running(Server(0))
        self.at = answering.__enter__()
        self.addCleanup(answering.__exit__, None, None, None)
        self.file = Path(tempfile.mkdtemp()) / "services.json"
        served = override_settings(SERVICES=str(self.file))
        served.enable()
        self.addCleanup(served.disable)
        self.service(makes_people=True)

    def service(self, **more: Any) -> None:
        """What stands in the file of services."""
        held = {"words": "the yard", "issuer": self.at.rstrip("/"), "client": CLIENT, "secret": SECRET} | more
        self.file.write_text(json.dumps({"format": 1, "sign_on": held}))
        os.chmod(self.file, 0o600)
        sign_on._at.cache_clear()

    def back(self, who: str, client: Client | None = None) -> tuple[Client, str]:
        """Go there, say who one is, and have the address one is sent back to."""
        client = client or Client()
        status = client.post("/api/session/sign-on")
        self.assertEqual(status.status_code, 200, status.content)
        asked = {name: values[0] for name, values in parse_qs(urlsplit(status.json()["address"]).query).items()}
        self.assertEqual((asked["client_id"], asked["code_challenge_method"]), (CLIENT, "S256"))
        self.assertEqual(asked["redirect_uri"], "http://testserver/sign-on/back")
        answer = httpx.post(f"{self.at}authorize", data=asked | {"who": who})
        self.assertEqual(answer.status_code, 303)
        return client, answer.headers["Location"]

    def come(self, who: str, client: Client | None = None) -> tuple[Client, dict[str, Any]]:
        """Go there and back, as a browser does; answers the session then."""
        client, address = self.back(who, client)
        self.assertRedirects(client.get(address), "/", fetch_redirect_response=False)
        return client, client.get("/api/session").json()

    def test_who_comes_for_the_first_time_is_made_with_the_roles_of_their_groups(self) -> None:
        roles = {"yard-drawing-office": "engineer", "yard-purchasing": "buyer", "yard-all": "king"}
        self.service(makes_people=True, groups="groups", roles=roles)
        self.assertEqual(Client().get("/api/session").json()["sign_on"], "the yard")
        ines, said = self.come("y-17")
        self.assertEqual(
            (said["user"], said["name"], "sheets" in said["refused"], said["wants_password"]), ("ines", "Ines Rove", False, False)
        )
        self.assertEqual(ines.get("/api/parts").status_code, 200)
        made = get_user_model().objects.get(username="ines")
        self.assertEqual((made.has_usable_password(), [g.name for g in made.groups.all()]), (False, ["engineer"]))
        self.assertEqual(
            [(n.by, n.what) for n in Noted.objects.filter(person="ines").order_by("pk")],
            [("the yard", "came for the first time"), ("the yard", "no role before, engineer now"), ("ines", "signed in by the yard")],
        )
        # Other groups, and it is so the next time; the same person, whatever they are called there by then.
        self.service(makes_people=True, groups="groups", roles={"yard-all": "viewer"}, name="name")
        self.assertEqual(self.come("y-17")[1]["user"], "ines")
        # What no group stands for any more is a matter of this place, and stays.
        self.assertEqual(sorted(g.name for g in made.groups.all()), ["engineer", "viewer"])
        self.service(makes_people=True, groups="groups", roles={"yard-purchasing": "viewer", "other": "engineer"})
        self.come("y-17")
        self.assertEqual(made.groups.count(), 0)
        self.assertTrue(next(p for p in Api("administrator").get("/people")[1]["people"] if p["name"] == "ines")["by_sign_on"])
        # Whoever signs out finds the way back in.
        self.assertEqual(ines.delete("/api/session").json()["sign_on"], "the yard")
        # Locked here, they are out, whatever is proven there.
        made.is_active = False
        made.save()
        self.assertEqual(
            (lambda s: (s["user"], s["sign_on_refused"]))(self.come("y-17")[1]), ("", "This account is locked; ask an administrator.")
        )

    def test_nobody_takes_an_account_over_by_its_name(self) -> None:
        person("engineer")
        client, said = self.come("y-19")
        self.assertEqual(said["user"], "")
        self.assertIn("An account engineer is here already", said["sign_on_refused"])
        # It is said once.
        self.assertEqual(client.get("/api/session").json()["sign_on_refused"], "")
        self.assertIn("by a name that nobody can have here", self.come("y-20")[1]["sign_on_refused"])
        self.service(makes_people=False)
        self.assertIn("Nobody here comes by this account of the yard yet", self.come("y-17")[1]["sign_on_refused"])
        self.assertFalse(Identity.objects.exists())
        # Who has signed in by password connects it, and comes by it from then on.
        engineer = Api("engineer")
        self.assertEqual(engineer.get("/people/own-sign-on")[1], {"words": "the yard", "connected": False, "password": True})
        self.assertEqual(self.come("y-19", engineer.client)[1]["user"], "engineer")
        self.assertTrue(engineer.get("/people/own-sign-on")[1]["connected"])
        self.assertEqual(self.come("y-19")[1]["user"], "engineer")
        # It is nobody else's then; and who comes by one does not come by another.
        self.assertIn("somebody else here already", self.come("y-19", Api("buyer").client)[1]["sign_on_refused"])
        self.assertIn("you come by another one", self.come("y-17", engineer.client)[1]["sign_on_refused"])
        self.assertEqual(engineer.post("/people/own-sign-on/drop", {})[1]["connected"], False)
        self.assertEqual(self.come("y-19")[1]["user"], "")

    def test_who_was_made_by_it_keeps_a_way_in(self) -> None:
        ines, _ = self.come("y-17")
        said = ines.post("/api/people/own-sign-on/drop")
        self.assertEqual((said.status_code, "You have no password here" in said.json()["message"]), (422, True))
        # Without a password nobody signs in by one.
        self.assertEqual(Client().post("/api/session", {"user": "ines", "password": ""}, content_type="application/json").status_code, 422)
        self.assertTrue(AccessAttempt.objects.filter(username="ines").exists())

    def test_a_second_factor_that_is_needed_here_is_asked_there(self) -> None:
        self.come("y-17")
        with override_settings(SECOND_FACTOR="everybody"):
            self.assertIn("asked you for none", self.come("y-17")[1]["sign_on_refused"])
            switch(self.at, "sign-on", "strong")
            client, said = self.come("y-17")
            self.assertEqual((said["user"], said["wants_second"]), ("ines", False))
            self.assertEqual(client.get("/api/parts").status_code, 200)

    def test_an_answer_that_does_not_hold_opens_nothing(self) -> None:
        self.come("y-17")
        for mode in ("forged", "stranger", "replayed"):
            switch(self.at, "sign-on", mode)
            _, said = self.come("y-17")
            self.assertEqual(said["user"], "", mode)
            self.assertIn("does not hold", said["sign_on_refused"], mode)
        switch(self.at, "sign-on", "well")
        # A code holds once, and only in the session that asked for it.
        client, address = self.back("y-17")
        stranger = Client()
        stranger.get(address)
        self.assertEqual(stranger.get("/api/session").json()["user"], "")
        client.get(address)
        self.assertEqual(client.get("/api/session").json()["user"], "ines")
        client.get(address)
        self.assertIn("does not hold", client.get("/api/session").json()["sign_on_refused"])
        for more in ({}, {"code": "x"}, {"state": "x"}, {"code": "x", "state": "x"}, {"error": "server_error"}):
            other = Client()
            other.get(f"/sign-on/back?{urlencode(more)}")
            self.assertEqual(other.get("/api/session").json()["user"], "", more)
        self.assertIn("without signing in", self.come("")[1]["sign_on_refused"])

    def test_who_does_not_answer_or_is_another_one_is_told_so(self) -> None:
        for mode, words in (("elsewhere", "says that it is another one"), ("down", "does not answer just now")):
            switch(self.at, "sign-on", mode)
            sign_on._at.cache_clear()
            said = Client().post("/api/session/sign-on")
            self.assertEqual((said.status_code, words in said.json()["message"]), (422, True), said.json())
        self.file.write_text("{")
        # A file that is not as it should be keeps nobody from coming in by password.
        self.assertEqual(Client().get("/api/session").json()["sign_on"], "")
        person("engineer")
        body = {"user": "engineer", "password": PASSWORD}
        self.assertEqual(Client().post("/api/session", body, content_type="application/json").json()["user"], "engineer")

    def test_who_only_knocks_leaves_nothing_for_long_and_who_comes_in_stays(self) -> None:
        client, address = self.back("y-17")
        self.assertLessEqual(client.session.get_expiry_age(), 900)
        client.get(address)
        self.assertEqual(client.session.get_expiry_age(), settings.SESSION_COOKIE_AGE)
        # Also who turns round on the way, and types a password.
        person("engineer")
        client, _ = self.back("y-18")
        client.post("/api/session", {"user": "engineer", "password": PASSWORD}, content_type="application/json")
        self.assertEqual(client.session.get_expiry_age(), settings.SESSION_COOKIE_AGE)

    def test_without_a_database_who_comes_back_is_told_so(self) -> None:
        client, address = self.back("y-17")
        with patch("accounts.coming_back.person_of", side_effect=OperationalError("gone")):
            said = client.get(address)
        self.assertEqual((said.status_code, "cannot be reached" in said.text), (503, True))

    def test_a_page_of_somebody_else_begins_nothing(self) -> None:
        said = Client(enforce_csrf_checks=True).post("/api/session/sign-on")
        self.assertEqual((said.status_code, "out of date" in said.json()["message"]), (422, True))
