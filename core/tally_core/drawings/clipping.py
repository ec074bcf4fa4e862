"""What of a line lies within a box."""

from collections.abc import Sequence
from itertools import pairwise

from .balloons import Box

__all__ = ["within"]


def within(lines: Sequence[Sequence[float]], box: Box) -> list[list[float]]:
    """Polylines x, y, x, y … cut off at a box; one that leaves it and comes back is two. By Liang and Barsky (1984).

    >>> within([[-5, 5, 5, 5, 5, 20]], Box(0, 0, 10, 10))
    [[0.0, 5.0, 5.0, 5.0, 5.0, 10.0]]
    """
    found: list[list[float]] = []
    for line in lines:
        here: list[float] = []
        points = list(zip(line[::2], line[1::2], strict=True))
        for a, b in pairwise(points):
            kept = _kept(a, b, box)
            if kept is None:
                continue
            begin, end = kept
            if here and here[-2:] == [*begin]:
                here += end
            else:
                if here:
                    found.append(here)
                here = [*begin, *end]
        if here:
            found.append(here)
    return found


def _kept(a: tuple[float, float], b: tuple[float, float], box: Box) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """The piece of a line within the box; None for one outside, or that only touches it."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    first, last = 0.0, 1.0
    for by, room in ((-dx, a[0] - box.x), (dx, box.x + box.width - a[0]), (-dy, a[1] - box.y), (dy, box.y + box.height - a[1])):
        if by == 0:
            if room < 0:
                return None
        elif by < 0:
            first = max(first, room / by)
        else:
            last = min(last, room / by)
    if first >= last:
        return None
    begin = (a[0] + first * dx, a[1] + first * dy) if first > 0 else (float(a[0]), float(a[1]))
    end = (a[0] + last * dx, a[1] + last * dy) if last < 1 else (float(b[0]), float(b[1]))
    return begin, end
