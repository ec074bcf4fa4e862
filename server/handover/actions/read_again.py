"""Read the other side of a handover, in the worker; what was decided of what is still the same stays."""

from datetime import date
from typing import Any

from definition.models.parts import Part
from django.db import transaction
from django.utils.timezone import localdate, now
from django_tasks import task
from jobs.work import Tell, ask_for, carry_out
from loading.reads import reached
from outside.calling import CallFailed
from outside.records import Read
from tally_core.basics.errors import MissingError, TallyError
from verbs.contract import writing

from handover.kept import read_kept
from handover.known_as import book_of
from handover.models import Handover
from handover.ours import taken_by
from handover.states import require_now
from handover.wording import words_of

__all__ = ["KIND", "open_one", "read_again", "read_now", "run_read"]

KIND = "read records"


def open_one(handover_id: int, action: str = "change") -> Handover:
    """A handover to do something with, locked until the transaction ends. Raises MissingError, and ProblemsError in a state that forbids it."""
    rows = Handover.objects.select_for_update(of=("self",)).select_related("top")
    handover = rows.filter(pk=handover_id).first()
    if handover is None:
        raise MissingError("This handover is no longer there.")
    require_now(handover, action)
    return handover


def read_again(user, handover_id: int) -> None:
    """Have the worker read the other side. Raises MissingError, Refused, and TallyError while it is read or has ended."""
    with writing(user, "handover"):
        handover = open_one(handover_id)
        job = ask_for(KIND, handover.pk, f"reading {handover.record} for {handover.number}", str(user))
    run_read.enqueue(handover_id, job.pk)


@task()
def run_read(handover_id: int, job_id: int) -> None:
    """Read all beneath the product over there, and what else we take there."""

    def work(tell: Tell) -> None:
        handover = Handover.objects.select_related("top").filter(pk=handover_id).first()
        if handover is None:
            raise MissingError("The handover was taken away.")
        read_now(handover, tell)

    carry_out(job_id, work)


def _of_product(handover: Handover, day: date, tell: Any) -> Read:
    keys = reached([handover.top_id], day, drafts=True).tolist()
    numbers = list(Part.objects.filter(pk__in=keys).order_by("number").values_list("number", flat=True))
    book = book_of(handover.record)
    return book.read(handover.top.number, numbers, lambda done: tell(f"reading: {done:,} things so far"))


def _of_sheets(handover: Handover, tell: Any) -> Read:
    """Structures and plans of the chosen parts, and the items that stand on either side of them."""
    numbers = dict(Part.objects.filter(pk__in=taken_by(handover.sheets)).order_by("number").values_list("pk", "number"))
    chosen = {numbers[key] for key in handover.sheets if key in numbers}
    book = book_of(handover.record)
    read = book.read("", numbers.values(), lambda done: tell(f"reading: {done:,} things so far"))
    things = [t for t in read.things if t.kind == "items" or t.key.partition("|")[0] in chosen]
    word = next(f.theirs for f in words_of(handover.record).fields if f.table == "lines" and f.ours == "part")
    there = {t.key for t in things if t.kind == "items"}
    rows = [row for t in things if t.kind == "structures" and isinstance(t.body.get("rows"), list) for row in t.body["rows"]]
    named = {str(row[word]) for row in rows if isinstance(row, dict) and row.get(word)}
    return Read([*things, *book.these([("items", code) for code in sorted(named - there)])], read.stamp)


def read_now(handover: Handover, tell: Any = lambda *said: None) -> None:
    """Read the other side and keep it. Raises TallyError where it cannot be read."""
    day = localdate()
    try:
        read = _of_sheets(handover, tell) if handover.sheets else _of_product(handover, day, tell)
    except CallFailed as error:
        raise TallyError(f"{handover.record} could not be read: {error}.") from None
    with transaction.atomic():
        held = open_one(handover.pk)
        held.theirs, held.read_at, held.day = read_kept(read), now(), day
        held.version += 1
        held.save()
