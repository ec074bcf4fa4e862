"""Make a part or change one."""

from typing import Any

from definition.kept_numbers import why_kept
from definition.models.parts import Part
from definition.records import part_columns, part_record
from definition.typed import against_others, typed_record
from django.db import IntegrityError
from partners.naming import partners_named
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated import definition as core

from verbs.contract import held, writing

__all__ = ["save_part"]


def save_part(user, fields: dict[str, Any], number: str | None = None, version: int | None = None) -> Part:
    """Make a part, or with ``number`` change the one of that number.

    Args:
        fields: names of ``tally_core.stated.definition.Part`` to plain values; what is left out stays as it is.
        version: the version the change was made from.

    Raises ProblemsError naming each field that cannot be kept, and Refused.
    """
    with writing(user, "parts"):
        row = None
        if number is not None:
            then = "what you typed is still here. Open it again beside this to compare, then save once more."
            row = held(Part.objects.filter(number=number), version, number, f"Part {number} is not known.", then)
        before = part_record(row) if row is not None else core.Part("")
        record, problems = typed_record(before, fields)
        problems += against_others(record, row)
        if row is not None and record.number != row.number and (why := why_kept([row.pk]).get(row.pk)):
            problems.append(Problem("number", f"{row.number} {why}, and keeps its number"))
        if problems:
            raise ProblemsError(problems)
        record.supplier = partners_named([record.supplier], "supplier", user).get(record.supplier, "")
        if row is not None and before == record:
            return row
        row = row or Part(version=0)
        for name, value in part_columns(record).items():
            setattr(row, name, value)
        row.version += 1
        try:
            row.save()
        except IntegrityError:
            raise ProblemsError([Problem("number", f"{record.number} was made by somebody else just now")]) from None
        return row
