"""The commands of ``./tally``."""

import fcntl
import os
import pwd
import re
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from launcher.cluster import cluster_folder, database_url, drop_database, left_behind, stop_cluster
from launcher.ground import PYTHON, ROOT, STATE, VENV, WEB, fail, run, say
from launcher.machine import need_postgres, need_python, node, system_packages
from launcher.processes import keep, read_run, services_of_standins, start_processes, stop_processes
from launcher.served import django_environment, manage, migrated, need_web, prepare, ready_database, web_types

HELP = """\
./tally demo            install what is missing, load the demo, start everything, print the address
./tally serve           the same without the demo data
./tally stop            stop web, worker and database; keep the data
./tally reset           stop, and remove the database with all its data
./tally test [WORD...]  all tests, or those Django finds under the given labels
./tally check           lint and types
./tally load FILE       load a bundle
./tally cost PART       [--qty Q] [--as-of DATE] [--option CODE]... [--drafts] [--json]
./tally needs PART      --qty Q [the same]
./tally buildable PART  how many can be built from stock, and what one more lacks [the same, without --qty]
./tally read FILE...    what a list, a layout, a placement file or a STEP assembly says, without saving [--json]
./tally pair FILE       which of our parts each line of a list may be [--sender CODE] [--json]
./tally plan FILE       the cheapest way to buy what a purchase needs, with its proven bound [--seconds S] [--json]
./tally cut FILE        the least stock for all pieces, bars or boards, with a bound [--seconds S] [--json]
./tally compare AGREED OURS THEIRS   three bundles side by side, AGREED may be - for nothing [--json]
./tally export-bundle   [PART] [-o FILE]
./tally backup FILE     the database and its files in one archive; people may go on working
./tally restore FILE    put a backup into this checkout, where it holds nothing yet
./tally wheel [FOLDER]  the server with its front end as one package, and what it needs; for hosts without ./tally
./tally mutate [MODULE] small changes to the core, and how many its tests notice
./tally bench           the figures the program must reach, as ratios within one run
./tally dev             web, worker and a front end that reloads itself
./tally manage ...      Django's own command line
"""


def serve(demo: bool) -> None:
    prepare("run")
    url = migrated(database_url())
    with ThreadPoolExecutor() as side:
        web = side.submit(need_web)
        # The demo's suppliers name the services that answer for them; where these are is written anew when they start.
        if not (STATE / "services.json").exists():
            services_of_standins("http://127.0.0.1:9", "http://127.0.0.1:9")
        os.environ.setdefault("TALLY_SERVICES", str(STATE / "services.json"))
        if demo:
            done = manage("demo", url=url, stdout=sys.stderr)
            if done.returncode:
                sys.exit(done.returncode)
        web.result()
    port = start_processes(url, demo)
    print(f"\nRound Tally runs at http://127.0.0.1:{port}/")
    if demo:
        print("Sign in as engineer, accountant, buyer, shop, viewer or administrator; the password of each is: harbour-light")
    else:
        print("Make the first account with: ./tally manage createsuperuser")
    run = read_run()
    print(f"Stand-ins for services outside answer, and are told how to behave, at http://127.0.0.1:{run['data']}/ (parts data),")
    print(
        f"http://127.0.0.1:{run['suppliers']}/ (suppliers, rates) and http://127.0.0.1:{run['records']}/ (the records that production works from)"
    )
    if demo:
        print(f"and http://127.0.0.1:{run['sign_on']}/ (a sign-on, by which one comes in without a password)")
    print("Stop it with ./tally stop; remove its data with ./tally reset")


def count(said: str) -> tuple[int, int]:
    """Tests run and tests failed, from what unittest says at its end."""
    ran = sum(int(n) for n in re.findall(r"^Ran (\d+) tests?", said, re.M))
    failed = sum(
        int(n)
        for line in re.findall(r"^FAILED \((.*)\)", said, re.M)
        for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", line)
    )
    skipped = sum(int(n) for line in re.findall(r"^(?:OK|FAILED) \((.*)\)", said, re.M) for n in re.findall(r"skipped=(\d+)", line))
    return ran - skipped, failed


