"""All inputs of a tally, packed to be kept with it: what a standard rested on can be opened years later.

What is kept begins with a line that names its format, and says by itself what its columns are called and which words its codes stand
for; so it opens whatever is added to the program meanwhile. A format that was used is never changed: another gets the next number
and a reader of its own, and a file of each stands in ``tests/golden``.

Format 1: the line, then, deflated, a NumPy archive (``numpy.savez``). ``head`` is JSON: day, currency, the element names of standards,
and for each column of codes the words they stand for. Every other entry is a column, called ``table.column``; one that holds a
single value is kept as that value (``table.column*``) and its length (``table.column#``).
"""

import io
import json
import zlib
from datetime import date
from typing import Any

import numpy as np
from loading.loaded import Loaded, PartNumbers
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.cost.cost import Fixed
from tally_core.structure.tables import Column, LineTable, OperationTable, PartTable, columns_of

__all__ = ["pack", "unpack"]

_FORMAT = b"round-tally-inputs %d\n"
_NEWEST = 1
_TABLES: dict[str, type] = {"parts": PartTable, "lines": LineTable, "operations": OperationTable}
_KEYS = ("part_ids", "line_ids", "operation_ids", "center_ids")
#: Far from the best ratio, but most columns are constant and those are not written at all.
_LEVEL = 1


def pack(loaded: Loaded, fixed: Fixed | None) -> bytes:
    """What was loaded, and the standards at which parts were taken, as bytes of the newest format."""
    head = {
        "day": loaded.day.isoformat(),
        "currency": loaded.currency,
        "elements": ELEMENTS,
        "words": {f"{n}.{c}": column.words for n, t in _TABLES.items() for c, column in columns_of(t).items() if column.words},
    }
    columns: dict[str, np.ndarray] = {
        "head": np.frombuffer(json.dumps(head).encode(), dtype=np.uint8),
        "sheet_parts": np.fromiter(loaded.sheet_of, dtype=np.int64, count=len(loaded.sheet_of)),
        "sheets": np.fromiter(loaded.sheet_of.values(), dtype=np.int64, count=len(loaded.sheet_of)),
    }
    for name, table in _TABLES.items():
        held = getattr(loaded, name)
        for column in columns_of(table):
            _put(columns, f"{name}.{column}", getattr(held, column))
    for name in _KEYS:
        values = getattr(loaded, name)
        _put(columns, name, values.view("u1").reshape(len(values), 16) if values.dtype.kind == "V" else values)
    if fixed is not None:
        columns |= {"fixed.rows": fixed.rows, "fixed.unit": fixed.unit, "fixed.this_level": fixed.this_level}
    buffer = io.BytesIO()
    np.savez(buffer, allow_pickle=False, **columns)
    return _FORMAT % _NEWEST + zlib.compress(buffer.getbuffer(), _LEVEL)


def _put(columns: dict[str, np.ndarray], name: str, values: np.ndarray) -> None:
    """A column as it is in this machine's byte order, or its one value and its length."""
    values = np.ascontiguousarray(values, dtype=values.dtype.newbyteorder("="))
    if values.ndim == 1 and len(values) > 1 and np.array_equal(values[1:], values[:-1], equal_nan=values.dtype.kind == "f"):
        columns[f"{name}*"] = values[:1]
        columns[f"{name}#"] = np.array(len(values))
    else:
        columns[name] = values


def unpack(content: bytes) -> tuple[Loaded, Fixed | None]:
    """What :func:`pack` made bytes of, in any format that ever was; part numbers are read from the database when asked for.

    Raises TallyError for what a newer program has kept.
    """
    line, _, packed = content.partition(b"\n")
    number = line.removeprefix(b"round-tally-inputs ")
    if number != b"1":
        raise TallyError(
            f"These inputs were kept in format {number.decode(errors='replace')[:20]}, and this program opens formats up to {_NEWEST}. "
            "A newer one kept them; open them with that."
        )
    return _unpack_1(packed)


def _unpack_1(packed: bytes) -> tuple[Loaded, Fixed | None]:
    with np.load(io.BytesIO(zlib.decompress(packed)), allow_pickle=False) as held:
        head = json.loads(held["head"].tobytes())

        def get(name: str) -> np.ndarray | None:
            if name in held:
                return held[name]
            return np.full(int(held[f"{name}#"]), held[f"{name}*"][0]) if f"{name}#" in held else None

        tables: dict[str, dict[str, np.ndarray]] = {}
        for name, table in _TABLES.items():
            found = {c: get(f"{name}.{c}") for c in columns_of(table)}
            rows = next(len(values) for values in found.values() if values is not None)
            tables[name] = {
                c: _as_now(column, found[c], head["words"].get(f"{name}.{c}", ()), rows) for c, column in columns_of(table).items()
            }
        keys: dict[str, Any] = {name: get(name) for name in _KEYS}
        for name in ("line_ids", "operation_ids"):
            keys[name] = np.ascontiguousarray(keys[name]).view("V16").reshape(-1)
        fixed = None
        if "fixed.rows" in held:
            by_name = (_by_element(held[f"fixed.{what}"], head["elements"]) for what in ("unit", "this_level"))
            fixed = Fixed(held["fixed.rows"], *by_name)
        return Loaded(
            parts=PartTable(numbers=PartNumbers(keys["part_ids"]), **tables["parts"]),
            lines=LineTable(**tables["lines"]),
            operations=OperationTable(**tables["operations"]),
            **keys,
            sheet_of=dict(zip(held["sheet_parts"].tolist(), held["sheets"].tolist(), strict=True)),
            day=date.fromisoformat(head["day"]),
            currency=head["currency"],
        ), fixed


def _as_now(column: Column, values: np.ndarray | None, words: list[str], rows: int) -> np.ndarray:
    """A column as it is called for today: what did not exist is what is meant where nothing was stated; codes are those of today."""
    if values is None:
        return np.full(rows, column.absent, dtype=column.type)
    if not column.words or tuple(words) == column.words:
        return values.astype(column.type, copy=False)
    place = {word: at for at, word in enumerate(column.words)}
    strange = [words[code] for code in np.unique(values).tolist() if words[code] not in place]
    if strange:
        raise TallyError(f"These inputs were kept with “{strange[0]}”, which this program does not know; open them with a newer one.")
    return np.array([place.get(word, 0) for word in words], dtype=column.type)[values]


def _by_element(values: np.ndarray, names: list[str]) -> np.ndarray:
    """Amounts over the elements of today."""
    found = np.zeros((len(values), len(ELEMENTS)))
    found[:, [ELEMENTS.index(name) for name in names]] = values
    return found
