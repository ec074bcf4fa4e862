"""What the screens of buying show: plans, their needs, offers of a part, and terms."""

from decimal import Decimal
from typing import Any

from definition.models.parts import Part
from definition.records import plain_decimal
from django.db.models import Exists, OuterRef, Q, QuerySet
from django.utils.timezone import localdate
from partners.models import Partner

from buying.models import BuyPlan, Offer, PlanAlternate, PlanNeed, Rate, Terms

__all__ = ["need_row", "offers_of", "plan_head", "plans_shown", "terms_of"]


def plans_shown() -> QuerySet[Any]:
    """Plans with all that ``plan_head`` takes, in two queries. ``market_moved``: an offer for a need came or went since it was planned, or
    a currency that one is in has another rate."""
    since = Q(part__offers__offered_at__gt=OuterRef("planned_at")) | Q(part__offers__let_go_at__gt=OuterRef("planned_at"))
    own = Exists(PlanNeed.objects.filter(since, plan=OuterRef("pk")))
    instead = Exists(PlanAlternate.objects.filter(since, plan=OuterRef("pk")))
    asked = PlanNeed.objects.filter(plan=OuterRef(OuterRef("pk"))).values("part__offers__currency")
    rates = Exists(Rate.objects.filter(currency__in=asked, stated_at__gt=OuterRef("planned_at"), day__lte=localdate()))
    return BuyPlan.objects.select_related("inquiry").prefetch_related("builds__part").annotate(market_moved=own | instead | rates)


def plan_head(plan: Any) -> dict[str, Any]:
    """A plan of ``plans_shown`` as the list of plans shows it. ``behind``: it was changed since it was last planned, or offers or rates were."""
    result = plan.result or {}
    uncovered = sum(result.get("uncovered", {}).values())
    return {
        "id": plan.pk,
        "number": plan.number,
        "title": plan.title,
        "note": plan.note,
        "version": plan.version,
        "inquiry": plan.inquiry_id,
        "inquiry_number": plan.inquiry.number if plan.inquiry else "",
        "builds": [
            {
                "part": b.part.number,
                "description": b.part.description,
                "options": b.options,
                "quantity": plain_decimal(b.quantity) or "0",
                "by": b.by.isoformat() if b.by else None,
            }
            for b in plan.builds.all()
        ],
        "opened_by": plan.opened_by,
        "opened_at": plan.opened_at.isoformat(),
        "planned_at": plan.planned_at.isoformat() if plan.planned_at else None,
        "behind": plan.planned_version is not None and (plan.planned_version != plan.version or plan.market_moved),
        "total": result.get("total"),
        "bound": result.get("bound"),
        "line_by_line": result.get("line_by_line"),
        "currency": result.get("currency", ""),
        "suppliers": len(result.get("orders", ())),
        "uncovered": uncovered,
    }


def need_row(need: PlanNeed) -> dict[str, Any]:
    """A need as a row of the plan: what is asked, what is there, what is left, and what is bought for it."""
    said = need.said
    asked = sum((Decimal(q) for _, _, q in said["asked"]), Decimal(0))
    ordered = sum((Decimal(q) for _, _, q in said["orders"]), Decimal(0))
    days = [day for day, _ in said["left"] if day]
    return {
        "id": need.pk,
        "part": need.part.number,
        "description": need.part.description,
        "unit": said["unit"],
        "buying_unit": said["buying_unit"],
        "asked": f"{asked:f}",
        "stock": said["stock"],
        "ordered": f"{ordered:f}",
        "quantity": said["quantity"],
        "by": min(days) if days else None,
        "bought": need.bought,
        "reason": need.reason,
        "detail": need.detail,
        "offers": said["usable"],
    }


def offers_of(part: Part) -> list[dict[str, Any]]:
    """All offers of a part, the newest first, those that were let go behind."""
    rows = sorted(part.offers.all()[:500], key=lambda o: o.let_go_at is not None)
    return [_offer_row(row) for row in rows]


def _offer_row(row: Offer) -> dict[str, Any]:
    return {
        "id": row.pk,
        "supplier": row.supplier_id or "",
        "maker": row.maker,
        "maker_number": row.maker_number,
        "their_number": row.their_number,
        "currency": row.currency,
        "unit": row.unit,
        "breaks": row.breaks,
        "minimum": plain_decimal(row.minimum) or "0",
        "multiple": plain_decimal(row.multiple),
        "available": plain_decimal(row.available),
        "lead_days": row.lead_days,
        "valid_from": row.valid_from.isoformat() if row.valid_from else None,
        "valid_to": row.valid_to.isoformat() if row.valid_to else None,
        "source": row.source,
        "source_words": row.source_words,
        "offered_at": row.offered_at.isoformat(),
        "confirmed_at": row.confirmed_at.isoformat() if row.confirmed_at else None,
        "taken_by": row.taken_by,
        "let_go_by": row.let_go_by,
    }


def terms_of(partner: Partner) -> dict[str, Any]:
    """The terms of a supplier; those of nobody's yet are empty, at version 0."""
    terms = Terms.objects.filter(partner=partner).first() or Terms(partner=partner, version=0)
    return {
        "freight": plain_decimal(Decimal(terms.freight)) or "0",
        "minimum_order": plain_decimal(Decimal(terms.minimum_order)) or "0",
        "small_order_charge": plain_decimal(terms.small_order_charge),
        "transit_days": terms.transit_days,
        "payment": terms.payment,
        "delivery": terms.delivery,
        "service": terms.service,
        "only_makers": terms.only_makers,
        "not_makers": terms.not_makers,
        "version": terms.version,
    }
