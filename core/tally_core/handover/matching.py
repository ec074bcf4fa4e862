"""Which rows of three sides are the same row (rule H2)."""

from collections import defaultdict, deque
from collections.abc import Callable, Hashable, Iterator, Sequence
from typing import TypeVar

__all__ = ["match"]

T = TypeVar("T")
Key = Callable[[T], Hashable | None]


def match(
    agreed: Sequence[T], ours: Sequence[T], theirs: Sequence[T], keys: Sequence[Key]
) -> Iterator[tuple[T | None, T | None, T | None]]:
    """Rows that are the same as (agreed, ours, theirs), each row once; None where a side has none.

    Ours and theirs are each matched with what was agreed, by the first key, what is left by the next, and so on; what is new on both
    sides is then matched with one another. A key of None matches nothing. They come in the order of ours, then of theirs.

    >>> list(match(["a1", "b2"], ["a1", "b3"], ["b2", "c1"], [lambda x: x, lambda x: x[0]]))
    [('a1', 'a1', None), ('b2', 'b3', 'b2'), (None, None, 'c1')]
    """
    of_ours, of_theirs = _pairs(ours, agreed, keys), _pairs(theirs, agreed, keys)
    new_ours = [i for i in range(len(ours)) if i not in of_ours]
    new_theirs = [i for i in range(len(theirs)) if i not in of_theirs]
    new = _pairs([ours[i] for i in new_ours], [theirs[i] for i in new_theirs], keys)
    both = {new_ours[a]: new_theirs[b] for a, b in new.items()}
    there = {a: i for i, a in of_theirs.items()}
    shown = set(both.values())
    for i, row in enumerate(ours):
        before = of_ours.get(i)
        at = both.get(i) if before is None else there.get(before)
        if at is not None:
            shown.add(at)
        yield (None if before is None else agreed[before], row, None if at is None else theirs[at])
    for i, row in enumerate(theirs):
        if i not in shown:
            before = of_theirs.get(i)
            yield (None if before is None else agreed[before], None, row)


def _pairs(left: Sequence[T], right: Sequence[T], keys: Sequence[Key]) -> dict[int, int]:
    found: dict[int, int] = {}
    taken: set[int] = set()
    if keys and len(left) == len(right):
        # Mostly they stand in the same order, each under a name of its own.
        names = [keys[0](row) for row in left]
        if names == [keys[0](row) for row in right] and len({*names, None}) == len(names) + 1:
            return dict(zip(range(len(left)), range(len(left)), strict=True))
    for key in keys:
        # Mostly the first keys match all, and no other is looked at.
        if len(found) == len(left):
            break
        waiting: dict[Hashable, deque[int]] = defaultdict(deque)
        for j, row in enumerate(right):
            if j not in taken and (of := key(row)) is not None:
                waiting[of].append(j)
        for i, row in enumerate(left):
            if i not in found and (of := key(row)) is not None and waiting.get(of):
                found[i] = waiting[of].popleft()
                taken.add(found[i])
    return found
