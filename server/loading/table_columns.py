"""How the columns of the core's tables stand in the database, and come back as the core holds them.

PostgreSQL packs what the core reads of a row into one column whenever it writes the row (``PACKED``): its numbers stand there as
the core has them. Turning decimals into them was most of what reading took.
"""

import numpy as np
from tally_core.structure.overlay import INPUTS
from tally_core.structure.tables import NO_END, NO_START, LineTable, OperationTable, PartTable, columns_of

from loading.columns import Layout, day_number, number_or_nan, stored

__all__ = ["LINES", "OPERATIONS", "PACKED", "PARTS", "RATES", "as_held", "in_list_order"]

#: The generated column, with the number of its layout: another layout comes as another column beside it (docs/operations.md, "Upgrade").
PACKED = "packed_1"

_LINE, _OPERATION = columns_of(LineTable), columns_of(OperationTable)
#: What a row of the core's tables rests on that is not one column of its own row in the database.
_MADE_HERE = {
    PartTable: {"batch"},
    LineTable: {"parent", "child", "unit", "per_lot", "operation", "option", "removes", "first_day", "last_day"},
    OperationTable: {"parent"},
}


def _own(table: type) -> dict[str, tuple[str, str]]:
    """The columns of a table that stand in the database under their own names."""
    return {n: stored(c, n) for n, c in columns_of(table).items() if n not in _MADE_HERE[table]}


PARTS = Layout(
    "definition_part",
    PACKED,
    # Dated: it has prices since some day, which are not packed.
    {"id": ("id", "int8"), "dated": ("prices <> '[]'::jsonb", "bool")} | _own(PartTable),
)
LINES = Layout(
    "definition_line",
    PACKED,
    {
        "id": ("id", "uuid"),
        "sheet": ("sheet_id", "int8"),
        "position": ("position", "float8"),
        "child": ("coalesce(part_id, -1)", "int8"),
        # No unit of its own: -1, and the part's stock unit is meant.
        "unit": (f"CASE WHEN unit = '' THEN -1 ELSE {stored(_LINE['unit'], 'unit')[0]} END", "code"),
        "per_lot": ("quantity_basis = 'per_lot'", "bool"),
        "operation": ("coalesce(operation_id, '00000000-0000-0000-0000-000000000000')", "uuid"),
        "option": ("coalesce(option_id, -1)", "int4"),
        "removes": ("option_id IS NOT NULL AND option_action = 'remove'", "bool"),
        "first_day": day_number("effective_from", NO_START),
        "last_day": day_number("effective_to", NO_END),
    }
    | _own(LineTable),
)
#: What an operation has from its work center, as it stands there.
RATES = {n: stored(_OPERATION[n], n) for n in INPUTS["work_center"] if n in _OPERATION} | {
    "setup_labor_rate": ("coalesce(setup_labor_rate, labor_rate, 0)", "float8")
}
OPERATIONS = Layout(
    "definition_operation",
    PACKED,
    {
        "id": ("id", "uuid"),
        "sheet": ("sheet_id", "int8"),
        "center": ("coalesce(work_center_id, -1)", "int8"),
        "outside_price": number_or_nan("CASE WHEN outside THEN unit_price END"),
        "outside_minimum": ("minimum_charge", "float8"),
    }
    | {n: c for n, c in _own(OperationTable).items() if n not in RATES and not n.startswith("outside_")},
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


def in_list_order(rows: dict[str, np.ndarray]) -> np.ndarray:
    """The order of packed lines as lists have them: by sheet, position and, where two stand at one position, key."""
    sheet, position = rows["sheet"].astype(np.int64), rows["position"].astype(float)
    order = np.lexsort((position, sheet))
    sheet, position = sheet[order], position[order]
    if ((sheet[1:] == sheet[:-1]) & (position[1:] == position[:-1])).any():
        halves = np.ascontiguousarray(rows["id"]).view(">u8").reshape(-1, 2)
        order = np.lexsort((halves[:, 1], halves[:, 0], rows["position"], rows["sheet"]))
    return order
