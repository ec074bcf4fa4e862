"""Files from outside are read apart: in a process of their own, with bounded memory and time.

Whatever a file sets off in the libraries that read it, it ends with that process. One *reader* stands beside each process
that asks; it has imported what reading takes and nothing else, and knows neither the database nor any secret. It keeps forks of
itself warm that wait for one file each: so a small list costs little more than where it is asked. ``python -m formats.apart``
is the reader.
"""

import atexit
import base64
import contextlib
import ctypes
import gc
import os
import resource
import select
import shutil
import signal
import socket
import struct
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

import orjson
from tally_core.basics.errors import TallyError

from formats.cells import day_as_json, rows_of_json
from formats.flat import Column, Picture, list_workbook
from formats.layouts import parse_layout
from formats.pictures import measure_picture, page_picture, small_picture
from formats.tables import Table, parse_tables

__all__ = ["Page", "page_for_drawing", "picture_for_list", "picture_size", "read_layout", "read_tables"]

#: What one file may take: bytes of memory, seconds of work, seconds by the clock. Files read at once beside one process.
MEMORY, WORK, CLOCK, AT_ONCE = 1536 * 1024 * 1024, 60, 90, 4
WAITING = 2
_PROGRAM = ["-m", "formats.apart"]
_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG, linux/prctl.h
_HEAD, _PID = struct.Struct("!II"), struct.Struct("!I")


# -- asking


def read_tables(name: str, content: bytes) -> list[Table]:
    """The tables of a file by its ending. Raises TallyError, in the user's words, for what cannot be read."""
    # Most lists hold no day, and then their rows are what JSON made of them.
    return [Table(t["name"], rows_of_json(t["rows"]) if t["days"] else t["rows"]) for t in _ask("tables", name, content)]


def read_layout(name: str, content: bytes) -> dict[str, Any]:
    """What a board layout by IPC-2581 says. Raises TallyError, in the user's words, for what cannot be read."""
    return _ask("layout", name, content)


def picture_size(name: str, content: bytes) -> tuple[int, int]:
    """Width and height in points of a picture that can be shown. Raises TallyError for one that cannot."""
    width, height = _ask("picture", name, content)
    return width, height


def picture_for_list(name: str, content: bytes) -> Picture:
    """A picture small enough to stand in a list. Raises TallyError for one that cannot be drawn."""
    drawn = _ask("small", name, content)
    return Picture(name, base64.b64decode(drawn["png"]), drawn["width"], drawn["height"])


@dataclass(frozen=True, slots=True)
class Page:
    """A picture to stand on a drawing, and how large it is there at 1:1."""

    png: bytes
    width_mm: float
    height_mm: float


def page_for_drawing(name: str, content: bytes, page: int) -> Page:
    """A picture, or a page of a PDF from 1 on. Raises TallyError for one that cannot be drawn."""
    drawn = _ask("page", name, content, page)
    return Page(base64.b64decode(drawn["png"]), drawn["width_mm"], drawn["height_mm"])


def _ask(what: str, name: str, content: bytes, *more: int) -> Any:
    words = orjson.dumps([what, name.encode("utf-8", "replace").decode(), *more])
    said = b""
    for again in (False, True):
        try:
            with socket.socket(socket.AF_UNIX) as line:
                line.settimeout(CLOCK + 10)
                line.connect(_reader.address())
                line.sendall(_HEAD.pack(len(words), len(content)) + words)
                # Nothing is not sent: who reads nothing may have answered and gone by then.
                if content:
                    line.sendall(content)
                said = b"".join(iter(lambda: line.recv(1 << 20), b""))
            break
        except (ConnectionRefusedError, FileNotFoundError):
            # The reader itself was ended from outside: another takes its place, once.
            if again:
                raise TallyError(f"{name} could not be read just now; try again in a moment.") from None
            _reader.forget()
        except OSError:
            break
    if not said:
        raise TallyError(
            f"{name} was not read: reading it takes more memory or time than a list can need. Save only the list itself and try again."
        )
    answer = _unpacked(said)
    if "refused" in answer:
        raise TallyError(answer["refused"])
    return answer["read"]


def _unpacked(said: bytes) -> dict[str, Any]:
    # Half a million cells made at once set the collector off dozens of times, and it finds nothing: that costs four times the reading.
    collects = gc.isenabled()
    gc.disable()
    try:
        return orjson.loads(said)
    finally:
        if collects:
            gc.enable()


