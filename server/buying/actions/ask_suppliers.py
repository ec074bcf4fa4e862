"""Ask the services of suppliers what the parts of a plan cost, in the worker; then plan anew with what they said."""

from django.db import transaction
from django_tasks import task
from jobs.work import Tell, ask_for, carry_out
from outside.suppliers import ask_suppliers as ask_services
from tally_core.basics.errors import MissingError, TallyError
from tally_core.pairing.numbers import fold
from verbs.contract import writing

from buying.actions import plan_now
from buying.asking import askable, keep_answer
from buying.models import BuyPlan

__all__ = ["KIND", "ask_suppliers"]

KIND = "ask suppliers"
_MOST_TOLD = 20


def ask_suppliers(user, plan_id: int, again: bool = False) -> None:
    """Have the worker ask for what is not known, or (``again``) for all of it.

    Raises MissingError, Refused, and TallyError where nobody can be asked, or while they are asked.
    """
    with writing(user, "buying"):
        plan = BuyPlan.objects.select_for_update(of=("self",)).filter(pk=plan_id).first()
        if plan is None:
            raise MissingError("This plan is no longer there.")
        asked, _ = askable(plan)
        if not asked:
            raise TallyError("No supplier is asked by a service; say so with its terms.")
        if not any(a.numbers for a in asked):
            raise TallyError("No part of this plan has an approved maker's number that these suppliers may sell.")
        if not again and not any(a.waiting for a in asked):
            raise TallyError("All of it was asked a short while ago; what was said still holds.")
        job = ask_for(KIND, plan.pk, f"asking suppliers for {plan.number}", str(user))
    run_ask_suppliers.enqueue(plan_id, job.pk, again, str(user))


@task()
def run_ask_suppliers(plan_id: int, job_id: int, again: bool, by: str) -> None:
    """Ask them all at once, and keep each answer as it comes."""

    def work(tell: Tell) -> None:
        plan = BuyPlan.objects.filter(pk=plan_id).first()
        if plan is None:
            raise MissingError("The plan was taken away.")
        asked, parts = askable(plan)
        by_name = {a.partner.name: a for a in asked}
        wanted = {n: (a.service, numbers) for n, a in by_name.items() if (numbers := a.numbers if again else a.waiting)}
        total, done, changed = sum(len(numbers) for _, numbers in wanted.values()), 0, 0
        failed: list[str] = []

        def goes_on() -> None:
            tell(f"asking {len(wanted)} suppliers", done, total)

        for said in ask_services(wanted, goes_on):
            if said.failed:
                failed.append(f"{said.name}: {said.failed}")
            for number, offer in said.offers.items():
                more, wrong = keep_answer(by_name[said.name], number, offer, parts[fold(number)[:200]], by)
                changed += more
                failed += [f"{said.name}, {words}" for words in wrong]
            done += len(said.offers)
        if changed:
            _plan(plan, by)
        if failed:
            rest = f"; and {len(failed) - _MOST_TOLD} more" if len(failed) > _MOST_TOLD else ""
            raise TallyError(f"{'; '.join(failed[:_MOST_TOLD])}{rest}. What the others said is kept; ask again later.")

    carry_out(job_id, work)


def _plan(plan: BuyPlan, by: str) -> None:
    try:
        with transaction.atomic():
            job = ask_for(plan_now.KIND, plan.pk, f"planning {plan.number}", by)
    except TallyError:
        # It is being planned; that it is behind stands on its head.
        return
    plan_now.run_plan.enqueue(plan.pk, job.pk)
