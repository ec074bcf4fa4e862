"""Where on a paper there is room for one more thing."""

from collections.abc import Sequence

from .balloons import Box

__all__ = ["room_for"]

#: From place to place that is tried, and what stays free around everything, in millimetres.
_STEP, _GAP = 5.0, 8.0


def room_for(width: float, height: float, paper: Box, taken: Sequence[Box]) -> tuple[float, float] | None:
    """The upper left corner of a free place: the highest there is, and of those the one furthest left; None where there is none.

    Args:
        paper: what it has to lie within.
        taken: what stands there already, and keeps its distance.

    >>> room_for(40, 30, Box(0, 0, 100, 100), [Box(0, 0, 30, 30)]), room_for(90, 30, Box(0, 0, 100, 50), [Box(0, 0, 30, 30)])
    ((40.0, 0.0), None)
    """
    down = 0.0
    while down <= paper.height - height:
        across = 0.0
        while across <= paper.width - width:
            x, y = paper.x + across, paper.y + down
            met = next((b for b in taken if _too_near(x, y, width, height, b)), None)
            if met is None:
                return x, y
            # Nothing is free before the end of what was met.
            past = met.x + met.width + _GAP - paper.x
            across = max(across + _STEP, -(-past // _STEP) * _STEP)
        down += _STEP
    return None


def _too_near(x: float, y: float, width: float, height: float, other: Box) -> bool:
    return (
        x < other.x + other.width + _GAP
        and x + width + _GAP > other.x
        and y < other.y + other.height + _GAP
        and y + height + _GAP > other.y
    )
