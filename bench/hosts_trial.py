"""``bench/hosts.sh``: one of each kind of host is killed in turn while people work, and a table says what they noticed.

People repeat what got no answer: a report with the key it had, a change of a part after they looked whether it had arrived. At the end what
they were told was done is compared with what the database holds.
"""

import random
import shutil
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
import psycopg

from bench.hosts import ADDRESS, AWAY, PASSWORD, PEOPLE, Site, database, networks

#: Seconds of a phase, and how long a person waits before asking again.
_PHASE, _AGAIN = 20.0, 0.5


@dataclass(slots=True)
class _Seen:
    """What all people met in one phase."""

    answered: int = 0
    in_words: int = 0
    without: Counter[str] = field(default_factory=Counter)
    longest: float = 0.0
    jobs: Counter[str] = field(default_factory=Counter)


class _Person:
    """Does one thing after another through the proxy, and keeps what was said to be done."""

    def __init__(self, name: str, trial: "_Trial") -> None:
        self.name, self.trial, self.pick = name, trial, random.Random(name)
        self.web = httpx.Client(base_url=f"{ADDRESS}/api", timeout=20.0)
        self.until_done("GET", "/session")
        # Who signs in while many do is asked to try again in a moment.
        while not self.until_done("POST", "/session", {"user": name, "password": PASSWORD}):
            time.sleep(1.0)
        trial.refused.clear()

    def ask(self, method: str, path: str, body: Any = None) -> tuple[int, Any]:
        """The status and what was said; 0 where nothing was."""
        seen = self.trial.seen
        try:
            headers = {"X-CSRFToken": self.web.cookies.get("csrftoken") or ""}
            reply = self.web.request(method, path, json=body, headers=headers)
        except httpx.HTTPError as error:
            seen.without[type(error).__name__] += 1
            return 0, None
        is_json = "json" in reply.headers.get("content-type", "")
        if reply.status_code < 500:
            seen.answered += 1
        elif is_json and reply.json().get("message"):
            seen.in_words += 1
        else:
            seen.without[f"{reply.status_code} on {path.split('?')[0]}"] += 1
        return reply.status_code, reply.json() if is_json else reply.content

    def until_done(self, method: str, path: str, body: Any = None, again: Callable[[], bool] = lambda: True) -> Any:
        """Ask until it is answered; ``again`` says after an unknown end whether it is still to be done."""
        began = time.monotonic()
        while True:
            status, said = self.ask(method, path, body)
            if 0 < status < 500:
                self.trial.seen.longest = max(self.trial.seen.longest, time.monotonic() - began)
                if status >= 400:
                    self.trial.refused[f"{status} {method} {path.split('?')[0]}: {str(said)[:120]}"] += 1
                return said if status < 400 else None
            time.sleep(_AGAIN)
            if not again():
                return None


class _Trial:
    def __init__(self, site: Site) -> None:
        self.site, self.seen, self.refused = site, _Seen(), Counter[str]()
        self.ends, self.reported, self.changed = threading.Event(), Counter[str](), Counter[str]()
        self.order: dict[str, Any] = {}

    def live(self, name: str) -> None:
        person = _Person(name, self)
        does = {"shop": self._reports, "engineer": self._changes, "viewer": self._reads, "accountant": self._tallies}[
            name.rstrip("0123456789")
        ]
        while not self.ends.is_set():
            does(person)
            time.sleep(person.pick.uniform(0.05, 0.25))

    def _reports(self, p: _Person) -> None:
        key = str(uuid.uuid4())
        body = {"key": key, "sequence": 10, "good": "1", "run_minutes": "1"}
        if p.until_done("POST", f"/shop/orders/{self.order['id']}/report", body):
            self.reported[key] += 1

    def _changes(self, p: _Person) -> None:
        """Who got no answer looks first whether the change is there."""
        number = f"E-{p.name[-1]}{p.pick.randrange(10)}".replace("E-0", "E-")
        held = p.until_done("GET", f"/parts/one?number={number}")
        if not held:
            return
        words = uuid.uuid4().hex
        body = {"version": held["version"], "description": words}

        def is_lacking() -> bool:
            return p.until_done("GET", f"/parts/one?number={number}")["description"] != words

        p.until_done("PATCH", f"/parts/one?number={number}", body, is_lacking)
        self.changed[number] += 1
        listed = p.until_done("GET", f"/parts?search={number}&limit=50")
        if not any(row["description"] == words for row in listed["items"] if row["number"] == number):
            self.refused[f"a list does not show what {p.name} has just written"] += 1

    def _reads(self, p: _Person) -> None:
        p.until_done("GET", "/parts?search=E-&limit=50")
        p.until_done("GET", "/sheets/where-used?part=ROD&day=2026-12-01")
        p.until_done("GET", "/today")

    def _tallies(self, p: _Person) -> None:
        made = p.until_done("POST", "/rounds", {"name": uuid.uuid4().hex[:12], "first_day": "2027-01-01", "scope": "all"})
        if not made:
            return
        at = f"/rounds/{made['id']}"
        if p.until_done("POST", f"{at}/tally", {}) is None:
            return
        while not self.ends.is_set():
            said = p.until_done("GET", at)
            if not said["job"]:
                self.seen.jobs["tallied" if said["tally"] else "cut off, and said so"] += 1
                return
            time.sleep(0.2)


