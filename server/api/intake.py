"""Bringing in a list over HTTP: the file, what it says, what it will become, and saving it."""

from typing import Any

from definition.records import plain_decimal
from django.http import HttpRequest
from intake.actions.save_intake import save_intake
from intake.actions.take_file import KIND, read_again, take_file
from intake.models import Intake
from intake.plan import Mapping, make_plan
from jobs.work import JobState, job_state, last_job
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from readings.sheet_view import sheet_head
from tally_core.basics.errors import MissingError
from tally_core.lists.cells import text_of, uses_decimal_comma
from tally_core.lists.intake import FIELDS, NUMBERS, find_header, propose_columns

from api.jobs import JobOut, job_out
from api.sheets import SheetHead

router = Router(tags=["intake"])

SHOWN = 300


class Proposal(Schema):
    """How the list could be read: the header's row from 0, and field → column."""

    header: int
    columns: dict[str, int]
    comma: bool


class TableOut(Schema):
    """One sheet of the file: its first rows as text, and a proposal."""

    name: str
    count: int
    rows: list[list[str]]
    proposal: Proposal


class IntakeOut(Schema):
    """A list, with what it waits for, and why it could not be read; ``again`` says whether it can be read once more."""

    id: int
    name: str
    state: str
    job: JobOut | None
    failed: str
    again: bool
    fields: list[str]
    tables: list[TableOut]


class MappingIn(Schema):
    """How to read it; ``top`` is the part the list is for."""

    table: int = 0
    header: int
    columns: dict[str, int]
    top: str = ""
    comma: bool = False
    number_class: str = ""


class PlannedRow(Schema):
    """One row and what it will become."""

    row: int
    level: int
    parent: str
    part: str
    description: str
    quantity: str | None
    unit: str | None
    unit_cost: str | None
    becomes: str
    new: bool
    problems: list[str]
    looks: list[str]


class PlanOut(Schema):
    """The whole list as it will be saved; ``stops`` counts what keeps it from that."""

    top: str
    rows: list[PlannedRow]
    sheets: list[str]
    new_parts: int
    problems: list[str]
    stops: int


def _intake(request: HttpRequest, intake_id: int) -> Intake:
    intake = Intake.objects.filter(pk=intake_id, made_by=request.user.pk).first()
    if intake is None:
        raise MissingError("This list is no longer there; bring the file in again.")
    return intake


def _table(intake: Intake, index: int) -> TableOut:
    rows = intake.rows(index)
    header = find_header(rows)
    at = header if header is not None else 0
    columns = propose_columns(rows, at) if rows else {}
    amounts = [columns[name] for name in NUMBERS if name in columns]
    numbers = (row[x] for row in rows[at + 1 :] for x in amounts if x < len(row))
    return TableOut(
        name=intake.grid[index]["name"],
        count=len(rows),
        rows=[[text_of(c) for c in row] for row in rows[:SHOWN]],
        proposal=Proposal(header=at, columns=columns, comma=uses_decimal_comma(numbers)),
    )


def _out(intake: Intake) -> IntakeOut:
    state, job = intake.state, JobState()
    if state == "unread":
        job = job_state(last_job(KIND, intake.pk))
        if not job.doing:
            # It may have been read between the two looks.
            intake = Intake.objects.get(pk=intake.pk)
        state = (
            "waiting"
            if job.waits
            else "reading"
            if job.doing
            else "failed"
            if intake.state == "unread"
            else intake.state
        )
    return IntakeOut(
        id=intake.pk,
        name=intake.name,
        state=state,
        job=job_out(job),
        failed=job.failed,
        again=state == "failed",
        fields=list(FIELDS),
        tables=[_table(intake, index) for index in range(len(intake.grid))],
    )


@router.post("", response=IntakeOut)
def bring_in(request: HttpRequest, file: UploadedFile = File(...)) -> IntakeOut:  # noqa: B008
    """Take a file; the worker reads it."""
    return _out(take_file(request.user, file.name or "list", file.read()))


@router.get("/{intake_id}", response=IntakeOut)
def read_intake(request: HttpRequest, intake_id: int) -> IntakeOut:
    """How far it is, and once read what it holds."""
    return _out(_intake(request, intake_id))


@router.post("/{intake_id}/again", response=IntakeOut)
def bring_in_again(request: HttpRequest, intake_id: int) -> IntakeOut:
    """Have it read once more, where that failed."""
    return _out(read_again(request.user, intake_id))


@router.post("/{intake_id}/plan", response=PlanOut)
def plan(request: HttpRequest, intake_id: int, payload: MappingIn) -> PlanOut:
    """What every row will become. Saves nothing."""
    made = make_plan(_intake(request, intake_id), Mapping(**payload.dict()))
    rows = [
        PlannedRow(
            row=r.row,
            level=r.level,
            parent=r.parent,
            part=r.part,
            description=r.description,
            quantity=plain_decimal(r.quantity),
            unit=r.unit,
            unit_cost=plain_decimal(r.unit_cost),
            becomes=made.becomes.get(r.row, ""),
            new=made.new_parts.get(r.part) is r,
            problems=r.problems,
            looks=r.looks,
        )
        for r in made.rows
    ]
    return PlanOut(
        top=made.top,
        rows=rows,
        new_parts=len(made.new_parts),
        problems=made.problems,
        stops=made.stops,
        sheets=[f"{s.part}, revision {s.revision}" for s in made.sheets if s.part and not s.stands],
    )


@router.post("/{intake_id}/save", response=SheetHead)
def save(request: HttpRequest, intake_id: int, payload: MappingIn) -> Any:
    """Save the list, all of it or nothing; answers with the sheet it made."""
    sheet, _ = save_intake(request.user, intake_id, Mapping(**payload.dict()))
    return sheet_head(sheet)
