"""Systems of record: what a production works from, whatever way it is spoken to.

To add one: a file beside this with the functions of :class:`Book`, named in ``outside.books``. It speaks of *things* in the other side's own
words; which word is which field of ours is a map that is kept and edited (``handover``), and :data:`Words` is what that begins with.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

from outside.calling import CallFailed

__all__ = ["Book", "FieldWord", "Moved", "Read", "Refused", "Thing", "Trace", "Words", "Write", "says_the_same"]


@dataclass(frozen=True, slots=True)
class Thing:
    """One thing of theirs as it stands there: an item, a structure with its rows, a plan with its steps.

    Attributes:
        kind: ``items``, ``structures`` or ``plans``.
        key: of an item its code; of a structure and a plan ``CODE|VARIANT``.
        version: is another as soon as anything of it is.
        body: what it says, in their words.
        by, at: who last wrote it and when, where they say so.
    """

    kind: str
    key: str
    version: str
    body: dict[str, Any]
    by: str = ""
    at: str = ""


@dataclass(frozen=True, slots=True)
class Trace:
    """Something of theirs that moved: by whom and when, where they say so."""

    kind: str
    key: str
    by: str = ""
    at: str = ""


@dataclass(frozen=True, slots=True)
class Read:
    """What was read, and the stamp after which something moved."""

    things: list[Thing]
    stamp: str


@dataclass(frozen=True, slots=True)
class Write:
    """One thing to be written. ``version`` is the one it must have, None: it must not be there; ``body`` None takes it away."""

    kind: str
    key: str
    version: str | None
    body: dict[str, Any] | None


class Moved(Exception):
    """What was to be written is not as it was read; where things are written one by one, those before it stand. ``keys`` are kinds and keys."""

    def __init__(self, keys: Sequence[tuple[str, str]]) -> None:
        super().__init__("moved meanwhile")
        self.keys = list(keys)


class Refused(CallFailed):
    """They do not take it, by rules of their own."""


@dataclass(frozen=True, slots=True)
class FieldWord:
    """A field of ours under their word. ``table`` is parts, sheets, lines or operations; ``owner`` the side it belongs to by rule, or empty."""

    table: str
    ours: str
    theirs: str
    owner: str = ""


@dataclass(frozen=True, slots=True)
class Words:
    """How their things are worded: their fields, and their words for values of a field (of ours, by its name)."""

    fields: Sequence[FieldWord]
    values: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    rows: str = "rows"
    steps: str = "steps"


class Book(Protocol):
    """What an adapter gives. All of it raises CallFailed."""

    #: What the map begins with.
    words: Words

    def read(self, top: str, codes: Iterable[str], goes_on: Callable[[int], None]) -> Read:
        """All beneath an item, or none where that is empty, and these items with all that is theirs; ``goes_on`` is told how many things were read, and may raise."""

    def these(self, keys: Sequence[tuple[str, str]]) -> list[Thing]:
        """Some things by kind and key, as they stand just now; those that are there."""

    def moved(self, read: Read) -> list[Trace]:
        """What moved since it was read; things that were not read may be among it."""

    def find(self, words: str) -> list[Thing]:
        """Up to twenty items whose code or text holds these words."""

    def wrong(self, kind: str, key: str, body: Mapping[str, Any]) -> list[tuple[str, str]]:
        """What their rules say against a thing, as far as it is known here: pairs of their field and words."""

    def as_held(self, body: Mapping[str, Any]) -> dict[str, Any]:
        """What is written of a thing, as it will stand there."""

    def write(self, writes: Sequence[Write], by: str) -> None:
        """Write things in their order. Raises Moved, or Refused; where it breaks off, some of them may stand, and :meth:`these` tells."""


def says_the_same(wrote: Any, there: Any) -> bool:
    """Whether a thing says what was written, but for what they add to it (a key of a row, a field that was not stated).

    >>> says_the_same({"lot": "1", "rows": [{"item": "A"}]}, {"lot": 1, "rows": [{"item": "A", "id": "r7"}], "bin": ""})
    True
    """
    if isinstance(wrote, Mapping):
        return isinstance(there, Mapping) and all(says_the_same(v, there.get(n)) for n, v in wrote.items())
    if isinstance(wrote, list):
        return isinstance(there, list) and len(wrote) == len(there) and all(says_the_same(a, b) for a, b in zip(wrote, there, strict=True))
    return (wrote in (None, "") and there in (None, "")) or str(wrote) == str(there)
