"""Build sheets over HTTP."""

from datetime import date
from typing import Any, Literal
from uuid import UUID

import orjson
from definition.models.parts import Workspace
from definition.models.sheets import BuildSheet, Option
from django.http import HttpRequest, HttpResponse
from formats.answers import CSV, PDF, WORKBOOK, file_answer
from formats.flat import Column, list_csv, list_workbook
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from loading.reads import load_product, part_named
from loading.times import product_times
from ninja import Query, Router, Schema
from readings.after_edit import changed_by_edit
from readings.comparison import compare, sheet_in_force
from readings.cost_list import cost_list_csv, cost_list_pdf, cost_list_workbook, listed
from readings.export_bundle import export_bundle
from readings.history import sheet_history
from readings.matrix import Build, matrix
from readings.paste import read_paste
from readings.replacing import replacement
from readings.sheet_view import counting_sheet, revisions_of, sheet_head, sheet_view
from readings.where_used import where_used
from tally_core.answers import Basis
from tally_core.errors import MissingError, Problem, ProblemsError, TallyError
from verbs.sheets.date_revision import date_revision
from verbs.sheets.drop_draft import drop_draft
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet
from verbs.sheets.release_revision import release_revision
from verbs.sheets.replace_part import replace_part
from verbs.sheets.retire_revision import retire_revision
from verbs.sheets.save_option import save_option

router = Router(tags=["sheets"])

#: Cells of a list that leaves as a file: some seconds of work.
MOST_CELLS = 500_000


class SheetHead(Schema):
    """One version of how a part is built. Days are ISO 8601; ``effective_to`` is the first day not in force."""

    id: int
    part: str
    description: str
    alternate: str
    revision: str
    status: str
    effective_from: str | None
    effective_to: str | None
    batch: str
    reference: str
    default: bool
    version: int
    changed_by: str
    changed_at: str


class ListedSheet(SheetHead):
    """``counts``: whether it is the one that counts on the day asked for."""

    counts: bool


class BasisOut(Schema):
    lots: str
    quantity: str | None
    as_of: str
    options: list[str]
    drafts: bool
    prices: str = "inputs"
    what_if: list[list[str]] = []


class StandardCost(Schema):
    """The standard cost of a part on the day of the basis."""

    unit: float
    first_day: str
    round: int
    name: str


class OptionOut(Schema):
    """What a customer may choose; ``not_with`` are the codes that cannot be chosen with it."""

    code: str
    name: str
    not_with: list[str]


class PartRow(Schema):
    """A part met under the sheet; figures per stock unit. Without figures when the basis has no answer."""

    id: int
    number: str
    description: str
    kind: str
    unit: str
    unit_cost: str | None
    # A cost or a markup given by hand and why, in words; empty when none is.
    given: str
    lifecycle: str
    part_class: str
    material: str
    supplier: str
    supplier_number: str
    buying_unit: str | None
    lead_time_days: int
    sheet: int | None
    cost: float | None = None
    elements: list[float] | None = None
    this_level: float | None = None
    lot: float | None = None
    # All paths together: what the job takes of it, or at standard lots what one unit takes on average.
    need: float | None = None
    # Of one lot: its own routing when all it takes is there, and all of it from the first order on (rule T4).
    routing_days: float | None = None
    lead_days: float | None = None


class LineRow(Schema):
    """A line; ``parent`` and ``child`` are indexes into the parts. Figures per unit of the parent; none when the
    line does not count under the basis."""

    id: str
    parent: int
    child: int
    position: float
    item: int | None
    item_locked: bool
    kind: str
    quantity: str | None
    unit: str
    quantity_basis: str
    scrap_percent: str | None
    yield_percent: str | None
    fixed_loss: str
    operation: str | None
    option: str | None
    option_action: str
    customer_supplied: bool
    not_fitted: bool
    reference_designators: list[str]
    effective_from: str | None
    effective_to: str | None
    text: str
    kept_off: list[str]
    net: float | None = None
    gross: float | None = None
    cost: float | None = None
    elements: list[float] | None = None


