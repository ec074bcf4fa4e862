"""What a handover will write, to be read before it is written: the change sheet; and what stops it."""

import hashlib
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, fields
from typing import Any

from definition.models.parts import Part
from outside.records import Book, Write
from tally_core.basics.facts import facts_of, word_of
from tally_core.handover.comparing import Row
from tally_core.handover.settling import KINDS, Change

from handover.kept import FORMAT
from handover.looking import Look
from handover.models import ByHand, Handover, KnownAs
from handover.their_writes import writes_of
from handover.wording import TABLES, key_of

__all__ = ["Plan", "Stop", "field_word", "is_said", "plan_of", "row_words"]

_WORDS = {table: {n: word_of(n, f) for n, f in facts_of(kind).items()} for table, kind in TABLES.items()}
_WORDS["lines"] |= {"issue_at": "issued at", "scrap_percent": "scrap, %", "reference_designators": "designators"}
#: What the words for a row tell already, and what stands in a field where nothing is stated.
_NAMED = {"part", "item", "sequence", "name"}
_DEFAULTS = {table: {f.name: f.default for f in fields(kind)} for table, kind in TABLES.items()}


@dataclass(frozen=True, slots=True)
class Stop:
    """Why it cannot be handed over yet, and the row that mends it; ``row`` is empty where it is of a part as a whole."""

    row: str
    part: str
    words: str


@dataclass(slots=True)
class Plan:
    """A handover as it would be carried out now.

    Attributes:
        sheet: the change sheet as JSON, with a format number.
        digest: is another as soon as anything on either side is.
        left: keys of rows that stay as they are, though they do not agree.
    """

    changes: list[Change]
    writes: list[Write]
    stops: list[Stop] = field(default_factory=list)
    left: list[str] = field(default_factory=list)
    sheet: dict[str, Any] = field(default_factory=dict)
    digest: str = ""


def field_word(table: str, name: str) -> str:
    """The word for a field of a row."""
    return _WORDS[table].get(name, name.replace("_", " "))


def row_words(kind: str, names: dict[str, Any] | Any) -> str:
    """What a row is, in words."""
    match kind:
        case "parts":
            return "part"
        case "sheets":
            return "build sheet" if names["alternate"] == "A" else f"build sheet, alternate {names['alternate']}"
        case "operations":
            return f"operation {names['sequence']}" + (f", {names['name']}" if names.get("name") else "")
    item = f"{names['item']}, " if names.get("item") is not None else ""
    return f"line {item}{names.get('part') or 'a text'}"


def plan_of(handover: Handover, look: Look, book: Book) -> Plan:
    """What would be written now, and what stops it. At most three queries."""
    changes = look.changes()
    plan = Plan(changes, writes_of(look, changes, book))
    for key, (kind, row) in look.rows.items():
        if _left(look, kind, row):
            plan.left.append(key)
    plan.stops = list(
        dict.fromkeys([*_undecided(look), *_drafts(look, changes), *_against_rules(look, plan.writes, book), *_torn(look, plan)])
    )
    plan.stops += [Stop(f"P|{part}", part, words) for part, words in dict.fromkeys(look.theirs.problems)]
    plan.sheet = _sheet(handover, look, plan)
    seen = [
        [key, row.verdict, [[f.name, f.agreed, f.ours, f.theirs] for f in row.fields], sorted(row.stated.items(), key=str)]
        for key, (_, row) in look.rows.items()
    ]
    plan.digest = hashlib.sha256(json.dumps([plan.sheet["changes"], seen], default=str).encode()).hexdigest()[:32]
    return plan


def _left(look: Look, kind: str, row: Row) -> bool:
    if row.kept:
        return False
    names = [f.name for f in row.fields] or [""]
    return any(look.choice(kind, row, name) is None for name in names)


def _part(row: Row) -> str:
    return str(row.names.get("parent") or row.names["part"])


def _keys(look: Look) -> dict[int, str]:
    """By the identity of its names, which a change has from its row, the key of a row."""
    return {id(row.names): key for key, (_, row) in look.rows.items()}


def _undecided(look: Look) -> Iterator[Stop]:
    for key, (kind, row) in look.rows.items():
        if key in look.moved_on:
            yield Stop(key, _part(row), f"{row_words(kind, row.names)} moved since it was decided; decide it again")
            continue
        names = look.open_fields(kind, row)
        if names == [""]:
            yield Stop(
                key, _part(row), f"{row_words(kind, row.names)} is {row.verdict}, and the other side of it moved; decide whether it stays"
            )
        elif names:
            listed = ", ".join(field_word(kind, n) for n in names)
            yield Stop(key, _part(row), f"{row_words(kind, row.names)}, {listed}: {row.verdict}; decide whose value is to stand")


