"""What was typed about a part, as the core's record, with all that is wrong with it."""

from collections.abc import Callable
from typing import Any

from tally_core.basics.errors import Problem
from tally_core.basics.kinds import PART_KIND
from tally_core.basics.units import dimension, is_count
from tally_core.stated import definition as core
from tally_core.stated.classes import read_values
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import check_part

from definition.models.parts import Part, PartClass
from definition.models.sheets import BuildSheet, Line
from definition.records import class_record

__all__ = ["against_others", "class_named", "typed_record"]


def class_named(name: str) -> core.PartClass:
    """A class by its name; one without fields where parts only name it."""
    row = PartClass.objects.filter(name=name).first()
    return class_record(row) if row is not None else core.PartClass(name)


def typed_record(
    held: core.Part, fields: dict[str, Any], class_of: Callable[[str], core.PartClass] = class_named
) -> tuple[core.Part, list[Problem]]:
    """A part's record with what was typed laid on it: a field that was not sent stays, one sent empty takes its default.

    Values of a class the part was in before are let go unless the new class has such a field; the history keeps them.
    """
    reader = RecordReader()
    typed = {name: None if value == "" else value for name, value in fields.items()}
    own = typed.get("own_values")
    if isinstance(own, dict):
        typed["own_values"] = {n: v for n, v in own.items() if v not in ("", None)}
    record = reader.record(core.Part, {"number": held.number} | typed, "", ("number",))
    assert record is not None
    problems = [Problem(p.place.lstrip("."), p.message) for p in reader.problems]
    record = core.Part(**{n: getattr(record if n in fields else held, n) for n in core.Part.__dataclass_fields__})
    if record.whole_only is None and not problems:
        record.whole_only = is_count(record.unit) if not list(check_part(record)) else True
    known = {p.place for p in problems}
    problems += [p for p in check_part(record) if p.place not in known]
    part_class, values = class_of(record.part_class), record.own_values
    if "own_values" not in fields:
        names = {f.name for f in part_class.fields if f.kind != "computed"}
        values = {n: v for n, v in values.items() if n in names}
    stated = [getattr(record, n) for n in ("given_cost", "markup_percent")]
    # What stands there since before reasons were asked for may stay; whoever changes it says why.
    changed = stated != [getattr(held, n) for n in ("given_cost", "markup_percent")]
    if changed and any(v is not None for v in stated) and not record.given_reason.strip():
        problems.append(Problem("given_reason", "say why a cost or a markup is given by hand"))
    record.own_values, wrong = read_values(part_class, values, "own_values.")
    return record, problems + wrong


def against_others(record: core.Part, row: Part | None) -> list[Problem]:
    """What stands against a record in other rows: its number is taken, or its unit or kind cannot change any more."""
    problems = []
    if row is None or record.number.upper() != row.number.upper():
        same = Part.objects.filter(number__iexact=record.number).exclude(pk=row.pk if row else 0).first()
        if same is not None:
            told = f"{same.number} exists already" + (f": {same.description}" if same.description else "")
            problems.append(Problem("number", told))
    if row is None:
        return problems
    if record.unit != row.unit:
        try:
            changes = dimension(record.unit) != dimension(row.unit)
        except Exception:
            return problems
        used = Line.objects.filter(part=row).select_related("sheet__part").first() if changes else None
        if used is not None:
            problems.append(
                Problem(
                    "unit",
                    f"{record.unit} is {dimension(record.unit)}, but {used.sheet.part.number} and others use it by {dimension(row.unit)}",
                )
            )
    if record.kind != row.kind and BuildSheet.objects.filter(part=row).exists():
        kind = PART_KIND.get(record.kind)
        if kind is None or not kind.takes_sheet:
            problems.append(Problem("kind", f"{row.number} has build sheets, so it stays made or phantom"))
        elif not kind.itself and BuildSheet.objects.filter(part=row, operations__isnull=False).exists():
            problems.append(Problem("kind", f"the sheet of {row.number} has operations, and a phantom has none"))
    return problems
