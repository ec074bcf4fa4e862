"""Buying over HTTP: plans with their builds, limits and needs."""

from typing import Any
from uuid import UUID

from buying.actions.allow_alternate import allow_alternate, disallow_alternate
from buying.actions.hold_choice import hold_choice, let_go_choice
from buying.actions.open_plan import change_plan, drop_plan, open_plan, plans_of_inquiry
from buying.actions.plan_now import KIND, plan_now
from buying.actions.propose_prices import propose_prices
from buying.alternates import allowed_for
from buying.limits import limits_of
from buying.models import PlanNeed
from buying.reads import need_row, plan_head, plans_shown
from django.http import HttpRequest
from jobs.work import job_state, last_job
from ninja import Router, Schema
from tally_core.basics.errors import MissingError

from api.jobs import JobOut, job_out

__all__ = ["router"]

router = Router(tags=["buying"])


class PlanBuildOut(Schema):
    part: str
    description: str
    options: list[str]
    quantity: str
    by: str | None


class BuyPlanRow(Schema):
    """A plan with what it came to; money in ``currency``. ``behind``: it, or offers for it, were changed since it was planned."""

    id: int
    number: str
    title: str
    note: str
    version: int
    inquiry: int | None
    inquiry_number: str
    builds: list[PlanBuildOut]
    opened_by: str
    opened_at: str
    planned_at: str | None
    behind: bool
    total: str | None
    bound: str | None
    line_by_line: str | None
    currency: str
    suppliers: int
    uncovered: int


class LimitsOut(Schema):
    """What a plan may do; percent of the need, or of the price paid."""

    split: int
    surplus_percent: str | None
    surplus_worth_percent: str
    hold_to_days: bool
    most_suppliers: int | None
    barred: list[str]
    barred_makers: list[str]
    oldest_days: int | None
    use_stock: bool
    use_orders: bool
    drafts: bool
    seconds: int


class OrderOfPlan(Schema):
    """What is bought of a supplier; ``missing``: by how much its goods stay under the minimum; ``refused``: who takes no such order."""

    supplier: str
    goods: str
    freight: str
    charge: str
    minimum: str
    missing: str
    refused: bool
    lines: int


class BoughtOut(Schema):
    """So much of an offer, in the buying unit; money in the currency of the plan. ``part``: another one that stands in."""

    offer: int
    part: str = ""
    supplier: str
    quantity: str
    price: str
    cost: str
    surplus: str
    by_hand: bool


class NeedRow(Schema):
    """A need: what is asked, what is there and on order for it (stock units), and what is left to buy (buying units)."""

    id: int
    part: str
    description: str
    unit: str
    buying_unit: str
    asked: str
    stock: str
    ordered: str
    quantity: str
    by: str | None
    bought: list[BoughtOut]
    reason: str
    detail: str
    offers: int


class BuyPlanOut(BuyPlanRow):
    """A plan whole. ``without_choices``: what it costs without the choices by hand; ``lost``: those that could not be held."""

    limits: LimitsOut
    orders: list[OrderOfPlan]
    needs: list[NeedRow]
    credit: str
    finished: bool
    without_choices: str | None
    lost: list[str]
    rates: dict[str, str]
    day: str | None
    held: dict[str, str]
    job: JobOut | None
    failed: str


class LookedAt(Schema):
    """An offer as it was when the plan was made, in the buying unit. ``alone``: the least that covers the whole need.

    ``choice``: which of several approved makers' numbers it is of, the first choice 1. ``part``: another one that stands in for the needed.
    """

    offer: int
    part: str = ""
    supplier: str
    maker: str
    maker_number: str
    choice: int | None = None
    number: str
    currency: str
    rate: str | None
    breaks: list[list[str]]
    minimum: str
    multiple: str | None
    available: str | None
    lead_days: int
    arrives: str
    valid_to: str | None
    source: str
    source_words: str
    offered_at: str
    ruled_out: str
    alone: str | None
    alone_cost: str | None


class AmountBy(Schema):
    """So much by a day, and whose it is."""

    words: str
    day: str | None
    quantity: str


