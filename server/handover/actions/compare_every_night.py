"""Every night, see what has drifted between our side and the records, of all that was handed over."""

from collections import Counter

from definition.models.parts import Part
from django.db import transaction
from django.utils.timezone import localdate, now
from django_tasks import task
from jobs.every_night import queue_for_tonight
from jobs.work import Tell, ask_for, carry_out
from loading.reads import reached
from outside.calling import CallFailed
from tally_core.basics.errors import TallyError

from handover.known_as import book_of
from handover.looking import look
from handover.models import Drift, Handover

__all__ = ["KIND", "compare_all", "nightly"]

KIND = "compare records"


@task(queue_name="long")
def nightly() -> None:
    """Look, and wait for the next night."""
    queue_for_tonight(nightly)
    with transaction.atomic():
        job = ask_for(KIND, 0, "the comparison with the records", "nightly")
    carry_out(job.pk, compare_all)


def compare_all(tell: Tell = lambda *said: None) -> None:
    """Compare every product that was handed over with all beneath it with each system of record that has it, and keep what was found of each."""
    done = list(Handover.objects.filter(state="done", sheets=[]).values_list("record", "top").distinct().order_by("record", "top"))
    tops = {p.pk: p for p in Part.objects.filter(pk__in=[top for _, top in done])}
    for at, (record, top) in enumerate(done, 1):
        tell(f"comparing {tops[top].number} with {record}", at, len(done))
        try:
            counts, failed = _counts(record, tops[top]), ""
        except TallyError as error:
            counts, failed = {}, str(error)
        except CallFailed as error:
            counts, failed = {}, f"{record} could not be read: {error}"
        found = {"counts": counts, "failed": failed, "at": now()}
        Drift.objects.update_or_create(record=record, top=tops[top], defaults=found)
    keep = [d.pk for d in Drift.objects.all() if (d.record, d.top_id) in set(done)]
    Drift.objects.exclude(pk__in=keep).delete()


def _counts(record: str, top: Part) -> dict[str, int]:
    day = localdate()
    keys = reached([top.pk], day, drafts=True).tolist()
    numbers = Part.objects.filter(pk__in=keys).values_list("number", flat=True)
    read = book_of(record).read(top.number, numbers, lambda done: None)
    found = look(record, top, read, day)
    return dict(Counter(row.verdict for _, row in found.rows.values() if not row.kept))
