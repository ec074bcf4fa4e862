"""A released sheet held for a change of its state."""

from definition.models.sheets import BuildSheet
from definition.sheet_states import why_not
from tally_core.basics.errors import MissingError, TallyError

__all__ = ["held_for_change"]


def held_for_change(sheet_id: int, version: int, action: str) -> BuildSheet:
    """The sheet's row, locked until the transaction ends.

    Raises TallyError when it is gone, was changed since ``version``, or is in a state in which the action (``definition.sheet_states``) cannot be done.
    """
    sheet = BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(pk=sheet_id).first()
    if sheet is None:
        raise MissingError("This sheet is no longer there.")
    if refusal := why_not(sheet, action):
        raise TallyError(refusal)
    if sheet.version != version:
        raise TallyError("The sheet was changed meanwhile; look at it again first.")
    return sheet