class SubcontractRow(Schema):
    supplier: str
    unit_price: str
    minimum_charge: str
    lead_days: int


class OperationRow(Schema):
    """An operation; cost and hours per good unit of the part in row ``parent``."""

    id: str
    parent: int
    sequence: int
    name: str
    work_center: str | None
    work_center_name: str | None
    setup_minutes: str
    run_minutes: str
    run_basis: str
    cycle_quantity: str | None
    crew: str
    setup_crew: str
    piece_rate: str | None
    yield_percent: str
    queue_minutes: str
    wait_minutes: str
    move_minutes: str
    after: list[int]
    stations: int
    transfer_quantity: str | None
    instructions: str
    files: list[int]
    run_from_orders: int | None
    # The entry of the library it follows, the version it was taken from, and the version that entry has now.
    standard: str | None
    standard_version: int | None
    standard_now: int | None
    subcontract: SubcontractRow | None
    cost: float | None = None
    elements: list[float] | None = None
    hours: float | None = None
    # Minutes of the lot.
    lot_setup: float | None = None
    lot_run: float | None = None
    lot_elapsed: float | None = None


class SheetView(Schema):
    """A sheet with everything below it, each sheet once; the screen opens lines in place by following ``child``."""

    sheet: SheetHead
    currency: str
    basis: BasisOut
    # The state of the product that an edit goes on from; none where there are no figures.
    stamp: str | None
    top: int
    problem: str | None
    missing: list[str]
    # Of the part itself: what it stands at, and what it sells for.
    standard: StandardCost | None
    selling_price: str | None
    options: list[OptionOut]
    elements: list[str]
    parts: list[PartRow]
    lines: list[LineRow]
    operations: list[OperationRow]


class Change(Schema):
    """One change. No ``before`` makes the row ``id``, no ``after`` removes it, both change the named fields."""

    table: Literal["line", "operation", "sheet"]
    id: UUID | None = None
    before: dict[str, Any] | None = None
    after: dict[str, Any] | None = None


class Edit(Schema):
    """Changes made from ``version`` of a sheet; ``stamp`` is that of the view they were made on."""

    version: int
    changes: list[Change]
    reason: str = ""
    stamp: str | None = None


class ChangedParts(Schema):
    """Parts by their row in the view; figures: cost, cost of this level, lot, need, routing and lead days, then
    the cost by element."""

    rows: list[int]
    figures: list[list[float]]


class ChangedLines(Schema):
    """Lines by key, without hyphens; figures: net, gross, cost, then the cost by element, all null where the line does
    not count."""

    keys: list[str]
    figures: list[list[float | None]]


class ChangedOperations(Schema):
    """Operations by key, without hyphens; figures: cost, hours, set-up, run and elapsed minutes of the lot, then the
    cost by element."""

    keys: list[str]
    figures: list[list[float]]


class EditFigures(Schema):
    """What an edit changed in a view: the sheet's own rows anew, of other rows the figures that are others now."""

    stamp: str
    missing: list[str]
    options: list[OptionOut]
    own_lines: list[LineRow]
    own_operations: list[OperationRow]
    parts: ChangedParts
    lines: ChangedLines
    operations: ChangedOperations


class Edited(SheetHead):
    """The sheet after an edit; ``made`` are the numbers of draft parts made on the way. Without ``figures`` the view
    has to be read again."""

    made: list[str]
    figures: EditFigures | None


class Opened(Schema):
    """What draft to open; ``copy_of`` is the sheet that a new alternate starts from."""

    part: str
    alternate: str = "A"
    reference: str = ""
    copy_of: int | None = None
    reason: str = ""


class Release(Schema):
    version: int
    first_day: date
    reason: str


class Dropped(Schema):
    version: int


