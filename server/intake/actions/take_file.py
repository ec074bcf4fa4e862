"""Take a brought-in file: keep it, and have the worker read it."""

from accounts.access import require
from django.conf import settings
from django.db import transaction
from django_tasks import task
from formats.apart import read_tables
from formats.cells import rows_as_json
from jobs.locks import INTAKE, hold, in_hand
from tally_core.errors import MissingError, TallyError

from intake.models import Intake

__all__ = ["read_again", "read_file", "take_file"]


#: Of one person: lists that wait for the worker, and lists that are kept once they were read.
MOST_WAITING, MOST_KEPT = 5, 40


def take_file(user, name: str, content: bytes) -> Intake:
    """Keep a file and hand it to the worker. Raises TallyError for one that is too large, and Refused."""
    require(user, "intake")
    if len(content) > settings.UPLOAD_LIMIT:
        raise TallyError(too_large(len(content)))
    waiting = Intake.objects.filter(made_by=user, state__in=("waiting", "reading")).count()
    if waiting >= MOST_WAITING:
        raise TallyError(f"{waiting} of your lists wait to be read; bring in more when they are.")
    # What was never saved is let go when there is more of it than anyone goes back to.
    kept = Intake.objects.filter(made_by=user).exclude(state__in=("waiting", "reading")).order_by("-pk")
    Intake.objects.filter(pk__in=list(kept.values_list("pk", flat=True)[MOST_KEPT:])).delete()
    intake = Intake.objects.create(name=name[-200:].replace("\x00", ""), content=content, made_by=user)
    read_file.enqueue(intake.id)
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
        if intake.state in ("read", "saved") or in_hand(INTAKE, intake.pk):
            raise TallyError(f"{intake.name} is {intake.state} already.")
        intake.state, intake.message = "waiting", ""
        intake.save(update_fields=["state", "message"])
    read_file.enqueue(intake.pk)
    intake.refresh_from_db()
    return intake


@task()
def read_file(intake_id: int) -> None:
    """Read the cells of a kept file; what cannot be read is said on the record."""
    with hold(INTAKE, intake_id) as got:
        intake = Intake.objects.filter(pk=intake_id, state="waiting").first()
        if got and intake is not None:
            _read(intake)


def _read(intake: Intake) -> None:
    intake.state = "reading"
    intake.save(update_fields=["state"])
    try:
        tables = read_tables(intake.name, bytes(intake.content))
        intake.grid = [{"name": t.name, "rows": rows_as_json(t.rows)} for t in tables]
        intake.state = "read"
    except TallyError as error:
        intake.state, intake.message = "failed", str(error)
    except Exception as error:
        # Whatever a file from outside sets off, the person who brought it is told.
        intake.state, intake.message = "failed", f"{intake.name} could not be read ({type(error).__name__})."
    intake.save(update_fields=["state", "message", "grid"])
