"""Make a work center or change one."""

from typing import Any

from definition.models.work_centers import WorkCenter
from definition.records import work_center_columns, work_center_record
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated import definition as core
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import check_work_center

from verbs.contract import held, writing

__all__ = ["save_work_center"]


def save_work_center(user, fields: dict[str, Any], code: str | None = None, version: int | None = None) -> WorkCenter:
    """Make a work center, or with ``code`` change the one of that code.

    ``fields`` maps names of ``tally_core.stated.definition.WorkCenter`` to plain values. Raises ProblemsError and Refused.
    """
    with writing(user, "work centers"):
        row = None
        if code is not None:
            row = held(WorkCenter.objects.filter(code=code), version, code, f"Work center {code} is not known.")
        reader = RecordReader()
        before = work_center_record(row) if row else core.WorkCenter("")
        typed = {name: None if value == "" else value for name, value in fields.items()}
        record = reader.record(core.WorkCenter, {"code": before.code} | typed, "", ("code",))
        assert record is not None
        problems = [Problem(p.place.lstrip("."), p.message) for p in reader.problems]
        record = core.WorkCenter(**{n: getattr(record if n in fields else before, n) for n in core.WorkCenter.__dataclass_fields__})
        known = {p.place for p in problems}
        problems += [p for p in check_work_center(record) if p.place not in known]
        same = WorkCenter.objects.filter(code__iexact=record.code).exclude(pk=row.pk if row else 0).first()
        if same is not None:
            problems.append(Problem("code", f"{same.code} exists already: {same.name}"))
        if problems:
            raise ProblemsError(problems)
        if row is not None and before == record:
            return row
        row = row or WorkCenter(version=0)
        for name, value in work_center_columns(record).items():
            setattr(row, name, value)
        row.version += 1
        row.save()
        return row
