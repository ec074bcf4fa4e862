"""Both sides of a handover over HTTP: rows that do not agree, what stops, and the change sheet."""

from typing import Any

from ninja import Schema

__all__ = ["ChangeSheet", "CompareOut"]


class SideField(Schema):
    """A field that does not agree. ``proposal`` and ``choice``: whose value is to stand; ``of`` goes back with a decision."""

    name: str
    word: str
    agreed: Any
    ours: Any
    theirs: Any
    verdict: str
    proposal: str | None
    choice: str
    by: str
    of: str


class StatedValue(Schema):
    """What a row says that one side only has."""

    word: str
    value: Any


class SideRow(Schema):
    """A row that does not agree. ``open``: somebody must decide; ``moved_on``: it moved since it was decided."""

    key: str
    kind: str
    part: str
    alternate: str
    words: str
    about: str
    verdict: str
    was_agreed: bool
    fields: list[SideField]
    stated: list[StatedValue]
    proposal: str | None
    choice: str
    by: str
    of: str
    choices: list[str]
    moved_on: bool
    open: bool


class NamedOperation(Schema):
    """An operation of ours."""

    sequence: int
    name: str


class SheetThere(Schema):
    """The sheet of ours that counts."""

    alternate: str
    id: int
    revision: str
    status: str
    version: int
    operations: list[NamedOperation]


class SidePart(Schema):
    """A part of which something does not agree, on its level beneath the product; ``ours``: it is a part here, ``known_as``: what it is called
    over there, where that is not its number."""

    number: str
    description: str
    level: int
    ours: bool
    known_as: str
    sheets: list[SheetThere]


class ByHandOut(Schema):
    """A line that only they have and keep."""

    id: int
    part: str
    alternate: str
    item: str
    quantity: str
    unit: str
    issue_at: int | None
    reason: str
    by: str
    at: str
    written: bool
    gone: bool


class HandoverStop(Schema):
    """Why it cannot be handed over yet."""

    row: str
    part: str
    words: str


class ChangedValue(Schema):
    """A field that is written."""

    field: str
    word: str
    before: Any
    after: Any


class ChangeOut(Schema):
    """A row that is written."""

    side: str
    kind: str
    verb: str
    part: str
    known_as: str = ""
    words: str
    by_hand: str
    values: list[ChangedValue]


class LeftOut(Schema):
    """A row that stays as it is."""

    part: str
    words: str
    verdict: str


class ChangeSheet(Schema):
    """All that is written on both sides, and what is left; ``sheets`` are those that were chosen, none for a product with all beneath it."""

    record: str
    top: str
    sheets: list[str] = []
    changes: list[ChangeOut]
    left: list[LeftOut]


class CompareOut(Schema):
    """Both sides beside one another; ``digest`` names the change sheet as it is now."""

    rows: list[SideRow]
    parts: list[SidePart]
    agreeing: dict[str, int]
    by_hand: list[ByHandOut]
    stops: list[HandoverStop]
    sheet: ChangeSheet
    digest: str
