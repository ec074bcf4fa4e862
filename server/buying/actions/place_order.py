"""Change an order that is still a draft, place it, or cancel it with a reason."""

from datetime import date
from decimal import Decimal
from typing import Any

from django.utils.timezone import now
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import held, writing

from buying.models import OrderLine, PurchaseOrder
from buying.open_quantities import keep_open_quantities
from buying.states import ORDER_ACTIONS
from buying.typed_number import typed_number

__all__ = ["cancel_order", "change_order", "held_order", "place_order"]


def held_order(order_id: int, version: int | None) -> PurchaseOrder:
    """An order, held until the caller's transaction ends, as somebody saw it. Raises MissingError and ProblemsError."""
    return held(PurchaseOrder.objects.filter(pk=order_id), version, "This order", "This order is no longer there.")


def _saved(order: PurchaseOrder, user: Any) -> PurchaseOrder:
    order.version += 1
    order._history_user = user
    order.save()
    return order


def change_order(user, order_id: int, version: int | None, note: str | None, lines: list[dict[str, Any]]) -> PurchaseOrder:
    """Other quantities, prices and days on a draft. ``lines``: line, and of quantity, price and due_on what changes; quantity 0 takes it away.

    Raises ProblemsError placing each problem at its line, MissingError and Refused.
    """
    with writing(user, "buying"):
        order = held_order(order_id, version)
        ORDER_ACTIONS.require("change", order.state, order.number)
        rows = {line.pk: line for line in order.lines.all()}
        problems: list[Problem] = []
        for at, given in enumerate(lines):
            line = rows.get(given.get("line", 0))
            if line is None:
                problems.append(Problem(f"lines[{at}]", "this line is no longer there"))
                continue
            for field, least in (("quantity", Decimal(0)), ("price", Decimal(0))):
                if given.get(field) is not None:
                    number = _number(given[field])
                    if number is None or number < least:
                        problems.append(Problem(f"lines[{at}].{field}", "a number from 0"))
                    else:
                        setattr(line, field, number)
            if "due_on" in given:
                try:
                    line.due_on = date.fromisoformat(given["due_on"]) if given["due_on"] else None
                except ValueError:
                    problems.append(Problem(f"lines[{at}].due_on", "a day as year-month-day"))
        if not any(line.quantity for line in rows.values()):
            problems.append(Problem("", "an order has a line; cancel it where nothing is wanted"))
        if problems:
            raise ProblemsError(problems)
        OrderLine.objects.filter(pk__in=[k for k, line in rows.items() if not line.quantity]).delete()
        OrderLine.objects.bulk_update([line for line in rows.values() if line.quantity], ["quantity", "price", "due_on"])
        if note is not None:
            order.note = note.strip()[:5000]
        return _saved(order, user)


def _number(text: Any) -> Decimal | None:
    number = typed_number(text)
    return number if number is not None and abs(number) < 10**9 else None


def place_order(user, order_id: int, version: int | None) -> PurchaseOrder:
    """Place a draft: from now on its parts are on order. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "buying"):
        order = held_order(order_id, version)
        ORDER_ACTIONS.require("place", order.state, order.number)
        order.state, order.placed_by, order.placed_at = "placed", str(user), now()
        _saved(order, user)
        keep_open_quantities(order, user)
        return order


def cancel_order(user, order_id: int, version: int | None, reason: str) -> PurchaseOrder:
    """Cancel what is still to come; what was received stays received. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "buying"):
        order = held_order(order_id, version)
        ORDER_ACTIONS.require("cancel", order.state, order.number)
        words = reason.strip()
        if not words or len(words) > 2000 or "\x00" in words:
            raise ProblemsError([Problem("reason", "say why, in at most 2,000 characters")])
        order.state, order.cancelled_by, order.reason = "cancelled", str(user), words
        _saved(order, user)
        keep_open_quantities(order, user)
        return order
