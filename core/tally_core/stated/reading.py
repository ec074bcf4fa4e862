"""Typed records out of plain JSON values, with every problem named by its place."""

import json
import re
from collections.abc import Callable
from dataclasses import is_dataclass
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from functools import cache, partial
from types import NoneType, UnionType
from typing import Any, TypeVar, get_args, get_origin, get_type_hints

from ..basics.errors import Problem
from .bundle_schema import needed
from .definition import PriceChange, RateChange, Stop

__all__ = ["RecordReader", "show_value"]

T = TypeVar("T")
#: The types of a record's fields, by name.
_hints = cache(get_type_hints)


def _no_number(text: str) -> str:
    """What is wrong with text where a number is wanted, and what could be meant.

    >>> _no_number("1,234")
    '"1,234" could be 1234 or 1.234; write the one that is meant'
    """
    shown = show_value(text)
    if re.fullmatch(r"[+-]?\d{1,3},\d{3}", text):
        return f"{shown} could be {text.replace(',', '')} or {text.replace(',', '.')}; write the one that is meant"
    share = re.fullmatch(r"(\d{1,9})/(0*[1-9]\d{0,8})", text)
    if share:
        return f"{shown} is written as a decimal, like {int(share[1]) / int(share[2]):.6g}"
    return f"{shown} is not a number"


