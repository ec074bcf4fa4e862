"""Rows into PostgreSQL by COPY in its binary form, from arrays: no Python object is made per row."""

from collections.abc import Mapping
from functools import partial

import numpy as np
from django.db import connection, transaction
from psycopg import Cursor

__all__ = ["copy_rows"]

_HEAD, _END = b"PGCOPY\n\xff\r\n\x00" + bytes(8), b"\xff\xff"
#: The type of int8 inside an array.
_INT8 = 20
#: So many rows are told to the planner at once: until then it believes that there are none of them, and joins them one by one.
MANY = 10_000


def copy_rows(table: str, columns: Mapping[str, np.ndarray | None], count: int) -> None:
    """Write ``count`` rows of whole numbers.

    Args:
        columns: name → int64 of shape (count,) for a bigint, of shape (count, K) for an array of them, None for null.
    """
    fields: list[tuple[str, str] | tuple[str, str, tuple[int, ...]]] = [("fields", ">i2")]
    for name, values in columns.items():
        fields.append((f"{name}.size", ">i4"))
        if values is None:
            continue
        if values.ndim == 1:
            fields.append((name, ">i8"))
        else:
            width = values.shape[1]
            fields += [(f"{name}.head", ">i4", (5,)), (name, [("size", ">i4"), ("value", ">i8")], (width,))]  # type: ignore[list-item]
    rows = np.zeros(count, dtype=fields)
    rows["fields"] = len(columns)
    for name, values in columns.items():
        if values is None:
            rows[f"{name}.size"] = -1
        elif values.ndim == 1:
            rows[f"{name}.size"], rows[name] = 8, values
        else:
            width = values.shape[1]
            rows[f"{name}.size"] = 20 + 12 * width
            # Dimensions, no nulls, the type of an element, length, lower bound.
            rows[f"{name}.head"] = (1, 0, _INT8, width, 1)
            rows[name]["size"], rows[name]["value"] = 8, values
    connection.ensure_connection()
    with Cursor(connection.connection) as cursor, cursor.copy(f"COPY {table} ({', '.join(columns)}) FROM STDIN (FORMAT BINARY)") as copy:
        copy.write(_HEAD)
        copy.write(rows.tobytes())
        copy.write(_END)
    if count >= MANY:
        transaction.on_commit(partial(_tell_planner, table))


def _tell_planner(table: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(f"ANALYZE {table}")
