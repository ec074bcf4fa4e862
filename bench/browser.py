"""The sheet of a large product in a real browser: from its address to its first rows, against an empty page of the application."""

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

from bench.measure import DAY, report

__all__ = ["first_rows_in_a_browser"]

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


def first_rows_in_a_browser() -> bool:
    """Median of five of each, in turn; the browser has the program in its cache, the server has the product once."""
    from django.contrib.auth.models import User
    from playwright.sync_api import sync_playwright

    from bench.catalogue import TOP

    # Playwright runs an event loop in this thread, for which Django would refuse to touch the database.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    name, password = "bench-browser", secrets.token_urlsafe(16)
    User.objects.filter(username=name).delete()
    User.objects.create_user(name, password=password)
    taken: dict[str, list[float]] = {_EMPTY: [], _ROWS: []}
    with _served() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.add_init_script(_WATCH % [_EMPTY, _ROWS])
        page.goto(address)
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(password)
        page.keyboard.press("Enter")
        page.get_by_text("sign out").wait_for()
        for turn in range(6):
            for path, selector in (("/partners", _EMPTY), (f"/sheets/{TOP}?day={DAY}", _ROWS)):
                page.goto(address + path)
                page.wait_for_selector(selector, timeout=60_000)
                # What the page still asks for must not meet the next one.
                page.wait_for_load_state("networkidle")
                # The first of each fills the caches.
                if turn:
                    taken[selector].append(page.evaluate("selector => window.firstSeen[selector]", selector))
        browser.close()
    User.objects.filter(username=name).delete()
    empty, rows = (statistics.median(taken[s]) for s in (_EMPTY, _ROWS))
    return report(
        "first rows of a sheet of 10,000 lines in the browser / an empty page of the application",
        rows / empty,
        "at most 3",
        rows / empty <= 3,
        f"{rows:.0f} ms and {empty:.0f} ms",
    )
