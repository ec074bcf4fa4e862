"""Retire a released revision: it counts on no day any more, and stays readable."""

from accounts.access import require
from definition.models.sheets import BuildSheet
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError

from verbs.sheets._locked import held_for_change

__all__ = ["retire_revision"]


def retire_revision(user, sheet_id: int, version: int, reason: str) -> BuildSheet:
    """Withdraw a released revision. To let it end on a day instead, and count before, see ``date_revision``.

    Raises ProblemsError without a reason, TallyError when it is not released or was changed meanwhile, and Refused.
    """
    require(user, "sheets")
    if not reason.strip():
        raise ProblemsError([Problem("reason", "say in a line why it is retired")])
    with transaction.atomic():
        sheet = held_for_change(sheet_id, version, "retire")
        sheet.status, sheet.changed_by = "retired", str(user)
        sheet.version += 1
        sheet._change_reason = reason.strip()
        sheet.save()
        return sheet
