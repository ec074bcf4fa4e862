"""What may be done with a sheet in the state it is in: asked by every action on one, and beforehand by the screen."""

from definition.models.sheets import BuildSheet

__all__ = ["SHEET_ACTIONS", "why_not"]

#: For each action the states it needs, and what is said where a sheet is in another one.
SHEET_ACTIONS: dict[str, tuple[tuple[str, ...], str]] = {
    "edit": (("draft",), "is {status} and locked. Open a new revision to change it."),
    "release": (("draft",), "is {status}, not a draft."),
    "drop": (("draft",), "is {status}, not a draft; only a draft can be dropped."),
    "days": (("released",), "is {status}, not released; it has no days in force."),
    "retire": (("released",), "is {status}, not released."),
}


def why_not(sheet: BuildSheet, action: str) -> str | None:
    """Why an action cannot be done with a sheet as it stands, whoever asks; None where it can."""
    states, words = SHEET_ACTIONS[action]
    if sheet.status in states:
        return None
    return f"Revision {sheet.revision} {words.format(status='a draft' if sheet.status == 'draft' else sheet.status)}"
