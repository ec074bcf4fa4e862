"""A handover as it stands: our side now, theirs as it was read, what is agreed; what does not agree, and what was decided of it."""

import hashlib
import json
import threading
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any

from django.db.models import Max
from django.utils.timezone import localdate
from outside.records import Read, Words
from tally_core.handover.comparing import Comparison, Of, Row, compare_definitions
from tally_core.handover.settling import KINDS, Change, settle
from tally_core.handover.three_way import Field, Side

from handover.kept import agreed_from, read_from
from handover.models import Agreed, ByHand, Decision, Handover, KnownAs
from handover.ours import Ours, Scope, our_side, scope_of
from handover.wording import Theirs, crossing, their_side, words_of

__all__ = ["Look", "agreed_of", "decided_together", "look", "look_at", "row_key", "said_of"]

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
        if name:
            return self._of_fields(kind, row, name)[0]
        decision = self.decided.get((row_key(kind, row, self), ""))
        if decision is not None:
            return None if decision.choice == "leave" else decision.choice
        return self.proposal(kind, row)

    def _of_fields(self, kind: str, row: Row, name: str) -> tuple[Side | None, bool]:
        """Whose value of a field is to stand, and whether that is decided or proposed at all; one word for what is decided together."""
        names = decided_together(kind, row, name)
        key = row_key(kind, row, self)
        decisions = [d for n in names if (d := self.decided.get((key, n)))]
        if decisions:
            last = max(decisions, key=lambda d: d.at)
            return (None if last.choice == "leave" else last.choice), True
        proposals = {f.proposal for f in row.fields if f.name in names}
        (only,) = proposals if len(proposals) == 1 else (None,)
        return only, only is not None

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
        return [f.name for f in row.fields if not self._of_fields(kind, row, f.name)[1]]

    def changes(self) -> list[Change]:
        """What is to be written on both sides, by what was decided and proposed."""
        found = settle(self.made, self.choice)
        for x in self.by_hand:
            if not x.known_as:
                stated = {"part": x.item, "quantity": f"{x.quantity.normalize():f}", "unit": x.unit, "issue_at": x.issue_at}
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


def look(record: str, top: Any, read: Read, day: date, handover: Handover | None = None, *, lock: bool = False, anew: bool = False) -> Look:
    """A product beside what was read of a system of record, without what anybody decided.

    What was laid side by side last is kept, and used again as long as nothing that it rests on is another; not so within a transaction that
    has written (``anew``), since what is rolled back never was, nor where the rows are held.
    """
    words = words_of(record)
    codes = sorted({t.key for t in read.things if t.kind == "items"})
    scope = scope_of(record, top, day, codes, only=handover.sheets if handover is not None else (), lock=lock)
    rows = ByHand.objects.filter(record=record, parent__in=scope.keys).select_related("parent")
    by_hand = [x for x in rows if x.known_as or (handover is not None and x.handover_id == handover.pk)]
    known = {x.known_as for x in by_hand if x.known_as}
    agreed_last = Agreed.objects.filter(record=record).aggregate(last=Max("id"))["last"]
    # Under another number it may be another thing of the same version.
    codes_of_ours = frozenset(KnownAs.objects.filter(record=record).values_list("part", "code"))
    things = tuple((t.kind, t.key, t.version) for t in read.things)
    rests_on = (record, day, scope, agreed_last, frozenset(known), codes_of_ours, repr(words), things)
    held = None if lock or anew else _held(rests_on)
    if held is None:
        held = _beside(record, scope, read, day, words, codes, known)
        if not lock and not anew:
            _hold(rests_on, held)
    return replace(held, by_hand=by_hand, decided={}, moved_on=set())


def _beside(record: str, scope: Scope, read: Read, day: date, words: Words, codes: Iterable[str], by_hand: set[str]) -> Look:
    crosses = crossing(words)
    ours = our_side(record, scope, day)
    agreed, known_as = agreed_of(record, {*ours.parts, *codes}, words)
    if agreed is not None and len(scope.sheets) < len(scope.keys):
        # Of a part whose sheets do not count nothing is compared but the part.
        counted = set(ours.numbers_of(scope.sheets))
        agreed.definition.sheets = [s for s in agreed.definition.sheets if s.part in counted]
    theirs = their_side(read, words, known_as, by_hand)
    _leave_out_strangers(ours, theirs)
    owners = {f.ours: f.owner for f in words.fields if f.owner}
    made = compare_definitions(agreed, ours.of, theirs.of, day, owners.get, crosses)
    found = Look(words, ours, theirs, agreed, made, [])
    for kind in KINDS:
        for row in getattr(made, kind):
            found.rows[row_key(kind, row, found)] = (kind, row)
    return found


#: The last looks of this process, by what they rest on; nothing of them is ever changed.
_LOOKS: dict[tuple[Any, ...], Look] = {}
_MOST_LOOKS = 2
_turn = threading.Lock()


def _held(rests_on: tuple[Any, ...]) -> Look | None:
    with _turn:
        return _LOOKS.get(rests_on)


def _hold(rests_on: tuple[Any, ...], look: Look) -> None:
    with _turn:
        _LOOKS[rests_on] = look
        while len(_LOOKS) > _MOST_LOOKS:
            del _LOOKS[next(iter(_LOOKS))]


def agreed_of(record: str, numbers: Iterable[str], words: Words, until: datetime | None = None) -> tuple[Of | None, dict[str, str]]:
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
    taken = {line.part for s in theirs.of.definition.sheets for line in s.lines if id(line) not in theirs.of.by_hand} | {
        s.part for s in theirs.of.definition.sheets
    }
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


#: Fields that mean nothing without one another: a quantity of one side in the unit of the other would be another amount.
_TOGETHER = (frozenset({"unit", "quantity", "fixed_loss"}), frozenset({"option", "option_action"}))


def decided_together(kind: str, row: Row, name: str) -> list[str]:
    """The fields of a row that are decided as one with a field of it."""
    there = [f.name for f in row.fields]
    if kind == "lines" and ("unit" in there or name in ("option", "option_action")):
        for group in _TOGETHER:
            if name in group:
                return [n for n in there if n in group]
    return [name]


def said_of(row: Row, name: str) -> str:
    """A digest of what is said of a field, or of a row that one side only has: a decision holds as long as it is the same."""
    said: Any = [row.verdict, sorted(row.stated.items(), key=lambda x: x[0])]
    if name:
        found: Field | None = next((f for f in row.fields if f.name == name), None)
        said = None if found is None else [found.agreed, found.ours, found.theirs]
    return hashlib.sha256(json.dumps(said, default=str).encode()).hexdigest()[:16]
