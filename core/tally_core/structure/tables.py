"""A definition as columns: what the computing modules take, for one product or for a whole catalogue.

Index conventions: a *part* is a row of :class:`PartTable`; lines and operations name parts and one another by row.
Missing numbers are NaN, missing rows are -1.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, fields
from typing import Any

import numpy as np

from ..basics.elements import Hourly
from ..basics.kinds import GIVEN_AS, LINE_KINDS, PART_KINDS, RUN_BASES
from ..basics.units import SYMBOLS

__all__ = ["NO_END", "NO_START", "Column", "LineTable", "OperationTable", "PartTable", "columns_of", "filled"]

#: Day numbers (``date.toordinal``) that stand for an open first and an open last day.
NO_START, NO_END = 0, 2**31 - 1


@dataclass(frozen=True, slots=True)
class Column:
    """How a column stands in memory.

    Attributes:
        type: NumPy's name of the type of its values.
        absent: what stands where nothing was stated, and in what was kept before there was such a column.
        words: the words whose places it holds; empty for numbers and flags.
    """

    type: str
    absent: float
    words: tuple[str, ...] = ()


def _column(kind: str, absent: float = float("nan"), words: tuple[str, ...] = ()) -> Any:
    return field(metadata={"column": Column(kind, absent, words)})


def _number(absent: float = float("nan")) -> Any:
    return _column("float64", absent)


def _row() -> Any:
    return _column("int32", -1)


def columns_of(table: type) -> dict[str, Column]:
    """The columns of a table, by name in their order.

    >>> columns_of(LineTable)["kind"].words
    ('component', 'byproduct', 'text')
    """
    return {f.name: f.metadata["column"] for f in fields(table) if "column" in f.metadata}


def filled(column: Column, values: Sequence) -> np.ndarray:
    """A column out of what was stated, None where nothing was.

    >>> filled(columns_of(PartTable)["kind"], ["bought", "made"]).tolist()
    [1, 0]
    """
    if column.words:
        place = {word: at for at, word in enumerate(column.words)}
        return np.array([column.absent if v is None else place[v] for v in values], dtype=column.type)
    return np.array([column.absent if v is None else v for v in values], dtype=column.type)


@dataclass(slots=True)
class PartTable:
    """Columns over P parts. ``batch`` is that of the sheet in force, NaN when a part has none."""

    numbers: Sequence[str]
    kind: np.ndarray = _column("int8", 0, PART_KINDS)
    unit: np.ndarray = _column("int16", 0, SYMBOLS)
    unit_cost: np.ndarray = _number()  # currency per unit
    given_cost: np.ndarray = _number()  # currency per unit
    given_as: np.ndarray = _column("int8", 0, GIVEN_AS)
    overhead_percent: np.ndarray = _number(0)
    costing_lot: np.ndarray = _number()  # in the part's unit
    whole_only: np.ndarray = _column("bool", False)
    batch: np.ndarray = _number()  # in the part's unit
    markup_percent: np.ndarray = _number(0)  # by hand over the roll-up

    def __len__(self) -> int:
        return len(self.kind)


@dataclass(slots=True)
class LineTable:
    """Columns over all lines of the sheets in force, in list order within a sheet."""

    parent: np.ndarray = _row()  # part row
    child: np.ndarray = _row()  # part row, -1 for a text line
    kind: np.ndarray = _column("int8", 0, LINE_KINDS)
    quantity: np.ndarray = _number()  # in ``unit``, per batch or per lot; NaN when as needed
    unit: np.ndarray = _column("int16", 0, SYMBOLS)
    per_lot: np.ndarray = _column("bool", False)
    scrap_percent: np.ndarray = _number()
    yield_percent: np.ndarray = _number()
    fixed_loss: np.ndarray = _number(0)  # in ``unit`` per lot
    operation: np.ndarray = _row()  # operation row at which it is issued, -1 for the first
    option: np.ndarray = _column("int32", -1)  # code of the option it belongs to, -1 for none
    removes: np.ndarray = _column("bool", False)
    customer_supplied: np.ndarray = _column("bool", False)
    not_fitted: np.ndarray = _column("bool", False)
    first_day: np.ndarray = _column("int32", NO_START)  # ordinal day
    last_day: np.ndarray = _column("int32", NO_END)  # ordinal day, not included
    item: np.ndarray = _column("int32", 0)  # 0 when none; only to name a line

    def __len__(self) -> int:
        return len(self.parent)


@dataclass(slots=True)
class OperationTable:
    """Columns over all operations and what works beside them, sorted by part row, sequence and resource. Rates are per hour.

    A row whose ``resource`` is n stands for the n-th that works beside the operation of its sequence; 0 is the operation itself.
    """

    parent: np.ndarray = _row()  # part row
    sequence: np.ndarray = _column("int32", 0)
    resource: np.ndarray = _column("int32", 0)
    setup_minutes: np.ndarray = _number(0)
    run_minutes: np.ndarray = _number(0)
    run_basis: np.ndarray = _column("int8", 0, RUN_BASES)
    cycle_quantity: np.ndarray = _number()
    crew: np.ndarray = _number(1)
    setup_crew: np.ndarray = _number(1)
    piece_rate: np.ndarray = _number()  # currency per started unit
    yield_percent: np.ndarray = _number(100)
    labor_rate: np.ndarray = _number(0)
    setup_labor_rate: np.ndarray = _number(0)
    machine_rate: np.ndarray = _number(0)
    overhead_per_hour: np.ndarray = _number(0)
    overhead_percent_of_labor: np.ndarray = _number(0)
    efficiency_percent: np.ndarray = _number(100)
    outside_price: np.ndarray = _number()  # currency per started unit, NaN when done inside
    outside_minimum: np.ndarray = _number(0)  # currency per lot

    def __len__(self) -> int:
        return len(self.parent)

    def by_hour(self, of: Hourly) -> np.ndarray:
        """Currency per hour of each row, of one thing that hours cost beside labor."""
        return math.prod(getattr(self, name) for name in of.factors)

    def named(self, row: int) -> str:
        """How a row is called where its part is known."""
        beside = f", resource {self.resource[row]}" if self.resource[row] else ""
        return f"operation {self.sequence[row]}{beside}"

    def leads(self) -> np.ndarray:
        """Over rows: the row of the operation, of a row beside it that which it stands beside."""
        rows = np.arange(len(self))
        return np.maximum.accumulate(np.where(self.resource == 0, rows, 0)) if self.resource.any() else rows
