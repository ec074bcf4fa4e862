"""Tally a round: what it comes to, part by part, found by the worker."""

from typing import Any

from accounts.access import require
from django.db import transaction
from django.db.models import Max
from django_tasks import task
from jobs.work import Tell, carry_out
from loading.written import mark_now
from standards.models import Round, Standard

from rounds.jobs import begin, open_round_for
from rounds.tallying import keep, tally_round

__all__ = ["ask_for_tally", "run_tally"]

_STEPS = 5


def ask_for_tally(user: Any, round_id: int) -> None:
    """Have the worker tally a round. Raises TallyError while it is at it already, and Refused."""
    require(user, "rounds")
    with transaction.atomic():
        job = begin(open_round_for(round_id, "tally"), "the tally of", str(user))
    run_tally.enqueue(round_id, job.pk, str(user))


@task(queue_name="long")
def run_tally(round_id: int, job_id: int, by: str) -> None:
    """Tally; what it came to takes the place of the last tally in one transaction, when all of it is there."""

    def work(tell: Tell) -> None:
        the_round = Round.objects.get(pk=round_id)
        mark = mark_now()
        last_standard = Standard.objects.aggregate(last=Max("pk"))["last"] or 0
        tallied = tally_round(the_round, lambda words, step: tell(words, step, _STEPS))
        tell(f"keeping {len(tallied.part):,} parts", 4, _STEPS)
        with transaction.atomic():
            keep(the_round, tallied, mark, last_standard, by)

    carry_out(job_id, work)
