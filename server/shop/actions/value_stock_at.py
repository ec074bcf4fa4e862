"""Say what stock is worth: what it came to cost on the mean, or its standard."""

from typing import Any

from definition.models.parts import Workspace
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

__all__ = ["VALUED", "value_stock_at"]

VALUED = ("mean", "standard")


def value_stock_at(user: Any, at: str) -> Workspace:
    """From now on; a part that has a standard is brought to it when it next moves. Raises ProblemsError and Refused."""
    with writing(user, "standards"):
        if at not in VALUED:
            raise ProblemsError([Problem("at", f"stock stands at one of: {', '.join(VALUED)}")])
        Workspace.objects.get_or_create(pk=1)
        workspace = Workspace.objects.select_for_update().get(pk=1)
        if workspace.stock_at != at:
            workspace.stock_at = at
            workspace._history_user = user  # type: ignore[attr-defined]
            workspace.save()
        return workspace
