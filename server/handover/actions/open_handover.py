"""Begin to hand a product over: hold it beside a system of record."""

from contextlib import suppress

from django.db import connection
from jobs.locks import HANDOVER
from loading.reads import part_named
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import PART_KIND
from verbs.contract import writing

from handover.actions.read_again import read_again
from handover.models import Handover
from handover.wording import service_named

__all__ = ["open_handover"]


def open_handover(user, record: str, number: str) -> Handover:
    """The open handover of a product, begun if there is none; the other side is read in the worker, again if it was before.

    Raises MissingError for a part or a system of record that is not known, TallyError for a part without sheets, and Refused.
    """
    with writing(user, "handover"):
        service_named(record)
        part = part_named(number)
        if not PART_KIND[part.kind].takes_sheet:
            raise TallyError(f"{number} is a {part.kind} part; what is handed over has a build sheet")
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [HANDOVER])
        handover = Handover.objects.filter(record=record, top=part, state__in=("work", "writing")).first()
        if handover is not None and handover.state == "writing":
            return handover
        last = Handover.objects.order_by("-id").values_list("id", flat=True).first() or 0
        if handover is None:
            handover = Handover(number=f"HO-{last + 1:04}", record=record, top=part, opened_by=str(user))
            handover.tell(str(user), "begun")
            handover.save()
    # Whoever compares means both sides as they are now; unless it is being read this moment.
    with suppress(TallyError):
        read_again(user, handover.pk)
    return handover
