"""All inputs of a tally, packed to be kept with it: what a standard rested on can be opened years later."""

import io
import zlib
from datetime import date
from typing import Any

import numpy as np
from tally_core.cost import Fixed
from tally_core.tables import LineTable, OperationTable, PartTable

from .loaded import Loaded, PartNumbers

__all__ = ["pack", "unpack"]

_TABLES: dict[str, Any] = {"parts": PartTable, "lines": LineTable, "operations": OperationTable}
_KEYS = ("part_ids", "line_ids", "operation_ids", "center_ids")
#: Far from the best ratio, but most columns are constant and those are not written at all.
_LEVEL = 1


def pack(loaded: Loaded, fixed: Fixed | None) -> bytes:
    """What was loaded, and the standards at which parts were taken, as bytes."""
    columns: dict[str, np.ndarray] = {
        "day": np.array(loaded.day.toordinal()),
        "currency": np.array(loaded.currency),
        "sheet_parts": np.fromiter(loaded.sheet_of, dtype=np.int64, count=len(loaded.sheet_of)),
        "sheets": np.fromiter(loaded.sheet_of.values(), dtype=np.int64, count=len(loaded.sheet_of)),
    }
    for name, table in _TABLES.items():
        held = getattr(loaded, name)
        for column in table.__dataclass_fields__:
            if column != "numbers":
                _put(columns, f"{name}.{column}", getattr(held, column))
    for name in _KEYS:
        values = getattr(loaded, name)
        _put(columns, name, values.view("u1").reshape(len(values), 16) if values.dtype.kind == "V" else values)
    if fixed is not None:
        columns |= {"fixed.rows": fixed.rows, "fixed.unit": fixed.unit, "fixed.this_level": fixed.this_level}
    buffer = io.BytesIO()
    np.savez(buffer, allow_pickle=False, **columns)
    return zlib.compress(buffer.getbuffer(), _LEVEL)


def _put(columns: dict[str, np.ndarray], name: str, values: np.ndarray) -> None:
    """A column as it is in this machine's byte order, or its one value and its length."""
    values = np.ascontiguousarray(values, dtype=values.dtype.newbyteorder("="))
    if (
        values.ndim == 1
        and len(values) > 1
        and np.array_equal(values[1:], values[:-1], equal_nan=values.dtype.kind == "f")
    ):
        columns[f"{name}*"] = values[:1]
        columns[f"{name}#"] = np.array(len(values))
    else:
        columns[name] = values


def unpack(content: bytes) -> tuple[Loaded, Fixed | None]:
    """What :func:`pack` made bytes of; part numbers are read from the database when they are asked for."""
    with np.load(io.BytesIO(zlib.decompress(content)), allow_pickle=False) as held:

        def get(name: str) -> np.ndarray:
            if name in held:
                return held[name]
            return np.full(int(held[f"{name}#"]), held[f"{name}*"][0])

        tables = {
            name: {c: get(f"{name}.{c}") for c in table.__dataclass_fields__ if c != "numbers"}
            for name, table in _TABLES.items()
        }
        keys = {name: get(name) for name in _KEYS}
        for name in ("line_ids", "operation_ids"):
            keys[name] = np.ascontiguousarray(keys[name]).view("V16").reshape(-1)
        fixed = None
        if "fixed.rows" in held:
            fixed = Fixed(held["fixed.rows"], held["fixed.unit"], held["fixed.this_level"])
        return Loaded(
            parts=PartTable(numbers=PartNumbers(keys["part_ids"]), **tables["parts"]),
            lines=LineTable(**tables["lines"]),
            operations=OperationTable(**tables["operations"]),
            **keys,
            sheet_of=dict(zip(held["sheet_parts"].tolist(), held["sheets"].tolist(), strict=True)),
            day=date.fromordinal(int(held["day"])),
            currency=str(held["currency"]),
        ), fixed
