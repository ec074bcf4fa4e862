"""Several hosts in network namespaces, for ``bench/hosts.sh``: two of web, two workers, a primary with its replica, a proxy.

The namespaces hang on one bridge. Each host has an address and processes of its own; what they share is the code and one folder of files. A
process that ended is started anew after a while, as systemd would.
"""

import os
import secrets
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import httpx

__all__ = ["ADDRESS", "AWAY", "PASSWORD", "PEOPLE", "Site", "database", "networks"]

_ROOT = Path(__file__).resolve().parent.parent
_BRIDGE, _NET = "tallybr", "10.77.0"
#: Hosts by the last number of their address.
_HOSTS = {"front": 10, "web1": 21, "web2": 22, "work1": 31, "work2": 32, "db1": 41, "db2": 42}
PASSWORD, _WORD = secrets.token_urlsafe(12), secrets.token_hex(12)
PEOPLE = {"shop": 4, "engineer": 3, "viewer": 3, "accountant": 1}
#: Seconds for which what was killed stays away.
AWAY = 6.0
ADDRESS = f"http://{_NET}.10"
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


def database(host: str) -> str:
    return f"postgres://tally:{_WORD}@{_NET}.{_HOSTS[host]}:5432/tally"


def _in(host: str, *command: str, **more: Any) -> subprocess.Popen[bytes]:
    return subprocess.Popen(["ip", "netns", "exec", host, *command], start_new_session=True, **more)


def _run(*command: str, **more: Any) -> None:
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, **more)


@contextmanager
def networks() -> Iterator[None]:
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
            keeper.execute(f"CREATE ROLE tally LOGIN PASSWORD '{_WORD}'")
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


class Site:
    """All hosts; a process that was killed comes back after ``AWAY`` seconds."""

    def __init__(self, folder: Path, binaries: Path) -> None:
        self.folder, self.databases = folder, _Databases(folder, binaries)
        self.environment = os.environ | {
            "DATABASE_URL": database("db1"),
            "TALLY_REPLICA_URL": database("db2"),
            "TALLY_SECRET_KEY": secrets.token_hex(32),
            "TALLY_FILES": str(folder / "files"),
            "TALLY_STATE": str(folder),
            "TALLY_HOSTS": f"{_NET}.10",
            "TALLY_ORIGINS": ADDRESS,
            "TALLY_TRUSTED_PROXIES": "1",
            "TALLY_POOL": "6",
            "PYTHONPATH": f"{_ROOT / 'core'}:{_ROOT / 'server'}:{_ROOT}",
        }
        self.processes: dict[str, subprocess.Popen[bytes]] = {}
        #: Hosts that were killed and are to stay away.
        self.away: set[str] = set()
        self.over = threading.Event()

    def begin(self) -> None:
        (self.folder / "files").mkdir(mode=0o700)
        self.databases.make()
        manage = [sys.executable, "manage.py"]
        _run(*manage, "migrate", "-v", "0", cwd=_ROOT / "server", env=self.environment)
        _run(*manage, "shell", "-v", "0", "-c", _FILL.format(people=PEOPLE, password=PASSWORD), cwd=_ROOT / "server", env=self.environment)
        (self.folder / "nginx.conf").write_text(_NGINX.format(folder=self.folder, net=_NET))
        for host in ("web1", "web2", "work1", "work2", "front"):
            self.start(host)
        for _ in range(150):
            with suppress(httpx.HTTPError):
                if httpx.get(f"{ADDRESS}/ready", timeout=5.0).status_code == 200:
                    break
            time.sleep(0.2)
        else:
            raise SystemExit("The hosts do not answer.\n" + (self.folder / "web1.log").read_text(errors="replace")[-3000:])
        threading.Thread(target=self._keep_going, daemon=True).start()

    def _keep_going(self) -> None:
        """Start anew what ended by itself, as systemd would: a worker does when it loses the database."""
        while not self.over.wait(1.0):
            for host in [h for h, p in self.processes.items() if h not in self.away and p.poll() is not None]:
                self.start(host)

    def start(self, host: str) -> None:
        self.away.discard(host)
        if host in ("db1", "db2"):
            return self.databases.start(host)
        # Loaded before it listens: until then the proxy finds nobody there, and goes to the other one.
        web = [
            "-m",
            "gunicorn",
            "tally_site.wsgi",
            "--preload",
            "--workers",
            "1",
            "--threads",
            "6",
            "--timeout",
            "120",
            "--keep-alive",
            "135",
            "--bind",
        ]
        command = {
            "web": [sys.executable, *web, f"{_NET}.{_HOSTS[host]}:8155"],
            "wor": [sys.executable, "manage.py", "work"],
            "fro": [shutil.which("nginx") or "nginx", "-c", str(self.folder / "nginx.conf")],
        }[host[:3]]
        with (self.folder / f"{host}.log").open("ab") as log:
            self.processes[host] = _in(host, *command, cwd=_ROOT / "server", env=self.environment, stdout=log, stderr=log)

    def kill(self, host: str) -> None:
        self.away.add(host)
        if host in ("db1", "db2"):
            return self.databases.kill(host)
        os.killpg(self.processes[host].pid, signal.SIGKILL)
        self.processes[host].wait()

    def failures(self) -> Counter[str]:
        """What the web hosts logged as a failure of the program: the last line of each trace."""
        found: Counter[str] = Counter()
        for host in ("web1", "web2"):
            traces = (self.folder / f"{host}.log").read_text(errors="replace").split("Traceback (most recent call last):")[1:]
            for trace in traces:
                last = next((line for line in trace.splitlines()[1:] if line and not line.startswith((" ", "During", "The above"))), "")
                found[f"on a web host: {last[:150]}"] += 1
        return found

    def end(self) -> None:
        self.over.set()
        for host in (*self.processes, "db2", "db1"):
            with suppress(OSError, ValueError):
                self.kill(host)
