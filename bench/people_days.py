"""What fifty people do, and what they see of it: one after another, each waiting between what they do as people do."""

import itertools
import random
import secrets
import threading
import time
import uuid
from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from decimal import Decimal
from io import BytesIO
from typing import Any

import httpx

from bench.measure import DAY

__all__ = ["DAYS", "OFFERED", "PASSWORD", "ROLE", "STOCKED", "Person", "Seen"]

_THINKS = (1.0, 6.0)
#: One in so many drafts is of the product of 10,000 lines.
_LARGE = 0.05
#: Made parts of the lowest level, for whose orders there is stock.
STOCKED = [f"B{n:06}" for n in range(100_000, 100_040)]
#: Made parts of the lowest level whose bought parts are offered.
OFFERED = [f"B{n:06}" for n in range(100_100, 100_120)]
PASSWORD = secrets.token_urlsafe(16)
#: A quantity for each edit, so that every edit can be found again.
_QUANTITIES = itertools.count(1)


@dataclass(slots=True)
class Seen:
    """What all people saw: seconds by kind of request, and what went wrong in words."""

    taken: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    wrong: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)
    until: float = 0.0
    #: Whether something is killed meanwhile: then people repeat what got no answer.
    killed: bool = False
    #: What was refused for the moment with a word, and what got none, by what had been killed last; and the longest that anybody repeated.
    now: str = "nobody"
    in_words: Counter[str] = field(default_factory=Counter)
    without: Counter[str] = field(default_factory=Counter)
    longest: Counter[str] = field(default_factory=Counter)
    #: Reports and edits that were said to be done.
    reported: set[str] = field(default_factory=set)
    edited: list[str] = field(default_factory=list)


class Person:
    """One who is signed in, and does one thing after another until the day is over."""

    def __init__(self, address: str, name: str, seed: int, seen: Seen) -> None:
        self.pick, self.seen, self.name = random.Random(seed), seen, name
        self.web = httpx.Client(base_url=f"{address}/api", timeout=120.0)
        self.web.get("/session")
        self.ask("sign in", "POST", "/session", {"user": name, "password": PASSWORD})

    def ask(self, kind: str, method: str, path: str, body: Any = None, again: Callable[[], Any] | None = None, **more: Any) -> Any:
        """One request, its time kept; None for what was refused or failed, which is kept in words; what another one
        saved meanwhile (409) is an answer.

        Where something is killed it is repeated until it is answered. ``again`` is asked before: what it answers, unless that is None, is
        what the request came to although nobody said so.
        """
        began, seen = time.monotonic(), self.seen
        while True:
            status, said = self._once(kind, method, path, body, **more)
            if not seen.killed or 0 < status < 500:
                break
            with seen.lock:
                (seen.in_words if isinstance(said, dict) and said.get("message") else seen.without)[seen.now] += 1
            time.sleep(0.5)
            if again is not None and (found := again()) is not None:
                status, said = 200, found
                break
        with seen.lock:
            seen.longest[seen.now] = max(seen.longest[seen.now], round(time.monotonic() - began))
            if (status >= 400 and status != 409) or not status:
                seen.wrong.append(f"{kind}: {status} {str(said)[:160]}")
        return said if 0 < status < 400 or status == 409 else None

    def _once(self, kind: str, method: str, path: str, body: Any = None, **more: Any) -> tuple[int, Any]:
        """The status, and what was said; 0 and the failure where nothing was."""
        token = self.web.cookies.get("csrftoken") or ""
        start = time.perf_counter()
        try:
            reply = self.web.request(method, path, json=body, headers={"X-CSRFToken": token}, **more)
        except httpx.HTTPError as error:
            return 0, type(error).__name__
        with self.seen.lock:
            self.seen.taken[kind].append(time.perf_counter() - start)
        return reply.status_code, reply.json() if "json" in reply.headers.get("content-type", "") else reply.content

    def live(self, day: Callable[["Person"], None]) -> None:
        while time.monotonic() < self.seen.until:
            try:
                day(self)
            except Exception as error:  # what a person could not do is told, and the others go on
                with self.seen.lock:
                    self.seen.wrong.append(f"{self.name}: {type(error).__name__} {error}"[:200])
            self.think()

    def think(self) -> None:
        time.sleep(self.pick.uniform(*_THINKS))

    def part(self, made: bool) -> str:
        """A number of the catalogue: a bought part, or a made one of its lower levels, which takes ten to some hundred lines."""
        return f"B{self.pick.randrange(78_000, 104_000) if made else self.pick.randrange(140_000, 199_000):06}"


