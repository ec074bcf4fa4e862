"""Bring operations up to the library entry they follow, on chosen drafts."""

from typing import Any

from accounts.access import require
from definition.as_shown import operation_values, work_values
from definition.models.sheets import BuildSheet, Operation
from definition.models.work_centers import StandardOperation
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError

from verbs.sheets.edit_sheet import edit_sheet

__all__ = ["behind", "refresh_operations"]


def behind(operation: Operation, standard: StandardOperation) -> dict[str, tuple[Any, Any]]:
    """The fields in which an operation differs from an entry of the library: what it has, and what the entry states."""
    here, there = operation_values(operation), work_values(standard)
    return {name: (here[name], there[name]) for name in there if here[name] != there[name]}


def refresh_operations(user: Any, code: str, sheets: dict[int, int]) -> list[BuildSheet]:
    """Every operation on the chosen drafts that follows an entry states what the entry states now.

    Args:
        sheets: draft → the version it was looked at in.

    All of them or none. Raises ProblemsError naming the sheet that cannot be changed, Stale, and Refused.
    """
    require(user, "sheets")
    if not sheets:
        raise ProblemsError([Problem("sheets", "choose the drafts that are to be brought up to date")])
    with transaction.atomic():
        standard = StandardOperation.objects.select_related("work_center").filter(code=code).first()
        if standard is None:
            raise ProblemsError([Problem("code", f"operation {code} is not in the library")])
        found = (
            Operation.objects.filter(standard=standard, sheet__in=sheets)
            .select_related("work_center", "standard")
            .prefetch_related("shown")
        )
        changes: dict[int, list[dict]] = {key: [] for key in sheets}
        for operation in found:
            new = {name: value for name, (_, value) in behind(operation, standard).items()}
            # A run time that comes from the library is no longer that of finished orders, nor what was computed.
            new |= {"standard_version": standard.version}
            new |= {"run_from_orders": None, "run_expression": ""} if "run_minutes" in new else {}
            values = operation_values(operation)
            change = {"before": {n: values[n] for n in new}, "after": new}
            changes[operation.sheet_id].append({"table": "operation", "id": operation.id} | change)
        reason = f"brought up to {code}, version {standard.version}"
        return [edit_sheet(user, key, sheets[key], changes[key], reason)[0] for key in sorted(sheets)]
