"""Parts over HTTP."""

from typing import Any

from django.db.models import Count, Q
from django.http import HttpRequest
from ninja import Query, Router, Schema
from sheets.records import plain_decimal
from tally_core.errors import TallyError
from tally_core.units import SYMBOLS, dimension

from .actions.save_part import save_part
from .models import Part, Workspace

router = Router(tags=["parts"])


class PartOut(Schema):
    """A part. Amounts are decimal text in the currency of the workspace; empty means nothing stated."""

    number: str
    description: str
    kind: str
    unit: str
    unit_cost: str | None
    given_cost: str | None
    overhead_percent: str
    costing_lot: str | None
    whole_only: bool
    lead_time_days: int
    lifecycle: str
    default_alternate: str | None
    version: int
    sheets: int


class PartIn(Schema):
    """What was typed. A field left out stays as it is; empty text clears it."""

    number: str | None = None
    description: str | None = None
    kind: str | None = None
    unit: str | None = None
    unit_cost: str | None = None
    given_cost: str | None = None
    overhead_percent: str | None = None
    costing_lot: str | None = None
    whole_only: bool | None = None
    lead_time_days: str | None = None
    lifecycle: str | None = None
    default_alternate: str | None = None
    version: int | None = None


class PartPage(Schema):
    """One window of the list: ``items`` from ``offset`` on, of ``total`` that match."""

    total: int
    offset: int
    items: list[PartOut]


class UnitOut(Schema):
    symbol: str
    measures: str


class Reference(Schema):
    """What every screen knows: the units, and the currency of all costs."""

    units: list[UnitOut]
    currency: str


def _out(part: Part, sheets: int) -> PartOut:
    amounts: dict[str, Any] = {
        n: plain_decimal(getattr(part, n)) for n in ("unit_cost", "given_cost", "overhead_percent", "costing_lot")
    }
    plain = {
        n: getattr(part, n)
        for n in (
            "number",
            "description",
            "kind",
            "unit",
            "whole_only",
            "lead_time_days",
            "lifecycle",
            "default_alternate",
            "version",
        )
    }
    return PartOut(**amounts, **plain, sheets=sheets)


@router.get("", response=PartPage)
def list_parts(
    request: HttpRequest,
    search: str = "",
    kind: str = "",
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> PartPage:
    """Parts by number. ``search`` holds words that each stand in the number or the description."""
    found = Part.objects.all()
    for word in search.upper().split()[:8]:
        found = found.filter(search__contains=word)
    if kind:
        found = found.filter(kind=kind)
    exact = Q(number__iexact=search.strip())
    total = found.count()
    page = list(found.order_by("number")[offset : offset + limit])
    if offset == 0 and search.strip():
        # What was typed in full stands first.
        first = [p for p in page if p.number.upper() == search.strip().upper()] or list(Part.objects.filter(exact)[:1])
        page = first + [p for p in page if p not in first][: limit - len(first)]
    counts = dict(Part.objects.filter(id__in=[p.id for p in page]).annotate(n=Count("sheets")).values_list("id", "n"))
    return PartPage(total=total, offset=offset, items=[_out(p, counts[p.id]) for p in page])


@router.get("/reference", response=Reference)
def read_reference(request: HttpRequest) -> Reference:
    """Units and currency."""
    return Reference(
        units=[UnitOut(symbol=s, measures=dimension(s)) for s in SYMBOLS], currency=Workspace.the().currency
    )


@router.get("/one", response=PartOut)
def read_part(request: HttpRequest, number: str) -> PartOut:
    """One part by its number."""
    part = Part.objects.filter(number=number).annotate(n=Count("sheets")).first()
    if part is None:
        raise TallyError(f"part {number} is not known")
    return _out(part, part.n)


def _typed(payload: PartIn) -> dict:
    return {n: v for n, v in payload.dict(exclude_unset=True).items() if n != "version"}


@router.post("", response=PartOut)
def make_part(request: HttpRequest, payload: PartIn) -> PartOut:
    """Make a part."""
    return _out(save_part(request.user, _typed(payload)), 0)


@router.patch("/one", response=PartOut)
def change_part(request: HttpRequest, number: str, payload: PartIn) -> PartOut:
    """Change a part."""
    part = save_part(request.user, _typed(payload), number, payload.version)
    return _out(part, part.sheets.count())
