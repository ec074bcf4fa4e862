"""Requests for quotation over HTTP."""

from dataclasses import asdict
from typing import Any

from accounts.access import require
from buying.actions.ask_for_quotation import ask_for_quotation, remind, send_request, take_answer
from buying.models import Request
from buying.requests import request_row, request_ubl, request_workbook
from django.http import HttpRequest, HttpResponse
from formats.apart import read_tables
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError

from api.price_lists import OfferListOut

__all__ = ["router"]

router = Router(tags=["requests"])


class RequestLineOut(Schema):
    part: str
    description: str
    quantity: str
    unit: str


class RequestWhyNot(Schema):
    """For each action why it cannot be done with a request as it stands, in words; null where it can."""

    send: str | None
    remind: str | None
    answer: str | None


class RequestOut(Schema):
    """A request; ``words``: the mail, ``late``: days since an answer was wanted."""

    id: int
    number: str
    supplier: str
    plan: int | None
    state: str
    wanted_by: str | None
    words: str
    mail_to: str
    made_by: str
    sent_by: str
    sent_at: str | None
    reminders: int
    reminded_at: str | None
    answered_at: str | None
    late: int
    version: int
    lines: list[RequestLineOut]
    why_not: RequestWhyNot


class AskSuppliersIn(Schema):
    """Which needs of a plan, by part number; whom, by code."""

    parts: list[str]
    suppliers: list[str]
    wanted_by: str | None = None


class SendRequestIn(Schema):
    version: int
    words: str
    mail_to: str


class RequestVersion(Schema):
    version: int


def _rows(plan: int | None) -> list[dict[str, Any]]:
    requests = Request.objects.select_related("plan").prefetch_related("lines__part")
    if plan is not None:
        requests = requests.filter(plan=plan)
    return [request_row(r) for r in requests[:500]]


def _one(request: Request) -> dict[str, Any]:
    return request_row(Request.objects.prefetch_related("lines__part").get(pk=request.pk))


@router.get("", response=list[RequestOut])
def list_requests(request: HttpRequest, plan: int | None = None) -> Any:
    """Requests, the newest first, or those of a plan. Three queries."""
    return _rows(plan)


@router.post("/of-plan/{plan_id}", response=list[RequestOut])
def ask(request: HttpRequest, plan_id: int, payload: AskSuppliersIn) -> Any:
    """A draft to each supplier; nothing leaves yet."""
    made = ask_for_quotation(request.user, plan_id, payload.parts, payload.suppliers, payload.wanted_by)
    return [_one(one) for one in made]


@router.post("/{request_id}/send", response=RequestOut)
def send(request: HttpRequest, request_id: int, payload: SendRequestIn) -> Any:
    """Send it in the words that were looked at, with the workbook to fill in."""
    return _one(send_request(request.user, request_id, payload.version, payload.words, payload.mail_to))


@router.post("/{request_id}/remind", response=RequestOut)
def remind_of(request: HttpRequest, request_id: int, payload: RequestVersion) -> Any:
    """Remind of it."""
    return _one(remind(request.user, request_id, payload.version))


@router.post("/{request_id}/answer", response=OfferListOut)
def answer(request: HttpRequest, request_id: int, anyway: bool = False, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """The workbook that came back: its rows become offers."""
    require(request.user, "buying")
    tables = read_tables(file.name or "answer", file.read())
    return asdict(take_answer(request.user, request_id, tables[0].rows if tables else [], anyway))


@router.get("/{request_id}/workbook.xlsx")
def workbook(request: HttpRequest, request_id: int) -> HttpResponse:
    """The workbook to fill in."""
    row = Request.objects.filter(pk=request_id).first()
    if row is None:
        raise MissingError("This request is no longer there.")
    made = HttpResponse(request_workbook(row), content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")
    made["Content-Disposition"] = f'attachment; filename="{row.number}.xlsx"'
    return made


@router.get("/{request_id}/request.xml")
def ubl_document(request: HttpRequest, request_id: int) -> HttpResponse:
    """The request as a UBL 2.1 document."""
    row = Request.objects.filter(pk=request_id).first()
    if row is None:
        raise MissingError("This request is no longer there.")
    made = HttpResponse(request_ubl(row), content_type="application/xml")
    made["Content-Disposition"] = f'attachment; filename="{row.number}.xml"'
    return made
