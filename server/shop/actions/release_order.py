"""Release an order: its sheet, quantity, options and expected cost are fixed (rule W1), and what it takes is spoken for."""

from datetime import datetime
from fractions import Fraction
from typing import Any

from django.utils.timezone import localdate, now
from tally_core.shop.expected import expected_cost
from tally_core.shop.kept_plan import plain_plan
from verbs.contract import writing

from shop.laying import decimal_of, lay, sheet_for
from shop.ledger import held_order
from shop.models import Component, OrderOperation, ShownFile, WorkOrder
from shop.numbers import keep_open_quantity
from shop.order_states import require_now

__all__ = ["release_order"]


def release_order(user: Any, order_id: int, version: int | None, at: datetime | None = None) -> WorkOrder:
    """``at``: when it was released, where that is written down later.

    Raises TallyError where no released sheet is in force, ProblemsError for an order that is not planned, MissingError and Refused.
    """
    with writing(user, "work orders"):
        order = held_order(order_id, version)
        require_now(order, "release")
        day = localdate(at) if at else localdate()
        laid = lay(order, sheet_for(order.part, order.alternate, day), day)
        OrderOperation.objects.bulk_create(laid.operations)
        ShownFile.objects.bulk_create(laid.files)
        Component.objects.bulk_create(laid.components)
        whole = expected_cost(laid.plan, laid.plan.quantity)
        # What one is worth when it comes in, until the order is closed.
        unit = {name: f"{decimal_of(amount / laid.plan.quantity):f}" for name, amount in whole.items() if amount}
        order.plan = plain_plan(laid.plan) | {"unit": unit, "day": day.isoformat()}
        order.expected = decimal_of(sum(whole.values(), Fraction(0)))
        order.sheet, order.starts_at, order.ends_at = laid.sheet, laid.starts, laid.ends
        order.state, order.released_by, order.released_at = "released", str(user), at or now()
        order.version += 1
        order._history_user = user
        order.save()
        keep_open_quantity(order, user)
        return order
