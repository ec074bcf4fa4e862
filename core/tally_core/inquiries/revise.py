"""A later revision of a list against the one taken in before: what is the same line, and what of it changed."""

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass, field

from .line import FIELDS, InquiryLine, in_short, own_words

__all__ = ["Revised", "revise"]


@dataclass(slots=True)
class Revised:
    """How the lines of a later list go back to those of an earlier one.

    Attributes:
        same: key of a later line → key of the earlier line that it is.
        changed: key of a later line → field → (what it said, what it says), only of what is another now.
        added: keys of later lines that are new; taken: keys of earlier lines that are gone.
    """

    same: dict[int, int] = field(default_factory=dict)
    changed: dict[int, dict[str, tuple[str, str]]] = field(default_factory=dict)
    added: list[int] = field(default_factory=list)
    taken: list[int] = field(default_factory=list)


def _plain(line: InquiryLine, name: str) -> str:
    value = getattr(line, name)
    if isinstance(value, bool):
        return "yes" if value else ""
    if name in ("quantity", "unit_cost", "scrap_percent"):
        return "" if value is None else f"{value.normalize() + 0:f}"
    if isinstance(value, list):
        return in_short(value)
    if isinstance(value, dict):
        return own_words(value)
    return "" if value is None else str(value)


_KEYS: tuple[Callable[[InquiryLine], Hashable], ...] = (
    # The likeliest first; what cannot be told apart is matched by the order of the rows.
    lambda x: "head" if x.row == 0 else None,
    lambda x: (x.thing, x.level, x.parent, tuple(x.designators), x.item),
    lambda x: (x.thing, x.level, x.parent, x.item),
    lambda x: (x.thing, x.level, x.parent),
    lambda x: x.thing,
    lambda x: tuple(x.designators) or None,
    lambda x: (x.item, x.level, x.parent) if x.item else None,
)


def revise(before: Sequence[InquiryLine], after: Sequence[InquiryLine]) -> Revised:
    """Match each later line with one earlier line at most, and say what of it changed.

    A line keeps what it is by its number, else by its places, else by its item number: one that kept its item and took another number
    is the same line with another part.
    """
    result = Revised()
    left, open_ = {x.key: x for x in before}, {x.key: x for x in after}
    for key_of in _KEYS:
        waiting: dict[Hashable, list[InquiryLine]] = defaultdict(list)
        for x in left.values():
            if (key := key_of(x)) is not None:
                waiting[key].append(x)
        for x in list(open_.values()):
            key = key_of(x)
            if key is not None and waiting.get(key):
                result.same[x.key] = waiting[key].pop(0).key
                del left[result.same[x.key]], open_[x.key]
    earlier = {x.key: x for x in before}
    for x in after:
        if x.key in result.same:
            was = earlier[result.same[x.key]]
            changed = {n: (_plain(was, n), _plain(x, n)) for n in (*FIELDS, "own_fields") if _plain(was, n) != _plain(x, n)}
            if changed:
                result.changed[x.key] = changed
    result.added = _in_order(after, open_)
    result.taken = _in_order(before, left)
    return result


def _in_order(lines: Iterable[InquiryLine], keys: Iterable[int]) -> list[int]:
    wanted = set(keys)
    return [x.key for x in lines if x.key in wanted]