def _looks(p: Person) -> None:
    number = p.part(made=True)
    p.ask("search parts", "GET", "/parts", params={"search": number[:5], "limit": 50})
    p.think()
    p.ask("page of a part", "GET", "/parts/one", params={"number": number})
    p.think()
    p.ask("list of sheets", "GET", "/sheets/list", params={"search": number[:4]})
    p.think()
    p.ask("where used", "GET", "/sheets/where-used", params={"part": p.part(made=False), "day": str(DAY)})
    p.think()
    p.ask("Today", "GET", "/today")


def _draft(p: Person) -> dict[str, Any] | None:
    from bench.catalogue import TOP

    number = TOP if p.pick.random() < _LARGE else p.part(made=True)
    return p.ask("open a draft", "POST", "/sheets", {"part": number, "reason": "a day of fifty"})


def _types(p: Person) -> None:
    """A draft is opened, looked at, typed into ten times, and its working opened."""
    head = _draft(p)
    view = p.ask("sheet", "GET", f"/sheets/{head['id']}/view", params={"drafts": True}) if head else None
    if not head or not view:
        return
    own = [line["id"] for line in _lines(view) if line["parent"] == view["top"]]
    version = head["version"]
    for _ in range(10):
        p.think()
        version = _edit(p, head["id"], version, p.pick.choice(own))
    p.ask("times of a sheet", "GET", f"/sheets/{head['id']}/times", params={"drafts": True})


def _edit(p: Person, sheet: int, version: int, line: str) -> int:
    """One quantity is another one; answers the version of the sheet by then."""
    quantity = f"{1 + next(_QUANTITIES) / 1_000_000:.6f}"
    change = {"table": "line", "id": line, "before": {}, "after": {"quantity": quantity}}

    def arrived() -> dict[str, Any] | None:
        """The sheet as it stands, if the edit is in it although nobody said so."""
        view = p.ask("sheet", "GET", f"/sheets/{sheet}/view", params={"drafts": True})
        if view is None:
            return None
        held = next(each["quantity"] for each in _lines(view) if each["id"] == line)
        return {"version": view["sheet"]["version"]} if Decimal(held) == Decimal(quantity) else None

    saved = None
    for _ in range(5):
        saved = p.ask("edit", "POST", f"/sheets/{sheet}/edits", {"version": version, "changes": [change]}, again=arrived)
        if not saved or "conflicts" not in saved:
            break
        # Somebody else saved this sheet meanwhile; one's own change is put on what stands there now, as the screen offers.
        version = saved["version"]
    if saved and "conflicts" not in saved:
        with p.seen.lock:
            p.seen.edited.append(quantity)
    return saved["version"] if saved else version


def _lines(view: dict[str, Any]) -> list[dict[str, Any]]:
    from testing import rows_of

    return rows_of(view["lines"])


def _reads(p: Person) -> None:
    _looks(p)
    sheets = p.ask("sheets of a part", "GET", "/sheets", params={"part": p.part(made=True)})
    if sheets:
        key = sheets[0]["id"]
        p.ask("sheet", "GET", f"/sheets/{key}/view")
        p.think()
        p.ask("parts as a list", "GET", "/parts/list/csv", params={"search": p.part(made=True)[:5]})


def _posts(p: Person) -> None:
    """Stock is counted, an order released and reported at its work center, bit by bit."""
    order = p.ask(
        "open an order", "POST", "/shop/orders", {"key": str(uuid.uuid4()), "part": p.pick.choice(STOCKED), "quantity": "10", "nest": False}
    )
    if not order:
        return
    p.think()
    at = f"/shop/orders/{order['id']}"

    def released() -> dict[str, Any] | None:
        now = p.ask("an order", "GET", at)
        return now if now and now["stages"] else None

    order = p.ask("release an order", "POST", f"{at}/release", {"version": order["version"]}, again=released)
    for _ in range(4):
        p.think()
        p.ask("queue of a work center", "GET", "/shop/centers")
        if order and order["stages"]:
            body = {"key": str(uuid.uuid4()), "sequence": order["stages"][0]["sequence"], "good": "2", "run_minutes": "7"}
            if p.ask("report work", "POST", f"{at}/report", body):
                with p.seen.lock:
                    p.seen.reported.add(body["key"])
    p.ask("list of orders", "GET", "/shop/orders")