class Retire(Schema):
    version: int
    reason: str


class Days(Schema):
    """Days in force; ``last_day`` is the first one that is not."""

    version: int
    first_day: date | None
    last_day: date | None
    reason: str


class HistoryChange(Schema):
    what: str
    field: str
    before: str
    after: str


class HistoryEntry(Schema):
    """One save: who, when, why, and every change of a field; ``more`` counts those left out."""

    by: str
    at: str
    reason: str
    changes: list[HistoryChange]
    more: int


class ComparedRow(Schema):
    key: str
    place: int | None
    name: str
    more: str
    cost: float | None


class ComparedField(Schema):
    name: str
    left: str | None
    right: str | None


class Compared(Schema):
    """A pair of rows; ``effect`` is what it adds to the cost of one unit from left to right."""

    table: str
    state: str
    left: ComparedRow | None
    right: ComparedRow | None
    fields: list[ComparedField]
    effect: float


class Comparison(Schema):
    left: SheetHead
    right: SheetHead
    left_basis: BasisOut
    right_basis: BasisOut
    currency: str
    unit: str
    options: list[OptionOut]
    left_cost: float | None
    right_cost: float | None
    left_problem: str
    right_problem: str
    rows: list[Compared]


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


class WhereUsed(Schema):
    as_of: str
    currency: str
    options: list[OptionOut]
    description: str
    part: int
    # Whether the lines of every level are there, or only those that take the part itself.
    whole: bool
    unit: str
    parts: list[UserPart]
    uses: list[Use]


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
    kind: str
    unit: str
    unit_cost: float | None
    each: list[float]
    needs: list[float]
    total: float
    on_hand: float
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
    status: str
    items: list[int]
    lines: int
    before: float | None
    after: float | None
    stops: str


class Replacement(Schema):
    rows: list[ReplacementRow]
    currency: str


class ReplaceIn(Schema):
    """``sheets`` maps the chosen sheets to the versions they were looked at in."""

    old: str
    new: str
    sheets: dict[int, int]
    reason: str


class PasteIn(Schema):
    text: str


class PastedRow(Schema):
    """A pasted row: the ``values`` of the line it would become, and what is to be seen about it."""

    row: int
    part: str
    known: bool
    becomes: str
    values: dict[str, Any]
    problems: list[str]
    looks: list[str]


