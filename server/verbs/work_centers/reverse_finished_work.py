"""Reverse what was reported of a finished order: it stays on record with the reason, and counts no longer."""

from typing import Any

from accounts.access import require
from definition.models.work_centers import FinishedWork
from django.db import transaction
from django.utils import timezone
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError

__all__ = ["reverse_finished_work"]


def reverse_finished_work(user: Any, key: int, reason: str) -> FinishedWork:
    """Reverse one operation of a finished order. It may be reported again, as it really was.

    Raises Refused, ProblemsError without a reason, TallyError for what was reversed already.
    """
    require(user, "finished orders")
    reason = reason.strip()
    if not 0 < len(reason) <= 200 or not reason.isprintable():
        raise ProblemsError([Problem("reason", "say why, in 1 to 200 characters")])
    with transaction.atomic():
        work = FinishedWork.objects.select_for_update().select_related("part").filter(pk=key).first()
        if work is None:
            raise MissingError("This order is no longer there.")
        if work.reversed_at is not None:
            raise TallyError(f"{work.reversed_by} reversed it already: {work.reversed_reason}")
        work.reversed_by, work.reversed_at, work.reversed_reason = str(user), timezone.now(), reason
        work.save(update_fields=["reversed_by", "reversed_at", "reversed_reason"])
    return work
