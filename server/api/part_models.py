"""Models of parts over HTTP."""

from typing import Any

from definition.records import plain_decimal
from django.http import HttpRequest, HttpResponse
from files.store import served
from formats.answers import file_answer
from geometry.actions.take_model import take_model
from geometry.flat import flat_dxf
from geometry.models import PartShape
from geometry.reads import look_of, model_job, model_of
from geometry.run_times import known_of
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError
from tally_core.stated.run_times import run_minutes

from api.jobs import JobOut, job_out
from api.parts import the_part

__all__ = ["router"]

router = Router(tags=["parts"])


class Drawing(Schema):
    """A line drawing: polylines x, y, x, y … from the upper left corner, seen and hidden."""

    width: int
    height: int
    seen: list[list[int]]
    hidden: list[list[int]]


class Bend(Schema):
    """Inner radius in millimetres, and by how many degrees it turns."""

    radius: float
    angle: float


class SheetMetal(Schema):
    """A part bent from sheet, laid flat (rule M3); ``outline``: rings x, y, x, y …, the outer first. ``why_not`` says why a part is none."""

    why_not: str
    thickness: float = 0
    k: float = 0
    bends: list[Bend] = []
    flat: list[float] = []
    cut_length: float = 0
    cutouts: int = 0
    outline: list[list[float]] = []


class ShapeOut(Schema):
    """The shape of a part as its model has it; lengths in millimetres. ``of``: the part whose file it was."""

    name: str
    box_mm: list[str]
    volume_mm3: str
    surface_mm2: str
    colour: str
    drawing: Drawing | None
    sheet: SheetMetal | None
    of: str
    file: str


class ModelRow(Schema):
    """A name in the file, how often it stands there, and our part of that name with how often it stands on our sheets."""

    name: str
    count: int
    number: str
    description: str
    on_sheet: float | None
    size: str
    drawing: bool


class ModelOut(Schema):
    """``file``: the newest one brought in for this part that could be read, with ``pieces``: how many others it refers to; ``rows``: what it holds
    beside the part itself; ``as_stated``: of how many shapes the file states figures, which were compared; ``look``: the part in whose model it is
    looked at from any side, empty where there is none."""

    shape: ShapeOut | None
    file: str
    pieces: int
    as_stated: int
    by: str
    at: str
    problems: list[str]
    rows: list[ModelRow]
    look: str
    job: JobOut | None
    failed: str


def _shape(row: PartShape) -> dict[str, Any]:
    return {
        "name": row.name,
        "box_mm": row.box_mm,
        "volume_mm3": row.volume_mm3,
        "surface_mm2": row.surface_mm2,
        "colour": row.colour,
        "drawing": row.drawing,
        "sheet": None if row.sheet is None else {"why_not": row.sheet.get("not", ""), **{k: v for k, v in row.sheet.items() if k != "not"}},
        "of": row.source.part.number,
        "file": row.source.name,
    }


@router.get("/one/model", response=ModelOut)
def read_model(request: HttpRequest, number: str) -> Any:
    """The shape of a part, and what the newest model brought in for it counts beside our sheets."""
    part = the_part(number)
    found, job = model_of(part), model_job(part)
    file = found["file"]
    return {
        "shape": _shape(found["shape"]) if found["shape"] else None,
        "file": file.name if file else "",
        "pieces": file.pieces.count() if file else 0,
        "as_stated": file.said.get("as_stated", 0) if file else 0,
        "by": file.added_by if file else "",
        "at": file.added_at.isoformat() if file else "",
        "problems": file.said["problems"] if file else [],
        "rows": found["rows"],
        "look": found["look"],
        "job": job_out(job),
        "failed": job.failed,
    }


@router.get("/one/shape", response=ShapeOut)
def read_shape(request: HttpRequest, number: str) -> Any:
    """The shape of a part alone."""
    row = PartShape.objects.select_related("source__part").filter(part=the_part(number)).first()
    if row is None:
        raise MissingError(f"No model holds {number}.")
    return _shape(row)


@router.get("/one/look.glb")
def read_look(request: HttpRequest, number: str) -> Any:
    """Everything in the model of a part in its place, as glTF 2.0."""
    model = look_of(the_part(number))
    if model is None or model.look is None:
        raise MissingError(f"No model of {number} can be looked at from any side.")
    answer = served(model.look, f"{number}.glb")
    # The same address holds the next model as soon as one is brought in.
    answer["Cache-Control"] = "private, no-cache"
    return answer


class KnownName(Schema):
    name: str
    value: float | str


class RunTimeOut(Schema):
    """``minutes``: none where ``problem`` says why; ``known``: names that may stand in the expression, and what they say of the part."""

    minutes: str | None
    problem: str
    known: list[KnownName]


@router.get("/one/run-time", response=RunTimeOut)
def read_run_time(request: HttpRequest, number: str, expression: str = "") -> Any:
    """What a run time comes to that is computed from fields of the part which is made. Changes nothing."""
    part = the_part(number)
    known = known_of([part])[part.pk]
    minutes, problem = None, ""
    if expression.strip():
        try:
            minutes = plain_decimal(run_minutes(expression, known))
        except ValueError as error:
            problem = f"The expression {error}." if str(error).startswith(("needs", "divides")) else f"{error}."
    return {"minutes": minutes, "problem": problem, "known": [{"name": n, "value": v} for n, v in known.items()]}


@router.get("/one/flat.dxf")
def read_flat(request: HttpRequest, number: str) -> HttpResponse:
    """The flat outline of a part bent from sheet, as DXF."""
    row = PartShape.objects.select_related("part").filter(part=the_part(number)).first()
    if row is None:
        raise MissingError(f"No model holds {number}.")
    return file_answer(flat_dxf(row), "image/vnd.dxf", f"{number}-flat", "dxf")


@router.post("/one/model", response=ModelOut)
def bring_model(request: HttpRequest, number: str, file: list[UploadedFile] = File(...)) -> Any:  # noqa: B008
    """Bring in a STEP file as the model of a part, with those that it refers to; the worker reads it."""
    take_model(request.user, number, [(f.name or "model.step", f.read()) for f in file])
    return read_model(request, number)
