"""What the page of a part shows beside its fields, over HTTP."""

from typing import Any

from django.http import HttpRequest
from jobs.long_work import long_work
from loading.basis import BasisIn, read_basis
from ninja import Query, Router, Schema
from readings.part_page import alternates, direct_uses, part_history

from api.parts import the_part
from api.words import StatusWord

__all__ = ["router"]

router = Router(tags=["parts"])


class UseOut(Schema):
    """A line that takes the part; ``quantity`` is none where it is taken as needed."""

    part: str
    description: str
    sheet: int
    line: str
    revision: str
    status: StatusWord
    item: int | None
    quantity: str | None
    unit: str
    kind: str
    option: str


class Uses(Schema):
    """The first hundred lines that take the part, and how many there are."""

    total: int
    items: list[UseOut]


class AlternateOut(Schema):
    """A sheet of the part, and what one costs built by it; ``problem`` says why there is no cost.

    ``rolled``: what it comes to without the cost or markup given by hand; none where nothing is given.
    """

    sheet: int
    alternate: str
    revision: str
    status: StatusWord
    reference: str
    effective_from: str | None
    effective_to: str | None
    counts: bool
    cost: float | None
    rolled: float | None
    problem: str


class FieldChange(Schema):
    field: str
    before: str
    after: str


class PartEntry(Schema):
    """One saving of the part."""

    at: str
    by: str
    reason: str
    made: bool
    changes: list[FieldChange]


@router.get("/one/uses", response=Uses)
def read_uses(request: HttpRequest, number: str) -> Any:
    """Which sheets take the part directly."""
    return direct_uses(the_part(number))


@router.get("/one/alternates", response=list[AlternateOut])
@long_work
def read_alternates(request: HttpRequest, number: str, basis: Query[BasisIn]) -> Any:
    """The ways to build the part, with their costs beside one another."""
    return alternates(the_part(number), read_basis(basis))


@router.get("/one/history", response=list[PartEntry])
def read_history(request: HttpRequest, number: str) -> Any:
    """Who changed which field of the part, from what to what."""
    return part_history(the_part(number))
