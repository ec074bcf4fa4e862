"""Take a brought-in file: keep it, and have the worker read it."""

from accounts.access import require
from django.conf import settings
from django.db import transaction
from django_tasks import task
from files.store import let_go, opened, store
from formats.apart import read_tables
from formats.cells import rows_as_json
from jobs.models import Job
from jobs.work import Tell, ask_for, carry_out
from tally_core.basics.errors import MissingError, TallyError

from intake.models import Intake

__all__ = ["KIND", "read_again", "read_file", "take_file"]

KIND = "intake"

#: Of one person: lists that wait for the worker, and lists that are kept once they were read.
MOST_WAITING, MOST_KEPT = 5, 40


def take_file(user, name: str, content: bytes) -> Intake:
    """Keep a file and hand it to the worker. Raises TallyError for one that is too large, and Refused."""
    require(user, "intake")
    if len(content) > settings.UPLOAD_LIMIT:
        raise TallyError(too_large(len(content)))
    open_jobs = Job.objects.filter(kind=KIND, ended_at=None, asked_by=str(user)).values_list("about", flat=True)
    waiting = Intake.objects.filter(made_by=user, state="unread", pk__in=open_jobs).count()
    if waiting >= MOST_WAITING:
        raise TallyError(f"{waiting} of your lists wait to be read; bring in more when they are.")
    # What was never saved is let go when there is more of it than anyone goes back to.
    kept = Intake.objects.filter(made_by=user).exclude(pk__in=open_jobs).order_by("-pk")
    with transaction.atomic():
        old = Intake.objects.filter(pk__in=list(kept.values_list("pk", flat=True)[MOST_KEPT:]))
        gone = list(old.values_list("file_id", flat=True))
        old.delete()
        let_go(gone)
        # What it is, the reader finds; nobody is ever handed a list as anything else than bytes.
        file = store(content, "application/octet-stream")
        intake = Intake.objects.create(name=name[-200:].replace("\x00", ""), file=file, made_by=user)
        job = _job(intake)
    return _hand_on(intake, job)


def _job(intake: Intake) -> Job:
    return ask_for(KIND, intake.pk, f"reading {intake.name}", str(intake.made_by))


def _hand_on(intake: Intake, job: Job) -> Intake:
    read_file.enqueue(intake.pk, job.pk)
    intake.refresh_from_db()
    return intake


def too_large(size: int) -> str:
    """Why a file of ``size`` bytes is not taken."""
    limit = settings.UPLOAD_LIMIT // 1024 // 1024
    return f"The file has {size / 1024 / 1024:.0f} MB; at most {limit} MB can be brought in. Nothing was read."


def read_again(user, intake_id: int) -> Intake:
    """Have a list read that could not be, or whose worker died. Raises TallyError while one is at it, and Refused."""
    require(user, "intake")
    with transaction.atomic():
        intake = Intake.objects.select_for_update().filter(pk=intake_id, made_by=user).first()
        if intake is None:
            raise MissingError("This list is no longer there; bring the file in again.")
        if intake.state != "unread":
            raise TallyError(f"{intake.name} is {intake.state} already.")
        job = _job(intake)
    return _hand_on(intake, job)


@task()
def read_file(intake_id: int, job_id: int) -> None:
    """Read the cells of a kept file; what cannot be read is said on the job."""

    def work(tell: Tell) -> None:
        intake = Intake.objects.get(pk=intake_id)
        tell("taking its cells out of the file")
        try:
            with opened(intake.file, intake.name) as file:
                tables = read_tables(intake.name, file.read())
        except TallyError:
            raise
        except Exception as error:
            # Whatever a file from outside sets off, the person who brought it is told.
            raise TallyError(f"{intake.name} could not be read ({type(error).__name__}).") from None
        intake.grid = [{"name": t.name, "rows": rows_as_json(t.rows)} for t in tables]
        intake.state = "read"
        intake.save(update_fields=["state", "grid"])

    carry_out(job_id, work)
