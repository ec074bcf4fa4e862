"""When things happen: the operations and purchases of a product laid on calendars, forward or backward (T1, T2, T4).

A *step* is an operation or the purchase of a part. It is, in this order: work (queue, set-up, run) on its calendar, a wait on
the clock with nobody working, and a move on its calendar again. A step begins when all it follows have ended.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from graphlib import CycleError, TopologicalSorter

from .calendars import Calendar, work_before, work_from
from .errors import TallyError

__all__ = ["Scheduled", "Step", "routing_order", "schedule_backward", "schedule_forward"]


@dataclass(frozen=True, slots=True)
class Step:
    """One step; minutes. ``calendar`` None: all of it is on the clock."""

    work: float
    wait: float = 0.0
    move: float = 0.0
    calendar: Calendar | None = None

    def end(self, start: datetime) -> datetime:
        """When it ends if it begins at ``start``."""
        if self.calendar is None:
            return start + timedelta(minutes=self.work + self.wait + self.move)
        worked = work_from(self.calendar, start, self.work) + timedelta(minutes=self.wait)
        return work_from(self.calendar, worked, self.move)

    def start(self, end: datetime) -> datetime:
        """When it must begin to end by ``end``."""
        if self.calendar is None:
            return end - timedelta(minutes=self.work + self.wait + self.move)
        moved = work_before(self.calendar, end, self.move) - timedelta(minutes=self.wait)
        return work_before(self.calendar, moved, self.work)


@dataclass(slots=True)
class Scheduled:
    """Start and end of every step; ``chain`` are the steps that set the whole, in the order of time."""

    start: list[datetime]
    end: list[datetime]
    chain: list[int]


def routing_order(after: Mapping[int, Sequence[int]]) -> list[int]:
    """The operations of a routing so that each stands behind all it follows.

    Args:
        after: sequence → the sequences it follows.

    Raises TallyError with the path when operations wait for one another.

    >>> routing_order({10: [], 20: [10], 30: [10], 40: [30, 20]})
    [10, 20, 30, 40]
    >>> routing_order({10: [20], 20: [10]})
    Traceback (most recent call last):
    tally_core.errors.TallyError: operations wait for one another: 10 → 20 → 10
    """
    try:
        return list(TopologicalSorter(after).static_order())
    except CycleError as error:
        path = error.args[1]
        if path[0] != min(path):
            at = path.index(min(path))
            path = [*path[at:-1], *path[:at], path[at]]
        raise TallyError(f"operations wait for one another: {' → '.join(map(str, path))}") from None


def schedule_forward(steps: Sequence[Step], follows: Sequence[Sequence[int]], start: datetime) -> Scheduled:
    """Every step as early as it can be, from ``start`` on.

    Args:
        follows: over steps, the steps each follows.
    """
    begins, ends = [start] * len(steps), [start] * len(steps)
    driver = [-1] * len(steps)
    for at in TopologicalSorter(dict(enumerate(follows))).static_order():
        for before in follows[at]:
            if ends[before] > begins[at] or (driver[at] < 0 and ends[before] == begins[at]):
                begins[at], driver[at] = ends[before], before
        ends[at] = steps[at].end(begins[at])
    last = max(range(len(steps)), key=ends.__getitem__) if steps else -1
    chain = []
    while last >= 0:
        chain.append(last)
        last = driver[last]
    return Scheduled(begins, ends, chain[::-1])


def schedule_backward(steps: Sequence[Step], follows: Sequence[Sequence[int]], end: datetime) -> Scheduled:
    """Every step as late as it may be for all to have ended by ``end``; else as :func:`schedule_forward`."""
    begins, ends = [end] * len(steps), [end] * len(steps)
    driver = [-1] * len(steps)
    for at in reversed(list(TopologicalSorter(dict(enumerate(follows))).static_order())):
        begins[at] = steps[at].start(ends[at])
        for before in follows[at]:
            if begins[at] < ends[before] or (driver[before] < 0 and begins[at] == ends[before]):
                ends[before], driver[before] = begins[at], at
    first = min(range(len(steps)), key=begins.__getitem__) if steps else -1
    chain = []
    while first >= 0:
        chain.append(first)
        first = driver[first]
    return Scheduled(begins, ends, chain)
