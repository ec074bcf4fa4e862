"""Have the worker make a plan: the needs, and the cheapest way to cover them within its limits."""

import time

from django_tasks import task
from jobs.work import Stopped, Tell, ask_for, carry_out
from tally_core.basics.errors import MissingError
from verbs.contract import writing

from buying.models import BuyPlan
from buying.planning import make_plan

__all__ = ["KIND", "plan_now"]

KIND = "buy plan"
#: Seconds between two words about how far it is.
_EVERY = 0.5


def plan_now(user, plan_id: int) -> None:
    """Ask for it. Raises MissingError, Refused, and TallyError while a worker is at it."""
    with writing(user, "buying"):
        plan = BuyPlan.objects.select_for_update().filter(pk=plan_id).first()
        if plan is None:
            raise MissingError("This plan is no longer there.")
        job = ask_for(KIND, plan.pk, f"planning {plan.number}", str(user))
    run_plan.enqueue(plan_id, job.pk)


@task(queue_name="long", priority=10)
def run_plan(plan_id: int, job_id: int) -> None:
    """Make it. Whoever stops it while it searches keeps the best plan found so far."""

    def work(tell: Tell) -> None:
        plan = BuyPlan.objects.filter(pk=plan_id).first()
        if plan is None:
            raise MissingError("The plan was taken away.")
        said, stop = 0.0, False

        def say(words: str) -> bool:
            nonlocal said, stop
            if time.monotonic() - said > _EVERY and not stop:
                said = time.monotonic()
                try:
                    tell(words)
                except Stopped:
                    stop = True
            return stop

        make_plan(plan, say)

    carry_out(job_id, work)
