"""Take a list of open orders: what is still to come of each part, all rows or none."""

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from accounts.access import require
from definition.models.parts import OpenOrder, Part
from django.db import transaction
from django.db.models.functions import Upper
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.lists.cells import Cell
from tally_core.lists.titled import TitledList

__all__ = ["take_open_orders"]

#: The columns of a list, by what their titles may be.
_COLUMNS = {
    "order": ("order", "order number", "purchase order", "work order"),
    "part": ("part", "part number", "number"),
    "quantity": ("open", "open quantity", "still to come", "quantity"),
    "due_on": ("due", "due on", "day"),
}
_MOST_ROWS = 60_000


def take_open_orders(user: Any, rows: Sequence[Sequence[Cell]]) -> int:
    """Keep the rows of a list whose first row holds titles. A part of an order that is there already gets the new
    quantity; one with nothing still to come is let go.

    Returns how many orders' parts were kept or let go. Raises ProblemsError placing each problem at its row, and Refused.
    """
    require(user, "open orders")
    listed = TitledList(rows, _COLUMNS, ["quantity"])
    missing = [_COLUMNS[n][0] for n in ("order", "part", "quantity") if n not in listed.columns]
    if missing or len(rows) > _MOST_ROWS:
        words = f"the list has no column {', '.join(missing)}" if missing else f"a list has at most {_MOST_ROWS:,} rows"
        raise ProblemsError([Problem("", words)])
    problems: list[Problem] = []
    with transaction.atomic():
        wanted = {row.text("part").upper() for row in listed}
        parts = {p.number.upper(): p for p in Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=wanted)}
        orders = {row.text("order") for row in listed}
        held = {(o.part_id, o.order): o for o in OpenOrder.objects.select_for_update().filter(order__in=orders)}
        read: dict[tuple[int, str], OpenOrder] = {}
        for row in listed:
            wrong: list[str] = []
            part, order = parts.get(row.text("part").upper()), row.text("order")
            try:
                quantity = row.amount("quantity")
                if quantity is None or not 0 <= quantity < Decimal("1e12"):
                    wrong.append(f"{row.text('quantity')[:20] or 'empty'} is no quantity")
            except ValueError as error:
                quantity = None
                wrong.append(f"quantity: {error}")
            try:
                due = row.day("due_on")
            except ValueError:
                due = None
                wrong.append("a day is written like 2027-01-31")
            if part is None:
                wrong.append(f"part {row.text('part')[:40] or '(empty)'} is not known")
            if not 0 < len(order) <= 64:
                wrong.append("an order has a number of 1 to 64 characters")
            if part is not None and (part.pk, order) in held and held[part.pk, order].kept:
                wrong.append(f"{order} is an order of ours; it is received or cancelled there")
            problems += [Problem(f"row {row.number}", f"row {row.number}: {words}") for words in wrong]
            if not wrong and part is not None and quantity is not None:
                read[part.pk, order] = OpenOrder(part=part, order=order, quantity=round(quantity, 9), due_on=due, added_by=str(user))
        if problems:
            raise ProblemsError(problems[:200])
        fresh = [o for key, o in read.items() if key not in held and o.quantity]
        changed = []
        for key, wanted_order in read.items():
            if key in held:
                there = held[key]
                there.quantity, there.due_on = wanted_order.quantity, wanted_order.due_on
                there.added_by = wanted_order.added_by
                changed.append(there)
        note = {"default_user": user, "default_change_reason": "list of open orders", "batch_size": 2000}
        if fresh:
            bulk_create_with_history(fresh, OpenOrder, **note)
        if changed:
            bulk_update_with_history(changed, OpenOrder, ["quantity", "due_on", "added_by", "added_at"], **note)
        OpenOrder.objects.filter(order__in=orders, quantity=0, kept=False).delete()
        return len(fresh) + len(changed)
