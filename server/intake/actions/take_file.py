"""Take a brought-in file: keep it, and have the worker read it."""

from accounts.access import require
from django.conf import settings
from django_tasks import task
from formats.apart import read_tables
from formats.cells import rows_as_json
from tally_core.errors import TallyError

from intake.models import Intake

__all__ = ["read_file", "take_file"]


def take_file(user, name: str, content: bytes) -> Intake:
    """Keep a file and hand it to the worker. Raises TallyError for one that is too large, and Refused."""
    require(user, "intake")
    if len(content) > settings.UPLOAD_LIMIT:
        raise TallyError(too_large(len(content)))
    intake = Intake.objects.create(name=name[-200:].replace("\x00", ""), content=content, made_by=user)
    read_file.enqueue(intake.id)
    intake.refresh_from_db()
    return intake


def too_large(size: int) -> str:
    """Why a file of ``size`` bytes is not taken."""
    limit = settings.UPLOAD_LIMIT // 1024 // 1024
    return f"The file has {size / 1024 / 1024:.0f} MB; at most {limit} MB can be brought in. Nothing was read."


@task()
def read_file(intake_id: int) -> None:
    """Read the cells of a kept file; what cannot be read is said on the record."""
    intake = Intake.objects.get(pk=intake_id)
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
