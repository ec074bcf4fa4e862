"""``./tally bench --people``: the day of fifty people on a catalogue of 200,000 parts, by kind of request; on a database of its own.

They look, type, take in lists, post from work centers, tally rounds and take exports away, each waiting between what they do as people do. Told are
median, 95th and worst answer of each kind, whatever went wrong, how many waited for a lock, and the memory of each process at both ends.
"""

import os
import random
import secrets
import statistics
import subprocess
import sys
import threading
import time
import uuid
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from decimal import Decimal
from io import BytesIO
from pathlib import Path
from typing import Any

import httpx

from bench.measure import DAY, report

__all__ = ["a_day_of_fifty"]

_SERVER = Path(__file__).resolve().parent.parent / "server"
_SECONDS = int(os.environ.get("TALLY_BENCH_SECONDS", "300"))
#: People by what they do.
_PEOPLE = {"engineer": 20, "viewer": 10, "shop": 10, "buyer": 6, "accountant": 2, "estimator": 2}
_THINKS = (1.0, 6.0)
#: One in so many drafts is of the product of 10,000 lines.
_LARGE = 0.05
#: Made parts of the lowest level, for whose orders there is stock.
_STOCKED = [f"B{n:06}" for n in range(100_000, 100_040)]
_PASSWORD = secrets.token_urlsafe(16)


@dataclass(slots=True)
class _Seen:
    """What all people saw: seconds by kind of request, and what went wrong in words."""

    taken: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    wrong: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)
    until: float = 0.0


class _Person:
    """One who is signed in, and does one thing after another until the day is over."""

    def __init__(self, address: str, name: str, seed: int, seen: _Seen) -> None:
        self.pick, self.seen, self.name = random.Random(seed), seen, name
        self.web = httpx.Client(base_url=f"{address}/api", timeout=120.0)
        self.web.get("/session")
        self.ask("sign in", "POST", "/session", {"user": name, "password": _PASSWORD})

    def ask(self, kind: str, method: str, path: str, body: Any = None, **more: Any) -> Any:
        """One request, its time kept; None for what was refused or failed, which is kept in words."""
        token = self.web.cookies.get("csrftoken") or ""
        start = time.perf_counter()
        try:
            reply = self.web.request(method, path, json=body, headers={"X-CSRFToken": token}, **more)
        except httpx.HTTPError as error:
            with self.seen.lock:
                self.seen.wrong.append(f"{kind}: {type(error).__name__}")
            return None
        with self.seen.lock:
            self.seen.taken[kind].append(time.perf_counter() - start)
            if reply.status_code >= 400:
                self.seen.wrong.append(f"{kind}: {reply.status_code} {reply.text[:160]}")
        if reply.status_code >= 400:
            return None
        return reply.json() if "json" in reply.headers.get("content-type", "") else reply.content

    def live(self, day: Callable[["_Person"], None]) -> None:
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


def _looks(p: _Person) -> None:
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


def _draft(p: _Person) -> dict[str, Any] | None:
    from bench.catalogue import TOP

    number = TOP if p.pick.random() < _LARGE else p.part(made=True)
    return p.ask("open a draft", "POST", "/sheets", {"part": number, "reason": "a day of fifty"})


def _types(p: _Person) -> None:
    """A draft is opened, looked at, typed into ten times, and its working opened."""
    head = _draft(p)
    view = p.ask("sheet", "GET", f"/sheets/{head['id']}/view", params={"drafts": True}) if head else None
    if not head or not view:
        return
    keys = view["lines"]["each"]["id"][: view["lines"]["count"]]
    own = [k for k, parent in zip(keys, _column(view["lines"], "parent"), strict=True) if parent == view["top"]]
    version = head["version"]
    for _ in range(10):
        p.think()
        after = {"quantity": f"{p.pick.uniform(1, 9):.3f}"}
        change = {"table": "line", "id": p.pick.choice(own), "before": {}, "after": after}
        saved = p.ask("edit", "POST", f"/sheets/{head['id']}/edits", {"version": version, "changes": [change]})
        version = saved["version"] if saved else version
    p.ask("times of a sheet", "GET", f"/sheets/{head['id']}/times", params={"drafts": True})


