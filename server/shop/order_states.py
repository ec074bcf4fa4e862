"""What may be done with a work order as it stands: asked by every action on one, and beforehand by its screen."""

from accounts.allowed import Allowed
from tally_core.basics.errors import Problem, ProblemsError

from shop.models import WorkOrder

__all__ = ["REPORTED", "answers", "require_now"]

#: States in which something may be reported on an order.
REPORTED = ("released", "running", "done")
_ACTIONS = Allowed(
    {
        "release": (("planned",), "is {state}; only a planned order is released"),
        "change": (("planned", "released"), "is {state}: what was begun is finished, closed or reversed first"),
        "report": (REPORTED, "is {state}; nothing is reported on it"),
        "flush": (("released", "running"), "is {state}; how it takes its components is settled"),
        "close": (("running", "done"), "is {state}; only what was worked on is closed"),
        "cancel": (("planned", "released", "running"), "is {state}; it is not cancelled any more"),
    }
)


def _why_not(order: WorkOrder, action: str) -> str | None:
    """Why an action cannot be done with an order as it stands, whoever asks; None where it can. At most one query."""
    if refusal := _ACTIONS.why_not(action, order.state, order.number):
        return refusal
    if action == "cancel" and (order.spent or order.good):
        return f"something was done on {order.number}: reverse it, or close the order"
    if action == "change" and order.entries.exists():
        return f"something was reported on {order.number}; it keeps what it was released with"
    return None


def answers(order: WorkOrder) -> dict[str, str | None]:
    """For every action why it cannot be done, null where it can. At most one query."""
    return {action: _why_not(order, action) for action in _ACTIONS.actions}


def require_now(order: WorkOrder, action: str) -> None:
    """Raise ProblemsError where an action cannot be done with an order as it stands."""
    if refusal := _why_not(order, action):
        raise ProblemsError([Problem("", refusal)])
