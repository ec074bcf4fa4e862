"""What the worker does with a round: one thing at a time."""

from jobs.models import Job
from jobs.work import ask_for
from standards.models import Round
from tally_core.basics.errors import MissingError, TallyError

__all__ = ["KIND", "begin", "open_round_for"]

#: Tallying and accepting are one kind of work, so that they never go on beside one another.
KIND = "round"


def open_round_for(round_id: int) -> Round:
    """A round, locked for the transaction. Raises TallyError when it is gone or no longer open."""
    found = Round.objects.select_for_update().filter(pk=round_id).first()
    if found is None:
        raise MissingError("This round is no longer there.")
    if found.status != "open":
        raise TallyError(f"{found.name} was {found.status} by {found.closed_by}; what it did stays as it is.")
    return found


def begin(the_round: Round, what: str, by: str) -> Job:
    """Note that something is to be done with a round. Raises TallyError while a worker is at it."""
    return ask_for(KIND, the_round.pk, f"{what} {the_round.name}", by)
