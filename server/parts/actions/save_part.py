"""Make a part or change one."""

from typing import Any

from accounts.access import require
from django.db import IntegrityError, transaction
from sheets.models import BuildSheet, Line
from sheets.records import part_record
from tally_core import definition as core
from tally_core.bundle import RecordReader
from tally_core.errors import Problem, ProblemsError
from tally_core.records import check_part
from tally_core.units import dimension, is_count

from parts.models import Part

__all__ = ["save_part"]


def save_part(user, fields: dict[str, Any], number: str | None = None, version: int | None = None) -> Part:
    """Make a part, or with ``number`` change the one of that number.

    Args:
        fields: names of ``tally_core.definition.Part`` to plain values; what is left out stays as it is.
        version: the version the change was made from.

    Raises ProblemsError naming each field that cannot be kept, and Refused.
    """
    require(user, "parts")
    with transaction.atomic():
        row = None
        if number is not None:
            row = Part.objects.select_for_update().filter(number=number).first()
            if row is None:
                raise ProblemsError([Problem("number", f"part {number} is not known")])
            if version is not None and version != row.version:
                raise ProblemsError(
                    [Problem("", f"{number} was changed by somebody else meanwhile; what you typed is still here. "
                                 "Open it again beside this to compare, then save once more.")]
                )  # fmt: skip
        reader = RecordReader()
        held = part_record(row) if row is not None else core.Part("")
        typed = {name: None if value == "" else value for name, value in fields.items()}
        record = reader.record(core.Part, {"number": held.number} | typed, "", ("number",))
        assert record is not None
        problems = [Problem(p.place.lstrip("."), p.message) for p in reader.problems]
        # A field that was not sent keeps what it held; one sent empty takes its default.
        record = core.Part(**{n: getattr(record if n in fields else held, n) for n in core.Part.__dataclass_fields__})
        if record.whole_only is None and not problems:
            record.whole_only = is_count(record.unit) if not list(check_part(record)) else True
        known = {p.place for p in problems}
        problems += [p for p in check_part(record) if p.place not in known]
        problems += _against_others(record, row)
        if problems:
            raise ProblemsError(problems)
        if row is not None and held == record:
            return row
        row = row or Part(version=0)
        for name in core.Part.__dataclass_fields__:
            setattr(row, name, getattr(record, name))
        row.version += 1
        try:
            row.save()
        except IntegrityError:
            raise ProblemsError([Problem("number", f"{record.number} was made by somebody else just now")]) from None
        return row


def _against_others(record: core.Part, row: Part | None) -> list[Problem]:
    problems = []
    same = Part.objects.filter(number__iexact=record.number).exclude(pk=row.pk if row else 0).first()
    if same is not None:
        problems.append(
            Problem("number", f"{same.number} exists already" + (f": {same.description}" if same.description else ""))
        )
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
                Problem("unit", f"{record.unit} is {dimension(record.unit)}, but {used.sheet.part.number} and others "
                                f"use it by {dimension(row.unit)}")
            )  # fmt: skip
    if record.kind != row.kind and BuildSheet.objects.filter(part=row).exists():
        if record.kind not in ("made", "phantom"):
            problems.append(Problem("kind", f"{row.number} has build sheets, so it stays made or phantom"))
        elif record.kind == "phantom" and BuildSheet.objects.filter(part=row, operations__isnull=False).exists():
            problems.append(Problem("kind", f"the sheet of {row.number} has operations, and a phantom has none"))
    return problems