class PasteOut(Schema):
    columns: list[str]
    rows: list[PastedRow]


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

    ``taken`` is what the job takes and ``quantity`` what is to be ordered of it, none for standard lots; ``on_order`` is due in
    time.
    """

    part: str
    description: str
    order_by: str | None
    needed: str
    lead_days: int
    taken: float | None
    on_hand: float
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


def _sheet(sheet_id: int) -> BuildSheet:
    sheet = BuildSheet.objects.select_related("part").filter(pk=sheet_id).first()
    if sheet is None:
        raise MissingError("This sheet is no longer there.")
    return sheet


@router.get("", response=list[ListedSheet])
def list_sheets(request: HttpRequest, part: str, day: str = "", drafts: bool = False) -> Any:
    """All sheets of a part, by alternate, the newest first; and which of them counts on a day."""
    basis = read_basis(BasisIn(day=day, drafts=drafts))
    sheets = revisions_of(part_named(part).id)
    counting = counting_sheet(sheets, basis.as_of, drafts)
    return [sheet_head(s) | {"counts": s.pk == counting} for s in sheets]


@router.get("/recent", response=list[SheetHead])
def list_recent(request: HttpRequest) -> Any:
    """The sheets changed last."""
    return [sheet_head(s) for s in BuildSheet.objects.select_related("part").order_by("-changed_at")[:60]]


@router.get("/options", response=list[OptionOut])
def list_options(request: HttpRequest) -> Any:
    """All options by code."""
    return [{"code": o.code, "name": o.name, "not_with": o.not_with} for o in Option.objects.all()]


@router.post("/options", response=OptionOut)
def keep_option(request: HttpRequest, payload: OptionOut) -> Any:
    """Make an option or change one."""
    option = save_option(request.user, payload.code, payload.name, payload.not_with)
    return {"code": option.code, "name": option.name, "not_with": option.not_with}


@router.post("", response=SheetHead)
def open_draft(request: HttpRequest, payload: Opened) -> Any:
    """The open draft of a part, made when there is none."""
    made = open_sheet(request.user, payload.part, payload.alternate, payload.reference, payload.copy_of, payload.reason)
    return sheet_head(_sheet(made.pk))


@router.get("/where-used", response=WhereUsed)
@long_work
def read_where_used(request: HttpRequest, part: str, basis: Query[BasisIn]) -> HttpResponse:
    """Where a part is used, directly and on all levels."""
    found = where_used(part_named(part), read_basis(basis))
    return HttpResponse(orjson.dumps(found), content_type="application/json")


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
def read_replacement(request: HttpRequest, old: str, new: str, day: str = "") -> Any:
    """What exchanging one part for another would do. Saves nothing."""
    found = replacement(part_named(old), part_named(new), read_basis(BasisIn(day=day)).as_of)
    return found | {"currency": Workspace.the().currency}


@router.post("/replacement", response=list[SheetHead])
def replace(request: HttpRequest, payload: ReplaceIn) -> Any:
    """Exchange one part for another on the chosen sheets; answers with the drafts that hold it now."""
    drafts = replace_part(request.user, payload.old, payload.new, payload.sheets, payload.reason)
    return [sheet_head(_sheet(draft.pk)) for draft in drafts]


@router.post("/table/{shape}")
@long_work
def write_table(request: HttpRequest, shape: Literal["xlsx", "csv"], payload: TableIn) -> HttpResponse:
    """A list as it stands on a screen, as a file. Saves nothing."""
    columns = [Column(c.title, c.number, c.total) for c in payload.columns]
    if not columns or len(columns) > 200 or len(columns) * len(payload.rows) > MOST_CELLS:
        raise TallyError(
            f"A list leaves with 1 to 200 columns and at most {MOST_CELLS:,} cells; hide columns or find fewer rows."
        )
    if any(len(row) != len(columns) for row in payload.rows):
        raise TallyError("Every row of a list has a cell for each of its columns.")
    if shape == "csv":
        return file_answer(
            list_csv(columns, payload.rows).encode("utf-8-sig"), "text/csv; charset=utf-8", payload.title, shape
        )
    return file_answer(list_workbook(payload.title, columns, payload.rows), WORKBOOK, payload.title, shape)


@router.get("/compare", response=Comparison)
@long_work
def read_comparison(
    request: HttpRequest,
    part: str,
    basis: Query[BasisIn],
    left: int | None = None,
    right: int | None = None,
    left_day: str = "",
    right_day: str = "",
) -> Any:
    """Two sheets of a part, each the one named or the one in force on its day; the rest of the basis holds for both."""

    def side(key: int | None, day: str) -> tuple[BuildSheet, Basis]:
        held = read_basis(basis.copy(update={"day": day or basis.day}))
        return (_sheet(key) if key else sheet_in_force(part_named(part), held)), held

    return compare(*side(left, left_day), *side(right, right_day))


@router.get("/{sheet_id}/view", response=SheetView)
def read_view(request: HttpRequest, sheet_id: int, basis: Query[BasisIn]) -> HttpResponse:
    """The sheet screen's data."""
    view = sheet_view(_sheet(sheet_id), read_basis(basis))
    # Straight to bytes: checking every row against the schema would take longer than making it.
    return HttpResponse(orjson.dumps(view), content_type="application/json")


