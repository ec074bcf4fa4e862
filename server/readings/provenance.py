"""Who set an input, and when: read from the history of its record, and of those it was copied from."""

from collections import defaultdict
from datetime import datetime
from typing import Any

from django.db import connection
from django.db.models import Model

__all__ = ["who_set"]


def who_set(
    model: type[Model], keys: list[Any], fields: dict[Any, set[str]], until: datetime | None = None
) -> dict[tuple[Any, str], dict[str, str]]:
    """For each (key, field): the change that gave the field the value it has now.

    A row that was copied with a revision says of a value that it came with what the row says that it was copied from.

    Args:
        keys: primary keys of rows of ``model``.
        fields: the fields asked for, by key; ``own_values.gauge_mm`` is one of those that a field holds.
        until: the value it had then, instead of the one it has now.

    Returns:
        (key, field) → {"by", "at", "reason"}. Two queries, whatever the number of keys and of revisions.
    """
    copied = any(f.name == "copied_from" for f in model._meta.concrete_fields)
    sources = _sources(model, keys) if copied else {}
    changes: dict[Any, list[Any]] = defaultdict(list)
    history = model.history.filter(id__in={*keys, *sources.values()}).select_related("history_user")  # type: ignore[attr-defined]
    for row in history.order_by("history_date", "history_id"):
        changes[row.id].append(row)
    found: dict[tuple[Any, str], dict[str, str]] = {}
    for key in keys:
        for name in fields.get(key, ()):
            row = _setter(key, name, until, changes, sources)
            if row is not None:
                found[key, name] = {
                    "by": str(row.history_user or ""),
                    "at": row.history_date.isoformat(),
                    "reason": row.history_change_reason or "",
                }
    return found


def _setter(key: Any, name: str, until: datetime | None, changes: dict[Any, list[Any]], sources: dict[Any, Any]) -> Any:
    """The row of history that gave a field its value, going back from copy to copy as long as the value came along."""
    setter = None
    while True:
        own = [row for row in changes[key] if until is None or row.history_date <= until]
        if not own:
            return setter
        last = setter
        for row in own:
            if last is setter or _held(row, name) != _held(last, name):
                last = row
        if setter is not None and _held(own[-1], name) != _held(setter, name):
            # The copy already had another value than what it was made from.
            return setter
        setter = last
        if setter is not own[0] or key not in sources:
            return setter
        until, key = setter.history_date, sources[key]


def _held(row: Any, name: str) -> Any:
    name, _, within = name.partition(".")
    value = getattr(row, name)
    return value.get(within) if within else value


def _sources(model: type[Model], keys: list[Any]) -> dict[Any, Any]:
    """Which row each was copied from, back to the first."""
    table = connection.ops.quote_name(model._meta.db_table)
    with connection.cursor() as cursor:
        cursor.execute(
            f"""
            WITH RECURSIVE back AS (
                SELECT id, copied_from FROM {table} WHERE id = ANY(%s) AND copied_from IS NOT NULL
                UNION SELECT t.id, t.copied_from FROM {table} t JOIN back b ON t.id = b.copied_from WHERE t.copied_from IS NOT NULL
            ) SELECT id, copied_from FROM back
            """,
            [list(keys)],
        )
        return dict(cursor.fetchall())
