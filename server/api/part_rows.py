"""Many parts at once over HTTP: pasted, brought in, shown, saved, written as a list."""

from typing import Any, Literal

from accounts.access import require, sees_costs
from django.http import HttpRequest, HttpResponse
from formats.apart import read_tables
from formats.flat import list_csv, list_workbook
from jobs.long_work import long_work
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from readings.part_list import part_rows, preview, read_rows, split_pasted
from tally_core.basics.errors import TallyError
from verbs.parts.save_parts import MOST as MOST_LISTED
from verbs.parts.save_parts import save_parts

from api.parts import parts_shown

__all__ = ["router"]

router = Router(tags=["parts"])


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


@router.get("/list/{shape}")
@long_work
def write_list(
    request: HttpRequest, shape: Literal["xlsx", "csv"], search: str = "", kind: str = "", part_class: str = "", unmodelled: bool = False
) -> HttpResponse:
    """The part list as found, as a file that can be brought in again."""
    parts = list(parts_shown(request, search, kind, part_class, unmodelled).order_by("number")[: MOST_LISTED + 1])
    if len(parts) > MOST_LISTED:
        raise TallyError(f"A list leaves with at most {MOST_LISTED:,} parts; find fewer first.")
    columns, rows = part_rows(parts, part_class, sees_costs(request.user))
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


@router.post("/rows", response=RowsSaved)
def save_rows(request: HttpRequest, payload: RowsIn) -> Any:
    """Make and change many parts, all of them or none."""
    made, changed = save_parts(request.user, [r.dict(by_alias=True) for r in payload.rows], payload.reason)
    return {"made": made, "changed": changed}
