"""Schemas of answers and of what is typed, out of the core's records: a field is declared once, in ``tally_core.stated.definition``.

Amounts travel as decimal text, days as 2026-03-31. A record's field that takes one of a few words is an enumeration.
"""

from datetime import date, datetime
from decimal import Decimal
from types import NoneType, UnionType
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from ninja import Schema
from pydantic import WithJsonSchema, create_model
from tally_core.basics.facts import facts_of

__all__ = ["answered", "typed_in"]

_AS_TEXT = (Decimal, date, datetime)


def _plain(hint: Any, among: tuple[str, ...]) -> Any:
    """The type of a field on the wire."""
    if isinstance(hint, UnionType):
        (inner,) = (h for h in get_args(hint) if h is not NoneType)
        return _plain(inner, among) | None
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
