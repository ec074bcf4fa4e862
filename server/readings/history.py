"""What happened to a sheet: every saved change of its head, its lines and its operations, in words."""

from collections import defaultdict
from datetime import datetime
from typing import Any

from definition.models.parts import Part, PartFile
from definition.models.sheets import BuildSheet, Line, Operation, OperationFile, Option
from definition.models.work_centers import StandardOperation, WorkCenter
from definition.records import plain_decimal

__all__ = ["sheet_history"]

_HIDDEN = {"id", "sheet", "part_id", "position", "copied_from", "lineage"}
#: Rows saved within one transaction carry times this close together.
_TOGETHER = 2.0


def sheet_history(sheet: BuildSheet, limit: int = 200) -> list[dict[str, Any]]:
    """Saved changes, the newest first; rows of one save stand together. Nine queries, whatever their number."""
    rows: list[tuple[datetime, Any, str, Any]] = []
    before: dict[tuple[str, Any], Any] = {}
    for table, model, which in (
        ("sheet", BuildSheet, {"id": sheet.pk}),
        ("line", Line, {"sheet_id": sheet.pk}),
        ("operation", Operation, {"sheet_id": sheet.pk}),
    ):
        for row in model.history.filter(**which).select_related("history_user").order_by("history_date", "history_id"):
            rows.append((row.history_date, row, table, before.get((table, row.id))))
            before[table, row.id] = row
    of_sheet = {r[1].id: r[1].sequence for r in rows if r[2] == "operation"}
    for row in OperationFile.history.filter(operation_id__in=of_sheet).select_related("history_user"):
        rows.append((row.history_date, row, "file", None))
    rows.sort(key=lambda r: (r[0], r[1].history_id))
    names = {
        "part": dict(Part.objects.filter(id__in={r[1].part_id for r in rows if r[2] == "line"}).values_list("id", "number")),
        "option": dict(Option.objects.values_list("id", "code")),
        "work_center": dict(WorkCenter.objects.values_list("id", "code")),
        "standard": dict(StandardOperation.objects.values_list("id", "code")),
        "file": dict(PartFile.history.filter(id__in={r[1].file_id for r in rows if r[2] == "file"}).values_list("id", "name")),
        "operation": of_sheet,
    }
    saved: list[dict[str, Any]] = []
    for at, row, table, old in rows:
        by, reason = str(row.history_user or ""), row.history_change_reason or ""
        last = saved[-1] if saved else None
        if (
            last is None
            or last["by"] != by
            or (at - last["_at"]).total_seconds() > _TOGETHER
            or (reason and last["reason"] and reason != last["reason"])
        ):
            last = {"by": by, "at": at.isoformat(), "reason": reason, "changes": [], "_at": at}
            saved.append(last)
        last["reason"] = last["reason"] or reason
        last["changes"] += _changes(table, row, old, names)
    for entry in saved:
        del entry["_at"]
        entry["more"] = max(0, len(entry["changes"]) - 40)
        entry["changes"] = entry["changes"][:40]
    return [entry for entry in saved[::-1] if entry["changes"]][:limit]


def _show(name: str, value: Any, names: dict[str, dict]) -> str:
    if value is None or value == "" or value == []:
        return ""
    if isinstance(value, list):
        return ", ".join(map(str, value))
    if name in names:
        return str(names[name].get(value, value))
    if isinstance(value, bool):
        return "yes" if value else "no"
    return plain_decimal(value) or "" if hasattr(value, "quantize") else str(value)


def _file_changes(row: Any, names: dict[str, dict]) -> list[dict[str, str]]:
    """A file that an operation came to show, or shows no longer; where it stands among others is no news."""
    name = names["file"].get(row.file_id, "")
    found = {"+": ("", name), "-": (name, "")}.get(row.history_type)
    what = f"operation {names['operation'][row.operation_id]}"
    return [{"what": what, "field": "file", "before": found[0], "after": found[1]}] if found else []


def _changes(table: str, row: Any, old: Any, names: dict[str, dict]) -> list[dict[str, str]]:
    if table == "file":
        return _file_changes(row, names)
    label = {
        "sheet": lambda: "this sheet",
        "line": lambda: f"item {row.item or ''} {names['part'].get(row.part_id, row.text)}".strip(),
        "operation": lambda: f"operation {row.sequence} {row.name}".strip(),
    }[table]()
    if row.history_type == "+" or old is None:
        return [{"what": label, "field": "", "before": "", "after": "added" if table != "sheet" else "made"}]
    if row.history_type == "-":
        return [{"what": label, "field": "", "before": "", "after": "taken away"}]
    found: dict[str, list[str]] = defaultdict(list)
    moved = False
    for field in row.tracked_fields:
        name = field.attname
        a, b = getattr(old, name), getattr(row, name)
        if a == b:
            continue
        if field.name in _HIDDEN:
            moved |= field.name == "position"
            continue
        found[field.name] = [_show(field.name, a, names), _show(field.name, b, names)]
    changes = [{"what": label, "field": name.replace("_", " "), "before": a, "after": b} for name, (a, b) in found.items()]
    if moved and not changes:
        changes.append({"what": label, "field": "", "before": "", "after": "moved"})
    return changes
