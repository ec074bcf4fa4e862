"""Figures over HTTP: the working of any of them."""

from typing import Any

from definition.models.sheets import BuildSheet
from django.http import HttpRequest
from loading.basis import BasisIn, read_basis
from loading.reads import load_question, part_named
from ninja import Query, Router, Schema
from pydantic import Field
from readings.from_stock import from_stock
from readings.opening import open_figure, stated_over
from readings.rolled_fields import open_field, rolled_fields
from rounds.reads import standards_of
from tally_core.basics.errors import MissingError
from tally_core.cost.answers import tally

from api.of_records import CostByElement
from api.words import RollUpWord

router = Router(tags=["costing"])


class Source(Schema):
    """Who set an input, when, and with which words."""

    by: str
    at: str
    reason: str


class WorkingOut(Schema):
    """A figure and what it was made of; ``figure`` is what to ask for to open it."""

    label: str
    value: float
    unit: str
    operator: str
    note: str
    figure: str | None
    source: Source | None
    operands: list["WorkingOut"]


def sheet_named(sheet_id: int) -> BuildSheet:
    """A sheet by its key. Raises TallyError when it is gone."""
    head = BuildSheet.objects.select_related("part").filter(pk=sheet_id).first()
    if head is None:
        raise MissingError("This sheet is no longer there.")
    return head


@router.get("/working", response=WorkingOut)
def read_working(request: HttpRequest, sheet: int, figure: str, basis: Query[BasisIn]) -> Any:
    """The working of one figure of a sheet under a basis; figures within it open by asking again."""
    head, asked = sheet_named(sheet), read_basis(basis)
    if figure.startswith("field:"):
        return open_field(head, asked, figure)
    loaded, question = load_question(head.part, asked, head)
    costs, needs = tally(question)
    return open_figure(loaded, question, costs, needs, figure, stated_over(asked))


class FieldRolled(Schema):
    """A field over the parts of a product, for one stock unit of each; of a choice the value is its place among the choices.

    ``partial`` says that something which goes in says nothing.
    """

    name: str
    title: str
    unit: str
    how: RollUpWord
    choices: list[str]
    values: list[float | None]
    partial: list[bool]


class RolledOut(Schema):
    """The keys of the parts, and each field over them."""

    parts: list[int]
    fields_: list[FieldRolled] = Field(alias="fields")


@router.get("/fields", response=RolledOut, by_alias=True)
def read_fields(request: HttpRequest, sheet: int, basis: Query[BasisIn]) -> Any:
    """The fields of a product that roll up over its structure."""
    return rolled_fields(sheet_named(sheet), read_basis(basis))


class Lacking(Schema):
    part: str
    short: str


class BuildableOut(Schema):
    """How many of a part can be built from stock; none where nothing limits it. ``limited_by`` is what one more would lack."""

    part: str
    quantity: str | None
    limited_by: list[Lacking]


@router.get("/buildable", response=BuildableOut)
def read_buildable(request: HttpRequest, sheet: int, basis: Query[BasisIn]) -> Any:
    """How many can be built by a sheet from what is on hand and not spoken for."""
    head = sheet_named(sheet)
    return from_stock(*load_question(head.part, read_basis(basis), head))


class StandardRow(Schema):
    """A standard of a part, from a day on; ``stock_moved`` is none where there was no stock or no standard before."""

    first_day: str
    round: int
    name: str
    by: str
    at: str
    lot: float
    unit: float
    elements: CostByElement
    on_hand: float | None
    stock_moved: float | None


@router.get("/standards", response=list[StandardRow])
def read_standards(request: HttpRequest, number: str) -> Any:
    """The standards of a part, the first one first."""
    return standards_of(part_named(number))
