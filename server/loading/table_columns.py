"""How the columns of the core's tables stand in the database, and come back as the core holds them."""

import numpy as np
from tally_core.structure.overlay import INPUTS
from tally_core.structure.tables import NO_END, NO_START, LineTable, OperationTable, PartTable, columns_of

from loading.columns import day_number, number_or_nan, stored

__all__ = ["LINE_COLUMNS", "OPERATION_COLUMNS", "PART_COLUMNS", "as_held"]

_LINE, _OPERATION = columns_of(LineTable), columns_of(OperationTable)
#: What a row of the core's tables rests on that is not one column of its own row in the database.
_MADE_HERE = {
    PartTable: {"batch"},
    LineTable: {"parent", "child", "unit", "per_lot", "operation", "option", "removes", "first_day", "last_day"},
    OperationTable: {"parent"},
}


def _own(table: type, alias: str) -> dict[str, tuple[str, str]]:
    """The columns of a table that stand in the database under their own names."""
    return {n: stored(c, f"{alias}.{n}") for n, c in columns_of(table).items() if n not in _MADE_HERE[table]}


PART_COLUMNS = {"id": ("p.id", "int8")} | _own(PartTable, "p")
LINE_COLUMNS = _own(LineTable, "l") | {
    "id": ("l.id", "uuid"),
    "sheet": ("l.sheet_id", "int8"),
    "child": ("coalesce(l.part_id, -1)", "int8"),
    # No unit of its own: -1, and the part's stock unit is meant.
    "unit": (f"CASE WHEN l.unit = '' THEN -1 ELSE {stored(_LINE['unit'], 'l.unit')[0]} END", "code"),
    "per_lot": ("l.quantity_basis = 'per_lot'", "bool"),
    "operation": ("coalesce(l.operation_id, '00000000-0000-0000-0000-000000000000')", "uuid"),
    "option": ("coalesce(l.option_id, -1)", "int4"),
    "removes": ("l.option_id IS NOT NULL AND l.option_action = 'remove'", "bool"),
    "first_day": day_number("l.effective_from", NO_START),
    "last_day": day_number("l.effective_to", NO_END),
}
_RATES = [n for n in INPUTS["work_center"] if n in _OPERATION]
OPERATION_COLUMNS = (
    _own(OperationTable, "o")
    | {n: stored(_OPERATION[n], f"w.{n}") for n in _RATES}
    | {
        "id": ("o.id", "uuid"),
        "center": ("coalesce(o.work_center_id, -1)", "int8"),
        "sheet": ("o.sheet_id", "int8"),
        "outside_price": number_or_nan("CASE WHEN o.outside THEN o.unit_price END"),
        "outside_minimum": ("o.minimum_charge", "float8"),
        "setup_labor_rate": ("coalesce(w.setup_labor_rate, w.labor_rate, 0)", "float8"),
    }
)


def as_held(rows: dict[str, np.ndarray], table: type) -> dict[str, np.ndarray]:
    """What came over the wire, in the types of a table's columns; a column that was not asked for holds what is meant where
    nothing was stated."""
    count = len(next(iter(rows.values())))
    return {
        n: rows[n].astype(c.type) if n in rows else np.full(count, c.absent, dtype=c.type)
        for n, c in columns_of(table).items()
        if n not in _MADE_HERE[table]
    }
