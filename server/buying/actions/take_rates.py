"""Take rates of currencies from the feed, in the worker."""

from datetime import timedelta

from definition.models.parts import Workspace
from django.contrib.auth import get_user_model
from django.db.models import Max
from django.utils.timezone import localdate
from django_tasks import task
from jobs.work import Tell, ask_for, carry_out
from outside.calling import CallFailed
from outside.rates import ask_rates
from outside.services import rate_service
from partners.models import Partner
from tally_core.basics.errors import TallyError
from verbs.contract import writing

from buying.actions.state_rate import state_rate
from buying.models import Offer, Rate

__all__ = ["KIND", "SOURCE", "take_rates"]

KIND, SOURCE = "rates", "from the feed"
#: Days back that are asked for where no rate of the feed is kept yet.
_FIRST = timedelta(days=30)


def take_rates(user) -> None:
    """Have the worker take what came since the last one. Raises TallyError where there is no feed, or while it is asked; and Refused."""
    with writing(user, "buying"):
        if rate_service() is None:
            raise TallyError("No feed of rates is set up here.")
        job = ask_for(KIND, 0, "taking rates of currencies", str(user))
    run_take_rates.enqueue(user.pk, job.pk)


@task()
def run_take_rates(user_id: int, job_id: int) -> None:
    """Take the rates of the currencies that suppliers or offers are in; a rate that was stated by hand for a day stands."""

    def work(tell: Tell) -> None:
        service = rate_service()
        if service is None:
            raise TallyError("No feed of rates is set up here.")
        tell("asking the feed")
        last = Rate.objects.filter(source=SOURCE).aggregate(last=Max("day"))["last"]
        try:
            base, worth = ask_rates(service, last or localdate() - _FIRST)
        except CallFailed as error:
            raise TallyError(f"The rates could not be taken: {error}.") from None
        own = Workspace.the().currency
        if base != own:
            raise TallyError(f"The feed says what currencies are worth in {base}, not in {own}; it is not used.")
        wanted = {*Partner.objects.values_list("currency", flat=True), *Offer.objects.values_list("currency", flat=True).distinct()} - {
            own,
            "",
        }
        by_hand = set(Rate.objects.exclude(source=SOURCE).values_list("currency", "day"))
        user = get_user_model().objects.get(pk=user_id)
        with writing(user, "buying"):
            for day, rates in sorted(worth.items()):
                for currency in sorted(wanted & rates.keys()):
                    if day <= localdate() and (currency, day) not in by_hand:
                        state_rate(user, currency, day.isoformat(), f"{rates[currency]:f}", SOURCE)

    carry_out(job_id, work)
