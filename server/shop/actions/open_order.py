"""Open a work order, and with it orders for the made components that are not on stock."""

from collections.abc import Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

import numpy as np
from definition.models.parts import Part
from django.utils.timezone import localdate, localtime
from loading.reads import load_question
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.basics.kinds import IS_ITSELF, PART_KIND, TAKES_SHEET
from tally_core.cost.answers import Basis
from tally_core.structure.net_needs import net_needs
from verbs.contract import asked_before, writing

from shop.laying import lay, sheet_for
from shop.models import WorkOrder
from shop.numbers import next_number
from shop.stock import free_of

__all__ = ["open_order", "typed_quantity"]


def typed_quantity(text: Any, part: Part, place: str = "quantity") -> Decimal:
    """How many of a part, as somebody typed it. Raises ProblemsError."""
    try:
        quantity = Decimal(str(text).strip())
    except ArithmeticError:
        quantity = Decimal(0)
    if not quantity.is_finite() or not 0 < quantity < Decimal("1e9") or round(quantity, 9) != quantity:
        raise ProblemsError([Problem(place, "a quantity is a number above 0, of at most nine decimals")])
    if part.whole_only and quantity != quantity.to_integral_value():
        raise ProblemsError([Problem(place, f"{part.number} is counted in whole units")])
    return quantity


def open_order(
    user: Any,
    part_number: str,
    quantity: Any,
    wanted: date | None = None,
    options: Sequence[str] = (),
    alternate: str = "",
    nest: bool = True,
    note: str = "",
    day: date | None = None,
    key: UUID | None = None,
) -> WorkOrder:
    """A planned order, laid backward from its wanted day or, without one, forward from today.

    Args:
        nest: made components that are not free, at all levels, get orders of their own, wanted when the operation that takes them begins.
        day: the day it is opened, where that is written down later.
        key: asked again under the same, the order that was opened then is answered, whatever has become of it.

    Raises ProblemsError and TallyError for what cannot be ordered, MissingError and Refused.
    """
    with writing(user, "work orders"):
        # Takes the lock under which orders get their numbers.
        number = next_number()
        if before := asked_before(WorkOrder.objects.all(), key):
            return before
        part = Part.objects.filter(number=part_number).first()
        if part is None:
            raise MissingError(f"Part {part_number} is not known.")
        if not TAKES_SHEET[list(PART_KIND).index(part.kind)] or not PART_KIND[part.kind].stocked:
            raise ProblemsError([Problem("part", f"{part.number} is a {part.kind} part; only what is made gets a work order")])
        amount = typed_quantity(quantity, part)
        today = day or localdate()
        if wanted is not None and wanted < today:
            raise ProblemsError([Problem("wanted", f"{wanted.isoformat()} is past")])
        if len(note) > 2000 or "\x00" in note:
            raise ProblemsError([Problem("note", "at most 2,000 characters")])
        order = _opened(user, number, part, amount, wanted, options, alternate, note.strip(), None, today, key)
        if nest:
            _nest(user, order, today)
        return order


def _opened(
    user: Any,
    number: str,
    part: Part,
    quantity: Decimal,
    wanted: date | None,
    options: Sequence[str],
    alternate: str,
    note: str,
    parent: WorkOrder | None,
    day: date,
    key: UUID | None = None,
) -> WorkOrder:
    order = WorkOrder(
        number=number,
        part=part,
        quantity=quantity,
        options=list(options),
        alternate=alternate,
        wanted=wanted,
        parent=parent,
        note=note,
        asked_as=key,
        made_by=str(user),
    )
    if day != localdate():
        order.made_at = localtime().replace(year=day.year, month=day.month, day=day.day)
    laid = lay(order, sheet_for(part, alternate, day), day)
    order.starts_at, order.ends_at = laid.starts, laid.ends
    order._history_user = user
    order.save()
    return order


def _nest(user: Any, order: WorkOrder, day: date) -> None:
    """Orders for what is made at all levels below and is not free, each wanted the day before the first order that takes it begins."""
    sheet = sheet_for(order.part, order.alternate, day)
    loaded, question = load_question(order.part, Basis(day, order.quantity, tuple(order.options)), sheet)
    s, top = question.structure, question.top
    keys = loaded.part_ids.tolist()
    free = free_of(keys)
    there = np.array([float(max(on_hand - taken, Decimal(0))) for on_hand, taken in (free[key] for key in keys)])
    wanted = np.zeros(len(keys))
    wanted[top] = float(order.quantity)
    left = net_needs(s, wanted, there).left
    orders = {top: order}
    parts = Part.objects.in_bulk(keys)
    for row in s.order.tolist():
        made = TAKES_SHEET[s.parts.kind[row]] and IS_ITSELF[s.parts.kind[row]] and np.isfinite(s.parts.batch[row])
        if row == top or not made or left[row] <= 0:
            continue
        takers = [orders[p] for p in _takers(s, row) if p in orders]
        if not takers:
            continue
        first = min((t for t in takers if t.starts_at), key=lambda t: t.starts_at or datetime.max, default=takers[0])
        by = max(localtime(first.starts_at).date(), day) if first.starts_at else None
        quantity = round(Decimal(repr(float(left[row]))), 6)
        orders[row] = _opened(user, next_number(), parts[keys[row]], quantity, by, order.options, "", "", takers[0], day)


def _takers(s: Any, row: int) -> list[int]:
    """The parts that take one directly, phantoms passed through."""
    found: list[int] = []
    waiting = [row]
    while waiting:
        child = waiting.pop()
        for parent in s.parent[(s.child == child) & ~s.byproduct & ~s.free].tolist():
            (found if IS_ITSELF[s.parts.kind[parent]] else waiting).append(parent)
    return found
