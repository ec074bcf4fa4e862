"""A system of record that takes and gives files: ``items.csv``, ``structures.csv`` and ``plans.csv`` in a folder, a row for each item, line and step.

A thing's version is what its rows say. Columns that have no word in the map are theirs, and stay. Each file is written aside and put in
its place whole; a lock keeps two of us apart.
"""

import csv
import fcntl
import hashlib
import io
import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from outside.calling import CallFailed
from outside.records import FieldWord, Moved, Read, Thing, Trace, Words, Write
from outside.services import RecordService

__all__ = ["ByFolder"]

_FILES = {"items": "items.csv", "structures": "structures.csv", "plans": "plans.csv"}
_ROWS = {"structures": "rows", "plans": "steps"}
#: Of a structure and a plan, what stands with each row of it and is of the whole.
_OF_ALL = ("code", "variant", "lot")
_MOST_BYTES = 200_000_000
#: A cell holds a whole instruction.
csv.field_size_limit(1_000_000)


class ByFolder:
    """See ``outside.records.Book``."""

    words = Words(
        fields=[
            FieldWord("parts", "description", "text"),
            FieldWord("parts", "kind", "supply"),
            FieldWord("parts", "unit", "unit"),
            FieldWord("sheets", "batch", "lot"),
            FieldWord("lines", "item", "position"),
            FieldWord("lines", "part", "item"),
            FieldWord("lines", "quantity", "quantity"),
            FieldWord("lines", "unit", "unit"),
            FieldWord("lines", "scrap_percent", "scrap"),
            FieldWord("lines", "issue_at", "step"),
            FieldWord("lines", "option", "option"),
            FieldWord("lines", "option_action", "option_way"),
            FieldWord("lines", "reference_designators", "places"),
            FieldWord("lines", "not_fitted", "left_empty"),
            FieldWord("operations", "sequence", "number"),
            FieldWord("operations", "name", "title"),
            FieldWord("operations", "work_center", "station"),
            FieldWord("operations", "setup_minutes", "set_up_minutes"),
            FieldWord("operations", "run_minutes", "run_minutes"),
        ],
        values={},
    )

    def __init__(self, service: RecordService) -> None:
        self._folder = Path(service.folder)

    def read(self, top: str, codes: Iterable[str], goes_on: Callable[[int], None] = lambda done: None) -> Read:
        things = self._things()
        goes_on(len(things))
        beneath: dict[str, list[str]] = {}
        for (kind, key), thing in things.items():
            if kind == "structures":
                beneath.setdefault(key.partition("|")[0], []).extend(r.get("item") or "" for r in thing.body["rows"])
        wanted, waiting = {top, *codes}, [top]
        while waiting:
            waiting = [item for code in waiting for item in beneath.get(code, ()) if item and item not in wanted]
            wanted.update(waiting)
        return Read([t for (_, key), t in things.items() if key.partition("|")[0] in wanted], "")

    def these(self, keys: Sequence[tuple[str, str]]) -> list[Thing]:
        things = self._things()
        return [things[key] for key in keys if key in things]

    def moved(self, read: Read) -> list[Trace]:
        things = self._things()
        before = {(t.kind, t.key): t.version for t in read.things}
        codes = {key.partition("|")[0] for _, key in before}
        now = {k: t.version for k, t in things.items() if k[1].partition("|")[0] in codes}
        return [Trace(*k) for k in {**before, **now} if before.get(k) != now.get(k)]

    def find(self, words: str) -> list[Thing]:
        sought = words.casefold()
        found = [
            t
            for (kind, key), t in self._things().items()
            if kind == "items" and (sought in key.casefold() or sought in str(t.body.get("text", "")).casefold())
        ]
        return found[:20]

    def wrong(self, kind: str, key: str, body: Mapping[str, Any]) -> list[tuple[str, str]]:
        if any("\x00" in str(v) for v in (key, *body.values())):
            return [("text", "it holds a character that no file takes")]
        return []

    def as_held(self, body: Mapping[str, Any]) -> dict[str, Any]:
        held = _plain(body)
        for name in _ROWS.values():
            last = max((int(r["id"]) for r in held.get(name, []) if str(r.get("id")).isdecimal()), default=0)
            for row in held.get(name, []):
                if not row.get("id"):
                    last += 1
                    row["id"] = str(last)
        return held

    def write(self, writes: Sequence[Write], by: str) -> None:
        with self._held():
            things = self._things()
            moved = [(w.kind, w.key) for w in writes if _version(things.get((w.kind, w.key))) != w.version]
            if moved:
                raise Moved(moved)
            for w in writes:
                if w.body is None:
                    things.pop((w.kind, w.key), None)
                else:
                    things[w.kind, w.key] = Thing(w.kind, w.key, "", dict(w.body))
            for kind in dict.fromkeys(w.kind for w in writes):
                self._put(kind, [t for (k, _), t in things.items() if k == kind])

    @contextmanager
    def _held(self) -> Iterator[None]:
        try:
            with open(self._folder / ".tally-lock", "w") as lock:
                fcntl.flock(lock, fcntl.LOCK_EX)
                yield
        except OSError as error:
            raise CallFailed(f"the folder cannot be written ({error.strerror})") from None

    def _put(self, kind: str, things: list[Thing]) -> None:
        rows = [row for thing in things for row in _rows_of(thing)]
        names = list(dict.fromkeys(["code", *(() if kind == "items" else ("variant",)), *(n for row in rows for n in row)]))
        file = self._folder / _FILES[kind]
        aside = file.with_suffix(".new")
        with open(aside, "w", newline="", encoding="utf-8") as out:
            writer = csv.DictWriter(out, names, restval="", lineterminator="\r\n")
            writer.writeheader()
            writer.writerows(rows)
            out.flush()
            os.fsync(out.fileno())
        aside.replace(file)

    def _things(self) -> dict[tuple[str, str], Thing]:
        found: dict[tuple[str, str], Thing] = {}
        for kind, name in _FILES.items():
            for row in self._file(name):
                key = row["code"] if kind == "items" else f"{row['code']}|{row.get('variant') or 'A'}"
                if kind == "items":
                    found[kind, key] = Thing(kind, key, "", {n: v for n, v in row.items() if n != "code"})
                    continue
                held = found.setdefault((kind, key), Thing(kind, key, "", {"lot": row["lot"]} if "lot" in row else {}))
                rows = held.body.setdefault(_ROWS[kind], [])
                said = {n: v for n, v in row.items() if n not in _OF_ALL}
                # A structure without lines stands as a row that says nothing.
                if any(said.values()):
                    rows.append(said | {"id": str(len(rows) + 1)} if not said.get("id") else said)
        return {k: Thing(t.kind, t.key, _hash(t.body), t.body) for k, t in found.items()}

    def _file(self, name: str) -> list[dict[str, str]]:
        file = self._folder / name
        try:
            if not file.exists():
                return []
            if file.stat().st_size > _MOST_BYTES:
                raise CallFailed(f"{name} is larger than {_MOST_BYTES // 1_000_000} MB")
            text = file.read_text(encoding="utf-8-sig")
            rows = [{n: v or "" for n, v in row.items() if n} for row in csv.DictReader(io.StringIO(text, newline=""))]
        except OSError as error:
            raise CallFailed(f"{name} cannot be read ({error.strerror})") from None
        except (UnicodeDecodeError, csv.Error):
            raise CallFailed(f"{name} is no CSV file in UTF-8") from None
        if any(not row.get("code") for row in rows):
            raise CallFailed(f"{name} has a row without a code")
        return rows


def _rows_of(thing: Thing) -> list[dict[str, str]]:
    code, _, variant = thing.key.partition("|")
    if thing.kind == "items":
        return [{"code": code} | thing.body]
    rest = {n: v for n, v in thing.body.items() if n != _ROWS[thing.kind]}
    head = {"code": code, "variant": variant} | rest
    return [head | row for row in thing.body.get(_ROWS[thing.kind]) or [{}]]


def _plain(value: Any) -> Any:
    """A value as a file holds it."""
    if isinstance(value, Mapping):
        return {str(n): [_plain(x) for x in v] if n in _ROWS.values() else _plain(v) for n, v in value.items()}
    if isinstance(value, list):
        return ", ".join(map(str, value))
    if value is None:
        return ""
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


def _version(thing: Thing | None) -> str | None:
    return None if thing is None else thing.version


def _hash(body: Mapping[str, Any]) -> str:
    return hashlib.sha256(repr(sorted((n, repr(v)) for n, v in body.items())).encode()).hexdigest()[:20]
