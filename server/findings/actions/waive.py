"""Waive a finding that may stand, with the reason; or take the waiver back."""

from accounts.access import require
from definition.models.parts import Part
from django.db import transaction
from django.utils.timezone import localdate
from readings.survey import below, find, load_survey
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.checks.finding import LOOK, RULES

from findings.models import Waiver

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
    words = key.split("|")
    if words[0] not in RULES or len(words) < 2 or "\x00" in key:
        return []
    part = Part.objects.filter(number=words[1]).first()
    if part is None:
        return []
    return find(load_survey(below(part.id)), localdate())