def _drafts(look: Look, changes: Iterable[Change]) -> Iterator[Stop]:
    """What is still a draft here is not handed over; what was taken over from them stands in a draft, and agrees."""
    told = set()
    keys = _keys(look)
    for c in changes:
        if c.side != "theirs" or c.kind == "parts" or isinstance(c.source, ByHand):
            continue
        place = (c.names["parent"], c.names["alternate"])
        sheet = look.ours.sheets.get(place)
        if sheet is not None and sheet.status == "draft" and place not in told:
            told.add(place)
            yield Stop(
                keys.get(id(c.names), ""), place[0], f"revision {sheet.revision} is a draft; release it first, or leave its rows out"
            )


def _against_rules(look: Look, writes: Iterable[Write], book: Book) -> Iterator[Stop]:
    by_word = {f.theirs: f.ours for f in look.words.fields if f.table == "parts"}
    for w in writes:
        for name, words in book.wrong(w.kind, w.key, w.body or {}):
            part = w.key.partition("|")[0]
            yield Stop(f"P|{part}", part, f"{field_word('parts', by_word[name]) if name in by_word else 'number'}: {words}")


def _torn(look: Look, plan: Plan) -> Iterator[Stop]:
    """A part of a handover is whole in itself: never a line without its part, nor one issued at an operation that is not there."""
    written = {(w.kind, w.key): w.body or {} for w in plan.writes}
    their_items = {key for kind, key in look.theirs.things if kind == "items"} | {k for kind, k in written if kind == "items"}
    wanted = {c.values["part"][1] for c in plan.changes if c.side == "ours" and c.kind == "lines" and "part" in c.values}
    new_here = {c.names["part"] for c in plan.changes if c.side == "ours" and c.kind == "parts" and c.verb == "add"}
    unknown = {str(n) for n in wanted if n} - set(look.ours.parts) - new_here
    known = set(Part.objects.filter(number__in=unknown).values_list("number", flat=True)) if unknown else set()
    step_word = next((f.theirs for f in look.words.fields if f.table == "operations" and f.ours == "sequence"), "")
    steps = {key: {str(s.get(step_word)) for s in body.get("steps", [])} for (kind, key), body in written.items() if kind == "plans"}
    keys = _keys(look)
    for c in plan.changes:
        if c.kind != "lines" or c.verb == "remove":
            continue
        key = keys.get(id(c.names), "")
        part, step = c.values.get("part", (None, None))[1], c.values.get("issue_at", (None, None))[1]
        parent = c.names["parent"]
        if c.side == "theirs":
            if part and part not in their_items and not isinstance(c.source, ByHand):
                yield Stop(
                    key,
                    parent,
                    f"{row_words('lines', c.names)}: {part} is not over there and is left out; hand it over too, or leave this line",
                )
            if step is not None:
                place = key_of(parent, c.names["alternate"])
                held = look.theirs.things.get(("plans", place))
                there = steps.get(place, {str(s.get(step_word)) for s in held.body.get("steps", [])} if held else set())
                if str(step) not in there:
                    yield Stop(
                        key, parent, f"{row_words('lines', c.names)} is issued at {step}, and they have no such operation; hand it over too"
                    )
        elif part and part in unknown - known:
            yield Stop(
                key,
                parent,
                f"{row_words('lines', c.names)}: {part} is no part of ours and is left out; take it over too, or leave this line",
            )


def is_said(kind: str, name: str, value: Any) -> bool:
    """Whether a value of a row that comes or goes tells anything: its name is told already, and so is what stands unless something is stated."""
    return name not in _NAMED and value not in (None, "", [], False, "0") and value != _DEFAULTS[kind].get(name)


def _sheet(handover: Handover, look: Look, plan: Plan) -> dict[str, Any]:
    listed: list[dict[str, Any]] = []
    known_as = dict(KnownAs.objects.filter(record=handover.record).values_list("part__number", "code"))
    for c in plan.changes:
        by_hand = c.source if isinstance(c.source, ByHand) else None
        listed.append(
            {
                "side": c.side,
                "kind": c.kind,
                "verb": c.verb,
                "part": str(c.names.get("parent") or c.names["part"]),
                "known_as": known_as.get(str(c.names.get("parent") or c.names["part"]), ""),
                "words": row_words(c.kind, c.names),
                "by_hand": by_hand.reason if by_hand else "",
                "values": [
                    {"field": n, "word": field_word(c.kind, n), "before": before, "after": after}
                    for n, (before, after) in c.values.items()
                    if c.verb == "change" or is_said(c.kind, n, after if c.verb == "add" else before)
                ],
            }
        )
    order = {n: i for i, n in enumerate(look.ours.order)}
    listed.sort(key=lambda c: (c["side"], order.get(c["part"], len(order)), c["part"], KINDS.index(c["kind"])))
    left = []
    for key in plan.left:
        kind, row = look.rows[key]
        left.append({"part": _part(row), "words": row_words(kind, row.names), "verdict": row.verdict})
    head = {"format": FORMAT, "record": handover.record, "top": handover.top.number, "sheets": look.ours.numbers_of(handover.sheets)}
    return head | {"changes": listed, "left": left}
