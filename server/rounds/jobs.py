"""What the worker does with a round: one thing at a time."""

from jobs.models import Job
from jobs.work import ask_for
from standards.models import Round
from tally_core.basics.errors import MissingError

from rounds.states import require_now

__all__ = ["KIND", "begin", "open_round_for"]

#: Tallying and accepting are one kind of work, so that they never go on beside one another.
KIND = "round"


def open_round_for(round_id: int, action: str) -> Round:
    """A round to do something with, locked for the transaction. Raises MissingError, and ProblemsError in a state that forbids it."""
    found = Round.objects.select_for_update().filter(pk=round_id).first()
    if found is None:
        raise MissingError("This round is no longer there.")
    require_now(found, action)
    return found


def begin(the_round: Round, what: str, by: str) -> Job:
    """Note that something is to be done with a round. Raises TallyError while a worker is at it."""
    return ask_for(KIND, the_round.pk, f"{what} {the_round.name}", by)
