"""Parts over HTTP."""

from decimal import Decimal
from typing import Any

from django.db.models import Count, Q, Sum
from django.http import HttpRequest
from ninja import Query, Router, Schema
from sheets.records import plain_decimal
from tally_core.errors import TallyError
from tally_core.units import SYMBOLS, dimension

from .actions.move_stock import move_stock, on_hand
from .actions.save_maker_numbers import save_maker_numbers
from .actions.save_part import save_part
from .models import Part, StockMove, Workspace

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
    second_description: str
    part_class: str
    material: str
    mass_kg: str | None
    size_mm: str
    buying_unit: str | None
    stock_per_buying_unit: str | None
    reorder_level: str | None
    order_minimum: str | None
    order_multiple: str | None
    sold: bool
    supplier_link: str
    # Stated in lists only.
    on_hand: str | None = None
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
    second_description: str | None = None
    part_class: str | None = None
    material: str | None = None
    mass_kg: str | None = None
    size_mm: str | None = None
    buying_unit: str | None = None
    stock_per_buying_unit: str | None = None
    reorder_level: str | None = None
    order_minimum: str | None = None
    order_multiple: str | None = None
    sold: bool | None = None
    supplier_link: str | None = None
    version: int | None = None


class MakerNumberOut(Schema):
    """A manufacturer's number, in order of rank."""

    maker: str
    number: str
    package: str = ""


class MoveOut(Schema):
    """A move of stock, in the part's stock unit."""

    quantity: str
    reason: str
    by: str
    at: str


class StockOut(Schema):
    """What is on hand, and the last moves that made it."""

    on_hand: str
    unit: str
    moves: list[MoveOut]
    count: int


class MoveIn(Schema):
    quantity: str
    reason: str = ""


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


_AMOUNTS = (
    "unit_cost", "given_cost", "overhead_percent", "costing_lot", "mass_kg", "stock_per_buying_unit", "reorder_level",
    "order_minimum", "order_multiple",
)  # fmt: skip


def _out(part: Part, sheets: int, stock: Decimal | None = None) -> PartOut:
    amounts: dict[str, Any] = {n: plain_decimal(getattr(part, n)) for n in _AMOUNTS}
    plain = {
        n: getattr(part, n)
        for n in (
            "second_description",
            "part_class",
            "material",
            "size_mm",
            "buying_unit",
            "sold",
            "supplier_link",
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
    return PartOut(**amounts, **plain, sheets=sheets, on_hand=plain_decimal(stock))


@router.get("", response=PartPage)
def list_parts(
    request: HttpRequest,
    search: str = "",
    kind: str = "",
    part_class: str = "",
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> PartPage:
    """Parts by number. ``search`` holds words that each stand in the number or the description."""
    found = Part.objects.all()
    for word in search.upper().split()[:8]:
        found = found.filter(search__contains=word)
    if part_class:
        found = found.filter(part_class=part_class)
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
    moves = StockMove.objects.filter(part__in=page).values_list("part").annotate(total=Sum("quantity"))
    stock = dict(moves.values_list("part", "total"))
    return PartPage(total=total, offset=offset, items=[_out(p, counts[p.id], stock.get(p.id)) for p in page])


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


@router.get("/classes", response=list[str])
def list_classes(request: HttpRequest) -> Any:
    """The classes that parts are in."""
    return list(
        Part.objects.exclude(part_class="").order_by("part_class").values_list("part_class", flat=True).distinct()
    )


def _part(number: str) -> Part:
    part = Part.objects.filter(number=number).first()
    if part is None:
        raise TallyError(f"part {number} is not known")
    return part


@router.get("/one/makers", response=list[MakerNumberOut])
def read_makers(request: HttpRequest, number: str) -> Any:
    """The approved manufacturers' numbers of a part."""
    return list(_part(number).maker_numbers.all())


@router.put("/one/makers", response=list[MakerNumberOut])
def keep_makers(request: HttpRequest, number: str, payload: list[MakerNumberOut]) -> Any:
    """Replace the approved manufacturers' numbers of a part."""
    return save_maker_numbers(request.user, number, [row.dict() for row in payload])


def _stock(part: Part) -> StockOut:
    moves = part.moves.all()[:100]
    listed = [
        MoveOut(quantity=plain_decimal(m.quantity) or "0", reason=m.reason, by=m.made_by, at=m.made_at.isoformat())
        for m in moves
    ]
    return StockOut(on_hand=plain_decimal(on_hand(part)) or "0", unit=part.unit, moves=listed, count=part.moves.count())


@router.get("/one/stock", response=StockOut)
def read_stock(request: HttpRequest, number: str) -> Any:
    """What is on hand of a part, with its last moves."""
    return _stock(_part(number))


@router.post("/one/stock", response=StockOut)
def move(request: HttpRequest, number: str, payload: MoveIn) -> Any:
    """Add to or take from stock."""
    return _stock(move_stock(request.user, number, payload.quantity, payload.reason).part)


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