def _column(table: dict[str, Any], name: str) -> list[Any]:
    return table["each"][name] if name in table["each"] else [table["same"][name]] * table["count"]


def _reads(p: _Person) -> None:
    _looks(p)
    sheets = p.ask("sheets of a part", "GET", "/sheets", params={"part": p.part(made=True)})
    if sheets:
        key = sheets[0]["id"]
        p.ask("sheet", "GET", f"/sheets/{key}/view")
        p.think()
        p.ask("parts as a list", "GET", "/parts/list/csv", params={"search": p.part(made=True)[:5]})


def _posts(p: _Person) -> None:
    """Stock is counted, an order released and reported at its work center, bit by bit."""
    order = p.ask("open an order", "POST", "/shop/orders", {"part": p.pick.choice(_STOCKED), "quantity": "10", "nest": False})
    if not order:
        return
    p.think()
    at = f"/shop/orders/{order['id']}"
    order = p.ask("release an order", "POST", f"{at}/release", {"version": order["version"]})
    for _ in range(4):
        p.think()
        p.ask("queue of a work center", "GET", "/shop/centers")
        if order and order["stages"]:
            body = {"key": str(uuid.uuid4()), "sequence": order["stages"][0]["sequence"], "good": "2", "run_minutes": "7"}
            p.ask("report work", "POST", f"{at}/report", body)
    p.ask("list of orders", "GET", "/shop/orders")


def _buys(p: _Person) -> None:
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


def _waits(p: _Person, path: str, done: Callable[[dict[str, Any]], bool]) -> None:
    for _ in range(60):
        if time.monotonic() > p.seen.until:
            return
        time.sleep(1.0)
        said = p.ask("how far the worker is", "GET", path)
        if said and done(said):
            return


def _tallies(p: _Person) -> None:
    made = p.ask("make a round", "POST", "/rounds", {"name": f"Day {p.pick.random():.9f}", "first_day": "2027-01-01", "scope": "all"})
    if made:
        start = time.perf_counter()
        p.ask("ask for a tally", "POST", f"/rounds/{made['id']}/tally", {})
        _waits(p, f"/rounds/{made['id']}", lambda r: bool(r.get("tally")) and not (r.get("job") or {}).get("waits"))
        with p.seen.lock:
            p.seen.taken["a round, until it is tallied"].append(time.perf_counter() - start)
    time.sleep(20)


def _takes_in(p: _Person) -> None:
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
        at, start = f"/inquiries/{made['id']}", time.perf_counter()
        p.ask("bring a list", "POST", f"{at}/files", files={"file": ("list.xlsx", content.getvalue())})
        _waits(p, at, lambda i: bool(i["files"]) and i["files"][0]["role"] == "list" and not i["job"])
        with p.seen.lock:
            p.seen.taken["a list of 300 lines, until it is paired"].append(time.perf_counter() - start)
        p.ask("lines of an inquiry", "GET", f"{at}/lines")
    p.think()


_DAYS: dict[str, Callable[[_Person], None]] = {
    "engineer": _types,
    "viewer": _reads,
    "shop": _posts,
    "buyer": _buys,
    "accountant": _tallies,
    "estimator": _takes_in,
}
_ROLE = {"estimator": "engineer"}


@contextmanager
def _running() -> Iterator[tuple[str, dict[str, list[int]]]]:
    """Web and worker as ``./tally demo`` runs them; answers the address and the processes by what they are."""
    import socket

    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    quiet: dict[str, Any] = {"env": os.environ, "stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    web = [sys.executable, "-m", "gunicorn", "tally_site.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "8"]
    processes = [
        subprocess.Popen([*web, "--timeout", "120", "--keep-alive", "75"], cwd=_SERVER, **quiet),
        subprocess.Popen([sys.executable, "manage.py", "work"], cwd=_SERVER, **quiet),
    ]
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(300):
            with suppress(httpx.HTTPError):
                if httpx.get(f"{address}/api/session", timeout=5.0).status_code == 200:
                    break
            time.sleep(0.1)
        yield address, {"web": [processes[0].pid], "worker": [processes[1].pid]}
    finally:
        for process in processes:
            process.terminate()
        for process in processes:
            try:
                process.wait(20)
            except subprocess.TimeoutExpired:
                process.kill()


