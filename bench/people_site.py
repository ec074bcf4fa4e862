"""Web, worker and database as fifty people meet them, for ``./tally bench --people``; each can be killed outright, and comes back after a while."""

import json
import os
import secrets
import shlex
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import httpx

__all__ = ["AWAY", "Site", "running"]

_SERVER = Path(__file__).resolve().parent.parent / "server"
#: Seconds for which what was killed stays away.
AWAY = 5.0


class Site:
    """Two web processes under one that starts them, a worker for what is quick and one for what is long, and the private database."""

    def __init__(self, folder: Path) -> None:
        with socket.socket() as found:
            found.bind(("127.0.0.1", 0))
            self.port = found.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        services = folder / "services.json"
        record = {"words": "Files for the night run", "kind": "folder", "folder": str(folder)}
        services.write_text(json.dumps({"format": 1, "records": {"night": record}}))
        services.chmod(0o600)
        self.environment = os.environ | {"TALLY_SERVICES": str(services), "TALLY_SECRET_KEY": secrets.token_hex(32), "TALLY_METRICS": ""}
        self.log = (folder / "log").open("ab")
        self.processes = {what: self._start(what) for what in ("web", "worker", "worker-long")}
        self.over = threading.Event()
        self._away: set[str] = set()
        threading.Thread(target=self._keep_going, daemon=True).start()

    def _start(self, what: str) -> subprocess.Popen[bytes]:
        web = ["-m", "gunicorn", "tally_site.wsgi", "--bind", f"127.0.0.1:{self.port}", "--workers", "2", "--threads", "8"]
        work = ["manage.py", "work", "--queue-name", "default" if what == "worker" else "long,models"]
        words = [*web, "--timeout", "120", "--keep-alive", "75"] if what == "web" else work
        # Pools are for threads that come and go; a worker has one.
        environment = {n: v for n, v in self.environment.items() if what == "web" or n != "TALLY_POOL"}
        return subprocess.Popen([sys.executable, *words], cwd=_SERVER, env=environment, stdout=self.log, stderr=self.log)

    def _keep_going(self) -> None:
        """Start anew what ended by itself, as systemd would: a worker does when it loses the database."""
        while not self.over.wait(1.0):
            for what, process in self.processes.items():
                if what not in self._away and process.poll() is not None:
                    self.processes[what] = self._start(what)

    def pids(self) -> dict[str, int]:
        """Processes by what they are; a worker's children read files and end."""
        webs = _children(self.processes["web"].pid)
        return {f"web {at + 1}": pid for at, pid in enumerate(webs)} | {w: self.processes[w].pid for w in ("worker", "worker-long")}

    def memory(self) -> dict[str, float]:
        """Resident memory of each process, in megabytes."""
        return {what: _resident(pid) for what, pid in self.pids().items()}

    def kill(self, what: str) -> None:
        """End one web process, the worker or the database at once; answers when it is back."""
        if what == "database":
            return self._kill_database()
        if what == "web":
            # The one that started it starts another.
            os.kill(_children(self.processes["web"].pid)[0], signal.SIGKILL)
            return None
        self._away.add(what)
        self.processes[what].kill()
        self.processes[what].wait()
        time.sleep(AWAY)
        self.processes[what] = self._start(what)
        self._away.discard(what)
        return None

    def _kill_database(self) -> None:
        from launcher.cluster import as_owner, cluster_folder
        from launcher.machine import postgres_bin

        folder, binaries = cluster_folder(), postgres_bin()
        assert binaries is not None
        first = int((folder / "postmaster.pid").read_text().split()[0])
        options = shlex.join(w for w in shlex.split((folder / "postmaster.opts").read_text())[1:] if w not in ("-D", str(folder)))
        began = time.monotonic()
        for pid in (first, *_children(first)):
            with suppress(OSError):
                os.kill(pid, signal.SIGKILL)
        time.sleep(AWAY)
        (folder / "postmaster.pid").unlink(missing_ok=True)
        start = [str(binaries / "pg_ctl"), "-D", str(folder), "-o", options, "-w", "-t", "120", "-l", str(folder / "log"), "start"]
        subprocess.run(start, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, **as_owner())
        # Most of it may be PostgreSQL's own recovery, over which nobody here has power.
        print(
            f"the database answers again {time.monotonic() - began:.0f} s after it was killed, {AWAY:.0f} of them not started", flush=True
        )

    def end(self) -> None:
        self.over.set()
        for process in self.processes.values():
            process.terminate()
        for process in self.processes.values():
            try:
                process.wait(20)
            except subprocess.TimeoutExpired:
                process.kill()
        self.log.close()


def _children(pid: int) -> list[int]:
    return [int(c) for c in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def _resident(pid: int) -> float:
    with suppress(OSError):
        return int(Path(f"/proc/{pid}/status").read_text().split("VmRSS:")[1].split()[0]) / 1024
    return 0.0


@contextmanager
def running() -> Iterator[Site]:
    """A site that answers, in a folder of its own."""
    with tempfile.TemporaryDirectory(prefix="tally-people-") as folder:
        site: Any = Site(Path(folder))
        try:
            for _ in range(300):
                with suppress(httpx.HTTPError):
                    if httpx.get(f"{site.address}/api/session", timeout=5.0).status_code == 200:
                        break
                time.sleep(0.1)
            yield site
        finally:
            site.end()
