"""Inputs laid over a definition: what a round proposes, or what somebody only wants to try."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from .tables import LineTable, OperationTable, PartTable

__all__ = ["INPUTS", "Change", "lay_over", "same_inputs"]

#: What may be laid over, by table. Rates of a work center are those of its operations.
INPUTS: dict[str, tuple[str, ...]] = {
    "part": ("unit_cost", "given_cost", "markup_percent", "overhead_percent", "costing_lot"),
    "line": ("quantity", "scrap_percent", "yield_percent", "fixed_loss"),
    "operation": (
        "setup_minutes", "run_minutes", "crew", "setup_crew", "piece_rate", "yield_percent", "outside_price", "outside_minimum",
    ),
    "work_center": (
        "labor_rate", "setup_labor_rate", "machine_rate", "overhead_per_hour", "overhead_percent_of_labor",
        "efficiency_percent",
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Change:
    """One field of some rows of a table of :data:`INPUTS`; the rows of a work center are those of its operations."""

    table: str
    field: str
    rows: np.ndarray
    values: np.ndarray


def lay_over(
    parts: PartTable, lines: LineTable, operations: OperationTable, changes: Iterable[Change]
) -> tuple[PartTable, LineTable, OperationTable]:
    """The same tables with some inputs changed; those given stay as they are.

    A line has scrap or yield, one or the other (U3): whichever is laid over takes the other's place.

    >>> import numpy as np
    >>> from .definition import Definition, Part
    >>> from .tabulate import tabulate
    >>> from datetime import date
    >>> parts, lines, operations, *_ = tabulate(Definition(parts=[Part("ROD")]), date(2026, 1, 1))
    >>> laid, *_ = lay_over(parts, lines, operations, [Change("part", "unit_cost", np.array([0]), np.array([3.24]))])
    >>> laid.unit_cost.tolist(), parts.unit_cost.tolist()
    ([3.24], [nan])
    """
    columns: dict[str, dict[str, np.ndarray]] = {"part": {}, "line": {}, "operation": {}}
    tables: dict[str, Any] = {"part": parts, "line": lines, "operation": operations}

    def column(table: str, name: str) -> np.ndarray:
        if name not in columns[table]:
            columns[table][name] = getattr(tables[table], name).copy()
        return columns[table][name]

    for change in changes:
        table = "operation" if change.table == "work_center" else change.table
        column(table, change.field)[change.rows] = change.values
        if change.table == "line" and change.field in ("scrap_percent", "yield_percent"):
            other = "yield_percent" if change.field == "scrap_percent" else "scrap_percent"
            column(table, other)[change.rows] = np.nan
    laid = {name: replace(tables[name], **found) if found else tables[name] for name, found in columns.items()}
    return laid["part"], laid["line"], laid["operation"]


def same_inputs(one: PartTable | LineTable | OperationTable, other: PartTable | LineTable | OperationTable) -> bool:
    """Whether two tables hold the same figures, names aside."""
    names = [n for n in type(one).__dataclass_fields__ if n != "numbers"]
    return all(
        np.array_equal(a, b, equal_nan=a.dtype.kind == "f")
        for a, b in ((getattr(one, n), getattr(other, n)) for n in names)
    )
