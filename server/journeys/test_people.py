"""The administrator adds somebody, who signs in, chooses a password, and is locked out while at work."""

import json
import tempfile
from pathlib import Path

from accounts.models import Token
from accounts.tests.test_second import code_of
from outside.tests.standing import running
from playwright.sync_api import Page, expect
from testing import load, rod_and_tube

from journeys.browser import Journey, keys
from standins.sign_on import CLIENT, SECRET, Server


class People(Journey):
    def test_somebody_comes_is_given_a_role_and_goes(self) -> None:
        load(rod_and_tube())
        page = self.sign_in("administrator", to="/people")
        table = page.get_by_role("table")
        page.get_by_role("button", name="Add somebody").click()
        panel = page.get_by_role("dialog", name="Add somebody")
        keys(page, "nora", "Tab", "Nora Vane", "Tab", "12345678", "Tab")
        panel.get_by_label("buyer").check()
        panel.get_by_role("button", name="Add them").click()
        # Too easy to guess is said at its field, and what was typed stays.
        expect(panel.get_by_role("alert")).to_contain_text("too common")
        panel.get_by_label("First password").fill("quay-side-mooring")
        self.check_access(page, "somebody new")
        panel.get_by_role("button", name="Add them").click()
        expect(page.get_by_text("nora may sign in now.")).to_be_visible()
        done = page.get_by_role("region", name="What was done")
        expect(done).to_contain_text("nora added as buyer")
        self.check_access(page, "people")

        other = self.somebody_else("nora", "quay-side-mooring", own="mooring-at-a-buoy")
        self.of_their_own(other)
        self.with_a_code(other)

        # Another role holds from the next thing she asks; locked out, she is out.
        page.reload()
        table.get_by_role("button", name="nora").click()
        who = page.get_by_role("dialog", name="Nora Vane")
        who.get_by_label("engineer").check()
        who.get_by_role("button", name="Save name and roles").click()
        expect(page.get_by_text("Saved what nora may do.")).to_be_visible()
        self.check_access(page, "a person")
        # The device is lost: she signs in by password alone again.
        who.get_by_role("button", name="Take their second factor away").click()
        expect(page.get_by_text("nora has no second factor any more, and is signed out.")).to_be_visible()
        expect(who.get_by_role("button", name="Take their second factor away")).to_have_count(0)
        who.get_by_role("button", name="Lock this account").click()
        expect(page.get_by_text("nora is locked out, from this moment.")).to_be_visible()
        expect(who.get_by_role("button", name="Open this account again")).to_be_visible()
        keys(page, "Escape")
        expect(done).to_contain_text("nora buyer before, engineer, buyer now")
        expect(done).to_contain_text("nora is locked out")
        other.reload()
        expect(other.get_by_role("button", name="Sign in")).to_be_visible()

    def test_somebody_comes_by_the_companys_own_sign_on(self) -> None:
        load(rod_and_tube())
        file = Path(tempfile.mkdtemp()) / "services.json"
        with running(Server(0)) as at, self.settings(SERVICES=str(file)):
            held = {"words": "the yard's sign-on", "issuer": at.rstrip("/"), "client": CLIENT, "secret": SECRET, "makes_people": True}
            roles = {"groups": "groups", "roles": {"yard-purchasing": "buyer"}}
            file.write_text(json.dumps({"format": 1, "sign_on": held | roles}))
            file.chmod(0o600)
            page = self.page()
            page.goto(f"{self.live_server_url}/")
            page.get_by_role("button", name="Come in by the yard's sign-on").click()
            page.get_by_role("button", name="Nobody, go back").click()
            expect(page.get_by_role("alert")).to_contain_text("You came back from the yard's sign-on without signing in.")
            self.check_access(page, "signing in by a sign-on")
            page.get_by_role("button", name="Come in by the yard's sign-on").click()
            page.get_by_role("button", name="Tom Fenner").click()
            expect(page.get_by_role("button", name="Tom Fenner · sign out")).to_be_visible()
            page.get_by_role("button", name="Account", exact=True).click()
            own = page.get_by_role("dialog", name="Your account")
            expect(own).to_contain_text("You come in by the yard's sign-on, and have no password here.")
            expect(own.get_by_label("Password of now")).to_have_count(0)
            self.check_access(page, "an account by a sign-on")
            self.come_again_beside(page)
            # Who has no password here would not come in any more.
            own.get_by_role("button", name="Come by it no more").click()
            expect(own.get_by_role("alert")).to_contain_text("You have no password here")
            keys(page, "Escape")
            page.get_by_role("button", name="sign out").click()
            expect(page.get_by_role("button", name="Come in by the yard's sign-on")).to_be_visible()

    def come_again_beside(self, page: Page) -> None:
        """The session ends while somebody types who has no password here: the sign-on is gone to in another window, and this one goes on."""
        own = page.get_by_role("dialog", name="Your account")
        own.get_by_label("What it is for").fill("nightly list")
        own.get_by_label("parts", exact=True).check()
        page.context.clear_cookies()
        own.get_by_role("button", name="Make the token").click()
        again = page.get_by_role("dialog", name="Your session has ended")
        expect(again.get_by_label("Password")).to_have_count(0)
        for who, then in (("Ines Rove", "In this browser ines is signed in now"), ("Tom Fenner", "")):
            with page.context.expect_page() as opened:
                again.get_by_role("button", name="Come in by the yard's sign-on").click()
            beside = opened.value
            beside.get_by_role("button", name=who).click()
            expect(beside.get_by_role("button", name=f"{who} · sign out")).to_be_visible()
            if then:
                expect(again.get_by_role("alert")).to_contain_text(then)
                self.check_access(page, "coming in again by a sign-on")
                # Who closes the question and presses again does not write under the other's name.
                keys(page, "Escape")
                own.get_by_role("button", name="Make the token").click()
                expect(again.get_by_role("alert")).to_contain_text(then)
                expect(page.get_by_text("In this browser ines is signed in now, and nothing was saved.")).to_be_attached()
                self.assertFalse(Token.objects.exists())
                beside.get_by_role("button", name="sign out").click()
                expect(beside.get_by_role("button", name="Come in by the yard's sign-on")).to_be_visible()
            beside.close()
        expect(again).to_have_count(0)
        own.get_by_role("button", name="Make the token").click()
        expect(own.get_by_label("The token")).to_be_visible()

    def somebody_else(self, name: str, password: str, own: str) -> Page:
        """Signs in with a password that was given, which opens nothing but the choice of another."""
        other = self.page()
        other.goto(f"{self.live_server_url}/today")
        other.get_by_label("Name").wait_for()
        keys(other, name, "Tab", password, "Enter")
        expect(other.get_by_role("heading", name="A password of your own")).to_be_visible()
        expect(other.get_by_label("The password you were given")).to_be_focused()
        keys(other, password, "Tab", "roundtally26", "Enter")
        expect(other.get_by_role("alert")).to_contain_text("words of this place")
        self.check_access(other, "a first password")
        other.get_by_label("A password of your own").fill(own)
        keys(other, "Enter")
        expect(other.get_by_role("navigation", name="Screens")).to_be_visible()
        return other

    def of_their_own(self, page: Page) -> None:
        """What is for administrators is not shown; one's own password is changed with the session going on."""
        expect(page.get_by_role("link", name="People", exact=True)).to_have_count(0)
        page.get_by_role("button", name="Account", exact=True).click()
        own = page.get_by_role("dialog", name="Your account")
        own.get_by_label("Password of now").fill("wrong")
        own.get_by_label("New password").fill("mooring-at-the-quay")
        own.get_by_role("button", name="Change my password").click()
        expect(own.get_by_role("alert")).to_contain_text("not the password of now")
        own.get_by_label("Password of now").fill("mooring-at-a-buoy")
        own.get_by_role("button", name="Change my password").click()
        expect(page.get_by_text("Your password is another one. Nothing else was open.")).to_be_visible()
        self.check_access(page, "one's own account")
        here = own.get_by_role("list", name="Where you are signed in").get_by_role("listitem")
        expect(here).to_have_count(1)
        expect(here).to_contain_text("Here, since")
        keys(page, "Escape")
        page.goto(f"{self.live_server_url}/people")
        expect(page.get_by_role("alert")).to_contain_text("for somebody who is administrator")

    def with_a_code(self, page: Page) -> None:
        """A second factor set up and signed in with, beside the password."""
        page.get_by_role("button", name="Account", exact=True).click()
        own = page.get_by_role("dialog", name="Your account")
        own.get_by_label("Your password").fill("mooring-at-the-quay")
        own.get_by_role("button", name="Set it up").click()
        secret = own.get_by_label("The secret").inner_text()
        self.check_access(page, "a second factor")
        own.get_by_label("The code it shows now").fill("12")
        own.get_by_role("button", name="Sign in with it from now on").click()
        expect(own.get_by_role("alert")).to_contain_text("does not hold")
        # Whoever types a wrong one waits a moment; what was shown just before is taken, too.
        page.wait_for_timeout(1100)
        own.get_by_label("The code it shows now").fill(code_of(secret, -1))
        own.get_by_role("button", name="Sign in with it from now on").click()
        codes = own.get_by_role("list", name="Codes for the day it is lost")
        expect(codes.get_by_role("listitem")).to_have_count(8)
        spare = codes.get_by_role("listitem").first.inner_text()
        own.get_by_role("button", name="I keep them").click()
        expect(own).to_contain_text("8 codes for the day it is lost are left")
        keys(page, "Escape")
        for code in (code_of(secret), spare):
            page.get_by_role("button", name="sign out").click()
            page.get_by_label("Name").wait_for()
            keys(page, "nora", "Tab", "mooring-at-the-quay", "Enter")
            expect(page.get_by_label("Code of your second factor")).to_be_focused()
            self.check_access(page, "signing in with a code")
            keys(page, code, "Enter")
            expect(page.get_by_role("navigation", name="Screens")).to_be_visible()
