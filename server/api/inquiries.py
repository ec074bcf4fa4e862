"""Inquiries over HTTP: the list of them, their heads, files, builds and layouts."""

from typing import Any
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest
from formats.cells import rows_of_json
from inquiries.actions.add_file import KIND, PAIR, add_file, drop_file, map_columns, pair_again, read_again, take_as_list
from inquiries.actions.ask_data import KIND as DATA
from inquiries.actions.ask_data import ask_data
from inquiries.actions.forget_pair import forget_pair
from inquiries.actions.open_inquiry import change_inquiry, open_inquiry
from inquiries.actions.set_builds import set_builds
from inquiries.board import boards_of
from inquiries.models import Inquiry, InquiryFile
from inquiries.origins import origins_of
from inquiries.reads import builds_of, counts_of, files_of, head, pairs_of, products_of, questions_mail
from jobs.models import Job
from jobs.work import JobState, job_state
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError
from tally_core.lists.cells import text_of

from api.jobs import JobOut, job_out

router = Router(tags=["inquiries"])

_SHOWN = 60


class InquiryRow(Schema):
    """An inquiry with how far it is: lines, decided ones, and those that stop."""

    id: int
    number: str
    title: str
    customer: str
    customer_code: str
    their_reference: str
    wanted_by: str | None
    state: str
    held_by: str
    note: str
    opened_by: str
    opened_at: str
    version: int
    stamp: int
    lines: int
    decided: int
    stops: int


class InquiryFileOut(Schema):
    """A file; ``maps`` says of each of its sheets where its column map comes from, ``bill`` whether a layout carries one, ``taken``
    what the list that it replaced had and it has no more. ``failed`` is why it was not read."""

    id: int
    name: str
    role: str
    replaced_by: int | None
    lines: int
    places: bool
    bill: bool
    taken: list[str]
    maps: dict[str, str]
    troubles: list[str]
    added_by: str
    added_at: str
    job: JobOut | None
    failed: str


class InquiryBuildOut(Schema):
    id: int
    line: int
    product: str
    quantity: str
    wanted_by: str | None


class InquiryProduct(Schema):
    sheet: int
    part: str
    revision: str
    status: str
    top: bool


class InquiryOut(InquiryRow):
    """An inquiry whole, but for its lines. ``data`` is why parts data could not be asked, None where there is no such service."""

    files: list[InquiryFileOut]
    builds: list[InquiryBuildOut]
    products: list[InquiryProduct]
    job: JobOut | None
    data: str | None
    questions: int


class InquiryIn(Schema):
    """The fields of a head; what is left out stays. ``version`` is the one it was changed from."""

    title: str | None = None
    customer: str | None = None
    their_reference: str | None = None
    wanted_by: str | None = None
    state: str | None = None
    held_by: str | None = None
    note: str | None = None
    version: int | None = None
    # Of whoever opens one; with the same one a second time no second inquiry is opened.
    key: UUID | None = None


class ColumnMapIn(Schema):
    """How a list is read: its row of titles from 0 (-1: none), field → [column, place in it], and decimal commas."""

    sheet: str = ""
    header: int
    columns: dict[str, list[int]]
    commas: dict[str, bool] = {}


class InquiryBuildIn(Schema):
    line: int
    quantity: str
    wanted_by: str | None = None


class GridOut(Schema):
    """A sheet of a file as it stands, its first rows, and how it is read."""

    sheet: str
    count: int
    rows: list[list[str]]
    map: dict[str, Any] | None


class PairOut(Schema):
    """A sender's number, our part that it was paired with, and what the line said then."""

    id: int
    number: str
    part: str
    described: str
    by: str
    at: str


class InquiryNamed(Schema):
    id: int
    number: str
    title: str


class LineOrigin(Schema):
    """The row of a list that a line of a sheet came from."""

    inquiry: int
    number: str
    file: str
    row: int
    line: int


