"""Cutting over HTTP: plans, what materials come in, what is left of them."""

from typing import Any, Literal

from cutting.actions.cut_plan import cut_plan
from cutting.actions.keep_sizes import add_leftover, keep_sizes, leftover_gone
from cutting.actions.plan_cuts import drop_plan, plan_cuts, plan_now
from cutting.actions.state_loss import state_loss
from cutting.models import CutPlan
from cutting.papers import SHAPES, paper_of
from cutting.reads import one_plan, plans, sizes
from django.http import HttpRequest, HttpResponse
from formats.answers import CSV, PDF, WORKBOOK, file_answer
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from ninja import Router, Schema
from readings.matrix import Build
from readings.sheet_view import sheet_head
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from api.jobs import JobOut, job_out
from api.parts import Count, the_part
from api.sheets import SheetHead, the_sheet

__all__ = ["router"]

router = Router(tags=["cutting"])
_KINDS = {"xlsx": WORKBOOK, "csv": CSV, "pdf": PDF, "labels": PDF, "dxf": "image/vnd.dxf"}


class CutBuild(Schema):
    part: str
    quantity: str
    options: list[str] = []


class CutPlanIn(Schema):
    """``keep_mm``: what is shorter or narrower is waste."""

    builds: list[CutBuild]
    kerf_mm: str = "3"
    keep_mm: str = "300"
    drafts: bool = False


class CutPlanHead(Schema):
    id: int
    number: str
    state: Literal["asked", "made", "cut"]
    day: str
    kerf_mm: str
    keep_mm: str
    builds: list[CutBuild]
    made_by: str
    made_at: str
    cut_by: str
    cut_at: str


class ListedCutPlan(CutPlanHead):
    doing: str


class CutPiece(Schema):
    """A kind of piece: finished and as it is cut, in millimetres; ``count`` for all builds. ``scrap_percent``: what its line states."""

    name: str
    parent: str
    sheet: int
    line: str
    item: int | None
    words: str
    count: int
    length: str
    width: str | None
    cut_length: str
    cut_width: str | None
    grain: str
    edges: list[str]
    over: str
    stated: str
    finished: str | None
    each: int
    scrap_percent: str | None


class PlacedPiece(Schema):
    name: str
    x: str
    y: str
    along: str
    across: str
    turned: bool


class CutPattern(Schema):
    """So many of a stock cut the same way; ``leftover``: the key of the leftover it is."""

    stock: str
    length: str
    width: str | None
    leftover: int | None
    count: int
    placed: list[PlacedPiece]


class LeftPiece(Schema):
    length: str
    width: str | None
    count: int


class CutMaterial(Schema):
    """``bound``: no way of cutting takes less, in number or, where stock differs in cost, in cost. ``taken``: in the part's unit.

    ``loss_percent``: what more than finished pieces is taken.
    """

    part: str
    description: str
    unit: str
    boards: bool
    stops: str
    pieces: list[CutPiece]
    used: list[CutPattern]
    count: int
    bound: str
    bound_of: Literal["number", "cost"]
    proven: bool
    waste_percent: str
    cost: str | None
    taken: str | None
    left: list[LeftPiece]
    loss_percent: str | None


class CutPlanWhyNot(Schema):
    """For each action why it cannot be done with a plan as it stands, in words; null where it can."""

    change: str | None
    cut: str | None


class CutPlanOut(CutPlanHead):
    """``behind`` says what moved since it was made."""

    job: JobOut | None
    failed: str
    behind: str
    why_not: CutPlanWhyNot
    materials: list[CutMaterial]


class StockSizeOut(Schema):
    length_mm: str
    width_mm: str | None
    cost: str | None
    by_part: str | None


class LeftoverOut(Schema):
    id: int
    length_mm: str
    width_mm: str | None
    words: str
    at: str


class SizesOut(Schema):
    """``stated``: False where the sizes are those of the part itself."""

    part: str
    stated: bool
    sizes: list[StockSizeOut]
    leftovers: list[LeftoverOut]


class StockSizeIn(Schema):
    length_mm: str
    width_mm: str = ""
    cost: str = ""


class LeftoverIn(Schema):
    length_mm: str
    width_mm: str = ""
    count: str = "1"
    note: str = ""


