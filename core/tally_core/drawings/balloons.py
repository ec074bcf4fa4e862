"""Where balloons stand around a view: beside what they mean, evenly spaced, and no leader crosses another.

Of all ways to tie points to as many places with straight leaders, one of the least total length has no crossing: where two leaders cross,
exchanging their places makes both together shorter (the triangle inequality). So the least total length is what is looked for. Since that
takes time with the cube of their number, many are halved by straight lines before: no leader crosses such a line.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import hypot

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment
from scipy.spatial.distance import cdist

__all__ = ["Box", "crossings", "place_balloons", "slots_around"]

Point = tuple[float, float]
#: How many are tied at once, and along what lines more are halved: each the way across it.
_MOST = 30
_WAYS = np.array([[1.0, 0.0], [0.0, 1.0], [1.0, 1.0], [1.0, -1.0]])


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle on the paper, in millimetres: its upper left corner and its sides."""

    x: float
    y: float
    width: float
    height: float


def slots_around(box: Box, radius: float, count: int, paper: Box, blocked: Sequence[Box] = ()) -> list[Point]:
    """Places for the middles of at least ``count`` balloons in rings around a view, evenly spaced and aligned with its sides.

    Those that would not lie whole on the paper, or reach into what is ``blocked``, are left out; further rings are added until there are enough, or no ring lies on the paper any more.
    """
    found: list[Point] = []
    step, ring = 2.6 * radius, 0
    while len(found) < count and ring < 60:
        away = 2.2 * radius + ring * 2.8 * radius
        left, top, right, low = box.x - away, box.y - away, box.x + box.width + away, box.y + box.height + away
        across, down = _spread(left, right, step), _spread(top, low, step)[1:-1]
        columns = [x for x in across if paper.x + radius <= x <= paper.x + paper.width - radius]
        rows = [y for y in (top, *down, low) if paper.y + radius <= y <= paper.y + paper.height - radius]
        here = [(x, y) for y in (top, low) if y in rows for x in columns]
        here += [(x, y) for x in (left, right) if x in columns for y in rows if top < y < low]
        found += [p for p in here if not any(_reaches(p, radius, b) for b in blocked)] if blocked else here
        ring += 1
    return found


def _spread(low: float, high: float, step: float) -> list[float]:
    """Both ends, and between them as many as keep a distance, evenly."""
    gaps = max(1, int((high - low) // step))
    return [low + (high - low) * i / gaps for i in range(gaps + 1)]


def _reaches(point: Point, radius: float, box: Box) -> bool:
    x, y = point
    return box.x - radius < x < box.x + box.width + radius and box.y - radius < y < box.y + box.height + radius


def place_balloons(
    points: Sequence[Point], box: Box, radius: float, paper: Box, taken: Sequence[Point] = (), blocked: Sequence[Box] = ()
) -> list[Point]:
    """A place for the balloon of each point in a view, in their order.

    Args:
        points: what each balloon means, on the paper.
        box: the view, which no balloon covers.
        paper: what they have to lie within.
        taken: middles of balloons that stand already, and are not stood upon.
        blocked: other views, the list, the title: no balloon covers them.

    Where the paper has no room for all, the last ones stand at the points themselves. No two leaders of the answer cross, unless points
    lie on one line with the places of others.
    """
    free = slots_around(box, radius, len(points) + len(taken), paper, blocked)
    if taken:
        free = [p for p in free if all(hypot(p[0] - q[0], p[1] - q[1]) >= 2.4 * radius for q in taken)]
    if not points or not free:
        return [*points]
    ends, slots = np.array(points, dtype=float), np.array(free, dtype=float)
    placed: list[Point] = [*points]
    for mine, around in _halved(np.arange(len(ends)), np.arange(len(slots)), _WAYS @ ends.T, _WAYS @ slots.T):
        rows, columns = linear_sum_assignment(cdist(ends[mine], slots[around]))
        for row, column in zip(mine[rows].tolist(), around[columns].tolist(), strict=True):
            placed[row] = free[column]
    return placed


_Indices = NDArray[np.intp]
_Floats = NDArray[np.float64]


def _halved(mine: _Indices, around: _Indices, points: _Floats, places: _Floats) -> Iterator[tuple[_Indices, _Indices]]:
    """Which points are tied to which places: a few to all of theirs; many by halves, where a line has room for both on their sides of it.

    Args:
        points, places: for every way in which a line is sought a row, how far each lies along it.
    """
    half = len(mine) // 2
    if len(mine) > _MOST:
        along = points[:, mine]
        order = along.argsort(axis=1)
        ways = np.arange(len(points))
        border = (along[ways, order[:, half - 1]] + along[ways, order[:, half]]) / 2
        left = places[:, around] < border[:, None]
        room = left.sum(axis=1)
        fits = (room >= half) & (len(around) - room >= len(mine) - half)
        way = int(fits.argmax())
        if fits[way]:
            yield from _halved(mine[order[way, :half]], around[left[way]], points, places)
            yield from _halved(mine[order[way, half:]], around[~left[way]], points, places)
            return
    yield mine, around


def crossings(leaders: Sequence[tuple[Point, Point]]) -> list[tuple[int, int]]:
    """Which leaders cross, each pair once; those that only touch at an end do not."""
    found = []
    for i, (a, b) in enumerate(leaders):
        for j, (c, d) in enumerate(leaders[:i]):
            if _side(a, b, c) * _side(a, b, d) < 0 and _side(c, d, a) * _side(c, d, b) < 0:
                found.append((j, i))
    return found


def _side(a: Point, b: Point, p: Point) -> float:
    turn = (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])
    return turn if abs(turn) > 1e-9 else 0.0
