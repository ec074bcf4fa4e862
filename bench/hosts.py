"""``bench/hosts.sh``: several hosts in network namespaces, one of each kind killed in turn while people work.

The namespaces hang on one bridge. Each host has its own address and its own processes; what they share is the code and one folder of files. A
process that ended is started anew after a while, as systemd would. People repeat what got no answer: a report with the key it had, a change of
a part after they looked whether it had arrived. At the end what they were told was done is compared with what the database holds.
"""

import os
import random
import secrets
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

_ROOT = Path(__file__).resolve().parent.parent
_BRIDGE, _NET = "tallybr", "10.77.0"
#: Hosts by the last number of their address.
_HOSTS = {"front": 10, "web1": 21, "web2": 22, "work1": 31, "work2": 32, "db1": 41, "db2": 42}
_PASSWORD, _WORD = secrets.token_urlsafe(12), secrets.token_hex(12)
_PEOPLE = {"shop": 4, "engineer": 3, "viewer": 3, "accountant": 1}
#: Seconds of a phase, how long what was killed stays away, and how long a person waits before asking again.
_PHASE, _AWAY, _AGAIN = 20.0, 6.0, 0.5
_NGINX = """
worker_processes 1; daemon off; pid {folder}/nginx.pid; error_log {folder}/nginx.log;
events {{ worker_connections 256; }}
http {{
    access_log off; client_max_body_size 21m;
    client_body_temp_path {folder}/body; proxy_temp_path {folder}/proxied; fastcgi_temp_path {folder}/f; uwsgi_temp_path {folder}/u; scgi_temp_path {folder}/s;
    upstream webs {{ server {net}.21:8155 max_fails=1 fail_timeout=2s; server {net}.22:8155 max_fails=1 fail_timeout=2s; keepalive 32; }}
    server {{
        listen 80;
        location / {{
            proxy_pass http://webs; proxy_http_version 1.1; proxy_set_header Connection "";
            proxy_connect_timeout 1s; proxy_read_timeout 130s; proxy_next_upstream error timeout;
            proxy_set_header Host $host; proxy_set_header X-Forwarded-For $proxy_add_x_forwarded_for;
            proxy_set_header X-Forwarded-Proto $scheme; proxy_set_header X-Request-Id $request_id;
            error_page 502 504 = @away;
        }}
        location @away {{
            default_type application/json;
            return 503 '{{"message": "No server answers just now. Whether this was saved is not known: look again in a moment.", "problems": []}}';
        }}
    }}
}}
"""
_FILL = """
from accounts.access import make_groups
from django.contrib.auth.models import Group, User
from definition.models.parts import Part
from verbs.sheets.load_bundle import load_bundle
from verbs.parts.post_stock import StockPost, post_stock
from django.db import transaction
make_groups()
for role, count in {people!r}.items():
    for n in range(count):
        user = User.objects.create_user(f"{{role}}{{n}}", password={password!r})
        user.groups.add(Group.objects.get(name=role))
load_bundle({{"format": "round-tally-bundle", "version": 1, "currency": "EUR",
    "work_centers": [{{"code": "LATHE", "name": "Lathe", "labor_rate": "40"}}],
    "parts": [{{"number": "ROD", "kind": "bought", "unit": "m", "unit_cost": "3"}},
        *({{"number": f"E-{{n}}", "kind": "bought", "unit": "ea", "unit_cost": "1"}} for n in range(40)),
        {{"number": "RT-1", "kind": "made", "unit": "ea"}}],
    "build_sheets": [{{"part": "RT-1", "status": "released", "operations": [{{"sequence": 10, "name": "Turn", "work_center": "LATHE", "run_minutes": "3"}}],
        "lines": [{{"item": 10, "part": "ROD", "quantity": "2", "unit": "m", "issue_at": 10}}]}}]}}, "trial")
with transaction.atomic():
    post_stock("trial", [StockPost(Part.objects.get(number="ROD").pk, 10_000_000, "counted")])
"""


@dataclass(slots=True)
class _Seen:
    """What all people met in one phase."""

    answered: int = 0
    in_words: int = 0
    without: Counter[str] = field(default_factory=Counter)
    longest: float = 0.0
    jobs: Counter[str] = field(default_factory=Counter)


def _in(host: str, *command: str, **more: Any) -> subprocess.Popen[bytes]:
    return subprocess.Popen(["ip", "netns", "exec", host, *command], start_new_session=True, **more)


def _run(*command: str, **more: Any) -> None:
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, **more)


@contextmanager
def _networks() -> Iterator[None]:
    _no_networks()
    _run("ip", "link", "add", _BRIDGE, "type", "bridge")
    _run("ip", "addr", "add", f"{_NET}.1/24", "dev", _BRIDGE)
    _run("ip", "link", "set", _BRIDGE, "up")
    try:
        for host, last in _HOSTS.items():
            _run("ip", "netns", "add", host)
            _run("ip", "link", "add", f"t{host}", "type", "veth", "peer", "name", "eth0", "netns", host)
            _run("ip", "link", "set", f"t{host}", "master", _BRIDGE, "up")
            _run("ip", "-n", host, "addr", "add", f"{_NET}.{last}/24", "dev", "eth0")
            for link in ("lo", "eth0"):
                _run("ip", "-n", host, "link", "set", link, "up")
        yield
    finally:
        _no_networks()


