"""From plain records to columns, for a day: the sheets in force and what stands on them."""

from collections.abc import Mapping, Sequence
from dataclasses import fields
from datetime import date

import numpy as np

from ..basics.errors import TallyError
from ..basics.units import code, is_count
from ..stated.definition import Definition, Line, Operation, Part, Resource, Sheet, WorkCenter
from .effectivity import Candidate, choose_sheets
from .rates import center_on, price_on
from .tables import LineTable, OperationTable, PartTable, columns_of, filled

__all__ = ["tabulate"]


def tabulate(
    definition: Definition, day: date, drafts: bool = False
) -> tuple[PartTable, LineTable, OperationTable, dict[str, int], dict[str, int]]:
    """The columns of a definition on a day.

    Returns:
        parts, lines, operations, the row of each part number, and the code of each option.

    Raises TallyError when a line names a part, or an operation a work center, that the definition does not hold.

    >>> from tally_core.stated.definition import Definition, Line, Part, Sheet
    >>> rod, tube = Part("ROD", unit_cost=3), Part("T-1", kind="made")
    >>> held = Definition(parts=[rod, tube], sheets=[Sheet("T-1", status="released", lines=[Line(part="ROD", quantity=2)])])
    >>> parts, lines, _, rows, _ = tabulate(held, date(2026, 1, 1))
    >>> parts.unit_cost.tolist(), lines.parent.tolist(), lines.child.tolist(), rows
    ([3.0, nan], [1], [0], {'ROD': 0, 'T-1': 1})
    """
    rows = {part.number: row for row, part in enumerate(definition.parts)}
    sheets = _sheets_in_force(definition, rows, day, drafts)
    centers = {center.code: center_on(center, day) for center in definition.work_centers}
    work: list[tuple[int, Operation, WorkCenter]] = []
    resource: list[int] = []
    lines: list[tuple[int, int, Line]] = []  # with the row of the operation at which each is issued
    for part, sheet in sheets.items():
        at = {}
        for operation in sorted(sheet.operations, key=lambda o: o.sequence):
            at[operation.sequence] = len(work)
            for nth, row in enumerate((operation, *(_beside(operation, r) for r in operation.resources))):
                center = centers.get(row.work_center) if row.work_center else WorkCenter("")
                if center is None:
                    raise TallyError(f"work center {row.work_center} is not known")
                work.append((part, row, center))
                resource.append(nth)
        for line in sheet.lines:
            if line.part is not None and line.part not in rows:
                raise TallyError(f"part {line.part} is not known")
            lines.append((part, -1 if line.issue_at is None else at[line.issue_at], line))
    codes: dict[str, int] = {}
    for _, _, line in lines:
        if line.option is not None:
            codes.setdefault(line.option, len(codes))
    parts = _parts(definition.parts, sheets, day)
    return parts, _lines(lines, rows, parts.unit, codes), _operations(work, resource), rows, codes


def _sheets_in_force(definition: Definition, rows: Mapping[str, int], day: date, drafts: bool) -> dict[int, Sheet]:
    """By part row, ascending."""
    chosen = choose_sheets(
        (
            Candidate(
                key,
                rows[s.part],
                s.alternate,
                s.revision,
                s.status,
                s.effective_from,
                s.effective_to,
                s.alternate == definition.parts[rows[s.part]].default_alternate,
            )
            for key, s in enumerate(definition.sheets)
        ),
        day,
        drafts,
    )
    return {part: definition.sheets[key] for part, key in sorted(chosen.items())}


def _filled(table: type, records: Sequence, otherwise: Mapping[str, Sequence]) -> dict[str, np.ndarray]:
    """Every column of a table: from what is given for it, else from the field of its name."""
    return {
        name: filled(column, otherwise[name] if name in otherwise else [getattr(r, name) for r in records])
        for name, column in columns_of(table).items()
    }


def _parts(parts: Sequence[Part], sheets: Mapping[int, Sheet], day: date) -> PartTable:
    return PartTable(
        numbers=[p.number for p in parts],
        **_filled(
            PartTable,
            parts,
            {
                "unit_cost": [price_on(p, day) for p in parts],
                "batch": [sheets[row].batch if row in sheets else None for row in range(len(parts))],
                "unit": [_known(p.unit) for p in parts],
                "whole_only": [is_count(p.unit) if p.whole_only is None else p.whole_only for p in parts],
            },
        ),
    )


def _known(unit: str) -> str:
    """A unit, once it is known to be one. Raises UnitError."""
    code(unit)
    return unit


def _lines(placed: Sequence[tuple[int, int, Line]], rows: Mapping[str, int], stock_unit: np.ndarray, codes: Mapping[str, int]) -> LineTable:
    units = columns_of(PartTable)["unit"].words
    child = [-1 if line.part is None else rows[line.part] for *_, line in placed]
    return LineTable(
        **_filled(
            LineTable,
            [line for *_, line in placed],
            {
                "parent": [part for part, _, _ in placed],
                "child": child,
                "operation": [operation for _, operation, _ in placed],
                # No unit of its own: the part's stock unit.
                "unit": [
                    _known(line.unit) if line.unit is not None else units[stock_unit[at]] if at >= 0 else None
                    for (*_, line), at in zip(placed, child, strict=True)
                ],
                "per_lot": [line.quantity_basis == "per_lot" for *_, line in placed],
                "option": [None if line.option is None else codes[line.option] for *_, line in placed],
                "removes": [line.option is not None and line.option_action == "remove" for *_, line in placed],
                "first_day": [line.effective_from and line.effective_from.toordinal() for *_, line in placed],
                "last_day": [line.effective_to and line.effective_to.toordinal() for *_, line in placed],
            },
        )
    )


def _beside(operation: Operation, resource: Resource) -> Operation:
    """What works beside an operation, as a row of its own."""
    own = {f.name: getattr(resource, f.name) for f in fields(Resource)}
    return Operation(operation.sequence, cycle_quantity=operation.cycle_quantity, **own)


def _operations(work: Sequence[tuple[int, Operation, WorkCenter]], resource: Sequence[int]) -> OperationTable:
    """Those of a work center at its rates; what is done outside has a price instead."""
    outside = [o.subcontract for _, o, _ in work]
    of_center = [n for n in columns_of(OperationTable) if n not in Operation.__slots__ and n in WorkCenter.__slots__]
    return OperationTable(
        **_filled(
            OperationTable,
            [o for _, o, _ in work],
            {
                "parent": [part for part, _, _ in work],
                "resource": resource,
                **{name: [getattr(c, name) for *_, c in work] for name in of_center},
                "setup_labor_rate": [c.labor_rate if c.setup_labor_rate is None else c.setup_labor_rate for *_, c in work],
                "outside_price": [None if x is None else x.unit_price for x in outside],
                "outside_minimum": [None if x is None else x.minimum_charge for x in outside],
            },
        )
    )
