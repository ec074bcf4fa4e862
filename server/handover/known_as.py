"""Parts that the other side knows by another number: its things under our numbers, whatever is read there or written.

All else speaks of our numbers alone. What they call by a number that is another part here would be taken for that part; it is shown as *theirs*.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from outside.books import open_book
from outside.calling import CallFailed
from outside.records import Book, Moved, Read, Thing, Trace, Write

from handover.models import KnownAs
from handover.wording import service_named, words_of

__all__ = ["book_of"]

_STRANGE = " (theirs)"


def book_of(record: str) -> Book:
    """A system of record under our numbers. Two queries; raises MissingError, TallyError."""
    book = open_book(service_named(record))
    codes = dict(KnownAs.objects.filter(record=record).values_list("part__number", "code"))
    if not codes:
        return book
    item = next((f.theirs for f in words_of(record).fields if f.table == "lines" and f.ours == "part"), "")
    return _UnderOurNumbers(book, codes, item)


class _UnderOurNumbers:
    """A book whose keys, and the items that rows of structures name, are our numbers. See :class:`outside.records.Book`."""

    def __init__(self, book: Book, codes: Mapping[str, str], item: str) -> None:
        """``codes``: theirs by our numbers; ``item``: their word for what a row takes."""
        self.book, self.codes, self.item, self.words = book, codes, item, book.words
        self.ours = {code: number for number, code in codes.items()}

    def read(self, top: str, codes: Iterable[str], goes_on: Callable[[int], None]) -> Read:
        asked = [self._there(n) for n in codes if not self._taken(n)]
        read = self.book.read("" if self._taken(top) else self._there(top), asked, goes_on)
        return Read([self._of_ours(t) for t in read.things], read.stamp)

    def these(self, keys: Sequence[tuple[str, str]]) -> list[Thing]:
        return [self._of_ours(t) for t in self.book.these([(k, self._key(key, self._there)) for k, key in keys if not self._taken(key)])]

    def moved(self, read: Read) -> list[Trace]:
        things = [replace(t, key=self._key(t.key, self._there), body=self._body(t.body, self._there)) for t in read.things]
        return [replace(t, key=self._key(t.key, self._here)) for t in self.book.moved(Read(things, read.stamp))]

    def find(self, words: str) -> list[Thing]:
        return [self._of_ours(t) for t in self.book.find(self._there(words))]

    def wrong(self, kind: str, key: str, body: Mapping[str, Any]) -> list[tuple[str, str]]:
        if told := self._taken(key):
            return [("", told)]
        return self.book.wrong(kind, self._key(key, self._there), self._body(body, self._there))

    def as_held(self, body: Mapping[str, Any]) -> dict[str, Any]:
        return self.book.as_held(body)

    def write(self, writes: Sequence[Write], by: str) -> None:
        if told := next((words for w in writes if (words := self._taken(w.key))), ""):
            raise CallFailed(told)
        theirs = [
            replace(w, key=self._key(w.key, self._there), body=None if w.body is None else self._body(w.body, self._there)) for w in writes
        ]
        try:
            self.book.write(theirs, by)
        except Moved as error:
            raise Moved([(kind, self._key(key, self._here)) for kind, key in error.keys]) from None

    def _taken(self, key: str) -> str:
        """Why nothing can be said to them of a part of ours: its number is what they call another one. Empty where that is not so."""
        number = key.partition("|")[0]
        if number in self.codes or number not in self.ours:
            return ""
        return f"{number} is what {self.ours[number]} is called over there; say what {number} is called"

    def _there(self, number: str) -> str:
        strange = number.removesuffix(_STRANGE)
        return strange if strange != number and strange in self.codes else self.codes.get(number, number)

    def _here(self, code: str) -> str:
        return self.ours.get(code) or (code + _STRANGE if code in self.codes else code)

    def _of_ours(self, thing: Thing) -> Thing:
        return replace(thing, key=self._key(thing.key, self._here), body=self._body(thing.body, self._here))

    @staticmethod
    def _key(key: str, name: Callable[[str], str]) -> str:
        number, bar, variant = key.partition("|")
        return name(number) + bar + variant

    def _body(self, body: Mapping[str, Any], name: Callable[[str], str]) -> dict[str, Any]:
        rows = body.get("rows")
        if not isinstance(rows, list):
            return dict(body)
        named = [r | {self.item: name(str(r[self.item]))} if isinstance(r, dict) and r.get(self.item) else r for r in rows]
        return {**body, "rows": named}
