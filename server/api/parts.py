"""Parts over HTTP."""

from dataclasses import asdict
from decimal import Decimal
from typing import Any, Literal

from accounts.access import require
from definition.models.parts import Part, PartClass, PartFile, StockMove, Workspace
from definition.models.sheets import BuildSheet
from definition.records import class_record, plain_decimal
from django.db.models import Count as CountOf
from django.db.models import Q, QuerySet, Sum
from django.http import FileResponse, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from formats.apart import read_tables
from formats.flat import list_csv, list_workbook
from jobs.long_work import long_work
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from readings.part_list import part_rows, preview, read_rows, split_pasted
from readings.renumbering import by_class, by_position, free_numbers
from tally_core import definition as core
from tally_core.classes import FACTS, Budget, compute_fields
from tally_core.errors import MissingError, TallyError
from tally_core.units import SYMBOLS, dimension
from verbs.parts.drop_parts import drop_parts
from verbs.parts.keep_file import PICTURES, drop_file, keep_file
from verbs.parts.move_stock import move_stock, on_hand
from verbs.parts.renumber_parts import MOST as MOST_RENUMBERED
from verbs.parts.renumber_parts import renumber_parts
from verbs.parts.save_class import save_class
from verbs.parts.save_maker_numbers import save_maker_numbers
from verbs.parts.save_part import save_part
from verbs.parts.save_parts import MOST as MOST_LISTED
from verbs.parts.save_parts import save_parts
from verbs.parts.take_open_orders import take_open_orders

router = Router(tags=["parts"])


class PartOut(Schema):
    """A part. Amounts are decimal text in the currency of the workspace; empty means nothing stated."""

    number: str
    description: str
    kind: str
    unit: str
    unit_cost: str | None
    given_cost: str | None
    markup_percent: str | None
    given_reason: str
    selling_price: str | None
    overhead_percent: str
    costing_lot: str | None
    whole_only: bool
    lead_time_days: int
    lifecycle: str
    default_alternate: str | None
    second_description: str
    part_class: str
    material: str
    mass_kg: str | None
    size_mm: str
    buying_unit: str | None
    stock_per_buying_unit: str | None
    reorder_level: str | None
    order_minimum: str | None
    order_multiple: str | None
    sold: bool
    supplier: str
    supplier_number: str
    supplier_link: str
    unmodelled: bool
    # By the fields of its class; what is computed and cannot be begins with – and says why.
    own_values: dict[str, str]
    computed: dict[str, str]
    # Stated in lists only.
    on_hand: str | None = None
    version: int
    sheets: int


class PartIn(Schema):
    """What was typed. A field left out stays as it is; empty text clears it."""

    number: str | None = None
    description: str | None = None
    kind: str | None = None
    unit: str | None = None
    unit_cost: str | None = None
    given_cost: str | None = None
    markup_percent: str | None = None
    given_reason: str | None = None
    selling_price: str | None = None
    overhead_percent: str | None = None
    costing_lot: str | None = None
    whole_only: bool | None = None
    lead_time_days: str | None = None
    lifecycle: str | None = None
    default_alternate: str | None = None
    second_description: str | None = None
    part_class: str | None = None
    material: str | None = None
    mass_kg: str | None = None
    size_mm: str | None = None
    buying_unit: str | None = None
    stock_per_buying_unit: str | None = None
    reorder_level: str | None = None
    order_minimum: str | None = None
    order_multiple: str | None = None
    sold: bool | None = None
    supplier: str | None = None
    supplier_number: str | None = None
    supplier_link: str | None = None
    unmodelled: bool | None = None
    own_values: dict[str, Any] | None = None
    version: int | None = None


class FieldOut(Schema):
    """A field of a class: text, number, money, date, choice or computed."""

    name: str
    kind: str
    unit: str = ""
    choices: list[str] = []
    expression: str = ""


class ClassIn(Schema):
    name: str
    prefix: str = ""
    digits: int = 0
    start: int = 1
    step: int = 1
    fields_: list[FieldOut] = Field([], alias="fields")
    version: int | None = None


class ClassOut(Schema):
    """A class with its numbering and fields; ``version`` 0 when parts only name it so far."""

    name: str
    prefix: str
    digits: int
    start: int
    step: int
    fields_: list[FieldOut] = Field(alias="fields")
    version: int
    parts: int


