"""A side of a comparison out of a bundle: it may be a part of a whole, and it may hold what could not be handed over.

What is wrong between records (an operation that is not there, a unit that does not convert) is no reason not to compare them.
"""

from typing import Any

from ..basics.errors import ProblemsError, UnitError
from ..basics.units import is_count
from ..lists.intake import read_unit
from ..stated.bundle import FORMAT, VERSION, parse_bundle
from ..stated.bundle_schema import needed
from ..stated.definition import Definition, MakerNumber, Part, Sheet
from ..stated.reading import RecordReader, show_value
from .comparing import Of

__all__ = ["read_side"]

#: What a line may say beside its fields: its name through all revisions, and that it is kept by hand.
_LINEAGE, _BY_HAND = "lineage", "by_hand"
#: What stands with a part and is no field of it; what is on hand is counted by each side for itself.
_MAKERS, _ON_HAND = "maker_numbers", "on_hand"


def read_side(content: bytes) -> Of:
    """The parts and sheets of a bundle, to be compared. Units may be written as others write them, where it is known what they mean; a line
    may carry a ``lineage``, and ``by_hand``.

    Raises ProblemsError with all that cannot be read or stands twice, each named by its place in the file.
    """
    document = parse_bundle(content)
    reader = RecordReader()
    if not isinstance(document, dict) or document.get("format") != FORMAT or document.get("version") != VERSION:
        reader.wrong("format", f"this is not a {FORMAT} file of version {VERSION}")
        raise ProblemsError(reader.problems)
    side = Definition(currency=str(document.get("currency", "EUR")))
    seen: dict[str, str] = {}
    lineage: dict[int, str] = {}
    by_hand: set[int] = set()
    for place, value in _rows(reader, document, "parts"):
        makers = value.pop(_MAKERS, None) if isinstance(value, dict) else None
        if isinstance(value, dict):
            value.pop(_ON_HAND, None)
        part = reader.record(Part, value, place, needed(Part))
        if part is None:
            continue
        part.unit = read_unit(part.unit) or part.unit
        if part.whole_only is None:
            part.whole_only = _counted(part.unit)
        read = [
            reader.record(MakerNumber, one, f"{place}.{_MAKERS}[{i}]", needed(MakerNumber))
            for i, one in enumerate(reader.many(makers or [], f"{place}.{_MAKERS}"))
        ]
        side.maker_numbers[part.number] = sorted((m for m in read if m), key=lambda m: (m.rank, m.number))
        _once(reader, seen, place, "number", part.number.upper())
        side.parts.append(part)
    for place, value in _rows(reader, document, "build_sheets"):
        beside = [_beside(x) for x in value["lines"]] if isinstance(value, dict) and isinstance(value.get("lines"), list) else []
        sheet = reader.record(Sheet, value, place, needed(Sheet))
        if sheet is not None:
            for line, (known_as, kept) in zip(sheet.lines, beside, strict=False):
                if isinstance(known_as, str) and known_as:
                    lineage[id(line)] = known_as
                if kept is True:
                    by_hand.add(id(line))
            for line in sheet.lines:
                line.unit = (read_unit(line.unit) or line.unit) if line.unit else None
            _once(reader, seen, place, "revision", f"{sheet.part} / {sheet.alternate} / {sheet.revision}".upper())
            side.sheets.append(sheet)
    if reader.problems:
        raise ProblemsError(list(dict.fromkeys(reader.problems)))
    return Of(side, lineage, frozenset(by_hand))


def _beside(line: Any) -> tuple[Any, Any]:
    """Take what a line says beside its fields."""
    return (line.pop(_LINEAGE, None), line.pop(_BY_HAND, None)) if isinstance(line, dict) else (None, None)


def _rows(reader: RecordReader, document: dict[str, Any], name: str) -> list[tuple[str, Any]]:
    return [(f"{name}[{i}]", value) for i, value in enumerate(reader.many(document.get(name) or [], name))]


def _counted(unit: str) -> bool:
    try:
        return is_count(unit)
    except UnitError:
        return False


def _once(reader: RecordReader, seen: dict[str, str], place: str, field: str, key: str) -> None:
    first = seen.setdefault(f"{field} {key}", place)
    if first != place:
        reader.wrong(f"{place}.{field}", f"{show_value(key)} stands twice in this file; first at {first}")
