"""Say which order takes what comes out of another: instead of a nested order of its own, or none any more."""

from typing import Any

from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

from shop.ledger import held_order
from shop.models import OPEN, WorkOrder

__all__ = ["link_order"]


def link_order(user: Any, order_id: int, version: int, parent_number: str) -> WorkOrder:
    """An empty number lets it stand alone. Raises ProblemsError for an order that cannot take it, MissingError and Refused."""
    with writing(user, "work orders"):
        order = held_order(order_id, version)
        number = parent_number.strip().upper()
        parent = None
        if number:
            parent = WorkOrder.objects.select_related("part").filter(number=number).first()
            if parent is None:
                raise ProblemsError([Problem("parent", f"there is no order {number[:20]}")])
            if parent.state not in OPEN:
                raise ProblemsError([Problem("parent", f"{number} is {parent.state}")])
            _refuse_circle(order, parent)
            if parent.plan is not None and not parent.components.filter(part=order.part).exists():
                raise ProblemsError([Problem("parent", f"{number} does not take {order.part.number}")])
        order.parent = parent
        order.version += 1
        order._history_user, order._change_reason = user, f"for {number}" if number else "for no order"
        order.save()
        return order


def _refuse_circle(order: WorkOrder, parent: WorkOrder) -> None:
    at: WorkOrder | None = parent
    while at is not None:
        if at.pk == order.pk:
            raise ProblemsError([Problem("parent", f"{parent.number} is itself made for {order.number}")])
        at = at.parent