def _no_networks() -> None:
    for host in _HOSTS:
        subprocess.run(["ip", "netns", "del", host], stderr=subprocess.DEVNULL, check=False)
    subprocess.run(["ip", "link", "del", _BRIDGE], stderr=subprocess.DEVNULL, check=False)


class _Databases:
    """A primary and a replica that follows it by streaming, each in its own namespace."""

    def __init__(self, folder: Path, binaries: Path) -> None:
        self.folder, self.bin = folder, binaries

    def make(self) -> None:
        word = self.folder / "word"
        word.write_text(_WORD)
        shutil.chown(word, "postgres")
        self._as(
            "db1",
            "initdb",
            "-D",
            str(self.folder / "db1"),
            "-U",
            "keeper",
            f"--pwfile={word}",
            "--auth=scram-sha-256",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
        )
        with (self.folder / "db1" / "pg_hba.conf").open("a") as rules:
            rules.write(f"host all all {_NET}.0/24 scram-sha-256\nhost replication keeper {_NET}.42/32 scram-sha-256\n")
        self.start("db1")
        import psycopg

        with psycopg.connect(f"postgres://keeper:{_WORD}@{_NET}.41/postgres", autocommit=True) as keeper:
            keeper.execute(f"CREATE ROLE tally LOGIN PASSWORD '{_WORD}'")  # type: ignore[arg-type]
            keeper.execute("CREATE DATABASE tally OWNER tally")
        self._as(
            "db2", "pg_basebackup", "-D", str(self.folder / "db2"), "-d", f"postgres://keeper@{_NET}.41/postgres", "-R", "-X", "stream"
        )
        self.start("db2")

    def start(self, host: str) -> None:
        options = f"-c listen_addresses={_NET}.{_HOSTS[host]} -c unix_socket_directories= -c max_connections=60"
        self._as(host, "pg_ctl", "start", "-w", "-D", str(self.folder / host), "-o", options, "-l", str(self.folder / f"{host}.log"))

    def kill(self, host: str) -> None:
        """All its processes at once, as when a host loses its power."""
        first = int((self.folder / host / "postmaster.pid").read_text().split()[0])
        for pid in (first, *map(int, Path(f"/proc/{first}/task/{first}/children").read_text().split())):
            with suppress(OSError):
                os.kill(pid, signal.SIGKILL)
        time.sleep(0.5)
        (self.folder / host / "postmaster.pid").unlink(missing_ok=True)

    def _as(self, host: str, program: str, *words: str) -> None:
        command = ["ip", "netns", "exec", host, "runuser", "-u", "postgres", "--", str(self.bin / program), *words]
        subprocess.run(
            command, check=True, cwd="/", stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env=os.environ | {"PGPASSWORD": _WORD}
        )


class _Site:
    """All hosts; a process that was killed comes back after ``_AWAY`` seconds."""

    def __init__(self, folder: Path, binaries: Path) -> None:
        self.folder, self.databases = folder, _Databases(folder, binaries)
        self.environment = os.environ | {
            "DATABASE_URL": f"postgres://tally:{_WORD}@{_NET}.41:5432/tally",
            "TALLY_REPLICA_URL": f"postgres://tally:{_WORD}@{_NET}.42:5432/tally",
            "TALLY_SECRET_KEY": secrets.token_hex(32),
            "TALLY_FILES": str(folder / "files"),
            "TALLY_STATE": str(folder),
            "TALLY_HOSTS": f"{_NET}.10",
            "TALLY_ORIGINS": f"http://{_NET}.10",
            "TALLY_TRUSTED_PROXIES": "1",
            "TALLY_POOL": "6",
            "PYTHONPATH": f"{_ROOT / 'core'}:{_ROOT / 'server'}:{_ROOT}",
        }
        self.processes: dict[str, subprocess.Popen[bytes]] = {}

    def begin(self) -> None:
        (self.folder / "files").mkdir(mode=0o700)
        self.databases.make()
        manage = [sys.executable, "manage.py"]
        _run(*manage, "migrate", "-v", "0", cwd=_ROOT / "server", env=self.environment)
        _run(
            *manage, "shell", "-v", "0", "-c", _FILL.format(people=_PEOPLE, password=_PASSWORD), cwd=_ROOT / "server", env=self.environment
        )
        (self.folder / "nginx.conf").write_text(_NGINX.format(folder=self.folder, net=_NET))
        for host in ("web1", "web2", "work1", "work2", "front"):
            self.start(host)
        for _ in range(150):
            with suppress(httpx.HTTPError):
                if httpx.get(f"http://{_NET}.10/ready", timeout=5.0).status_code == 200:
                    return
            time.sleep(0.2)
        raise SystemExit(f"The hosts do not answer; see {self.folder}")

    def start(self, host: str) -> None:
        if host in ("db1", "db2"):
            return self.databases.start(host)
        gunicorn = [
            sys.executable,
            "-m",
            "gunicorn",
            "tally_site.wsgi",
            "--workers",
            "1",
            "--threads",
            "6",
            "--timeout",
            "120",
            "--keep-alive",
            "135",
        ]
        command = {
            "web": [*gunicorn, "--bind", f"{_NET}.{_HOSTS[host]}:8155"],
            "wor": [sys.executable, "manage.py", "work"],
            "fro": [shutil.which("nginx") or "nginx", "-c", str(self.folder / "nginx.conf")],
        }[host[:3]]
        with (self.folder / f"{host}.log").open("ab") as log:
            self.processes[host] = _in(host, *command, cwd=_ROOT / "server", env=self.environment, stdout=log, stderr=log)

    def kill(self, host: str) -> None:
        if host in ("db1", "db2"):
            return self.databases.kill(host)
        os.killpg(self.processes[host].pid, signal.SIGKILL)
        self.processes[host].wait()

    def end(self) -> None:
        for host in (*self.processes, "db2", "db1"):
            with suppress(OSError, ValueError):
                self.kill(host)


