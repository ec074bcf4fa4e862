"""Where balloons stand around a view: beside what they mean, evenly spaced, and no leader crosses another.

Of all ways to tie points to as many places with straight leaders, one of the least total length has no crossing: where two leaders cross,
exchanging their places makes both together shorter (the triangle inequality). So the least total length is what is looked for.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

import numpy as np
from scipy.optimize import linear_sum_assignment

__all__ = ["Box", "crossings", "place_balloons", "slots_around"]

Point = tuple[float, float]


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
        across, down = _spread(left, right, step), _spread(top, low, step)
        here = [(x, y) for y in (top, low) for x in across] + [(x, y) for x in (left, right) for y in down[1:-1]]
        found += [p for p in here if _within(p, radius, paper) and not any(_reaches(p, radius, b) for b in blocked)]
        ring += 1
    return found


def _spread(low: float, high: float, step: float) -> list[float]:
    """Both ends, and between them as many as keep a distance, evenly."""
    gaps = max(1, int((high - low) // step))
    return [low + (high - low) * i / gaps for i in range(gaps + 1)]


def _within(point: Point, radius: float, paper: Box) -> bool:
    x, y = point
    return paper.x + radius <= x <= paper.x + paper.width - radius and paper.y + radius <= y <= paper.y + paper.height - radius


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
    free = [
        p
        for p in slots_around(box, radius, len(points) + len(taken), paper, blocked)
        if all(hypot(p[0] - q[0], p[1] - q[1]) >= 2.4 * radius for q in taken)
    ]
    if not points or not free:
        return [*points]
    ends, slots = np.array(points, dtype=float), np.array(free, dtype=float)
    length = np.hypot(ends[:, None, 0] - slots[None, :, 0], ends[:, None, 1] - slots[None, :, 1])
    rows, columns = linear_sum_assignment(length)
    placed: list[Point] = [*points]
    for row, column in zip(rows.tolist(), columns.tolist(), strict=True):
        placed[row] = free[column]
    return placed


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
