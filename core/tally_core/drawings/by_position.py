"""Rule M2: numbers by where things stand: rows within a tolerance, then along the row; each group counts for itself, locked numbers stay."""

from collections.abc import Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

__all__ = ["Group", "in_rows", "number_by_position"]

K = TypeVar("K", bound=Hashable)


@dataclass(frozen=True, slots=True)
class Group:
    """What counts together: from which number on, by which step, and which way. ``upward``: from the lowest row up."""

    start: int = 10
    step: int = 10
    upward: bool = False


def in_rows(points: Mapping[K, tuple[float, float]], tolerance: float, upward: bool = False) -> list[K]:
    """Things in reading order: row after row, each from the left. y grows downward, as on paper.

    A row begins with the first thing that stands further than the tolerance from the one its row began with.

    >>> in_rows({"a": (5, 0), "b": (1, 2), "c": (3, 20)}, 5), in_rows({"a": (5, 0), "b": (1, 2), "c": (3, 20)}, 5, upward=True)
    (['b', 'a', 'c'], ['c', 'b', 'a'])
    """
    waiting = sorted(points, key=lambda k: (-points[k][1] if upward else points[k][1], points[k][0]))
    rows: list[list[K]] = []
    begin = 0.0
    for key in waiting:
        y = points[key][1]
        if not rows or abs(y - begin) > tolerance:
            rows.append([])
            begin = y
        rows[-1].append(key)
    return [key for row in rows for key in sorted(row, key=lambda k: points[k][0])]


def number_by_position(
    points: Mapping[K, tuple[float, float]],
    group_of: Mapping[K, str],
    groups: Mapping[str, Group],
    locked: Mapping[K, int],
    tolerance: float,
    behind: Sequence[K] = (),
    taken: Collection[int] = (),
) -> dict[K, int]:
    """A number for each thing.

    Args:
        points: where each stands, y downward.
        group_of: the group of each; a thing in none counts with ``""``.
        groups: how each group counts; ``""`` for what is in none.
        locked: numbers that stay; nothing else gets them.
        behind: things that stand nowhere: they come after the others of their group, in their order.
        taken: numbers that stand elsewhere, and nothing here gets.

    >>> number_by_position({"a": (0, 0), "b": (9, 0), "c": (0, 50)}, {"c": "bought"}, {"": Group(), "bought": Group(500, 1)}, {"a": 20}, 5)
    {'b': 10, 'c': 500, 'a': 20}
    """
    used = {*locked.values(), *taken}
    numbers: dict[K, int] = {}
    for name, group in groups.items():
        mine = {k: p for k, p in points.items() if k not in locked and _group(k, group_of, groups) == name}
        order = in_rows(mine, tolerance, group.upward)
        order += [k for k in behind if k not in locked and k not in points and _group(k, group_of, groups) == name]
        number = group.start
        for key in order:
            while number in used:
                number += group.step
            numbers[key] = number
            used.add(number)
    return numbers | {k: n for k, n in locked.items() if k in points or k in behind}


def _group(key: K, group_of: Mapping[K, str], groups: Mapping[str, Group]) -> str:
    name = group_of.get(key, "")
    return name if name in groups else ""
