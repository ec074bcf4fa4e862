"""Drawings over HTTP."""

from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from drawings.actions.lay_drawing import add_picture, add_view, begin_drawing, keep_drawing, new_numbers, number_sheet, put_balloons
from drawings.laid import PAPERS, View, of_plain, read_laid
from drawings.models import Drawing, DrawnPicture
from drawings.paper import SHAPES, marks, paper_of
from drawings.standing import Standing, anchor, standing
from files.store import served
from formats.answers import file_answer
from formats.step_lines import VIEWS
from geometry.actions.cut_model import CUTTING
from jobs.long_work import long_work
from jobs.work import job_state, last_job
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from tally_core.basics.errors import MissingError
from tally_core.drawings.by_position import Group

from api.jobs import JobOut, job_out
from api.parts import the_part

__all__ = ["router"]

router = Router(tags=["drawings"])

Point = list[float]
Sides = Annotated[list[float], Field(min_length=4, max_length=4)]
Place = Annotated[list[float], Field(min_length=2, max_length=2)]


class LaidView(Schema):
    """A view on the paper: its upper left corner, how much paper one millimetre of the model takes, and what of it is not drawn.

    With a ``depth`` it is cut so many millimetres behind the foremost point of the model; with ``of`` it is a detail of that view, and shows its ``box``:
    x, y, width, height in millimetres of the model. ``letter``: what a section or a detail is called by.
    With a ``picture`` it shows that one, and one millimetre of it is one of paper at scale 1."""

    key: str
    direction: str
    scale: float
    x: float
    y: float
    hidden: bool = False
    left_out: list[str] = []
    depth: float | None = None
    of: str = ""
    box: Sides | None = None
    letter: str = ""
    picture: int | None = None


class LaidBalloon(Schema):
    """The balloon of a line, known by its lineage. ``at``: in the view; none where it is seen best. ``to``: on the paper. ``more``: lines whose balloons
    stand beneath it."""

    line: str
    view: str
    to: Place
    at: Place | None = None
    by_hand: bool = False
    more: list[str] = []


class LaidDrawing(Schema):
    size: str = "A3"
    owner: str = ""
    views: list[LaidView] = []
    balloons: list[LaidBalloon] = []
    off: list[str] = []
    quantities: bool = False
    revisions: bool = False


class DrawingKept(Schema):
    version: int | None = None
    laid: LaidDrawing


class VersionOf(Schema):
    version: int | None = None


class ViewAsked(VersionOf):
    """From where the model is to be seen; how far behind its foremost point it is cut, if it is; or the view of which a detail is wanted."""

    direction: str = ""
    depth: float | None = None
    of: str = ""


class GroupIn(Schema):
    """How a class of parts counts; the empty class is all others. ``upward``: from the lowest row up."""

    part_class: str = ""
    start: int = 10
    step: int = 10
    upward: bool = False


class PositionsIn(Schema):
    groups: list[GroupIn] = []
    tolerance_mm: float = 12.0


class PositionChange(Schema):
    line: str
    number: str
    description: str
    before: int | None
    after: int
    locked: bool


class DrawnPart(Schema):
    """A part of the model in a view; polylines in millimetres of the model."""

    name: str
    number: str
    seen: list[Point]
    hidden: list[Point]
    hatch: list[Point]


class DrawnView(Schema):
    """``name``: of the file that a picture is from, with its page."""

    key: str
    name: str
    width: float
    height: float
    parts: list[DrawnPart]


class BalloonCircle(Schema):
    """``item`` is what the sheet says today; ``gone``: it no longer has that line."""

    line: str
    item: int | None
    number: str
    quantity: str
    gone: bool


class DrawnBalloon(Schema):
    """``ends``: where its leader ends on the paper; ``circles``: one for each line it shows, one beneath the other."""

    line: str
    view: str
    to: Place
    ends: Place | None
    by_hand: bool
    circles: list[BalloonCircle]


class DrawnLine(Schema):
    """A line of the sheet; ``modelled``: the model holds its part."""

    line: str
    item: int | None
    number: str
    description: str
    part_class: str
    quantity: str
    unit: str
    locked: bool
    modelled: bool


class Mark(Schema):
    """A mark on the paper in millimetres: a line through points, or a text."""

    kind: Literal["line", "text"]
    points: Point
    width: float = 0.0
    dash: str = ""
    text: str = ""
    size: float = 0.0
    at: str = ""
    strong: bool = False


class DrawingOut(Schema):
    part: str
    description: str
    version: int
    sheet: int
    revision: str
    status: str
    paper: Place
    laid: LaidDrawing
    marks: list[Mark]
    views: list[DrawnView]
    balloons: list[DrawnBalloon]
    lines: list[DrawnLine]
    troubles: list[str]
    directions: list[str]
    depths: dict[str, float]
    sizes: list[str]
    job: JobOut | None
    failed: str


def _stands(drawing: Drawing) -> Standing:
    return standing(drawing.part, of_plain(drawing.laid))


