"""What may be done with a round as it stands: asked by every action on one, and beforehand by its screen."""

from collections.abc import Sequence

from standards.models import Round, Tally
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["answers", "require_now", "why_not_accepted"]

_ACTIONS = ("change", "tally", "accept", "drop", "take_over")


def _why_not(the_round: Round, action: str) -> str | None:
    if action == "take_over":
        wrong = the_round.status != "accepted"
        return f"{the_round.name} is {the_round.status}; only what an accepted round proposed becomes the inputs" if wrong else None
    if the_round.status == "open":
        return None
    return f"{the_round.name} was {the_round.status} by {the_round.closed_by}; what it did stays as it is"


def require_now(the_round: Round, action: str) -> None:
    """Raise ProblemsError where an action cannot be done with a round in its state."""
    if refusal := _why_not(the_round, action):
        raise ProblemsError([Problem("", refusal)])


def why_not_accepted(the_round: Round, tally: Tally | None, changed: Sequence[str]) -> str | None:
    """Why an open round cannot be accepted as it was tallied; ``changed``: what moved since, in words. None where it can."""
    if tally is None:
        return f"{the_round.name} has not been tallied yet; tally it, look at what it comes to, then accept it."
    if not changed:
        return None
    more = f" and {len(changed) - 3} more" if len(changed) > 3 else ""
    return f"Changed since {the_round.name} was tallied: {'; '.join(changed[:3])}{more}. Tally it again, then accept it."


def answers(the_round: Round, tally: Tally | None, changed: Sequence[str]) -> dict[str, str | None]:
    """For every action why it cannot be done, null where it can."""
    found = {action: _why_not(the_round, action) for action in _ACTIONS}
    return found | {"accept": found["accept"] or why_not_accepted(the_round, tally, changed)}
