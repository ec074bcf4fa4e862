"""Rounds over HTTP."""

from typing import Any, Literal

from accounts.access import require
from django.http import HttpRequest, HttpResponse
from formats.answers import CSV, PDF, WORKBOOK, file_answer
from formats.apart import read_tables
from jobs.long_work import long_work
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from readings.part_list import split_pasted
from rounds.actions.accept_round import ask_to_accept
from rounds.actions.drop_round import drop_round
from rounds.actions.open_round import change_round, open_round
from rounds.actions.propose import Selection, propose, propose_list, propose_percent, withdraw
from rounds.actions.take_over_inputs import take_over_inputs
from rounds.actions.tally_round import ask_for_tally
from rounds.exports import round_csv, round_pdf, round_workbook
from rounds.reads import list_rounds, one_row, proposal_page, round_head, round_history, round_named, rows_page, side_working

from api.costs import WorkingOut
from api.jobs import JobOut
from api.of_records import CostByElement, MovedByCause
from api.words import PartKindWord

router = Router(tags=["rounds"])


class RoundShort(Schema):
    """A round in the list."""

    id: int
    name: str
    note: str
    first_day: str
    status: str
    scope: str
    opened_by: str
    opened_at: str
    closed_by: str
    closed_at: str | None
    version: int
    proposals: int
    parts: int


class TallyOut(Schema):
    """What a tally comes to: parts in it, how many move, how many have no standard yet; money in currency.

    ``stale`` says what changed since; ``lacking`` cannot be costed for want of a sheet, ``unpriced`` have no price.
    """

    at: str
    by: str
    parts: int
    moved: int
    first: int
    stock_before: float
    stock_after: float
    orders_before: float
    orders_after: float
    lacking: list[str]
    unpriced: list[str]
    stale: list[str]


class Overlap(Schema):
    id: int
    name: str
    parts: int


class RoundWhyNot(Schema):
    """For each action why it cannot be done with a round as it stands, in words; null where it can."""

    change: str | None
    tally: str | None
    accept: str | None
    drop: str | None
    take_over: str | None


class RoundOut(Schema):
    """A round, with what the worker does with it, and why that was not finished the last time."""

    id: int
    name: str
    note: str
    first_day: str
    status: str
    scope: str
    chosen: list[str]
    opened_by: str
    opened_at: str
    closed_by: str
    closed_at: str | None
    version: int
    proposals: int
    job: JobOut | None
    failed: str
    tally: TallyOut | None
    overlaps: list[Overlap]
    why_not: RoundWhyNot


class RoundIn(Schema):
    """What was typed. A field left out stays as it is."""

    name: str | None = None
    first_day: str | None = None
    note: str | None = None
    scope: str | None = None
    chosen: list[str] | None = None


class ProposalOut(Schema):
    """One proposed input beside what stands now; amounts are decimal text, none where nothing is stated."""

    id: int
    table: str
    name: str
    more: str
    field: str
    word: str
    now: str | None
    value: str | None
    source: str
    reason: str
    by: str
    at: str


class ProposalPage(Schema):
    total: int
    offset: int
    items: list[ProposalOut]


class ProposalIn(Schema):
    """An input as typed: of a part by its number, of a work center by its code, of a line or an operation by its key."""

    table: Literal["part", "work_center", "line", "operation"]
    key: str
    field: str
    value: str | None = None
    reason: str = ""


class ProposalsIn(Schema):
    items: list[ProposalIn]


class PercentIn(Schema):
    """A percentage over a selection; empty words select nothing away."""

    table: Literal["part", "work_center", "line", "operation"]
    field: str
    percent: str
    part_class: str = ""
    search: str = ""
    work_center: str = ""
    group: str = ""


class ListIn(Schema):
    text: str


class Withdrawn(Schema):
    ids: list[int]


class VersionIn(Schema):
    version: int


class Proposed(Schema):
    """The round, and over how many inputs the last step went."""

    inputs: int
    round: RoundOut


class RowOut(Schema):
    """One part of a round, old and new, by element and by cause; money per stock unit."""

    id: int
    number: str
    description: str
    kind: PartKindWord
    stock_unit: str
    part_class: str
    given: str
    has_standard: bool
    lot: float
    before: float
    after: float
    before_elements: CostByElement
    elements: CostByElement
    causes: MovedByCause
    on_hand: float
    open: float
    stock_moved: float
    orders_moved: float


class RowPage(Schema):
    total: int
    offset: int
    items: list[RowOut]


@router.get("", response=list[RoundShort])
def read_rounds(request: HttpRequest) -> Any:
    """All rounds, the newest first."""
    return list_rounds()


@router.post("", response=RoundOut)
def make_round(request: HttpRequest, payload: RoundIn) -> Any:
    """Open a round."""
    return round_head(open_round(request.user, payload.dict(exclude_none=True)))


@router.get("/{round_id}", response=RoundOut)
def read_round(request: HttpRequest, round_id: int) -> Any:
    """One round as it stands, and what is being done with it."""
    return round_head(round_named(round_id))


@router.post("/{round_id}/change", response=RoundOut)
def alter_round(request: HttpRequest, round_id: int, payload: RoundIn) -> Any:
    """Change its name, day, note or parts."""
    return round_head(change_round(request.user, round_id, payload.dict(exclude_none=True)))


