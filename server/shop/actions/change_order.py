"""Change an order after it was opened: its quantity, its day, which sheet it follows; or split it in two."""

from datetime import date
from decimal import Decimal
from typing import Any

from django.utils.timezone import localdate
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

from shop.actions.open_order import typed_quantity
from shop.actions.release_order import release_order
from shop.laying import lay, sheet_for
from shop.ledger import held_order
from shop.models import WorkOrder
from shop.numbers import keep_open_quantity, next_number
from shop.order_states import require_now

__all__ = ["change_order", "replan_order", "split_order"]


def change_order(user: Any, order_id: int, version: int, quantity: Any, wanted: date | None, note: str | None = None) -> WorkOrder:
    """A planned or released order on which nothing was reported; a released one is fixed anew, by the sheet in force today (W1).

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "work orders"):
        order = _changeable(order_id, version)
        order.quantity = typed_quantity(quantity, order.part)
        if wanted is not None and wanted != order.wanted and wanted < localdate():
            raise ProblemsError([Problem("wanted", f"{wanted.isoformat()} is past")])
        order.wanted = wanted
        if note is not None:
            order.note = note.strip()[:2000]
        return _laid_anew(user, order, "")


def replan_order(user: Any, order_id: int, version: int, reason: str) -> WorkOrder:
    """Take over the sheet that is in force today. Raises ProblemsError without a reason, MissingError and Refused."""
    with writing(user, "work orders"):
        order = _changeable(order_id, version)
        words = " ".join(reason.split())
        if not 0 < len(words) <= 100 or not words.isprintable():
            raise ProblemsError([Problem("reason", "say why, in 1 to 100 characters")])
        return _laid_anew(user, order, words)


def split_order(user: Any, order_id: int, version: int, quantity: Any) -> WorkOrder:
    """So many of an order become one of their own; answers the new one. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "work orders"):
        order = _changeable(order_id, version)
        apart = typed_quantity(quantity, order.part)
        if apart >= order.quantity:
            raise ProblemsError([Problem("quantity", f"less than the {order.quantity.normalize():f} that are ordered")])
        was_released = order.state == "released"
        order.quantity -= apart
        _laid_anew(user, order, f"split, {apart.normalize():f} apart")
        other = WorkOrder(
            number=next_number(),
            part=order.part,
            quantity=apart,
            options=order.options,
            alternate=order.alternate,
            wanted=order.wanted,
            parent=order.parent,
            note=order.note,
            made_by=str(user),
        )
        day = localdate()
        laid = lay(other, sheet_for(order.part, order.alternate, day), day)
        other.starts_at, other.ends_at = laid.starts, laid.ends
        other._history_user, other._change_reason = user, f"split off {order.number}"
        other.save()
        return release_order(user, other.pk, other.version) if was_released else other


def _changeable(order_id: int, version: int) -> WorkOrder:
    order = held_order(order_id, version)
    require_now(order, "change")
    return order


def _laid_anew(user: Any, order: WorkOrder, reason: str) -> WorkOrder:
    order._history_user, order._change_reason = user, reason
    if order.state == "released":
        order.operations.all().delete()
        order.components.all().delete()
        order.state, order.plan, order.expected = "planned", None, Decimal(0)
        order.save()
        return release_order(user, order.pk, order.version)
    day = localdate()
    laid = lay(order, sheet_for(order.part, order.alternate, day), day)
    order.starts_at, order.ends_at = laid.starts, laid.ends
    order.version += 1
    order.save()
    keep_open_quantity(order, user)
    return order
