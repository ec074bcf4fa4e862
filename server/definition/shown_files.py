"""Files that an operation shows, named by their keys."""

from collections.abc import Mapping
from typing import Any

from simple_history.utils import bulk_create_with_history

from definition.models.parts import PartFile
from definition.models.sheets import OperationFile
from definition.models.work_centers import StandardFile, StandardOperation

__all__ = ["show_files", "wrong_files"]

_MOST = 20


def wrong_files(files: Any) -> str | None:
    """What is wrong with the files that an operation is to show, or None. Within the transaction that saves it."""
    if not isinstance(files, list) or not all(type(f) is int and 0 < f < 2**63 for f in files):
        return "files are named by their keys"
    if len(files) > _MOST or len(set(files)) < len(files):
        return f"an operation shows each file once, and at most {_MOST}"
    # Held until the operation that names them is saved: nobody lets one go meanwhile.
    if files and len(PartFile.objects.select_for_update().filter(pk__in=files).order_by("pk")) < len(files):
        return "one of the files is no longer there"
    return None


def show_files(rows: Mapping[Any, list[int]], user: Any, reason: str) -> None:
    """Have saved operations, all of sheets or all of the library, show these files in this order.

    Who and why stands in the history of each that comes or goes.
    """
    model: Any = StandardFile if any(isinstance(row, StandardOperation) for row in rows) else OperationFile
    held: dict[Any, dict[int, Any]] = {}
    for shown in model.objects.filter(operation__in=rows):
        held.setdefault(shown.operation_id, {})[shown.file_id] = shown
    fresh = []
    for row, files in rows.items():
        there = held.get(row.pk, {})
        for key in there.keys() - set(files):
            gone = there[key]
            gone._history_user, gone._change_reason = user, reason
            gone.delete()
        for at, key in enumerate(files):
            if key not in there:
                fresh.append(model(operation=row, file_id=key, position=at))
            elif there[key].position != at:
                there[key].position = at
                there[key]._history_user, there[key]._change_reason = user, reason
                there[key].save()
    if fresh:
        bulk_create_with_history(fresh, model, default_user=user, default_change_reason=reason)
