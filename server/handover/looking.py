"""A handover as it stands: our side now, theirs as it was read, what is agreed; what does not agree, and what was decided of it."""

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from django.utils.timezone import localdate
from outside.records import Read, Words
from tally_core.handover.comparing import Comparison, Of, Row, compare_definitions
from tally_core.handover.settling import KINDS, Change, settle
from tally_core.handover.three_way import Field, Side

from handover.kept import agreed_from, read_from
from handover.models import Agreed, ByHand, Decision, Handover
from handover.ours import Ours, our_side
from handover.wording import Theirs, crossing, their_side, words_of

__all__ = ["Look", "agreed_of", "look", "look_at", "row_key", "said_of"]

_LETTER = {"parts": "P", "sheets": "S", "operations": "O", "lines": "L"}


@dataclass(slots=True)
class Look:
    """Both sides beside one another.

    Attributes:
        by_hand: lines of theirs that are kept by hand, or will be added.
        decided: what was decided and still holds, by row and field.
        moved_on: keys of rows of which something was decided on what it says no longer.
    """

    words: Words
    ours: Ours
    theirs: Theirs
    agreed: Of | None
    made: Comparison
    by_hand: list[ByHand]
    rows: dict[str, tuple[str, Row]] = field(default_factory=dict)
    decided: dict[tuple[str, str], Decision] = field(default_factory=dict)
    moved_on: set[str] = field(default_factory=set)

    def choice(self, kind: str, row: Row, name: str) -> Side | None:
        """Whose state is to stand: as it was decided, else as it is proposed."""
        decision = self.decided.get((row_key(kind, row, self), name))
        if decision is not None:
            return None if decision.choice == "leave" else decision.choice
        if name:
            return next(f.proposal for f in row.fields if f.name == name)
        return self.proposal(kind, row)

    def proposal(self, kind: str, row: Row) -> Side | None:
        """Of a row that one side has: parts and whole sheets are never proposed to be taken away."""
        if row.kept or (kind in ("parts", "sheets") and row.was_agreed):
            return None
        return row.proposal

    def open_fields(self, kind: str, row: Row) -> list[str]:
        """What of a row nobody decided yet and nothing proposes; an empty name stands for a row that one side has."""
        if row.kept:
            return []
        key = row_key(kind, row, self)
        if not row.fields:
            return [] if self.proposal(kind, row) or (key, "") in self.decided else [""]
        return [f.name for f in row.fields if not f.proposal and (key, f.name) not in self.decided]

    def changes(self) -> list[Change]:
        """What is to be written on both sides, by what was decided and proposed."""
        found = settle(self.made, self.choice)
        for x in self.by_hand:
            if not x.known_as:
                stated = {"part": x.item, "quantity": f"{x.quantity.normalize():f}", "unit": x.unit, "issue_at": x.issue_at}  # fmt: skip
                names = {"parent": x.parent.number, "alternate": x.alternate, "part": x.item, "item": None}
                values = {n: (None, v) for n, v in stated.items() if v is not None}
                found.append(Change("theirs", "lines", "add", names, values, None, x))
        return found


def look_at(handover: Handover, *, lock: bool = False) -> Look:
    """A handover whose other side was read. A fixed number of queries; raises TallyError, MissingError."""
    day = handover.day or localdate()
    read = read_from(handover.theirs)
    found = look(handover.record, handover.top, read, day, handover, lock=lock)
    for decision in Decision.objects.filter(handover=handover):
        _, row = found.rows.get(decision.row, ("", None))
        if row is None:
            continue
        if decision.of == said_of(row, decision.field):
            found.decided[decision.row, decision.field] = decision
        else:
            found.moved_on.add(decision.row)
    return found


def look(record: str, top: Any, read: Read, day: date, handover: Handover | None = None, *, lock: bool = False) -> Look:
    """A product beside what was read of a system of record, without what anybody decided."""
    words = words_of(record)
    crosses = crossing(words)
    codes = {t.key for t in read.things if t.kind == "items"}
    ours = our_side(record, top, day, codes, lock=lock)
    agreed, known_as = agreed_of(record, {*ours.parts, *codes}, words)
    rows = ByHand.objects.filter(record=record, parent__number__in=[*ours.parts]).select_related("parent")
    by_hand = [x for x in rows if x.known_as or (handover is not None and x.handover_id == handover.pk)]
    theirs = their_side(read, words, known_as, {x.known_as for x in by_hand if x.known_as})
    _leave_out_strangers(ours, theirs)
    owners = {(f.table, f.ours): f.owner for f in words.fields if f.owner}
    by_name = {name: owner for (_, name), owner in owners.items()}
    made = compare_definitions(agreed, ours.of, theirs.of, day, lambda name: by_name.get(name), crosses)
    found = Look(words, ours, theirs, agreed, made, by_hand)
    for kind in KINDS:
        for row in getattr(made, kind):
            found.rows[row_key(kind, row, found)] = (kind, row)
    return found


def agreed_of(
    record: str, numbers: Iterable[str], words: Words, until: datetime | None = None
) -> tuple[Of | None, dict[str, str]]:
    """What is agreed of some parts, or was at a moment, and by their key of a line what it is known by here; None where nothing is."""
    kept = Agreed.objects.filter(record=record, number__in=set(numbers))
    if until is not None:
        kept = kept.filter(at__lte=until)
    states = list(kept.order_by("number", "-id").distinct("number").values_list("state", flat=True))
    if not states:
        return None, {}
    return agreed_from(states, crossing(words))


def _leave_out_strangers(ours: Ours, theirs: Theirs) -> None:
    """Items of theirs that only lines kept by hand take are no parts that ours lacks."""
    taken = {
        line.part for s in theirs.of.definition.sheets for line in s.lines if id(line) not in theirs.of.by_hand
    } | {s.part for s in theirs.of.definition.sheets}
    definition = theirs.of.definition
    definition.parts = [p for p in definition.parts if p.number in ours.parts or p.number in taken]


def row_key(kind: str, row: Row, of: Look) -> str:
    """What a row is known by as long as it is the same row, on whichever side it stands."""
    names = row.names
    if kind == "parts":
        return f"P|{names['part']}"
    place = f"{_LETTER[kind]}|{names['parent']}|{names['alternate']}"
    if kind == "operations":
        return f"{place}|{names['sequence']}"
    if kind == "sheets":
        return place
    _, here, there = row.records
    lineage = of.ours.of.lineage.get(id(here)) or of.theirs.of.lineage.get(id(there))
    return f"{place}|{lineage or '@' + of.theirs.keys.get(id(there), '')}"


def said_of(row: Row, name: str) -> str:
    """A digest of what is said of a field, or of a row that one side only has: a decision holds as long as it is the same."""
    said: Any = [row.verdict, sorted(row.stated.items(), key=lambda x: x[0])]
    if name:
        found: Field | None = next((f for f in row.fields if f.name == name), None)
        said = None if found is None else [found.agreed, found.ours, found.theirs]
    return hashlib.sha256(json.dumps(said, default=str).encode()).hexdigest()[:16]
