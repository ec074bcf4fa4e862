"""The JSON Schema (draft 2020-12) of the bundle, made out of the records and what is declared of their fields."""

from dataclasses import MISSING, fields, is_dataclass
from datetime import date, datetime
from decimal import Decimal
from types import NoneType, UnionType
from typing import Any, get_args, get_origin, get_type_hints

from ..basics.facts import facts_of
from .definition import MakerNumber, Operation, Part, PartClass, PriceChange, Sheet, StandardOperation, WorkCenter

__all__ = ["NAMES_IN_FILES", "bundle_schema", "needed"]

#: Fields that a bundle calls otherwise: what is "from" a day there cannot be so named in Python.
NAMES_IN_FILES: dict[type, dict[str, str]] = {PriceChange: {"first_day": "from"}}

#: What a record in a bundle must state, besides fields that have no default: a part without a unit is no part.
_NEEDED: dict[type, tuple[str, ...]] = {Part: ("number", "kind", "unit"), Operation: ("sequence",)}
_WHOLE = {"anyOf": [{"type": "integer"}, {"type": "string", "pattern": r"^-?\d+$"}]}
_PLAIN: dict[Any, dict[str, Any]] = {
    str: {"type": "string"},
    bool: {"type": "boolean"},
    int: _WHOLE,
    Decimal: {"$ref": "#/$defs/decimal"},
    date: {"type": "string", "format": "date"},
    datetime: {"type": "string", "pattern": r"^\d{4}-\d\d-\d\dT\d\d:\d\d"},
}
#: Records that stand under a name of their own.
_NAMED = {
    WorkCenter: "work_center",
    Part: "part",
    Operation: "operation",
    Sheet: "build_sheet",
    PartClass: "part_class",
    StandardOperation: "standard_operation",
}


def needed(record: type) -> tuple[str, ...]:
    """The fields that a record must state in a bundle."""
    if record in _NEEDED:
        return _NEEDED[record]
    return tuple(f.name for f in fields(record) if f.default is MISSING and f.default_factory is MISSING)


def _type(hint: Any, among: tuple[str, ...]) -> dict[str, Any]:
    if isinstance(hint, UnionType):
        (hint,) = (h for h in get_args(hint) if h is not NoneType)
    if get_origin(hint) is list:
        (of,) = get_args(hint)
        if isinstance(of, type) and is_dataclass(of):
            return {"type": "array", "items": {"$ref": f"#/$defs/{_NAMED[of]}"} if of in _NAMED else _record(of, needed(of))}
        return {"type": "array", "items": _type(of, among)}
    if among:
        return {"enum": list(among)}
    if get_origin(hint) is dict:
        return {"type": "object", "additionalProperties": {"anyOf": [{"type": "string"}, {"type": "null"}]}}
    if isinstance(hint, type) and is_dataclass(hint):
        # One that stands alone need not be told from others of its kind.
        return _record(hint, ())
    return _PLAIN[hint]


def _record(record: type, must: tuple[str, ...]) -> dict[str, Any]:
    hints, facts = get_type_hints(record), facts_of(record)
    names = NAMES_IN_FILES.get(record, {})
    found = {names.get(name, name): _type(hints[name], facts[name].among) for name in facts}
    must = tuple(names.get(name, name) for name in must)
    if record is Part:
        # A part brings what is held beside its record: who makes it, and what was counted.
        found["maker_numbers"] = {"type": "array", "items": _record(MakerNumber, needed(MakerNumber))}
        found["on_hand"] = _PLAIN[Decimal]
    return {
        "type": "object",
        "required": list(must),
        "additionalProperties": False,
        # A field that is left out or null keeps its default.
        "properties": {n: t if n in must else {"anyOf": [t, {"type": "null"}]} for n, t in found.items()},
    }


def bundle_schema(name: str, version: int) -> dict[str, Any]:
    """The schema of a bundle of some format name and version.

    >>> bundle_schema("round-tally-bundle", 1)["$defs"]["part"]["properties"]["kind"]
    {'enum': ['made', 'bought', 'phantom', 'charge']}
    """
    text = {"type": "string"}
    option = {"code": text, "name": text, "not_with": {"type": "array", "items": text}}
    lists = {
        "work_centers": WorkCenter,
        "part_classes": PartClass,
        "parts": Part,
        "build_sheets": Sheet,
        "standard_operations": StandardOperation,
    }
    decimal = {"anyOf": [{"type": "string", "pattern": r"^\s*[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?\s*$"}, {"type": "number"}]}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Round Tally bundle",
        "description": "A whole definition: work centers, parts and build sheets. Decimals are text; a field that is left out or null "
        "keeps its default.",
        "type": "object",
        "required": ["format", "version"],
        "additionalProperties": False,
        "properties": {
            "format": {"const": name},
            "version": {"const": version},
            "currency": {"type": "string", "pattern": "^[A-Z]{3}$"},
            "options": {
                "type": "array",
                "items": {"type": "object", "required": ["code"], "additionalProperties": False, "properties": option},
            },
            **{n: {"type": "array", "items": {"$ref": f"#/$defs/{_NAMED[r]}"}} for n, r in lists.items()},
        },
        "$defs": {"decimal": decimal} | {n: _record(r, needed(r)) for r, n in _NAMED.items()},
    }
