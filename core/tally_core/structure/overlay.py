"""Inputs laid over a definition: what a round proposes, or what somebody only wants to try."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..basics.facts import Facts, facts_of, word_of
from ..stated.definition import Line, Operation, Part, Subcontract, WorkCenter
from .tables import LineTable, OperationTable, PartTable

__all__ = ["INPUTS", "Change", "input_word", "lay_over", "same_inputs"]

#: The records whose inputs may be laid over, by the word for their table. What is paid outside stands on the operation, and the
#: rates of a work center on its operations.
_RECORDS: dict[str, tuple[type, ...]] = {
    "part": (Part,),
    "line": (Line,),
    "operation": (Operation, Subcontract),
    "work_center": (WorkCenter,),
}
#: What may be laid over, by table: column → what is known of it.
INPUTS: dict[str, dict[str, Facts]] = {
    table: {f.column or name: f for record in records for name, f in facts_of(record).items() if f.tried}
    for table, records in _RECORDS.items()
}


def input_word(field: str) -> str:
    """The word for an input by its column, which is the same wherever that column stands.

    >>> input_word("outside_price"), input_word("labor_rate")
    ('price outside', 'labor rate')
    """
    return next(word_of(field, fields[field]) for fields in INPUTS.values() if field in fields)


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
    >>> from tally_core.stated.definition import Definition, Part
    >>> from tally_core.structure.tabulate import tabulate
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
    return all(np.array_equal(a, b, equal_nan=a.dtype.kind == "f") for a, b in ((getattr(one, n), getattr(other, n)) for n in names))
