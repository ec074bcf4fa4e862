"""A system of record as a shop may have one: items, structures, plans and stations, each with a version; all made up.

``python -m standins.records PORT``; the environment's ``DATABASE_URL`` names the server on which it keeps a database of its own.

It keeps two books. Of *yard* several things are written together or not at all, of *pier* only one by one. Addresses are
``/BOOK/v1/KIND`` (``?beneath=CODE``, ``?codes=A,B``, ``?words=...``, in pages by ``?after=``), ``/BOOK/v1/KIND/KEY`` with ETag and If-Match,
``/BOOK/v1/together`` and ``/BOOK/v1/moved?since=STAMP``; ``/told`` is a program that listens to what we tell. ``/`` is the page that makes each book slow, down, moving, refusing, or break off.
"""

import json
import os
import sys
import threading
import time
from collections.abc import Iterable
from decimal import Decimal, InvalidOperation
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit

import psycopg
from psycopg.types.json import Jsonb

from standins.service import StandIn, StandInHandler

__all__ = ["BOOKS", "KINDS", "MODES", "Server", "own_database", "serve"]

BOOKS = {"yard": "The yard's book, written together", "pier": "The pier's book, written one by one"}
KINDS = ("items", "structures", "plans", "stations")
MODES = {
    "well": "answers at once",
    "slow": "answers after six seconds",
    "down": "answers 503",
    "moving": "somebody edits there what is about to be written",
    "breaking": "breaks off in the middle of writing",
    "refusing": "does not take the account",
}
_KEY = "ledger-key"
_PAGE = 500
_LONGEST_CODE = 20
_TABLE = """
CREATE TABLE IF NOT EXISTS thing (
    book text, kind text, key text, version int NOT NULL, body jsonb, moved bigint NOT NULL, by text NOT NULL, at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (book, kind, key));
CREATE INDEX IF NOT EXISTS thing_moved ON thing (book, moved);
CREATE SEQUENCE IF NOT EXISTS moves;
CREATE SEQUENCE IF NOT EXISTS rows;
"""


class _Answer(Exception):
    """What ends a call: a status and what is said with it."""

    def __init__(self, status: int, said: Any) -> None:
        super().__init__(status)
        self.status, self.said = status, said


def own_database(url: str) -> str:
    """The address of a database of its own beside the one named, made if it is not there yet."""
    head, _, name = url.rpartition("/")
    name = f"{name.partition('?')[0]}_record"
    with psycopg.connect(url, autocommit=True) as there:
        if not there.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone():
            there.execute(psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(name)))
    return f"{head}/{name}"


