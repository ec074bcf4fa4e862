"""What is known of a field of a record, said once where the field stands; everything else derives from it.

Checks, the words for people, which inputs a round may propose and the causes of a difference all read what is said here.
"""

from collections.abc import Callable
from dataclasses import MISSING, dataclass, field, fields
from typing import Any

__all__ = ["Facts", "facts_of", "of", "word_of"]


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known of a field.

    Attributes:
        word: for people, within a sentence; the field's name with blanks when empty.
        unit: what it is measured in, shown behind it; None where that depends on the record (its part's unit, the currency).
        bound: ``>= 0`` or ``> 0``, of a number.
        most: characters of a text; 0 leaves it to a check of its own.
        among: the words of a field that takes one of a few.
        cause: of an input of cost, the cause to which a move of it belongs (``causes.CAUSES``).
        tried: a round may propose it, and what if may try it; a bound of its own where it is tried is ``tried_bound``.
        clears: a round may take it away.
        column: its name in ``tables``, where that is another one.
    """

    word: str = ""
    unit: str | None = None
    bound: str = ""
    most: int = 0
    among: tuple[str, ...] = ()
    cause: str = ""
    tried: bool = False
    tried_bound: str = ""
    clears: bool = False
    column: str = ""


def of(default: Any = MISSING, *, factory: Callable[[], Any] | Any = MISSING, **facts: Any) -> Any:
    """A field of a dataclass with what is known of it: a default, or what makes one, and :class:`Facts` by name."""
    return field(default=default, default_factory=factory, metadata={"facts": Facts(**facts)})


def facts_of(kind: type) -> dict[str, Facts]:
    """What is known of each field of a record, in their order.

    >>> from tally_core.stated.definition import Line
    >>> facts_of(Line)["scrap_percent"].bound
    '>= 0'
    """
    return {f.name: f.metadata.get("facts", _NOTHING) for f in fields(kind)}


def word_of(name: str, facts: Facts) -> str:
    """The word for a field.

    >>> word_of("queue_minutes", Facts())
    'queue minutes'
    """
    return facts.word or name.replace("_", " ")


_NOTHING = Facts()
