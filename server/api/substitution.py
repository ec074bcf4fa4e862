"""Substitution over HTTP: tables from generic things to real stock, what they would exchange, and what they did."""

from typing import Any

from accounts.access import require
from django.http import HttpRequest
from django.utils.timezone import localdate
from formats.apart import read_tables
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from substitution.actions.keep_table import drop_table, keep_table
from substitution.actions.substitute import substitute, take_back
from substitution.models import Substituted, SubstitutionTable
from substitution.planned import preview
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.lists.titled import TitledList

from api.partners import Done

__all__ = ["router"]

router = Router(tags=["substitution"])
#: The columns of a workbook, by what their titles may be.
_COLUMNS = {
    "code": ("generic", "code", "material", "what it is called"),
    "part": ("part", "part number", "stock", "our part"),
    "goes": ("so many go", "goes"),
    "comes": ("so many come", "comes", "ratio"),
    "note": ("note", "notes", "remark"),
}


class SubstituteRow(Schema):
    """``code``: the number or the description of something generic; for ``goes`` of it come ``comes`` of the part."""

    code: str
    part: str
    goes: str = "1"
    comes: str = "1"
    note: str = ""


class SubstitutionTableIn(Schema):
    id: int | None = None
    version: int | None = None
    name: str
    rows: list[SubstituteRow]


class SubstitutionTableOut(Schema):
    id: int
    name: str
    version: int
    changed_by: str
    changed_at: str
    rows: list[SubstituteRow]


class ProductsIn(Schema):
    products: list[str]


class ExchangedLine(Schema):
    item: int | None
    old: str
    old_description: str
    new: str
    new_description: str
    quantity: str | None
    unit: str
    new_quantity: str | None
    new_unit: str
    stops: str


class ExchangedSheet(Schema):
    """Unit costs at costing lots, without options."""

    sheet: int
    version: int
    part: str
    description: str
    revision: str
    status: str
    before: float | None
    after: float | None
    lines: list[ExchangedLine]


class NoEntry(Schema):
    part: str
    description: str
    lines: int


class SubstitutionPreview(Schema):
    """``none``: bought parts on these sheets that no entry names."""

    sheets: list[ExchangedSheet]
    none: list[NoEntry]


class SubstituteIn(Schema):
    """Sheet id → the version that was looked at."""

    sheets: dict[int, int]
    reason: str


class SubstitutedOut(Schema):
    id: int
    table: str
    reason: str
    made_by: str
    made_at: str
    parts: list[str]
    lines: int
    undone_by: str


def _out(table: SubstitutionTable) -> dict[str, Any]:
    return {
        "id": table.pk,
        "name": table.name,
        "version": table.version,
        "changed_by": table.changed_by,
        "changed_at": table.changed_at.isoformat(),
        "rows": table.rows,
    }


def _done(row: Substituted) -> dict[str, Any]:
    return {
        "id": row.pk,
        "table": row.table,
        "reason": row.reason,
        "made_by": row.made_by,
        "made_at": row.made_at.isoformat(),
        "parts": [s["part"] for s in row.said["sheets"]],
        "lines": sum(len(s["lines"]) for s in row.said["sheets"]),
        "undone_by": row.undone_by,
    }


@router.get("", response=list[SubstitutionTableOut])
def list_tables(request: HttpRequest) -> Any:
    """Tables by name."""
    return [_out(table) for table in SubstitutionTable.objects.all()]


@router.post("", response=SubstitutionTableOut)
def keep(request: HttpRequest, payload: SubstitutionTableIn) -> Any:
    """Keep a table."""
    return _out(keep_table(request.user, payload.id, payload.version, payload.name, [row.dict() for row in payload.rows]))


@router.post("/file", response=list[SubstituteRow])
def read_file(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """The rows of a workbook or CSV, whose first row holds the titles. Keeps nothing."""
    require(request.user, "sheets")
    tables = read_tables(file.name or "table", file.read())
    listed = TitledList(tables[0].rows if tables else [], _COLUMNS, [])
    lacking = [_COLUMNS[name][0] for name in ("code", "part") if name not in listed.columns]
    if lacking:
        raise ProblemsError([Problem("", f"the file has no column {', '.join(lacking)}; its first row must name its columns")])
    return [{name: row.text(name) if name in listed.columns else "" for name in _COLUMNS} for row in listed]


@router.get("/done", response=list[SubstitutedOut])
def list_done(request: HttpRequest) -> Any:
    """What was exchanged by tables, the newest first."""
    return [_done(row) for row in Substituted.objects.all()[:100]]


@router.post("/done/{done_id}/back", response=SubstitutedOut)
def back(request: HttpRequest, done_id: int) -> Any:
    """Take an exchange back, all of it."""
    return _done(take_back(request.user, done_id))


@router.post("/{table_id}/preview", response=SubstitutionPreview)
def read_preview(request: HttpRequest, table_id: int, payload: ProductsIn) -> Any:
    """What a table would exchange on the sheets of some products. Changes nothing."""
    table = SubstitutionTable.objects.filter(pk=table_id).first()
    if table is None:
        raise MissingError("This table is no longer there.")
    return preview(table.rows, payload.products, localdate())


@router.post("/{table_id}/apply", response=SubstitutedOut)
def apply(request: HttpRequest, table_id: int, payload: SubstituteIn) -> Any:
    """Exchange what a table names on chosen sheets."""
    return _done(substitute(request.user, table_id, payload.sheets, payload.reason))


@router.post("/{table_id}/drop", response=Done)
def drop(request: HttpRequest, table_id: int) -> Any:
    """Let a table go."""
    drop_table(request.user, table_id)
    return {"done": True}
