"""Lists for their readers over HTTP: columns, how they are kept, a look, and the files."""

from typing import Any, Literal

from accounts.access import sees_costs
from django.http import HttpRequest, HttpResponse
from formats.answers import file_answer
from jobs.long_work import long_work
from lists.actions.keep_list import drop_list, keep_list, lists_of
from lists.columns import COLUMNS, OWN
from lists.leaving import LEAVES_AS, WITHOUT_COSTS, left_as, the_sheet_of
from lists.making import make_list
from lists.models import KeptList
from lists.wanted import ARRANGEMENTS, Wanted, of_plain, read_wanted, without_money
from loading.basis import BasisIn, read_basis
from ninja import Query, Router, Schema
from readings.part_list import fields_of_classes, money_fields
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from api.sheets import OptionOut, the_sheet

__all__ = ["router"]

router = Router(tags=["lists"])
#: Rows of a list that a look shows.
SHOWN = 400


class WantedIn(Schema):
    """How a list is made. ``column``: a key, or key=heading; ``keep_out``: kind:…, class:… or part:…; ``kept``: the key of a
    kept list, which stands in for all else."""

    arrangement: str = "indented"
    column: list[str] = []
    sort: str = ""
    down: bool = False
    keep_out: list[str] = []
    decimal: str = "."
    kept: int | None = None


class HeadingOut(Schema):
    """A column of a list, and what its reader calls it."""

    key: str
    title: str


class WantedOut(Schema):
    arrangement: str
    columns: list[HeadingOut]
    sort: str
    down: bool
    keep_out: list[str]
    decimal: str


class KeptListOut(WantedOut):
    id: int
    name: str
    by: str
    mine: bool
    for_all: bool


class KeptListIn(WantedOut):
    name: str
    for_all: bool = False


class ColumnOut(Schema):
    key: str
    title: str
    holds: Literal["text", "part", "number", "money", "picture", "tick"]
    words: str


class ListWordsOut(Schema):
    """What a list can be made of: its columns, how its rows may stand, and the shapes it leaves in."""

    columns: list[ColumnOut]
    arrangements: dict[str, str]
    shapes: list[str]
    kept: list[KeptListOut]


class MadeColumn(Schema):
    key: str
    title: str
    holds: str


class MadeRowOut(Schema):
    level: int
    kind: str
    number: str
    cells: list[str | float | None]
    picture: int | None


class MadeListOut(Schema):
    """A list, the first rows of it. ``count``: of all rows; ``kinds``, ``classes``: of which some row is."""

    part: str
    description: str
    sheet: int
    revision: str
    columns: list[MadeColumn]
    rows: list[MadeRowOut]
    count: int
    kept_out: int
    kinds: list[str]
    classes: list[str]
    unit: str
    currency: str
    as_of: str
    options: list[OptionOut]


def _wanted(user: Any, given: WantedIn) -> Wanted:
    if given.kept is not None:
        kept = lists_of(user).filter(pk=given.kept).first()
        if kept is None:
            raise MissingError("This list is no longer kept.")
        wanted = of_plain(kept.value)
    else:
        wanted = read_wanted(given.arrangement, given.column, given.sort, given.down, given.keep_out, given.decimal)
    return wanted if sees_costs(user) else without_money(wanted, money_fields())


def _shapes(user: Any) -> list[str]:
    return list(LEAVES_AS) if sees_costs(user) else list(WITHOUT_COSTS)


def _plain(wanted: Wanted) -> dict[str, Any]:
    return wanted.plain() | {"columns": [{"key": key, "title": title} for key, title in wanted.columns]}


def _kept(row: KeptList, user: Any) -> dict[str, Any]:
    mine = row.user_id == user.pk
    return _plain(of_plain(row.value)) | {
        "id": row.pk,
        "name": row.name,
        "by": row.user.get_username(),
        "mine": mine,
        "for_all": row.for_all,
    }


@router.get("/words", response=ListWordsOut)
def read_words(request: HttpRequest) -> Any:
    """The columns that a list may have, and the lists that the signed-in person keeps or that are kept for all."""
    costs = sees_costs(request.user)
    kept_off: set[str] = set() if costs else money_fields()
    own = [
        {"key": OWN + name, "title": name, "holds": "text", "words": f"of {classes}"}
        for name, classes in fields_of_classes()
        if name not in kept_off
    ]
    known = {k: c for k, c in COLUMNS.items() if costs or c.holds != "money"}
    return {
        "columns": [{"key": k, "title": c.title, "holds": c.holds, "words": c.words} for k, c in known.items()] + own,
        "arrangements": ARRANGEMENTS,
        "shapes": _shapes(request.user),
        "kept": [_kept(row, request.user) for row in lists_of(request.user)],
    }


@router.get("/look", response=MadeListOut)
@long_work
def look(request: HttpRequest, part: str, basis: Query[BasisIn], wanted: Query[WantedIn], sheet: int | None = None) -> Any:
    """A list as its reader wants it, the first rows."""
    held = read_basis(basis)
    made = make_list(the_sheet(sheet) if sheet is not None else the_sheet_of(part, held), held, _wanted(request.user, wanted))
    return {
        "part": made.sheet.part.number,
        "description": made.sheet.part.description,
        "sheet": made.sheet.pk,
        "revision": made.sheet.revision,
        "columns": [{"key": k, "title": c.title, "holds": c.holds} for c, (k, _) in zip(made.columns, made.wanted.columns, strict=True)],
        "rows": made.rows[:SHOWN],
        "count": len(made.rows),
        "kept_out": made.kept_out,
        "kinds": made.kinds,
        "classes": made.classes,
        "unit": made.sheet.part.unit,
        "currency": made.currency,
        "as_of": held.as_of.isoformat(),
        "options": made.options,
    }


@router.get("/file")
@long_work
def write_file(
    request: HttpRequest,
    part: Query[list[str]],
    shape: Query[list[str]],
    basis: Query[BasisIn],
    wanted: Query[WantedIn],
    sheet: int | None = None,
) -> HttpResponse:
    """One product in one shape as a file; several as an archive with a manifest. ``sheet`` chooses a revision of one of them."""
    shapes = _shapes(request.user)
    if not part or not set(shape) <= set(shapes):
        raise ProblemsError([Problem("shape", f"the shapes are {', '.join(shapes)}")])
    held = read_basis(basis)
    chosen = the_sheet(sheet) if sheet is not None else None
    return file_answer(*left_as(part, chosen, held, shape, _wanted(request.user, wanted)))


@router.post("/kept", response=list[KeptListOut])
def keep(request: HttpRequest, payload: KeptListIn) -> Any:
    """Keep how a list is made under a name."""
    columns = [f"{c.key}={c.title}" for c in payload.columns]
    keep_list(
        request.user,
        payload.name,
        payload.for_all,
        read_wanted(payload.arrangement, columns, payload.sort, payload.down, payload.keep_out, payload.decimal),
    )
    return [_kept(row, request.user) for row in lists_of(request.user)]


@router.post("/kept/{list_id}/drop", response=list[KeptListOut])
def let_go(request: HttpRequest, list_id: int) -> Any:
    """Let a kept list go."""
    drop_list(request.user, list_id)
    return [_kept(row, request.user) for row in lists_of(request.user)]
