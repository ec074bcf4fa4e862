"""Typed records out of plain JSON values, with every problem named by its place."""

import json
from collections.abc import Callable
from dataclasses import fields
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from typing import Any, TypeVar

from .definition import ClassField, Line, Operation, RateChange, Stop, Subcontract
from .errors import Problem

__all__ = ["RecordReader", "show_value"]

T = TypeVar("T")


class RecordReader:
    """Reads typed fields out of JSON objects and gathers what is wrong with them."""

    def __init__(self) -> None:
        self.problems: list[Problem] = []

    def wrong(self, place: str, message: str) -> None:
        self.problems.append(Problem(place, message))

    def decimal(self, value: Any, place: str) -> Decimal | None:
        if isinstance(value, bool) or not isinstance(value, str | int | Decimal):
            self.wrong(place, f'a number written as text is needed, like "2.5", not {show_value(value)}')
            return None
        try:
            number = Decimal(str(value).strip())
        except InvalidOperation:
            self.wrong(place, f"{show_value(value)} is not a number")
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
        return [t for i, v in enumerate(self.many(value, place)) if (t := self.text(v, f"{place}[{i}]")) is not None]

    def integers(self, value: Any, place: str) -> list[int]:
        found = (self.integer(v, f"{place}[{i}]") for i, v in enumerate(self.many(value, place)))
        return [n for n in found if n is not None]

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
        names = {f.name: str(f.type) for f in fields(kind)}  # type: ignore[arg-type]
        given: dict[str, Any] = {}
        for name, content in value.items():
            where = f"{place}.{name}"
            if name not in names:
                self.wrong(where, f"there is no field of this name; known are {', '.join(names)}")
            elif content is not None:
                given[name] = self._reader_of(names[name])(content, where)
        for name in required:
            if given.get(name) is None:
                if value.get(name) is None:
                    self.wrong(f"{place}.{name}", "this field is needed")
                given[name] = 0 if "int" in names[name] else ""
        # A field that could not be read is already named; its default lets the other checks go on.
        return kind(**{name: content for name, content in given.items() if content is not None})

    def _rate_change(self, value: Any, place: str) -> RateChange | None:
        # A change without a day has nothing to hold on to: it is named, and the others go on.
        first = value.get("first_day") if isinstance(value, dict) else None
        if isinstance(value, dict) and first in (None, ""):
            self.wrong(f"{place}.first_day", "the first day of these rates is needed")
            return None
        if isinstance(value, dict) and self.day(first, f"{place}.first_day") is None:
            return None
        return self.record(RateChange, value, place)

    def _stop(self, value: Any, place: str) -> Stop | None:
        if isinstance(value, dict):
            # Without both moments there is nothing to hold on to: they are named, and the other stops go on.
            found = [self.moment(value.get(name), f"{place}.{name}") for name in ("start", "end")]
            if None in found:
                return None
        return self.record(Stop, value, place)

    def _reader_of(self, kind: str) -> Callable[[Any, str], Any]:
        match kind.replace("<class '", "").replace("'>", "").replace(" | None", "").split(".")[-1]:
            case "Decimal":
                return self.decimal
            case "int":
                return self.integer
            case "bool":
                return self.flag
            case "date":
                return self.day
            case "datetime":
                return self.moment
            case "Subcontract":
                return lambda value, place: self.record(Subcontract, value, place)
            case "list[int]":
                return self.integers
            case "list[str]":
                return self.texts
            case "dict[str, str]":
                return self.named_texts
            case "list[RateChange]" | "RateChange]":
                return lambda value, place: [
                    r
                    for i, v in enumerate(self.many(value, place))
                    if (r := self._rate_change(v, f"{place}[{i}]")) is not None
                ]
            case "list[Stop]" | "Stop]":
                return lambda value, place: [
                    s
                    for i, v in enumerate(self.many(value, place))
                    if (s := self._stop(v, f"{place}[{i}]")) is not None
                ]
            case "Operation":
                return lambda value, place: self.record(Operation, value, place)
            case "list[ClassField]" | "ClassField]":
                return lambda value, place: [
                    r
                    for i, v in enumerate(self.many(value, place))
                    if (r := self.record(ClassField, v, f"{place}[{i}]", ("name",)))
                ]
            case "list[Line]" | "Line]":
                return lambda value, place: [
                    r for i, v in enumerate(self.many(value, place)) if (r := self.record(Line, v, f"{place}[{i}]"))
                ]
            case "list[Operation]" | "Operation]":
                return lambda value, place: [
                    r
                    for i, v in enumerate(self.many(value, place))
                    if (r := self.record(Operation, v, f"{place}[{i}]", ("sequence",)))
                ]
            case _:
                return self.text


def show_value(value: Any) -> str:
    """A value as it stands in a message: short."""
    text = json.dumps(value, default=str)
    return text if len(text) <= 40 else text[:37] + "..."
