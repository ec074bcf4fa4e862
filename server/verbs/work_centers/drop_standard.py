"""Take an entry out of the library of standard operations."""

from typing import Any

from definition.models.work_centers import StandardOperation
from tally_core.basics.errors import Problem, ProblemsError

from verbs.contract import writing

__all__ = ["drop_standard"]


def drop_standard(user: Any, code: str) -> None:
    """Take an entry out. Raises ProblemsError while routings follow it, naming one, and Refused."""
    with writing(user, "sheets"):
        row = StandardOperation.objects.select_for_update().filter(code=code).first()
        if row is None:
            raise ProblemsError([Problem("code", f"operation {code} is not in the library")])
        used = row.operations.select_related("sheet__part").order_by("sheet__part__number", "sequence").first()
        if used is not None:
            raise ProblemsError([Problem("code", f"{used.sheet}, operation {used.sequence}, follows {code}; detach it there first")])
        row._history_user = user
        row.delete()
