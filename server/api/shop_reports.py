"""What the shop reports, over HTTP: at a work center, by the store, by the planner, for work outside. A key makes each stand once."""

from datetime import datetime
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from shop.actions.begin_work import begin_work
from shop.actions.build_at_once import build_at_once
from shop.actions.issue_components import Issue, issue_components
from shop.actions.report_work import Report, report_work
from shop.actions.reverse_entry import reverse_entry
from shop.actions.work_outside import invoice_outside, send_outside
from shop.can_build import can_build
from shop.reads import center_queue, centers

from api.shop import ShownFile, WorkOrderOut, whole_order

__all__ = ["router"]

router = Router(tags=["shop"])


class MoreTaken(Schema):
    row: int
    quantity: str


class ReportIn(Schema):
    """``key``: the same for the same act, however often it is sent. ``center``: where it is reported. ``more``: taken beyond the list.
    ``codes``: serial numbers or the lot of what is good at a last operation."""

    key: UUID
    sequence: int
    good: str = "0"
    scrapped: str = "0"
    setup_minutes: str = "0"
    run_minutes: str = "0"
    reason: str = ""
    beyond: bool = False
    more: list[MoreTaken] = []
    codes: list[str] = []
    at: datetime | None = None
    done_by: str = ""
    center: str = ""


class CodeTaken(Schema):
    code: str
    quantity: str = "1"


class IssueRow(Schema):
    """``instead``: the part given in place of the component, of which it stands for ``stands_for``; alone, taken beyond the list."""

    component: int | None = None
    quantity: str
    instead: str = ""
    stands_for: str = ""
    codes: list[CodeTaken] = []


class IssueIn(Schema):
    key: UUID
    issues: list[IssueRow]
    at: datetime | None = None
    done_by: str = ""
    reason: str = ""


class SentIn(Schema):
    key: UUID
    sequence: int
    quantity: str
    slip: str = ""


class InvoiceIn(Schema):
    key: UUID
    sequence: int
    amount: str
    invoice: str = ""


class ReversalIn(Schema):
    key: UUID
    reason: str


class BeginIn(Schema):
    sequence: int
    begins: bool = True
    done_by: str = ""
    center: str = ""


class Begun(Schema):
    begun: bool


class CenterRow(Schema):
    code: str
    name: str
    operations: int
    begun: int


class TaskTakes(Schema):
    row: int
    part: str
    description: str
    unit: str
    quantity: str
    backflush: bool


class TaskOut(Schema):
    """An operation at a work center: ``place`` of ``of``; ``here``: units that wait for it; ``any_of``: the group of which any may take it up."""

    order: int
    number: str
    part: str
    description: str
    unit: str
    wanted: str | None
    sequence: int
    name: str
    any_of: str
    place: int
    of: int
    planned: str
    here: str
    good: str
    scrapped: str
    setup_minutes: str
    run_minutes: str
    starts: str | None
    begun: str | None
    begun_by: str
    instructions: str
    files: list[ShownFile]
    takes: list[TaskTakes]


class QueueOut(Schema):
    code: str
    name: str
    tasks: list[TaskOut]


class WantedPart(Schema):
    part: str
    quantity: str = ""


class ShortPart(Schema):
    """``needed`` for the wanted quantity, sub-assemblies taken from stock first; ``free``: what was there for it when its turn came."""

    part: str
    description: str
    unit: str
    kind: str
    needed: str
    on_hand: str
    free: str
    short: str


class CanBuildOut(Schema):
    """``most``: what can be built from stock now, None where nothing limits it; ``limited_by``: what one more would lack."""

    part: str
    description: str
    unit: str
    wanted: str
    most: str | None
    limited_by: list[str]
    rows: list[ShortPart]


class AtOnceIn(Schema):
    key: UUID
    part: str
    quantity: str
    options: list[str] = []


@router.get("/centers", response=list[CenterRow])
def list_centers(request: HttpRequest) -> Any:
    """Work centers at which something waits."""
    return centers()


@router.get("/centers/{code}", response=QueueOut)
def read_queue(request: HttpRequest, code: str) -> Any:
    """What is to be done at a work center, the next first."""
    return center_queue(code)


@router.post("/can-build", response=list[CanBuildOut])
def read_can_build(request: HttpRequest, payload: list[WantedPart]) -> Any:
    """What can be built from stock, several parts in their order: what the first takes is not there for the next."""
    return can_build([(w.part, w.quantity) for w in payload])


@router.post("/at-once", response=WorkOrderOut)
def build(request: HttpRequest, payload: AtOnceIn) -> Any:
    """Build so many at once, without a paper."""
    return whole_order(build_at_once(request.user, payload.part, payload.quantity, payload.key, payload.options).pk)


@router.post("/orders/{order_id}/begin", response=Begun)
def begin(request: HttpRequest, order_id: int, payload: BeginIn) -> Any:
    """Begin at an operation, or leave it."""
    operation = begin_work(request.user, order_id, payload.sequence, payload.begins, payload.done_by, payload.center)
    return {"begun": operation.begun_at is not None}


@router.post("/orders/{order_id}/report", response=WorkOrderOut)
def report(request: HttpRequest, order_id: int, payload: ReportIn) -> Any:
    """Report what was done at an operation."""
    said = Report(
        payload.sequence,
        payload.good,
        payload.scrapped,
        payload.setup_minutes,
        payload.run_minutes,
        payload.reason,
        payload.beyond,
        [(m.row, m.quantity) for m in payload.more],
        codes=payload.codes,
    )
    report_work(request.user, order_id, payload.key, said, payload.at, payload.done_by, payload.center)
    return whole_order(order_id)


@router.post("/orders/{order_id}/issue", response=WorkOrderOut)
def issue(request: HttpRequest, order_id: int, payload: IssueIn) -> Any:
    """Issue components to an order, or take them back."""
    rows = [Issue(r.component, r.quantity, r.instead, r.stands_for, [(c.code, c.quantity) for c in r.codes]) for r in payload.issues]
    issue_components(request.user, order_id, payload.key, rows, payload.at, payload.done_by, payload.reason)
    return whole_order(order_id)


@router.post("/orders/{order_id}/sent", response=WorkOrderOut)
def sent(request: HttpRequest, order_id: int, payload: SentIn) -> Any:
    """Units were sent to the supplier of work outside."""
    send_outside(request.user, order_id, payload.key, payload.sequence, payload.quantity, payload.slip)
    return whole_order(order_id)


@router.post("/orders/{order_id}/invoice", response=WorkOrderOut)
def invoice(request: HttpRequest, order_id: int, payload: InvoiceIn) -> Any:
    """What the supplier of work outside invoiced."""
    invoice_outside(request.user, order_id, payload.key, payload.sequence, payload.amount, payload.invoice)
    return whole_order(order_id)


@router.post("/orders/{order_id}/entries/{entry_id}/reverse", response=WorkOrderOut)
def reverse(request: HttpRequest, order_id: int, entry_id: int, payload: ReversalIn) -> Any:
    """Reverse an entry that was wrong."""
    reverse_entry(request.user, order_id, entry_id, payload.key, payload.reason)
    return whole_order(order_id)
