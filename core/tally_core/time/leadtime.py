"""How long things take: an operation's elapsed time, and the lead time of every part of a structure at once (T1, T2, T4).

Here working time is stretched by the share of the week in which the work center works. Where shifts, closed days and stops
fall is a matter of a day: that is :mod:`tally_core.calendar.schedule`.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..basics.kinds import BOUGHT, PER_CYCLE, PER_LOT
from ..basics.rounding import round_up
from ..calendar.critical_path import earliest
from ..cost.cost import OperationCosts, operation_costs
from ..structure.structure import Structure
from ..structure.tables import OperationTable

__all__ = ["DAY", "Elapsed", "TimeTable", "elapsed", "lead_times", "order_of_work", "routing_times"]

#: Minutes of a day.
DAY = 24 * 60.0


@dataclass(slots=True)
class TimeTable:
    """What the time rules read beside the cost rules. Columns over operations, parts, and *edges* between operations."""

    queue_minutes: np.ndarray
    wait_minutes: np.ndarray
    move_minutes: np.ndarray
    stations: np.ndarray  # that share the lot
    transfer_quantity: np.ndarray  # NaN where the whole lot goes on at once
    outside_days: np.ndarray  # on the clock; 0 when done inside
    share: np.ndarray  # of the week in which its work center works; 1 outside
    before: np.ndarray  # int over edges: operation row
    after: np.ndarray  # int over edges: the operation row that follows it
    lead_days: np.ndarray  # over parts: until what is bought is there


@dataclass(slots=True)
class Elapsed:
    """Minutes. ``work`` over operations, queue + set-up + run / stations of the slowest that work on it, and 0 over what works
    beside one; ``setup`` and ``run`` of each row; over edges ``overlaps``, and how far: see :class:`tally_core.calendar.schedule.Overlap`."""

    work: np.ndarray
    setup: np.ndarray
    run: np.ndarray  # of the whole lot, over all its stations
    overlaps: np.ndarray  # bool
    lead: np.ndarray
    tail: np.ndarray


def order_of_work(operations: OperationTable, named: Mapping[int, Sequence[int]]) -> tuple[np.ndarray, np.ndarray]:
    """The edges of rule T2: by sequence, but for operations that name what they follow.

    Args:
        named: operation row → the sequences it names, of the same routing; others are passed over.

    Returns:
        int arrays over edges: the row before, and the row after.
    """
    follows = np.zeros(len(operations), dtype=bool)
    if len(operations):
        follows[1:] = (operations.parent[1:] == operations.parent[:-1]) & (operations.resource[1:] == 0)
    before, after = [], []
    for row, sequences in named.items():
        first, last = np.searchsorted(operations.parent, operations.parent[row] + np.array([0, 1]))
        row_of = {int(operations.sequence[i]): i for i in range(first, last) if operations.resource[i] == 0}
        rows = [row_of[s] for s in sequences if s in row_of and row_of[s] != row]
        if rows:
            follows[row] = False
            before += rows
            after += [row] * len(rows)
    by_list = np.flatnonzero(follows)
    return (
        np.concatenate((operations.leads()[by_list - 1], np.array(before, dtype=np.int64))),
        np.concatenate((by_list, np.array(after, dtype=np.int64))),
    )


def elapsed(structure: Structure, times: TimeTable, lots: np.ndarray, work: OperationCosts | None = None) -> Elapsed:
    """Rule T1 for one lot of every part, and how far operations overlap by their transfer quantities (T2).

    Args:
        lots: over parts, in the part's unit.
        work: what the operations take for these lots, where that is known already.
    """
    s, o = structure, structure.operations
    work = work or operation_costs(o, s.starts, lots[o.parent])
    setup, run = work.setup_hours * 60.0, work.run_hours * 60.0
    inside = np.isnan(o.outside_price)
    before, after = times.before, times.after
    moved = times.transfer_quantity[before]
    # Only between stations of one's own: what is done outside goes and comes as a whole lot.
    overlaps = ~np.isnan(moved) & inside[before] & inside[after]

    def share(rows: np.ndarray, quantity: np.ndarray) -> np.ndarray:
        """Of the run time of a lot: what so many of those it starts take."""
        cycles = work.cycles[rows]
        part = np.where(work.started[rows] > 0, quantity / work.started[rows], 1.0)
        by_cycle = o.run_basis[rows] == PER_CYCLE
        part[by_cycle] = round_up(quantity[by_cycle] / o.cycle_quantity[rows[by_cycle]]) / np.maximum(cycles[by_cycle], 1.0)
        part[o.run_basis[rows] == PER_LOT] = 1.0
        return np.minimum(part, 1.0)

    beside = int(o.resource.max(initial=0))

    def slowest(rows: np.ndarray, minutes: Callable[[np.ndarray, np.ndarray], np.ndarray]) -> np.ndarray:
        """Over operations: the most that any of those that work on one take; ``minutes`` of rows, for a choice of ``rows``."""
        most, every = np.zeros(len(rows)), np.arange(len(rows))
        for nth in range(beside + 1):
            every = every[rows[every] + nth < len(o)]
            every = every[o.resource[rows[every] + nth] == nth]
            most[every] = np.maximum(most[every], minutes(rows[every] + nth, every))
        return most

    lead, tail = np.zeros(len(before)), np.zeros(len(before))
    at = np.flatnonzero(overlaps)
    b, a, quantity = before[at], after[at], moved[at]
    lead[at] = times.queue_minutes[b] + slowest(
        b, lambda rows, of: setup[rows] + run[rows] / times.stations[rows] * share(rows, quantity[of])
    )
    arrives = np.where(work.started[b] > 0, quantity * work.started[a] / work.started[b], quantity)
    tail[at] = slowest(a, lambda rows, of: run[rows] / times.stations[rows] * share(rows, arrives[of]))
    done = np.where(inside, setup + run / times.stations, times.outside_days * DAY)
    if beside:
        leads = np.flatnonzero(o.resource == 0)
        of_each = slowest(leads, lambda rows, of: done[rows])
        done = np.zeros(len(o))
        done[leads] = of_each
    return Elapsed(work=times.queue_minutes + done, setup=setup, run=run, overlaps=overlaps, lead=lead, tail=tail)


def lead_times(structure: Structure, times: TimeTable, lots: np.ndarray, spent: Elapsed | None = None) -> np.ndarray:
    """Rule T4 for every part: days from the first order or operation until one lot of it is there.

    Args:
        lots: over parts, in the part's unit.
        spent: :func:`elapsed` for these lots, where that is known already.

    A level at a time from the bottom; the routings of a level are one network.
    """
    s, o = structure, structure.operations
    spent = spent or elapsed(s, times, lots)
    stretch = 1.0 / times.share
    after_work = times.wait_minutes + times.move_minutes * stretch
    duration = spent.work * stretch + after_work
    bought = s.parts.kind == BOUGHT
    there = np.where(bought, times.lead_days * DAY, 0.0)

    # Operations, their edges and the usages in the order of their parts' levels, so that each level is a run of rows.
    order = np.argsort(s.place[o.parent], kind="stable")
    place = np.empty_like(order)
    place[order] = np.arange(len(order))
    first = np.searchsorted(s.place[o.parent[order]], s.level_start)
    edges = np.argsort(place[times.after], kind="stable")
    before, after = place[times.before[edges]], place[times.after[edges]]
    edge_first = np.searchsorted(after, first)
    overlaps = spent.overlaps[edges]
    lag = np.where(overlaps, (spent.lead * stretch[times.before] + after_work[times.before])[edges], 0.0)
    tail = (spent.tail * stretch[times.after] + after_work[times.after])[edges]
    duration, parent = duration[order], o.parent[order]
    last = np.ones(len(order), dtype=bool)
    last[before] = False

    counts = ~s.byproduct & ~s.free
    issued = np.where(s.lines.operation[s.line] >= 0, s.lines.operation[s.line], s.first_operation[s.parent])
    to_operation, to_part = counts & (issued >= 0), counts & (issued < 0)
    operation_of = np.where(issued >= 0, place[issued], -1) if len(place) else issued
    begin = np.zeros(len(order))
    for a, b in zip(range(len(s.level_start) - 2, -1, -1), range(len(s.level_start) - 1, 0, -1), strict=True):
        usages = slice(s.usage_start[s.level_start[a]], s.usage_start[s.level_start[b]])
        child, parents = s.child[usages], s.parent[usages]
        here = to_operation[usages]
        np.maximum.at(begin, operation_of[usages][here], there[child[here]])
        here = to_part[usages] & ~bought[parents]
        np.maximum.at(there, parents[here], there[child[here]])
        rows, own = slice(first[a], first[b]), slice(edge_first[a], edge_first[b])
        if first[a] == first[b]:
            continue
        end = _ends(begin[rows], duration[rows], before[own] - first[a], after[own] - first[a], overlaps[own], lag[own], tail[own])
        done = last[rows]
        np.maximum.at(there, parent[rows][done], end[done])
    return there / DAY


def routing_times(structure: Structure, times: TimeTable, spent: Elapsed) -> tuple[np.ndarray, np.ndarray]:
    """Elapsed time of every operation, and of every part's routing when all it takes is there; days."""
    s, o = structure, structure.operations
    stretch = 1.0 / times.share
    after_work = times.wait_minutes + times.move_minutes * stretch
    duration = spent.work * stretch + after_work
    lag = spent.lead * stretch[times.before] + after_work[times.before]
    tail = spent.tail * stretch[times.after] + after_work[times.after]
    end = _ends(np.zeros(len(o)), duration, times.before, times.after, spent.overlaps, lag, tail)
    routing = np.zeros(len(s.parts))
    np.maximum.at(routing, o.parent, end)
    return duration / DAY, routing / DAY


def _ends(
    begin: np.ndarray, duration: np.ndarray, before: np.ndarray, after: np.ndarray, overlaps: np.ndarray, lag: np.ndarray, tail: np.ndarray
) -> np.ndarray:
    """When each operation ends. One that overlaps gets a node of its own for its end: that waits for two things."""
    if not len(before):
        return begin + duration
    count = len(begin)
    if not overlaps.any():
        return earliest(begin, before, after, duration[before]) + duration
    late = np.unique(after[overlaps])
    end_node, left = np.arange(count), duration.copy()
    end_node[late], left[late] = count + np.arange(len(late)), 0.0
    source = np.where(overlaps, before, end_node[before])
    at = earliest(
        np.concatenate((begin, np.zeros(len(late)))),
        np.concatenate((source, late, end_node[before[overlaps]])),
        np.concatenate((after, end_node[late], end_node[after[overlaps]])),
        np.concatenate((np.where(overlaps, lag, left[before]), duration[late], left[before[overlaps]] + tail[overlaps])),
    )
    return at[end_node] + left
