"""Asking for long work, carrying it out, and telling how far it is: one way for everything that a worker does."""

from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass, replace
from typing import Any

from accounts.access import Refused
from django.db import connection, transaction
from django.utils.timezone import now
from tally_core.basics.errors import MissingError, TallyError

from .locks import JOB, hold, in_hand
from .models import Job
from .presence import waiting_words

__all__ = ["JobState", "Stopped", "Tell", "ask_for", "carry_out", "job_state", "last_job", "last_jobs", "let_go", "stop_job"]

#: Says what is done now, and which step of how many that is. Raises Stopped where somebody asked for that.
Tell = Callable[..., None]


class Stopped(TallyError):
    """Somebody asked for the work to be stopped; nothing of it is kept."""


@dataclass(frozen=True, slots=True)
class JobState:
    """How long work stands. ``doing`` is empty unless it waits or runs, ``failed`` unless it was not finished."""

    id: int = 0
    title: str = ""
    asked_by: str = ""
    waits: bool = False
    doing: str = ""
    step: int = 0
    steps: int = 0
    failed: str = ""

    def shown(self) -> dict[str, Any] | None:
        """What a screen shows while it waits or runs; None when it does neither."""
        return {n: v for n, v in asdict(self).items() if n != "failed"} if self.doing else None


def last_job(kind: str, about: int = 0) -> Job | None:
    """The newest job of a kind about a row."""
    return Job.objects.filter(kind=kind, about=about).order_by("-id").first()


def last_jobs(kinds: Iterable[str], abouts: Iterable[int]) -> dict[int, Job]:
    """The newest job of some kinds about each of some rows. One query."""
    found = Job.objects.filter(kind__in=list(kinds), about__in=list(abouts)).order_by("about", "-id").distinct("about")
    return {job.about: job for job in found}


def job_state(job: Job | None) -> JobState:
    """How a job stands; one whose worker is gone is said to have been cut off."""
    if job is None:
        return JobState()
    named = JobState(job.pk, job.title, job.asked_by)
    if job.ended_at is not None:
        return replace(named, failed=job.failed)
    if job.begun_at is None:
        return replace(named, waits=True, doing=waiting_words())
    if not in_hand(JOB, job.pk) and not _has_ended_by_now(job.pk):
        return replace(named, failed=_cut_off(job))
    # One that ended after the moment that this answer is of still runs in it: what it made does not stand in it either.
    return replace(named, doing=job.doing, step=job.step, steps=job.steps)


def _has_ended_by_now(job_id: int) -> bool:
    """Whether it has ended, seen from outside the transaction at hand: locks are of now, and what is read in there is of its moment."""
    outside = connection.copy()
    try:
        with outside.cursor() as cursor:
            cursor.execute("SELECT ended_at IS NOT NULL FROM jobs_job WHERE id = %s", [job_id])
            row = cursor.fetchone()
            return bool(row and row[0])
    finally:
        outside.close()


def _cut_off(job: Job) -> str:
    return f"The worker ended in the middle of {job.title} ({job.doing}); nothing was changed. Start it again."


def ask_for(kind: str, about: int, title: str, by: str) -> Job:
    """Note that something is to be done, to be called in a transaction; whoever calls hands the job to the worker.

    A job that waits, or whose worker is gone, is let go for the new one. Raises TallyError while a worker is at it.
    """
    let_go(kind, about, "Asked for anew before a worker took it.")
    return Job.objects.create(kind=kind, about=about, title=title, asked_by=by)


def let_go(kind: str, about: int, why: str) -> None:
    """Let go of a job that waits, or whose worker is gone, to be called in a transaction. Raises TallyError while one is at it."""
    job = Job.objects.select_for_update().filter(kind=kind, about=about, ended_at=None).first()
    if job is None:
        return
    if job.begun_at is not None and in_hand(JOB, job.pk):
        raise TallyError(f"{job.title}: {job.doing}; it is in hand already, wait until it is done.")
    _end(job, _cut_off(job) if job.begun_at else why)


def carry_out(job_id: int, work: Callable[[Tell], None]) -> None:
    """Do it, unless it was let go meanwhile; why it could not be done is kept with the job, and told."""
    with hold(JOB, job_id) as got:
        job = Job.objects.filter(pk=job_id, ended_at=None).first()
        if not got or job is None:
            return
        Job.objects.filter(pk=job_id).update(begun_at=now(), doing="starting")

        def tell(words: str, step: int = 0, steps: int = 0) -> None:
            # Seen at once, since it stands in no longer transaction.
            Job.objects.filter(pk=job_id).update(doing=words, step=step, steps=steps)
            stopper = Job.objects.values_list("stopped_by", flat=True).get(pk=job_id)
            if stopper:
                raise Stopped(f"Stopped by {stopper}; nothing was changed.")

        try:
            work(tell)
        except TallyError as error:
            _end(job, str(error))
        except Exception as error:
            if not transaction.get_connection().needs_rollback:
                _end(job, f"It could not be finished ({type(error).__name__}); try again.")
            raise
        else:
            _end(job, "")


def _end(job: Job, failed: str) -> None:
    Job.objects.filter(pk=job.pk).update(ended_at=now(), doing="", step=0, failed=failed)


def stop_job(user, job_id: int) -> None:
    """Ask a job to stop where it next says what it does; one that waits ends at once. Whoever asked for it may stop it.

    Raises MissingError for one that is not there, Refused, and TallyError for one that has ended.
    """
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(pk=job_id).first()
        if job is None:
            raise MissingError("This work is no longer there.")
        if job.asked_by != str(user):
            raise Refused(f"{job.asked_by} asked for this; only they can stop it.")
        if job.ended_at is not None:
            raise TallyError("It has ended already.")
        job.stopped_by = str(user)
        job.save(update_fields=["stopped_by"])
        if job.begun_at is None:
            _end(job, f"Stopped by {user}; nothing was changed.")