class CutNow(Schema):
    """``moves_stock``: what is taken leaves the stock of its material."""

    moves_stock: bool = True


class LossOf(Schema):
    part: str


def _the_plan(plan_id: int) -> CutPlan:
    plan = CutPlan.objects.filter(pk=plan_id).first()
    if plan is None:
        raise MissingError("This plan is no longer there.")
    return plan


def _whole(plan: CutPlan) -> dict[str, Any]:
    said = one_plan(plan)
    return said | {"job": job_out(said["job"]), "failed": said["job"].failed}


@router.get("", response=list[ListedCutPlan])
def list_plans(request: HttpRequest) -> Any:
    """Plans of cutting, the newest first."""
    return plans()


@router.post("", response=CutPlanOut)
def open_plan(request: HttpRequest, payload: CutPlanIn) -> Any:
    """Plan how some builds are cut; the worker finds out."""
    builds = []
    for at, b in enumerate(payload.builds):
        try:
            held = read_basis(BasisIn(quantity=b.quantity, options=",".join(b.options)))
        except ProblemsError as error:
            raise ProblemsError([Problem(f"builds[{at}].{p.place}", p.message) for p in error.problems]) from None
        builds.append(Build(b.part, held.options, held.quantity))
    return _whole(_the_plan(plan_cuts(request.user, builds, payload.kerf_mm, payload.keep_mm, payload.drafts).pk))


@router.get("/sizes", response=SizesOut)
def read_sizes(request: HttpRequest, number: str) -> Any:
    """In which sizes a material comes, and what is left of it."""
    return sizes(the_part(number))


@router.put("/sizes", response=SizesOut)
def save_sizes(request: HttpRequest, number: str, payload: list[StockSizeIn]) -> Any:
    """Say in which sizes a material comes."""
    keep_sizes(request.user, number, [row.dict() for row in payload])
    return sizes(the_part(number))


@router.post("/leftovers", response=SizesOut)
def count_leftover(request: HttpRequest, number: str, payload: LeftoverIn) -> Any:
    """Leftovers that somebody found."""
    add_leftover(request.user, number, payload.length_mm, payload.width_mm, payload.count, payload.note)
    return sizes(the_part(number))


@router.post("/leftovers/{leftover_id}/gone", response=Count)
def drop_leftover(request: HttpRequest, leftover_id: int) -> Any:
    """A leftover is not there any more."""
    leftover_gone(request.user, leftover_id)
    return {"count": 1}


@router.get("/{plan_id}", response=CutPlanOut)
@long_work
def read_plan(request: HttpRequest, plan_id: int) -> Any:
    """A plan of cutting whole."""
    return _whole(_the_plan(plan_id))


@router.post("/{plan_id}/again", response=CutPlanOut)
def plan_again(request: HttpRequest, plan_id: int) -> Any:
    """Make a plan anew, by what holds now."""
    return _whole(_the_plan(plan_now(request.user, plan_id).pk))


@router.post("/{plan_id}/cut", response=CutPlanOut)
def cut_now(request: HttpRequest, plan_id: int, payload: CutNow) -> Any:
    """Say that a plan was cut."""
    return _whole(cut_plan(request.user, plan_id, payload.moves_stock))


@router.post("/{plan_id}/loss", response=list[SheetHead])
def put_loss(request: HttpRequest, plan_id: int, payload: LossOf) -> Any:
    """State what is lost of a material on the lines that are cut from it, in drafts; answers with those."""
    return [sheet_head(the_sheet(sheet.pk)) for sheet in state_loss(request.user, plan_id, payload.part)]


@router.post("/{plan_id}/drop", response=list[ListedCutPlan])
def let_go(request: HttpRequest, plan_id: int) -> Any:
    """Let a plan go that was not cut."""
    drop_plan(request.user, plan_id)
    return plans()


@router.get("/{plan_id}/paper/{shape}")
@long_work
def read_paper(request: HttpRequest, plan_id: int, shape: Literal["xlsx", "csv", "pdf", "labels", "dxf"]) -> HttpResponse:
    """A plan on paper: the list of pieces as workbook or CSV, all of it as PDF, labels, or its patterns as DXF."""
    plan = _the_plan(plan_id)
    return file_answer(paper_of(plan, shape), _KINDS[shape], plan.number, SHAPES[shape])