class RecordReader:
    """Reads typed fields out of JSON objects and gathers what is wrong with them."""

    def __init__(self) -> None:
        self.problems: list[Problem] = []
        # What reads a field's type is found once, and not for every value.
        self._readers: dict[Any, Callable[[Any, str], Any]] = {}

    def wrong(self, place: str, message: str) -> None:
        self.problems.append(Problem(place, message))

    def decimal(self, value: Any, place: str) -> Decimal | None:
        if isinstance(value, bool) or not isinstance(value, str | int | Decimal):
            self.wrong(place, f'a number written as text is needed, like "2.5", not {show_value(value)}')
            return None
        try:
            number = Decimal(str(value).strip())
        except InvalidOperation:
            self.wrong(place, _no_number(str(value).strip()))
            return None
        if not number.is_finite() or (number and abs(number.adjusted()) > 100):
            self.wrong(place, f"{show_value(value)} is not a usable number")
            return None
        return number

    def integer(self, value: Any, place: str) -> int | None:
        number = self.decimal(value, place)
        if number is None:
            return None
        if number != number.to_integral_value() or abs(number) >= 2**31:
            self.wrong(place, f"a whole number below 2147483648 is needed, not {show_value(value)}")
            return None
        return int(number)

    def text(self, value: Any, place: str) -> str | None:
        if not isinstance(value, str):
            self.wrong(place, f"text is needed, not {show_value(value)}")
            return None
        if "\x00" in value:
            self.wrong(place, "text cannot hold a null character")
            return None
        if any("\ud800" <= c <= "\udfff" for c in value):
            self.wrong(place, "text holds half of a character; type it again")
            return None
        return value

    def flag(self, value: Any, place: str) -> bool | None:
        if not isinstance(value, bool):
            self.wrong(place, f"true or false is needed, not {show_value(value)}")
            return None
        return value

    def day(self, value: Any, place: str) -> date | None:
        try:
            return date.fromisoformat(value)
        except (TypeError, ValueError):
            self.wrong(place, f'a day like "2026-01-31" is needed, not {show_value(value)}')
            return None

    def moment(self, value: Any, place: str) -> datetime | None:
        try:
            moment = datetime.fromisoformat(value)
        except (TypeError, ValueError):
            moment = None
        if moment is None or moment.tzinfo is not None:
            self.wrong(place, f'a moment like "2026-01-31T14:00" is needed, not {show_value(value)}')
            return None
        return moment

    def texts(self, value: Any, place: str) -> list[str]:
        return self._each(self.text, value, place)

    def named_texts(self, value: Any, place: str) -> dict[str, str]:
        if not isinstance(value, dict):
            self.wrong(place, f"an object is needed, not {show_value(value)}")
            return {}
        found = {name: self.text(text, f"{place}.{name}") for name, text in value.items() if text is not None}
        return {name: text for name, text in found.items() if text is not None}

    def many(self, value: Any, place: str) -> list:
        if isinstance(value, list):
            return value
        self.wrong(place, f"a list is needed, not {show_value(value)}")
        return []

    def record(self, kind: type[T], value: Any, place: str, required: tuple[str, ...] = ()) -> T | None:
        """A dataclass out of a JSON object, by the types of its fields; None and left-out fields keep defaults."""
        if not isinstance(value, dict):
            self.wrong(place, f"an object is needed, not {show_value(value)}")
            return None
        names = _hints(kind)  # type: ignore[arg-type]
        given: dict[str, Any] = {}
        for name, content in value.items():
            where = f"{place}.{name}"
            if name not in names:
                self.wrong(where, f"there is no field of this name; known are {', '.join(names)}")
            elif content is not None:
                hint = names[name]
                read = self._readers.get(hint)
                if read is None:
                    read = self._readers[hint] = self._reader_of(hint)
                given[name] = read(content, where)
        for name in required:
            if given.get(name) is None:
                if value.get(name) is None:
                    self.wrong(f"{place}.{name}", "this field is needed")
                given[name] = 0 if names[name] is int else ""
        # A field that could not be read is already named; its default lets the other checks go on.
        return kind(**{name: content for name, content in given.items() if content is not None})

    def _from_a_day(self, kind: type[T], what: str, value: Any, place: str) -> T | None:
        # A change without a day has nothing to hold on to: it is named, and the others go on.
        first = value.get("first_day") if isinstance(value, dict) else None
        if isinstance(value, dict) and first in (None, ""):
            self.wrong(f"{place}.first_day", f"the first day of {what} is needed")
            return None
        if isinstance(value, dict) and self.day(first, f"{place}.first_day") is None:
            return None
        return self.record(kind, value, place)

    def _price_change(self, value: Any, place: str) -> PriceChange | None:
        if isinstance(value, dict) and "from" in value and "first_day" not in value:
            # What a file calls "from" cannot be the name of a field here.
            value = {"first_day" if name == "from" else name: content for name, content in value.items()}
        if isinstance(value, dict) and value.get("unit_cost") in (None, ""):
            self.wrong(f"{place}.unit_cost", "the price is needed")
            return None
        if isinstance(value, dict) and self.decimal(value["unit_cost"], f"{place}.unit_cost") is None:
            return None
        return self._from_a_day(PriceChange, "this price", value, place)

    def _stop(self, value: Any, place: str) -> Stop | None:
        if isinstance(value, dict):
            # Without both moments there is nothing to hold on to: they are named, and the other stops go on.
            found = [self.moment(value.get(name), f"{place}.{name}") for name in ("start", "end")]
            if None in found:
                return None
        return self.record(Stop, value, place)

    def _reader_of(self, hint: Any) -> Callable[[Any, str], Any]:
        """What reads a value of a field's type, where something is stated."""
        if isinstance(hint, UnionType):
            (hint,) = (h for h in get_args(hint) if h is not NoneType)
        if get_origin(hint) is list:
            (of,) = get_args(hint)
            named = (
                partial(self._named, of)
                if isinstance(of, type) and is_dataclass(of) and of not in (PriceChange, RateChange, Stop)
                else self._reader_of(of)
            )
            return partial(self._each, named)
        if get_origin(hint) is dict:
            return self.named_texts
        if hint is RateChange:
            return partial(self._from_a_day, RateChange, "these rates")
        if hint is PriceChange:
            return self._price_change
        if hint is Stop:
            return self._stop
        if isinstance(hint, type) and is_dataclass(hint):
            # It stands alone: what tells it from others of its kind is not needed.
            return partial(self.record, hint)
        plain: dict[Any, Callable[[Any, str], Any]] = {
            str: self.text,
            bool: self.flag,
            int: self.integer,
            Decimal: self.decimal,
            date: self.day,
            datetime: self.moment,
        }
        return plain[hint]

    def _named(self, kind: type[T], value: Any, place: str) -> T | None:
        return self.record(kind, value, place, needed(kind))

    def _each(self, read: Callable[[Any, str], Any], value: Any, place: str) -> list:
        """Those of a list that could be read; the others are named."""
        found = (read(v, f"{place}[{i}]") for i, v in enumerate(self.many(value, place)))
        return [v for v in found if v is not None]


def show_value(value: Any) -> str:
    """A value as it stands in a message: short."""
    text = json.dumps(value, default=str)
    return text if len(text) <= 40 else text[:37] + "..."
