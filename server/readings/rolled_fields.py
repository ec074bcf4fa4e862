"""The fields of a product that roll up over its structure (rule C6): mass, and what classes give their parts."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet
from definition.records import class_record
from loading.loaded import Loaded
from loading.reads import load_question
from tally_core.basics.errors import TallyError, UnitError
from tally_core.basics.units import factor
from tally_core.cost.answers import Basis, Question, tally
from tally_core.cost.working_of_fields import FieldWorkings
from tally_core.stated import definition as core
from tally_core.stated.classes import FACTS, Budget, compute_fields
from tally_core.structure.rolled_fields import RolledField, roll_up_field

from readings.opening import opened

__all__ = ["open_field", "rolled_fields"]

#: Steps that the computed fields of a whole product may take: some seconds.
_MOST_STEPS = 3_000_000


@dataclass(slots=True)
class _Field:
    """One field that rolls up: the same name and choices, whichever classes have it. Its unit is that of the first of them."""

    name: str
    title: str
    unit: str
    how: str
    choices: list[str]
    computed: bool = False

    @property
    def source(self) -> str:
        if self.name == "mass_kg":
            return self.name
        return "own_values" if self.computed else f"own_values.{self.name}"


def _fields(classes: list[core.PartClass]) -> tuple[list[_Field], dict[tuple[str, str], tuple[_Field, float]]]:
    """The fields that roll up, and for each (class, name) its field and what one of its units is in that field's unit.

    A class whose field cannot stand beside that of another (other choices, another way, a unit that does not convert) has a
    field of its own, called after the class.
    """
    found = [_Field("mass_kg", "Mass", "kg", "sum", [])]
    of: dict[tuple[str, str], tuple[_Field, float]] = {}
    for each in classes:
        for own in (f for f in each.fields if f.rolls_up):
            alike = [
                (f, size)
                for f in found
                if (f.title.split(" (")[0], f.how, f.choices) == (own.name, own.rolls_up, own.choices)
                and (size := _in_unit(own.unit, f.unit)) is not None
            ]
            if not alike:
                taken = any(f.name == own.name for f in found)
                name, title = (f"{own.name} ({each.name})",) * 2 if taken else (own.name, own.name)
                alike = [(_Field(name, title, own.unit, own.rolls_up, own.choices, own.kind == "computed"), 1.0)]
                found.append(alike[0][0])
            of[each.name, own.name] = alike[0]
    return found, of


def _in_unit(own: str, wanted: str) -> float | None:
    if own == wanted:
        return 1.0
    try:
        return float(factor(own, wanted)) if own and wanted else None
    except UnitError:
        return None


def _stated(loaded: Loaded, classes: list[core.PartClass], of: dict) -> dict[str, np.ndarray]:
    """By the name of a field: what each part of a product says of itself, in the field's unit; NaN where it says nothing."""
    by_name = {c.name: c for c in classes if any(f.rolls_up for f in c.fields)}
    at = {key: row for row, key in enumerate(loaded.part_ids.tolist())}
    values: dict[str, np.ndarray] = {f.name: np.full(len(at), np.nan) for f, _ in of.values()}
    values["mass_kg"] = np.full(len(at), np.nan)
    budget = Budget(_MOST_STEPS)
    for part in Part.objects.filter(pk__in=list(at)).only("id", "part_class", "own_values", *FACTS):
        row = at[part.pk]
        if part.mass_kg is not None:
            values["mass_kg"][row] = float(part.mass_kg)
        own = by_name.get(part.part_class)
        if own is None:
            continue
        texts = part.own_values | (
            compute_fields(own, part.own_values, {n: getattr(part, n) for n in FACTS}, budget)
            if any(f.rolls_up and f.kind == "computed" for f in own.fields)
            else {}
        )
        for each in (f for f in own.fields if f.rolls_up and f.name in texts):
            held, size = of[own.name, each.name]
            values[held.name][row] = _as_number(texts[each.name], each) * size
    return values


def _as_number(text: str, own: core.ClassField) -> float:
    if own.rolls_up == "worst":
        return float(own.choices.index(text)) if text in own.choices else np.nan
    try:
        return float(text)
    except ValueError:
        # A computed field that cannot be computed says so in words.
        return np.nan


@dataclass(slots=True)
class _Rolled:
    loaded: Loaded
    question: Question
    lots: np.ndarray
    fields: list[_Field]
    rolled: dict[str, RolledField]


def _roll(sheet: BuildSheet, basis: Basis) -> _Rolled:
    loaded, question = load_question(sheet.part, basis, sheet)
    lots = tally(question)[0].lots
    classes = [class_record(row) for row in PartClass.objects.order_by("name")]
    fields, of = _fields(classes)
    stated = _stated(loaded, classes, of)
    rolled = {f.name: roll_up_field(question.structure, lots, f.how, stated[f.name]) for f in fields}
    return _Rolled(loaded, question, lots, fields, rolled)


def rolled_fields(sheet: BuildSheet, basis: Basis) -> dict[str, Any]:
    """Every field that rolls up and of which a part of the product says something, over its parts. A fixed number of queries."""
    found = _roll(sheet, basis)
    spoken = [f for f in found.fields if not np.isnan(found.rolled[f.name].value).all()]
    return {
        "parts": found.loaded.part_ids.tolist(),
        "fields": [
            {
                "name": f.name,
                "title": f.title,
                "unit": f.unit,
                "how": f.how,
                "choices": f.choices,
                "values": [None if np.isnan(v) else round(v, 9) for v in found.rolled[f.name].value.tolist()],
                "partial": found.rolled[f.name].partial.tolist(),
            }
            for f in spoken
        ],
    }


def open_field(sheet: BuildSheet, basis: Basis, figure: str) -> dict[str, Any]:
    """The working of a field: ``figure`` is ``field``, the key of a part and the name of the field, with colons between.

    Raises TallyError for a figure that is not there.
    """
    found = _roll(sheet, basis)
    _, key, name = [*figure.split(":", 2), "", ""][:3]
    field = next((f for f in found.fields if f.name == name), None)
    if field is None or not key.isdecimal() or len(key) > 18 or int(key) not in found.loaded.part_ids:
        raise TallyError("This figure is not part of the product under this basis.")
    s = found.question.structure
    workings = FieldWorkings(s, found.lots, found.rolled[name], field.title, field.unit, field.how, field.source, field.choices)
    working = opened(workings.open(found.loaded.row(int(key))), found.loaded, {})
    _name_figures(working, name)
    return working


def _name_figures(working: dict[str, Any], name: str) -> None:
    """A figure within the working is of the same field."""
    if working["figure"]:
        working["figure"] = f"{working['figure']}:{name}"
    for operand in working["operands"]:
        _name_figures(operand, name)
