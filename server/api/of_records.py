"""Schemas of answers and of what is typed, out of the core's records: a field is declared once, in ``tally_core.stated.definition``.

Amounts travel as decimal text, days as 2026-03-31. A record's field that takes one of a few words is an enumeration.
"""

from dataclasses import is_dataclass
from datetime import date, datetime
from decimal import Decimal
from types import NoneType, UnionType
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from ninja import Schema
from pydantic import ConfigDict, WithJsonSchema, create_model
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.facts import facts_of
from tally_core.cost.causes import CAUSES

__all__ = ["ByElement", "CostByElement", "MovedByCause", "answered", "edited", "table_of", "typed_in"]

#: One cost by element, and one difference by cause.
CostByElement = create_model("CostByElement", __base__=Schema, **{n: (float, ...) for n in ELEMENTS})  # type: ignore[call-overload]
MovedByCause = create_model("MovedByCause", __base__=Schema, **{n: (float, ...) for n in CAUSES})  # type: ignore[call-overload]
#: Costs by the names of elements, each a column; one that is not there is nothing in all rows.
ByElement = create_model("ByElement", __base__=Schema, **{n: (list[float | None], None) for n in ELEMENTS})  # type: ignore[call-overload]

_AS_TEXT = (Decimal, date, datetime)


def _plain(hint: Any, among: tuple[str, ...]) -> Any:
    """The type of a field on the wire."""
    if isinstance(hint, UnionType):
        (inner,) = (h for h in get_args(hint) if h is not NoneType)
        return _plain(inner, among) | None
    if get_origin(hint) is list and among:
        return list[Annotated[str, WithJsonSchema({"type": "string", "enum": list(among)})]]
    if get_origin(hint) in (list, dict):
        return hint
    if among:
        return Annotated[str, WithJsonSchema({"type": "string", "enum": list(among)})]
    return str if hint in _AS_TEXT else hint


def answered(record: type, *without: str) -> Any:
    """A schema with every field of a record as it is answered, but some; a base for one that adds to them."""
    hints, facts = get_type_hints(record), facts_of(record)
    fields = {n: (_plain(hints[n], f.among), ...) for n, f in facts.items() if n not in without}
    return create_model(f"{record.__name__}Answered", __base__=Schema, **fields)  # type: ignore[call-overload]


def typed_in(record: type, *without: str) -> Any:
    """A schema with every field of a record as it is typed: none is needed, and numbers are text."""

    def typed(hint: Any) -> Any:
        if isinstance(hint, UnionType):
            (hint,) = (h for h in get_args(hint) if h is not NoneType)
        if get_origin(hint) is dict:
            return dict[str, Any]
        return hint if get_origin(hint) is list or hint is bool else str

    hints = get_type_hints(record)
    fields = {n: (typed(h) | None, None) for n, h in hints.items() if n not in without}
    return create_model(f"{record.__name__}Typed", __base__=Schema, **fields)  # type: ignore[call-overload]


class _Edit(Schema):
    """Lets a name that is no field through to the core, which has a word for it; the description knows none."""

    model_config = ConfigDict(extra="allow", json_schema_extra={"additionalProperties": False})


def edited(record: type, *without: str) -> Any:
    """A schema with the fields of a record as an edit names them: those that it changes, numbers as typed or as answered.

    It says what fits, for who writes a program against it; what is sent is read by the core, field by field, which has a
    word for each that does not, and for a name that is no field.
    """
    hints, facts = get_type_hints(record), facts_of(record)

    def named(hint: Any, among: tuple[str, ...]) -> Any:
        if isinstance(hint, UnionType):
            (hint,) = (h for h in get_args(hint) if h is not NoneType)
        if is_dataclass(hint):
            schema: dict[str, Any] = {"type": "object", "additionalProperties": True}
        elif get_origin(hint) is list:
            inner = {"type": "integer" if get_args(hint) == (int,) else "string"}
            schema = {"type": "array", "items": inner | ({"enum": list(among)} if among else {})}
        elif among:
            schema = {"type": "string", "enum": [*among, ""]}
        else:
            schema = {"type": "boolean" if hint is bool else ["string", "number"] if hint in (int, Decimal) else "string"}
        return Annotated[Any, WithJsonSchema({"anyOf": [schema, {"type": "null"}]})]

    fields = {n: (named(hints[n], f.among), None) for n, f in facts.items() if n not in without}
    return create_model(f"{record.__name__}Edited", __base__=_Edit, **fields)  # type: ignore[call-overload]


class FewValues(Schema):
    """The values of a column, and for each row which of them it has."""

    words: list[Any]
    at: list[int]


class NearlyAll(Schema):
    """What stands in nearly all rows, the same as in the field that ``like`` names or else a value; and what stands in the others."""

    like: str
    value: Any
    rows: list[int]
    values: list[Any]


def table_of(row: type[Schema]) -> Any:
    """The schema of rows that travel as columns (``readings.wire``): ``same`` holds what is one value in all rows, ``few`` a field's
    few values and the place of each row's own, ``steps`` where a field begins and by how much it grows, ``but`` what stands in nearly
    all rows, ``each`` a list for every other field; the cost by element stands apart, and an element that is not there costs nothing."""
    name = row.__name__
    fields = {n: f for n, f in row.model_fields.items() if n != "elements"}
    # Annotations are made as the program runs, which the type checker cannot follow.
    kinds: dict[str, Any] = {n: f.rebuild_annotation() for n, f in fields.items()}
    as_one: dict[str, Any] = {n: (kind, None) for n, kind in kinds.items()}
    as_column: dict[str, Any] = {n: (list.__class_getitem__(kind), None) for n, kind in kinds.items()}
    same = create_model(f"{name}Same", __base__=Schema, **as_one)
    each = create_model(f"{name}Each", __base__=Schema, **as_column)
    shorter: dict[str, Any] = {"few": (dict[str, FewValues], {}), "steps": (dict[str, list[int]], {}), "but": (dict[str, NearlyAll], {})}
    return create_model(
        f"{name}Columns", __base__=Schema, count=(int, ...), same=(same, ...), each=(each, ...), elements=(ByElement, ...), **shorter
    )
