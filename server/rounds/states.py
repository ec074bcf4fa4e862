"""What may be done with a round as it stands: asked by every action on one, and beforehand by its screen."""

from collections.abc import Sequence

from accounts.allowed import Allowed
from standards.models import Round, Tally

__all__ = ["answers", "require_now", "why_not_accepted"]

_OPEN = (("open",), "is {state}; what it did stays as it is")
_ACTIONS = Allowed(
    {
        "change": _OPEN,
        "tally": _OPEN,
        "accept": _OPEN,
        "drop": _OPEN,
        "take_over": (("accepted",), "is {state}; only what an accepted round proposed becomes the inputs"),
    }
)


def require_now(the_round: Round, action: str) -> None:
    """Raise ProblemsError where an action cannot be done with a round in its state."""
    _ACTIONS.require(action, the_round.status, the_round.name)


def why_not_accepted(the_round: Round, tally: Tally | None, changed: Sequence[str]) -> str | None:
    """Why an open round cannot be accepted as it was tallied; ``changed``: what moved since, in words. None where it can."""
    if tally is None:
        return f"{the_round.name} has not been tallied yet; tally it, look at what it comes to, then accept it."
    if not changed:
        return None
    more = f" and {len(changed) - 3} more" if len(changed) > 3 else ""
    return (
        f"Changed since {the_round.name} was tallied: {'; '.join(changed[:3])}{more}. Tally it again, then accept it."
    )


def answers(the_round: Round, tally: Tally | None, changed: Sequence[str]) -> dict[str, str | None]:
    """For every action why it cannot be done, null where it can."""
    found = _ACTIONS.answers(the_round.status, the_round.name)
    return found | {"accept": found["accept"] or why_not_accepted(the_round, tally, changed)}
