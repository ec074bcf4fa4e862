"""What units that are reported at an operation take by the list: proposed at the end of a day, and corrected there."""

from decimal import Decimal
from typing import Any

from tally_core.basics.errors import MissingError
from tally_core.shop.kept_plan import read_plan
from tally_core.shop.reporting import backflushed

from shop.models import Component, WorkOrder

__all__ = ["taken_with"]


def taken_with(number: str, sequence: int, units: Decimal) -> list[dict[str, Any]]:
    """The components of an operation, each with what so many more units take of it, beside what was issued already (W3). Three queries.

    Raises MissingError where there is no such order or operation.
    """
    order = WorkOrder.objects.filter(number=number).first()
    operation = order.operations.filter(sequence=sequence, resource=0).first() if order else None
    if order is None or operation is None:
        raise MissingError(f"There is no order {number} with an operation {sequence}.")
    plan = read_plan(order.plan or {})
    total = operation.good + operation.scrapped + units
    found = []
    for c in Component.objects.filter(order=order, operation=operation.row, byproduct=False).select_related("part").order_by("row"):
        due = backflushed(plan.lines[c.row], total, c.issued + c.stood_in, bool(c.part.whole_only))
        found.append(
            {
                "row": c.row,
                "part": c.part.number,
                "description": c.part.description,
                "unit": c.part.unit,
                "quantity": f"{due.normalize():f}",
                "backflush": c.backflush,
            }
        )
    return found
