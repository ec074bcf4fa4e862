"""Edit a draft: one or many changes to its lines, its operations or its head, all of them or none.

A change carries what it found and what it leaves, so that its reverse is the same change turned round: that is how
the screen undoes.
"""

from accounts.access import require
from definition.loops import refuse_loops
from definition.models.sheets import BuildSheet
from definition.sheet_states import why_not
from django.db import transaction
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from verbs.sheets._draft import Draft
from verbs.sheets.stale import Stale, both_versions

__all__ = ["edit_sheet"]

#: Rows that one edit changes: what is pasted at most, and the rows it moves.
_MOST_CHANGES = 5000


def edit_sheet(user, sheet_id: int, version: int, changes: list[dict], reason: str = "") -> tuple[BuildSheet, list[str]]:
    """Lay changes on a draft and save it; returns it with the numbers of parts made on the way.

    Args:
        version: the version the changes were made from.
        changes: ``{"table": "line" | "operation" | "sheet", "id": UUID | None, "before": {...} | None,
            "after": {...} | None}``; no before makes a row, no after removes one, else the named fields change. A line
            whose ``after`` has ``"make": "bought" | "made"`` makes its part, as a draft, if there is none yet.

    Raises ProblemsError (places are ``<row id>.<field>``), LoopError, Stale and Refused; then nothing is saved.
    """
    require(user, "sheets")
    if len(changes) > _MOST_CHANGES:
        raise ProblemsError(
            [Problem("sheet", f"{len(changes):,} rows at once are too many; at most {_MOST_CHANGES:,} are changed in one step")]
        )
    with transaction.atomic():
        sheet = BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(pk=sheet_id).first()
        if sheet is None:
            raise MissingError("This sheet is no longer there.")
        if refusal := why_not(sheet, "edit"):
            raise ProblemsError([Problem("sheet", refusal)])
        draft = Draft(user, sheet)
        if sheet.version != version:
            raise Stale(both_versions(sheet, draft.lines, draft.operations, changes))
        draft.refuse_strangers(changes)
        draft.lay(changes)
        draft.check()
        draft.save(user, reason)
        if draft.components_changed:
            refuse_loops([sheet.part_id])
        sheet.version += 1
        sheet.changed_by = str(user)
        sheet._change_reason = reason
        sheet.save()
        return sheet, draft.made