def tee(command: list, **options) -> tuple[str, int]:
    """Run a command, show what it says as it says it, and give it back."""
    said = []
    with subprocess.Popen([str(c) for c in command], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, **options) as process:
        assert process.stdout is not None
        for line in process.stdout:
            sys.stdout.write(line)
            sys.stdout.flush()
            said.append(line)
    return "".join(said), process.returncode


def test(labels: list[str]) -> None:
    if not shutil.which("chromium"):
        system_packages(["chromium"])
    prepare("dev")
    need_web()
    url = database_url(f"tally_{os.getpid()}")
    environment = django_environment(url) | {
        "TALLY_TASKS": "django_tasks.backends.immediate.ImmediateBackend",
        "TALLY_HASHER": "django.contrib.auth.hashers.MD5PasswordHasher",
        # Refusals are what many tests are about.
        "TALLY_LOG": "ERROR",
    }
    files = tempfile.TemporaryDirectory()
    environment["TALLY_FILES"] = files.name
    total = failed = code = 0
    suites = [[PYTHON, "server/manage.py", "test", "--noinput", "--parallel", "2", *(labels or ["server"])]]
    if not labels:
        suites.insert(0, [PYTHON, "-m", "unittest", "discover", "-s", "core", "-t", "core"])
    try:
        for suite in suites:
            said, returned = tee(suite, cwd=ROOT, env=environment)
            ran, broken = count(said)
            if returned and not broken:
                broken = 1
            total, failed, code = total + ran, failed + broken, code or returned
    finally:
        if not os.environ.get("DATABASE_URL"):
            drop_database(url)
    print(f"{max(total - failed, 0)} passed, {failed} failed")
    sys.exit(1 if failed or code or not total else 0)


def check() -> None:
    need_python("dev")
    environment = node()
    need_web()
    code = 0
    for command, folder in (
        ([VENV / "bin" / "ruff", "check", "core", "server", "bench", "standins", "launcher"], ROOT),
        ([VENV / "bin" / "ruff", "format", "--check", "core", "server", "bench", "standins", "launcher"], ROOT),
        ([VENV / "bin" / "mypy", "core/tally_core", "server", "bench"], ROOT),
        ([VENV / "bin" / "lint-imports"], ROOT),
        (["npm", "run", "-s", "check"], WEB),
    ):
        print(f"— {Path(command[0]).name} {' '.join(str(c) for c in command[1:])}", flush=True)
        python = django_environment("postgres://nobody@127.0.0.1:1/none")
        code |= subprocess.run(
            [str(c) for c in command],
            cwd=folder,
            env=environment
            | {k: python[k] for k in ("PYTHONPATH", "DATABASE_URL", "TALLY_SECRET_KEY", "TALLY_FILES", "DJANGO_SETTINGS_MODULE")},
        ).returncode
    url_free = subprocess.run(
        [str(PYTHON), "server/manage.py", "makemigrations", "--check", "--dry-run"],
        cwd=ROOT,
        env=django_environment("postgres://nobody@127.0.0.1:1/none"),
        stderr=subprocess.DEVNULL,
    )
    sys.exit(1 if code or url_free.returncode else 0)


def wheel(folder: Path) -> None:
    """The server, its core and the built front end as a wheel, beside it the list of all that it needs, pinned by hash."""
    need_python("dev")
    need_web()
    folder.mkdir(parents=True, exist_ok=True)
    # What builds it is installed and pinned already: nothing else is fetched for it.
    build = [PYTHON, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "--wheel-dir", folder, ROOT]
    run([*build, "--disable-pip-version-check"])
    shutil.copy(ROOT / "requirements" / "run.txt", folder / "round-tally-needs.txt")
    print("\n".join(str(made) for made in sorted(folder.glob("round[_-]tally-*"))))


