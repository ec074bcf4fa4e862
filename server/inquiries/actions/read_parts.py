"""Read what our parts say before a list asks for it: of a hundred thousand that have just come that takes a minute or two."""

from django.db import transaction
from django_tasks import task
from jobs.every_night import queue_for_tonight
from jobs.work import Tell, ask_for, carry_out

from inquiries.ours import bring_up

__all__ = ["KIND", "nightly", "read_parts"]

KIND = "read our parts"


@task(queue_name="long")
def read_parts() -> None:
    """Read those that changed since; for whoever brings many in."""
    with transaction.atomic():
        job = ask_for(KIND, 0, "what our parts say", "nightly")
    carry_out(job.pk, _read)


@task(queue_name="long")
def nightly() -> None:
    """Read them, and wait for the next night."""
    queue_for_tonight(nightly)
    read_parts.call()


def _read(tell: Tell) -> None:
    bring_up(lambda done, of: tell(f"reading what our parts say, {done:,} of {of:,}", done, of))
