"""Build sheets over HTTP."""

from typing import Any

import orjson
from accounts.access import sees_costs
from definition.models.sheets import BuildSheet, Option
from django.http import HttpRequest, HttpResponse
from loading.basis import BasisIn, read_basis
from loading.reads import part_named
from ninja import Query, Router, Schema
from readings.found_parts import found_parts
from readings.sheet_view import counting_sheet, revisions_of, sheet_head, sheet_view
from tally_core.basics.errors import MissingError
from tally_core.stated import definition as core
from verbs.sheets.open_sheet import open_sheet
from verbs.sheets.save_option import save_option

from api.of_records import answered, table_of
from api.words import LifecycleWord, PartKindWord, StatusWord

MOST_LISTED = 500

router = Router(tags=["sheets"])


class WhyNot(Schema):
    """For each action why it cannot be done with a sheet as it stands, in words; null where it can."""

    edit: str | None
    release: str | None
    drop: str | None
    days: str | None
    retire: str | None


class SheetHead(Schema):
    """One version of how a part is built. Days are ISO 8601; ``effective_to`` is the first day not in force. ``why_not`` is the answer
    that the actions themselves would give, for whoever may change sheets."""

    id: int
    part: str
    description: str
    alternate: str
    revision: str
    status: StatusWord
    effective_from: str | None
    effective_to: str | None
    batch: str
    reference: str
    default: bool
    version: int
    changed_by: str
    changed_at: str
    why_not: WhyNot


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
    kind: PartKindWord
    unit: str
    unit_cost: str | None
    # A cost or a markup given by hand and why, in words; empty when none is.
    given: str
    lifecycle: LifecycleWord
    part_class: str
    material: str
    supplier: str
    supplier_number: str
    supplier_link: str
    size_mm: str
    buying_unit: str | None
    lead_time_days: int
    sheet: int | None
    # In the stock unit.
    on_hand: float
    spoken_for: float
    on_order: float
    cost: float | None = None
    this_level: float | None = None
    lot: float | None = None
    # All paths together: what the job takes of it, or at standard lots what one unit takes on average.
    need: float | None = None
    # Of one lot: its own routing when all it takes is there, and all of it from the first order on (rule T4).
    routing_days: float | None = None
    lead_days: float | None = None


class LineRow(answered(core.Line, "part", "unit", "issue_at")):  # type: ignore[misc]
    """A line; ``parent`` and ``child`` are indexes into the parts. Figures per unit of the parent; none when the
    line does not count under the basis."""

    id: str
    parent: int
    child: int
    position: float
    # Empty: the part's stock unit.
    unit: str
    operation: str | None
    net: float | None = None
    gross: float | None = None
    cost: float | None = None


class SubcontractRow(answered(core.Subcontract)):  # type: ignore[misc]
    """Work done outside."""


class OperationRow(answered(core.Operation, "subcontract", "resources")):  # type: ignore[misc]
    """An operation; cost and hours per good unit of the part in row ``parent``."""

    id: str
    parent: int
    work_center_name: str | None
    files: list[int]
    # Of what works beside an operation: the key of that, and which of those it is; 0 for an operation itself.
    beside: str | None
    resource: int
    # The version that the entry of the library has now, beside the one it was taken from.
    standard_now: int | None
    subcontract: SubcontractRow | None
    cost: float | None = None
    hours: float | None = None
    # Minutes of the lot.
    lot_setup: float | None = None
    lot_run: float | None = None
    lot_elapsed: float | None = None


class PartTable(table_of(PartRow)):  # type: ignore[misc]
    """Parts, as columns."""


class LineTable(table_of(LineRow)):  # type: ignore[misc]
    """Lines, as columns."""


class OperationTable(table_of(OperationRow)):  # type: ignore[misc]
    """Operations, as columns."""


class SheetView(Schema):
    """A sheet with everything below it, each sheet once; the screen opens lines in place by following ``child``. Rows travel as
    columns."""

    sheet: SheetHead
    currency: str
    basis: BasisOut
    # The state of the product that an edit goes on from; none where there are no figures.
    stamp: str | None
    # Whether all that the sheet takes is there, or only its own rows.
    whole: bool
    top: int
    problem: str | None
    missing: list[str]
    # Of the part itself: what it stands at, and what it sells for.
    standard: StandardCost | None
    selling_price: str | None
    options: list[OptionOut]
    parts: PartTable
    lines: LineTable
    operations: OperationTable


def the_sheet(sheet_id: int) -> BuildSheet:
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


class SheetRow(SheetHead):
    """A sheet in the list of all, with the class of its part."""

    part_class: str


class SheetPage(Schema):
    """The sheets changed last of those asked for, and who changed any of them."""

    total: int
    people: list[str]
    items: list[SheetRow]


@router.get("/list", response=SheetPage)
def list_all(request: HttpRequest, search: str = "", status: str = "", person: str = "", part_class: str = "") -> Any:
    """Sheets changed last, at most 500. ``search`` holds words that each stand in the part's number, its description or a field of its class."""
    found = BuildSheet.objects.select_related("part").order_by("-changed_at")
    if search.strip():
        found = found.filter(part__in=found_parts(search, sees_costs(request.user)))
    for name, value in (("status", status), ("changed_by", person), ("part__part_class", part_class)):
        if value:
            found = found.filter(**{name: value})
    first = list(found[:MOST_LISTED])
    people = BuildSheet.objects.exclude(changed_by="").values_list("changed_by", flat=True).order_by("changed_by").distinct()
    return {
        "total": len(first) if len(first) < MOST_LISTED else found.count(),
        "people": list(people[:50]),
        "items": [sheet_head(s) | {"part_class": s.part.part_class} for s in first],
    }


@router.get("/options", response=list[OptionOut])
def list_options(request: HttpRequest) -> Any:
    """All options by code."""
    return [{"code": o.code, "name": o.name, "not_with": o.not_with} for o in Option.objects.all()]


@router.post("/options", response=OptionOut)
def keep_option(request: HttpRequest, payload: OptionOut) -> Any:
    """Make an option or change one."""
    option = save_option(request.user, payload.code, payload.name, payload.not_with)
    return {"code": option.code, "name": option.name, "not_with": option.not_with}


@router.get("/{sheet_id}/view", response=SheetView)
def read_view(request: HttpRequest, sheet_id: int, basis: Query[BasisIn], own: bool = False) -> HttpResponse:
    """The sheet screen's data; ``own``: only the rows of the sheet itself."""
    view = sheet_view(the_sheet(sheet_id), read_basis(basis), own)
    # Straight to bytes: checking every row against the schema would take longer than making it.
    return HttpResponse(orjson.dumps(view, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json")


class Opened(Schema):
    """What draft to open; ``copy_of`` is the sheet that a new alternate starts from."""

    part: str
    alternate: str = "A"
    reference: str = ""
    copy_of: int | None = None
    reason: str = ""


@router.post("", response=SheetHead)
def open_draft(request: HttpRequest, payload: Opened) -> Any:
    """The open draft of a part, made when there is none."""
    made = open_sheet(request.user, payload.part, payload.alternate, payload.reference, payload.copy_of, payload.reason)
    return sheet_head(the_sheet(made.pk))
