"""Columns out of PostgreSQL as arrays: gathered there, sent in binary, viewed here; no Python object is made per row."""

from collections.abc import Iterable

import numpy as np
from django.db import connection
from psycopg import Cursor
from tally_core.structure.tables import Column

__all__ = ["coded", "day_number", "fetch_columns", "keys_text", "number_or_nan", "stored"]

_WIDTH = {"int8": ">i8", "int4": ">i4", "float8": ">f8", "bool": "?", "uuid": "V16"}
#: Before its elements an array says: dimensions, whether any element is null, type of element, length, lower bound; four
#: bytes each (PostgreSQL's array_send).
_ARRAY_HEAD = 20
_HOLDS_NULL = slice(4, 8)


def fetch_columns(columns: dict[str, tuple[str, str]], source: str, params: list) -> dict[str, np.ndarray]:
    """The columns of ``SELECT columns source`` as arrays, in the byte order of the wire.

    Args:
        columns: name → (SQL expression that is never null, one of int8, int4, float8, bool, uuid).
        source: what follows the columns, from FROM on.
    """
    picked = ", ".join(f"({expression})::{kind} AS {name}" for name, (expression, kind) in columns.items())
    gathered = ", ".join(f"array_agg({name})" for name in columns)
    connection.ensure_connection()
    # Django's own cursors write parameters into the text, and then only text comes back.
    with Cursor(connection.connection) as cursor:
        cursor.execute(f"SELECT {gathered} FROM (SELECT {picked} {source}) AS picked", params, binary=True)
        assert cursor.pgresult is not None
        values = [cursor.pgresult.get_value(0, i) for i in range(len(columns))]
    found = {}
    for (name, (_, kind)), value in zip(columns.items(), values, strict=True):
        element = np.dtype([("width", ">i4"), ("value", _WIDTH[kind])])
        if value is None:
            found[name] = np.empty(0, dtype=element)["value"]
            continue
        if any(value[_HOLDS_NULL]):
            raise AssertionError(f"column {name} holds a null")
        found[name] = np.frombuffer(value, dtype=element, offset=_ARRAY_HEAD)["value"]
    return found


def keys_text(ids: Iterable[int]) -> str:
    """Keys as the text of an array: the driver takes far longer over a list."""
    return "{" + ",".join(map(str, ids)) + "}"


def coded(expression: str, words: tuple[str, ...]) -> tuple[str, str]:
    """A column of words as their index."""
    listed = ", ".join(f"'{word}'" for word in words)
    return f"array_position(ARRAY[{listed}]::text[], ({expression})::text) - 1", "int4"


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
