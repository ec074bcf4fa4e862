"""From plain records to columns, for a day: the sheets in force and what stands on them."""

from datetime import date
from decimal import Decimal

import numpy as np

from .definition import Definition, Line, Operation, Sheet, WorkCenter
from .effectivity import Candidate, choose_sheets
from .errors import TallyError
from .rates import center_on
from .tables import KINDS, LINE_KINDS, NO_END, NO_START, RUN_BASES, LineTable, OperationTable, PartTable
from .units import code, is_count

__all__ = ["tabulate"]


def _number(value: Decimal | None) -> float:
    return float("nan") if value is None else float(value)


def _floats(values) -> np.ndarray:
    return np.array([_number(v) for v in values], dtype=float)


def _ints(values, kind=np.int32) -> np.ndarray:
    return np.array(list(values), dtype=kind)


def tabulate(
    definition: Definition, day: date, drafts: bool = False
) -> tuple[PartTable, LineTable, OperationTable, dict[str, int], dict[str, int]]:
    """The columns of a definition on a day.

    Returns:
        parts, lines, operations, the row of each part number, and the code of each option.

    Raises TallyError when a line names a part, or an operation a work center, that the definition does not hold.
    """
    rows = {part.number: row for row, part in enumerate(definition.parts)}
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
    sheets: dict[int, Sheet] = {part: definition.sheets[key] for part, key in sorted(chosen.items())}
    centers = {center.code: center_on(center, day) for center in definition.work_centers}
    codes: dict[str, int] = {}
    work: list[tuple[int, Operation, WorkCenter]] = []
    lines: list[tuple[int, int, int, Line]] = []
    for part, sheet in sheets.items():
        at = {}
        for operation in sorted(sheet.operations, key=lambda o: o.sequence):
            at[operation.sequence] = len(work)
            center = centers.get(operation.work_center) if operation.work_center else WorkCenter("")
            if center is None:
                raise TallyError(f"work center {operation.work_center} is not known")
            work.append((part, operation, center))
        for line in sheet.lines:
            if line.part is not None and line.part not in rows:
                raise TallyError(f"part {line.part} is not known")
            if line.option is not None:
                codes.setdefault(line.option, len(codes))
            child = rows[line.part] if line.part is not None else -1
            lines.append((part, child, -1 if line.issue_at is None else at[line.issue_at], line))

    parts = PartTable(
        numbers=[p.number for p in definition.parts],
        kind=_ints((KINDS.index(p.kind) for p in definition.parts), np.int8),
        unit=_ints((code(p.unit) for p in definition.parts), np.int16),
        unit_cost=_floats(p.unit_cost for p in definition.parts),
        given_cost=_floats(p.given_cost for p in definition.parts),
        overhead_percent=_floats(p.overhead_percent for p in definition.parts),
        costing_lot=_floats(p.costing_lot for p in definition.parts),
        whole_only=_ints((is_count(p.unit) if p.whole_only is None else p.whole_only for p in definition.parts), bool),
        markup_percent=_floats(p.markup_percent or Decimal(0) for p in definition.parts),
        batch=_floats(sheets[row].batch if row in sheets else None for row in range(len(definition.parts))),
    )
    line_units = [
        code(line.unit) if line.unit is not None else (int(parts.unit[child]) if child >= 0 else 0)
        for _, child, _, line in lines
    ]
    line_table = LineTable(
        parent=_ints(part for part, _, _, _ in lines),
        child=_ints(child for _, child, _, _ in lines),
        kind=_ints((LINE_KINDS.index(line.kind) for *_, line in lines), np.int8),
        quantity=_floats(line.quantity for *_, line in lines),
        unit=_ints(line_units, np.int16),
        per_lot=_ints((line.quantity_basis == "per_lot" for *_, line in lines), bool),
        scrap_percent=_floats(line.scrap_percent for *_, line in lines),
        yield_percent=_floats(line.yield_percent for *_, line in lines),
        fixed_loss=_floats(line.fixed_loss for *_, line in lines),
        operation=_ints(operation for _, _, operation, _ in lines),
        option=_ints(-1 if line.option is None else codes[line.option] for *_, line in lines),
        removes=_ints((line.option is not None and line.option_action == "remove" for *_, line in lines), bool),
        customer_supplied=_ints((line.customer_supplied for *_, line in lines), bool),
        not_fitted=_ints((line.not_fitted for *_, line in lines), bool),
        first_day=_ints(line.effective_from.toordinal() if line.effective_from else NO_START for *_, line in lines),
        last_day=_ints(line.effective_to.toordinal() if line.effective_to else NO_END for *_, line in lines),
        item=_ints(line.item or 0 for *_, line in lines),
    )
    operations = OperationTable(
        parent=_ints(part for part, _, _ in work),
        sequence=_ints(o.sequence for _, o, _ in work),
        setup_minutes=_floats(o.setup_minutes for _, o, _ in work),
        run_minutes=_floats(o.run_minutes for _, o, _ in work),
        run_basis=_ints((RUN_BASES.index(o.run_basis) for _, o, _ in work), np.int8),
        cycle_quantity=_floats(o.cycle_quantity for _, o, _ in work),
        crew=_floats(o.crew for _, o, _ in work),
        setup_crew=_floats(o.setup_crew for _, o, _ in work),
        piece_rate=_floats(o.piece_rate for _, o, _ in work),
        yield_percent=_floats(o.yield_percent for _, o, _ in work),
        labor_rate=_floats(c.labor_rate for _, _, c in work),
        setup_labor_rate=_floats(
            c.labor_rate if c.setup_labor_rate is None else c.setup_labor_rate for _, _, c in work
        ),
        machine_rate=_floats(c.machine_rate for _, _, c in work),
        overhead_per_hour=_floats(c.overhead_per_hour for _, _, c in work),
        overhead_percent_of_labor=_floats(c.overhead_percent_of_labor for _, _, c in work),
        efficiency_percent=_floats(c.efficiency_percent for _, _, c in work),
        outside_price=_floats(o.subcontract.unit_price if o.subcontract else None for _, o, _ in work),
        outside_minimum=_floats(o.subcontract.minimum_charge if o.subcontract else Decimal(0) for _, o, _ in work),
    )
    return parts, line_table, operations, rows, codes
