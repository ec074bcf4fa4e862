"""Lists that are read off sheets, over HTTP: where used, matrix, times, replacement, tables and files."""

from datetime import date
from typing import Any, Literal

import orjson
from definition.models.parts import Workspace
from django.http import HttpRequest, HttpResponse
from formats.answers import WORKBOOK, file_answer
from formats.flat import Column, list_csv, list_workbook
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from loading.reads import part_named
from loading.times import product_times
from ninja import Query, Router, Schema
from readings.matrix import Build, matrix
from readings.replacing import read_ratio, replacement
from readings.sheet_view import sheet_head
from readings.where_used import where_used
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from verbs.sheets.replace_part import replace_part

from api.of_records import table_of
from api.sheets import OptionOut, SheetHead, the_sheet
from api.words import PartKindWord, StatusWord

__all__ = ["router"]

router = Router(tags=["sheets"])
#: Of a list that leaves as a file.
MOST_CELLS = 500_000


class UserPart(Schema):
    """A part on the way up. ``taken``: how much of the part asked about stands in one of it, at its costing lot."""

    number: str
    description: str
    unit: str
    sheet: int | None
    revision: str
    taken: float
    levels: int
    top: bool


class Use(Schema):
    """A line that takes a part; ``user`` and ``takes`` are indexes into the parts, quantities with losses."""

    line: str
    user: int
    takes: int
    item: int | None
    quantity: float
    by_product: bool


class UserParts(table_of(UserPart)):  # type: ignore[misc]
    """Parts on the way up, as columns."""


class UseTable(table_of(Use)):  # type: ignore[misc]
    """Lines that take parts, as columns."""


class WhereUsed(Schema):
    as_of: str
    currency: str
    options: list[OptionOut]
    description: str
    part: int
    # Whether the lines of every level are there, or only those that take the part itself.
    whole: bool
    unit: str
    parts: UserParts
    uses: UseTable


class BuildIn(Schema):
    """So many of a part with some options; no quantity only asks what one of it takes."""

    part: str
    options: list[str] = []
    quantity: str = ""


class MatrixIn(Schema):
    builds: list[BuildIn]
    day: str = ""
    drafts: bool = False
    stock: bool = True


class BuildOut(Schema):
    part: str
    description: str
    options: list[str]
    quantity: str | None
    known: list[OptionOut]


class MatrixRow(Schema):
    part: str
    description: str
    kind: PartKindWord
    unit: str
    unit_cost: float | None
    each: list[float]
    needs: list[float]
    total: float
    supplier: str
    supplier_link: str
    size_mm: str
    lead_time_days: int
    on_hand: float
    spoken_for: float
    on_order: float
    order: float


class MatrixOut(Schema):
    """``stock``: whether what is on hand and on order was counted."""

    builds: list[BuildOut]
    rows: list[MatrixRow]
    stock: bool
    currency: str
    as_of: str


class ReplacementRow(Schema):
    """A sheet that takes the old part; costs are of one unit at standard lots, none where it is not the one in force."""

    sheet: int
    version: int
    part: str
    description: str
    revision: str
    status: StatusWord
    items: list[int]
    lines: int
    before: float | None
    after: float | None
    stops: str


class Replacement(Schema):
    rows: list[ReplacementRow]
    currency: str


class ReplaceIn(Schema):
    """``sheets`` maps the chosen sheets to the versions they were looked at in; for so many that go, so many come."""

    old: str
    new: str
    sheets: dict[int, int]
    reason: str
    goes: str = "1"
    comes: str = "1"


class TableColumn(Schema):
    title: str
    number: bool = False
    total: bool = False


class TableIn(Schema):
    """A list as it stands on a screen."""

    title: str
    columns: list[TableColumn]
    rows: list[list[str | float | None]]


class TimeStep(Schema):
    """An operation in time; moments are the shop's clock, ISO 8601. ``chain``: it sets the whole."""

    part: str
    description: str
    sequence: int
    name: str
    where: str
    start: str
    end: str
    work_minutes: float
    queue_minutes: float
    wait_minutes: float
    move_minutes: float
    outside: bool
    chain: bool


