"""What may be done with a handover in the state it is in: asked by every action on one, and beforehand by its screen."""

from tally_core.basics.errors import Problem, ProblemsError

from handover.models import Handover

__all__ = ["answers", "require_now"]

#: What asks for a state. ``change``: decide, add, take over, read again; ``settle``: finish what broke off, or take it back.
_STATES = {"change": ("work",), "let_go": ("work",), "settle": ("writing",), "tell": ("work", "writing")}


def _why_not(handover: Handover, action: str) -> str | None:
    if handover.state in _STATES[action]:
        return None
    if handover.state == "writing":
        return f"{handover.number} is being written, or broke off in the middle; finish it or take it back first"
    if handover.state == "work":
        return f"{handover.number} did not break off; nothing of it is to be finished"
    return f"{handover.number} has ended; begin a new one"


def answers(handover: Handover) -> dict[str, str | None]:
    """For every action that a person may take why it cannot be done, null where it can."""
    return {action: _why_not(handover, action) for action in ("change", "let_go", "settle")}


def require_now(handover: Handover, action: str) -> None:
    """Raise ProblemsError where an action cannot be done with a handover in its state."""
    if refusal := _why_not(handover, action):
        raise ProblemsError([Problem("", refusal)])