class Server(StandIn):
    """The books.

    Attributes:
        writes: calls that wrote, so far.
        faults: the number of such a call → how it goes wrong: ``before`` it writes, ``after``, ``stall``, ``refuse``, or it is ``down``.
    """

    def __init__(self, port: int, database: str) -> None:
        super().__init__(port, _Handler, "Records", BOOKS, MODES)
        self.held = threading.RLock()
        self.database = psycopg.connect(database, autocommit=True)
        self.database.execute(_TABLE)
        self.writes = 0
        self.faults: dict[int, str] = {}

    def server_close(self) -> None:
        super().server_close()
        self.database.close()

    def put(self, book: str, kind: str, key: str, body: dict[str, Any] | None, by: str = "production") -> int:
        """Write one thing whatever its version is, None to take it away, as somebody over there does; its version."""
        with self.held, self.database.transaction():
            return self._write(book, kind, key, body, by)

    def _write(self, book: str, kind: str, key: str, body: dict[str, Any] | None, by: str) -> int:
        if body is not None and kind in ("structures", "plans"):
            rows = body["rows" if kind == "structures" else "steps"]
            fresh = [row for row in rows if not row.get("id")]
            for row, (number,) in zip(
                fresh, self.database.execute("SELECT nextval('rows') FROM generate_series(1, %s)", [len(fresh)]), strict=True
            ):
                row["id"] = f"r{number}"
        found = self.database.execute(
            "INSERT INTO thing VALUES (%s, %s, %s, 1, %s, nextval('moves'), %s) ON CONFLICT (book, kind, key) DO UPDATE SET version = thing.version + 1, "
            "body = EXCLUDED.body, moved = EXCLUDED.moved, by = EXCLUDED.by, at = now() RETURNING version",
            [book, kind, key, None if body is None else Jsonb(body), by],
        ).fetchone()
        assert found is not None
        return found[0]

    def write(self, book: str, writes: list[dict[str, Any]], by: str) -> list[dict[str, Any]]:
        """Write several things, each if it has the version that is expected of it (None: if it is not there)."""
        with self.held, self.database.transaction():
            keys = [(w["kind"], w["key"]) for w in writes]
            held = {(t["kind"], t["key"]): t["version"] for t in self.things(book, keys)}
            moved = [list(k) for k, w in zip(keys, writes, strict=True) if held.get(k) != w["match"]]
            if moved:
                raise _Answer(412, {"moved": moved})
            problems = [p for w in writes for p in self._wrong(book, w, writes)]
            if problems:
                raise _Answer(422, {"problems": problems})
            for w in writes:
                self._write(book, w["kind"], w["key"], w["body"], by)
            return self.things(book, keys)

    def _wrong(self, book: str, write: dict[str, Any], writes: list[dict[str, Any]]) -> Iterable[dict[str, str]]:
        """What its own rules say against a thing."""
        kind, key, body = write["kind"], write["key"], write["body"]

        def wrong(field: str, says: str) -> dict[str, str]:
            return {"kind": kind, "key": key, "field": field, "says": says}

        if body is None:
            return
        if kind == "items":
            if not str(body.get("text") or "").strip():
                yield wrong("text", "an item needs a text")
            if len(key) > _LONGEST_CODE:
                yield wrong("code", f"a code has at most {_LONGEST_CODE} characters")
        if kind == "structures":
            rows = body.get("rows") or []
            wanted = {r.get("item") for r in rows if r.get("item")}
            known = {t["key"] for t in self.things(book, [("items", w) for w in wanted])}
            known |= {w["key"] for w in writes if w["kind"] == "items" and w["body"] is not None}
            for code in sorted(wanted - known):
                yield wrong("item", f"{code} is not among the items")
            for row in rows:
                try:
                    if Decimal(str(row.get("amount") or 0)) < 0:
                        raise InvalidOperation
                except InvalidOperation:
                    yield wrong("amount", f"{row.get('item')}: an amount is a number")

    def things(self, book: str, keys: Iterable[tuple[str, str]]) -> list[dict[str, Any]]:
        """Some things, those that are there."""
        kinds, names = [k for k, _ in keys], [n for _, n in keys]
        with self.held:
            rows = self.database.execute(
                "SELECT t.kind, t.key, t.version, t.body, t.by, t.at FROM unnest(%s::text[], %s::text[]) WITH ORDINALITY w(kind, key, at) "
                "JOIN thing t ON t.book = %s AND t.kind = w.kind AND t.key = w.key WHERE t.body IS NOT NULL ORDER BY w.at",
                [kinds, names, book],
            ).fetchall()
        return [_as_told(*row) for row in rows]

    def beneath(self, book: str, tops: list[str]) -> list[str]:
        """The codes of some items and of all beneath them."""
        found = dict.fromkeys(tops)
        waiting = tops
        while waiting:
            with self.held:
                rows = self.database.execute(
                    "SELECT DISTINCT r->>'item' FROM thing, jsonb_array_elements(body->'rows') r WHERE book = %s AND kind = 'structures' "
                    "AND split_part(key, '|', 1) = ANY(%s) AND body IS NOT NULL AND r->>'item' IS NOT NULL",
                    [book, waiting],
                ).fetchall()
            waiting = sorted({code for (code,) in rows} - found.keys())
            found |= dict.fromkeys(waiting)
        return list(found)

    def page(self, book: str, kind: str, codes: list[str] | None, words: str, after: str) -> list[dict[str, Any]]:
        """Up to a page of things of a kind, by their key."""
        with self.held:
            rows = self.database.execute(
                'SELECT kind, key, version, body, by, at FROM thing WHERE book = %s AND kind = %s AND body IS NOT NULL AND key COLLATE "C" > %s '
                "AND (%s::text[] IS NULL OR split_part(key, '|', 1) = ANY(%s)) AND (%s = '' OR key ILIKE %s OR body->>'text' ILIKE %s) "
                'ORDER BY key COLLATE "C" LIMIT %s',
                [book, kind, after, codes, codes, words, f"%{words}%", f"%{words}%", _PAGE],
            ).fetchall()
        return [_as_told(*row) for row in rows]

    def stamp(self, book: str) -> int:
        """A number that is higher as soon as anything moves."""
        with self.held:
            found = self.database.execute("SELECT max(moved) FROM thing WHERE book = %s", [book]).fetchone()
        return (found and found[0]) or 0

    def moved(self, book: str, since: int) -> dict[str, Any]:
        """What moved since a stamp."""
        with self.held:
            rows = self.database.execute(
                "SELECT kind, key, by, at FROM thing WHERE book = %s AND moved > %s ORDER BY moved", [book, since]
            ).fetchall()
        told = [{"kind": k, "key": n, "by": by, "at": at.isoformat()} for k, n, by, at in rows]
        return {"rows": told}


def _as_told(kind: str, key: str, version: int, body: dict[str, Any], by: str, at: Any) -> dict[str, Any]:
    return {"kind": kind, "key": key, "version": version, "body": body, "by": by, "at": at.isoformat()}