class SheetOrigins(Schema):
    """The inquiries that became a sheet, and line → row of a list."""

    inquiries: list[InquiryNamed]
    lines: dict[str, LineOrigin]


class PlaceOut(Schema):
    designator: str
    package: str
    x: float
    y: float
    rotation: float
    side: str
    fitted: bool
    line: int | None


class BoardOut(Schema):
    """What a board is of, its components in millimetres, the extent (least x and y, greatest x and y) of the board or else of their
    centers, its outline, and the box around each package."""

    name: str
    places: list[PlaceOut]
    extent: list[float]
    outline: list[list[float]]
    packages: dict[str, list[float]]


def the_inquiry(inquiry_id: int) -> Inquiry:
    """An inquiry to look at. Raises MissingError."""
    inquiry = Inquiry.objects.select_related("customer").filter(pk=inquiry_id).first()
    if inquiry is None:
        raise MissingError("This inquiry is no longer there.")
    return inquiry


def whole(inquiry_id: int) -> dict[str, Any]:
    """An inquiry with its files, builds, products and work under way. Raises MissingError."""
    inquiry = the_inquiry(inquiry_id)
    files = files_of(inquiry)
    jobs: dict[int, Job] = {}
    for job in Job.objects.filter(kind=KIND, about__in=[f["id"] for f in files]).order_by("id"):
        jobs[job.about] = job
    for file in files:
        state = job_state(jobs.get(file["id"])) if file["role"] == "unread" or file["id"] in jobs else JobState()
        file["job"], file["failed"] = job_out(state), state.failed if file["role"] == "unread" else ""
    last = {j.kind: j for j in Job.objects.filter(kind__in=(PAIR, DATA), about=inquiry.pk).order_by("id")}
    pairing, asking = (job_state(last.get(kind)) for kind in (PAIR, DATA))
    return head(inquiry, counts_of([inquiry])[inquiry.pk]) | {
        "files": files,
        "builds": builds_of(inquiry),
        "products": products_of(inquiry),
        "job": next((f["job"] for f in files if f["job"]), job_out(pairing) or job_out(asking)),
        "data": asking.failed if settings.PARTS_DATA else None,
        "questions": questions_mail(inquiry)["count"],
    }


@router.get("", response=list[InquiryRow])
def list_inquiries(request: HttpRequest, closed: bool = False) -> Any:
    """All inquiries by the day an answer is wanted; those that are closed only when asked for."""
    rows = Inquiry.objects.select_related("customer").order_by("wanted_by", "number")
    if not closed:
        rows = rows.exclude(state__in=("won", "lost", "dropped"))
    inquiries = list(rows)
    counts = counts_of(inquiries)
    return [head(i, counts[i.pk]) for i in inquiries]


@router.post("", response=InquiryOut)
def open_one(request: HttpRequest, payload: InquiryIn) -> Any:
    """Open an inquiry."""
    fields = payload.dict(exclude_unset=True, exclude={"version", "state", "key"})
    return whole(open_inquiry(request.user, fields, payload.key).pk)


@router.get("/origins/{sheet_id}", response=SheetOrigins)
def origins(request: HttpRequest, sheet_id: int) -> Any:
    """Where a sheet and its lines came from."""
    return origins_of(sheet_id)


@router.get("/pairs", response=list[PairOut])
def pairs(request: HttpRequest, sender: str) -> Any:
    """What is remembered of a sender, by its code."""
    return pairs_of(sender)


@router.post("/pairs/{pair_id}/forget")
def forget(request: HttpRequest, pair_id: int) -> dict[str, bool]:
    """Forget a pair."""
    forget_pair(request.user, pair_id)
    return {"forgotten": True}


@router.get("/{inquiry_id}", response=InquiryOut)
def read_one(request: HttpRequest, inquiry_id: int) -> Any:
    """One inquiry."""
    return whole(inquiry_id)


