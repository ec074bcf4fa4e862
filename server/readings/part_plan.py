"""What rows would make of the parts they name: shown before anything is saved, and saved as it was shown."""

from typing import Any

from definition.models.parts import Part, PartClass
from definition.records import class_record, part_record
from definition.typed import against_others, typed_record
from django.db.models.functions import Upper
from partners.naming import known_partners
from tally_core.basics.errors import Problem, TallyError
from tally_core.stated import definition as core

from readings.renumbering import free_numbers

__all__ = ["MOST", "Planned", "plan_parts"]

MOST = 20_000


class Planned:
    """One row on its way: the part it changes, if there is one, what it is to become, and what is wrong."""

    def __init__(self, row: Part | None, before: core.Part | None, record: core.Part, problems: list[Problem]) -> None:
        self.row, self.before, self.record, self.problems = row, before, record, problems

    def changes(self) -> list[tuple[str, Any, Any]]:
        """Field, before, after; the fields of its class one by one."""
        if self.before is None:
            return []
        pairs = [(n, getattr(self.before, n), getattr(self.record, n)) for n in core.Part.__dataclass_fields__]
        own = sorted({*self.before.own_values, *self.record.own_values})
        pairs += [(n, self.before.own_values.get(n), self.record.own_values.get(n)) for n in own]
        pairs = [pair for pair in pairs if pair[0] != "own_values"]
        return [(n, before, after) for n, before, after in pairs if before != after]


def plan_parts(rows: list[dict[str, Any]], lock: bool = False) -> list[Planned]:
    """What rows would make of the parts they name; saves nothing.

    Args:
        rows: ``{"number": text, "fields": {...}, "version": int or None}``; a number that is not known makes a part.
        lock: rows are held to be saved; then a part without a version was new when it was looked at, and must be so still.
    """
    numbers = {str(r["number"]).upper() for r in rows}
    found = Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=numbers)
    held = {p.number.upper(): p for p in (found.select_for_update().order_by("pk") if lock else found)}
    classes = {c.name: class_record(c) for c in PartClass.objects.all()}
    planned: list[Planned] = []
    first: dict[str, int] = {}
    for index, row in enumerate(rows):
        key = str(row["number"]).upper()
        part = held.get(key)
        before = part_record(part) if part is not None else None
        start = before or core.Part(str(row["number"]))
        fields = {n: v for n, v in row["fields"].items() if n != "number"}
        if before is None:
            fields["number"] = row["number"]
        if before is not None and isinstance(fields.get("own_values"), dict):
            # A row states some of them; what it does not name stays.
            target = classes.get(str(fields.get("part_class", before.part_class))) or core.PartClass("")
            names = {f.name for f in target.fields if f.kind != "computed"}
            fields["own_values"] = {n: v for n, v in before.own_values.items() if n in names} | fields["own_values"]
        record, problems = typed_record(start, fields, lambda name: classes.get(name) or core.PartClass(name))
        if part is not None:
            problems += against_others(record, part)
            if lock and row.get("version") is None:
                problems.append(_taken_meanwhile(part))
            elif row.get("version") is not None and row["version"] != part.version:
                problems.append(Problem("", "was changed by somebody else meanwhile"))
        if first.setdefault(key, index) != index:
            problems.append(Problem("number", f"stands twice; first in row {first[key] + 1}"))
        planned.append(Planned(part, before, record, problems))
    known = known_partners(p.record.supplier for p in planned)
    for plan in planned:
        if plan.record.supplier in known:
            plan.record.supplier = known[plan.record.supplier].name
    return planned


def _taken_meanwhile(part: Part) -> Problem:
    """A number that was free when it was looked at; with the next one of its class."""
    words = f"is a part by now{f' ({part.description})' if part.description else ''}, made by somebody else meanwhile"
    try:
        (free,) = free_numbers(part.part_class, 1)
    except TallyError:
        return Problem("number", f"{words}; look at the list once more")
    return Problem("number", f"{words}; the next free number is {free}")
