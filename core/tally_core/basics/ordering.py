"""The order in which parts can be tallied: low-level codes, and loops with their path."""

import numpy as np

__all__ = ["find_loop", "gather", "low_level_codes", "reachable", "successors"]


def successors(count: int, parent: np.ndarray, child: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Compressed rows: ``targets[start[i]:start[i + 1]]`` are the children of i."""
    order = np.argsort(parent, kind="stable")
    start = np.zeros(count + 1, dtype=np.int64)
    np.cumsum(np.bincount(parent, minlength=count), out=start[1:])
    return start, child[order]


def gather(start: np.ndarray, targets: np.ndarray, nodes: np.ndarray) -> np.ndarray:
    """The children of all ``nodes``, one after another."""
    first, length = start[nodes], start[nodes + 1] - start[nodes]
    total = int(length.sum())
    if total == 0:
        return targets[:0]
    offset = np.repeat(first - np.concatenate(([0], np.cumsum(length)[:-1])), length)
    return targets[np.arange(total) + offset]


def low_level_codes(count: int, parent: np.ndarray, child: np.ndarray) -> np.ndarray:
    """The deepest level at which each node stands: the longest path to it from any node without parents.

    Args:
        count: the number of nodes.
        parent, child: int arrays over edges.

    Returns:
        int32 over nodes; -1 for a node on a loop or below one.

    Kahn's algorithm, one level at a time (A. B. Kahn, Communications of the ACM 5, 1962).

    >>> low_level_codes(4, np.array([0, 0, 1, 1]), np.array([1, 2, 2, 3])).tolist()
    [0, 1, 2, 2]
    """
    start, targets = successors(count, parent, child)
    waiting = np.bincount(child, minlength=count)
    level = np.full(count, -1, dtype=np.int32)
    front = np.flatnonzero(waiting == 0)
    depth = 0
    while front.size:
        level[front] = depth
        met = gather(start, targets, front)
        # A count over all nodes costs their number; sorting costs more per child met but nothing per node.
        if met.size > count // 16:
            waiting -= np.bincount(met, minlength=count)
            touched = np.zeros(count, dtype=bool)
            touched[met] = True
            front = np.flatnonzero(touched & (waiting == 0))
        else:
            nodes, times = np.unique(met, return_counts=True)
            waiting[nodes] -= times
            front = nodes[waiting[nodes] == 0]
        depth += 1
    return level


def find_loop(count: int, parent: np.ndarray, child: np.ndarray) -> list[int] | None:
    """The nodes around one loop, the first repeated at the end; None when there is no loop.

    >>> find_loop(3, np.array([0, 1, 2]), np.array([1, 2, 1]))
    [1, 2, 1]
    """
    level = low_level_codes(count, parent, child)
    if (level >= 0).all():
        return None
    # Every node left over has a parent that is left over too, so walking upwards must come round.
    stuck = (level[parent] < 0) & (level[child] < 0)
    above = dict(zip(child[stuck].tolist(), parent[stuck].tolist(), strict=True))
    node = next(iter(above))
    seen: dict[int, int] = {}
    walk: list[int] = []
    while node not in seen:
        seen[node] = len(walk)
        walk.append(node)
        node = above[node]
    loop = walk[seen[node] :][::-1]
    turn = loop.index(min(loop))
    return [*loop[turn:], *loop[:turn], loop[turn]]


def reachable(count: int, parent: np.ndarray, child: np.ndarray, top: int) -> np.ndarray:
    """Bool over nodes: those met on the way down from ``top``, itself included.

    >>> reachable(4, np.array([0, 1, 3]), np.array([1, 2, 2]), 0).tolist()
    [True, True, True, False]
    """
    start, targets = successors(count, parent, child)
    seen = np.zeros(count, dtype=bool)
    seen[top] = True
    front = np.array([top])
    while front.size:
        met = gather(start, targets, front)
        met = met[~seen[met]]
        seen[met] = True
        # Each once, or those met often would be followed as often.
        if met.size > count // 16:
            touched = np.zeros(count, dtype=bool)
            touched[met] = True
            front = np.flatnonzero(touched)
        else:
            front = np.unique(met)
    return seen
