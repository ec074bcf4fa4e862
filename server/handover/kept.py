"""What is kept of a handover as JSON: with a format number, read back whatever number it has."""

from collections.abc import Iterable, Mapping
from typing import Any

from outside.records import FieldWord, Read, Thing, Words
from tally_core.basics.errors import TallyError
from tally_core.handover.comparing import Of
from tally_core.handover.settling import Agreed
from tally_core.stated.bundle import plain_value
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet
from tally_core.stated.reading import RecordReader

__all__ = ["agreed_from", "agreed_states", "read_from", "read_kept", "words_from", "words_kept"]

FORMAT = 1
_TABLES = {"parts": Part, "sheets": Sheet, "lines": Line, "operations": Operation}
#: What a row is known by, whatever crosses.
_KEYS = {"parts": ("number",), "sheets": ("part", "alternate"), "lines": ("item", "part"), "operations": ("sequence",)}


def _opened(kept: Mapping[str, Any] | None) -> Mapping[str, Any]:
    if kept is None or kept.get("format") != FORMAT:
        raise TallyError("This was kept by a newer Round Tally and cannot be read by this one.")
    return kept


def read_kept(read: Read) -> dict[str, Any]:
    """Their side as it was read."""
    return {"format": FORMAT, "stamp": read.stamp, "things": [[t.kind, t.key, t.version, t.body, t.by, t.at] for t in read.things]}


def read_from(kept: Mapping[str, Any] | None) -> Read:
    """:func:`read_kept` turned round. Raises TallyError where it was not read, and for a format that is not known."""
    if kept is None:
        raise TallyError("The other side was not read yet.")
    held = _opened(kept)
    return Read([Thing(*t) for t in held["things"]], held["stamp"])


def words_kept(words: Words) -> dict[str, Any]:
    """A map of words."""
    return {
        "format": FORMAT,
        "fields": [{"table": f.table, "ours": f.ours, "theirs": f.theirs, "owner": f.owner} for f in words.fields],
        "values": {n: dict(v) for n, v in words.values.items()},
    }


def words_from(kept: Mapping[str, Any]) -> Words:
    """:func:`words_kept` turned round. Raises TallyError for a format that is not known."""
    held = _opened(kept)
    return Words([FieldWord(**f) for f in held["fields"]], held["values"])


def agreed_states(agreed: Agreed, known_as: Mapping[int, str], crossing: Mapping[str, Iterable[str]]) -> dict[str, dict[str, Any]]:
    """By part number, what is agreed of it and its sheets.

    Args:
        known_as: by the identity of a line of theirs, their key of it.
        crossing: by table, the fields that both sides know.
    """
    of = agreed.of
    head = {"format": FORMAT, "fields": {table: sorted(names) for table, names in crossing.items()}}
    states: dict[str, dict[str, Any]] = {}

    def row(table: str, record: Any) -> dict[str, Any]:
        stated = {n: plain_value(v) for n in (*_KEYS[table], *crossing[table]) if (v := getattr(record, n)) is not None}
        if of.open.get(id(record)):
            stated["_open"] = sorted(of.open[id(record)])
        return stated

    def line(record: Line) -> dict[str, Any]:
        there = agreed.there.get(id(record))
        beside = {"_lineage": of.lineage.get(id(record)), "_known_as": known_as.get(id(there)) if there else None}
        return row("lines", record) | {n: v for n, v in beside.items() if v}

    for part in of.definition.parts:
        states[part.number] = head | {"part": row("parts", part), "sheets": []}
    for sheet in of.definition.sheets:
        state = states.setdefault(sheet.part, head | {"part": None, "sheets": []})
        beneath = {"lines": [line(x) for x in sheet.lines], "operations": [row("operations", x) for x in sheet.operations]}
        state["sheets"].append(row("sheets", sheet) | beneath)
    return states


def agreed_from(states: Iterable[Mapping[str, Any]], crossing: Mapping[str, Iterable[str]]) -> tuple[Of, dict[str, str]]:
    """What was agreed, and by their key of a line its lineage; a field that did not cross then is not agreed.

    Raises TallyError for a format that is not known.
    """
    reader = RecordReader()
    lineage: dict[int, str] = {}
    open_: dict[int, frozenset[str]] = {}
    known_as: dict[str, str] = {}
    definition = Definition()

    def read(table: str, stated: Mapping[str, Any], crossed: Mapping[str, Iterable[str]]) -> Any:
        record = reader.record(_TABLES[table], {n: v for n, v in stated.items() if n[0] != "_"}, "", ())
        left = frozenset(stated.get("_open", ())) | (frozenset(crossing[table]) - frozenset(crossed.get(table, ())))
        if record is not None and left:
            open_[id(record)] = left
        return record

    for kept in states:
        state = _opened(kept)
        crossed = state["fields"]
        if state["part"] is not None:
            definition.parts.append(read("parts", state["part"], crossed))
        for stated in state["sheets"]:
            sheet = read("sheets", {n: v for n, v in stated.items() if n not in ("lines", "operations")}, crossed)
            sheet.operations = [read("operations", x, crossed) for x in stated["operations"]]
            for x in stated["lines"]:
                line = read("lines", x, crossed)
                sheet.lines.append(line)
                if x.get("_lineage"):
                    lineage[id(line)] = x["_lineage"]
                    if x.get("_known_as"):
                        known_as[x["_known_as"]] = x["_lineage"]
            definition.sheets.append(sheet)
    if reader.problems:
        raise TallyError(f"What was agreed cannot be read: {reader.problems[0].message}")
    return Of(definition, lineage, open=open_), known_as