class AllowedOut(Schema):
    """A part that this plan may buy in the place of another; ``itself``: the plan needs it itself, and its offers serve only that."""

    part: str
    description: str
    allowed_by: str
    itself: bool


class NeedOut(NeedRow):
    """With how it came to the need, every offer that was looked at, and what may be bought in its place."""

    asked_by: list[AmountBy]
    orders: list[AmountBy]
    left: list[AmountBy]
    per_buying_unit: str
    looked_at: list[LookedAt]
    allowed: list[AllowedOut]


class PlanBuildIn(Schema):
    part: str
    quantity: str
    options: list[str] = []
    by: str | None = None


class LimitsIn(Schema):
    """Limits; what is left out stays."""

    split: int | None = None
    surplus_percent: str | None = None
    surplus_worth_percent: str | None = None
    hold_to_days: bool | None = None
    most_suppliers: int | None = None
    barred: list[str] | None = None
    barred_makers: list[str] | None = None
    oldest_days: int | None = None
    use_stock: bool | None = None
    use_orders: bool | None = None
    drafts: bool | None = None
    seconds: int | None = None


class BuyPlanIn(Schema):
    title: str | None = None
    note: str | None = None
    limits: LimitsIn | None = None
    builds: list[PlanBuildIn] | None = None
    version: int | None = None
    # Of whoever opens one; with the same one a second time no second plan is opened.
    key: UUID | None = None


class HoldIn(Schema):
    """Without a quantity: the least that covers the need."""

    offer: int
    quantity: str | None = None
    version: int | None = None


class AlternateIn(Schema):
    """A part, and the needed one in whose place it may be bought."""

    part: str
    instead_of: str = ""
    version: int | None = None


class PlanVersion(Schema):
    version: int


class IntoRoundIn(Schema):
    """Into which round."""

    round: int


class PricesProposed(Schema):
    count: int


class PlansMade(Schema):
    plans: list[int]


def _whole(plan_id: int) -> dict[str, Any]:
    plan = plans_shown().filter(pk=plan_id).first()
    if plan is None:
        raise MissingError("This plan is no longer there.")
    result = plan.result or {}
    state = job_state(last_job(KIND, plan.pk))
    needs = plan.needs.select_related("part").defer("offers").order_by("position")
    return plan_head(plan) | {
        "limits": limits_of(plan).plain(),
        "orders": result.get("orders", []),
        # What nothing covers stands first.
        "needs": sorted((need_row(n) for n in needs), key=lambda row: not row["reason"]),
        "credit": result.get("credit", "0"),
        "finished": result.get("finished", True),
        "without_choices": result.get("without_choices"),
        "lost": result.get("lost", []),
        "rates": result.get("rates", {}),
        "day": result.get("day"),
        "held": {str(h.offer_id): f"{h.quantity.normalize():f}" for h in plan.held.all()},
        "job": job_out(state),
        "failed": state.failed,
    }


def _fields(payload: BuyPlanIn) -> dict[str, Any]:
    fields = payload.dict(exclude_unset=True, exclude={"version", "builds", "key"})
    return {n: v for n, v in fields.items() if v is not None}


def _builds(payload: BuyPlanIn) -> list[dict[str, Any]] | None:
    return None if payload.builds is None else [b.dict() for b in payload.builds]


@router.get("/plans", response=list[BuyPlanRow])
def list_plans(request: HttpRequest, inquiry: int | None = None) -> Any:
    """All plans, the newest first, or those of an inquiry. A fixed number of queries."""
    plans = plans_shown()
    if inquiry is not None:
        plans = plans.filter(inquiry=inquiry)
    return [plan_head(plan) for plan in plans[:500]]


@router.post("/plans", response=BuyPlanOut)
def open_one(request: HttpRequest, payload: BuyPlanIn) -> Any:
    """Open a plan, and have it made."""
    plan = open_plan(request.user, _fields(payload), _builds(payload) or [], payload.key)
    plan_now(request.user, plan.pk)
    return _whole(plan.pk)


