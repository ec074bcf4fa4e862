"""From what was decided to what is written on each side, and from what stands afterwards to what is agreed from then on (rules H3 to H5)."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..stated.definition import Definition, Line, Operation, Part, Sheet
from .comparing import Comparison, Of, Row, Triple
from .three_way import Side

__all__ = ["KINDS", "Agreed", "Change", "agree", "settle"]

#: In the order in which they are written: nothing names what is not there yet.
KINDS = ("parts", "sheets", "operations", "lines")
#: Of a line, what is one amount together.
_AMOUNT = ("quantity", "fixed_loss", "unit")


@dataclass(frozen=True, slots=True)
class Change:
    """One row to be written.

    Attributes:
        side: which side is written.
        kind: one of :data:`KINDS`.
        verb: add, change or remove.
        values: field → what stands there and what will, as plain values.
        record: the row as it stands on that side, None where it is added.
        source: the row as it stands on the other side, None where there is none.
    """

    side: Side
    kind: str
    verb: str
    names: Mapping[str, Any]
    values: Mapping[str, tuple[Any, Any]]
    record: Any
    source: Any


def settle(made: Comparison, decided: Callable[[str, Row, str], Side | None]) -> list[Change]:
    """What the decisions write, on both sides.

    Args:
        decided: whose state to take, by kind, row and name of a field (empty for a row that one side only has); None leaves it as it is.

    What is kept by hand is never written, and a part is never taken away on either side: others may use it.
    """
    changes = []
    for kind in KINDS:
        for row in getattr(made, kind):
            _, here, there = row.records
            if here is not None and there is not None:
                changes += _fields(kind, row, decided)
            elif not row.kept and (side := decided(kind, row, "")):
                one = _whole(kind, row, side)
                if one is not None:
                    changes.append(one)
    return changes


def _fields(kind: str, row: Row, decided: Callable[[str, Row, str], Side | None]) -> list[Change]:
    _, here, there = row.records
    to: dict[Side, dict[str, tuple[Any, Any]]] = {"ours": {}, "theirs": {}}
    for f in row.fields:
        match decided(kind, row, f.name):
            case "ours":
                to["theirs"][f.name] = (f.theirs, f.ours)
            case "theirs":
                to["ours"][f.name] = (f.ours, f.theirs)
    found = []
    if to["ours"]:
        found.append(Change("ours", kind, "change", row.names, to["ours"], here, there))
    if to["theirs"]:
        found.append(Change("theirs", kind, "change", row.names, to["theirs"], there, here))
    return found


def _whole(kind: str, row: Row, side: Side) -> Change | None:
    _, here, there = row.records
    has: Side = "ours" if here is not None else "theirs"
    lacks: Side = "theirs" if has == "ours" else "ours"
    if side == has:
        return Change(lacks, kind, "add", row.names, {n: (None, v) for n, v in row.stated.items()}, None, here or there)
    if kind == "parts":
        return None
    return Change(has, kind, "remove", row.names, {n: (v, None) for n, v in row.stated.items()}, here or there, None)


@dataclass(slots=True)
class Agreed:
    """A state that both sides agree on. ``there``: by the identity of a record of it, the same row as theirs."""

    of: Of
    there: dict[int, Any] = field(default_factory=dict)


def agree(made: Comparison, agreed: Of | None, ours: Of) -> Agreed:
    """What is agreed, once all that was decided stands on both sides; ``made`` compares them as they are then.

    What agrees is agreed. What was left as it is stays as it was agreed before; a field of which nothing was, is agreed no more than it was.
    """
    lineage: dict[int, str] = {}
    open_: dict[int, frozenset[str]] = {}
    result = Agreed(Of(Definition(), lineage, open=open_))
    sheets: dict[tuple[str, str], Sheet] = {}
    for kind in KINDS:
        rows: list[tuple[Mapping[str, Any], Triple, Row | None]] = [(*x, None) for x in made.agreeing.get(kind, ())]
        rows += [(row.names, row.records, row) for row in getattr(made, kind)]
        for names, (before, here, there), row in rows:
            if here is not None and there is not None:
                record, left = _both(before, here, row, agreed)
            elif before is not None and agreed is not None:
                record, left = replace(before), agreed.open.get(id(before), frozenset())
            else:
                continue
            match record:
                case Part():
                    result.of.definition.parts.append(record)
                case Sheet():
                    record.lines, record.operations = [], []
                    sheets[names["parent"], names["alternate"]] = record
                case Operation():
                    sheets[names["parent"], names["alternate"]].operations.append(record)
                case Line():
                    sheets[names["parent"], names["alternate"]].lines.append(record)
                    known = ours.lineage.get(id(here)) or (agreed.lineage.get(id(before)) if agreed else None)
                    if known:
                        lineage[id(record)] = known
            if left:
                open_[id(record)] = left
            if there is not None:
                result.there[id(record)] = there
    result.of.definition.sheets.extend(sheets.values())
    return result


def _both(before: Any, here: Any, row: Row | None, agreed: Of | None) -> tuple[Any, frozenset[str]]:
    if row is None:
        return replace(here), frozenset()
    were_open = agreed.open.get(id(before), frozenset()) if agreed and before is not None else frozenset()
    values: dict[str, Any] = {}
    left: set[str] = set()
    for f in row.fields:
        for name in _AMOUNT if f.name in _AMOUNT and isinstance(here, Line) else (f.name,):
            if before is None or f.name in were_open:
                left.add(f.name)
            else:
                values[name] = getattr(before, name)
    return replace(here, **values), frozenset(left)
