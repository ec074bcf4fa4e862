"""The critical path of a network: when each node can be reached at the earliest, and the way that sets the latest."""

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from ..basics.ordering import gather, successors

__all__ = ["critical_path", "earliest"]

#: Where so many nodes can be taken at a time, arrays beat lists; so many narrow fronts show that they cannot.
_WIDE, _PATIENCE = 64, 16


def earliest(begin: np.ndarray, before: np.ndarray, after: np.ndarray, lag: np.ndarray) -> np.ndarray:
    """For every node the larger of its own ``begin`` and, over the edges that lead to it, the earliest of ``before`` + ``lag``.

    Args:
        begin: over nodes.
        before, after: int arrays over edges; ``after`` comes at least ``lag`` later than ``before``.

    Raises ValueError when nodes wait for one another.

    >>> earliest(np.array([0.0, 5.0, 0.0]), np.array([0, 1]), np.array([2, 2]), np.array([7.0, 1.0])).tolist()
    [0.0, 5.0, 7.0]
    """
    if not len(before):
        return begin.astype(float)
    found = _by_fronts(begin, before, after, lag)
    return _edge_by_edge(begin, before, after, lag) if found is None else found


def _by_fronts(begin: np.ndarray, before: np.ndarray, after: np.ndarray, lag: np.ndarray) -> np.ndarray | None:
    """All nodes at once that wait for nothing more (Kahn's order); None when they are few at a time."""
    count = len(begin)
    at = begin.astype(float)
    start, edges = successors(count, before, np.arange(len(before)))
    waiting = np.bincount(after, minlength=count)
    front = np.flatnonzero(waiting == 0)
    narrow = 0
    while front.size:
        narrow += front.size < _WIDE
        if narrow > _PATIENCE:
            return None
        waiting[front] = -1
        out = gather(start, edges, front)
        met = after[out]
        np.maximum.at(at, met, at[before[out]] + lag[out])
        waiting -= np.bincount(met, minlength=count)
        front = np.flatnonzero(waiting == 0)
    if (waiting > 0).any():
        raise ValueError("nodes wait for one another")
    return at


def _edge_by_edge(begin: np.ndarray, before: np.ndarray, after: np.ndarray, lag: np.ndarray) -> np.ndarray:
    """One pass over the edges, in the order of the nodes they lead from, over plain lists."""
    place = _order(len(begin), before, after)
    source = place[before]
    order = np.argsort(source, kind="stable")
    moments = np.empty(len(begin))
    moments[place] = begin
    at = moments.tolist()
    for first, then, gap in zip(source[order].tolist(), place[after][order].tolist(), lag[order].tolist(), strict=True):
        moment = at[first] + gap
        if moment > at[then]:
            at[then] = moment
    return np.array(at)[place]


def _order(count: int, before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """int over nodes: a place for each, in front of all that follow it."""
    if (before < after).all():
        return np.arange(count)
    graph = csr_array((np.ones(len(before), dtype=np.int8), (before, after)), shape=(count, count))
    # Without a loop every node is a component of its own, and they are found from the ends backwards (D. J. Pearce,
    # Information Processing Letters 116, 2016): their numbers fall along every edge.
    found, number = connected_components(graph, directed=True, connection="strong")
    if found < count or (before == after).any():
        raise ValueError("nodes wait for one another")
    place = count - 1 - number
    assert (place[before] < place[after]).all()
    return place


def critical_path(duration: np.ndarray, before: np.ndarray, after: np.ndarray) -> tuple[np.ndarray, list[int]]:
    """When each of some operations ends at the earliest, and those that set the end of the last, in the order of time.

    Args:
        duration: over operations.
        before, after: int arrays over edges: ``after`` begins when ``before`` has ended.

    Raises ValueError when operations wait for one another.

    >>> end, path = critical_path(np.array([2.0, 5.0, 9.0, 1.0]), np.array([0, 0, 1, 2]), np.array([1, 2, 3, 3]))
    >>> end.tolist(), path
    ([2.0, 7.0, 11.0, 12.0], [0, 2, 3])
    """
    start = earliest(np.zeros(len(duration)), before, after, duration[before])
    end = start + duration
    driver = np.full(len(duration), -1)
    sets = end[before] == start[after]
    driver[after[sets]] = before[sets]
    node = int(end.argmax()) if len(end) else -1
    path = []
    while node >= 0:
        path.append(node)
        node = int(driver[node])
    return end, path[::-1]
