"""What is in force on a day (rule U7), and which of several sheets counts."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

__all__ = ["Candidate", "choose_sheets", "in_force", "overlap", "revision_order"]


def in_force(day: date, first: date | None, last: date | None) -> bool:
    """Rule U7: from the first day up to, not on, the last. An open end has no limit.

    >>> in_force(date(2026, 1, 1), date(2026, 1, 1), date(2026, 2, 1))
    True
    >>> in_force(date(2026, 2, 1), date(2026, 1, 1), date(2026, 2, 1))
    False
    """
    return (first is None or first <= day) and (last is None or day < last)


def overlap(one: tuple[date | None, date | None], other: tuple[date | None, date | None]) -> bool:
    """Whether two half-open spans of days share a day. An open end has no limit.

    >>> june, july = date(2026, 6, 1), date(2026, 7, 1)
    >>> overlap((None, june), (june, None)), overlap((None, july), (june, None))
    (False, True)
    """
    return (one[0] is None or other[1] is None or one[0] < other[1]) and (other[0] is None or one[1] is None or other[0] < one[1])


def revision_order(revision: str) -> tuple[int, str]:
    """A key that sorts revisions as the trade counts them: A ... Z, AA; 1 ... 9, 10.

    >>> sorted(["AA", "B", "A", "10", "9"], key=revision_order)
    ['9', 'A', 'B', '10', 'AA']
    """
    return len(revision), revision


@dataclass(frozen=True, slots=True)
class Candidate:
    """A sheet that may be the one in force; ``key`` is the caller's own handle."""

    key: int
    part: int
    alternate: str
    revision: str
    status: str
    effective_from: date | None
    effective_to: date | None
    preferred: bool = False  # its alternate is the part's default


def choose_sheets(candidates: Iterable[Candidate], day: date, drafts: bool) -> dict[int, int]:
    """The sheet that counts on a day, per part: ``{part: key}``.

    Of the released sheets in force the one of the part's default alternate counts, else of the first; and of those
    the one that came into force last. With ``drafts``, a draft counts before a released sheet of the same alternate, the newest
    revision first. A part with none is absent.
    """
    best: dict[int, tuple[tuple, int]] = {}
    for sheet in candidates:
        if sheet.status == "retired" or (sheet.status == "draft" and not drafts):
            continue
        if not in_force(day, sheet.effective_from, sheet.effective_to):
            continue
        draft = sheet.status == "draft"
        since = 0 if draft or sheet.effective_from is None else sheet.effective_from.toordinal()
        # The smallest alternate first; everything after it the largest first.
        rank = (draft, since, revision_order(sheet.revision), sheet.key)
        way = (not sheet.preferred, sheet.alternate)
        held = best.get(sheet.part)
        if held is None or way < held[0][0] or (way == held[0][0] and rank > held[0][1]):
            best[sheet.part] = ((way, rank), sheet.key)
    return {part: key for part, (_, key) in best.items()}
