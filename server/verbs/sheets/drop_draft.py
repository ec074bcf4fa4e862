"""Drop a draft: its lines and operations go; its history stays."""

from verbs.contract import writing
from verbs.sheets._locked import held_for_change

__all__ = ["drop_draft"]


def drop_draft(user, sheet_id: int, version: int) -> None:
    """Remove a draft. Raises TallyError when it is none or was changed meanwhile, and Refused."""
    with writing(user, "sheets"):
        sheet = held_for_change(sheet_id, version, "drop")
        # Row by row, so that each leaves its own record.
        for line in sheet.lines.all():
            line.delete()
        for operation in sheet.operations.order_by("-resource"):
            operation.delete()
        sheet._change_reason = "draft dropped"
        sheet.delete()
