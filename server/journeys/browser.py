"""A real browser on the real application: what the journeys share."""

import os
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.core.management.base import CommandError
from django.db import OperationalError, connection
from django.test import LiveServerTestCase
from playwright.sync_api import ConsoleMessage, Page, Response, Route, expect, sync_playwright
from testing import PASSWORD, person

__all__ = ["Journey", "answer_lost", "keys"]

# Playwright runs an event loop of its own in this thread, for which Django would refuse to touch the database.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
_AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
_TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


class Journey(LiveServerTestCase):
    """Opens Debian's Chromium at 1280×800; a page that logs an error, or is answered by a failure of the server, fails its test."""

    serialized_rollback = False

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path="/usr/bin/chromium", args=_ARGUMENTS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        self.errors: list[str] = []
        expect.set_options(timeout=10_000)

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [])

    def _fixture_teardown(self) -> None:
        # The pages are closed by now, and what they asked for last may still be answered: tables are not emptied beneath it.
        end = time.monotonic() + 20
        while self._still_answering() and time.monotonic() < end:
            time.sleep(0.05)
        for left in (4, 3, 2, 1, 0):
            try:
                return super()._fixture_teardown()
            except (OperationalError, CommandError):
                # A request that began between the look and the emptying holds a table; it ends by itself.
                if not left:
                    raise
                time.sleep(0.5)

    def _still_answering(self) -> bool:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid() "
                "AND backend_type = 'client backend' AND state <> 'idle'"
            )
            return bool(cursor.fetchone()[0])

    def page(self) -> Page:
        """A page in a browser of its own, not signed in."""
        context = self.browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        self.addCleanup(context.close)
        page = context.new_page()
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("response", self._heed)
        page.on("console", self._hear)
        return page

    def _heed(self, response: Response) -> None:
        if response.status >= 500:
            self.errors.append(f"{response.status} {response.url}")

    def _hear(self, message: ConsoleMessage) -> None:
        # That a request was refused is an answer; the browser tells of it as of an error.
        if message.type == "error" and not message.text.startswith("Failed to load resource"):
            self.errors.append(message.text)

    def sign_in(self, role: str = "engineer", to: str = "/sheets") -> Page:
        """A page of a signed-in person, at an address."""
        person(role)
        page = self.page()
        page.goto(f"{self.live_server_url}{to}")
        expect(page.get_by_label("Name")).to_be_focused()
        page.keyboard.type(role)
        page.keyboard.press("Tab")
        page.keyboard.type(PASSWORD)
        page.keyboard.press("Enter")
        expect(page.get_by_role("navigation", name="Screens")).to_be_visible()
        return page

    def check_access(self, page: Page, where: str) -> None:
        """Nothing serious or critical by axe-core, against WCAG 2.2 AA."""
        # What is being asked for anew stands pale for a moment.
        expect(page.locator("[aria-busy=true]")).to_have_count(0)
        # The policy of the application lets no foreign script in; the tester comes in beside it.
        page.evaluate(_AXE.read_text())
        told = self._told_by_axe(page, where)
        if told:
            # It may have been asked for anew just then: what is wrong stays wrong.
            page.wait_for_timeout(800)
            expect(page.locator("[aria-busy=true]")).to_have_count(0)
            told = self._told_by_axe(page, where)
        self.assertEqual(told, [], "\n".join(told))

    @staticmethod
    def _told_by_axe(page: Page, where: str) -> list[str]:
        found: dict[str, Any] = page.evaluate("tags => axe.run(document, {runOnly: {type: 'tag', values: tags}})", _TAGS)
        return [
            f"{where}: {v['id']} ({v['impact']}): {n['html'][:160]} {n.get('failureSummary', '')[:200]}"
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
            for n in v["nodes"][:3]
        ]


_TAKES_TEXT = """() => document.activeElement?.matches(
  "input, textarea, select, [contenteditable=true], [role=treegrid], [role=grid]") ?? false"""


@contextmanager
def answer_lost(page: Page, address: str) -> Iterator[None]:
    """What is asked of an address within has its answer lost on its way: it is done, and the browser does not know."""

    def lose(route: Route) -> None:
        route.fetch()
        route.abort()

    page.route(address, lose, times=1)
    # What is asked for may take its time where others work beside.
    with page.expect_event("requestfailed", timeout=60_000):
        yield


def keys(page: Page, *presses: str) -> None:
    """
    Press keys; what is longer than the name of a key is typed. Like somebody who looks, it types words only once something
    takes them: what a button opens may come a moment later on a busy machine.
    """
    named = ("Enter", "Tab", "Escape", "Space", "Delete", "Home", "End")
    for press in presses:
        if press in named or press.startswith(("Arrow", "Control+", "Alt+", "Shift+")):
            page.keyboard.press(press)
        else:
            if len(press) > 1:
                page.wait_for_function(_TAKES_TEXT)
            page.keyboard.type(press)
