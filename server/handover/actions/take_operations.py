"""Give a made part its operations out of the library, and each line the operation at which it is issued: in a draft, like any edit."""

import uuid
from collections.abc import Mapping, Sequence
from typing import Any

from definition.as_shown import work_values
from definition.models.work_centers import StandardOperation
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet

from handover.actions.read_again import open_one
from handover.looking import look_at
from handover.models import Handover, Opened

__all__ = ["routing_of", "take_operations"]

_STEP = 10


def routing_of(handover_id: int, part: str, alternate: str) -> dict[str, Any]:
    """The operations and lines of the sheet of ours that is compared. Raises MissingError."""
    handover = Handover.objects.select_related("top").filter(pk=handover_id, state="work").exclude(theirs=None).first()
    if handover is None:
        raise MissingError("This handover has ended, or its other side was not read yet.")
    look = look_at(handover)
    sheet = next((s for s in look.ours.of.definition.sheets if (s.part, s.alternate) == (part, alternate)), None)
    if sheet is None:
        raise MissingError(f"{part} has no build sheet of alternate {alternate}")
    lineage = look.ours.of.lineage
    return {
        "operations": [{"sequence": o.sequence, "name": o.name} for o in sheet.operations],
        "lines": [{"key": lineage[id(x)], "item": x.item, "part": x.part, "issue_at": x.issue_at} for x in sheet.lines if x.part],
    }


def take_operations(user, handover_id: int, part: str, alternate: str, codes: Sequence[str], issue: Mapping[str, int | None]) -> None:
    """Add operations of the library, in their order behind those there are, and issue lines at operations.

    Args:
        codes: entries of the library.
        issue: by what a line is known by, the sequence of its operation; None for the start.

    Raises ProblemsError naming what is not there, MissingError, TallyError, and Refused.
    """
    with writing(user, "handover"):
        handover = open_one(handover_id)
        held = {x.code: x for x in StandardOperation.objects.select_related("work_center").filter(code__in=codes)}
        problems = [Problem("codes", f"operation {c} is not in the library") for c in codes if c not in held]
        if not codes and not issue:
            problems.append(Problem("codes", "choose operations, or say where a line is issued"))
        if problems:
            raise ProblemsError(problems)
        why = f"handover {handover.number}"
        draft = open_sheet(user, part, alternate, reason=why)
        operations = list(draft.operations.filter(beside=None))
        at: dict[int, Any] = {o.sequence: o.id for o in operations}
        last = max(at, default=0)
        edits: list[dict[str, Any]] = []
        for code in codes:
            last = last // _STEP * _STEP + _STEP
            at[last] = uuid.uuid4()
            values = work_values(held[code]) | {"sequence": last, "standard": code, "standard_version": held[code].version}
            edits.append({"table": "operation", "id": at[last], "before": None, "after": values})
        lines = {str(x.lineage): x for x in draft.lines.all()}
        for key, sequence in issue.items():
            if key not in lines or (sequence is not None and sequence not in at):
                raise ProblemsError([Problem("issue", f"{part} has no such line, or no operation {sequence}")])
            operation = None if sequence is None else str(at[sequence])
            edits.append({"table": "line", "id": lines[key].id, "before": {}, "after": {"operation": operation}})
        draft, _ = edit_sheet(user, draft.pk, draft.version, edits, why)
        Opened.objects.get_or_create(handover=handover, sheet=draft)
        handover.version += 1
        handover.save(update_fields=["version"])
