"""Columns out of PostgreSQL as arrays: gathered there, sent in binary, viewed here; no Python object is made per row."""

from collections.abc import Iterable, Mapping

import numpy as np
from django.db import connection
from psycopg import Cursor
from tally_core.structure.tables import Column

__all__ = ["coded", "day_number", "fetch_columns", "keys_text", "number_or_nan", "stored"]

#: For each kind how an element is sent, and how it is viewed here.
_WIDE = {"int8": ("int8send", ">i8"), "int4": ("int4send", ">i4"), "float8": ("float8send", ">f8"), "uuid": ("uuid_send", "V16")}
#: Kinds so narrow that several travel in one number: their bits, and what is added so that none is negative.
_NARROW = {"bool": (1, 0), "code": (9, 1)}
_BITS = 62


def fetch_columns(columns: Mapping[str, tuple[str, str]], source: str, params: list) -> dict[str, np.ndarray]:
    """The columns of ``SELECT columns source`` as arrays, in the byte order of the wire.

    Elements are gathered as their bytes, one behind the other: that is faster than an array, ten times so for keys that do not
    fit into a word.

    Args:
        columns: name → (SQL expression that is never null, one of int8, int4, float8, uuid, bool, code). A code is a number
            from -1 to 500.
        source: what follows the columns, from FROM on.
    """
    wide = {name: source for name, source in columns.items() if source[1] in _WIDE}
    narrow = _packed({name: source for name, source in columns.items() if source[1] in _NARROW})
    for pack, (expression, _) in narrow.items():
        wide[pack] = (expression, "int8")
    picked = ", ".join(f"({expression})::{kind} AS {name}" for name, (expression, kind) in wide.items())
    gathered = ", ".join(f"string_agg({_WIDE[kind][0]}({name}), ''::bytea)" for name, (_, kind) in wide.items())
    connection.ensure_connection()
    # Django's own cursors write parameters into the text, and then only text comes back.
    with Cursor(connection.connection) as cursor:
        cursor.execute(f"SELECT count(*), {gathered} FROM (SELECT {picked} {source}) AS picked", params, binary=True)
        assert cursor.pgresult is not None
        counted, *values = [cursor.pgresult.get_value(0, i) for i in range(len(wide) + 1)]
    rows = int.from_bytes(counted or b"", "big")
    found = {}
    for (name, (_, kind)), value in zip(wide.items(), values, strict=True):
        found[name] = np.frombuffer(value or b"", dtype=_WIDE[kind][1])
        if len(found[name]) != rows:
            raise AssertionError(f"column {name} holds a null")
    for pack, (_, places) in narrow.items():
        numbers = found.pop(pack)
        for name, (low, bits, more) in places.items():
            own = (numbers >> low) & ((1 << bits) - 1)
            found[name] = own.astype(bool) if bits == 1 else own - more
    return found


def _packed(columns: Mapping[str, tuple[str, str]]) -> dict[str, tuple[str, dict[str, tuple[int, int, int]]]]:
    """Narrow columns put together: for each pack its expression, and for each column in it its lowest bit, its bits, what was added."""
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
    return {f"pack_{i}": (" | ".join(parts), places) for i, (parts, places) in enumerate(packs)}


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