@router.get("/{sheet_id}/times", response=Times)
@long_work
def read_times(request: HttpRequest, sheet_id: int, basis: Query[BasisIn], wanted: str = "", stock: bool = True) -> Any:
    """When operations and purchases happen."""
    held = read_basis(basis)
    try:
        day = date.fromisoformat(wanted) if wanted else None
    except ValueError:
        raise ProblemsError([Problem("wanted", "a day like 2026-01-31 is needed")]) from None
    return product_times(_sheet(sheet_id), held, day, stock)


@router.post("/{sheet_id}/edits", response=Edited)
def edit(request: HttpRequest, sheet_id: int, payload: Edit, basis: Query[BasisIn]) -> HttpResponse:
    """Save changes to a draft, all of them or none. 409 when somebody else saved first."""
    held = read_basis(basis)
    changes = [c.dict() for c in payload.changes]
    sheet, made = edit_sheet(request.user, sheet_id, payload.version, changes, payload.reason)
    figures = changed_by_edit(sheet, held, payload.stamp) if payload.stamp else None
    answer = sheet_head(sheet) | {"made": made, "figures": figures}
    return HttpResponse(orjson.dumps(answer), content_type="application/json")


@router.post("/{sheet_id}/release", response=SheetHead)
def release(request: HttpRequest, sheet_id: int, payload: Release) -> Any:
    """Release a draft."""
    return sheet_head(release_revision(request.user, sheet_id, payload.version, payload.first_day, payload.reason))


@router.post("/{sheet_id}/paste", response=PasteOut)
def paste(request: HttpRequest, sheet_id: int, payload: PasteIn) -> Any:
    """What pasted rows will become. Saves nothing."""
    return read_paste(_sheet(sheet_id), payload.text)


@router.post("/{sheet_id}/retire", response=SheetHead)
def retire(request: HttpRequest, sheet_id: int, payload: Retire) -> Any:
    """Withdraw a released revision."""
    return sheet_head(retire_revision(request.user, sheet_id, payload.version, payload.reason))


@router.post("/{sheet_id}/days", response=SheetHead)
def set_days(request: HttpRequest, sheet_id: int, payload: Days) -> Any:
    """Change the days on which a released revision is in force."""
    return sheet_head(
        date_revision(request.user, sheet_id, payload.version, payload.first_day, payload.last_day, payload.reason)
    )


@router.post("/{sheet_id}/drop")
def drop(request: HttpRequest, sheet_id: int, payload: Dropped) -> dict[str, bool]:
    """Drop a draft."""
    drop_draft(request.user, sheet_id, payload.version)
    return {"dropped": True}


@router.get("/{sheet_id}/history", response=list[HistoryEntry])
def read_history(request: HttpRequest, sheet_id: int) -> Any:
    """What happened to a sheet, the newest first."""
    return sheet_history(_sheet(sheet_id))


@router.get("/{sheet_id}/export/{shape}")
@long_work
def export(
    request: HttpRequest, sheet_id: int, shape: Literal["xlsx", "csv", "pdf", "bundle"], basis: Query[BasisIn]
) -> HttpResponse:
    """The indented cost list as a workbook with live formulas, as CSV or as PDF; or the definition as a bundle."""
    sheet, held = _sheet(sheet_id), read_basis(basis)
    title = f"{sheet.part.number}-{sheet.revision}"
    if shape == "bundle":
        # A definition holds each sheet once, however long the list of it would be, and needs no cost.
        parts = load_product(sheet.part, held, sheet).part_ids.tolist()
        return file_answer(
            orjson.dumps(export_bundle(parts), option=orjson.OPT_INDENT_2), "application/json", title, "json"
        )
    rows = listed(sheet, held)
    if shape == "xlsx":
        return file_answer(cost_list_workbook(rows), WORKBOOK, title, shape)
    if shape == "csv":
        return file_answer(cost_list_csv(rows).encode("utf-8-sig"), CSV, title, shape)
    return file_answer(cost_list_pdf(rows), PDF, title, shape)
