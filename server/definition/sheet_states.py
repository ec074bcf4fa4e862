"""What may be done with a sheet in the state it is in: asked by every action on one, and beforehand by the screen."""

from accounts.allowed import Allowed

from definition.models.sheets import BuildSheet

__all__ = ["SHEET_ACTIONS", "why_not"]

SHEET_ACTIONS = Allowed(
    {
        "edit": (("draft",), "is {state} and locked. Open a new revision to change it."),
        "release": (("draft",), "is {state}, not a draft."),
        "drop": (("draft",), "is {state}, not a draft; only a draft can be dropped."),
        "days": (("released",), "is {state}, not released; it has no days in force."),
        "retire": (("released",), "is {state}, not released."),
    }
)


def why_not(sheet: BuildSheet, action: str) -> str | None:
    """Why an action cannot be done with a sheet as it stands, whoever asks; None where it can."""
    return SHEET_ACTIONS.why_not(action, sheet.status, f"Revision {sheet.revision}")
