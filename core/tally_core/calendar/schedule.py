"""When things happen: the operations and purchases of a product laid on calendars, forward or backward (T1, T2, T4).

A *step* is an operation or the purchase of a part. It is, in this order: work (queue, set-up, run) on its calendar, a wait on
the clock with nobody working, and a move on its calendar again. A step begins when all it follows have ended, or where it
overlaps with one, when that has passed on its first transfer quantity; then it ends at the earliest when it has worked
off the last one, too.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from graphlib import CycleError, TopologicalSorter

from ..basics.errors import TallyError
from .calendars import Calendar, work_before, work_from

__all__ = ["Overlap", "Scheduled", "Step", "routing_order", "schedule_backward", "schedule_forward"]


@dataclass(frozen=True, slots=True)
class Step:
    """One step; minutes. ``calendar`` None: all of it is on the clock."""

    work: float
    wait: float = 0.0
    move: float = 0.0
    calendar: Calendar | None = None

    def end(self, start: datetime, work: float | None = None) -> datetime:
        """When it ends if it begins at ``start``; with ``work``, when it has passed on what takes so much of its work."""
        work = self.work if work is None else work
        if self.calendar is None:
            return start + timedelta(minutes=work + self.wait + self.move)
        worked = work_from(self.calendar, start, work) + timedelta(minutes=self.wait)
        return work_from(self.calendar, worked, self.move)

    def start(self, end: datetime, work: float | None = None) -> datetime:
        """When it must begin to end by ``end``; with ``work``, to have passed on by then what takes so much of its work."""
        work = self.work if work is None else work
        if self.calendar is None:
            return end - timedelta(minutes=work + self.wait + self.move)
        moved = work_before(self.calendar, end, self.move) - timedelta(minutes=self.wait)
        return work_before(self.calendar, moved, work)


@dataclass(frozen=True, slots=True)
class Overlap:
    """How a step overlaps with one it follows, in minutes of work: ``lead`` of the step before until the first transfer
    quantity is done, ``tail`` of the step itself for the last one."""

    lead: float
    tail: float


#: By the step that follows and the one it follows.
Overlaps = Mapping[tuple[int, int], Overlap]


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
    tally_core.basics.errors.TallyError: operations wait for one another: 10 → 20 → 10
    """
    try:
        return list(TopologicalSorter(after).static_order())
    except CycleError as error:
        path = error.args[1]
        if path[0] != min(path):
            at = path.index(min(path))
            path = [*path[at:-1], *path[:at], path[at]]
        raise TallyError(f"operations wait for one another: {' → '.join(map(str, path))}") from None


def schedule_forward(
    steps: Sequence[Step], follows: Sequence[Sequence[int]], start: datetime, overlaps: Overlaps | None = None
) -> Scheduled:
    """Every step as early as it can be, from ``start`` on.

    Args:
        follows: over steps, the steps each follows.
    """
    overlaps = overlaps or {}
    begins, ends = [start] * len(steps), [start] * len(steps)
    driver = [-1] * len(steps)
    for at in TopologicalSorter(dict(enumerate(follows))).static_order():
        for before in follows[at]:
            overlap = overlaps.get((at, before))
            ready = ends[before] if overlap is None else steps[before].end(begins[before], overlap.lead)
            if ready > begins[at] or (driver[at] < 0 and ready == begins[at]):
                begins[at], driver[at] = ready, before
        ends[at] = steps[at].end(begins[at])
        for before in follows[at]:
            overlap = overlaps.get((at, before))
            if overlap is not None and (last := steps[at].end(ends[before], overlap.tail)) > ends[at]:
                ends[at], driver[at] = last, before
    final = max(range(len(steps)), key=ends.__getitem__) if steps else -1
    return Scheduled(begins, ends, _walk(driver, final)[::-1])


def schedule_backward(
    steps: Sequence[Step], follows: Sequence[Sequence[int]], end: datetime, overlaps: Overlaps | None = None
) -> Scheduled:
    """Every step as late as it may be for all to have ended by ``end``; else as :func:`schedule_forward`."""
    overlaps = overlaps or {}
    begins, ends = [end] * len(steps), [end] * len(steps)
    latest: list[datetime] = [datetime.max] * len(steps)
    driver, holder = [-1] * len(steps), [-1] * len(steps)
    for at in reversed(list(TopologicalSorter(dict(enumerate(follows))).static_order())):
        begins[at] = steps[at].start(ends[at])
        if latest[at] < begins[at]:
            begins[at], driver[at] = latest[at], holder[at]
            ends[at] = min(ends[at], steps[at].end(begins[at]))
        for before in follows[at]:
            overlap = overlaps.get((at, before))
            by = begins[at] if overlap is None else steps[at].start(ends[at], overlap.tail)
            if by < ends[before] or (driver[before] < 0 and by == ends[before]):
                ends[before], driver[before] = by, at
            if overlap is not None and (first := steps[before].start(begins[at], overlap.lead)) < latest[before]:
                latest[before], holder[before] = first, at
    first_step = min(range(len(steps)), key=begins.__getitem__) if steps else -1
    return Scheduled(begins, ends, _walk(driver, first_step))


def _walk(driver: Sequence[int], step: int) -> list[int]:
    path = []
    while step >= 0:
        path.append(step)
        step = driver[step]
    return path
