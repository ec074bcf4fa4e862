"""One value as last agreed, ours and theirs: who moved it, and what is proposed (rules H1 and H3)."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from typing import Any

__all__ = ["VERDICTS", "Field", "Side", "compare_fields", "strongest", "verdict_of", "verdict_of_one_side"]

#: The side that a value or a decision is of.
Side = str  # "ours" | "theirs"

#: From the weakest to the strongest: a row is as strong as the strongest of its fields.
VERDICTS = ("agrees", "we moved", "they moved", "both moved", "differs", "only here", "only there")
_MOVED: dict[str, Side] = {"we moved": "ours", "they moved": "theirs"}


@dataclass(frozen=True, slots=True)
class Field:
    """A field that does not agree. ``proposal``: whose value to take, None until somebody decides."""

    name: str
    agreed: Any
    ours: Any
    theirs: Any
    verdict: str
    proposal: Side | None


def verdict_of(agreed: Any, ours: Any, theirs: Any, *, nothing_agreed: bool) -> str:
    """Who moved a value (H1). ``nothing_agreed``: there is no last agreed value, and None is none.

    >>> verdict_of("2", "3", "2", nothing_agreed=False), verdict_of("2", "3", "4", nothing_agreed=False)
    ('we moved', 'both moved')
    >>> verdict_of("2", "3", "3", nothing_agreed=False), verdict_of(None, "3", "4", nothing_agreed=True)
    ('agrees', 'differs')
    """
    if ours == theirs:
        return "agrees"
    if nothing_agreed:
        return "differs"
    if ours == agreed:
        return "they moved"
    return "we moved" if theirs == agreed else "both moved"


def compare_fields(
    agreed: Mapping[str, Any] | None,
    ours: Mapping[str, Any],
    theirs: Mapping[str, Any],
    owner: Callable[[str], Side | None] = lambda name: None,
    unagreed: Collection[str] = (),
) -> list[Field]:
    """The fields of a record that do not agree; ``agreed`` is None where nothing was agreed yet, ``unagreed`` names those of which nothing was.

    Where one side moved, its value is proposed; where both did, nothing is; a field that belongs to a side by rule is proposed as that
    side has it (H3).
    """
    found = []
    for name in ours.keys() | theirs.keys():
        here, there = ours.get(name), theirs.get(name)
        if here == there:
            continue
        nothing = agreed is None or name in unagreed
        before = None if agreed is None else agreed.get(name)
        verdict = verdict_of(before, here, there, nothing_agreed=nothing)
        found.append(Field(name, before, here, there, verdict, owner(name) or _MOVED.get(verdict)))
    order = {name: at for at, name in enumerate([*ours, *theirs])}
    return sorted(found, key=lambda f: order[f.name])


def strongest(fields: list[Field]) -> str:
    """The verdict of a row that both sides have.

    >>> strongest([Field("a", 1, 2, 1, "we moved", "ours"), Field("b", 1, 2, 3, "both moved", None)]), strongest([])
    ('both moved', 'agrees')
    """
    return max((f.verdict for f in fields), key=VERDICTS.index, default="agrees")


def verdict_of_one_side(here: bool, was_agreed: bool, same_as_agreed: bool, kept: bool = False) -> tuple[str, Side | None]:
    """The verdict of a row that only one side has, and whose state of it is proposed.

    Args:
        here: ours is the side that has it.
        was_agreed: both had it when they were last in step, so it was taken away on one side; else it was added on the other.
        same_as_agreed: it stands as it was agreed.
        kept: it was added by hand by those who make it, and is never proposed for removal (H4).

    >>> verdict_of_one_side(True, False, False), verdict_of_one_side(True, True, True), verdict_of_one_side(True, True, False)
    (('only here', 'ours'), ('only here', 'theirs'), ('only here', None))
    >>> verdict_of_one_side(False, True, True, kept=True)
    ('only there', None)
    """
    verdict, has, lacks = ("only here", "ours", "theirs") if here else ("only there", "theirs", "ours")
    if not was_agreed:
        return verdict, has
    # Taken away on one side: proposed, unless the other side changed what is to go.
    return verdict, lacks if same_as_agreed and not kept else None