@router.post("/{round_id}/drop", response=RoundOut)
def give_up_round(request: HttpRequest, round_id: int) -> Any:
    """Drop it; nothing else changes."""
    return round_head(drop_round(request.user, round_id))


@router.post("/{round_id}/tally", response=RoundOut)
def start_tally(request: HttpRequest, round_id: int) -> Any:
    """Have it tallied."""
    ask_for_tally(request.user, round_id)
    return round_head(round_named(round_id))


@router.post("/{round_id}/accept", response=RoundOut)
def start_accept(request: HttpRequest, round_id: int, payload: VersionIn) -> Any:
    """Have it accepted, as it was looked at."""
    ask_to_accept(request.user, round_id, payload.version)
    return round_head(round_named(round_id))


class TakenOver(Schema):
    """How many parts and work centers were written, and how many proposals stand on sheets and were left."""

    parts: int
    centers: int
    left: int


class RoundEvent(Schema):
    """One thing that was done with a round."""

    at: str
    by: str
    what: str


@router.post("/{round_id}/inputs", response=TakenOver)
def take_over(request: HttpRequest, round_id: int) -> Any:
    """Make the prices, lots and rates of an accepted round the inputs themselves."""
    return take_over_inputs(request.user, round_id)


@router.get("/{round_id}/history", response=list[RoundEvent])
def read_history(request: HttpRequest, round_id: int) -> Any:
    """What was done with it, the last first."""
    return round_history(round_named(round_id))


@router.get("/{round_id}/proposals", response=ProposalPage)
def read_proposals(
    request: HttpRequest, round_id: int, offset: int = Query(0, ge=0, le=10_000_000), limit: int = Query(200, ge=1, le=500)
) -> Any:
    """A window of what it proposes."""
    return proposal_page(round_named(round_id), offset, limit)


@router.post("/{round_id}/proposals", response=Proposed)
def add_proposals(request: HttpRequest, round_id: int, payload: ProposalsIn) -> Any:
    """Propose inputs by hand."""
    the_round = propose(request.user, round_id, [item.dict() for item in payload.items])
    return {"inputs": len(payload.items), "round": round_head(the_round)}


@router.post("/{round_id}/proposals/percent", response=Proposed)
def add_percent(request: HttpRequest, round_id: int, payload: PercentIn) -> Any:
    """Propose a percentage over a selection."""
    words = {n: getattr(payload, n) for n in ("part_class", "search", "work_center", "group")}
    the_round, inputs = propose_percent(request.user, round_id, payload.table, payload.field, payload.percent, Selection(**words))
    return {"inputs": inputs, "round": round_head(the_round)}


@router.post("/{round_id}/proposals/list", response=Proposed)
def add_list(request: HttpRequest, round_id: int, payload: ListIn) -> Any:
    """Propose what rows pasted from a spreadsheet hold."""
    the_round, inputs = propose_list(request.user, round_id, split_pasted(payload.text), "pasted")
    return {"inputs": inputs, "round": round_head(the_round)}


@router.post("/{round_id}/proposals/file", response=Proposed)
def add_file(request: HttpRequest, round_id: int, file: File[UploadedFile]) -> Any:
    """Propose what the first sheet of a file holds."""
    require(request.user, "rounds")
    name = file.name or "list"
    the_round, inputs = propose_list(request.user, round_id, read_tables(name, file.read())[0].rows, f"from {name[:80]}")
    return {"inputs": inputs, "round": round_head(the_round)}


@router.post("/{round_id}/proposals/withdraw", response=Proposed)
def take_back(request: HttpRequest, round_id: int, payload: Withdrawn) -> Any:
    """Take proposals back; all of them when none is named."""
    return {"inputs": len(payload.ids), "round": round_head(withdraw(request.user, round_id, payload.ids))}


@router.get("/{round_id}/rows", response=RowPage)
def read_rows(
    request: HttpRequest,
    round_id: int,
    sort: Literal["unit", "stock", "orders", "percent", "number", "new"] = "unit",
    search: str = "",
    part_class: str = "",
    moved: bool = False,
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(200, ge=1, le=500),
) -> Any:
    """A window of old and new, part by part."""
    return rows_page(round_named(round_id), sort, search, part_class, moved, offset, limit)


@router.get("/{round_id}/rows/{part_id}", response=RowOut)
def read_row(request: HttpRequest, round_id: int, part_id: int) -> Any:
    """One part of it."""
    return one_row(round_named(round_id), part_id)


@router.get("/{round_id}/working", response=WorkingOut)
def read_side(request: HttpRequest, round_id: int, part_id: int, side: Literal["old", "new"], figure: str) -> Any:
    """The working of a figure, as it is in the old costing or in the new one."""
    return side_working(round_named(round_id), part_id, side, figure)


@router.get("/{round_id}/export/{shape}")
@long_work
def export_round(request: HttpRequest, round_id: int, shape: Literal["xlsx", "csv", "pdf"]) -> HttpResponse:
    """The round as a workbook with live formulas, as CSV, or as PDF to print."""
    the_round = round_named(round_id)
    if shape == "xlsx":
        return file_answer(round_workbook(the_round), WORKBOOK, the_round.name, shape)
    if shape == "csv":
        return file_answer(round_csv(the_round).encode("utf-8-sig"), CSV, the_round.name, shape)
    return file_answer(round_pdf(the_round), PDF, the_round.name, shape)