class _Person:
    """Does one thing after another through the proxy, and keeps what was said to be done."""

    def __init__(self, name: str, trial: "_Trial") -> None:
        self.name, self.trial, self.pick = name, trial, random.Random(name)
        self.web = httpx.Client(base_url=f"http://{_NET}.10/api", timeout=20.0)
        self.until_done("GET", "/session")
        self.until_done("POST", "/session", {"user": name, "password": _PASSWORD})

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
    def __init__(self, site: _Site) -> None:
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
        body = {"key": str(uuid.uuid4()), "sequence": 10, "good": "1", "run_minutes": "1"}
        if p.until_done("POST", f"/shop/orders/{self.order['id']}/report", body):
            self.reported[body["key"]] += 1

    def _changes(self, p: _Person) -> None:
        """Who got no answer looks first whether the change is there."""
        number = f"E-{p.name[-1]}{p.pick.randrange(10)}".replace("E-0", "E-")
        held = p.until_done("GET", f"/parts/one?number={number}")
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
        time.sleep(_AWAY)
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
    import psycopg

    try:
        with psycopg.connect(f"postgres://tally:{_WORD}@{_NET}.42/tally", connect_timeout=2) as there:
            row = there.execute("SELECT xact_commit FROM pg_stat_database WHERE datname = 'tally'").fetchone()
    except psycopg.OperationalError:
        return 0
    return int(row[0]) if row else 0


def _kept(trial: _Trial) -> bool:
    """Compare what people were told is done with what the database holds."""
    import psycopg

    with psycopg.connect(f"postgres://tally:{_WORD}@{_NET}.41/tally") as there:
        good = int(there.execute("SELECT coalesce(sum(good), 0) FROM shop_report WHERE undone_at IS NULL").fetchone()[0])  # type: ignore[index]
        versions: dict[str, int] = dict(there.execute("SELECT number, version FROM definition_part WHERE number LIKE 'E-%'").fetchall())
    reports, changes = len(trial.reported), sum(trial.changed.values())
    stood = sum(v - 1 for v in versions.values())
    print(f"reports said to be done: {reports}, held: {good}; changes of parts said to be done: {changes}, held: {stood}")
    for words, count in trial.refused.most_common(8):
        print(f"  {count} times {words}")
    return reports == good and changes == stood and not trial.refused


def main() -> int:
    from launcher.machine import postgres_bin

    binaries = postgres_bin()
    if binaries is None:
        print("PostgreSQL's server is needed: apt-get install postgresql")
        return 1
    folder = Path(tempfile.mkdtemp(prefix="tally-hosts-", dir="/var/tmp"))
    shutil.chown(folder, "postgres")
    folder.chmod(0o755)
    site = _Site(folder, binaries)
    try:
        with _networks():
            try:
                site.begin()
                return _tried(site)
            finally:
                site.end()
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _tried(site: _Site) -> int:
    trial = _Trial(site)
    opener = _Person("engineer0", trial)
    order = opener.until_done("POST", "/shop/orders", {"part": "RT-1", "quantity": "100000", "nest": False})
    trial.order = opener.until_done("POST", f"/shop/orders/{order['id']}/release", {"version": order["version"]})
    people = [f"{role}{n}" for role, count in _PEOPLE.items() for n in range(count)]
    threads = [threading.Thread(target=trial.live, args=(name,), daemon=True) for name in people]
    for thread in threads:
        thread.start()
    print(f"{len(people)} people; what is killed comes back after {_AWAY:.0f} s; {_PHASE:.0f} s each")
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