def _buys(p: Person) -> None:
    _looks(p)
    number = p.part(made=False)
    row = {"number": number, "fields": {"unit_cost": f"{p.pick.uniform(1, 9):.2f}"}}
    planned = p.ask("look at changes of parts", "POST", "/parts/rows/planned", {"rows": [row], "reason": "a day"})
    if planned:
        held = p.ask("page of a part", "GET", "/parts/one", params={"number": number})
        if held:
            p.ask("change a part", "POST", "/parts/rows", {"rows": [row | {"version": held["version"]}], "reason": "a day"})
    p.think()
    matrix = {"builds": [{"part": p.part(made=True), "options": [], "quantity": "20"}], "day": str(DAY), "drafts": False}
    p.ask("matrix", "POST", "/sheets/matrix", matrix)


def _plans(p: Person) -> None:
    """What a build takes is planned over three suppliers, until the plan stands."""
    plan = {"title": "A day of fifty", "builds": [{"part": p.pick.choice(OFFERED), "quantity": "40"}], "limits": {"seconds": 5}}
    made = p.ask("open a buying plan", "POST", "/buying/plans", plan)
    if made:
        _waits(p, "a buying plan", f"/buying/plans/{made['id']}", lambda b: bool(b["planned_at"]) and not b["job"])
    p.think()
    p.ask("list of plans", "GET", "/buying/plans")


def _hands_over(p: Person) -> None:
    """A product is compared with a system of record that lacks it, and written there."""
    head = p.ask("begin a handover", "POST", "/handover", {"record": "night", "top": p.part(made=True)})
    if not head:
        return
    at = f"/handover/{head['id']}"
    shown = _waits(p, "a comparison", at, lambda h: bool(h["compared"]) and not h["head"]["job"])
    if shown:
        p.think()
        p.ask("hand it over", "POST", f"{at}/hand-over", {"digest": shown["compared"]["digest"]})
        _waits(p, "a handover", at, lambda h: h["head"]["state"] == "done" and not h["head"]["job"])


def _waits(p: Person, kind: str, path: str, done: Callable[[dict[str, Any]], bool]) -> Any:
    """Look every second until something is done, or the day is over; answers what was said then."""
    began = time.monotonic()
    while time.monotonic() < p.seen.until:
        time.sleep(1.0)
        said = p.ask(f"how far {kind} is", "GET", path)
        if said and done(said):
            with p.seen.lock:
                p.seen.taken[f"{kind}, until it is done"].append(time.monotonic() - began)
            return said
    return None


def _tallies(p: Person) -> None:
    made = p.ask("make a round", "POST", "/rounds", {"name": f"Day {uuid.uuid4()}", "first_day": "2027-01-01", "scope": "all"})
    if made:
        p.ask("ask for a tally", "POST", f"/rounds/{made['id']}/tally", {})
        _waits(p, "a round of everything", f"/rounds/{made['id']}", lambda r: bool(r["tally"]) and not r["job"])
    time.sleep(20)


def _takes_in(p: Person) -> None:
    from openpyxl import Workbook

    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.append(["Part no", "Description", "Qty"])
    for row in range(300):
        sheet.append([p.part(made=False), f"Bought part {row}", row % 7 + 1])
    content = BytesIO()
    book.save(content)
    made = p.ask("open an inquiry", "POST", "/inquiries", {"title": "A day of fifty"})
    if made:
        at = f"/inquiries/{made['id']}"
        p.ask("bring a list", "POST", f"{at}/files", files={"file": ("list.xlsx", content.getvalue())})
        _waits(p, "a list of 300 lines", at, lambda i: bool(i["files"]) and i["files"][0]["role"] == "list" and not i["job"])
        p.ask("lines of an inquiry", "GET", f"{at}/lines")
    p.think()


DAYS: dict[str, Callable[[Person], None]] = {
    "engineer": _types,
    "viewer": _reads,
    "shop": _posts,
    "buyer": _buys,
    "accountant": _tallies,
    "estimator": _takes_in,
    "planner": _plans,
    "keeper": _hands_over,
}
ROLE = {"estimator": "engineer", "planner": "buyer", "keeper": "engineer"}
