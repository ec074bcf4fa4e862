"""The pictures of docs/screenshots, taken anew from the demo as it was just made: ``.venv/bin/python docs/pictures.py ADDRESS [NAME ...]``.

Views to which more leads than an address (a drawing laid out, a handover begun, a price tried) are clicked to.
"""

import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

OUT = Path(__file__).parent / "screenshots"


def _first(page: Page, address: str, by: str, value: str) -> int:
    """The key of the first of a list of the API in which a field says something."""
    return page.evaluate(
        "async ([u, by, value]) => (await (await fetch('/api' + u)).json()).find((r) => String(r[by]) === value).id", [address, by, value]
    )


def _sheet(page: Page) -> None:
    expect(page.get_by_role("treegrid")).to_be_focused()


def _inquiry(page: Page) -> None:
    page.goto(f"/inquiries/{_first(page, '/inquiries', 'number', 'I1001')}")
    page.get_by_role("row").filter(has_text="QE-1004").click()
    page.keyboard.press("b")


def _plan(page: Page) -> None:
    page.goto(f"/buying/{_first(page, '/buying/plans', 'number', 'B1001')}")
    page.get_by_role("row").filter(has_text="LNS-155").first.click()


def _round(page: Page) -> None:
    page.goto(f"/rounds/{_first(page, '/rounds', 'name', 'Standards 2027')}")
    page.get_by_role("row").filter(has_text="Harbour lantern, 155 mm").first.click()


def _order(state: str) -> Callable[[Page], None]:
    def go(page: Page) -> None:
        number = {"running": "WO-4145", "closed": "WO-4122"}[state]
        key = _first(page, "/shop/orders?which=all", "number", number)
        page.goto(f"/shop/orders/{key}")
        if state == "closed":
            page.get_by_text("What it came to").first.wait_for()
            page.mouse.move(640, 500)
            page.mouse.wheel(0, 380)

    return go


def _cutting(page: Page) -> None:
    page.goto(f"/cutting/{_first(page, '/cutting', 'number', 'C-2')}")
    page.get_by_text("PLY-09").first.click()


def _tried(page: Page) -> None:
    """One price tried: that of the bare board of the controller."""
    field = page.get_by_label("Try another unit cost of PCB-1044")
    field.fill("5.2")
    field.press("Enter")


def _with_pictures(page: Page) -> None:
    for title in ("Picture", "Material", "Unit cost"):
        page.get_by_label(title, exact=True).click()


def _drawing(page: Page) -> None:
    """Begun anew: from the corner; cut down the middle beside it, with what is met in its hatching; from the front, where the cut is a line; a detail."""
    page.goto("/drawings/HL155-10")
    begin, put = (page.get_by_role("button", name=n) for n in ("Begin its drawing", "Put the balloons"))
    begin.or_(put).first.wait_for()
    if begin.count():
        begin.click()
        put.wait_for()
    if not page.get_by_role("button", name="View section A, right").count():
        page.get_by_role("button", name="isometric 1 : ").first.click()
        page.get_by_label("Scale").select_option("0.5")
        page.get_by_label("Add a view").select_option("front")
        page.get_by_role("button", name="View front").wait_for()
        page.get_by_label("Add a view").select_option("section")
        page.get_by_label("Seen from the").select_option("right")
        page.get_by_role("button", name="Cut it").click()
        page.get_by_text("A–A").wait_for(timeout=60_000)
    if not page.get_by_role("button", name="View detail B").count():
        page.get_by_role("button", name="section A, right 1 : ").click()
        page.get_by_role("button", name="A detail of it").click()
        page.get_by_role("button", name="View detail B").wait_for()
        for side, millimetres in (("width", "24"), ("height", "28"), ("left", "150"), ("top", "94")):
            page.get_by_label(side, exact=True).fill(millimetres)
            page.get_by_label(side, exact=True).press("Enter")
        page.get_by_label("Scale").select_option("2")
        page.get_by_role("button", name="View detail B").focus()
        for key in ("Shift+ArrowRight",) * 20 + ("Shift+ArrowDown",) * 14:
            page.keyboard.press(key)
        page.keyboard.press("Escape")
    put.click()
    page.get_by_role("button", name="Balloon 10, LNS-155").first.wait_for()


def _handover(page: Page) -> None:
    """The lantern beside the yard's book, begun where it is not yet, at the row that both moved."""
    page.goto("/handover")
    page.get_by_role("button", name="Hand a product over").click()
    page.get_by_role("button", name="Product: choose").click()
    page.get_by_role("combobox", name="Part number").fill("HL-155")
    page.get_by_role("option", name="HL-155").first.wait_for()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Compare").click()
    page.get_by_role("grid", name="What does not agree").wait_for()
    page.get_by_role("row").filter(has_text="both moved").first.click()


def _look(page: Page) -> None:
    """The crate taken apart, its panels chosen."""
    page.locator("[data-drawn]").wait_for()
    page.get_by_label("Apart").fill("45")
    page.get_by_role("option").filter(has_text="CR-155-1").click()
    page.wait_for_timeout(600)


def _at(address: str, *steps: Callable[[Page], None]) -> Callable[[Page], None]:
    def go(page: Page) -> None:
        page.goto(address)
        for step in steps:
            step(page)

    return go


#: Name of a picture → who looks, and how it is come to.
PICTURES: dict[str, tuple[str, Callable[[Page], None]]] = {
    "today": ("engineer", _at("/today")),
    "sheet-cost": ("engineer", _at("/sheets/HL-155", _sheet)),
    "overview": ("engineer", _at("/sheets/HL-155?read=overview")),
    "time": ("engineer", _at("/sheets/HL-155?read=time&quantity=250")),
    "matrix": ("engineer", _at("/matrix?builds=HL-155:250,HL-200:40,SC-40:20")),
    "look": ("engineer", _at("/look/CR-155", _look)),
    "part": ("engineer", _at("/part/HL155-22")),
    "round": ("accountant", _round),
    "cost-questions": ("engineer", _at("/sheets/SC-40?read=cost", _tried)),
    "inquiry": ("engineer", _inquiry),
    "plan": ("buyer", _plan),
    "quote": ("buyer", lambda page: page.goto(f"/quotes/{_first(page, '/quotes', 'number', 'Q1001')}") and None),
    "list": ("engineer", _at("/lists?part=HL-155", _with_pictures)),
    "cutting": ("engineer", _cutting),
    "drawing": ("engineer", _drawing),
    "handover": ("engineer", _handover),
    "work-order": ("shop", _order("running")),
    "work-center": ("shop", _at("/shop/at/MILL")),
    "came-to": ("shop", _order("closed")),
}


def main(address: str, names: list[str]) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"])
        for name in names or PICTURES:
            who, go = PICTURES[name]
            page = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800}).new_page()
            page.goto("/")
            page.get_by_label("Name").fill(who)
            page.get_by_label("Password").fill("harbour-light")
            page.keyboard.press("Enter")
            page.get_by_role("navigation", name="Screens").wait_for()
            go(page)
            page.wait_for_load_state("networkidle")
            page.wait_for_timeout(800)
            page.screenshot(path=OUT / f"{name}.png")
            page.context.close()
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2:])
