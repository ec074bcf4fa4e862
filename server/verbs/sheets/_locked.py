"""A released sheet held for a change of its state."""

from definition.models.sheets import BuildSheet
from tally_core.basics.errors import MissingError, TallyError

__all__ = ["held_for_change"]


def held_for_change(sheet_id: int, version: int, status: str) -> BuildSheet:
    """The sheet's row, locked until the transaction ends.

    Raises TallyError when it is gone, was changed since ``version``, or is not of ``status``.
    """
    sheet = BuildSheet.objects.select_for_update(of=("self",)).select_related("part").filter(pk=sheet_id).first()
    if sheet is None:
        raise MissingError("This sheet is no longer there.")
    if sheet.status != status:
        raise TallyError(f"Revision {sheet.revision} is {sheet.status}, not {status}.")
    if sheet.version != version:
        raise TallyError("The sheet was changed meanwhile; look at it again first.")
    return sheet
