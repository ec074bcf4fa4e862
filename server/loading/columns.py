"""Columns out of PostgreSQL as arrays: gathered there, sent in binary, viewed here; no Python object is made per row."""

import struct
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Self

import numpy as np
from django.db import connection
from psycopg import Cursor
from psycopg.adapt import Dumper
from psycopg.pq import Format
from tally_core.structure.tables import Column

__all__ = ["Layout", "coded", "day_number", "fetch_columns", "keys_text", "number_or_nan", "stored", "wire_cursor"]

#: For each kind how an element is sent, and how it is viewed here.
_WIDE = {"int8": ("int8send", ">i8"), "int4": ("int4send", ">i4"), "float8": ("float8send", ">f8"), "uuid": ("uuid_send", "V16")}
#: Kinds so narrow that several travel in one number: their bits, and what is added so that none is negative.
_NARROW = {"bool": (1, 0), "code": (9, 1)}
_BITS = 62
#: The same for what is packed, where a byte is the least; the cast before it is what PostgreSQL calls a byte.
_ONE_BYTE = {"bool": ('charsend(({})::int::"char")', "i1"), "code": ('charsend(({})::int::"char")', "i1")}


@dataclass(frozen=True, slots=True)
class Layout:
    """What PostgreSQL packs of each row of a table into one column of bytes, whenever it writes the row.

    Attributes:
        columns: as for :func:`fetch_columns`, over the columns of one row; a code is at most 127.
    """

    table: str
    column: str
    columns: Mapping[str, tuple[str, str]]

    @property
    def type(self) -> np.dtype:
        """A row of it, as NumPy views it."""
        return np.dtype([(name, (_WIDE | _ONE_BYTE)[kind][1]) for name, (_, kind) in self.columns.items()])

    @property
    def added(self) -> str:
        """The SQL that adds the column to its table."""
        packed = " ||\n    ".join(
            _ONE_BYTE[kind][0].format(expression) if kind in _ONE_BYTE else f"{_WIDE[kind][0]}(({expression})::{kind})"
            for expression, kind in self.columns.values()
        )
        return f"ALTER TABLE {self.table} ADD COLUMN {self.column} bytea GENERATED ALWAYS AS (\n    {packed}\n) STORED"


class _Keys(Dumper):
    """An array of int64 as PostgreSQL's binary form of bigint[]; thousands of numbers as text take both sides far longer."""

    format = Format.BINARY
    oid = 1016

    def dump(self, obj: np.ndarray) -> bytes:
        each = np.empty(len(obj), dtype=[("size", ">i4"), ("key", ">i8")])
        each["size"], each["key"] = 8, obj
        # One dimension, no nulls, of bigint; so many, counted from 1.
        return struct.pack(">5i", 1, 0, 20, len(obj), 1) + each.tobytes() if len(obj) else struct.pack(">3i", 0, 0, 20)


class _Told(Cursor):
    """Its queries are among those that Django tells of where it is asked to, as in tests that count them."""

    def execute(self, query: str, *given: Any, **more: Any) -> Self:  # type: ignore[override]
        if connection.queries_logged:
            connection.queries_log.append({"sql": query, "time": ""})
        return super().execute(query, *given, **more)


@contextmanager
def wire_cursor() -> Iterator[Cursor]:
    """A cursor that sends parameters and takes answers in binary, arrays of keys among them. Django's own writes parameters into
    the text, and then only text comes back."""
    connection.ensure_connection()
    with _Told(connection.connection) as cursor:
        cursor.adapters.register_dumper(np.ndarray, _Keys)
        yield cursor


