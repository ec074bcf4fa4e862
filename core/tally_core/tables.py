"""A definition as columns: what the computing modules take, for one product or for a whole catalogue.

Index conventions: a *part* is a row of :class:`PartTable`; lines and operations name parts and one another by row.
Missing numbers are NaN, missing rows are -1.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

__all__ = [
    "CHARGE", "BOUGHT", "MADE", "PHANTOM", "KINDS", "COMPONENT", "BYPRODUCT", "TEXT", "LINE_KINDS",
    "PER_UNIT", "PER_CYCLE", "PER_LOT", "RUN_BASES", "LineTable", "OperationTable", "PartTable", "NO_END", "NO_START",
]  # fmt: skip

KINDS = ("made", "bought", "phantom", "charge")
MADE, BOUGHT, PHANTOM, CHARGE = range(4)
LINE_KINDS = ("component", "byproduct", "text")
COMPONENT, BYPRODUCT, TEXT = range(3)
RUN_BASES = ("per_unit", "per_cycle", "per_lot")
PER_UNIT, PER_CYCLE, PER_LOT = range(3)

#: Day numbers (``date.toordinal``) that stand for an open first and an open last day.
NO_START, NO_END = 0, 2**31 - 1


@dataclass(slots=True)
class PartTable:
    """Columns over P parts. ``batch`` is that of the sheet in force, NaN when a part has none."""

    numbers: Sequence[str]
    kind: np.ndarray  # int8, index into KINDS
    unit: np.ndarray  # int16, index into units.SYMBOLS
    unit_cost: np.ndarray  # currency per unit, NaN when none
    given_cost: np.ndarray  # currency per unit, NaN when none
    overhead_percent: np.ndarray
    costing_lot: np.ndarray  # in the part's unit, NaN when none
    whole_only: np.ndarray  # bool
    batch: np.ndarray  # in the part's unit, NaN without a sheet
    markup_percent: np.ndarray  # by hand over the roll-up, 0 when none

    def __len__(self) -> int:
        return len(self.kind)


@dataclass(slots=True)
class LineTable:
    """Columns over all lines of the sheets in force, in list order within a sheet."""

    parent: np.ndarray  # int32 part row
    child: np.ndarray  # int32 part row, -1 for a text line
    kind: np.ndarray  # int8, index into LINE_KINDS
    quantity: np.ndarray  # in ``unit``, per batch or per lot; NaN when as needed
    unit: np.ndarray  # int16
    per_lot: np.ndarray  # bool
    scrap_percent: np.ndarray  # NaN when none
    yield_percent: np.ndarray  # NaN when none
    fixed_loss: np.ndarray  # in ``unit`` per lot
    operation: np.ndarray  # int32 operation row at which it is issued, -1 for the first
    option: np.ndarray  # int32 code of the option it belongs to, -1 for none
    removes: np.ndarray  # bool
    customer_supplied: np.ndarray  # bool
    not_fitted: np.ndarray  # bool
    first_day: np.ndarray  # int32 ordinal day
    last_day: np.ndarray  # int32 ordinal day, not included
    item: np.ndarray  # int32, 0 when none; only to name a line

    def __len__(self) -> int:
        return len(self.parent)


@dataclass(slots=True)
class OperationTable:
    """Columns over all operations, sorted by part row, then by sequence. Rates are per hour."""

    parent: np.ndarray  # int32 part row
    sequence: np.ndarray  # int32
    setup_minutes: np.ndarray
    run_minutes: np.ndarray
    run_basis: np.ndarray  # int8, index into RUN_BASES
    cycle_quantity: np.ndarray  # NaN when none
    crew: np.ndarray
    setup_crew: np.ndarray
    piece_rate: np.ndarray  # currency per started unit, NaN when none
    yield_percent: np.ndarray
    labor_rate: np.ndarray
    setup_labor_rate: np.ndarray
    machine_rate: np.ndarray
    overhead_per_hour: np.ndarray
    overhead_percent_of_labor: np.ndarray
    efficiency_percent: np.ndarray
    outside_price: np.ndarray  # currency per started unit, NaN when done inside
    outside_minimum: np.ndarray  # currency per lot

    def __len__(self) -> int:
        return len(self.parent)
