"""Editing a draft over HTTP."""

from typing import Annotated, Any, Literal
from uuid import UUID

import orjson
from django.http import HttpRequest, HttpResponse
from loading.basis import BasisIn, read_basis
from ninja import Query, Router, Schema
from pydantic import Field, WithJsonSchema
from readings.after_edit import changed_by_edit
from readings.paste import read_paste
from readings.sheet_view import sheet_head
from tally_core.stated import definition as core
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.stale import HEAD

from api.of_records import ByElement, edited
from api.sheets import LineTable, OperationTable, OptionOut, SheetHead, the_sheet

__all__ = ["router"]

router = Router(tags=["sheets"])

# What an edit says is read by the core (``edited``); this is how it is described.
_Named = Annotated[Any, WithJsonSchema({"anyOf": [{"type": "string"}, {"type": "null"}]})]
_Placed = Annotated[Any, WithJsonSchema({"type": "number"})]


class LineEdit(edited(core.Line, "issue_at")):  # type: ignore[misc]
    """Fields of a line. ``operation`` is the one it is issued at, by key, ``position`` its place in the list; ``make`` says what its part
    becomes if there is none yet."""

    operation: _Named = None
    position: _Placed = None
    make: Annotated[Any, WithJsonSchema({"type": "string", "enum": ["bought", "made"]})] = None


class OperationEdit(edited(core.Operation, "resources")):  # type: ignore[misc]
    """Fields of an operation, or of what works ``beside`` one, which is named by its key."""

    files: Annotated[Any, WithJsonSchema({"type": "array", "items": {"type": "integer"}})] = None
    beside: _Named = None
    resource: _Placed = None


class HeadEdit(edited(core.Sheet, *(n for n in core.Sheet.__dataclass_fields__ if n not in HEAD))):  # type: ignore[misc]
    """Fields of a sheet's head."""


class LineChange(Schema):
    """A change of a line. No ``before`` makes the row ``id``, no ``after`` removes it, both change the named fields."""

    table: Literal["line"]
    id: UUID | None = None
    before: LineEdit | None = None
    after: LineEdit | None = None


class OperationChange(Schema):
    """A change of an operation, as one of a line."""

    table: Literal["operation"]
    id: UUID | None = None
    before: OperationEdit | None = None
    after: OperationEdit | None = None


class HeadChange(Schema):
    """A change of the sheet's head."""

    table: Literal["sheet"]
    id: UUID | None = None
    before: HeadEdit | None = None
    after: HeadEdit | None = None


Change = Annotated[LineChange | OperationChange | HeadChange, Field(discriminator="table")]


def _named(change: LineChange | OperationChange | HeadChange) -> dict[str, Any]:
    """A change with the fields that it names, and no others."""
    before, after = (None if v is None else v.dict(exclude_unset=True) for v in (change.before, change.after))
    return {"table": change.table, "id": change.id, "before": before, "after": after}


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


class ChangedNeeds(Schema):
    """How many of a part are needed in all, by its row in the view; apart from its other figures, since an edit moves thousands of these."""

    rows: list[int]
    need: list[float]


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
    """What an edit changed in a view: the sheet's own rows anew, of other rows the figures that are others now. Without ``own_operations``
    the sheet's operations are as they were, and among the others."""

    stamp: str
    missing: list[str]
    options: list[OptionOut]
    own_lines: LineTable
    own_operations: OperationTable | None
    parts: ChangedParts
    needs: ChangedNeeds
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
    values: LineEdit
    problems: list[str]
    looks: list[str]


class PasteOut(Schema):
    columns: list[str]
    rows: list[PastedRow]


@router.post("/{sheet_id}/edits", response=Edited)
def edit(request: HttpRequest, sheet_id: int, payload: Edit, basis: Query[BasisIn]) -> HttpResponse:
    """Save changes to a draft, all of them or none. 409 when somebody else saved first."""
    held = read_basis(basis)
    changes = [_named(c) for c in payload.changes]
    sheet, made = edit_sheet(request.user, sheet_id, payload.version, changes, payload.reason)
    only_lines = all(c["table"] == "line" for c in changes)
    figures = changed_by_edit(sheet, held, payload.stamp, only_lines) if payload.stamp else None
    answer = sheet_head(sheet) | {"made": made, "figures": figures}
    return HttpResponse(orjson.dumps(answer, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json")


@router.post("/{sheet_id}/paste", response=PasteOut, exclude_unset=True)
def paste(request: HttpRequest, sheet_id: int, payload: PasteIn) -> Any:
    """What pasted rows will become. Saves nothing."""
    return read_paste(the_sheet(sheet_id), payload.text)
