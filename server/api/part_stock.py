"""Stock, open orders and makers' numbers of parts over HTTP."""

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from accounts.access import require
from definition.models.parts import MakerNumber, Part
from definition.records import plain_decimal
from definition.stock_levels import spoken_for
from django.http import HttpRequest
from formats.apart import read_tables
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from verbs.parts.move_stock import move_stock, on_hand
from verbs.parts.save_maker_numbers import save_maker_numbers
from verbs.parts.take_open_orders import take_open_orders

from api.parts import Count, the_part

__all__ = ["router"]

router = Router(tags=["parts"])


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
    # What released orders of the shop still take of it.
    spoken_for: str
    unit: str
    moves: list[MoveOut]
    count: int


class OpenOrderOut(Schema):
    """What is still to come of an order, in stock units."""

    order: str
    quantity: str
    due_on: str | None
    by: str


class OpenOrdersIn(Schema):
    """Rows of a list, the first with the titles of its columns."""

    rows: list[list[str]]


class MoveIn(Schema):
    quantity: str
    reason: str = ""


@router.get("/one/makers", response=list[MakerNumberOut])
def read_makers(request: HttpRequest, number: str) -> Any:
    """The approved manufacturers' numbers of a part."""
    return _makers(the_part(number).maker_numbers.all())


@router.put("/one/makers", response=list[MakerNumberOut])
def keep_makers(request: HttpRequest, number: str, payload: list[MakerNumberOut]) -> Any:
    """Replace the approved manufacturers' numbers of a part."""
    return _makers(save_maker_numbers(request.user, number, [row.dict() for row in payload]))


def _makers(rows: Iterable[MakerNumber]) -> list[MakerNumberOut]:
    return [MakerNumberOut(maker=m.maker_id or "", number=m.number, package=m.package) for m in rows]


def _stock(part: Part) -> StockOut:
    moves = part.moves.all()[:100]
    listed = [MoveOut(quantity=plain_decimal(m.quantity) or "0", reason=m.reason, by=m.made_by, at=m.made_at.isoformat()) for m in moves]
    taken = spoken_for([part.pk]).get(part.pk, Decimal(0))
    return StockOut(
        on_hand=plain_decimal(on_hand(part)) or "0",
        spoken_for=plain_decimal(taken) or "0",
        unit=part.unit,
        moves=listed,
        count=part.moves.count(),
    )


@router.get("/one/stock", response=StockOut)
def read_stock(request: HttpRequest, number: str) -> Any:
    """What is on hand of a part, with its last moves."""
    return _stock(the_part(number))


@router.post("/one/stock", response=StockOut)
def move(request: HttpRequest, number: str, payload: MoveIn) -> Any:
    """Add to or take from stock."""
    return _stock(move_stock(request.user, number, payload.quantity, payload.reason).part)


@router.get("/one/open-orders", response=list[OpenOrderOut])
def read_open_orders(request: HttpRequest, number: str) -> Any:
    """What is still to come of a part, the next first."""
    return [
        OpenOrderOut(
            order=o.order, quantity=plain_decimal(o.quantity) or "0", by=o.added_by, due_on=o.due_on.isoformat() if o.due_on else None
        )
        for o in the_part(number).open_orders.all()[:200]
    ]


@router.post("/open-orders", response=Count)
def keep_open_orders(request: HttpRequest, payload: OpenOrdersIn) -> Any:
    """Take a list of open orders as rows."""
    return Count(count=take_open_orders(request.user, payload.rows))


@router.post("/open-orders/file", response=Count)
def read_order_file(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Take the first table of a file as a list of open orders."""
    require(request.user, "open orders")
    tables = read_tables(file.name or "list", file.read())
    return Count(count=take_open_orders(request.user, tables[0].rows if tables else []))