def _phase(trial: _Trial, words: str, host: str) -> None:
    trial.seen = seen = _Seen()
    read_before = _read_at_replica()
    ends = time.monotonic() + _PHASE
    if host:
        time.sleep(3)
        trial.site.kill(host)
        time.sleep(AWAY)
        trial.site.start(host)
    time.sleep(max(ends - time.monotonic(), 1))
    there = max(_read_at_replica() - read_before, 0)
    print(
        f"{words:<34}{seen.answered:>9}{there:>11}{seen.in_words:>10}{sum(seen.without.values()):>10}{seen.longest:>9.1f}"
        f"   {', '.join(f'{n} rounds {w}' for w, n in seen.jobs.items()) or '–'}",
        flush=True,
    )
    for words_, count in seen.without.most_common(5):
        print(f"      {count} times {words_}")


def _read_at_replica() -> int:
    """Transactions of the program at the replica, since it was started; 0 where it does not answer."""
    try:
        with psycopg.connect(database("db2"), connect_timeout=2) as there:
            row = there.execute("SELECT xact_commit FROM pg_stat_database WHERE datname = 'tally'").fetchone()
    except psycopg.OperationalError:
        return 0
    return int(row[0]) if row else 0


def _kept(trial: _Trial) -> bool:
    """Compare what people were told is done with what the database holds."""
    with psycopg.connect(database("db1")) as there:
        good = int(there.execute("SELECT count(*) FROM shop_entry WHERE kind = 'report'").fetchone()[0])  # type: ignore[index]
        versions: dict[str, int] = dict(there.execute("SELECT number, version FROM definition_part WHERE number LIKE 'E-%'").fetchall())
    reports, changes = len(trial.reported), sum(trial.changed.values())
    stood = sum(v - 1 for v in versions.values())
    print(f"reports said to be done: {reports}, held: {good}; changes of parts said to be done: {changes}, held: {stood}")
    for words, count in (trial.refused + trial.site.failures()).most_common(8):
        print(f"  {count} times {words}")
    return reports == good and changes == stood and not trial.refused and not trial.site.failures()


def main() -> int:
    from launcher.machine import postgres_bin

    binaries = postgres_bin()
    if binaries is None:
        print("PostgreSQL's server is needed: apt-get install postgresql")
        return 1
    folder = Path(tempfile.mkdtemp(prefix="tally-hosts-", dir="/var/tmp"))
    shutil.chown(folder, "postgres")
    folder.chmod(0o755)
    site = Site(folder, binaries)
    try:
        with networks():
            try:
                site.begin()
                return _tried(site)
            finally:
                site.end()
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _tried(site: Site) -> int:
    trial = _Trial(site)
    opener = _Person("engineer0", trial)
    order = opener.until_done("POST", "/shop/orders", {"key": str(uuid.uuid4()), "part": "RT-1", "quantity": "100000", "nest": False})
    trial.order = opener.until_done("POST", f"/shop/orders/{order['id']}/release", {"version": order["version"]})
    people = [f"{role}{n}" for role, count in PEOPLE.items() for n in range(count)]
    threads = [threading.Thread(target=trial.live, args=(name,), daemon=True) for name in people]
    for thread in threads:
        thread.start()
    print(f"{len(people)} people; what is killed comes back after {AWAY:.0f} s; {_PHASE:.0f} s each")
    print(f"{'killed':<34}{'answered':>9}{'at replica':>11}{'in words':>10}{'without':>10}{'longest':>9}   rounds")
    for words, host in (
        ("nobody", ""),
        ("a web host", "web1"),
        ("a worker", "work1"),
        ("the replica", "db2"),
        ("the proxy", "front"),
        ("the primary", "db1"),
        ("nobody", ""),
    ):
        _phase(trial, words, host)
    trial.ends.set()
    for thread in threads:
        thread.join(30)
    held = _kept(trial)
    print("holds  nothing is lost and nothing doubled" if held else "MISSES  see above")
    return 0 if held else 1


if __name__ == "__main__":
    sys.exit(main())
