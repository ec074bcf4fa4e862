"""Make and change many parts at once, all of them or none: a selection edited, rows pasted, a list brought in."""

from typing import Any

from accounts.access import require
from django.db import IntegrityError, transaction
from django.db.models.functions import Upper
from sheets.records import class_record, part_record
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core import definition as core
from tally_core.errors import Problem, ProblemsError, TallyError

from parts.models import Part, PartClass
from parts.renumbering import free_numbers
from parts.typed import against_others, typed_record

__all__ = ["MOST", "Planned", "plan_parts", "save_parts"]

MOST = 20_000


class Planned:
    """One row on its way: the part it changes, if there is one, what it is to become, and what is wrong."""

    def __init__(self, row: Part | None, before: core.Part | None, record: core.Part, problems: list[Problem]) -> None:
        self.row, self.before, self.record, self.problems = row, before, record, problems

    def changes(self) -> list[tuple[str, Any, Any]]:
        """Field, before, after."""
        if self.before is None:
            return []
        names = core.Part.__dataclass_fields__
        pairs = ((n, getattr(self.before, n), getattr(self.record, n)) for n in names)
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
    return planned


def _taken_meanwhile(part: Part) -> Problem:
    """A number that was free when it was looked at; with the next one of its class."""
    words = f"is a part by now{f' ({part.description})' if part.description else ''}, made by somebody else meanwhile"
    try:
        (free,) = free_numbers(part.part_class, 1)
    except TallyError:
        return Problem("number", f"{words}; look at the list once more")
    return Problem("number", f"{words}; the next free number is {free}")


def save_parts(user: Any, rows: list[dict[str, Any]], reason: str) -> tuple[int, int]:
    """Save what :func:`plan_parts` shows; returns how many were made and how many changed.

    Raises ProblemsError placing each problem at its part's number (``SCR-1.unit_cost``), and Refused.
    """
    require(user, "parts")
    if not 0 < len(rows) <= MOST:
        raise ProblemsError([Problem("", f"1 to {MOST:,} parts are saved at once")])
    rows = sorted(rows, key=lambda row: str(row["number"]).upper())
    with transaction.atomic():
        planned = plan_parts(rows, lock=True)
        problems = [
            Problem(f"{p.record.number}.{x.place}", f"{p.record.number}: {x.message}")
            for p in planned
            for x in p.problems
        ]
        if problems:
            raise ProblemsError(problems)
        fresh: list[Part] = []
        changed: list[Part] = []
        for plan in planned:
            if plan.row is not None and not plan.changes():
                continue
            row = plan.row or Part(version=0)
            for name in core.Part.__dataclass_fields__:
                setattr(row, name, getattr(plan.record, name))
            row.version += 1
            (fresh if plan.row is None else changed).append(row)
        note = {"default_user": user, "default_change_reason": reason, "batch_size": 2000}
        try:
            if fresh:
                bulk_create_with_history(fresh, Part, **note)
            if changed:
                names = [*core.Part.__dataclass_fields__, "version"]
                bulk_update_with_history(changed, Part, names, **note)
        except IntegrityError:
            raise ProblemsError([Problem("", "somebody else made one of these parts just now; try again")]) from None
        return len(fresh), len(changed)
