"""Parts over HTTP."""

from decimal import Decimal
from typing import Any

from accounts.access import sees_costs
from definition.as_shown import plain_value
from definition.models.parts import Part, PartClass, StockMove, Workspace
from definition.records import class_record, part_record, plain_decimal
from django.db.models import Count as CountOf
from django.db.models import Q, QuerySet, Sum
from django.http import HttpRequest
from ninja import Query, Router, Schema
from readings.found_parts import found_parts
from tally_core.basics.errors import MissingError
from tally_core.basics.units import SYMBOLS, dimension
from tally_core.stated import definition as core
from tally_core.stated.classes import FACTS, Budget, compute_fields
from verbs.parts.drop_parts import drop_parts
from verbs.parts.save_part import save_part

from api.of_records import answered, typed_in

router = Router(tags=["parts"])


class PriceFromDay(Schema):
    """What is paid for a unit from a day on; ISO 8601, decimal text."""

    first_day: str
    unit_cost: str


class PartOut(answered(core.Part, "whole_only", "prices")):  # type: ignore[misc]
    """A part. Amounts are decimal text in the currency of the workspace; empty means nothing stated."""

    whole_only: bool
    # By their day; before the first of them ``unit_cost`` holds.
    prices: list[PriceFromDay]
    # By the fields of its class, beside ``own_values``; what is computed and cannot be begins with – and says why.
    computed: dict[str, str]
    # Stated in lists only.
    on_hand: str | None = None
    version: int
    sheets: int


class PartIn(typed_in(core.Part, "prices")):  # type: ignore[misc]
    """What was typed. A field left out stays as it is; empty text clears it."""

    prices: list[PriceFromDay] | None = None
    version: int | None = None


class Count(Schema):
    count: int


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


def _classes() -> dict[str, core.PartClass]:
    return {c.name: class_record(c) for c in PartClass.objects.all()}


def _out(
    part: Part, sheets: int, classes: dict[str, core.PartClass], stock: Decimal | None = None, budget: Budget | None = None
) -> PartOut:
    own = classes.get(part.part_class)
    computed = compute_fields(own, part.own_values, {n: getattr(part, n) for n in FACTS}, budget) if own else {}
    record = part_record(part)
    plain = {n: plain_value(getattr(record, n)) for n in core.Part.__dataclass_fields__ if n != "prices"}
    return PartOut(**plain, prices=part.prices, version=part.version, computed=computed, sheets=sheets, on_hand=plain_decimal(stock))


def parts_shown(request: HttpRequest, search: str, kind: str, part_class: str, unmodelled: bool) -> QuerySet[Part]:
    """Parts found by words, of a kind and a class."""
    found = found_parts(search, sees_costs(request.user))
    if part_class:
        found = found.filter(part_class=part_class)
    if kind:
        found = found.filter(kind=kind)
    return found.filter(unmodelled=True) if unmodelled else found


@router.get("", response=PartPage)
def list_parts(
    request: HttpRequest,
    search: str = "",
    kind: str = "",
    part_class: str = "",
    unmodelled: bool = False,
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> PartPage:
    """Parts by number. ``search`` holds words that each stand in the number, the description or a field of the class."""
    found = parts_shown(request, search, kind, part_class, unmodelled)
    exact = Q(number__iexact=search.strip())
    total = found.count()
    page = list(found.order_by("number")[offset : offset + limit])
    if offset == 0 and search.strip():
        # What was typed in full stands first.
        first = [p for p in page if p.number.upper() == search.strip().upper()] or list(Part.objects.filter(exact)[:1])
        page = first + [p for p in page if p not in first][: limit - len(first)]
    counts = dict(Part.objects.filter(id__in=[p.id for p in page]).annotate(n=CountOf("sheets")).values_list("id", "n"))
    moves = StockMove.objects.filter(part__in=page).values_list("part").annotate(total=Sum("quantity"))
    stock = dict(moves.values_list("part", "total"))
    classes = _classes()
    budget = Budget()
    items = [_out(p, counts[p.id], classes, stock.get(p.id), budget) for p in page]
    return PartPage(total=total, offset=offset, items=items)


@router.get("/reference", response=Reference)
def read_reference(request: HttpRequest) -> Reference:
    """Units and currency."""
    return Reference(units=[UnitOut(symbol=s, measures=dimension(s)) for s in SYMBOLS], currency=Workspace.the().currency)


@router.get("/one", response=PartOut)
def read_part(request: HttpRequest, number: str) -> PartOut:
    """One part by its number."""
    part = Part.objects.filter(number=number).annotate(n=CountOf("sheets")).first()
    if part is None:
        raise MissingError(f"part {number} is not known")
    return _out(part, part.n, _classes())


def the_part(number: str) -> Part:
    part = Part.objects.filter(number=number).first()
    if part is None:
        raise MissingError(f"part {number} is not known")
    return part


class NumbersGone(Schema):
    numbers: list[str]


@router.post("/drop", response=Count)
def drop(request: HttpRequest, payload: NumbersGone) -> Any:
    """Take away parts that nothing names, all of them or none."""
    drop_parts(request.user, payload.numbers)
    return Count(count=len(payload.numbers))


def _typed(payload: PartIn) -> dict:
    return {n: v for n, v in payload.dict(exclude_unset=True).items() if n != "version"}


@router.post("", response=PartOut)
def make_part(request: HttpRequest, payload: PartIn) -> PartOut:
    """Make a part."""
    return _out(save_part(request.user, _typed(payload)), 0, _classes())


@router.patch("/one", response=PartOut)
def change_part(request: HttpRequest, number: str, payload: PartIn) -> PartOut:
    """Change a part."""
    part = save_part(request.user, _typed(payload), number, payload.version)
    return _out(part, part.sheets.count(), _classes())
