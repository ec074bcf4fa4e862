"""Make a class of parts or change one: its numbering and its own fields."""

from typing import Any

from accounts.access import require, required_version
from definition.models.parts import Part, PartClass
from definition.records import class_columns
from django.db import IntegrityError, transaction
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.stated.classes import check_class, read_values
from tally_core.stated.definition import PartClass as Record
from tally_core.stated.reading import RecordReader

__all__ = ["save_class"]


def save_class(user: Any, values: dict[str, Any], name: str | None = None, version: int | None = None) -> PartClass:
    """Make a class, or with ``name`` change the one of that name; its parts follow when it is called otherwise.

    Args:
        values: the class as plain values of ``tally_core.stated.definition.PartClass``.
        version: the version the change was made from.

    Raises ProblemsError naming each field (``fields[1].expression``): also when values that parts hold would no longer
    fit, since they would be lost. Raises Refused.
    """
    require(user, "parts")
    reader = RecordReader()
    record = reader.record(Record, values, "", ("name",))
    assert record is not None
    record.name = record.name.strip()
    problems = [Problem(p.place.lstrip("."), p.message) for p in reader.problems] or list(check_class(record))
    if problems:
        raise ProblemsError(problems)
    with transaction.atomic():
        row = PartClass.objects.select_for_update().filter(name=name).first() if name is not None else None
        if name is not None:
            # A class that parts only named so far is made into one with a scheme when it is first saved.
            known = row is not None or Part.objects.filter(part_class=name).exists()
            if not known:
                raise MissingError(f"Class {name} is no longer there.")
            if row is not None and row.version != required_version(version):
                raise ProblemsError([Problem("", f"class {name} was changed by somebody else meanwhile; open it again to compare")])
            _refuse_lost_values(name, record)
        row = row or PartClass(version=0)
        for column, value in class_columns(record).items():
            setattr(row, column, value)
        row.version += 1
        try:
            row.save()
        except IntegrityError:
            raise ProblemsError([Problem("name", f"class {record.name} exists already")]) from None
        if name is not None and record.name != name:
            for part in Part.objects.select_for_update().filter(part_class=name):
                part.part_class = record.name
                part.version += 1
                part.save()
        return row


def _refuse_lost_values(name: str, record: Record) -> None:
    for part in Part.objects.filter(part_class=name).exclude(own_values={}).only("number", "own_values"):
        _, problems = read_values(record, part.own_values)
        for problem in problems:
            raise ProblemsError(
                [
                    Problem(
                        "fields",
                        f"{part.number} has {problem.place} “{part.own_values[problem.place][:40]}”: "
                        f"{problem.message}. Clear it there first.",
                    )
                ]
            )
