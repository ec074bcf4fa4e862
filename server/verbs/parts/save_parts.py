"""Make and change many parts at once, all of them or none: a selection edited, rows pasted, a list brought in."""

from typing import Any

from accounts.access import require
from definition.models.parts import Part
from definition.records import part_columns
from django.db import IntegrityError, transaction
from partners.naming import partners_named
from readings.part_plan import MOST, plan_parts
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated import definition as core

__all__ = ["save_parts"]


def save_parts(user: Any, rows: list[dict[str, Any]], reason: str) -> tuple[int, int]:
    """Save what :func:`plan_parts` shows; returns how many were made and how many changed.

    Raises ProblemsError placing each problem at its part's number (``SCR-1.unit_cost``), and Refused.
    """
    require(user, "parts")
    if not 0 < len(rows) <= MOST:
        raise ProblemsError([Problem("", f"1 to {MOST:,} parts are saved at once")])
    rows = sorted(rows, key=lambda row: str(row["number"]).upper())
    with transaction.atomic():
        planned = plan_parts(rows, lock=True)
        problems = [Problem(f"{p.record.number}.{x.place}", f"{p.record.number}: {x.message}") for p in planned for x in p.problems]
        if problems:
            raise ProblemsError(problems)
        named = partners_named([p.record.supplier for p in planned], "supplier", user, reason)
        fresh: list[Part] = []
        changed: list[Part] = []
        for plan in planned:
            if plan.row is not None and not plan.changes():
                continue
            row = plan.row or Part(version=0)
            plan.record.supplier = named.get(plan.record.supplier, "")
            for name, value in part_columns(plan.record).items():
                setattr(row, name, value)
            row.version += 1
            (fresh if plan.row is None else changed).append(row)
        note = {"default_user": user, "default_change_reason": reason, "batch_size": 2000}
        try:
            if fresh:
                bulk_create_with_history(fresh, Part, **note)
            if changed:
                names = [*core.Part.__dataclass_fields__, "version"]
                bulk_update_with_history(changed, Part, names, **note)
        except IntegrityError:
            raise ProblemsError([Problem("", "somebody else made one of these parts just now; try again")]) from None
        return len(fresh), len(changed)
