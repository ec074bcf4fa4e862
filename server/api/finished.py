"""Finished orders over HTTP, and the times measured on them."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from accounts.access import require
from definition.models.sheets import Operation
from definition.models.work_centers import FinishedWork
from django.db.models import Q
from django.http import HttpRequest
from formats.apart import read_tables
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError, TallyError
from tally_core.time.measured import measured_run
from verbs.work_centers.reverse_finished_work import reverse_finished_work
from verbs.work_centers.take_finished_work import take_finished_work

router = Router(tags=["finished orders"])

MOST_ORDERS = 200
MOST_LISTED = 100


class Taken(Schema):
    kept: int
    held: int


class FinishedIn(Schema):
    """One operation of a finished order, as typed."""

    order: str
    part: str
    sequence: str
    quantity: str
    run_minutes: str
    setup_minutes: str = ""
    finished_on: str


class FinishedOut(Schema):
    """``each`` is the run time of the order as the operation counts it, at 100 % efficiency."""

    order: str
    finished_on: str
    quantity: float
    run_minutes: float
    setup_minutes: float | None
    each: float


class MeasuredOut(Schema):
    """The mean of the last orders, each counted once and by quantity, their spread (standard deviation) and number, and the orders; nothing measured: none."""

    run_minutes: str | None
    by_quantity: str | None
    spread: float | None
    number: int
    of: int
    orders: list[FinishedOut]


@router.post("/file", response=Taken)
def take_file(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Keep the rows of the first table of a file."""
    require(request.user, "finished orders")
    tables = read_tables(file.name or "list", file.read())
    kept, held = take_finished_work(request.user, tables[0].rows if tables else [])
    return {"kept": kept, "held": held}


@router.post("", response=Taken)
def take_one(request: HttpRequest, payload: FinishedIn) -> Any:
    """Keep one operation of a finished order."""
    values = payload.dict()
    titles = ["order", "part", "operation", "quantity", "run minutes", "set-up minutes", "finished"]
    names = ["order", "part", "sequence", "quantity", "run_minutes", "setup_minutes", "finished_on"]
    kept, held = take_finished_work(request.user, [titles, [values[n] for n in names]])
    return {"kept": kept, "held": held}


class ListedWork(Schema):
    """One operation of a finished order as it was reported; ``reversed`` says by whom, when and why it counts no longer."""

    id: int
    order: str
    part: str
    sequence: int
    finished_on: str
    quantity: float
    run_minutes: float
    setup_minutes: float | None
    by: str
    at: str
    reversed: str


class WorkPage(Schema):
    rows: list[ListedWork]
    more: bool


class Reason(Schema):
    reason: str


@router.get("", response=WorkPage)
def list_finished(request: HttpRequest, search: str = "", after: int = 0) -> Any:
    """What was reported, the last finished first, ``MOST_LISTED`` at a time from the row ``after`` on; by order or part."""
    found = FinishedWork.objects.select_related("part").order_by("-finished_on", "-id")
    if search.strip():
        found = found.filter(Q(order__icontains=search.strip()) | Q(part__number__icontains=search.strip()))
    rows = list(found[max(0, after) : max(0, after) + MOST_LISTED + 1])
    return {"rows": [_listed(work) for work in rows[:MOST_LISTED]], "more": len(rows) > MOST_LISTED}


@router.post("/{key}/reverse", response=ListedWork)
def reverse(request: HttpRequest, key: int, payload: Reason) -> Any:
    """It counts no longer; it stays listed with the reason."""
    return _listed(reverse_finished_work(request.user, key, payload.reason))


def _listed(work: FinishedWork) -> dict[str, Any]:
    return {
        "id": work.pk,
        "order": work.order,
        "part": work.part.number,
        "sequence": work.sequence,
        "finished_on": work.finished_on.isoformat(),
        "quantity": float(work.quantity),
        "run_minutes": float(work.run_minutes),
        "setup_minutes": None if work.setup_minutes is None else float(work.setup_minutes),
        "by": work.added_by,
        "at": work.added_at.isoformat(),
        "reversed": ""
        if work.reversed_at is None
        else f"reversed by {work.reversed_by} on {work.reversed_at.date().isoformat()}: {work.reversed_reason}",
    }


@router.get("/measured", response=MeasuredOut)
def read_measured(request: HttpRequest, operation: str, last: int = 10) -> Any:
    """What the last finished orders took at an operation, counted as the operation counts its run time."""
    if not 1 <= last <= MOST_ORDERS:
        raise TallyError(f"The mean is taken of the last 1 to {MOST_ORDERS} orders.")
    row = Operation.objects.select_related("sheet", "work_center").filter(pk=_key(operation)).first()
    if row is None:
        raise MissingError("This operation is no longer there.")
    found = FinishedWork.objects.filter(part_id=row.sheet.part_id, sequence=row.sequence, reversed_at=None)
    orders = list(found[:last])
    efficiency = float(row.work_center.efficiency_percent) if row.work_center else 100.0
    if not orders or row.outside:
        return {"run_minutes": None, "by_quantity": None, "spread": None, "number": 0, "of": 0, "orders": []}
    cycle = float(row.cycle_quantity) if row.cycle_quantity is not None else None
    measured = measured_run([(float(w.run_minutes), float(w.quantity)) for w in orders], row.run_basis, cycle, efficiency)
    return {
        "run_minutes": _minutes(measured.run_minutes),
        "by_quantity": _minutes(measured.by_quantity),
        "spread": measured.spread,
        "number": len(orders),
        "of": found.count(),
        "orders": [
            {
                "order": w.order,
                "finished_on": w.finished_on.isoformat(),
                "quantity": float(w.quantity),
                "run_minutes": float(w.run_minutes),
                "setup_minutes": None if w.setup_minutes is None else float(w.setup_minutes),
                "each": each,
            }
            for w, each in zip(orders, measured.each, strict=True)
        ],
    }


def _minutes(value: float) -> str:
    return f"{round(Decimal(value), 4).normalize():f}"


def _key(text: str) -> str:
    try:
        return str(UUID(text))
    except ValueError:
        raise MissingError("This operation is no longer there.") from None
