"""Look through all sheets: on demand, and every night by the worker."""

from datetime import timedelta

from django.db import transaction
from django.utils.timezone import localdate, now
from django_tasks import task
from geometry.counted import survey_with_models
from jobs.every_night import queue_for_tonight
from jobs.models import Job
from jobs.work import Tell, ask_for, carry_out, job_state, last_job
from loading.moment import one_moment
from readings.survey import find
from tally_core.basics.errors import TallyError

from findings.models import Finding, Survey

__all__ = ["KIND", "ask_for_check", "nightly", "run_check"]

KIND = "check"
_KEPT = 3
_STEPS = 3


def ask_for_check(user) -> None:
    """Have the worker look through all sheets, unless one look waits or runs already.

    Anybody who is signed in may ask: it writes nothing but its findings.
    """
    if not user.is_authenticated:
        raise TallyError("Sign in first.")
    with transaction.atomic():
        last = last_job(KIND)
        if last is not None and job_state(last).doing and now() - last.asked_at < timedelta(hours=1):
            return
        job = ask_for(KIND, 0, "the check of all sheets", str(user))
    run_check.enqueue(job.pk)


@task(queue_name="long")
def run_check(job_id: int) -> None:
    """Carry out one look; what it found replaces nothing until all of it is there."""
    carry_out(job_id, lambda tell: _look(job_id, tell))


def _look(job_id: int, tell: Tell) -> None:
    tell("reading all sheets", 1, _STEPS)
    with one_moment():
        surveyed = survey_with_models()
    lines = len(surveyed.survey.sheet)
    tell(f"checking {lines:,} lines", 2, _STEPS)
    found = find(surveyed, localdate())
    tell(f"keeping {len(found):,} findings", 3, _STEPS)
    with transaction.atomic():
        survey = Survey.objects.create(asked_by=Job.objects.get(pk=job_id).asked_by, lines=lines)
        names = ("code", "severity", "part_id", "sheet_id", "line", "item", "message", "mend", "key")
        Finding.objects.bulk_create([Finding(survey=survey, **{n: f[n] for n in names}) for f in found], batch_size=2000)
        kept = Survey.objects.order_by("-id").values_list("id", flat=True)[:_KEPT]
        Survey.objects.exclude(id__in=list(kept)).delete()


@task(queue_name="long")
def nightly() -> None:
    """Look through all sheets, and wait for the next night."""
    queue_for_tonight(nightly)
    with transaction.atomic():
        job = ask_for(KIND, 0, "the check of all sheets", "nightly")
    run_check.call(job.pk)
