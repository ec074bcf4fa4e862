"""Whoever saves second gets both versions, and loses nothing."""

from collections.abc import Iterable
from typing import Any
from uuid import UUID

from definition.as_shown import line_values, operation_values, plain_value
from definition.models.sheets import BuildSheet, Line, Operation

__all__ = ["HEAD", "Stale", "both_versions"]

#: The fields of a sheet's head that an edit may change.
HEAD = ("batch", "reference", "effective_from", "effective_to")


class Stale(Exception):
    """Somebody else saved first; ``answer`` holds both versions."""

    def __init__(self, answer: dict) -> None:
        self.answer = answer
        super().__init__(answer["message"])


def both_versions(sheet: BuildSheet, lines: dict[UUID, Line], operations: dict[UUID, Operation], changes: Iterable[dict]) -> dict:
    """What the second to save is shown: every field where the sheet is no longer what the change started from."""
    conflicts = []
    for change in changes:
        rows: dict = lines if change["table"] == "line" else operations
        row = rows.get(change["id"])
        if change["table"] == "sheet":
            now = {n: plain_value(getattr(sheet, n)) for n in HEAD}
        elif row is None:
            now = {}
        else:
            now = line_values(row) if isinstance(row, Line) else operation_values(row)
        before, after = change["before"] or {}, change["after"] or {}
        for name in before.keys() | after.keys():
            if row is None and change["before"] is None:
                continue
            if now.get(name) != before.get(name):
                conflicts.append(
                    {
                        "table": change["table"],
                        "id": str(change["id"]),
                        "field": name,
                        "label": (now.get("part") or now.get("name") or now.get("text") or "a line that is gone"),
                        "found": _show(before.get(name)),
                        "theirs": _show(now.get(name)),
                        "yours": _show(after.get(name)),
                    }
                )
    return {
        "message": f"{sheet.changed_by or 'Somebody'} saved this sheet before you. Nothing of yours is lost.",
        "by": sheet.changed_by,
        "at": sheet.changed_at.isoformat(),
        "version": sheet.version,
        "conflicts": conflicts,
    }


def _show(value: Any) -> str:
    return "" if value is None else str(value)
