"""Waive a finding that may stand, with the reason; or take the waiver back."""

from uuid import UUID

from accounts.access import require
from definition.models.sheets import Line
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.checks.finding import LOOK, RULES

from findings.models import Waiver
from findings.reads import found_beneath

__all__ = ["take_back_waiver", "waive"]


def waive(user, key: str, reason: str) -> Waiver:
    """Waive the finding of a key.

    Raises ProblemsError without a reason, TallyError when nothing of that key is found now or it stops, and Refused.
    """
    require(user, "sheets")
    if not reason.strip() or "\x00" in reason:
        raise ProblemsError([Problem("reason", "say in a line why it may stand")])
    with transaction.atomic():
        found = next((f for f in _found_at(key) if f["key"] == key), None)
        if found is None:
            raise TallyError("This is no longer found; look at the findings again.")
        if found["severity"] != LOOK:
            raise TallyError("This stops; it cannot be waived, only mended.")
        waiver = Waiver.objects.select_for_update().filter(key=key).first() or Waiver(key=key)
        waiver.reason, waiver.waived_by = reason.strip(), str(user)
        waiver.save()
        return waiver


def take_back_waiver(user, key: str) -> None:
    """Take a waiver back: the finding stands again. Raises TallyError when there is none, and Refused."""
    require(user, "sheets")
    with transaction.atomic():
        waiver = Waiver.objects.select_for_update().filter(key=key).first()
        if waiver is None:
            raise TallyError("There is no such waiver any more.")
        waiver.delete()


def _found_at(key: str) -> list[dict]:
    """What is found now on the part that a key names."""
    code, _, place = key.partition("|")
    where = place.partition("|")[0]
    if code not in RULES:
        return []
    if where.isdecimal() and where.isascii():
        part = int(where) if len(where) < 19 else None
    else:
        try:
            lines = Line.objects.filter(lineage=UUID(where)).exclude(sheet__status="retired")
        except ValueError:
            return []
        part = lines.values_list("sheet__part_id", flat=True).first()
    return found_beneath(part) if part is not None else []
