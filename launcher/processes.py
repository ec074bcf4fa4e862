"""Web, worker and the stand-ins in the background: started, found again, kept running, ended."""

import contextlib
import hashlib
import json
import os
import secrets
import shutil
import signal
import subprocess
import time
import urllib.request
from pathlib import Path

from launcher.cluster import free_port
from launcher.ground import PYTHON, ROOT, STATE, WEB, digest, fail, redacted, write_whole
from launcher.served import django_environment, manage


def read_run() -> dict:
    """What runs by what was written down; nothing where that is damaged."""
    with contextlib.suppress(OSError, ValueError):
        held = json.loads((STATE / "run.json").read_text())
        if isinstance(held, dict) and isinstance(held.get("port"), int) and isinstance(held.get("keeper"), int):
            return held
    return {}


def alive(pid: int | None) -> bool:
    """Whether a process of ours still runs: the number alone may have been given to another program."""
    return bool(pid) and pid in ours()


def ours() -> list[int]:
    """The processes that keep, serve and work here, by their command lines, whatever was written down of them."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError, ValueError):
            words = (folder / "cmdline").read_bytes().split(b"\0")
            state = (folder / "stat").read_text().rsplit(")", 1)[1].split()[0]
            if (words[0] == str(PYTHON).encode() and state != "Z" and str(STATE).encode() in (folder / "environ").read_bytes()) and any(
                w in words
                for w in (
                    b"keep",
                    b"gunicorn",
                    b"work",
                    b"standins.parts_data",
                    b"standins.suppliers",
                    b"standins.records",
                    b"standins.sign_on",
                )
            ):
                found.append(int(folder.name))
    return found


def stop_processes() -> None:
    """End what keeps the others first, then whatever is left."""
    keeper = read_run().get("keeper")
    first = [keeper] if alive(keeper) else []
    for pids, how in ((first, signal.SIGTERM), (None, signal.SIGTERM), (None, signal.SIGKILL)):
        for pid in ours() if pids is None else pids:
            with contextlib.suppress(OSError):
                os.kill(pid, how)
        for _ in range(100):
            if not (ours() if pids is None else [p for p in pids if alive(p)]):
                break
            time.sleep(0.1)
    (STATE / "run.json").unlink(missing_ok=True)


def answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session", timeout=3) as reply:
            return reply.status == 200
    except OSError:
        return False


def wanted_port(held: int | None) -> int:
    """The usual port, or the one held before; another only when those stay taken, not for the moment of a restart."""
    usual = int(os.environ.get("TALLY_PORT", "8155"))
    for port in dict.fromkeys(p for p in (held, usual) if p):
        for _ in range(50):
            if free_port(port) == port:
                return port
            time.sleep(0.1)
    return free_port()


def start_processes(url: str, demo: bool = False) -> int:
    """Web and worker in the background; leaves them alone when they run this code already. Returns the port.

    Only the demo has a stand-in that proves people: it believes whoever comes.
    """
    wanted = (
        digest(ROOT / "server", ROOT / "core", ROOT / "standins", WEB / "dist", ROOT / "tally", ROOT / "launcher")
        + hashlib.sha256(f"{url} {demo}".encode()).hexdigest()
    )
    held = read_run()
    if held.get("stamp") == wanted and alive(held["keeper"]) and answers(held["port"]):
        return held["port"]
    stop_processes()
    manage("schedule", url=url, stdout=subprocess.DEVNULL)
    port = wanted_port(held.get("port"))
    data = free_port(held.get("data") or port + 10)
    suppliers = free_port(held.get("suppliers") or port + 11)
    records = free_port(held.get("records") or port + 12)
    sign_on = free_port(held.get("sign_on") or port + 13) if demo else 0
    with open(STATE / "keep.log", "ab") as log:
        # Its first word names this folder's Python, by which `ours` knows it again.
        keeper = subprocess.Popen(
            [str(PYTHON), str(ROOT / "tally"), "keep", *map(str, (port, data, suppliers, records, sign_on))],
            env=django_environment(url),
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
        ).pid
    write_whole(
        STATE / "run.json",
        json.dumps(
            {"port": port, "data": data, "suppliers": suppliers, "records": records, "sign_on": sign_on, "stamp": wanted, "keeper": keeper}
        ),
    )
    for _ in range(300):
        if answers(port):
            return port
        if not alive(keeper):
            break
        time.sleep(0.1)
    log_of = STATE / "web.log" if (STATE / "web.log").exists() else STATE / "keep.log"
    fail(redacted(f"The web server does not answer; its log is {log_of}:\n{log_of.read_text()[-3000:]}"))
    return 0


def services_of_standins(suppliers: str, records: str, sign_on: str = "") -> Path:
    """Write the file of services (server/outside/services.py) that leads to the stand-ins; only who serves may read it."""
    file = STATE / "services.json"
    services: dict[str, object] = {
        "format": 1,
        "suppliers": {
            "northquay": {
                "words": "Northquay, prices by number (stand-in)",
                "kind": "items",
                "address": f"{suppliers}/northquay/",
                "key": "harbour",
                "calls_a_minute": 300,
            },
            "kelpie": {
                "words": "Kelpie, quotations (stand-in)",
                "kind": "quotation",
                "address": f"{suppliers}/kelpie/",
                "key": "LBW-7",
                "calls_a_minute": 60,
            },
        },
        "rates": {"words": "Rates of currencies (stand-in)", "address": f"{suppliers}/"},
        "records": {
            "yard": {
                "words": "The yard's book, written together (stand-in)",
                "kind": "resources",
                "address": f"{records}/yard/",
                "key": "ledger-key",
            },
            "pier": {
                "words": "The pier's book, written one by one (stand-in)",
                "kind": "resources",
                "address": f"{records}/pier/",
                "key": "ledger-key",
            },
            "exchange": {"words": "A folder of CSV files", "kind": "folder", "folder": str(STATE / "exchange")},
        },
        "hooks": {
            "line": {
                "words": "A program of the line (stand-in)",
                "address": f"{records}/told",
                "key": secrets.token_urlsafe(24),
                "resolves_to": ["127.0.0.1"],
            }
        },
    }
    if sign_on:
        services["sign_on"] = {
            "words": "the yard's sign-on (stand-in)",
            "issuer": sign_on,
            "client": "round-tally",
            "secret": "rope-and-anchor",
            "makes_people": True,
            "groups": "groups",
            "roles": {"yard-drawing-office": "engineer", "yard-purchasing": "buyer"},
        }
    (STATE / "exchange").mkdir(exist_ok=True)
    file.unlink(missing_ok=True)
    with open(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as written:
        json.dump(services, written)
    return file


def keep(port: str, data: str, suppliers: str, records: str, sign_on: str) -> None:
    """Keep web, worker and the stand-ins running: one that ends is started anew, after a second, and later each time it ends again soon."""
    commands = {
        "web": [
            PYTHON,
            "-m",
            "gunicorn",
            "tally_site.wsgi",
            "--bind",
            f"127.0.0.1:{port}",
            "--workers",
            "2",
            "--threads",
            "8",
            "--timeout",
            "120",
            # Longer than people think between two requests: a connection that is closed just as it is used loses what was sent.
            "--keep-alive",
            "75",
            "--no-control-socket",
            "--chdir",
            ROOT / "server",
        ],
        # Two, so that who brings a list in waits for no tally of everything.
        "worker": [PYTHON, ROOT / "server" / "manage.py", "work", "--queue-name", "default"],
        "worker-long": [PYTHON, ROOT / "server" / "manage.py", "work", "--queue-name", "long,models"],
        "parts-data": [PYTHON, "-m", "standins.parts_data", data],
        "suppliers": [PYTHON, "-m", "standins.suppliers", suppliers],
        "records": [PYTHON, "-m", "standins.records", records],
    }
    if sign_on != "0":
        commands["sign-on"] = [PYTHON, "-m", "standins.sign_on", sign_on]
    if os.environ.get("TALLY_METRICS"):
        # Where the web processes count together; what was counted before they began is not theirs.
        shutil.rmtree(STATE / "metrics", ignore_errors=True)
        (STATE / "metrics").mkdir()
        os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(STATE / "metrics")
    os.environ["TALLY_PARTS_DATA"] = f"http://127.0.0.1:{data}"
    services = services_of_standins(
        f"http://127.0.0.1:{suppliers}", f"http://127.0.0.1:{records}", f"http://127.0.0.1:{sign_on}" if sign_on != "0" else ""
    )
    os.environ.setdefault("TALLY_SERVICES", str(services))
    running: dict[str, subprocess.Popen] = {}
    began, delay, due = dict.fromkeys(commands, 0.0), dict.fromkeys(commands, 1.0), dict.fromkeys(commands, 0.0)
    ending = False

    def end(*_: object) -> None:
        nonlocal ending
        ending = True

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
    while not ending:
        now = time.monotonic()
        for name, command in commands.items():
            process = running.get(name)
            if process is not None and process.poll() is not None:
                delay[name] = 1.0 if now - began[name] > 60 else min(delay[name] * 2, 30.0)
                due[name] = now + delay[name]
                print(f"{name} ended ({process.returncode}); it is started anew in {delay[name]:.0f} s", flush=True)
                del running[name]
            if name not in running and now >= due[name]:
                with open(STATE / f"{name}.log", "ab") as log:
                    running[name] = subprocess.Popen([str(c) for c in command], stdin=subprocess.DEVNULL, stdout=log, stderr=log)
                began[name] = now
        time.sleep(0.2)
    for process in running.values():
        process.terminate()
    for process in running.values():
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
