"""The most worthy things for some room: what decides which pattern is worth generating."""

from collections.abc import Sequence

import numpy as np

__all__ = ["most_worthy"]


def most_worthy(things: Sequence[tuple[int, float, int]], takes: Sequence[int], room: int) -> dict[int, int]:
    """How many of each thing to take, so that together they are worth most (dynamic programming over the room, in batches of 1, 2, 4, ...).

    Args:
        things: (which, what one is worth, how many there are at most).
        takes: the room that each takes, by which it is.

    >>> most_worthy([(0, 3.0, 9), (1, 2.0, 1)], [4, 3], 11)
    {1: 1, 0: 2}
    """
    best = np.zeros(room + 1)
    batches: list[tuple[int, int]] = []
    taken: list[np.ndarray] = []
    for at, value, most in things:
        most, size = min(most, room // takes[at]), 1
        while most > 0:
            n = min(size, most)
            need = n * takes[at]
            with_it = best[: room + 1 - need] + n * value
            better = np.zeros(room + 1, dtype=bool)
            np.greater(with_it, best[need:] + 1e-12, out=better[need:])
            best[need:] = np.maximum(best[need:], with_it)
            batches.append((at, n))
            taken.append(np.packbits(better))
            most -= n
            size *= 2
    counts: dict[int, int] = {}
    for (at, n), bits in zip(reversed(batches), reversed(taken), strict=True):
        if bits[room >> 3] >> (7 - (room & 7)) & 1:
            counts[at] = counts.get(at, 0) + n
            room -= n * takes[at]
    return counts
