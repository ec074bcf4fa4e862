"""Services of suppliers over HTTP: whom a plan can ask, asking them, and the feed of rates. No account and no address is ever told."""

from typing import Any

from buying.actions import ask_suppliers as asking_action
from buying.actions import take_rates as rates_action
from buying.asking import askable
from buying.models import BuyPlan
from django.http import HttpRequest
from jobs.work import job_state, last_job
from ninja import Router, Schema
from outside.services import rate_service, supplier_services
from tally_core.basics.errors import MissingError

from api.jobs import JobOut, job_out

__all__ = ["router"]

router = Router(tags=["buying"])


class ServiceNamed(Schema):
    """A service by our own name for it."""

    name: str
    words: str


class AskableOut(Schema):
    """A supplier whose service can be asked: how many makers' numbers, how many of them are not known, and when it was last asked."""

    supplier: str
    service: str
    numbers: int
    waiting: int
    holds_hours: int
    last: str | None


class AskingOut(Schema):
    """``job`` while they are asked; ``failed``: what did not come of it the last time."""

    suppliers: list[AskableOut]
    job: JobOut | None
    failed: str


class AskServicesIn(Schema):
    """``again``: what is known, too."""

    again: bool = False


class FeedOut(Schema):
    """The feed of rates; ``words`` is empty where there is none."""

    words: str
    job: JobOut | None
    failed: str


def _asking(plan_id: int) -> dict[str, Any]:
    plan = BuyPlan.objects.filter(pk=plan_id).first()
    if plan is None:
        raise MissingError("This plan is no longer there.")
    state = job_state(last_job(asking_action.KIND, plan.pk))
    asked, _ = askable(plan)
    return {
        "suppliers": [
            {
                "supplier": a.partner.name,
                "service": a.service.words,
                "numbers": len(a.numbers),
                "waiting": len(a.waiting),
                "holds_hours": a.service.holds_hours,
                "last": a.last.isoformat() if a.last else None,
            }
            for a in asked
        ],
        "job": job_out(state),
        "failed": state.failed,
    }


@router.get("/services", response=list[ServiceNamed])
def list_services(request: HttpRequest) -> Any:
    """The services that suppliers can be asked by."""
    return [{"name": name, "words": service.words} for name, service in supplier_services().items()]


@router.get("/plans/{plan_id}/asking", response=AskingOut)
def read_asking(request: HttpRequest, plan_id: int) -> Any:
    """Whom a plan can ask, and how far asking is. A fixed number of queries."""
    return _asking(plan_id)


@router.post("/plans/{plan_id}/asking", response=AskingOut)
def ask_them(request: HttpRequest, plan_id: int, payload: AskServicesIn) -> Any:
    """Have the worker ask them; the plan is made anew with what they say."""
    asking_action.ask_suppliers(request.user, plan_id, payload.again)
    return _asking(plan_id)


def _feed() -> dict[str, Any]:
    service = rate_service()
    state = job_state(last_job(rates_action.KIND))
    return {"words": service.words if service else "", "job": job_out(state), "failed": state.failed}


@router.get("/feed", response=FeedOut)
def read_feed(request: HttpRequest) -> Any:
    """The feed of rates, and how far taking them is."""
    return _feed()


@router.post("/feed", response=FeedOut)
def take_from_feed(request: HttpRequest) -> Any:
    """Have the worker take what came since."""
    rates_action.take_rates(request.user)
    return _feed()
