"""Who set an input, and when: read from the history of its record."""

from datetime import datetime
from typing import Any

from django.db.models import Model

__all__ = ["who_set"]


def who_set(
    model: type[Model], keys: list[Any], fields: dict[Any, set[str]], until: datetime | None = None
) -> dict[tuple[Any, str], dict[str, str]]:
    """For each (key, field): the change that gave the field the value it has now.

    Args:
        keys: primary keys of rows of ``model``.
        fields: the fields asked for, by key.
        until: the value it had then, instead of the one it has now.

    Returns:
        (key, field) → {"by", "at", "reason"}. One query, whatever the number of keys.
    """
    found: dict[tuple[Any, str], dict[str, str]] = {}
    held: dict[tuple[Any, str], Any] = {}
    history = model.history.filter(id__in=keys).select_related("history_user").order_by("history_date", "history_id")  # type: ignore[attr-defined]
    if until is not None:
        history = history.filter(history_date__lte=until)
    for row in history:
        for name in fields.get(row.id, ()):
            value = getattr(row, name)
            if (row.id, name) not in held or held[row.id, name] != value:
                held[row.id, name] = value
                found[row.id, name] = {
                    "by": str(row.history_user or ""),
                    "at": row.history_date.isoformat(),
                    "reason": row.history_change_reason or "",
                }
    return found
