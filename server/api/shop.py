"""Work orders over HTTP: what is ordered of our own shop, how far it is, what it came to."""

from datetime import date
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from formats.answers import PDF, file_answer
from jobs.long_work import long_work
from ninja import Router, Schema
from shop.actions.change_order import change_order, replan_order, split_order
from shop.actions.close_order import cancel_order, close_order
from shop.actions.link_order import link_order
from shop.actions.open_order import open_order
from shop.actions.release_order import release_order
from shop.models import WorkOrder
from shop.papers import order_paper
from shop.reads import one_order, shown_orders
from tally_core.basics.errors import MissingError, Problem, ProblemsError

__all__ = ["router", "whole_order"]

router = Router(tags=["shop"])


class WorkOrderRow(Schema):
    """``done`` of ``operations`` by the share of their units reported; ``short``: how many components are not there for it; ``late``: days."""

    id: int
    number: str
    part: str
    description: str
    unit: str
    quantity: str
    good: str
    scrapped: str
    state: Literal["planned", "released", "running", "done", "closed", "cancelled"]
    wanted: str | None
    starts: str | None
    ends: str | None
    expected: str | None
    spent: str
    operations: int
    done: int
    share: float
    short: int
    late: int
    parent: str | None
    parent_id: int | None
    options: list[str]
    closed: str | None
    difference: str | None


class ShownFile(Schema):
    id: int
    name: str


class StageOut(Schema):
    """An operation of an order. ``here``: units that came to it; ``came``: those that may be reported, of work outside those that were sent."""

    sequence: int
    name: str
    center: str
    center_name: str
    outside: bool
    supplier: str
    planned: str
    came: str
    here: str
    good: str
    scrapped: str
    sent: str
    setup_minutes: str
    run_minutes: str
    starts: str | None
    ends: str | None
    begun: str | None
    begun_by: str
    instructions: str
    files: list[ShownFile]


class ComponentOut(Schema):
    """``spoken_for``: what other released orders still take; ``short``: what is not there for this one; ``coming``: the orders that will end it;
    ``traced``: whether its stock is told apart by lot or serial number."""

    row: int
    item: int | None
    part: str
    description: str
    unit: str
    sequence: int | None
    required: str
    issued: str
    stood_in: str
    byproduct: bool
    customer_supplied: bool
    traced: str
    backflush: bool
    on_hand: str
    spoken_for: str
    short: str
    coming: str


class PostingOut(Schema):
    kind: str
    sequence: int | None
    part: str
    unit: str
    quantity: str
    stood_in: str
    good: str
    scrapped: str
    minutes: str
    value: str
    row: int | None
    codes: list[str]


class EntryOut(Schema):
    """An act on an order; ``value``: what the order bears for it."""

    id: int
    kind: str
    at: str
    done_by: str
    posted_by: str
    reason: str
    reversed: bool
    reverses: int | None
    value: str
    lines: list[PostingOut]


class CauseTerm(Schema):
    label: str
    value: str


class CauseAt(Schema):
    """One cause at one place; ``terms``: what it was reckoned from, in words and numbers."""

    cause: str
    at: Literal["operation", "line", "order"]
    row: int
    where: str
    amount: str
    terms: list[CauseTerm]


class CameToOut(Schema):
    """Expected for the good units and actual, by element; the causes add up to the difference."""

    good: str
    expected: dict[str, str]
    actual: dict[str, str]
    expected_total: str
    actual_total: str
    difference: str
    by_cause: dict[str, str]
    causes: list[CauseAt]


class WorkOrderWhyNot(Schema):
    """For each action why it cannot be done with an order as it stands, in words; null where it can."""

    release: str | None
    change: str | None
    report: str | None
    flush: str | None
    close: str | None
    cancel: str | None


class WorkOrderOut(WorkOrderRow):
    """``rest``: what is still to be spent by its plan; ``behind``: another sheet that is in force by now."""

    why_not: WorkOrderWhyNot
    version: int
    note: str
    alternate: str
    made_by: str
    made: str | None
    released_by: str
    released: str | None
    closed_by: str
    sheet: str | None
    sheet_id: int | None
    behind: str
    behind_id: int | None
    traced: str
    stages: list[StageOut]
    components: list[ComponentOut]
    nested: list[WorkOrderRow]
    entries: list[EntryOut]
    came_to: CameToOut | None
    rest: str | None
    reason: str


class WorkOrderIn(Schema):
    """``nest``: made components that are not free get orders of their own. ``key``: of whoever asks; with the same one a second time no second
    order is opened."""

    key: UUID | None = None
    part: str
    quantity: str
    wanted: str = ""
    options: list[str] = []
    alternate: str = ""
    nest: bool = True
    note: str = ""


