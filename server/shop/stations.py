"""Where an operation of an order is done: at its work center, or where somebody of its group takes it up."""

from definition.models.work_centers import WorkCenter
from tally_core.basics.errors import Problem, ProblemsError

from shop.models import OrderOperation

__all__ = ["done_at", "floats"]


def done_at(operation: OrderOperation, center: str) -> None:
    """Note where an operation is begun or reported; empty leaves it where it is. It is saved within the caller's transaction.

    Raises ProblemsError where that work center does not do it.
    """
    if not center or (operation.center is not None and operation.center.code == center):
        return
    other = WorkCenter.objects.filter(code=center, group=operation.group).first() if operation.group else None
    if other is None:
        where = operation.center.code if operation.center else operation.supplier or "outside"
        where = f"a work center of {operation.group}" if operation.group else where
        raise ProblemsError(
            [Problem("center", f"operation {operation.sequence} of {operation.order.number} is done at {where}, not at {center}")]
        )
    operation.center = other
    operation.save(update_fields=["center"])


def floats(operation: OrderOperation) -> bool:
    """Whether any work center of a group may still take it up: nobody is at it."""
    return bool(operation.group) and operation.begun_at is None
