"""What every part of ``./tally`` stands on: its folders, what it says, its stamps and its secrets."""

import contextlib
import hashlib
import json
import os
import re
import secrets
import subprocess
import sys
import time
from pathlib import Path
from urllib.parse import quote

ROOT = Path(__file__).resolve().parent.parent
STATE = Path(os.environ.get("TALLY_STATE", ROOT / ".tally"))
VENV, WEB = ROOT / ".venv", ROOT / "web"
PYTHON = VENV / "bin" / "python"
CLUSTER_OWNER = "postgres"


def say(text: str) -> None:
    # One write: several things may be said at the same time.
    sys.stderr.write(f"{text}\n")
    sys.stderr.flush()


def fail(text: str) -> None:
    say(text)
    sys.exit(1)


def redacted(text: str) -> str:
    """Text without the passwords of this installation, whatever printed them."""
    with contextlib.suppress(OSError, ValueError):
        for word in json.loads((STATE / "secret.json").read_text()).values():
            text = text.replace(quote(word), "•••").replace(word, "•••")
    return re.sub(r"(postgres(?:ql)?://[^:/@\s]*):[^@\s]*@", r"\1:•••@", text)


def run(command: list, **options) -> None:
    """Run a command; on failure show the end of what it said."""
    done = subprocess.run([str(c) for c in command], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, **options)
    if done.returncode:
        fail(redacted(f"{' '.join(str(c) for c in command)} failed:\n{done.stdout[-4000:]}"))


@contextlib.contextmanager
def timed(words: str):
    """Say what is done, and how long it took."""
    say(f"{words} …")
    began = time.monotonic()
    yield
    say(f"{words}: {time.monotonic() - began:.0f} s")


def digest(*paths: Path) -> str:
    """A fingerprint of files and of everything under folders."""
    total = hashlib.sha256()
    for path in paths:
        for file in sorted(path.rglob("*")) if path.is_dir() else [path]:
            if file.is_file() and "__pycache__" not in file.parts and file.suffix != ".pyc":
                total.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    return total.hexdigest()


def stamped(name: str, value: str) -> bool:
    file = STATE / f"{name}.stamp"
    return file.exists() and file.read_text() == value


def stamp(name: str, value: str) -> None:
    (STATE / f"{name}.stamp").write_text(value)


def secret() -> dict[str, str]:
    file = STATE / "secret.json"
    if not file.exists():
        with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
            words = {"database": secrets.token_urlsafe(24), "keeper": secrets.token_urlsafe(24), "key": secrets.token_urlsafe(50)}
            json.dump(words, out)
    return json.loads(file.read_text())


def write_whole(file: Path, text: str) -> None:
    """Write a file so that whoever reads it finds all of it or what was there before."""
    aside = file.with_suffix(".new")
    aside.write_text(text)
    aside.replace(file)
