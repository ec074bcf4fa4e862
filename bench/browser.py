"""The sheet of a large product in a real browser: from its address to its first rows, an edit until its figures are drawn, and scrolling."""

import os
import secrets
import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from bench.measure import DAY, report

__all__ = ["first_rows_in_a_browser", "typing_and_scrolling_in_a_browser"]

_SERVER = Path(__file__).resolve().parent.parent / "server"
#: When an element first stands on the page, by the Performance API; milliseconds since the address was asked for.
_WATCH = """
window.firstSeen = {};
const look = () => {
  for (const selector of %s)
    if (!(selector in window.firstSeen) && document.querySelector(selector)) window.firstSeen[selector] = performance.now();
};
new MutationObserver(look).observe(document, { childList: true, subtree: true });
"""
_EMPTY, _ROWS = "main h1", "[role=treegrid] [role=row][aria-rowindex='3']"


@contextmanager
def _served() -> Iterator[str]:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "tally_site.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "1", "--threads", "8"],
        cwd=_SERVER,
        env=os.environ,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(100):
            with suppress(OSError):
                urllib.request.urlopen(f"{address}/", timeout=2)
                break
            time.sleep(0.1)
        yield address
    finally:
        server.terminate()
        server.wait()


@contextmanager
def _page(watch: str) -> Iterator[tuple[str, Any]]:
    """An address, and a page of somebody who is signed in there as an engineer; ``watch`` runs before each document."""
    from accounts.access import make_groups
    from django.contrib.auth.models import Group, User
    from playwright.sync_api import sync_playwright

    # Playwright runs an event loop in this thread, for which Django would refuse to touch the database.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    name, password = "bench-browser", secrets.token_urlsafe(16)
    make_groups()
    User.objects.filter(username=name).delete()
    User.objects.create_user(name, password=password).groups.add(Group.objects.get(name="engineer"))
    try:
        with _served() as address, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"])
            page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.add_init_script(watch)
            page.goto(address)
            page.get_by_label("Name").fill(name)
            page.get_by_label("Password").fill(password)
            page.keyboard.press("Enter")
            page.get_by_text("sign out").wait_for()
            yield address, page
            browser.close()
    finally:
        User.objects.filter(username=name).delete()


def first_rows_in_a_browser() -> bool:
    """Median of five of each, in turn; the browser has the program in its cache, the server has the product once."""
    from bench.catalogue import TOP

    taken: dict[str, list[float]] = {_EMPTY: [], _ROWS: []}
    with _page(_WATCH % [_EMPTY, _ROWS]) as (address, page):
        for turn in range(6):
            for path, selector in (("/partners", _EMPTY), (f"/sheets/{TOP}?day={DAY}", _ROWS)):
                page.goto(address + path)
                page.wait_for_selector(selector, timeout=60_000)
                # What the page still asks for must not meet the next one.
                page.wait_for_load_state("networkidle")
                # The first of each fills the caches.
                if turn:
                    taken[selector].append(page.evaluate("selector => window.firstSeen[selector]", selector))
    empty, rows = (statistics.median(taken[s]) for s in (_EMPTY, _ROWS))
    return report(
        "first rows of a sheet of 10,000 lines in the browser / an empty page of the application",
        rows / empty,
        "at most 3",
        rows / empty <= 3,
        f"{rows:.0f} ms and {empty:.0f} ms",
    )


#: From what the Performance API says of the answer to an edit until its cost is painted: a message to oneself out of the frame in which it
#: first stands comes once that frame is painted (common practice). And the longest frame while one scrolls.
_DRAWN = """
window.drawn = 0; window.frames = [];
window.whenCostChanges = () => {
  const at = document.querySelector('[title="Open its working"]'), before = at.textContent;
  const look = () => {
    if (document.querySelector('[title="Open its working"]').textContent === before) return requestAnimationFrame(look);
    const painted = new MessageChannel();
    painted.port1.onmessage = () => { window.drawn = performance.now(); };
    painted.port2.postMessage(null);
  };
  requestAnimationFrame(look);
};
window.watchFrames = () => {
  let last = performance.now();
  const next = (now) => { window.frames.push(now - last); last = now; requestAnimationFrame(next); };
  requestAnimationFrame(next);
};
"""
_FRAME = 1000 / 60


def typing_and_scrolling_in_a_browser(lines: int) -> list[bool]:
    """An edit of the large product, from its answer to the frame with the new cost; and 10,000 lines under the wheel, frame by frame."""
    from bench.catalogue import TOP, flat_sheet

    with flat_sheet(lines) as flat, _page(_DRAWN) as (address, page):
        frames = _scrolled(page, address, flat)
        behind = _typed(page, address, TOP)
    late = statistics.median(behind)
    longest = max(frames)
    return [
        report(
            "frames from the answer to an edit until its cost is drawn, in a product of 10,000 lines",
            late / _FRAME,
            "at most 2",
            late / _FRAME <= 2,
            f"{late:.0f} ms, median of {len(behind)}",
        ),
        report(
            f"longest frame while {lines:,} lines of one sheet are scrolled, ms",
            longest,
            "at most 50",
            longest <= 50,
            f"{len(frames)} frames, {sum(f > 50 for f in frames)} of them longer, median {statistics.median(frames):.0f} ms",
        ),
    ]


def _scrolled(page: Any, address: str, number: str) -> list[float]:
    page.goto(f"{address}/sheets/{number}?day={DAY}")
    page.wait_for_selector(_ROWS, timeout=60_000)
    page.wait_for_load_state("networkidle")
    page.get_by_role("treegrid").hover()
    page.wait_for_timeout(500)
    page.evaluate("watchFrames()")
    for _ in range(120):
        page.mouse.wheel(0, 900)
        page.wait_for_timeout(16)
    return list(page.evaluate("window.frames"))[1:]


def _typed(page: Any, address: str, number: str) -> list[float]:
    from django.contrib.auth.models import User
    from verbs.sheets.drop_draft import drop_draft
    from verbs.sheets.open_sheet import open_sheet

    user = User.objects.get(username="bench-browser")
    sheet = open_sheet(user, number)
    behind = []
    try:
        page.goto(f"{address}/sheets/{number}?day={DAY}&drafts=1")
        page.wait_for_selector(_ROWS, timeout=60_000)
        page.wait_for_load_state("networkidle")
        page.get_by_role("treegrid").focus()
        for key in ("Control+Home", "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight"):
            page.keyboard.press(key)
        for turn in range(6):
            page.evaluate("window.drawn = 0; performance.clearResourceTimings(); whenCostChanges()")
            page.keyboard.type(str(2 + turn))
            page.keyboard.press("Enter")
            # Not by a function of the page: its policy lets nothing be evaluated in there.
            while not page.evaluate("window.drawn"):
                page.wait_for_timeout(20)
            ended = page.evaluate("performance.getEntriesByType('resource').filter((e) => e.name.includes('/edits')).at(-1).responseEnd")
            if turn:
                behind.append(max(page.evaluate("window.drawn") - ended, 0.0))
            page.get_by_text("saved", exact=True).wait_for()
            page.keyboard.press("ArrowUp")
    finally:
        sheet.refresh_from_db()
        drop_draft(user, sheet.pk, sheet.version)
    return behind
