"""Change the days on which a released revision is in force; nothing else of it can be changed."""

from datetime import date

from accounts.access import require
from definition.models.sheets import BuildSheet
from django.db import transaction
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.structure.effectivity import overlap

from verbs.sheets._locked import held_for_change

__all__ = ["date_revision", "refuse_overlap"]


def date_revision(user, sheet_id: int, version: int, first_day: date | None, last_day: date | None, reason: str) -> BuildSheet:
    """Set the first day in force and the first day no longer in force.

    Raises ProblemsError naming the field: no reason, an end before the start, days that another released revision of the
    same alternate holds. Raises TallyError when it is not released or was changed meanwhile, and Refused.
    """
    require(user, "sheets")
    problems = []
    if not reason.strip():
        problems.append(Problem("reason", "say in a line why its days change"))
    if first_day and last_day and last_day <= first_day:
        problems.append(Problem("last_day", "the end must come after the first day: it is itself not in force"))
    if problems:
        raise ProblemsError(problems)
    with transaction.atomic():
        sheet = held_for_change(sheet_id, version, "days")
        sheet.effective_from, sheet.effective_to = first_day, last_day
        refuse_overlap(sheet)
        sheet.changed_by = str(user)
        sheet.version += 1
        sheet._change_reason = reason.strip()
        sheet.save()
        return sheet


def refuse_overlap(sheet: BuildSheet) -> None:
    """Raise ProblemsError when another released revision of the same part and alternate holds some of its days."""
    others = BuildSheet.objects.select_for_update().filter(part=sheet.part_id, alternate=sheet.alternate, status="released")
    for other in others.exclude(pk=sheet.pk):
        if overlap((sheet.effective_from, sheet.effective_to), (other.effective_from, other.effective_to)):
            days = f"from {other.effective_from or 'the start'}" + (f" up to {other.effective_to}" if other.effective_to else " on")
            raise ProblemsError([Problem("first_day", f"revision {other.revision} is in force {days}; one day has one revision")])