class NextNumber(Schema):
    number: str


class NumbersIn(Schema):
    parts: list[str]


class Renumbered(Schema):
    """A part's number now and then; ``kept`` says why it stays as it is."""

    old: str
    new: str
    description: str
    version: int
    kept: str


class NumberChange(Schema):
    old: str
    new: str
    version: int


class RenumberIn(Schema):
    changes: list[NumberChange]


class Count(Schema):
    count: int


class PastedIn(Schema):
    text: str


class FieldChange(Schema):
    field: str
    before: str
    after: str


class RowPreview(Schema):
    """A part on its way: made when ``known`` is false, else changed; ``fields`` are what is to be sent to save it."""

    number: str
    known: bool
    version: int | None
    changes: list[FieldChange]
    problems: list[str]
    fields_: dict[str, Any] = Field(alias="fields")


class RowsPreview(Schema):
    """``columns`` are the titles that were understood."""

    columns: list[str]
    rows: list[RowPreview]


class RowIn(Schema):
    number: str
    fields_: dict[str, str | bool | dict[str, str] | None] = Field(alias="fields")
    version: int | None = None


class RowsIn(Schema):
    rows: list[RowIn]
    reason: str = ""


class RowsSaved(Schema):
    made: int
    changed: int


class FileOut(Schema):
    """A picture or a file of a part; its content stands at ``/api/parts/files/{id}``."""

    id: int
    name: str
    size: int
    picture: bool
    content_type: str
    by: str
    at: str


class FilesNamed(Schema):
    ids: list[int]


class MakerNumberOut(Schema):
    """A manufacturer's number, in order of rank."""

    maker: str
    number: str
    package: str = ""


class MoveOut(Schema):
    """A move of stock, in the part's stock unit."""

    quantity: str
    reason: str
    by: str
    at: str


class StockOut(Schema):
    """What is on hand, and the last moves that made it."""

    on_hand: str
    unit: str
    moves: list[MoveOut]
    count: int


class OpenOrderOut(Schema):
    """What is still to come of an order, in stock units."""

    order: str
    quantity: str
    due_on: str | None
    by: str


class OpenOrdersIn(Schema):
    """Rows of a list, the first with the titles of its columns."""

    rows: list[list[str]]


class MoveIn(Schema):
    quantity: str
    reason: str = ""


class PartPage(Schema):
    """One window of the list: ``items`` from ``offset`` on, of ``total`` that match."""

    total: int
    offset: int
    items: list[PartOut]


class UnitOut(Schema):
    symbol: str
    measures: str


class Reference(Schema):
    """What every screen knows: the units, and the currency of all costs."""

    units: list[UnitOut]
    currency: str


_AMOUNTS = (
    "unit_cost", "given_cost", "markup_percent", "selling_price", "overhead_percent", "costing_lot", "mass_kg",
    "stock_per_buying_unit", "reorder_level", "order_minimum", "order_multiple",
)  # fmt: skip


def _classes() -> dict[str, core.PartClass]:
    return {c.name: class_record(c) for c in PartClass.objects.all()}


def _out(
    part: Part,
    sheets: int,
    classes: dict[str, core.PartClass],
    stock: Decimal | None = None,
    budget: Budget | None = None,
) -> PartOut:
    own = classes.get(part.part_class)
    computed = compute_fields(own, part.own_values, {n: getattr(part, n) for n in FACTS}, budget) if own else {}
    amounts: dict[str, Any] = {n: plain_decimal(getattr(part, n)) for n in _AMOUNTS}
    plain = {
        n: getattr(part, n)
        for n in (
            "second_description",
            "given_reason",
            "part_class",
            "material",
            "size_mm",
            "buying_unit",
            "sold",
            "supplier",
            "supplier_number",
            "supplier_link",
            "unmodelled",
            "number",
            "description",
            "kind",
            "unit",
            "whole_only",
            "lead_time_days",
            "lifecycle",
            "default_alternate",
            "version",
        )
    }
    return PartOut(
        **amounts, **plain, own_values=part.own_values, computed=computed, sheets=sheets, on_hand=plain_decimal(stock)
    )


