"""Make an entry of the library of standard operations, or change one."""

from typing import Any

from definition.models.work_centers import StandardOperation, WorkCenter
from definition.records import IN_ROUTING, plain_decimal, standard_columns, standard_record
from definition.shown_files import show_files, wrong_files
from partners.naming import partners_named
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated import definition as core
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import check_standard_operation

from verbs.contract import held, writing

__all__ = ["save_standard"]

#: What only an operation on a routing has.
_ELSEWHERE = (*IN_ROUTING, "standard", "resources")


def save_standard(
    user: Any, code: str, fields: dict[str, Any], held_code: str | None = None, version: int | None = None
) -> StandardOperation:
    """Make an entry, or with ``held_code`` change that one; its version goes up with every change of what it states.

    Args:
        fields: names of ``tally_core.stated.definition.Operation`` to plain values, and ``files`` by their keys; those not given
            stay.

    Raises ProblemsError and Refused.
    """
    with writing(user, "sheets"):
        row = None
        if held_code is not None:
            rows = StandardOperation.objects.select_related("work_center").filter(code=held_code)
            row = held(rows, version, held_code, f"operation {held_code} is not in the library")
        before = standard_record(row).operation if row else core.Operation()
        center = WorkCenter.objects.filter(code=fields.get("work_center") or "").first()
        if row is None and center is not None and "crew" not in fields:
            fields = fields | {"crew": plain_decimal(center.crew)}
        reader = RecordReader()
        typed = {n: None if v == "" else v for n, v in fields.items() if n not in (*_ELSEWHERE, "files")}
        read = reader.record(core.Operation, typed, "")
        assert read is not None
        problems = [Problem(p.place.lstrip("."), p.message) for p in reader.problems]
        names = [n for n in core.Operation.__dataclass_fields__ if n not in _ELSEWHERE]
        operation = core.Operation(**{n: getattr(read if n in fields else before, n) for n in names})
        record = core.StandardOperation(code.strip(), row.version if row else 1, operation)
        known = {p.place for p in problems}
        found = [Problem(p.place.removeprefix("operation."), p.message) for p in check_standard_operation(record)]
        problems += [p for p in found if p.place not in known]
        same = StandardOperation.objects.filter(code__iexact=record.code).exclude(pk=row.pk if row else 0).first()
        if same is not None:
            problems.append(Problem("code", f"{same.code} is in the library already: {same.name}"))
        centers = dict(WorkCenter.objects.filter(code=operation.work_center or "").values_list("code", "id"))
        if operation.work_center and operation.work_center not in centers:
            problems.append(Problem("work_center", f"work center {operation.work_center} is not known"))
        files = fields.get("files", row.files if row else [])
        wrong = wrong_files(files)
        if wrong:
            problems.append(Problem("files", wrong))
        if problems:
            raise ProblemsError(problems)
        if operation.subcontract:
            outside = operation.subcontract
            outside.supplier = partners_named([outside.supplier], "supplier", user).get(outside.supplier, "")
        if row is not None and standard_record(row) == record and row.files == files:
            return row
        row = row or StandardOperation(version=0)
        for name, value in standard_columns(record, centers).items():
            setattr(row, name, value)
        row.version += 1
        row._history_user, row._change_reason = user, ""
        row.save()
        show_files({row: files}, user, "")
        return row
