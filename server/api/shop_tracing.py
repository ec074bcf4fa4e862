"""Lots and serial numbers over HTTP: how a part is traced, and what a unit was built of."""

from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema
from shop.tracing import as_built, lots_of
from verbs.parts.trace_part import trace_part

from api.parts import the_part

__all__ = ["router"]

router = Router(tags=["shop"])


class LotRow(Schema):
    code: str
    quantity: str


class LotsOut(Schema):
    """``by``: how the stock of a part is told apart; empty where it is not."""

    part: str
    unit: str
    by: Literal["", "lot", "serial"]
    count: int
    lots: list[LotRow]


class TraceIn(Schema):
    by: str


class LotMoveOut(Schema):
    at: str
    quantity: str
    reason: str
    by: str
    order: str
    order_id: int | None


class BuiltOf(Schema):
    """A lot or unit that went into an order, or came of one."""

    part: str
    description: str
    code: str
    order: str
    order_id: int
    quantity: str


class AsBuiltOut(Schema):
    """``made_of``: what went into the orders it came from; ``went_into``: what came of the orders that took it."""

    part: str
    description: str
    unit: str
    code: str
    quantity: str
    moves: list[LotMoveOut]
    made_of: list[BuiltOf]
    went_into: list[BuiltOf]


@router.get("/lots", response=LotsOut)
def read_lots(request: HttpRequest, part: str) -> Any:
    """How a part is traced, and its lots or units."""
    return lots_of(the_part(part))


@router.post("/lots", response=LotsOut)
def keep_tracing(request: HttpRequest, part: str, payload: TraceIn) -> Any:
    """Say whether the stock of a part is told apart by lot, by serial number, or not."""
    return lots_of(trace_part(request.user, part, payload.by))


@router.get("/as-built", response=AsBuiltOut)
def read_as_built(request: HttpRequest, part: str, code: str) -> Any:
    """What a lot or a unit was made of, and where it went."""
    return as_built(the_part(part), code)
