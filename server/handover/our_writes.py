"""What is to be written of ours, by the verbs of the definition: parts as they are, sheets through drafts."""

import uuid
from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import Any

from definition.models.sheets import BuildSheet
from readings.part_plan import MOST
from tally_core.basics.errors import TallyError
from tally_core.handover.settling import Change
from verbs.parts.save_parts import save_parts
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet

from handover.looking import Look
from handover.models import Handover, Opened

__all__ = ["write_ours"]


def write_ours(user: Any, handover: Handover, look: Look, changes: Iterable[Change]) -> set[tuple[str, str]]:
    """Write our side, within the caller's transaction. Raises as the verbs do.

    Returns the parts and alternates of which a draft was there before, with whatever else somebody changed in it.
    """
    why = f"handover {handover.number}: as it is in {handover.record}"
    ours = [c for c in changes if c.side == "ours"]
    rows = [
        {
            "number": c.names["part"],
            "fields": {n: after for n, (_, after) in c.values.items()},
            "version": look.ours.parts[c.names["part"]].version if c.verb == "change" else None,
        }
        for c in ours
        if c.kind == "parts"
    ]
    for begin in range(0, len(rows), MOST):
        save_parts(user, rows[begin : begin + MOST], why)
    by_sheet: dict[tuple[str, str], list[Change]] = defaultdict(list)
    for c in ours:
        if c.kind != "parts":
            by_sheet[c.names["parent"], c.names["alternate"]].append(c)
    there_before = set()
    for (number, alternate), listed in by_sheet.items():
        before = look.ours.sheets.get((number, alternate))
        drafts = BuildSheet.objects.filter(part__number=number, alternate=alternate, status="draft")
        if drafts.exclude(pk__in=[before.pk] if before else []).exists():
            there_before.add((number, alternate))
        draft = open_sheet(user, number, alternate, reason=why)
        draft, _ = edit_sheet(user, draft.pk, draft.version, _edits(look, draft, listed), why)
        Opened.objects.get_or_create(handover=handover, sheet=draft)
    return there_before


def _edits(look: Look, draft: BuildSheet, listed: list[Change]) -> list[dict[str, Any]]:
    """Changes of one sheet as edits of its draft; its rows are known by their lineage, or by what they are called (H2)."""
    lines = _Known(draft.lines.select_related("part"), lambda x: (x.item, x.part_id))
    operations = list(draft.operations.filter(beside=None))
    at = _Known(operations, lambda o: o.sequence)
    # Lines name their operation by its row, and by now some are new.
    steps: dict[int, Any] = {o.sequence: o.id for o in operations}
    position = max((x.position for x in lines.rows), default=0.0)
    edits: list[dict[str, Any]] = []
    for c in sorted(listed, key=lambda c: ("sheets", "operations", "lines").index(c.kind)):
        after = {n: v for n, (_, v) in c.values.items()}
        if c.kind == "sheets":
            edits.append({"table": "sheet", "id": None, "before": {}, "after": after})
            continue
        table = "line" if c.kind == "lines" else "operation"
        row = look.ours.rows.get(id(c.record)) if c.record is not None else None
        held = None if row is None else (lines if table == "line" else at).same(row)
        if c.record is not None and held is None:
            raise TallyError(f"{draft.part.number}: a row that they changed is no longer on draft {draft.revision}; look at it first.")
        key = held.id if held is not None else uuid.uuid4()
        if table == "operation" and c.verb != "remove":
            steps[after.get("sequence") or held.sequence] = key  # type: ignore[union-attr]
        if "issue_at" in after:
            step = after.pop("issue_at")
            after["operation"] = None if step is None else str(steps[step]) if step in steps else _no_step(draft, step)
        if c.verb == "add" and table == "line":
            position += 1
            after = {"kind": "component"} | after | {"position": position}
        edits.append({"table": table, "id": key, "before": None if c.verb == "add" else {}, "after": None if c.verb == "remove" else after})
    return edits


class _Known:
    """Rows of a draft: those that were copied with it have their lineage, others are found by their names."""

    def __init__(self, rows: Iterable[Any], name: Callable[[Any], Any]) -> None:
        self.rows, self._name = list(rows), name
        self._lineage = {row.lineage: row for row in self.rows}
        self._named = {name(row): row for row in reversed(self.rows)}

    def same(self, row: Any) -> Any:
        """The row of the draft that another one is; None where it is gone."""
        return self._lineage.get(row.lineage) or self._named.get(self._name(row))


def _no_step(draft: BuildSheet, step: int) -> str:
    raise TallyError(f"{draft.part.number}: a line of theirs is issued at {step}, and there is no such operation here; take it over too.")
