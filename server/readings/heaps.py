"""What "Today" is made of: heaps of rows, each row leading to its place. A subject adds its own as functions of a person."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote, urlencode

from django.db.models import QuerySet

__all__ = ["MOST", "MOST_COUNTED", "Heap", "Row", "Source", "heap_of", "listed", "part_address", "sheet_address"]

#: Rows of one heap; what is more stands at its own place, and is counted up to so many: nobody works through more, and counting costs.
MOST, MOST_COUNTED = 6, 1000


@dataclass(frozen=True, slots=True)
class Row:
    """One thing: its number or name, what it is, what is to be known of it, and the address where it is done."""

    name: str
    what: str
    more: str
    to: str
    urgent: bool = False


@dataclass(frozen=True, slots=True)
class Heap:
    """Rows of one kind, how many there are altogether (``MOST_COUNTED``: so many or more), and where all of them stand."""

    rows: list[Row]
    total: int
    to: str


Source = Callable[[Any], Heap]


def heap_of(found: QuerySet, row: Callable[[Any], Row], to: str = "") -> Heap:
    """The first of a query as rows, and how many there are, at most ``MOST_COUNTED``. Two queries, one where the first are all."""
    first = list(found[: MOST + 1])
    total = len(first) if len(first) <= MOST else found.order_by()[:MOST_COUNTED].count()
    return Heap([row(x) for x in first[:MOST]], total, to)


def part_address(number: str) -> str:
    """Where a part stands."""
    return f"/part/{quote(number, safe='')}"


def sheet_address(number: str, sheet: int | None = None, line: Any = None, **more: str) -> str:
    """Where a sheet stands, and a line on it."""
    query = ({"sheet": sheet} if sheet else {}) | ({"at": f"/{line}~part"} if line else {}) | more
    return f"/sheets/{quote(number, safe='')}" + (f"?{urlencode(query)}" if query else "")


def listed(words: Iterable[str]) -> str:
    """Words in a row, those that say something."""
    return ", ".join(w for w in words if w)