class _Handler(StandInHandler):
    server: Server
    MOST = 60_000_000

    def do_GET(self) -> None:
        where = urlsplit(self.path)
        if where.path == "/":
            return self.page()
        return self._answering(lambda book, rest: self._read(book, rest, parse_qs(where.query)), where.path)

    def do_POST(self) -> None:
        if self.path == "/switch":
            return self.switched()
        if self.path == "/told":
            # A program that listens; it believes nothing and keeps nothing.
            self.body()
            return self.say(200, "{}")
        return self._answering(self._together, self.path)

    def do_PUT(self) -> None:
        return self._answering(self._one, self.path)

    def do_DELETE(self) -> None:
        return self._answering(self._one, self.path)

    def _answering(self, answer: Any, path: str) -> None:
        self.server.counted()
        book, _, rest = path.lstrip("/").partition("/v1/")
        try:
            if book not in BOOKS or not rest:
                raise _Answer(404, {})
            mode = self.server.modes[book]
            if mode == "down":
                raise _Answer(503, {})
            if mode == "refusing" or self.headers.get("Authorization") != f"Bearer {_KEY}":
                raise _Answer(401, {})
            if mode == "slow":
                time.sleep(6)
            said = answer(book, rest)
        except _Answer as error:
            return self.say(error.status, json.dumps(error.said))
        except (ValueError, KeyError, TypeError):
            return self.say(400, "{}")
        if said is None:
            # It breaks off: the caller hears nothing more.
            self.close_connection = True
            return None
        more = {"ETag": f'"{said["version"]}"'} if "version" in said else {}
        return self.say(200, json.dumps(said), more=more)

    def _read(self, book: str, rest: str, query: dict[str, list[str]]) -> dict[str, Any]:
        def asked(name: str) -> str:
            return query.get(name, [""])[0]

        kind, _, key = rest.partition("/")
        if kind == "moved":
            return self.server.moved(book, int(asked("since") or 0))
        if kind == "about":
            return {"name": BOOKS[book], "together": book == "yard", "stamp": self.server.stamp(book)}
        if kind not in KINDS:
            raise _Answer(404, {})
        if key:
            found = self.server.things(book, [(kind, unquote(key))])
            if not found:
                raise _Answer(404, {})
            return found[0]
        codes: list[str] | None = None
        if "beneath" in query:
            codes = self.server.beneath(book, [asked("beneath")])
        elif "codes" in query:
            codes = [unquote(code) for code in asked("codes").split(",")]
        rows = self.server.page(book, kind, codes, asked("words"), asked("after"))
        return {"rows": rows, "next": rows[-1]["key"] if len(rows) == _PAGE else None}

    def _one(self, book: str, rest: str) -> dict[str, Any] | None:
        kind, _, key = rest.partition("/")
        if kind not in KINDS or not key:
            raise _Answer(404, {})
        match = (self.headers.get("If-Match") or "").strip('"')
        body = json.loads(self.body()) if self.command == "PUT" else None
        done = self._written(book, [{"kind": kind, "key": unquote(key), "match": int(match) if match else None, "body": body}])
        return None if done is None else (done[0] if done else {"gone": True})

    def _together(self, book: str, rest: str) -> dict[str, Any] | None:
        if rest != "together":
            raise _Answer(404, {})
        if book != "yard":
            raise _Answer(501, {})
        done = self._written(book, json.loads(self.body()))
        return None if done is None else {"rows": done}

    def _written(self, book: str, writes: list[dict[str, Any]]) -> list[dict[str, Any]] | None:
        """Write, or go wrong on the way as one is told to; None: the caller hears nothing more."""
        by = self.headers.get("X-For") or "an account"
        with self.server.held:
            self.server.writes += 1
            fault = self.server.faults.pop(self.server.writes, "")
        mode = self.server.modes[book]
        if mode == "moving":
            for w in writes[-1:]:
                for there in self.server.things(book, [(w["kind"], w["key"])]):
                    self.server.put(book, w["kind"], w["key"], there["body"])
        if mode == "breaking" and self.server.writes % 3 == 2:
            fault = "after"
        if fault == "refuse":
            raise _Answer(422, {"problems": [{**dict.fromkeys(("kind", "key", "field"), ""), "says": "not now"}]})
        if fault == "down":
            self.server.modes[book] = "down"
            return None
        if fault == "stall":
            time.sleep(30)
        if fault in ("before", "stall"):
            return None
        done = self.server.write(book, writes, by)
        return None if fault == "after" else done


def serve(port: int) -> None:
    """Serve until the process is ended."""
    Server(port, own_database(os.environ["DATABASE_URL"])).serve_forever()


if __name__ == "__main__":
    serve(int(sys.argv[1]))
