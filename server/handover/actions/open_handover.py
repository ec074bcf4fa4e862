"""Begin to hand a product over: hold it beside a system of record."""

from collections.abc import Sequence
from contextlib import suppress

from definition.models.parts import Part
from django.db import connection
from jobs.locks import HANDOVER
from tally_core.basics.errors import MissingError, TallyError
from tally_core.basics.kinds import PART_KIND
from verbs.contract import writing

from handover.actions.read_again import read_again
from handover.models import Handover
from handover.wording import service_named

__all__ = ["MOST_SHEETS", "open_handover"]

#: So many sheets are chosen for one handover.
MOST_SHEETS = 500


def open_handover(user, record: str, number: str, beside: Sequence[str] | None = None) -> Handover:
    """The open handover of a product, or of chosen sheets; begun if there is none, and the other side is read in the worker, again if it was
    before.

    Args:
        beside: None: the product with all beneath it; else its own sheet alone, and those of these parts.

    Raises MissingError for a part or a system of record that is not known, TallyError for a part without sheets, and Refused.
    """
    with writing(user, "handover"):
        service_named(record)
        part, *others = _with_sheets([number, *(beside or ())])
        sheets = [] if beside is None else [part.pk, *(p.pk for p in others)]
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [HANDOVER])
        handover = Handover.objects.filter(record=record, top=part, sheets=sheets, state__in=("work", "writing")).first()
        if handover is not None and handover.state == "writing":
            return handover
        last = Handover.objects.order_by("-id").values_list("id", flat=True).first() or 0
        if handover is None:
            handover = Handover(number=f"HO-{last + 1:04}", record=record, top=part, sheets=sheets, opened_by=str(user))
            handover.tell(str(user), "begun")
            handover.save()
    # Whoever compares means both sides as they are now; unless it is being read this moment.
    with suppress(TallyError):
        read_again(user, handover.pk)
    return handover


def _with_sheets(numbers: Sequence[str]) -> list[Part]:
    """The parts of some numbers, each once, in their order."""
    if len(numbers) > MOST_SHEETS:
        raise TallyError(f"At most {MOST_SHEETS} sheets are chosen at once.")
    found = {p.number: p for p in Part.objects.filter(number__in=numbers)}
    for number in numbers:
        if number not in found:
            raise MissingError(f"part {number[:64]} is not known")
        if not PART_KIND[found[number].kind].takes_sheet:
            raise TallyError(f"{number} is a {found[number].kind} part; what is handed over has a build sheet")
    return [found[n] for n in dict.fromkeys(numbers)]