class _Reader:
    """The reader beside this process; started when it is first needed."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen | None = None
        self._folder = ""

    def address(self) -> str:
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._start()
            return f"{self._folder}/line"

    def forget(self) -> None:
        with self._lock:
            if self._process is not None:
                self._process.kill()
            self._process = None

    def _start(self) -> None:
        self._folder = tempfile.mkdtemp(prefix="tally-reader-")
        atexit.register(shutil.rmtree, self._folder, ignore_errors=True)
        # Neither the database's address nor a key is handed on.
        environment = {k: v for k, v in os.environ.items() if k in ("PATH", "LANG", "LC_ALL", "PYTHONPATH", "TMPDIR")}
        environment["PYTHONPATH"] = os.pathsep.join(str(Path(p).resolve()) for p in sys.path if p)
        self._process = subprocess.Popen(
            [sys.executable, *_PROGRAM, f"{self._folder}/line"],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            env=environment,
            cwd=Path(__file__).parent.parent,
        )
        assert self._process.stdout is not None
        self._process.stdout.readline()
        self._process.stdout.close()


_reader = _Reader()


# -- reading


def _tables(name: str, content: bytes) -> list[dict[str, Any]]:
    return [
        {"name": t.name, "rows": t.rows, "days": any(isinstance(cell, date) for row in t.rows for cell in row)}
        for t in parse_tables(name, content)
    ]


_WHAT: dict[str, Callable[..., Any]] = {
    "page": page_picture,
    "tables": _tables,
    "picture": measure_picture,
    "small": small_picture,
    "layout": parse_layout,
}


def _warm() -> None:
    """Read what is harmless, so that the first file finds nothing cold."""
    parse_tables("warm.csv", b"a;b\n1;2\n")
    parse_tables("warm.xlsx", list_workbook("Warm", [Column("a")], [["b"], [1.5]]))


def _read_one(listening: socket.socket, busy: int) -> None:
    """Wait for one file, say that this process is taken, and answer; the process ends with it."""
    # Who waits ends with the reader, even when that is killed.
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    _warm()
    line, _ = listening.accept()
    os.write(busy, _PID.pack(os.getpid()))
    signal.alarm(CLOCK)
    for limit, most in ((resource.RLIMIT_AS, MEMORY), (resource.RLIMIT_CPU, WORK), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_FSIZE, 0)):
        resource.setrlimit(limit, (most, most))
    gc.disable()  # what is left lying goes with this process
    with line, line.makefile("rb") as asked:
        words, size = _HEAD.unpack(asked.read(_HEAD.size))
        what, name, *more = orjson.loads(asked.read(words))
        answer: dict[str, Any]
        try:
            answer = {"read": _WHAT[what](name, asked.read(size), *more)}
        except TallyError as error:
            answer = {"refused": str(error)}
        except MemoryError:
            return
        except Exception as error:
            answer = {"refused": f"{name} could not be read ({type(error).__name__})."}
        line.sendall(orjson.dumps(answer, default=day_as_json, option=orjson.OPT_PASSTHROUGH_DATETIME))


def _serve(address: str) -> None:
    """Keep processes that wait for files, until the process that started this one has ended."""
    parent = os.getppid()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    listening = socket.socket(socket.AF_UNIX)
    listening.bind(address)
    listening.listen(64)
    taken, busy = os.pipe()
    _warm()
    print("ready", flush=True)
    # What a library says as it dies is for nobody.
    os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    waiting: set[int] = set()
    reading: set[int] = set()
    while os.getppid() == parent:
        while len(waiting) < WAITING and len(waiting) + len(reading) < AT_ONCE:
            pid = os.fork()
            if pid == 0:
                with contextlib.suppress(BaseException):
                    _read_one(listening, busy)
                os._exit(0)
            waiting.add(pid)
        if select.select([taken], [], [], 0.02 if reading else 1)[0]:
            (pid,) = _PID.unpack(os.read(taken, _PID.size))
            # One that has ended already is in neither.
            if pid in waiting:
                waiting.remove(pid)
                reading.add(pid)
            # Another is made when this file is likely read, not while it is.
            time.sleep(0.02)
        while waiting or reading:
            pid, _ = os.waitpid(-1, os.WNOHANG)
            if pid == 0:
                break
            waiting.discard(pid)
            reading.discard(pid)


if __name__ == "__main__":
    _serve(sys.argv[1])
