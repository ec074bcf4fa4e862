"""Release a draft: it comes into force and is locked."""

from datetime import date

from accounts.access import require
from definition.models.sheets import BuildSheet
from django.db import transaction
from readings.survey import below, find, load_survey
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.structure.effectivity import in_force

from verbs.sheets._locked import held_for_change
from verbs.sheets.date_revision import refuse_overlap

__all__ = ["release_revision"]


def release_revision(user, sheet_id: int, version: int, first_day: date, reason: str) -> BuildSheet:
    """Release a draft from a day on; the released revision before it ends on that day.

    Raises TallyError when it is no draft, was changed meanwhile or holds nothing, and ProblemsError with every finding
    that stops.
    """
    require(user, "sheets")
    if not reason.strip():
        raise ProblemsError([Problem("reason", "a release needs its reason: one line on what changed and why")])
    with transaction.atomic():
        sheet = held_for_change(sheet_id, version, "draft")
        if not sheet.lines.exists() and not sheet.operations.exists():
            raise TallyError("The sheet is empty; there is nothing to release.")
        sheet.effective_from, sheet.effective_to = first_day, None
        # The revision that is in force on that day ends there; any other that holds days after it is in the way.
        for other in BuildSheet.objects.select_for_update().filter(
            part=sheet.part, alternate=sheet.alternate, status="released"
        ):
            starts_before = other.effective_from is None or other.effective_from < first_day
            if starts_before and in_force(first_day, other.effective_from, other.effective_to):
                if other.effective_to is not None:
                    sheet.effective_to = other.effective_to
                other.effective_to = first_day
                other._change_reason = f"followed by revision {sheet.revision}"
                other.version += 1
                other.save()
        refuse_overlap(sheet)
        sheet.status, sheet.changed_by = "released", str(user)
        sheet.version += 1
        sheet._change_reason = reason.strip()
        sheet.save()
        refuse_what_stops(sheet, first_day)
        return sheet


def refuse_what_stops(sheet: BuildSheet, day: date) -> None:
    """Raise ProblemsError with every finding that stops on this sheet as of a day, each placed at its line."""
    found = [f for f in find(load_survey(below(sheet.part_id)), day) if f["sheet_id"] == sheet.id]
    stops = [f for f in found if f["severity"] == "stops"]
    if stops:
        raise ProblemsError(
            [
                Problem(
                    str(f["line"] or "sheet"),
                    ("item {}: ".format(f["item"]) if f["item"] else "") + f"{f['message']}; {f['mend']}",
                )
                for f in stops
            ]
        )
