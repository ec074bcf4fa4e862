"""The bundle: a whole definition as one JSON document (format in ``docs/arithmetic.md``, schema beside this file)."""

import json
from collections.abc import Callable, Mapping
from dataclasses import fields
from datetime import date, datetime
from decimal import Decimal
from typing import Any, TypeVar

from ..basics.errors import Problem, ProblemsError
from ..basics.units import is_count
from .bundle_schema import NAMES_IN_FILES, bundle_schema, needed
from .classes import check_class, read_values
from .definition import Definition, MakerNumber, Part, PartClass, Sheet, StandardOperation, WorkCenter
from .reading import RecordReader, show_value
from .records import (
    check_counted,
    check_line,
    check_maker_numbers,
    check_number,
    check_operation,
    check_part,
    check_sheet,
    check_standard_operation,
    check_work_center,
)

__all__ = ["FORMAT", "VERSION", "parse_bundle", "plain_value", "read_bundle", "schema", "write_bundle"]

T = TypeVar("T")
#: Records with their places in the file.
Placed = list[tuple[str, T]]

FORMAT, VERSION = "round-tally-bundle", 1
#: What stands with a part in a bundle, and beside its record here.
_BESIDE = ("maker_numbers", "on_hand")


def schema() -> dict:
    """The JSON Schema (draft 2020-12) of the bundle."""
    return bundle_schema(FORMAT, VERSION)


def parse_bundle(text: str | bytes) -> Any:
    """JSON text to plain values, numbers kept exact. Raises ProblemsError when it is not JSON."""
    try:
        return json.loads(text, parse_float=Decimal, parse_constant=lambda word: word)
    except ArithmeticError:
        raise ProblemsError(
            [Problem("", "a number in the file is nearer to nought, or further from it, than any number can be kept")]
        ) from None
    except (ValueError, RecursionError) as error:
        raise ProblemsError([Problem("", f"the file is not JSON: {error}")]) from None


_KNOWN = {"format", "version", "currency", "options", "work_centers", "part_classes", "parts", "build_sheets", "standard_operations"}


def read_bundle(
    document: Any,
    known_parts: Callable[[set[str]], Mapping[str, Part]] = lambda numbers: {},
    known_centers: Callable[[set[str]], set[str]] = lambda codes: set(),
    known_classes: Callable[[set[str]], Mapping[str, PartClass]] = lambda names: {},
    known_standards: Callable[[set[str]], set[str]] = lambda codes: set(),
) -> Definition:
    """A definition out of a parsed bundle.

    Args:
        document: what :func:`parse_bundle` returns.
        known_parts: given part numbers that the bundle uses and does not hold, returns those that exist already.
        known_centers: the same for the codes of work centers.
        known_classes: the same for the names of classes.
        known_standards: the same for the codes of standard operations.

    Raises ProblemsError with every problem, each named by its place in the file.

    >>> rod = {"number": "ROD", "kind": "bought", "unit": "m", "unit_cost": "3.20"}
    >>> read_bundle({"format": FORMAT, "version": 1, "parts": [rod]}).parts[0].unit_cost
    Decimal('3.20')
    """
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ProblemsError([Problem("format", f"this is not a {FORMAT} file")])
    if document.get("version") != VERSION:
        raise ProblemsError([Problem("version", f"version {show_value(document.get('version'))}; this program reads {VERSION}")])
    reader = RecordReader()
    currency = _read_head(reader, document)
    centers = _read_all(reader, document, "work_centers", WorkCenter)
    standards = _read_all(reader, document, "standard_operations", StandardOperation)
    classes = _read_all(reader, document, "part_classes", PartClass)
    parts, maker_numbers, on_hand = _read_parts(reader, document)
    sheets = _read_all(reader, document, "build_sheets", Sheet)
    options, not_together = _read_options(reader, document)

    _check_names(reader, parts, classes, centers, standards, sheets)
    _check_parts(reader, parts, {x.name: x for _, x in classes}, known_classes)
    held = {part.number: part for _, part in parts}
    used = {s.part for _, s in sheets} | {line.part for _, s in sheets for line in s.lines if line.part}
    held |= known_parts(used - held.keys())
    codes = _codes(centers, standards, sheets, known_centers)
    entries = {standard.code for _, standard in standards}
    entries |= known_standards({o.standard for _, s in sheets for o in s.operations if o.standard} - entries)
    for place, standard in standards:
        _gather(reader, place, check_standard_operation(standard))
        _known_center(reader, f"{place}.operation", standard.operation.work_center, codes)
    for place, sheet in sheets:
        made = held.get(sheet.part)
        if made is None:
            reader.wrong(f"{place}.part", f"part {sheet.part} is not known")
            continue
        _gather(reader, place, check_sheet(sheet, made.kind))
        _check_operations(reader, place, sheet, codes, entries)
        _check_lines(reader, place, sheet, held, made)
        for line in sheet.lines:
            if line.option is not None:
                options.setdefault(line.option, "")
    if reader.problems:
        raise ProblemsError(list(dict.fromkeys(reader.problems)))
    for _, part in parts:
        if part.whole_only is None:
            part.whole_only = is_count(part.unit)
    return Definition(
        currency,
        [c for _, c in centers],
        [p for _, p in parts],
        [s for _, s in sheets],
        options,
        not_together,
        [c for _, c in classes],
        [x for _, x in standards],
        maker_numbers,
        on_hand,
    )


