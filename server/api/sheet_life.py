"""How a sheet lives, over HTTP: opened, released, dated, retired, dropped; its history, and two of them compared."""

from datetime import date
from typing import Any

from definition.models.sheets import BuildSheet
from django.http import HttpRequest
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from loading.reads import part_named
from ninja import Query, Router, Schema
from readings.comparison import compare, sheet_in_force
from readings.history import sheet_history
from readings.sheet_view import sheet_head
from tally_core.cost.answers import Basis
from verbs.sheets.date_revision import date_revision
from verbs.sheets.drop_draft import drop_draft
from verbs.sheets.release_revision import release_revision, release_together
from verbs.sheets.retire_revision import retire_revision

from api.sheets import BasisOut, OptionOut, SheetHead, the_sheet

__all__ = ["router"]

router = Router(tags=["sheets"])


class Release(Schema):
    version: int
    first_day: date
    reason: str


class ReleaseTogether(Schema):
    """``sheets`` maps the drafts to the versions they were looked at in."""

    sheets: dict[int, int]
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
        return (the_sheet(key) if key else sheet_in_force(part_named(part), held)), held

    return compare(*side(left, left_day), *side(right, right_day))


@router.post("/{sheet_id}/release", response=SheetHead)
def release(request: HttpRequest, sheet_id: int, payload: Release) -> Any:
    """Release a draft."""
    return sheet_head(release_revision(request.user, sheet_id, payload.version, payload.first_day, payload.reason))


@router.post("/release", response=list[SheetHead])
def release_several(request: HttpRequest, payload: ReleaseTogether) -> Any:
    """Release several drafts, all of them or none."""
    released = release_together(request.user, payload.sheets, payload.first_day, payload.reason)
    return [sheet_head(sheet) for sheet in released]


@router.post("/{sheet_id}/retire", response=SheetHead)
def retire(request: HttpRequest, sheet_id: int, payload: Retire) -> Any:
    """Withdraw a released revision."""
    return sheet_head(retire_revision(request.user, sheet_id, payload.version, payload.reason))


@router.post("/{sheet_id}/days", response=SheetHead)
def set_days(request: HttpRequest, sheet_id: int, payload: Days) -> Any:
    """Change the days on which a released revision is in force."""
    return sheet_head(date_revision(request.user, sheet_id, payload.version, payload.first_day, payload.last_day, payload.reason))


@router.post("/{sheet_id}/drop")
def drop(request: HttpRequest, sheet_id: int, payload: Dropped) -> dict[str, bool]:
    """Drop a draft."""
    drop_draft(request.user, sheet_id, payload.version)
    return {"dropped": True}


@router.get("/{sheet_id}/history", response=list[HistoryEntry])
def read_history(request: HttpRequest, sheet_id: int) -> Any:
    """What happened to a sheet, the newest first."""
    return sheet_history(the_sheet(sheet_id))