def _found(search: str, kind: str, part_class: str, unmodelled: bool) -> QuerySet[Part]:
    """Parts whose number or description holds every word."""
    found = Part.objects.all()
    for word in search.upper().split()[:8]:
        found = found.filter(search__contains=word)
    if part_class:
        found = found.filter(part_class=part_class)
    if kind:
        found = found.filter(kind=kind)
    return found.filter(unmodelled=True) if unmodelled else found


@router.get("", response=PartPage)
def list_parts(
    request: HttpRequest,
    search: str = "",
    kind: str = "",
    part_class: str = "",
    unmodelled: bool = False,
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> PartPage:
    """Parts by number. ``search`` holds words that each stand in the number or the description."""
    found = _found(search, kind, part_class, unmodelled)
    exact = Q(number__iexact=search.strip())
    total = found.count()
    page = list(found.order_by("number")[offset : offset + limit])
    if offset == 0 and search.strip():
        # What was typed in full stands first.
        first = [p for p in page if p.number.upper() == search.strip().upper()] or list(Part.objects.filter(exact)[:1])
        page = first + [p for p in page if p not in first][: limit - len(first)]
    counts = dict(Part.objects.filter(id__in=[p.id for p in page]).annotate(n=CountOf("sheets")).values_list("id", "n"))
    moves = StockMove.objects.filter(part__in=page).values_list("part").annotate(total=Sum("quantity"))
    stock = dict(moves.values_list("part", "total"))
    classes = _classes()
    budget = Budget()
    items = [_out(p, counts[p.id], classes, stock.get(p.id), budget) for p in page]
    return PartPage(total=total, offset=offset, items=items)


@router.get("/reference", response=Reference)
def read_reference(request: HttpRequest) -> Reference:
    """Units and currency."""
    return Reference(
        units=[UnitOut(symbol=s, measures=dimension(s)) for s in SYMBOLS], currency=Workspace.the().currency
    )


@router.get("/one", response=PartOut)
def read_part(request: HttpRequest, number: str) -> PartOut:
    """One part by its number."""
    part = Part.objects.filter(number=number).annotate(n=CountOf("sheets")).first()
    if part is None:
        raise MissingError(f"part {number} is not known")
    return _out(part, part.n, _classes())


def _class_out(row: core.PartClass, version: int, parts: int) -> dict[str, Any]:
    return asdict(row) | {"version": version, "parts": parts}


@router.get("/classes", response=list[ClassOut], by_alias=True)
def list_classes(request: HttpRequest) -> Any:
    """All classes by name, those that parts only name included."""
    counts = dict(Part.objects.exclude(part_class="").values_list("part_class").annotate(n=CountOf("id")))
    held = {c.name: c for c in PartClass.objects.all()}
    return [
        _class_out(class_record(held[name]), held[name].version, counts.get(name, 0))
        if name in held
        else _class_out(core.PartClass(name), 0, counts[name])
        for name in sorted({*held, *counts}, key=str.upper)
    ]


@router.post("/classes", response=ClassOut, by_alias=True)
def keep_class(request: HttpRequest, payload: ClassIn, name: str | None = None) -> Any:
    """Make a class, or change the one of a name."""
    row = save_class(request.user, payload.dict(by_alias=True, exclude={"version"}), name, payload.version)
    return _class_out(class_record(row), row.version, Part.objects.filter(part_class=row.name).count())


@router.get("/next-number", response=NextNumber)
def read_next_number(request: HttpRequest, part_class: str) -> Any:
    """The next number of a class."""
    return {"number": free_numbers(part_class, 1)[0]}


@router.post("/numbers-by-class", response=list[Renumbered])
def read_numbers_by_class(request: HttpRequest, payload: NumbersIn) -> Any:
    """What numbers of their classes some parts would get. Saves nothing."""
    return by_class(payload.parts[:MOST_RENUMBERED])


@router.get("/numbers-by-position", response=list[Renumbered])
def read_numbers_by_position(request: HttpRequest, sheet: int, prefix: str = "", made_only: bool = False) -> Any:
    """What numbers the parts below a sheet would get by their position. Saves nothing."""
    held = BuildSheet.objects.select_related("part").filter(pk=sheet).first()
    if held is None:
        raise MissingError("This sheet is no longer there.")
    return by_position(held, prefix, made_only)


@router.post("/renumber", response=Count)
def renumber(request: HttpRequest, payload: RenumberIn) -> Any:
    """Give parts other numbers, all of them or none."""
    return {"count": renumber_parts(request.user, [c.dict() for c in payload.changes])}


def _part(number: str) -> Part:
    part = Part.objects.filter(number=number).first()
    if part is None:
        raise MissingError(f"part {number} is not known")
    return part


@router.get("/list/{shape}")
@long_work
def write_list(
    request: HttpRequest,
    shape: Literal["xlsx", "csv"],
    search: str = "",
    kind: str = "",
    part_class: str = "",
    unmodelled: bool = False,
) -> HttpResponse:
    """The part list as found, as a file that can be brought in again."""
    parts = list(_found(search, kind, part_class, unmodelled).order_by("number")[: MOST_LISTED + 1])
    if len(parts) > MOST_LISTED:
        raise TallyError(f"A list leaves with at most {MOST_LISTED:,} parts; find fewer first.")
    columns, rows = part_rows(parts, part_class)
    if shape == "csv":
        return HttpResponse(
            list_csv(columns, rows).encode("utf-8-sig"),
            content_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": 'attachment; filename="parts.csv"'},
        )
    return HttpResponse(
        list_workbook("Parts", columns, rows),
        content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        headers={"Content-Disposition": 'attachment; filename="parts.xlsx"'},
    )


@router.post("/rows/pasted", response=RowsPreview, by_alias=True)
def read_pasted(request: HttpRequest, payload: PastedIn) -> Any:
    """What pasted rows would make of parts. Saves nothing."""
    titles, rows = read_rows(split_pasted(payload.text))
    return {"columns": titles, "rows": preview(rows)}


@router.post("/rows/file", response=RowsPreview, by_alias=True)
def read_listed(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """What the first table of a file that holds a part list would make of parts. Saves nothing."""
    require(request.user, "parts")
    tables = read_tables(file.name or "list", file.read())
    titles, rows = read_rows(tables[0].rows if tables else [])
    return {"columns": titles, "rows": preview(rows)}


@router.post("/rows/planned", response=RowsPreview, by_alias=True)
def read_planned(request: HttpRequest, payload: RowsIn) -> Any:
    """What a change of many parts would do. Saves nothing."""
    return {"columns": [], "rows": preview([r.dict(by_alias=True) for r in payload.rows[:MOST_LISTED]])}


class NumbersGone(Schema):
    numbers: list[str]


@router.post("/drop", response=Count)
def drop(request: HttpRequest, payload: NumbersGone) -> Any:
    """Take away parts that nothing names, all of them or none."""
    drop_parts(request.user, payload.numbers)
    return Count(count=len(payload.numbers))


@router.post("/rows", response=RowsSaved)
def save_rows(request: HttpRequest, payload: RowsIn) -> Any:
    """Make and change many parts, all of them or none."""
    made, changed = save_parts(request.user, [r.dict(by_alias=True) for r in payload.rows], payload.reason)
    return {"made": made, "changed": changed}


@router.get("/one/files", response=list[FileOut])
def list_files(request: HttpRequest, number: str) -> Any:
    """The pictures and files of a part, the oldest first."""
    return [_file(row) for row in _part(number).files.all()]


def _file(row: PartFile) -> FileOut:
    return FileOut(
        id=row.pk, name=row.name, size=row.size, picture=row.content_type in PICTURES, content_type=row.content_type, by=row.added_by,
        at=row.added_at.isoformat(),
    )  # fmt: skip


@router.post("/one/files", response=FileOut)
def add_file(
    request: HttpRequest,
    number: str,
    shown_with: str = "",
    file: UploadedFile = File(...),  # noqa: B008
) -> Any:
    """Keep a picture or a file beside a part; one that is shown with an operation has to be of a type shown in place."""
    return _file(keep_file(request.user, number, file.name or "file", file.read(), shown=shown_with == "operation"))


@router.post("/files/named", response=list[FileOut])
def read_named_files(request: HttpRequest, payload: FilesNamed) -> Any:
    """Files by their keys, those that are still there. Saves nothing."""
    return [_file(row) for row in PartFile.objects.filter(pk__in=payload.ids[:200])]


@router.post("/files/{file_id}/drop", response=Count)
def remove_file(request: HttpRequest, file_id: int) -> Any:
    """Let a file go."""
    drop_file(request.user, file_id)
    return {"count": 1}


@router.get("/files/{file_id}")
def read_content(request: HttpRequest, file_id: int) -> HttpResponseBase:
    """The content of a file. A picture is shown, all else is handed down; nothing in it can run here."""
    row = PartFile.objects.filter(pk=file_id).first()
    if row is None:
        raise MissingError("This file is no longer there.")
    try:
        content = row.content.open("rb")
    except FileNotFoundError:
        raise MissingError(f"The content of {row.name} is missing from the disk; restore it from a backup.") from None
    response = FileResponse(
        content,
        as_attachment=row.content_type not in PICTURES,
        filename=row.name,
        content_type=row.content_type,
    )
    response["X-Content-Type-Options"] = "nosniff"
    response["Content-Security-Policy"] = "sandbox; default-src 'none'"
    response["Cache-Control"] = "private, max-age=86400"
    return response


@router.get("/one/makers", response=list[MakerNumberOut])
def read_makers(request: HttpRequest, number: str) -> Any:
    """The approved manufacturers' numbers of a part."""
    return list(_part(number).maker_numbers.all())


@router.put("/one/makers", response=list[MakerNumberOut])
def keep_makers(request: HttpRequest, number: str, payload: list[MakerNumberOut]) -> Any:
    """Replace the approved manufacturers' numbers of a part."""
    return save_maker_numbers(request.user, number, [row.dict() for row in payload])


def _stock(part: Part) -> StockOut:
    moves = part.moves.all()[:100]
    listed = [
        MoveOut(quantity=plain_decimal(m.quantity) or "0", reason=m.reason, by=m.made_by, at=m.made_at.isoformat())
        for m in moves
    ]
    return StockOut(on_hand=plain_decimal(on_hand(part)) or "0", unit=part.unit, moves=listed, count=part.moves.count())


@router.get("/one/stock", response=StockOut)
def read_stock(request: HttpRequest, number: str) -> Any:
    """What is on hand of a part, with its last moves."""
    return _stock(_part(number))


@router.post("/one/stock", response=StockOut)
def move(request: HttpRequest, number: str, payload: MoveIn) -> Any:
    """Add to or take from stock."""
    return _stock(move_stock(request.user, number, payload.quantity, payload.reason).part)


@router.get("/one/open-orders", response=list[OpenOrderOut])
def read_open_orders(request: HttpRequest, number: str) -> Any:
    """What is still to come of a part, the next first."""
    return [
        OpenOrderOut(
            order=o.order, quantity=plain_decimal(o.quantity) or "0", by=o.added_by,
            due_on=o.due_on.isoformat() if o.due_on else None,
        )
        for o in _part(number).open_orders.all()[:200]
    ]  # fmt: skip


@router.post("/open-orders", response=Count)
def keep_open_orders(request: HttpRequest, payload: OpenOrdersIn) -> Any:
    """Take a list of open orders as rows."""
    return Count(count=take_open_orders(request.user, payload.rows))


@router.post("/open-orders/file", response=Count)
def read_order_file(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Take the first table of a file as a list of open orders."""
    require(request.user, "open orders")
    tables = read_tables(file.name or "list", file.read())
    return Count(count=take_open_orders(request.user, tables[0].rows if tables else []))


def _typed(payload: PartIn) -> dict:
    return {n: v for n, v in payload.dict(exclude_unset=True).items() if n != "version"}


@router.post("", response=PartOut)
def make_part(request: HttpRequest, payload: PartIn) -> PartOut:
    """Make a part."""
    return _out(save_part(request.user, _typed(payload)), 0, _classes())


@router.patch("/one", response=PartOut)
def change_part(request: HttpRequest, number: str, payload: PartIn) -> PartOut:
    """Change a part."""
    part = save_part(request.user, _typed(payload), number, payload.version)
    return _out(part, part.sheets.count(), _classes())