class TimeOrder(Schema):
    """What is bought, and the day by which, none where what is there covers it; ``late`` when that day is past.

    ``taken`` is what the job takes and ``quantity`` what is to be ordered of it, none for standard lots; ``free`` is on hand and not
    spoken for, ``on_order`` is due in time.
    """

    part: str
    description: str
    order_by: str | None
    needed: str
    lead_days: int
    taken: float | None
    free: float
    on_order: float
    quantity: float | None
    unit: str
    chain: bool
    late: bool


class Times(Schema):
    """One lot of a product in time, backward from ``wanted`` or forward from the day of the basis.

    ``stock``: whether what is on hand and on order was counted; for standard lots it never is.
    """

    wanted: str | None
    stock: bool
    today: str
    start: str
    end: str
    lead_days: float
    steps: list[TimeStep]
    orders: list[TimeOrder]


@router.get("/where-used", response=WhereUsed)
@long_work
def read_where_used(request: HttpRequest, part: str, basis: Query[BasisIn]) -> HttpResponse:
    """Where a part is used, directly and on all levels."""
    found = where_used(part_named(part), read_basis(basis))
    return HttpResponse(orjson.dumps(found, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json")


@router.post("/matrix", response=MatrixOut)
@long_work
def read_matrix(request: HttpRequest, payload: MatrixIn) -> HttpResponse:
    """Products across, parts down, with the order for all builds. Saves nothing."""
    builds, basis = [], read_basis(BasisIn(day=payload.day, drafts=payload.drafts))
    for index, build in enumerate(payload.builds):
        try:
            held = read_basis(BasisIn(quantity=build.quantity, options=",".join(build.options)))
        except ProblemsError as error:
            raise ProblemsError([Problem(f"builds[{index}].{p.place}", p.message) for p in error.problems]) from None
        builds.append(Build(build.part, held.options, held.quantity))
    found = matrix(builds, basis.as_of, basis.drafts, payload.stock)
    return HttpResponse(orjson.dumps(found), content_type="application/json")


@router.get("/replacement", response=Replacement)
@long_work
def read_replacement(request: HttpRequest, old: str, new: str, day: str = "", goes: str = "1", comes: str = "1") -> Any:
    """What exchanging one part for another would do. Saves nothing."""
    found = replacement(part_named(old), part_named(new), read_basis(BasisIn(day=day)).as_of, read_ratio(goes, comes))
    return found | {"currency": Workspace.the().currency}


@router.post("/replacement", response=list[SheetHead])
def replace(request: HttpRequest, payload: ReplaceIn) -> Any:
    """Exchange one part for another on the chosen sheets; answers with the drafts that hold it now."""
    drafts = replace_part(request.user, payload.old, payload.new, payload.sheets, payload.reason, read_ratio(payload.goes, payload.comes))
    return [sheet_head(the_sheet(draft.pk)) for draft in drafts]


@router.post("/table/{shape}")
@long_work
def write_table(request: HttpRequest, shape: Literal["xlsx", "csv"], payload: TableIn) -> HttpResponse:
    """A list as it stands on a screen, as a file. Saves nothing."""
    columns = [Column(c.title, c.number, c.total) for c in payload.columns]
    if not columns or len(columns) > 200 or len(columns) * len(payload.rows) > MOST_CELLS:
        raise TallyError(f"A list leaves with 1 to 200 columns and at most {MOST_CELLS:,} cells; hide columns or find fewer rows.")
    if any(len(row) != len(columns) for row in payload.rows):
        raise TallyError("Every row of a list has a cell for each of its columns.")
    if shape == "csv":
        return file_answer(list_csv(columns, payload.rows).encode("utf-8-sig"), "text/csv; charset=utf-8", payload.title, shape)
    return file_answer(list_workbook(payload.title, columns, payload.rows), WORKBOOK, payload.title, shape)


@router.get("/{sheet_id}/times", response=Times)
@long_work
def read_times(request: HttpRequest, sheet_id: int, basis: Query[BasisIn], wanted: str = "", stock: bool = True) -> Any:
    """When operations and purchases happen."""
    held = read_basis(basis)
    try:
        day = date.fromisoformat(wanted) if wanted else None
    except ValueError:
        raise ProblemsError([Problem("wanted", "a day like 2026-01-31 is needed")]) from None
    return product_times(the_sheet(sheet_id), held, day, stock)
