"""Numbers of the shop over HTTP: figures by week and part, what stock is worth, a day reported at once."""

from decimal import Decimal
from typing import Any, Literal
from uuid import UUID

from definition.models.parts import Workspace
from django.http import HttpRequest, HttpResponse
from django.utils.timezone import localdate
from formats.answers import CSV, WORKBOOK, file_answer
from jobs.long_work import long_work
from ninja import Router, Schema
from shop.actions.flush_components import flush_components
from shop.actions.report_day import DayRow, report_day
from shop.actions.report_work import Report
from shop.actions.value_stock_at import value_stock_at
from shop.figures import shop_figures
from shop.reads import whats_here
from shop.stock_value import moves_file, stock_worth
from shop.taken_with import taken_with
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated.reading import RecordReader

from api.parts import Count
from api.shop import WorkOrderOut, typed_day, whole_order
from api.shop_reports import MoreTaken, TaskTakes

__all__ = ["router"]

router = Router(tags=["shop"])


class CenterFigures(Schema):
    """Hours and utilisation by week; ``scrap_ratio`` over all of them."""

    code: str
    name: str
    hours: list[float]
    utilisation: list[float | None]
    good: float
    scrapped: float
    scrap_ratio: float | None


class EndedOrder(Schema):
    id: int
    number: str


class PartOutcome(Schema):
    """Orders of a part that were closed; ``first_pass`` over all their operations."""

    part: str
    description: str
    orders: list[EndedOrder]
    good: float
    scrap_ratio: float | None
    first_pass: float | None
    expected: str
    actual: str


class FiguresOut(Schema):
    weeks: list[str]
    centers: list[CenterFigures]
    parts: list[PartOutcome]


class WorthRow(Schema):
    """What is there of a part at the end of a day; ``mean``: of one."""

    part: str
    description: str
    kind: str
    part_class: str
    unit: str
    quantity: str
    value: str
    mean: str | None


class WorthOut(Schema):
    """``stock_at``: whether stock stands at its mean cost or at its standard."""

    day: str
    total: str
    stock_at: Literal["mean", "standard"]
    rows: list[WorthRow]


class StockAtIn(Schema):
    at: str


class DayRowIn(Schema):
    """What was done at an operation; ``taken``: what was really taken, where that is not what the list says."""

    order: str
    sequence: int
    good: str = "0"
    scrapped: str = "0"
    setup_minutes: str = "0"
    run_minutes: str = "0"
    reason: str = ""
    done_by: str = ""
    taken: list[MoreTaken] = []


class DayIn(Schema):
    """``key``: the same for the same list, however often it is sent."""

    key: UUID
    rows: list[DayRowIn]


class HereOut(Schema):
    """An operation at which something can be reported; ``here``: its units not reported yet."""

    order: str
    part: str
    description: str
    unit: str
    sequence: int
    name: str
    where: str
    here: str
    setup_minutes: str
    run_minutes: str


class FlushRow(Schema):
    row: int
    backflush: bool


@router.get("/figures", response=FiguresOut)
def read_figures(request: HttpRequest) -> Any:
    """Utilisation, scrap and yield of the last weeks, and what orders came to."""
    return shop_figures()


@router.get("/stock", response=WorthOut)
def read_worth(request: HttpRequest, day: str = "") -> Any:
    """What stock was worth at the end of a day; today without one."""
    return stock_worth(typed_day(day, "day") or localdate()) | {"stock_at": Workspace.the().stock_at}


@router.post("/stock/at", response=WorthOut)
def keep_stock_at(request: HttpRequest, payload: StockAtIn) -> Any:
    """Say whether stock stands at its mean cost or at its standard."""
    held = value_stock_at(request.user, payload.at)
    return stock_worth(localdate()) | {"stock_at": held.stock_at}


@router.get("/stock/moves/{shape}")
@long_work
def read_moves(request: HttpRequest, shape: Literal["csv", "xlsx"], first: str, last: str) -> HttpResponse:
    """The moves of stock of some days, with what they were worth, as CSV or workbook."""
    since, until = typed_day(first, "first"), typed_day(last, "last")
    if since is None or until is None:
        raise ProblemsError([Problem("first", "say from which day to which")])
    return file_answer(moves_file(since, until, shape), CSV if shape == "csv" else WORKBOOK, f"stock {since} {until}", shape)


@router.get("/day", response=list[HereOut])
def read_here(request: HttpRequest) -> Any:
    """Every operation at which something can be reported just now."""
    return whats_here()


@router.get("/day/takes", response=list[TaskTakes])
def read_takes(request: HttpRequest, order: str, sequence: int, units: str) -> Any:
    """What units that are to be reported take."""
    reader = RecordReader()
    much = reader.decimal(units, "units")
    if much is None or not 0 <= much < Decimal("1e9"):
        raise ProblemsError(reader.problems or [Problem("units", "a number from 0")])
    return taken_with(order.strip().upper(), sequence, much)


@router.post("/day", response=Count)
def keep_day(request: HttpRequest, payload: DayIn) -> Any:
    """Report many operations at once, all of them or none."""
    rows = [
        DayRow(
            r.order,
            Report(r.sequence, r.good, r.scrapped, r.setup_minutes, r.run_minutes, r.reason, taken=[(t.row, t.quantity) for t in r.taken]),
            r.done_by,
        )
        for r in payload.rows
    ]
    return {"count": len(report_day(request.user, payload.key, rows))}


@router.put("/orders/{order_id}/backflush", response=WorkOrderOut)
def keep_backflush(request: HttpRequest, order_id: int, payload: list[FlushRow]) -> Any:
    """Say which components are taken with what is reported, and which the store issues."""
    flush_components(request.user, order_id, {r.row: r.backflush for r in payload})
    return whole_order(order_id)
