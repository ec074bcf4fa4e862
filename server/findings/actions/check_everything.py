"""Look through all sheets: on demand, and every night by the worker."""

from datetime import timedelta

from django.db import transaction
from django.utils.timezone import localdate, localtime, now
from django_tasks import task
from jobs.locks import CHECK, hold, in_hand
from readings.survey import find, load_survey
from tally_core.errors import TallyError

from findings.models import WAITING, Finding, Survey

__all__ = ["ask_for_check", "cut_off", "nightly", "run_check"]

_KEPT = 3
_HOUR = 2


def cut_off(survey: Survey) -> bool:
    """Whether somebody was at it and is gone."""
    return survey.doing != WAITING and not in_hand(CHECK, survey.pk)


def ask_for_check(user) -> Survey:
    """Have the worker look through all sheets; the one that waits or runs already, if there is one.

    Anybody who is signed in may ask: it writes nothing but its findings.
    """
    if not user.is_authenticated:
        raise TallyError("Sign in first.")
    with transaction.atomic():
        # One row stands for the queue: two people asking at once start one look.
        waiting = Survey.objects.select_for_update().filter(finished_at=None, failed=False).order_by("-id").first()
        if waiting is not None and not cut_off(waiting) and now() - waiting.asked_at < timedelta(hours=1):
            return waiting
        if waiting is not None:
            waiting.failed, waiting.doing = True, "The worker ended in the middle of it."
            waiting.save(update_fields=["failed", "doing"])
        survey = Survey.objects.create(asked_by=str(user))
    run_check.enqueue(survey.id)
    survey.refresh_from_db()
    return survey


@task()
def run_check(survey_id: int) -> None:
    """Carry out one look; what it found replaces nothing until all of it is there."""
    with hold(CHECK, survey_id) as got:
        survey = Survey.objects.filter(pk=survey_id).first()
        if got and survey is not None:
            _look(survey)


def _look(survey: Survey) -> None:
    try:
        _say(survey, "reading all sheets")
        surveyed = load_survey()
        survey.lines = len(surveyed.survey.sheet)
        _say(survey, f"checking {survey.lines:,} lines")
        found = find(surveyed, localdate())
        _say(survey, f"keeping {len(found):,} findings")
        with transaction.atomic():
            names = ("code", "severity", "part_id", "sheet_id", "line", "item", "message", "mend", "key")
            Finding.objects.bulk_create(
                [Finding(survey=survey, **{n: f[n] for n in names}) for f in found], batch_size=2000
            )
            survey.finished_at, survey.doing = now(), ""
            survey.save()
            kept = Survey.objects.exclude(finished_at=None).order_by("-id").values_list("id", flat=True)[:_KEPT]
            Survey.objects.exclude(finished_at=None).exclude(id__in=list(kept)).delete()
    except Exception as error:
        survey.failed, survey.doing = (
            True,
            f"The check could not be finished ({type(error).__name__}); ask for it again.",
        )
        survey.save()
        raise


def _say(survey: Survey, words: str) -> None:
    survey.doing = words
    survey.save(update_fields=["doing", "lines"])


@task()
def nightly() -> None:
    """Look through all sheets, and wait for the next night."""
    schedule_nightly()
    run_check.call(Survey.objects.create(asked_by="nightly").id)


def schedule_nightly() -> None:
    """Have the worker run :func:`nightly` at two in the morning, unless it waits for that already."""
    from django_tasks_db.models import DBTaskResult

    with transaction.atomic():
        waiting = DBTaskResult.objects.select_for_update().filter(task_path=nightly.module_path, status="READY")
        if waiting.exists():
            return
        at = localtime().replace(hour=_HOUR, minute=0, second=0, microsecond=0)
        if at <= localtime():
            at += timedelta(days=1)
        nightly.using(run_after=at).enqueue()
