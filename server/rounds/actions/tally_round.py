"""Tally a round: what it comes to, part by part, found by the worker."""

from typing import Any

from accounts.access import require
from django.db import transaction
from django_tasks import task
from standards.models import Round

from rounds.jobs import begin, carry_out, open_round_for, say
from rounds.staleness import mark_histories
from rounds.tallying import keep, tally_round

__all__ = ["ask_for_tally", "run_tally"]

_STEPS = 5


def ask_for_tally(user: Any, round_id: int) -> None:
    """Have the worker tally a round. Raises TallyError while it is at it already, and Refused."""
    require(user, "rounds")
    with transaction.atomic():
        job = begin(open_round_for(round_id))
    run_tally.enqueue(round_id, str(job), str(user))


@task()
def run_tally(round_id: int, job: str, by: str) -> None:
    """Tally; what it came to takes the place of the last tally in one transaction, when all of it is there."""

    def work(round: Round) -> None:
        mark, last_standard = mark_histories()
        tallied = tally_round(round, lambda words, step: say(round_id, words, step, _STEPS))
        say(round_id, f"keeping {len(tallied.part):,} parts", 4, _STEPS)
        with transaction.atomic():
            keep(round, tallied, mark, last_standard, by)

    carry_out(round_id, job, work)