def _check_names(
    reader: RecordReader,
    parts: Placed[Part],
    classes: Placed[PartClass],
    centers: Placed[WorkCenter],
    standards: Placed[StandardOperation],
    sheets: Placed[Sheet],
) -> None:
    """Each thing stands once in a bundle, and classes and work centers are what they may be."""
    _unique(reader, [(place, "number", part.number) for place, part in parts])
    _unique(reader, [(place, "name", part_class.name) for place, part_class in classes])
    _unique(reader, [(place, "code", center.code) for place, center in centers])
    _unique(reader, [(place, "code", standard.code) for place, standard in standards])
    _unique(reader, [(place, "revision", f"{s.part} / {s.alternate} / {s.revision}") for place, s in sheets])
    for place, center in centers:
        _gather(reader, place, check_work_center(center))
    for place, part_class in classes:
        _gather(reader, place, check_class(part_class))


def _codes(
    centers: Placed[WorkCenter], standards: Placed[StandardOperation], sheets: Placed[Sheet], known_centers: Callable[[set[str]], set[str]]
) -> set[str]:
    """Work centers of the bundle, and those that it names and that exist already."""
    steps = [o for _, s in sheets for o in s.operations]
    asked = {o.work_center for o in steps} | {x.work_center for o in steps for x in o.resources}
    asked |= {x.operation.work_center for _, x in standards}
    codes = {center.code for _, center in centers}
    return codes | known_centers({code for code in asked if code} - codes)


def _read_head(reader: RecordReader, document: dict) -> str:
    """The currency; what else stands on top has to be one of the known tables."""
    for name in document.keys() - _KNOWN:
        reader.wrong(name, f"there is no field of this name; known are {', '.join(sorted(_KNOWN))}")
    currency = reader.text(document.get("currency", "EUR"), "currency") or ""
    if not (len(currency) == 3 and currency.isascii() and currency.isupper()):
        reader.wrong("currency", f"a currency is three capital letters (ISO 4217), not {show_value(currency)}")
    return currency


def _read_all(reader: RecordReader, document: dict, name: str, kind: type[T]) -> Placed[T]:
    """The records of a table that can be read, each with its place."""
    found = []
    for i, value in enumerate(reader.many(document.get(name, []), name)):
        record = reader.record(kind, value, f"{name}[{i}]", needed(kind))
        if record is not None:
            found.append((f"{name}[{i}]", record))
    return found


def _read_parts(reader: RecordReader, document: dict) -> tuple[Placed[Part], dict[str, list[MakerNumber]], dict[str, Decimal]]:
    """The parts, and what stands with them that is no field of theirs: makers' numbers, and what is on hand."""
    found: Placed[Part] = []
    maker_numbers: dict[str, list[MakerNumber]] = {}
    on_hand: dict[str, Decimal] = {}
    for i, value in enumerate(reader.many(document.get("parts", []), "parts")):
        place, beside = f"parts[{i}]", {}
        if isinstance(value, dict):
            beside = {n: v for n, v in value.items() if n in _BESIDE and v is not None}
            value = {n: v for n, v in value.items() if n not in _BESIDE}
        record = reader.record(Part, value, place, needed(Part))
        if record is not None:
            found.append((place, record))
            _read_beside(reader, place, record, beside, maker_numbers, on_hand)
    return found, maker_numbers, on_hand


def _read_options(reader: RecordReader, document: dict) -> tuple[dict[str, str], dict[str, list[str]]]:
    """The names of options by their codes, and the codes that each excludes."""
    options: dict[str, str] = {}
    not_together: dict[str, list[str]] = {}
    for i, value in enumerate(reader.many(document.get("options", []), "options")):
        if not isinstance(value, dict) or not isinstance(value.get("code"), str):
            reader.wrong(f"options[{i}]", "an object with a code is needed")
            continue
        wrong = check_number(value["code"], "option code")
        if wrong:
            reader.wrong(f"options[{i}].code", wrong)
        options[value["code"]] = reader.text(value.get("name", ""), f"options[{i}].name") or ""
        others = reader.texts(value.get("not_with", []), f"options[{i}].not_with")
        if others:
            not_together[value["code"]] = sorted(set(others))
    for code, others in not_together.items():
        for other in others:
            if other == code:
                reader.wrong("options", f"option {code} cannot exclude itself")
            elif other not in options:
                reader.wrong("options", f"option {code} excludes {other}, which the file does not hold")
    return options, not_together


