"""Offers, terms of suppliers and rates over HTTP."""

from typing import Any

from buying.actions.save_terms import save_terms
from buying.actions.state_rate import state_rate
from buying.actions.take_offer import let_go_offer, take_offer
from buying.models import Rate
from buying.needs import buying_unit
from buying.reads import offers_of, terms_of
from django.http import HttpRequest
from ninja import Router, Schema
from partners.models import Partner
from tally_core.basics.errors import MissingError

from api.parts import the_part

__all__ = ["router"]

router = Router(tags=["buying"])


class OfferOut(Schema):
    """An offer as it was taken. ``breaks``: from, price; ``let_go_by`` is empty while it holds."""

    id: int
    supplier: str
    maker: str
    maker_number: str
    their_number: str
    currency: str
    unit: str
    breaks: list[list[str]]
    minimum: str
    multiple: str | None
    available: str | None
    lead_days: int
    valid_from: str | None
    valid_to: str | None
    source: str
    source_words: str
    offered_at: str
    confirmed_at: str | None
    taken_by: str
    let_go_by: str


class OffersOfPart(Schema):
    """With the unit in which the part is bought."""

    unit: str
    offers: list[OfferOut]


class OfferIn(Schema):
    """An offer as it was typed; what is left out is not stated. ``price_per``: prices are for so many."""

    part: str
    supplier: str
    breaks: list[list[str]]
    maker: str = ""
    maker_number: str = ""
    their_number: str = ""
    currency: str = ""
    unit: str = ""
    minimum: str = ""
    multiple: str = ""
    available: str = ""
    lead_days: str = ""
    valid_from: str = ""
    valid_to: str = ""
    price_per: str = ""


class TermsOut(Schema):
    """On which terms a supplier sells, in its own currency; no charge: orders under the minimum are refused."""

    freight: str
    minimum_order: str
    small_order_charge: str | None
    transit_days: int
    payment: str
    delivery: str
    service: str
    only_makers: list[str]
    not_makers: list[str]
    version: int


class TermsIn(Schema):
    freight: str | None = None
    minimum_order: str | None = None
    small_order_charge: str | None = None
    transit_days: str | None = None
    payment: str | None = None
    delivery: str | None = None
    service: str | None = None
    only_makers: list[str] | None = None
    not_makers: list[str] | None = None
    version: int | None = None


class CurrencyRate(Schema):
    """What one unit of a currency is worth in ours, from a day on."""

    currency: str
    day: str
    rate: str
    source: str
    by: str


class CurrencyRateIn(Schema):
    currency: str
    day: str
    rate: str


class OfferKept(Schema):
    """``look``: what of it is worth a look."""

    id: int
    look: list[str] = []


@router.get("/offers", response=OffersOfPart)
def read_offers(request: HttpRequest, part: str) -> Any:
    """All offers of a part, the newest first."""
    row = the_part(part)
    return {"unit": buying_unit(row), "offers": offers_of(row)}


@router.post("/offers", response=OfferKept)
def keep_offer(request: HttpRequest, payload: OfferIn) -> Any:
    """Take an offer that was typed."""
    given = payload.dict(exclude={"part", "supplier"})
    offer, look = take_offer(request.user, payload.part, payload.supplier, given)
    return {"id": offer.pk, "look": look}


@router.post("/offers/{offer_id}/let-go", response=OfferKept)
def offer_gone(request: HttpRequest, offer_id: int) -> Any:
    """Let an offer go that does not hold any more."""
    let_go_offer(request.user, offer_id)
    return {"id": offer_id}


def _partner(code: str) -> Partner:
    partner = Partner.objects.filter(code=code).first()
    if partner is None:
        raise MissingError(f"Partner {code} is not known.")
    return partner


@router.get("/terms", response=TermsOut)
def read_terms(request: HttpRequest, code: str) -> Any:
    """On which terms the supplier of a code sells."""
    return terms_of(_partner(code))


@router.put("/terms", response=TermsOut)
def keep_terms(request: HttpRequest, code: str, payload: TermsIn) -> Any:
    """Keep the terms of a supplier."""
    save_terms(request.user, code, payload.version, payload.dict(exclude_unset=True, exclude={"version"}))
    return terms_of(_partner(code))


@router.get("/rates", response=list[CurrencyRate])
def read_rates(request: HttpRequest) -> Any:
    """Rates of currencies, the newest of each first."""
    return [
        CurrencyRate(currency=r.currency, day=r.day.isoformat(), rate=f"{r.rate.normalize():f}", source=r.source, by=r.stated_by)
        for r in Rate.objects.all()[:500]
    ]


@router.post("/rates", response=list[CurrencyRate])
def keep_rate(request: HttpRequest, payload: CurrencyRateIn) -> Any:
    """State a rate."""
    state_rate(request.user, payload.currency, payload.day, payload.rate)
    return read_rates(request)
