"""Quotes over HTTP: what an inquiry is offered at, and its papers."""

from typing import Any
from uuid import UUID

from buying.actions.make_quote import change_quote, make_quote, send_quote
from buying.models import Quote
from buying.quote_papers import quote_pdf, quote_workbook
from buying.quoting import WORDS, moved_since, prices_of
from buying.states import QUOTE_ACTIONS
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from tally_core.basics.errors import MissingError

__all__ = ["router"]

router = Router(tags=["quotes"])


class QuoteRow(Schema):
    id: int
    number: str
    state: str
    inquiry: int
    inquiry_number: str
    title: str
    customer: str
    made_by: str
    made_at: str
    sent_by: str
    sent_at: str | None


class OnceOut(Schema):
    """What is paid once; ``spread``: within the price, or else beside it."""

    words: str
    amount: str
    spread: bool


class QuotedPart(Schema):
    """A part of one quantity: what the job takes, what it costs, and where from."""

    part: str
    description: str
    unit: str
    quantity: str
    price: str
    cost: str
    suppliers: list[str]
    source: str
    offered: str | None


class QuotedQuantity(Schema):
    """One quantity: what it costs by element and in all, and what it is offered at."""

    plan: str
    plan_id: int
    part: str
    description: str
    quantity: str
    elements: dict[str, str]
    marked: dict[str, str]
    cost: str
    each: str
    price: str
    margin_percent: str
    beside: str
    parts: list[QuotedPart]
    uncertain: list[str]


class QuoteMoved(Schema):
    """How the price of one moved since the quote before, and which elements of cost moved by how much in all."""

    part: str
    quantity: str
    before: str
    now: str
    causes: dict[str, str]


class QuoteWhyNot(Schema):
    """For each action why it cannot be done with a quote as it stands, in words; null where it can."""

    change: str | None
    send: str | None


class QuoteOut(QuoteRow):
    """A quote whole; ``words_of``: element → its word. ``since``: the quote before it, and what moved."""

    currency: str
    markups: dict[str, str]
    overall_percent: str
    once: list[OnceOut]
    decimals: int
    valid_days: int
    words: str
    version: int
    quantities: list[QuotedQuantity]
    words_of: dict[str, str]
    since: str
    moved: list[QuoteMoved]
    why_not: QuoteWhyNot


class QuoteIn(Schema):
    """What is added to the costs; what is left out stays."""

    version: int
    markups: dict[str, str] | None = None
    overall_percent: str | None = None
    once: list[OnceOut] | None = None
    decimals: int | None = None
    valid_days: int | None = None
    words: str | None = None


class QuoteVersion(Schema):
    version: int


def _row(quote: Quote) -> dict[str, Any]:
    return {
        "id": quote.pk,
        "number": quote.number,
        "state": quote.state,
        "inquiry": quote.inquiry_id,
        "inquiry_number": quote.inquiry.number,
        "title": quote.inquiry.title,
        "customer": quote.inquiry.customer_id or "",
        "made_by": quote.made_by,
        "made_at": quote.made_at.isoformat(),
        "sent_by": quote.sent_by,
        "sent_at": quote.sent_at.isoformat() if quote.sent_at else None,
    }


def _the_quote(quote_id: int) -> Quote:
    quote = Quote.objects.select_related("inquiry").filter(pk=quote_id).first()
    if quote is None:
        raise MissingError("This quote is no longer there.")
    return quote


def _whole(quote_id: int) -> dict[str, Any]:
    quote = _the_quote(quote_id)
    before = Quote.objects.filter(inquiry=quote.inquiry_id, pk__lt=quote.pk).first()
    return _row(quote) | {
        "currency": quote.currency,
        "markups": quote.markups,
        "overall_percent": f"{quote.overall_percent.normalize():f}",
        "once": quote.once,
        "decimals": quote.decimals,
        "valid_days": quote.valid_days,
        "words": quote.words,
        "version": quote.version,
        "words_of": WORDS,
        "why_not": QUOTE_ACTIONS.answers(quote.state, quote.number),
        "since": before.number if before else "",
        "moved": moved_since(quote, before) if before else [],
        "quantities": [
            of
            | {
                "marked": {n: f"{v:.6f}" for n, v in price.marked.items()},
                "cost": f"{price.cost:.6f}",
                "each": f"{price.each:f}",
                "price": f"{price.price:.6f}",
                "margin_percent": f"{price.margin_percent:.4f}",
                "beside": f"{price.beside:.6f}",
            }
            for of, price in prices_of(quote)
        ],
    }


@router.get("", response=list[QuoteRow])
def list_quotes(request: HttpRequest, inquiry: int | None = None) -> Any:
    """Quotes, the newest first, or those of an inquiry. One query."""
    quotes = Quote.objects.select_related("inquiry").defer("costs")
    if inquiry is not None:
        quotes = quotes.filter(inquiry=inquiry)
    return [_row(quote) for quote in quotes[:500]]


class QuoteAsked(Schema):
    """``key``: of whoever asks; with the same one a second time no second quote is made."""

    key: UUID | None = None


@router.post("/of-inquiry/{inquiry_id}", response=QuoteOut)
def quote_an_inquiry(request: HttpRequest, inquiry_id: int, payload: QuoteAsked = QuoteAsked()) -> Any:  # noqa: B008
    """A quote at every quantity that was planned for an inquiry."""
    return _whole(make_quote(request.user, inquiry_id, payload.key).pk)


@router.get("/{quote_id}", response=QuoteOut)
def read_quote(request: HttpRequest, quote_id: int) -> Any:
    """A quote with its quantities side by side."""
    return _whole(quote_id)


@router.patch("/{quote_id}", response=QuoteOut)
def change_a_quote(request: HttpRequest, quote_id: int, payload: QuoteIn) -> Any:
    """Change what is added to the costs of a draft."""
    given = {n: v for n, v in payload.dict(exclude_unset=True, exclude={"version"}).items() if v is not None}
    change_quote(request.user, quote_id, payload.version, given)
    return _whole(quote_id)


@router.post("/{quote_id}/send", response=QuoteOut)
def send_a_quote(request: HttpRequest, quote_id: int, payload: QuoteVersion) -> Any:
    """It went to the customer: from now on it stands as it is."""
    send_quote(request.user, quote_id, payload.version)
    return _whole(quote_id)


@router.get("/{quote_id}/paper/{shape}")
def quote_paper(request: HttpRequest, quote_id: int, shape: str) -> HttpResponse:
    """The quote as a workbook for us (xlsx), or as a PDF for the customer."""
    quote = _the_quote(quote_id)
    if shape == "xlsx":
        answer = HttpResponse(quote_workbook(quote), content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")
    elif shape == "pdf":
        answer = HttpResponse(quote_pdf(quote), content_type="application/pdf")
    else:
        raise MissingError("This paper is not there.")
    answer["Content-Disposition"] = f'attachment; filename="{quote.number}.{shape}"'
    return answer
