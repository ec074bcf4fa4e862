"""Keep a set of columns under a name, or let one go; everybody has their own."""

from typing import Any

from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError

from accounts.models import SavedColumns

__all__ = ["drop_columns", "keep_columns"]

MOST_SETS, MOST_HIDDEN = 30, 200


def keep_columns(user: Any, list_name: str, name: str, hidden: list[str]) -> SavedColumns:
    """Keep a set, in place of the one of the same name. Raises ProblemsError for a name or a set that cannot be kept."""
    name = name.strip()
    texts = [list_name, name, *hidden]
    if not 0 < len(name) <= 60 or not name.isprintable():
        raise ProblemsError([Problem("name", "the name of a column set has 1 to 60 characters")])
    if len(list_name) > 60 or len(hidden) > MOST_HIDDEN or any(len(t) > 60 or "\x00" in t for t in texts):
        raise ProblemsError([Problem("hidden", "these are no columns of a list")])
    with transaction.atomic():
        held = SavedColumns.objects.select_for_update().filter(user=user, list_name=list_name)
        if held.exclude(name=name).count() >= MOST_SETS:
            raise ProblemsError([Problem("name", f"a list has at most {MOST_SETS} column sets; let one go first")])
        return held.update_or_create(user=user, list_name=list_name, name=name, defaults={"hidden": hidden})[0]


def drop_columns(user: Any, list_name: str, name: str) -> None:
    """Let a set go; one that is gone already is no matter."""
    SavedColumns.objects.filter(user=user, list_name=list_name, name=name).delete()
