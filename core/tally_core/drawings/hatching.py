"""Cut faces hatched: parallel thin lines within an outline, apart from its holes (ISO 128-50)."""

from collections.abc import Sequence
from math import cos, radians, sin

__all__ = ["hatched", "manner_of"]

Ring = Sequence[float]
#: No face gets more lines than this; a denser one than can be told apart is left to its outline.
_MOST = 4000


def manner_of(place: int) -> tuple[float, float]:
    """Angle in degrees and spacing on paper in millimetres for the part at a place in the list: neighbours differ.

    >>> manner_of(0), manner_of(1), manner_of(2)
    ((45.0, 2.0), (135.0, 2.0), (45.0, 3.0))
    """
    return (45.0, 135.0)[place % 2], (2.0, 3.0, 1.5)[place // 2 % 3]


def hatched(rings: Sequence[Ring], angle: float, spacing: float) -> list[list[float]]:
    """Lines x, y, x, y within rings x, y, x, y …: what is within an odd number of rings is filled.

    Args:
        rings: closed outlines, of any direction; the last point need not be the first again.
        angle: degrees from the x axis to the y axis.
        spacing: between one line and the next, in the unit of the rings; more than 0.

    >>> hatched([[0, 0, 10, 0, 10, 4, 0, 4]], 0, 2.5)
    [[0.0, 2.5, 10.0, 2.5]]
    """
    # Turned so that the lines lie level; a line of the grid stands at each multiple of the spacing, so that faces of one part match.
    along, across = cos(radians(angle)), sin(radians(angle))
    turned = [[(x * along + y * across, y * along - x * across) for x, y in zip(r[::2], r[1::2], strict=True)] for r in rings]
    heights = [y for ring in turned for _, y in ring]
    if not heights or (max(heights) - min(heights)) / spacing > _MOST:
        return []
    found = []
    for step in range(int(min(heights) // spacing) + 1, int(max(heights) // spacing) + 1):
        level = step * spacing
        met = sorted(x for ring in turned for x in _crossed(ring, level))
        for left, right in zip(met[::2], met[1::2], strict=False):
            if right - left > 1e-9:
                ends = ((left, level), (right, level))
                found.append([round(v, 4) for x, y in ends for v in (x * along - y * across, x * across + y * along)])
    return found


def _crossed(ring: Sequence[tuple[float, float]], level: float) -> list[float]:
    """Where a ring goes through a level; an end that lies on it counts with the edge that goes up from it."""
    found = []
    for at, (x, y) in enumerate(ring):
        u, v = ring[at - 1]
        if (y > level) != (v > level):
            found.append(x + (level - y) * (u - x) / (v - y))
    return found
