"""Release a draft, or several together: they come into force and are locked."""

from datetime import date

from accounts.access import require
from definition.models.sheets import BuildSheet
from django.db import transaction
from events.happened import happened
from readings.survey import below, find, load_survey
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.structure.effectivity import in_force

from verbs.sheets._locked import held_for_change
from verbs.sheets.date_revision import refuse_overlap

__all__ = ["release_revision", "release_together"]


def release_revision(user, sheet_id: int, version: int, first_day: date, reason: str) -> BuildSheet:
    """Release a draft from a day on; the released revision before it ends on that day.

    Raises TallyError when it is no draft, was changed meanwhile or holds nothing, and ProblemsError with every finding
    that stops.
    """
    require(user, "sheets")
    _need_reason(reason)
    with transaction.atomic():
        sheet = _put_in_force(user, sheet_id, version, first_day, reason)
        refuse_what_stops(sheet, first_day)
        return sheet


def release_together(user, sheets: dict[int, int], first_day: date, reason: str) -> list[BuildSheet]:
    """Release several drafts from one day on, all of them or none; what one takes of another counts as released.

    Args:
        sheets: sheet id → the version it was looked at in.

    Raises ProblemsError with every finding and every sheet that is in the way, each at ``sheet`` and its key, and Refused.
    """
    require(user, "sheets")
    _need_reason(reason)
    if not sheets:
        raise ProblemsError([Problem("sheets", "choose the drafts that are released")])
    problems: list[Problem] = []
    with transaction.atomic():
        released = []
        for key in sorted(sheets):
            try:
                released.append(_put_in_force(user, key, sheets[key], first_day, reason))
            except TallyError as error:
                named = BuildSheet.objects.select_related("part").filter(pk=key).first()
                problems.append(Problem(f"sheet {key}", f"{named or 'a sheet'}: {error}"))
        for sheet in released:
            try:
                refuse_what_stops(sheet, first_day)
            except ProblemsError as error:
                problems += [Problem(f"sheet {sheet.pk}", f"{sheet}: {p.message}") for p in error.problems]
        if problems:
            raise ProblemsError(problems)
    return released


def _need_reason(reason: str) -> None:
    if not reason.strip() or "\x00" in reason:
        raise ProblemsError([Problem("reason", "a release needs its reason: one line on what changed and why")])


def _put_in_force(user, sheet_id: int, version: int, first_day: date, reason: str) -> BuildSheet:
    """The draft as a released revision from a day on; what was in force before it ends there."""
    sheet = held_for_change(sheet_id, version, "release")
    if not sheet.lines.exists() and not sheet.operations.exists():
        raise TallyError("The sheet is empty; there is nothing to release.")
    sheet.effective_from, sheet.effective_to = first_day, None
    # The revision that is in force on that day ends there; any other that holds days after it is in the way.
    for other in BuildSheet.objects.select_for_update().filter(part=sheet.part, alternate=sheet.alternate, status="released"):
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
    happened(
        "sheet released",
        str(user),
        part=sheet.part.number,
        alternate=sheet.alternate,
        revision=sheet.revision,
        first_day=first_day.isoformat(),
        reason=reason.strip(),
    )
    return sheet


def refuse_what_stops(sheet: BuildSheet, day: date) -> None:
    """Raise ProblemsError with every finding that stops on this sheet as of a day, each placed at its line."""
    found = [f for f in find(load_survey(below(sheet.part_id)), day) if f["sheet_id"] == sheet.id]
    stops = [f for f in found if f["severity"] == "stops"]
    if stops:
        raise ProblemsError(
            [
                Problem(str(f["line"] or "sheet"), ("item {}: ".format(f["item"]) if f["item"] else "") + f"{f['message']}; {f['mend']}")
                for f in stops
            ]
        )