def fetch_columns(columns: Mapping[str, tuple[str, str]], source: str, params: list, packed: Layout | None = None) -> dict[str, np.ndarray]:
    """The columns of ``SELECT columns source`` as arrays, in the byte order of the wire.

    Elements are gathered as their bytes, one behind the other: that is faster than an array, ten times so for keys that do not
    fit into a word.

    Args:
        columns: name → (SQL expression that is never null, one of int8, int4, float8, uuid, bool, code). A code is a number
            from -1 to 500.
        source: what follows the columns, from FROM on.
        params: keys may be an array of int64.
        packed: its columns come, too; the source holds its table.
    """
    wide = {name: source for name, source in columns.items() if source[1] in _WIDE}
    narrow = _in_words({name: source for name, source in columns.items() if source[1] in _NARROW})
    for word, (expression, _) in narrow.items():
        wide[word] = (expression, "int8")
    picked = ", ".join(f"({expression})::{kind} AS {name}" for name, (expression, kind) in wide.items())
    pieces = [f"{_WIDE[kind][0]}({name})" for name, (_, kind) in wide.items()]
    types = {name: np.dtype(_WIDE[kind][1]) for name, (_, kind) in wide.items()}
    if packed:
        picked = ", ".join(filter(None, (picked, packed.column)))
        pieces.append(packed.column)
        types[packed.column] = packed.type
    gathered = ", ".join(f"string_agg({piece}, ''::bytea)" for piece in pieces)
    with wire_cursor() as cursor:
        cursor.execute(f"SELECT count(*), {gathered} FROM (SELECT {picked} {source}) AS picked", params, binary=True)
        assert cursor.pgresult is not None
        counted, *values = [cursor.pgresult.get_value(0, i) for i in range(len(types) + 1)]
    rows = int.from_bytes(counted or b"", "big")
    found = {}
    for (name, kind), value in zip(types.items(), values, strict=True):
        found[name] = np.frombuffer(value or b"", dtype=kind)
        if len(found[name]) != rows:
            raise AssertionError(f"column {name} holds a null")
    for word, (_, places) in narrow.items():
        numbers = found.pop(word)
        for name, (low, bits, more) in places.items():
            own = (numbers >> low) & ((1 << bits) - 1)
            found[name] = own.astype(bool) if bits == 1 else own - more
    if packed:
        each = found.pop(packed.column)
        found |= {name: each[name].astype(bool) if kind == "bool" else each[name] for name, (_, kind) in packed.columns.items()}
    return found


def _in_words(columns: Mapping[str, tuple[str, str]]) -> dict[str, tuple[str, dict[str, tuple[int, int, int]]]]:
    """Narrow columns put together into words: for each word its expression, and for each column in it its lowest bit, its bits, what was added."""
    packs: list[tuple[list[str], dict[str, tuple[int, int, int]]]] = []
    used = _BITS
    for name, (expression, kind) in columns.items():
        bits, more = _NARROW[kind]
        if used + bits > _BITS:
            used = 0
            packs.append(([], {}))
        packs[-1][0].append(f"((({expression})::int::int8 + {more}) << {used})")
        packs[-1][1][name] = (used, bits, more)
        used += bits
    return {f"word_{i}": (" | ".join(parts), places) for i, (parts, places) in enumerate(packs)}


def keys_text(ids: Iterable[int]) -> str:
    """Keys as the text of an array: the driver takes far longer over a list."""
    return "{" + ",".join(map(str, ids)) + "}"


def coded(expression: str, words: tuple[str, ...]) -> tuple[str, str]:
    """A column of words as their index."""
    listed = ", ".join(f"'{word}'" for word in words)
    return f"array_position(ARRAY[{listed}]::text[], ({expression})::text) - 1", "code"


def number_or_nan(expression: str) -> tuple[str, str]:
    """A column of numbers, NaN where there is none."""
    return f"coalesce({expression}, 'NaN')", "float8"


def day_number(expression: str, otherwise: int) -> tuple[str, str]:
    """A column of days as ordinals, ``otherwise`` where the end is open."""
    # date.toordinal counts days from 1 January of year 1.
    return f"coalesce({expression} - date '0001-01-01' + 1, {otherwise})", "int4"


def stored(column: Column, expression: str) -> tuple[str, str]:
    """How a column of the core stands in the database: words as their places, flags as they are, numbers with what is meant
    where there is none."""
    if column.words:
        return coded(expression, column.words)
    if column.type == "bool":
        return expression, "bool"
    if column.absent != column.absent:
        return number_or_nan(expression)
    return f"coalesce({expression}, {column.absent:g})", "float8" if column.type == "float64" else "int4"