def dev() -> None:
    url = ready_database()
    need_web()
    port = start_processes(url)
    web_types(node())
    say(f"The API runs on port {port}; the front end reloads itself.")
    os.chdir(WEB)
    os.execvpe("npx", ["npx", "vite"], node() | {"TALLY_API": f"http://127.0.0.1:{port}"})


def stop() -> None:
    stop_processes()
    stop_cluster(cluster_folder())


def reset() -> None:
    stop()
    folder = cluster_folder()
    for gone in (*left_behind(folder), folder):
        stop_cluster(gone)
        shutil.rmtree(gone, ignore_errors=True)
    for name in ("files", "exchange"):
        shutil.rmtree(STATE / name, ignore_errors=True)
    for name in (
        "secret.json",
        "web.log",
        "worker.log",
        "worker-long.log",
        "parts-data.log",
        "suppliers.log",
        "records.log",
        "sign-on.log",
        "keep.log",
    ):
        (STATE / name).unlink(missing_ok=True)
    for file in (*STATE.glob("migrated-*.stamp"), *STATE.glob("database-*.stamp")):
        file.unlink()


def main(words: list[str]) -> None:
    command, rest = (words[0], words[1:]) if words else ("help", [])
    if command == "keep" and len(rest) == 5:
        return keep(*rest)
    if command in ("help", "-h", "--help"):
        return print(HELP, end="")
    try:
        STATE.mkdir(parents=True, exist_ok=True, mode=0o700)
        lock = open(STATE / "lock", "w")  # noqa: SIM115
    except OSError as error:
        fail(
            f"{STATE} cannot be written ({error.strerror}). Round Tally keeps its data there; make it writable for "
            f"{pwd.getpwuid(os.geteuid()).pw_name}, or name another folder by TALLY_STATE."
        )
    # Two commands at once would both install, migrate or start; the second waits.
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        say("Another ./tally is at work here; waiting until it is done …")
        fcntl.flock(lock, fcntl.LOCK_EX)
    match command:
        case "demo" | "serve":
            serve(command == "demo")
        case "stop":
            stop()
        case "reset":
            reset()
        case "test":
            test(rest)
        case "check":
            check()
        case "dev":
            dev()
        case "load" | "cost" | "needs" | "buildable" | "read" | "pair" | "plan" | "compare" | "cut" | "export-bundle" | "manage":
            url = ready_database()
            fcntl.flock(lock, fcntl.LOCK_UN)
            asked = rest if command == "manage" else [command.replace("-", "_"), *rest]
            sys.exit(
                manage(
                    *asked,
                    url=url,
                    settings="tally_site.lean"
                    if command in ("cost", "needs", "buildable", "plan", "compare", "cut")
                    else "tally_site.settings",
                ).returncode
            )
        case "backup":
            sys.exit(manage("backup", *rest, url=ready_database()).returncode)
        case "restore":
            url = ready_database()
            # Whoever is at work keeps the tables from being made anew.
            stop_processes()
            sys.exit(manage("restore", *rest, url=url).returncode)
        case "wheel":
            wheel(Path(rest[0] if rest else STATE / "wheel").absolute())
        case "mutate":
            need_python("dev")
            fcntl.flock(lock, fcntl.LOCK_UN)
            sys.exit(
                subprocess.run(
                    [str(PYTHON), "-m", "bench.mutate", *rest], cwd=ROOT, env=os.environ | {"PYTHONPATH": f"{ROOT / 'core'}:{ROOT}"}
                ).returncode
            )
        case "bench":
            if not shutil.which("chromium"):
                system_packages(["chromium"])
            need_postgres()
            need_python("dev")
            need_web()
            people = "--people" in rest
            # What people do in it stays in it: theirs is made anew each time.
            url = database_url("tally_people" if people else "tally_bench")
            done = subprocess.run([str(PYTHON), "-m", "bench", *rest], cwd=ROOT, env=django_environment(url))
            if people:
                drop_database(url)
            sys.exit(done.returncode)
        case _:
            fail(f"There is no command {command!r}.\n\n{HELP}")