@router.patch("/{inquiry_id}", response=InquiryOut)
def change_one(request: HttpRequest, inquiry_id: int, payload: InquiryIn) -> Any:
    """Change what stands at its head."""
    fields = payload.dict(exclude_unset=True, exclude={"version", "key"})
    change_inquiry(request.user, inquiry_id, payload.version, fields)
    return whole(inquiry_id)


@router.put("/{inquiry_id}/builds", response=InquiryOut)
def builds(request: HttpRequest, inquiry_id: int, payload: list[InquiryBuildIn]) -> Any:
    """Say how many of what are wanted, in place of what stood there."""
    set_builds(request.user, inquiry_id, [b.dict() for b in payload])
    return whole(inquiry_id)


@router.post("/{inquiry_id}/files", response=InquiryOut)
def bring_file(request: HttpRequest, inquiry_id: int, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Bring a file; the worker reads it."""
    add_file(request.user, inquiry_id, file.name or "file", file.read())
    return whole(inquiry_id)


@router.post("/{inquiry_id}/files/{file_id}/again", response=InquiryOut)
def file_again(request: HttpRequest, inquiry_id: int, file_id: int) -> Any:
    """Have a file read once more."""
    read_again(request.user, inquiry_id, file_id)
    return whole(inquiry_id)


@router.post("/{inquiry_id}/files/{file_id}/drop", response=InquiryOut)
def file_drop(request: HttpRequest, inquiry_id: int, file_id: int) -> Any:
    """Take a file away, with its lines."""
    drop_file(request.user, inquiry_id, file_id)
    return whole(inquiry_id)


@router.post("/{inquiry_id}/files/{file_id}/bill", response=InquiryOut)
def file_bill(request: HttpRequest, inquiry_id: int, file_id: int, on: bool = True) -> Any:
    """Take the bill that a layout carries as a list, or no longer."""
    take_as_list(request.user, inquiry_id, file_id, on)
    return whole(inquiry_id)


@router.get("/{inquiry_id}/files/{file_id}/grid", response=list[GridOut])
def file_grid(request: HttpRequest, inquiry_id: int, file_id: int) -> Any:
    """A file as it stands, and how it is read."""
    file = InquiryFile.objects.filter(pk=file_id, inquiry=inquiry_id).first()
    if file is None:
        raise MissingError("This file is no longer there.")
    maps = file.column_map or {}
    tables = [t for t in file.grid if "rows" in t]
    names = [str(t["name"] or "") if len(file.grid) > 1 else "" for t in tables]
    return [
        GridOut(
            sheet=name,
            count=len(t["rows"]),
            rows=[[text_of(c) for c in row] for row in rows_of_json(t["rows"][:_SHOWN])],
            map=maps.get(name),
        )
        for name, t in zip(names, tables, strict=True)
    ]


@router.put("/{inquiry_id}/files/{file_id}/map", response=InquiryOut)
def file_map(request: HttpRequest, inquiry_id: int, file_id: int, payload: ColumnMapIn) -> Any:
    """Say how a list is read; later lists of this sender with the same titles are read so too."""
    map_columns(request.user, inquiry_id, file_id, payload.sheet, payload.header, payload.columns, payload.commas)
    return whole(inquiry_id)


@router.post("/{inquiry_id}/pair", response=InquiryOut)
def pair_once_more(request: HttpRequest, inquiry_id: int) -> Any:
    """Have all lines held against our parts as they are now."""
    pair_again(request.user, inquiry_id)
    return whole(inquiry_id)


@router.post("/{inquiry_id}/data", response=InquiryOut)
def data(request: HttpRequest, inquiry_id: int) -> Any:
    """Have the parts-data service asked for what is not known yet."""
    ask_data(request.user, inquiry_id)
    return whole(inquiry_id)


@router.get("/{inquiry_id}/boards", response=list[BoardOut])
def boards(request: HttpRequest, inquiry_id: int) -> Any:
    """Where the layouts have each component, board by board."""
    return boards_of(the_inquiry(inquiry_id))
