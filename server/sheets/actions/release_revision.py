"""Release a draft: it comes into force and is locked."""

from datetime import date

from accounts.access import require
from costing.reads import load_question
from django.db import transaction
from tally_core.answers import Basis
from tally_core.errors import TallyError
from tally_core.structure import require_sheets

from sheets.models import BuildSheet

__all__ = ["release_revision"]


def release_revision(user, sheet_id: int, version: int, first_day: date, reason: str) -> BuildSheet:
    """Release a draft from a day on; the released revision before it ends on that day.

    Raises TallyError when it is no draft, was changed meanwhile, holds nothing, or rests on a part without a
    released sheet.
    """
    require(user, "sheets")
    if not reason.strip():
        raise TallyError("A release needs its reason: one line on what changed and why.")
    with transaction.atomic():
        sheet = BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(pk=sheet_id).first()
        if sheet is None:
            raise TallyError("This sheet is no longer there.")
        if sheet.status != "draft":
            raise TallyError(f"Revision {sheet.revision} is {sheet.status}, not a draft.")
        if sheet.version != version:
            raise TallyError("The draft was changed meanwhile; look at it again before releasing it.")
        if not sheet.lines.exists() and not sheet.operations.exists():
            raise TallyError("The sheet is empty; there is nothing to release.")
        sheet.effective_from, sheet.effective_to = first_day, None
        _, question = load_question(sheet.part, Basis(first_day), sheet)
        require_sheets(question.structure, question.top, given_cost_suffices=False, day=first_day)
        earlier = BuildSheet.objects.select_for_update().filter(
            part=sheet.part, alternate=sheet.alternate, status="released"
        )
        for other in earlier:
            if other.effective_from and other.effective_from >= first_day:
                raise TallyError(
                    f"Revision {other.revision} is released from {other.effective_from} on; "
                    "a newer revision must come into force after that day."
                )
            if other.effective_to is None or other.effective_to > first_day:
                other.effective_to = first_day
                other._change_reason = f"followed by revision {sheet.revision}"
                other.save()
        sheet.status, sheet.changed_by = "released", str(user)
        sheet.version += 1
        sheet._change_reason = reason.strip()
        sheet.save()
        return sheet
