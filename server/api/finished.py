"""Finished orders over HTTP, and the times measured on them."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from accounts.access import require
from definition.models.sheets import Operation
from definition.models.work_centers import FinishedWork
from django.http import HttpRequest
from formats.apart import read_tables
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError, TallyError
from tally_core.time.measured import measured_run
from verbs.work_centers.take_finished_work import take_finished_work

router = Router(tags=["finished orders"])

MOST_ORDERS = 200


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
    """The mean of the last orders, their spread (standard deviation) and number, and the orders; nothing measured: none."""

    run_minutes: str | None
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


@router.get("/measured", response=MeasuredOut)
def read_measured(request: HttpRequest, operation: str, last: int = 10) -> Any:
    """What the last finished orders took at an operation, counted as the operation counts its run time."""
    if not 1 <= last <= MOST_ORDERS:
        raise TallyError(f"The mean is taken of the last 1 to {MOST_ORDERS} orders.")
    row = Operation.objects.select_related("sheet", "work_center").filter(pk=_key(operation)).first()
    if row is None:
        raise MissingError("This operation is no longer there.")
    found = FinishedWork.objects.filter(part_id=row.sheet.part_id, sequence=row.sequence)
    orders = list(found[:last])
    efficiency = float(row.work_center.efficiency_percent) if row.work_center else 100.0
    if not orders or row.outside:
        return {"run_minutes": None, "spread": None, "number": 0, "of": 0, "orders": []}
    cycle = float(row.cycle_quantity) if row.cycle_quantity is not None else None
    measured = measured_run(
        [(float(w.run_minutes), float(w.quantity)) for w in orders], row.run_basis, cycle, efficiency
    )
    return {
        "run_minutes": f"{round(Decimal(measured.run_minutes), 4).normalize():f}",
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


def _key(text: str) -> str:

    try:
        return str(UUID(text))
    except ValueError:
        raise MissingError("This operation is no longer there.") from None
