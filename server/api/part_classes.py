"""Classes of parts and their numbers over HTTP."""

from dataclasses import asdict
from typing import Any

from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet
from definition.records import class_record
from django.db.models import Count as CountOf
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field
from readings.own_values import own_values_of
from readings.renumbering import by_class, by_position, free_numbers
from tally_core.basics.errors import MissingError
from tally_core.stated import definition as core
from verbs.parts.renumber_parts import MOST as MOST_RENUMBERED
from verbs.parts.renumber_parts import renumber_parts
from verbs.parts.save_class import save_class

from api.parts import Count
from api.words import FieldKindWord, RollUpWord

__all__ = ["router"]

router = Router(tags=["parts"])
MOST_IN_LIST, MOST_FIELDS = 50_000, 60


class FieldOut(Schema):
    """A field of a class: text, number, money, date, choice or computed; ``rolls_up`` over a structure as sum, largest or worst."""

    name: str
    kind: FieldKindWord
    unit: str = ""
    choices: list[str] = []
    expression: str = ""
    rolls_up: RollUpWord = ""


class ClassIn(Schema):
    name: str
    prefix: str = ""
    digits: int = 0
    start: int = 1
    step: int = 1
    fields_: list[FieldOut] = Field([], alias="fields")
    version: int | None = None


class ClassOut(Schema):
    """A class with its numbering and fields; ``version`` 0 when parts only name it so far."""

    name: str
    prefix: str
    digits: int
    start: int
    step: int
    fields_: list[FieldOut] = Field(alias="fields")
    version: int
    parts: int


class NextNumber(Schema):
    number: str


class NumbersIn(Schema):
    parts: list[str]


class OwnValuesIn(Schema):
    """Parts by their numbers, and the names of fields of their classes."""

    parts: list[str]
    names: list[str]


class Renumbered(Schema):
    """A part's number now and then; ``kept`` says why it stays as it is."""

    old: str
    new: str
    description: str
    version: int
    kept: str


class NumberChange(Schema):
    old: str
    new: str
    version: int


class RenumberIn(Schema):
    changes: list[NumberChange]


def _class_out(row: core.PartClass, version: int, parts: int) -> dict[str, Any]:
    return asdict(row) | {"version": version, "parts": parts}


@router.get("/classes", response=list[ClassOut], by_alias=True)
def list_classes(request: HttpRequest) -> Any:
    """All classes by name, those that parts only name included."""
    counts = dict(Part.objects.exclude(part_class="").values_list("part_class").annotate(n=CountOf("id")))
    held = {c.name: c for c in PartClass.objects.all()}
    return [
        _class_out(class_record(held[name]), held[name].version, counts.get(name, 0))
        if name in held
        else _class_out(core.PartClass(name), 0, counts[name])
        for name in sorted({*held, *counts}, key=str.upper)
    ]


@router.post("/classes", response=ClassOut, by_alias=True)
def keep_class(request: HttpRequest, payload: ClassIn, name: str | None = None) -> Any:
    """Make a class, or change the one of a name."""
    row = save_class(request.user, payload.dict(by_alias=True, exclude={"version"}), name, payload.version)
    return _class_out(class_record(row), row.version, Part.objects.filter(part_class=row.name).count())


@router.post("/own-values", response=dict[str, dict[str, float | str]])
def read_own_values(request: HttpRequest, payload: OwnValuesIn) -> Any:
    """By field, what each part says in it; for columns of lists. Saves nothing."""
    return own_values_of(payload.parts[:MOST_IN_LIST], payload.names[:MOST_FIELDS])


@router.get("/next-number", response=NextNumber)
def read_next_number(request: HttpRequest, part_class: str) -> Any:
    """The next number of a class."""
    return {"number": free_numbers(part_class, 1)[0]}


@router.post("/numbers-by-class", response=list[Renumbered])
def read_numbers_by_class(request: HttpRequest, payload: NumbersIn) -> Any:
    """What numbers of their classes some parts would get. Saves nothing."""
    return by_class(payload.parts[:MOST_RENUMBERED])


@router.get("/numbers-by-position", response=list[Renumbered])
def read_numbers_by_position(request: HttpRequest, sheet: int, prefix: str = "", made_only: bool = False) -> Any:
    """What numbers the parts below a sheet would get by their position. Saves nothing."""
    held = BuildSheet.objects.select_related("part").filter(pk=sheet).first()
    if held is None:
        raise MissingError("This sheet is no longer there.")
    return by_position(held, prefix, made_only)


@router.post("/renumber", response=Count)
def renumber(request: HttpRequest, payload: RenumberIn) -> Any:
    """Give parts other numbers, all of them or none."""
    return {"count": renumber_parts(request.user, [c.dict() for c in payload.changes])}
