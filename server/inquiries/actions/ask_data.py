"""Ask the parts-data service for the makers' numbers of an inquiry, in the worker; work goes on without it."""

from datetime import timedelta

from django.conf import settings
from django.db import transaction
from django.utils.timezone import now
from django_tasks import task
from jobs.work import Tell, ask_for, carry_out
from outside.parts_data import PartData, ask_parts_data
from tally_core.basics.errors import TallyError
from tally_core.pairing.numbers import fold
from verbs.contract import writing

from inquiries.checking import check
from inquiries.lines import core_line, counting, held_inquiry
from inquiries.models import Inquiry, NumberData

__all__ = ["KIND", "ask_data", "ask_now"]

KIND = "parts data"
#: An answer is kept with its day, and not asked for again within so many days.
_HOLDS = timedelta(days=7)


def ask_data(user, inquiry_id: int) -> None:
    """Have the worker ask for what is not known yet. Raises TallyError where there is no service, or while it is asked; and Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        if not settings.PARTS_DATA:
            raise TallyError("No parts-data service is set up here.")
        job = ask_for(KIND, inquiry.pk, f"asking for parts data of {inquiry.number}", str(user))
    run_ask.enqueue(inquiry_id, job.pk)


def ask_now(inquiry_id: int, by: str) -> None:
    """The same for the worker itself, behind the reading of a file; nothing where there is no service or it is asked already."""
    if not settings.PARTS_DATA or not _waiting(inquiry_id):
        return
    try:
        with transaction.atomic():
            job = ask_for(KIND, inquiry_id, "asking for parts data", by)
    except TallyError:
        return
    run_ask.enqueue(inquiry_id, job.pk)


def _waiting(inquiry_id: int) -> dict[str, str]:
    """Folded number → number, of those nothing is known of that still holds."""
    inquiry = Inquiry.objects.get(pk=inquiry_id)
    numbers = {fold(x.maker_number)[:200]: x.maker_number for x in map(core_line, counting(inquiry)) if x.maker_number}
    held = NumberData.objects.filter(folded__in=numbers, asked_at__gt=now() - _HOLDS)
    for folded in held.values_list("folded", flat=True):
        del numbers[folded]
    return {f: n for f, n in numbers.items() if f}


@task()
def run_ask(inquiry_id: int, job_id: int) -> None:
    """Ask, keep each answer as it comes, and look for what is found anew."""

    def work(tell: Tell) -> None:
        waiting = _waiting(inquiry_id)
        tell(f"asking for {len(waiting):,} numbers", 0, len(waiting))

        def answered(number: str, data: PartData | None) -> None:
            NumberData.objects.update_or_create(
                folded=fold(number)[:200], defaults={"number": number, "data": data.model_dump() if data else {}, "asked_at": now()}
            )

        failed = ask_parts_data(
            settings.PARTS_DATA, list(waiting.values()), answered, lambda done: tell("asking for parts data", done, len(waiting))
        )
        with transaction.atomic():
            check(held_inquiry(inquiry_id))
        if failed:
            raise TallyError(f"{failed}. What is known stands; ask again later.")

    carry_out(job_id, work)