class OrderStep(Schema):
    version: int
    reason: str = ""


class OrderChange(Schema):
    version: int
    quantity: str
    wanted: str = ""
    note: str | None = None


class LinkIn(Schema):
    """``parent``: the number of the order that takes it; empty for none."""

    version: int
    parent: str


class SplitIn(Schema):
    version: int
    quantity: str


def typed_day(text: str, place: str = "wanted") -> date | None:
    """A day as year-month-day; None where nothing was typed. Raises ProblemsError."""
    try:
        return date.fromisoformat(text) if text else None
    except ValueError:
        raise ProblemsError([Problem(place, f"{text[:20]} is no day as year-month-day")]) from None


def whole_order(order_id: int) -> dict[str, Any]:
    """An order by its key. Raises MissingError."""
    order = WorkOrder.objects.select_related("part", "parent", "sheet").filter(pk=order_id).first()
    if order is None:
        raise MissingError("This order is no longer there.")
    return one_order(order)


@router.get("/orders", response=list[WorkOrderRow])
def list_orders(request: HttpRequest, which: Literal["open", "all"] = "open") -> Any:
    """Work orders, the most urgent first."""
    return shown_orders(which)


@router.post("/orders", response=WorkOrderOut)
def add_order(request: HttpRequest, payload: WorkOrderIn) -> Any:
    """Open a work order, with those it nests."""
    order = open_order(
        request.user,
        payload.part,
        payload.quantity,
        typed_day(payload.wanted),
        payload.options,
        payload.alternate,
        payload.nest,
        payload.note,
        key=payload.key,
    )
    return whole_order(order.pk)


@router.get("/orders/{order_id}", response=WorkOrderOut)
def read_order(request: HttpRequest, order_id: int) -> Any:
    """One work order with its operations, components, ledger, and what it came to."""
    return whole_order(order_id)


@router.post("/orders/{order_id}/release", response=WorkOrderOut)
def release(request: HttpRequest, order_id: int, payload: OrderStep) -> Any:
    """Release an order: its sheet, quantity and expected cost are fixed."""
    release_order(request.user, order_id, payload.version)
    return whole_order(order_id)


@router.post("/orders/{order_id}/change", response=WorkOrderOut)
def change(request: HttpRequest, order_id: int, payload: OrderChange) -> Any:
    """Change quantity or day of an order on which nothing was done yet."""
    change_order(request.user, order_id, payload.version, payload.quantity, typed_day(payload.wanted), payload.note)
    return whole_order(order_id)


@router.post("/orders/{order_id}/sheet", response=WorkOrderOut)
def follow_sheet(request: HttpRequest, order_id: int, payload: OrderStep) -> Any:
    """Take over the sheet that is in force today."""
    replan_order(request.user, order_id, payload.version, payload.reason)
    return whole_order(order_id)


@router.post("/orders/{order_id}/parent", response=WorkOrderOut)
def link(request: HttpRequest, order_id: int, payload: LinkIn) -> Any:
    """Say which order takes what comes out of this one."""
    link_order(request.user, order_id, payload.version, payload.parent)
    return whole_order(order_id)


@router.post("/orders/{order_id}/split", response=WorkOrderOut)
def split(request: HttpRequest, order_id: int, payload: SplitIn) -> Any:
    """Make two orders of one; answers with the new one."""
    return whole_order(split_order(request.user, order_id, payload.version, payload.quantity).pk)


@router.post("/orders/{order_id}/close", response=WorkOrderOut)
def close(request: HttpRequest, order_id: int, payload: OrderStep) -> Any:
    """Close an order; one that is not done with a reason."""
    close_order(request.user, order_id, payload.version, payload.reason)
    return whole_order(order_id)


@router.get("/orders/{order_id}/paper/{shape}")
@long_work
def read_paper(request: HttpRequest, order_id: int, shape: Literal["cards", "traveller", "requisition", "labels", "slips"]) -> HttpResponse:
    """An order on paper: a card for each operation, a traveller, the requisition for the store, labels, slips for work outside; as PDF."""
    order = WorkOrder.objects.select_related("part", "sheet").filter(pk=order_id).first()
    if order is None:
        raise MissingError("This order is no longer there.")
    return file_answer(order_paper(order, shape), PDF, order.number, f"{shape}.pdf")


@router.post("/orders/{order_id}/cancel", response=WorkOrderOut)
def cancel(request: HttpRequest, order_id: int, payload: OrderStep) -> Any:
    """Cancel an order on which nothing was done."""
    cancel_order(request.user, order_id, payload.version, payload.reason)
    return whole_order(order_id)
