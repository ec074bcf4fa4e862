"""Questions to a cost over HTTP."""

from typing import Any

from django.http import HttpRequest
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from ninja import Query, Router, Schema
from readings.questions import bridge, lot_curve, ranked_inputs

from api.costs import sheet_named
from api.of_records import CostByElement, MovedByCause

router = Router(tags=["questions"])


class RankedInput(Schema):
    """An input, and what 1 % more of it moves; ``figure`` opens the working of that."""

    table: str
    key: str
    field: str
    word: str
    name: str
    more: str
    value: float | None
    unit: str
    moves: float
    figure: str


class Ranked(Schema):
    """The cost, how many inputs move it, and those that move it most."""

    cost: float
    count: int
    items: list[RankedInput]


class Curve(Schema):
    sheet: int
    name: str
    costs: list[float]


class Crossing(Schema):
    """From this lot on one way is cheaper than another; ``cost`` is that of the sheet asked about."""

    lot: float
    cheaper: str
    than: str
    cost: float


class LotCurve(Schema):
    """Unit costs over ``lots``; in a job every lot below follows, else the part's own lot alone is another."""

    now: float
    unit: str
    job: bool
    lots: list[float]
    curves: list[Curve]
    crossings: list[Crossing]


class BasesIn(Schema):
    """Two bases; the sheet may be another one for the second."""

    sheet: int
    basis: BasisIn
    other: BasisIn
    other_sheet: int | None = None


class BridgeOut(Schema):
    """From one cost to the other by cause; the causes add up to the difference exactly."""

    before: float
    after: float
    before_elements: CostByElement
    after_elements: CostByElement
    caused: MovedByCause


@router.get("/inputs", response=Ranked)
@long_work
def read_inputs(request: HttpRequest, sheet: int, basis: Query[BasisIn], idle: bool = False) -> Any:
    """What moves the cost of a sheet, ranked; with ``idle`` also inputs that stand where they do nothing."""
    return ranked_inputs(sheet_named(sheet), read_basis(basis), idle)


@router.get("/lots", response=LotCurve)
@long_work
def read_curve(request: HttpRequest, sheet: int, basis: Query[BasisIn]) -> Any:
    """What a unit costs at other lots."""
    return lot_curve(sheet_named(sheet), read_basis(basis))


@router.post("/bridge", response=BridgeOut)
@long_work
def read_bridge(request: HttpRequest, payload: BasesIn) -> Any:
    """Why the cost of a sheet differs between two bases."""
    other = sheet_named(payload.other_sheet) if payload.other_sheet else None
    return bridge(sheet_named(payload.sheet), read_basis(payload.basis), read_basis(payload.other), other)