def _out(drawing: Drawing) -> dict[str, Any]:
    found = _stands(drawing)
    lines = {x.key: x for x in found.lines}
    job = job_state(last_job(CUTTING, drawing.part_id))
    return {
        "part": found.part.number,
        "description": found.part.description,
        "version": drawing.version,
        "sheet": found.sheet.pk,
        "revision": found.sheet.revision,
        "status": found.sheet.status,
        "paper": PAPERS[found.laid.size],
        "laid": drawing.laid,
        "marks": marks(found),
        "views": [
            {
                "key": key,
                "name": _picture_name(said["picture"]) if "picture" in said else "",
                "width": said["width"],
                "height": said["height"],
                "parts": [{"number": found.names.get(p["name"], ""), **p} for p in said["parts"]],
            }
            for key, said in found.views.items()
        ],
        "balloons": [
            {
                "line": b.line,
                "view": b.view,
                "to": b.to,
                "ends": anchor(found, b),
                "by_hand": b.by_hand,
                "circles": [
                    {
                        "line": key,
                        "item": lines[key].item if key in lines else None,
                        "number": lines[key].number if key in lines else "",
                        "quantity": lines[key].quantity if key in lines and found.laid.quantities else "",
                        "gone": key not in lines,
                    }
                    for key in b.lines
                ],
            }
            for b in found.laid.balloons
        ],
        "lines": [
            {
                "line": x.key,
                "item": x.item,
                "number": x.number,
                "description": x.description,
                "part_class": x.part_class,
                "quantity": x.quantity,
                "unit": x.unit,
                "locked": x.locked,
                "modelled": bool(x.name),
            }
            for x in found.lines
        ],
        "troubles": found.troubles,
        "directions": list(VIEWS),
        "depths": found.depths,
        "job": job_out(job),
        "failed": job.failed,
        "sizes": list(PAPERS),
    }


def _picture_name(picture: DrawnPicture) -> str:
    return picture.name if picture.page == 1 else f"{picture.name}, page {picture.page}"


def _the_drawing(number: str) -> Drawing:
    drawing = Drawing.objects.select_related("part").filter(part=the_part(number)).first()
    if drawing is None:
        raise MissingError(f"{number} has no drawing yet.")
    return drawing


def _groups(payload: PositionsIn) -> dict[str, Group]:
    return {"": Group()} | {g.part_class: Group(g.start, g.step, g.upward) for g in payload.groups}


@router.get("/one", response=DrawingOut)
def read_drawing(request: HttpRequest, number: str) -> Any:
    """The drawing of a part, with the numbers of today."""
    return _out(_the_drawing(number))


@router.post("/one", response=DrawingOut)
def begin(request: HttpRequest, number: str) -> Any:
    """Begin the drawing of a part."""
    return _out(begin_drawing(request.user, number))


@router.put("/one", response=DrawingOut)
def keep(request: HttpRequest, number: str, payload: DrawingKept) -> Any:
    """Keep a drawing as it was laid."""
    return _out(keep_drawing(request.user, number, payload.version, read_laid(payload.laid.dict())))


@router.post("/one/views", response=DrawingOut)
def one_more_view(request: HttpRequest, number: str, payload: ViewAsked) -> Any:
    """One more view, section or detail, where there is room; a section is cut by the worker."""
    asked = View("", payload.direction, 1.0, 0.0, 0.0, depth=payload.depth, of=payload.of)
    return _out(add_view(request.user, number, payload.version, asked))


@router.post("/one/pictures", response=DrawingOut)
def bring_picture(request: HttpRequest, number: str, version: int | None = None, page: int = 1, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """A picture, or a page of a PDF, as one more view, where there is room."""
    return _out(add_picture(request.user, number, version, file.name or "picture", file.read(), page))


@router.get("/one/pictures/{picture}")
def read_picture(request: HttpRequest, number: str, picture: int) -> Any:
    """A picture that was brought in, as PNG."""
    found = DrawnPicture.objects.select_related("file").filter(pk=picture, drawing__part=the_part(number)).first()
    if found is None:
        raise MissingError("This picture is not on the drawing.")
    return served(found.file, f"{found.name}.png")


@router.post("/one/balloons", response=DrawingOut)
def balloons(request: HttpRequest, number: str, payload: VersionOf) -> Any:
    """Put balloons where they belong; what was put by hand stays."""
    return _out(put_balloons(request.user, number, payload.version))


@router.post("/one/numbers/planned", response=list[PositionChange])
def plan_numbers(request: HttpRequest, number: str, payload: PositionsIn) -> Any:
    """The numbers that lines would get by position. Saves nothing."""
    found = _stands(_the_drawing(number))
    numbers = new_numbers(found, _groups(payload), max(payload.tolerance_mm, 0.01))
    return [
        {"line": x.key, "number": x.number, "description": x.description, "before": x.item, "after": numbers[x.key], "locked": x.locked}
        for x in sorted(found.lines, key=lambda x: numbers.get(x.key, 0))
        if x.key in numbers
    ]


@router.post("/one/numbers", response=DrawingOut)
def number_by_place(request: HttpRequest, number: str, payload: PositionsIn) -> Any:
    """Number the sheet by position, in its draft."""
    return _out(number_sheet(request.user, number, _groups(payload), payload.tolerance_mm))


@router.get("/one/paper/{shape}")
@long_work
def read_paper(request: HttpRequest, number: str, shape: Literal["pdf", "svg", "dxf"]) -> HttpResponse:
    """The drawing as a file at true scale."""
    drawing = _the_drawing(number)
    found = _stands(drawing)
    return file_answer(paper_of(found, shape), SHAPES[shape], f"{number}-{found.sheet.revision}-drawing", shape)