@router.post("/plans/of-inquiry/{inquiry_id}", response=PlansMade)
def open_for_inquiry(request: HttpRequest, inquiry_id: int) -> Any:
    """A plan for each quantity that an inquiry asks for, and have them made."""
    made = plans_of_inquiry(request.user, inquiry_id)
    for plan in made:
        plan_now(request.user, plan.pk)
    return {"plans": [plan.pk for plan in made]}


@router.get("/plans/{plan_id}", response=BuyPlanOut)
def read_one(request: HttpRequest, plan_id: int) -> Any:
    """A plan with its needs, what nothing covers first."""
    return _whole(plan_id)


@router.patch("/plans/{plan_id}", response=BuyPlanOut)
def change_one(request: HttpRequest, plan_id: int, payload: BuyPlanIn) -> Any:
    """Change what is planned, and within which limits; it is planned anew when asked for."""
    change_plan(request.user, plan_id, payload.version, _fields(payload), _builds(payload))
    return _whole(plan_id)


@router.post("/plans/{plan_id}/plan", response=BuyPlanOut)
def make_it(request: HttpRequest, plan_id: int) -> Any:
    """Have the plan made by the worker."""
    plan_now(request.user, plan_id)
    return _whole(plan_id)


@router.post("/plans/{plan_id}/propose", response=PricesProposed)
def propose_its_prices(request: HttpRequest, plan_id: int, payload: IntoRoundIn) -> Any:
    """Put the prices of a plan into an open round."""
    return {"count": propose_prices(request.user, plan_id, payload.round)}


@router.post("/plans/{plan_id}/drop")
def drop_one(request: HttpRequest, plan_id: int, payload: PlanVersion) -> dict[str, bool]:
    """Take a plan away."""
    drop_plan(request.user, plan_id, payload.version)
    return {"done": True}


@router.post("/plans/{plan_id}/hold", response=BuyPlanOut)
def hold(request: HttpRequest, plan_id: int, payload: HoldIn) -> Any:
    """Choose an offer by hand, and plan the rest around it."""
    hold_choice(request.user, plan_id, payload.version, payload.offer, payload.quantity)
    plan_now(request.user, plan_id)
    return _whole(plan_id)


@router.post("/plans/{plan_id}/let-go", response=BuyPlanOut)
def let_go(request: HttpRequest, plan_id: int, payload: HoldIn) -> Any:
    """Let go of a choice by hand, and plan anew."""
    let_go_choice(request.user, plan_id, payload.version, payload.offer)
    plan_now(request.user, plan_id)
    return _whole(plan_id)


@router.post("/plans/{plan_id}/allow", response=BuyPlanOut)
def allow(request: HttpRequest, plan_id: int, payload: AlternateIn) -> Any:
    """Let this plan buy a part in the place of another, and plan anew."""
    allow_alternate(request.user, plan_id, payload.version, payload.part, payload.instead_of)
    plan_now(request.user, plan_id)
    return _whole(plan_id)


@router.post("/plans/{plan_id}/disallow", response=BuyPlanOut)
def disallow(request: HttpRequest, plan_id: int, payload: AlternateIn) -> Any:
    """Have this plan buy it no longer in the place of another, and plan anew."""
    disallow_alternate(request.user, plan_id, payload.version, payload.part)
    plan_now(request.user, plan_id)
    return _whole(plan_id)


@router.get("/needs/{need_id}", response=NeedOut)
def read_need(request: HttpRequest, need_id: int) -> Any:
    """A need: how it came to it, and every offer that was looked at."""
    need = PlanNeed.objects.select_related("part", "plan").filter(pk=need_id).first()
    if need is None:
        raise MissingError("This plan was made anew; look at the need once more.")
    said = need.said
    return need_row(need) | {
        "asked_by": [AmountBy(words=w, day=day, quantity=q) for w, day, q in said["asked"]],
        "orders": [AmountBy(words=w, day=day, quantity=q) for w, day, q in said["orders"]],
        "left": [AmountBy(words="", day=day, quantity=q) for day, q in said["left"]],
        "per_buying_unit": said["per_buying_unit"],
        "looked_at": need.offers,
        "allowed": allowed_for(need),
    }
