"""Editing a draft over HTTP."""

from typing import Any, Literal
from uuid import UUID

import orjson
from django.http import HttpRequest, HttpResponse
from loading.basis import BasisIn, read_basis
from ninja import Query, Router, Schema
from readings.after_edit import changed_by_edit
from readings.paste import read_paste
from readings.sheet_view import sheet_head
from verbs.sheets.edit_sheet import edit_sheet

from api.of_records import ByElement
from api.sheets import LineTable, OperationTable, OptionOut, SheetHead, the_sheet

__all__ = ["router"]

router = Router(tags=["sheets"])


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


class PartFigures(Schema):
    """Figures of parts, as columns by their names."""

    cost: list[float]
    this_level: list[float]
    lot: list[float]
    need: list[float]
    routing_days: list[float]
    lead_days: list[float]


class LineFigures(Schema):
    """Figures of lines, as columns by their names; null where a line does not count."""

    net: list[float | None]
    gross: list[float | None]
    cost: list[float | None]


class OperationFigures(Schema):
    """Figures of operations, as columns by their names."""

    cost: list[float]
    hours: list[float]
    lot_setup: list[float]
    lot_run: list[float]
    lot_elapsed: list[float]


class ChangedParts(Schema):
    """Parts by their row in the view."""

    rows: list[int]
    each: PartFigures
    elements: ByElement


class ChangedLines(Schema):
    """Lines by key, without hyphens."""

    keys: list[str]
    each: LineFigures
    elements: ByElement


class ChangedOperations(Schema):
    """Operations by key, without hyphens."""

    keys: list[str]
    each: OperationFigures
    elements: ByElement


class EditFigures(Schema):
    """What an edit changed in a view: the sheet's own rows anew, of other rows the figures that are others now."""

    stamp: str
    missing: list[str]
    options: list[OptionOut]
    own_lines: LineTable
    own_operations: OperationTable
    parts: ChangedParts
    lines: ChangedLines
    operations: ChangedOperations


class Edited(SheetHead):
    """The sheet after an edit; ``made`` are the numbers of draft parts made on the way. Without ``figures`` the view
    has to be read again."""

    made: list[str]
    figures: EditFigures | None


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


@router.post("/{sheet_id}/edits", response=Edited)
def edit(request: HttpRequest, sheet_id: int, payload: Edit, basis: Query[BasisIn]) -> HttpResponse:
    """Save changes to a draft, all of them or none. 409 when somebody else saved first."""
    held = read_basis(basis)
    changes = [c.dict() for c in payload.changes]
    sheet, made = edit_sheet(request.user, sheet_id, payload.version, changes, payload.reason)
    figures = changed_by_edit(sheet, held, payload.stamp) if payload.stamp else None
    answer = sheet_head(sheet) | {"made": made, "figures": figures}
    return HttpResponse(orjson.dumps(answer, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json")


@router.post("/{sheet_id}/paste", response=PasteOut)
def paste(request: HttpRequest, sheet_id: int, payload: PasteIn) -> Any:
    """What pasted rows will become. Saves nothing."""
    return read_paste(the_sheet(sheet_id), payload.text)