def _memory(pids: list[int]) -> float:
    """Resident memory of processes and what they began, in megabytes."""
    total = 0.0
    for pid in pids:
        with suppress(OSError):
            children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
            status = Path(f"/proc/{pid}/status").read_text()
            total += int(status.split("VmRSS:")[1].split()[0]) / 1024 + _memory([int(c) for c in children])
    return total


def _watch_locks(seen: _Seen, waits: list[int]) -> None:
    from django.db import connection

    while time.monotonic() < seen.until:
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'")
            waits.append(cursor.fetchone()[0])
        time.sleep(1.0)
    connection.close()


def _make_people() -> dict[str, str]:
    """Names of people with what they do; each in the group of a role."""
    from accounts.access import make_groups
    from django.contrib.auth.hashers import make_password
    from django.contrib.auth.models import Group, User

    make_groups()
    hashed, people = make_password(_PASSWORD), {}
    for does, count in _PEOPLE.items():
        for at in range(count):
            name = f"{does}-{at + 1}"
            user, _ = User.objects.update_or_create(username=name, defaults={"password": hashed})
            user.groups.add(Group.objects.get(name=_ROLE.get(does, does)))
            people[name] = does
    return people


def _fill_the_store() -> None:
    from definition.models.parts import Part
    from definition.models.sheets import Line
    from django.db import transaction
    from verbs.parts.post_stock import StockPost, post_stock

    taken = Line.objects.filter(sheet__part__number__in=_STOCKED).values_list("part", flat=True)
    with transaction.atomic():
        keys = Part.objects.filter(pk__in=taken).values_list("pk", flat=True)
        post_stock("bench", [StockPost(key, Decimal(1_000_000), "counted") for key in keys])


def a_day_of_fifty() -> bool:
    """Prints a row for each kind of request; holds where nothing went wrong. The memory is told, and how long locks were waited for."""
    people = _make_people()
    _fill_the_store()
    seen = _Seen()
    waits: list[int] = []
    with _running() as (address, processes):
        before = {what: _memory(pids) for what, pids in processes.items()}
        seen.until = time.monotonic() + _SECONDS
        threads = [threading.Thread(target=_watch_locks, args=(seen, waits))]
        for at, (name, does) in enumerate(people.items()):
            person = _Person(address, name, at, seen)
            threads.append(threading.Thread(target=person.live, args=(_DAYS[does],)))
            threads[-1].start()
        threads[0].start()
        for thread in threads:
            thread.join()
        after = {what: _memory(pids) for what, pids in processes.items()}
    print(f"{'kind of request':<42}{'count':>7}{'median':>9}{'95th':>9}{'worst':>9}  seconds")
    for kind, taken in sorted(seen.taken.items(), key=lambda x: -statistics.median(x[1])):
        ranked = sorted(taken)
        print(f"{kind:<42}{len(ranked):>7}{statistics.median(ranked):>9.3f}{ranked[int(len(ranked) * 0.95)]:>9.3f}{ranked[-1]:>9.3f}")
    for words, count in sorted({w: seen.wrong.count(w) for w in seen.wrong}.items(), key=lambda x: -x[1])[:20]:
        print(f"  {count} times {words}")
    print(f"  memory in MB, before and after: {', '.join(f'{w} {before[w]:.0f} and {after[w]:.0f}' for w in before)}")
    asked = sum(map(len, seen.taken.values()))
    every = sorted(x for kind, taken in seen.taken.items() if "until" not in kind for x in taken)
    return report(
        f"what goes wrong in {_SECONDS} s of {len(people)} people, of {asked:,} requests",
        len(seen.wrong),
        "none",
        not seen.wrong,
        f"{asked / _SECONDS:.1f} requests a second, 95th {every[int(len(every) * 0.95)]:.2f} s, worst {every[-1]:.2f} s; "
        f"{sum(waits) / max(len(waits), 1):.2f} waited for a lock on average, {max(waits, default=0)} at most",
    )
