"""An order before it is released: which sheet it takes, what it will take and cost, and when its operations lie."""

from dataclasses import dataclass
from datetime import date, datetime
from decimal import ROUND_CEILING, Decimal
from fractions import Fraction

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Operation
from django.utils.timezone import localdate, localtime, make_aware, make_naive
from loading.times import Plan, plan_product
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis
from tally_core.cost.cost import job_lots, roll_up
from tally_core.shop.expected import ExpectedLine, OrderPlan
from tally_core.shop.from_costing import order_plan
from tally_core.structure.effectivity import Candidate, choose_sheets

from shop.models import Component, OrderOperation, ShownFile, WorkOrder
from shop.occupied import occupied

__all__ = ["Laid", "decimal_of", "lay", "sheet_for"]


@dataclass(slots=True)
class Laid:
    """What an order rests on, and its rows, not saved yet."""

    sheet: BuildSheet
    plan: OrderPlan
    operations: list[OrderOperation]
    files: list[ShownFile]
    components: list[Component]
    starts: datetime
    ends: datetime


def decimal_of(value: Fraction) -> Decimal:
    """A fraction as it is kept: nine decimals."""
    return round(Decimal(value.numerator) / Decimal(value.denominator), 9)


def sheet_for(part: Part, alternate: str, day: date) -> BuildSheet:
    """The released sheet that counts on a day. Raises TallyError where there is none."""
    found = BuildSheet.objects.filter(part=part, status="released")
    if alternate:
        found = found.filter(alternate=alternate)
    sheets = {s.pk: s for s in found}
    candidates = (
        Candidate(
            s.pk, s.part_id, s.alternate, s.revision, s.status, s.effective_from, s.effective_to, s.alternate == part.default_alternate
        )
        for s in sheets.values()
    )
    key = choose_sheets(candidates, day, False).get(part.pk)
    if key is None:
        which = f", alternate {alternate}," if alternate else ""
        raise TallyError(f"No released sheet of {part.number}{which} is in force on {day.isoformat()}; release one first.")
    sheet = sheets[key]
    sheet.part = part
    return sheet


def lay(order: WorkOrder, sheet: BuildSheet, day: date) -> Laid:
    """An order by a sheet as things stand on a day: backward from the end of its wanted day, else forward from that day's beginning (T1 to T4), today
    from now on, in hours in which no other released order takes its work centers.

    Its components are there; when they are is for their own orders to say. Raises TallyError where the sheet has no answer.
    """
    part, quantity = order.part, Decimal(order.quantity)
    basis = Basis(day, quantity, tuple(order.options))
    # What was opened this afternoon is not worked on this morning.
    begin = make_naive(localtime().replace(second=0, microsecond=0)) if day == localdate() else None
    laid = plan_product(part, basis, order.wanted, sheet, alone=True, taken=occupied(order), begin=begin)
    s, top = laid.structure, laid.part_ids.index(part.pk)
    assert laid.needs is not None
    costs = roll_up(s, job_lots(s, laid.needs))
    plan, rows, usages = order_plan(s, top, costs, Fraction(quantity))
    operations, files = _operations(order, sheet, laid, plan, rows)
    parts = Part.objects.in_bulk({laid.part_ids[s.child[usage]] for usage in usages})
    units = [Fraction(o.planned) for o in operations]
    components = [
        Component(
            order=order,
            row=at,
            part=parts[laid.part_ids[s.child[usage]]],
            item=int(s.lines.item[s.line[usage]]) or None,
            operation=line.operation,
            required=_required(line, units[line.operation], parts[laid.part_ids[s.child[usage]]]),
            byproduct=line.byproduct,
            customer_supplied=bool(s.free[usage]),
        )
        for at, (line, usage) in enumerate(zip(plan.lines, usages, strict=True))
    ]
    moments = [m for o in operations for m in (o.starts_at, o.ends_at) if m is not None]
    first = make_aware(datetime.combine(order.wanted or day, datetime.min.time()))
    return Laid(sheet, plan, operations, files, components, min(moments, default=first), max(moments, default=first))


def _required(line: ExpectedLine, units: Fraction, part: Part) -> Decimal:
    """What the planned units take; a part counted in whole units is taken whole (N2)."""
    amount = decimal_of(line.gross(units))
    whole = part.whole_only and not line.byproduct
    return (amount - Decimal("1e-6")).to_integral_value(ROUND_CEILING) if whole and amount % 1 else amount


def _operations(
    order: WorkOrder, sheet: BuildSheet, laid: Plan, plan: OrderPlan, rows: list[int]
) -> tuple[list[OrderOperation], list[ShownFile]]:
    held = {(o.sequence, o.resource): o for o in Operation.objects.filter(sheet=sheet).prefetch_related("shown")}
    moments = {row: at for at, (kind, row) in enumerate(laid.kinds) if kind == "operation"}
    of_sequence = {o.sequence: at for at, o in enumerate(plan.operations) if o.resource == 0}
    units = plan.started(plan.quantity)
    found: list[OrderOperation] = []
    files: list[ShownFile] = []
    before: int | None = None
    for at, expected in enumerate(plan.operations):
        stated = held.get((expected.sequence, expected.resource))
        setup, run = expected.hours(units[at])
        planned = decimal_of(units[at])
        if order.part.whole_only:
            planned = (planned - Decimal("1e-6")).to_integral_value(ROUND_CEILING)
        row = OrderOperation(
            order=order,
            row=at,
            sequence=expected.sequence,
            resource=expected.resource,
            planned=planned,
            setup_minutes=decimal_of(setup * 60),
            run_minutes=decimal_of(run * 60),
            outside=expected.outside_price is not None,
        )
        if stated is not None:
            row.name, row.center_id, row.supplier = stated.name, stated.work_center_id, str(stated.supplier_id or "")
            row.instructions = stated.instructions
            if stated.any_of_group and expected.resource == 0 and stated.work_center is not None:
                row.group = stated.work_center.group
            files += [ShownFile(operation=row, file_id=key, position=n) for n, key in enumerate(stated.files)]
        if expected.resource == 0:
            after = stated.after if stated is not None else []
            row.follows = [of_sequence[x] for x in after if x in of_sequence] or ([] if before is None else [before])
            before = at
            if rows and rows[at] in moments:
                moment = moments[rows[at]]
                row.starts_at = make_aware(laid.scheduled.start[moment])
                row.ends_at = make_aware(laid.scheduled.end[moment])
        found.append(row)
    return found, files
