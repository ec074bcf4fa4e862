"""Exchange one part for another across sheets: drafts directly, released ones through a new revision."""

from fractions import Fraction

from accounts.access import require
from definition.loops import refuse_loops
from definition.models.sheets import BuildSheet, Line
from django.db import transaction
from loading.reads import part_named
from readings.replacing import refuse_exchange, times
from simple_history.utils import bulk_update_with_history
from tally_core.basics.errors import Problem, ProblemsError

from verbs.sheets.open_sheet import open_sheet

__all__ = ["replace_part"]


def replace_part(
    user, old_number: str, new_number: str, sheets: dict[int, int], reason: str, ratio: Fraction = Fraction(1)
) -> list[BuildSheet]:
    """Put ``new_number`` where ``old_number`` stands, on the chosen sheets, all of them or none.

    Args:
        sheets: sheet id → the version it was looked at in.
        reason: kept in the history of every line and every new revision.
        ratio: how many of the new stand for one of the old; quantities and fixed losses are multiplied by it.

    Returns the drafts that hold the new part now. Raises ProblemsError naming the sheet or field that cannot be done,
    LoopError when a part would contain itself, and Refused.
    """
    require(user, "sheets")
    if not reason.strip() or "\x00" in reason:
        raise ProblemsError([Problem("reason", "say in a line why the part is exchanged")])
    if not sheets:
        raise ProblemsError([Problem("sheets", "choose the sheets in which it is exchanged")])
    with transaction.atomic():
        old, new = part_named(old_number), part_named(new_number)
        refuse_exchange(old, new)
        held = {
            s.id: s for s in BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(id__in=sheets).order_by("id")
        }
        problems = [Problem(f"sheet {key}", "this sheet is no longer there") for key in sheets.keys() - held.keys()]
        for sheet in held.values():
            if sheet.version != sheets[sheet.id]:
                problems.append(Problem(f"sheet {sheet.id}", f"{sheet} was changed meanwhile; look at it again"))
            elif sheet.status == "retired":
                problems.append(Problem(f"sheet {sheet.id}", f"{sheet} is retired"))
            elif not sheet.lines.filter(part=old).exists():
                problems.append(Problem(f"sheet {sheet.id}", f"{sheet} does not take {old.number}"))
            elif sheet.status == "released" and (
                other := BuildSheet.objects.filter(part=sheet.part, alternate=sheet.alternate, status="draft")
                .exclude(id__in=sheets)
                .first()
            ):
                problems.append(
                    Problem(
                        f"sheet {sheet.id}", f"{sheet} has an open draft, revision {other.revision}; choose it too, or release or drop it"
                    )
                )
        if problems:
            raise ProblemsError(problems)
        changed: dict[int, BuildSheet] = {}
        for sheet in held.values():
            draft = sheet
            if sheet.status == "released":
                # With the draft chosen too there is one already, and it is the one that changes.
                draft = open_sheet(user, sheet.part.number, sheet.alternate, reason=reason.strip())
            changed[draft.id] = draft
        many = "" if ratio == 1 else f", {ratio.numerator} for {ratio.denominator}"
        words = f"{old.number} exchanged for {new.number}{many}: {reason.strip()}"
        lines = list(Line.objects.filter(sheet__in=changed, part=old))
        for line in lines:
            line.quantity, line.fixed_loss = times(line.quantity, ratio), times(line.fixed_loss, ratio)
            # A quantity in the old part's unit stays what it was.
            if not line.unit and old.unit != new.unit:
                line.unit = old.unit
            line.part = new
        bulk_update_with_history(lines, Line, ["part", "unit", "quantity", "fixed_loss"], default_user=user, default_change_reason=words)
        for draft in changed.values():
            draft.version += 1
            draft.changed_by = str(user)
            draft._change_reason = words
            draft.save()
        refuse_loops([draft.part_id for draft in changed.values()])
        return list(changed.values())
