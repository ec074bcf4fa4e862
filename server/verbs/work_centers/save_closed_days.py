"""State the days on which no work center works."""

from datetime import date
from typing import Any

from accounts.access import require
from definition.models.parts import Workspace
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["save_closed_days"]

MOST = 2000


def save_closed_days(user: Any, days: list[date]) -> Workspace:
    """Replace the closed days; the history keeps those before. Raises ProblemsError for too many, and Refused."""
    require(user, "work centers")
    if len(days) > MOST:
        raise ProblemsError([Problem("days", f"at most {MOST} closed days are kept")])
    with transaction.atomic():
        workspace = Workspace.objects.select_for_update().get_or_create(pk=1)[0]
        workspace.closed_days = sorted(set(days))
        workspace.save()
        return workspace
