"""Take a list of open orders: what is still to come of each part, all rows or none."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any

from accounts.access import require
from django.db import transaction
from django.db.models.functions import Upper
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core.errors import Problem, ProblemsError

from parts.models import OpenOrder, Part

__all__ = ["take_open_orders"]

#: The columns of a list, by what their titles may be.
_COLUMNS = {
    "order": ("order", "order number", "purchase order", "work order"),
    "part": ("part", "part number", "number"),
    "quantity": ("open", "open quantity", "still to come", "quantity"),
    "due_on": ("due", "due on", "day"),
}
_MOST_ROWS = 60_000


def take_open_orders(user: Any, rows: Sequence[Sequence[str]]) -> int:
    """Keep the rows of a list whose first row holds titles. A part of an order that is there already gets the new
    quantity; one with nothing still to come is let go.

    Returns how many orders' parts were kept or let go. Raises ProblemsError placing each problem at its row, and Refused.
    """
    require(user, "open orders")
    titles = [cell.strip().lower() for cell in rows[0]] if rows else []
    at = {name: titles.index(w) for name, words in _COLUMNS.items() for w in words if w in titles}
    missing = [_COLUMNS[n][0] for n in ("order", "part", "quantity") if n not in at]
    if missing or len(rows) > _MOST_ROWS:
        words = f"the list has no column {', '.join(missing)}" if missing else f"a list has at most {_MOST_ROWS:,} rows"
        raise ProblemsError([Problem("", words)])

    def cell(row: Sequence[str], name: str) -> str:
        return row[at[name]].strip() if name in at and at[name] < len(row) else ""

    body = [(n, row) for n, row in enumerate(rows[1:], 2) if any(c.strip() for c in row)]
    problems: list[Problem] = []
    with transaction.atomic():
        wanted = {cell(r, "part").upper() for _, r in body}
        parts = {
            p.number.upper(): p for p in Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=wanted)
        }
        orders = {cell(r, "order") for _, r in body}
        held = {(o.part_id, o.order): o for o in OpenOrder.objects.select_for_update().filter(order__in=orders)}
        read: dict[tuple[int, str], OpenOrder] = {}
        for number, row in body:
            part = parts.get(cell(row, "part").upper())
            try:
                quantity = round(Decimal(cell(row, "quantity").replace(",", ".")), 9)
                if not 0 <= quantity < Decimal("1e12"):
                    raise InvalidOperation
                due = date.fromisoformat(cell(row, "due_on")) if cell(row, "due_on") else None
            except InvalidOperation:
                problems.append(
                    Problem(f"row {number}", f"row {number}: {cell(row, 'quantity')[:20] or 'empty'} is no quantity")
                )
                continue
            except ValueError:
                problems.append(Problem(f"row {number}", f"row {number}: a day is written like 2027-01-31"))
                continue
            if part is None:
                problems.append(
                    Problem(f"row {number}", f"row {number}: part {cell(row, 'part')[:40] or '(empty)'} is not known")
                )
            elif not 0 < len(cell(row, "order")) <= 64:
                problems.append(Problem(f"row {number}", f"row {number}: an order has a number of 1 to 64 characters"))
            else:
                read[part.pk, cell(row, "order")] = OpenOrder(
                    part=part, order=cell(row, "order"), quantity=quantity, due_on=due, added_by=str(user)
                )
        if problems:
            raise ProblemsError(problems[:200])
        fresh = [o for key, o in read.items() if key not in held and o.quantity]
        changed = []
        for key, order in read.items():
            if key in held:
                there = held[key]
                there.quantity, there.due_on, there.added_by = order.quantity, order.due_on, order.added_by
                changed.append(there)
        note = {"default_user": user, "default_change_reason": "list of open orders", "batch_size": 2000}
        if fresh:
            bulk_create_with_history(fresh, OpenOrder, **note)
        if changed:
            bulk_update_with_history(changed, OpenOrder, ["quantity", "due_on", "added_by", "added_at"], **note)
        OpenOrder.objects.filter(order__in=orders, quantity=0).delete()
        return len(fresh) + len(changed)
