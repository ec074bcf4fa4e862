"""In whose words what crosses is said: the map of a system of record, between its things and our records."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from types import UnionType
from typing import Any, get_args, get_origin, get_type_hints

from outside.books import open_book
from outside.records import Read, Thing, Words
from outside.services import RecordService, record_services
from tally_core.basics.errors import MissingError
from tally_core.basics.units import SYMBOLS
from tally_core.handover.comparing import Of
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet
from tally_core.stated.reading import RecordReader, show_value

from handover.kept import words_from
from handover.models import WordMap

__all__ = ["TABLES", "Theirs", "crossing", "in_their_words", "key_of", "service_named", "their_side", "words_of"]

#: The tables of what crosses, and the records they hold.
TABLES: dict[str, type] = {"parts": Part, "sheets": Sheet, "lines": Line, "operations": Operation}
_HINTS = {name: get_type_hints(kind) for name, kind in TABLES.items()}
_YES = {"yes", "true", "1", "y"}


def service_named(record: str) -> RecordService:
    """A system of record by our name for it. Raises MissingError."""
    service = record_services().get(record)
    if service is None:
        raise MissingError("No system of record has this name; an administrator keeps the file of services.")
    return service


def words_of(record: str) -> Words:
    """The words of a system of record: as they were edited, else those of its adapter. Raises MissingError, TallyError."""
    kept = WordMap.objects.filter(record=record).first()
    return words_from(kept.words) if kept else open_book(service_named(record)).words


def crossing(words: Words) -> dict[str, set[str]]:
    """By table, the fields that both sides know."""
    return {table: {f.ours for f in words.fields if f.table == table} for table in TABLES}


def key_of(part: str, alternate: str) -> str:
    """Their key of the structure and of the plan of a part and alternate."""
    return f"{part}|{alternate}"


def in_their_words(words: Words, table: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """Plain values of ours by their names, as their side says them; what does not cross is left out."""
    said = {}
    for f in words.fields:
        if f.table == table and f.ours in values:
            value = values[f.ours]
            said[f.theirs] = words.values.get(f.ours, {}).get(value, value) if isinstance(value, str) else value
    return said


@dataclass(slots=True)
class Theirs:
    """Their side in our words.

    Attributes:
        keys: by the identity of a line or operation, their key of the row.
        things: theirs as read, by kind and key.
        problems: what of it cannot be read: the part it is of, and why.
    """

    of: Of
    keys: dict[int, str] = field(default_factory=dict)
    things: dict[tuple[str, str], Thing] = field(default_factory=dict)
    problems: list[tuple[str, str]] = field(default_factory=list)


def their_side(read: Read, words: Words, lineage: Mapping[str, str], by_hand: set[str]) -> Theirs:
    """What was read of theirs, as records of ours.

    Args:
        lineage: by their key of a line, what it is known by here.
        by_hand: their keys of the lines that are kept by hand.
    """
    known: dict[int, str] = {}
    kept: set[int] = set()
    definition = Definition()
    theirs = Theirs(Of(definition, known), things={(t.kind, t.key): t for t in read.things})
    saying = _Saying(words, theirs)
    sheets: dict[str, Sheet] = {}

    def sheet_of(thing: Thing) -> Sheet:
        number, _, alternate = thing.key.partition("|")
        return sheets.setdefault(thing.key, Sheet(number, alternate or "A", status="released"))

    for thing in read.things:
        number, _, alternate = thing.key.partition("|")
        match thing.kind:
            case "items":
                definition.parts.append(saying.record("parts", thing.body, number, {"number": number}))
            case "structures":
                head = saying.record("sheets", thing.body, number, {"part": number, "alternate": alternate or "A"})
                sheet = sheet_of(thing)
                sheet.batch, sheet.reference = head.batch, head.reference
                for row in _rows(thing.body.get("rows")):
                    line = saying.record("lines", row, number, {})
                    sheet.lines.append(line)
                    theirs.keys[id(line)] = key = str(row.get("id") or "")
                    if key in lineage:
                        known[id(line)] = lineage[key]
                    if key in by_hand:
                        kept.add(id(line))
            case "plans":
                sheet = sheet_of(thing)
                for row in _rows(thing.body.get("steps")):
                    operation = saying.record("operations", row, number, {})
                    sheet.operations.append(operation)
                    theirs.keys[id(operation)] = str(row.get("id") or "")
    definition.sheets.extend(sheets.values())
    theirs.of = Of(definition, known, frozenset(kept))
    return theirs


def _rows(value: Any) -> list[dict[str, Any]]:
    return [row for row in value if isinstance(row, dict)] if isinstance(value, list) else []


class _Saying:
    """Reads their words."""

    def __init__(self, words: Words, theirs: Theirs) -> None:
        self.theirs = theirs
        self.fields = {table: [f for f in words.fields if f.table == table] for table in TABLES}
        self.values = {name: {said: ours for ours, said in map_.items()} for name, map_ in words.values.items()}

    def record(self, table: str, body: Mapping[str, Any], number: str, given: Mapping[str, Any]) -> Any:
        """A record of ours; what of it cannot be read is named, and stands as if nothing was stated."""
        reader = RecordReader()
        stated: dict[str, Any] = dict(given)
        for f in self.fields[table]:
            value = body.get(f.theirs)
            if value in (None, "", []):
                continue
            if isinstance(value, str):
                value = self.values.get(f.ours, {}).get(value, value)
            if f.ours == "unit" and value not in SYMBOLS:
                self.theirs.problems.append(
                    (number, f"their {f.theirs} {show_value(value)} is no unit that is known here; name it among the words")
                )
            if f.ours not in given:
                stated[f.ours] = _as_ours(_HINTS[table][f.ours], value)
        record = reader.record(TABLES[table], stated, "", ())
        self.theirs.problems += [(number, f"theirs cannot be read, {p.place.lstrip('.')}: {p.message}") for p in reader.problems]
        return record


def _as_ours(hint: Any, value: Any) -> Any:
    """A value of theirs in the type of our field, where it is only written otherwise: files know text alone."""
    if isinstance(hint, UnionType):
        hint = next(h for h in get_args(hint) if h is not type(None))
    if hint is bool and not isinstance(value, bool):
        return str(value).strip().casefold() in _YES
    if hint is int and isinstance(value, str) and value.strip().lstrip("-").isdecimal():
        return int(value)
    if hint is Decimal and isinstance(value, float):
        return repr(value)
    if get_origin(hint) is list and isinstance(value, str):
        return [word for word in value.replace(",", " ").split() if word]
    if hint is str and isinstance(value, int | float) and not isinstance(value, bool):
        return str(value)
    return value
