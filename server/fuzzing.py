"""Damaged and hostile files out of good ones: a mutator with a fixed seed, and the process in which what it makes is read."""

import io
import json
import os
import random
import resource
import signal
import tempfile
import time
import traceback
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from tally_core.basics.errors import TallyError

__all__ = ["INPUTS", "Found", "mutated", "read_all"]

#: For each reader; the suite sends a few hundred, a long run tens of thousands.
INPUTS = int(os.environ.get("TALLY_FUZZED", "300"))

#: One input may take so many seconds, and all of them together so many bytes of memory more than there were.
SECONDS, MEMORY = 10, 1536 * 1024 * 1024

#: What parsers have stumbled over for decades.
_WORDS = [
    b"\x00", b"\xff\xfe", b"\xef\xbb\xbf", b"\xed\xa0\x80", b"\r", b"\n\n", b"\t", b";", b'"', b"'", b"<", b">", b"&", b"&#0;", b"&amp", b"]]>", b"<![CDATA[",
    b"<!DOCTYPE a [<!ENTITY b 'c'>]>", b"{", b"}", b"[", b"]", b":", b",", b"null", b"true", b"-1", b"0", b"NaN", b"Infinity", b"1e999", b"-1e-999999999",
    b"9999999999999999999", b"0.1", b"1,5", b"1.000,50", b"1/0", b"1/4", b"2026-02-30", b"0001-01-01", b"9999-12-31", b"XFD1048576", b"A0", b"R1-R999999999",
    b"=1+1", "Å".encode(), "\u202e".encode(), "１２".encode(), "٣".encode(), "½".encode(), "\U0001f642".encode(), b"PK\x03\x04", b"%PDF", b"endobj", b"stream",
]  # fmt: skip


def _piece(pick: random.Random, of: bytes) -> tuple[int, int]:
    start = pick.randrange(len(of) + 1)
    return start, min(len(of), start + pick.choice((1, 1, 2, 4, 8, 30, 200, 2000)))


def _once(pick: random.Random, of: bytes, others: Sequence[bytes]) -> bytes:
    start, end = _piece(pick, of)
    match pick.randrange(9):
        case 0 if of:
            at = pick.randrange(len(of))
            return of[:at] + bytes([of[at] ^ (1 << pick.randrange(8))]) + of[at + 1 :]
        case 1:
            return of[:start] + of[end:]
        case 2:
            return of[:start] + pick.choice(_WORDS) + of[start:]
        case 3:
            return of[:start] + pick.choice(_WORDS) + of[end:]
        case 4:
            return of[:start] + of[start:end] * pick.choice((2, 3, 50, 1000)) + of[end:]
        case 5:
            return of[:start]
        case 6:
            other = pick.choice(others)
            a, b = _piece(pick, other)
            return of[:start] + other[a:b] + of[end:]
        case 7:
            there, until = _piece(pick, of)
            return of[:there] + of[start:end] + of[until:]
        case _:
            return of[:start] + bytes(pick.randrange(256) for _ in range(pick.choice((1, 2, 8)))) + of[end:]


def mutated(pick: random.Random, seeds: Sequence[bytes]) -> bytes:
    """One of the seeds with one to six things done to it; of an archive, inside of one of its entries as often as from outside."""
    made = pick.choice(seeds)
    if made[:2] == b"PK" and pick.random() < 0.8:
        return _inside(pick, made)
    for _ in range(pick.choice((1, 1, 2, 3, 6))):
        made = _once(pick, made, seeds)
    return made[: 4 << 20]


def _inside(pick: random.Random, packed: bytes) -> bytes:
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    name = pick.choice(sorted(entries))
    for _ in range(pick.choice((1, 1, 2, 3))):
        entries[name] = _once(pick, entries[name], list(entries.values()))[: 4 << 20]
    if pick.random() < 0.05:
        del entries[pick.choice(sorted(entries))]
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for entry, content in entries.items():
            archive.writestr(entry, content)
    return buffer.getvalue()


@dataclass(slots=True)
class Found:
    """What became of all inputs: how many were read, how many refused in words, the failures by their cause, and the slowest in seconds."""

    read: int = 0
    refused: int = 0
    failed: dict[str, str] = field(default_factory=dict)
    slowest: float = 0.0


def read_all(read: Callable[[bytes], Any], seeds: Sequence[bytes], inputs: int, seed: int) -> Found:
    """Read the seeds and then mutated files, ``inputs`` in all, in a process of bounded memory; where that dies, which file did it is known and the rest goes on."""
    found = Found()
    at = 0
    while at < inputs and len(found.failed) < 20:
        with tempfile.TemporaryDirectory() as folder:
            said, last = Path(folder, "said"), Path(folder, "last")
            pid = os.fork()
            if pid == 0:
                try:
                    _child(read, seeds, range(at, inputs), seed, said, last)
                finally:
                    os._exit(0)
            status = _waited(pid, last)
            done: dict[str, Any] = (
                json.loads(said.read_text()) if said.exists() else {"read": 0, "refused": 0, "failed": {}, "slowest": 0.0}
            )
            found.read += done["read"]
            found.refused += done["refused"]
            found.failed |= done["failed"]
            found.slowest = max(found.slowest, done["slowest"])
            reached = int(last.read_text() or at)
            if status != 0:
                found.failed[f"the process ended by signal {os.WTERMSIG(status)}"] = f"input {reached} of seed {seed}"
            at = reached + 1
    return found


def _waited(pid: int, last: Path) -> int:
    """The status a process ended with; one that stands at one input, deep in a library where no alarm is heard, is ended."""
    at, since = "", time.monotonic()
    while not (ended := os.waitpid(pid, os.WNOHANG))[0]:
        time.sleep(0.02)
        now = last.read_text() if last.exists() else ""
        if now != at:
            at, since = now, time.monotonic()
        elif time.monotonic() - since > 2 * SECONDS:
            os.kill(pid, signal.SIGKILL)
    return ended[1]


class _TooLongError(BaseException):
    """Not an Exception: what reads must not take it for a trouble of the file."""


def _too_long(signal_: int, frame: object) -> None:
    raise _TooLongError


def _child(read: Callable[[bytes], Any], seeds: Sequence[bytes], inputs: range, seed: int, said: Path, last: Path) -> None:
    # On top of what the process that asks has mapped already, which the child has taken over.
    most = MEMORY + int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    signal.signal(signal.SIGALRM, _too_long)
    counts = {"read": 0, "refused": 0}
    failed: dict[str, str] = {}
    slowest = 0.0
    with last.open("w") as reached:
        for n in inputs:
            content = seeds[n] if n < len(seeds) else mutated(random.Random(seed * 1_000_003 + n), seeds)
            reached.seek(0)
            reached.write(str(n))
            reached.flush()
            began = time.perf_counter()
            signal.alarm(SECONDS)
            try:
                read(content)
                counts["read"] += 1
            except TallyError:
                counts["refused"] += 1
            except _TooLongError:
                failed[f"input {n} took longer than {SECONDS} s"] = f"{len(content)} bytes"
            except BaseException as error:
                where = traceback.extract_tb(error.__traceback__)[-1]
                failed.setdefault(
                    f"{type(error).__name__} in {where.name}", f"input {n} of seed {seed}: {str(error)[:200]} {content[:200]!r}"
                )
            finally:
                signal.alarm(0)
            slowest = max(slowest, time.perf_counter() - began)
    said.write_text(json.dumps(counts | {"failed": failed, "slowest": slowest}))