def _check_parts(
    reader: RecordReader, parts: Placed[Part], stated: dict[str, PartClass], known_classes: Callable[[set[str]], Mapping[str, PartClass]]
) -> None:
    """Every part by itself, its own fields read as its class has them."""
    stated = {**stated, **known_classes({p.part_class for _, p in parts if p.own_values} - stated.keys())}
    for place, part in parts:
        if part.own_values:
            own = stated.get(part.part_class, PartClass(part.part_class))
            part.own_values, problems = read_values(own, part.own_values, "own_values.")
            _gather(reader, place, problems)
        # A unit that is not known is named once, here.
        _gather(reader, place, check_part(part))


def _known_center(reader: RecordReader, place: str, code: str | None, codes: set[str]) -> None:
    if code and code not in codes:
        reader.wrong(f"{place}.work_center", f"work center {code} is not known")


def _check_operations(reader: RecordReader, place: str, sheet: Sheet, codes: set[str], entries: set[str]) -> None:
    for index, operation in enumerate(sheet.operations):
        where = f"{place}.operations[{index}]"
        _gather(reader, where, check_operation(operation))
        _known_center(reader, where, operation.work_center, codes)
        for nth, resource in enumerate(operation.resources):
            _known_center(reader, f"{where}.resources[{nth}]", resource.work_center, codes)
        if operation.standard and operation.standard not in entries:
            reader.wrong(f"{where}.standard", f"standard operation {operation.standard} is not known")


def _check_lines(reader: RecordReader, place: str, sheet: Sheet, held: Mapping[str, Part], made: Part) -> None:
    for index, line in enumerate(sheet.lines):
        where = f"{place}.lines[{index}]"
        component = held.get(line.part) if line.part else None
        if line.part and component is None:
            reader.wrong(f"{where}.part", f"part {line.part} is not known")
        known_unit = component.unit if component and not list(check_part(component)) else None
        _gather(reader, where, check_line(line, known_unit, made.kind))


def _read_beside(
    reader: RecordReader,
    place: str,
    part: Part,
    beside: dict[str, Any],
    maker_numbers: dict[str, list[MakerNumber]],
    on_hand: dict[str, Decimal],
) -> None:
    """What a part brings that is held beside its record: its makers' numbers, and what was counted of it."""
    if "maker_numbers" in beside:
        where = f"{place}.maker_numbers"
        read = [
            reader.record(MakerNumber, value, f"{where}[{i}]", needed(MakerNumber))
            for i, value in enumerate(reader.many(beside["maker_numbers"], where))
        ]
        found = [entry for entry in read if entry is not None]
        if len(found) == len(read):
            for problem in check_maker_numbers(found):
                reader.wrong(f"{where}{problem.place}", problem.message)
        maker_numbers[part.number] = sorted(found, key=lambda entry: entry.rank)
    if "on_hand" in beside:
        counted = reader.decimal(beside["on_hand"], f"{place}.on_hand")
        if counted is not None:
            for problem in check_counted(part, counted):
                reader.wrong(f"{place}.{problem.place}", problem.message)
            on_hand[part.number] = counted


def _gather(reader: RecordReader, place: str, problems) -> None:
    for problem in problems:
        reader.wrong(f"{place}.{problem.place}", problem.message)


def _unique(reader: RecordReader, entries: list[tuple[str, str, str]]) -> None:
    first: dict[str, str] = {}
    for place, field, key in entries:
        seen = first.setdefault(key.upper(), place)
        if seen != place:
            reader.wrong(f"{place}.{field}", f"{key} stands twice in this file; first at {seen}")


def write_bundle(definition: Definition) -> dict:
    """The bundle of a definition, as plain JSON values; what :func:`read_bundle` reads back to the same records."""
    document: dict[str, Any] = {"format": FORMAT, "version": VERSION, "currency": definition.currency}
    document["options"] = [
        {"code": code, "name": name, "not_with": definition.not_together.get(code, [])} for code, name in sorted(definition.options.items())
    ]
    document["work_centers"] = [plain_value(c) for c in definition.work_centers]
    document["standard_operations"] = [plain_value(x) for x in definition.standard_operations]
    document["part_classes"] = [plain_value(c) for c in definition.part_classes]
    document["parts"] = [plain_value(p) | _beside(definition, p.number) for p in definition.parts]
    document["build_sheets"] = [plain_value(s) for s in definition.sheets]
    return document


def _beside(definition: Definition, number: str) -> dict[str, Any]:
    found: dict[str, Any] = {}
    if number in definition.maker_numbers:
        found["maker_numbers"] = plain_value(definition.maker_numbers[number])
    if number in definition.on_hand:
        found["on_hand"] = plain_value(definition.on_hand[number])
    return found


def plain_value(value: Any) -> Any:
    """A value of a record as plain JSON, as it stands in a bundle."""
    if isinstance(value, Decimal):
        text = f"{value:f}"
        return text.rstrip("0").rstrip(".") if "." in text else text
    if isinstance(value, datetime):
        return value.isoformat(timespec="minutes")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, list):
        return [plain_value(v) for v in value]
    if hasattr(value, "__dataclass_fields__"):
        names = NAMES_IN_FILES.get(type(value), {})
        return {names.get(f.name, f.name): plain_value(getattr(value, f.name)) for f in fields(value)}
    return value
