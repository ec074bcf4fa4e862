"""Purchase orders over HTTP: from a plan or by hand, placed, received, cancelled, and as papers."""

from typing import Any

from buying.actions.order_plan import order_part, order_plan
from buying.actions.place_order import cancel_order, change_order, place_order
from buying.actions.receive_goods import close_line, receive_goods
from buying.models import PurchaseOrder
from buying.orders import PAPERS, order_head, order_lines
from buying.states import ORDER_ACTIONS
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from tally_core.basics.errors import MissingError

__all__ = ["router"]

router = Router(tags=["orders"])

_MOST = 1000


class OrderRow(Schema):
    """An order; money in its currency. ``received``: lines of which nothing more is to come; ``late``: lines that should have come."""

    id: int
    number: str
    supplier: str
    currency: str
    state: str
    plan: int | None
    plan_number: str
    freight: str
    charge: str
    goods: str
    note: str
    made_by: str
    made_at: str
    placed_by: str
    placed_at: str | None
    cancelled_by: str
    reason: str
    version: int
    lines: int
    received: int
    next: str | None
    late: int


class ReceiptOut(Schema):
    quantity: str
    slip: str
    by: str
    at: str


class OrderLineOut(Schema):
    """A line; quantities in ``unit``, of which one is ``stock_each`` stock units."""

    id: int
    position: int
    part: str
    description: str
    maker: str
    maker_number: str
    their_number: str
    unit: str
    stock_unit: str
    stock_each: str
    quantity: str
    price: str
    due_on: str | None
    received: str
    to_come: str
    closed: bool
    receipts: list[ReceiptOut]


class OrderWhyNot(Schema):
    """For each action why it cannot be done with an order as it stands, in words; null where it can."""

    change: str | None
    place: str | None
    receive: str | None
    close_line: str | None
    cancel: str | None


class OrderOut(OrderRow):
    """An order whole. ``told``: what the last receipt brought over what was ordered."""

    why_not: OrderWhyNot
    rows: list[OrderLineOut]
    told: list[str] = []


class OrdersMade(Schema):
    orders: list[int]


class OrderPlanIn(Schema):
    version: int


class OrderPartIn(Schema):
    """So much of an offer, in the part's buying unit."""

    part: str
    offer: int
    quantity: str


class OrderLineIn(Schema):
    """What changes of a line; a quantity of 0 takes it away."""

    line: int
    quantity: str | None = None
    price: str | None = None
    due_on: str | None = None


class OrderChangeIn(Schema):
    version: int
    note: str | None = None
    lines: list[OrderLineIn] = []


class OrderVersion(Schema):
    version: int


class CancelIn(Schema):
    version: int
    reason: str


class CameIn(Schema):
    line: int
    quantity: str


class ReceiveIn(Schema):
    """What came, in the units of the lines; ``slip``: the number of their delivery note."""

    version: int
    came: list[CameIn]
    slip: str = ""


def _whole(order_id: int, told: list[str] | None = None) -> dict[str, Any]:
    order = PurchaseOrder.objects.select_related("plan").prefetch_related("lines").filter(pk=order_id).first()
    if order is None:
        raise MissingError("This order is no longer there.")
    return order_head(order, order.lines.all()) | {
        "rows": order_lines(order),
        "told": told or [],
        "why_not": ORDER_ACTIONS.answers(order.state, order.number),
    }


@router.get("", response=list[OrderRow])
def list_orders(request: HttpRequest, closed: bool = False) -> Any:
    """Orders, the newest first; those that are done or cancelled only when asked for. Two queries."""
    orders = PurchaseOrder.objects.select_related("plan").prefetch_related("lines")
    if not closed:
        orders = orders.filter(state__in=("draft", "placed"))
    return [order_head(order, order.lines.all()) for order in orders[:_MOST]]


@router.post("/of-plan/{plan_id}", response=OrdersMade)
def order_a_plan(request: HttpRequest, plan_id: int, payload: OrderPlanIn) -> Any:
    """Turn a plan into orders, to be looked at before they are placed."""
    return {"orders": [order.pk for order in order_plan(request.user, plan_id, payload.version)]}


@router.post("/of-part", response=OrdersMade)
def order_a_part(request: HttpRequest, payload: OrderPartIn) -> Any:
    """An order of one part from one of its offers."""
    return {"orders": [order_part(request.user, payload.part, payload.offer, payload.quantity).pk]}


@router.get("/{order_id}", response=OrderOut)
def read_order(request: HttpRequest, order_id: int) -> Any:
    """An order with its lines and what came of each."""
    return _whole(order_id)


@router.patch("/{order_id}", response=OrderOut)
def change_an_order(request: HttpRequest, order_id: int, payload: OrderChangeIn) -> Any:
    """Change a draft."""
    lines = [line.dict(exclude_unset=True) for line in payload.lines]
    change_order(request.user, order_id, payload.version, payload.note, lines)
    return _whole(order_id)


@router.post("/{order_id}/place", response=OrderOut)
def place(request: HttpRequest, order_id: int, payload: OrderVersion) -> Any:
    """Place a draft."""
    place_order(request.user, order_id, payload.version)
    return _whole(order_id)


@router.post("/{order_id}/cancel", response=OrderOut)
def cancel(request: HttpRequest, order_id: int, payload: CancelIn) -> Any:
    """Cancel what is still to come."""
    cancel_order(request.user, order_id, payload.version, payload.reason)
    return _whole(order_id)


@router.post("/{order_id}/receive", response=OrderOut)
def receive(request: HttpRequest, order_id: int, payload: ReceiveIn) -> Any:
    """Take goods in; stock moves with it."""
    _, told = receive_goods(request.user, order_id, payload.version, [c.dict() for c in payload.came], payload.slip)
    return _whole(order_id, told)


@router.post("/{order_id}/lines/{line_id}/close", response=OrderOut)
def close(request: HttpRequest, order_id: int, line_id: int, payload: OrderVersion) -> Any:
    """Nothing more is to come of a line."""
    close_line(request.user, order_id, payload.version, line_id)
    return _whole(order_id)


@router.get("/{order_id}/paper/{shape}")
def paper(request: HttpRequest, order_id: int, shape: str) -> HttpResponse:
    """The order as PDF, as CSV or as a UBL 2.1 Order."""
    order = PurchaseOrder.objects.filter(pk=order_id).first()
    if order is None or shape not in PAPERS:
        raise MissingError("This paper is not there.")
    kind, write = PAPERS[shape]
    answer = HttpResponse(write(order), content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="{order.number}.{shape}"'
    return answer
