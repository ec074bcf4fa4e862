"""What is needed to finish, or to take back, a writing over there that broke off: kept before the first call, read whatever became of it.

Nothing is noted on the way. How far it came is seen from what stands there: a thing says what was written, or it still has the version it had.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from outside.records import Book, Thing, Write, says_the_same
from tally_core.basics.errors import TallyError

from handover.kept import FORMAT
from handover.looking import Look
from handover.planning import Plan

__all__ = ["Stand", "journal_of", "how_it_stands", "take_back", "writes_in"]


def journal_of(look: Look, plan: Plan) -> dict[str, Any]:
    """The writes of a plan, each with what stood there before."""
    writes = []
    for w in plan.writes:
        held = look.theirs.things.get((w.kind, w.key))
        writes.append([w.kind, w.key, w.version, w.body, held.body if held else None])
    return {"format": FORMAT, "digest": plan.digest, "writes": writes}


def writes_in(journal: dict[str, Any] | None) -> list[tuple[Write, dict[str, Any] | None]]:
    """The writes of a journal, each with what stood there before. Raises TallyError for a format that is not known."""
    if journal is None or journal.get("format") != FORMAT:
        raise TallyError("What was to be written was kept by a newer Round Tally; it cannot be finished by this one.")
    return [(Write(kind, key, version, body), before) for kind, key, version, body, before in journal["writes"]]


@dataclass(slots=True)
class Stand:
    """How far some writes came. ``moved``: neither as it was nor as it was written, so somebody over there changed it."""

    written: list[tuple[Write, Thing]] = field(default_factory=list)
    waiting: list[Write] = field(default_factory=list)
    moved: list[Write] = field(default_factory=list)


def how_it_stands(book: Book, writes: Sequence[Write]) -> Stand:
    """Read what was to be written. Raises CallFailed."""
    there = {(t.kind, t.key): t for t in book.these([(w.kind, w.key) for w in writes])}
    stand = Stand()
    for w in writes:
        held = there.get((w.kind, w.key))
        if (held.version if held else None) == w.version:
            stand.waiting.append(w)
        elif held is not None and says_the_same(w.body, held.body):
            stand.written.append((w, held))
        else:
            stand.moved.append(w)
    return stand


def take_back(book: Book, journal: dict[str, Any] | None, by: str) -> tuple[int, list[str]]:
    """Put back what was written, in the reverse order; what somebody over there changed since, or before it was our turn, is theirs and stays.

    Returns how many things were put back, and the keys of those that stay. Raises CallFailed and outside.records.Moved where it cannot be.
    """
    writes = writes_in(journal)
    before = {(w.kind, w.key): body for w, body in writes}
    stand = how_it_stands(book, [w for w, _ in writes])
    back = [Write(w.kind, w.key, held.version, before[w.kind, w.key]) for w, held in reversed(stand.written)]
    if back:
        book.write(back, by)
    return len(back), [w.key for w in stand.moved]
