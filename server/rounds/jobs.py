"""What the worker does with a round: one thing at a time, said while it goes on, and known when it was cut off."""

import uuid
from collections.abc import Callable

from django.db import transaction
from jobs.locks import ROUND, hold, in_hand
from standards.models import Round
from tally_core.errors import MissingError, TallyError

__all__ = ["WAITING", "begin", "carry_out", "open_round_for", "say"]

#: As long as no worker has begun.
WAITING = "waiting for the worker"


def open_round_for(round_id: int) -> Round:
    """A round, locked for the transaction. Raises TallyError when it is gone or no longer open."""
    found = Round.objects.select_for_update().filter(pk=round_id).first()
    if found is None:
        raise MissingError("This round is no longer there.")
    if found.status != "open":
        raise TallyError(f"{found.name} was {found.status} by {found.closed_by}; what it did stays as it is.")
    return found


def begin(round: Round) -> uuid.UUID:
    """Note that something is to be done with a round. Raises TallyError while a worker is at it."""
    if in_hand(ROUND, round.pk):
        raise TallyError(f"{round.name} is in hand already ({round.doing}); wait until it is done.")
    job = uuid.uuid4()
    Round.objects.filter(pk=round.pk).update(job=job, doing=WAITING, step=0, steps=0, failed="")
    return job


def say(round_id: int, words: str, step: int, steps: int) -> None:
    """Tell what is being done and how far it is; seen at once, since it stands in no longer transaction."""
    Round.objects.filter(pk=round_id).update(doing=words, step=step, steps=steps)


def carry_out(round_id: int, job: str, work: Callable[[Round], None]) -> None:
    """Do it, unless another job has taken its place meanwhile; why it could not be done is kept with the round."""
    with hold(ROUND, round_id) as got:
        round = Round.objects.filter(pk=round_id).first()
        if not got or round is None or str(round.job) != job:
            return
        failed = ""
        try:
            work(round)
        except TallyError as error:
            failed = str(error)
        except Exception as error:
            failed = f"It could not be finished ({type(error).__name__}); try again."
            if not transaction.get_connection().in_atomic_block:
                Round.objects.filter(pk=round_id).update(failed=failed, doing="", step=0)
            raise
        Round.objects.filter(pk=round_id).update(failed=failed, doing="", step=0)
