"""Loops among sheets that can be in force together, on any day."""

from collections.abc import Sequence
from datetime import date

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..basics.ordering import find_loop
from .effectivity import Candidate, choose_sheets, in_force

__all__ = ["Edge", "find_loop_in_force"]

#: (sheet key, child part row, first day, last day) of a line that counts something.
Edge = tuple[int, int, date | None, date | None]


def find_loop_in_force(numbers: Sequence[str], sheets: Sequence[Candidate], edges: Sequence[Edge]) -> list[str] | None:
    """The part numbers around a loop that exists on some day, the first repeated at the end; None without one.

    Two revisions of a part are never in force together, so a loop that needs both is none. Every alternate counts,
    and drafts count, as they would with drafts in the basis.

    >>> a = [Candidate(0, 0, "A", "A", "draft", None, None), Candidate(1, 1, "A", "A", "draft", None, None)]
    >>> find_loop_in_force(["P", "Q"], a, [(0, 1, None, None), (1, 0, None, None)])
    ['P', 'Q', 'P']
    """
    count = len(numbers)
    part_of = {sheet.key: sheet.part for sheet in sheets}
    parent = np.array([part_of[key] for key, *_ in edges], dtype=np.int64)
    child = np.array([to for _, to, *_ in edges], dtype=np.int64)
    if not parent.size:
        return None
    graph = coo_array((np.ones(len(parent)), (parent, child)), shape=(count, count)).tocsr()
    _, label = connected_components(graph, directed=True, connection="strong")
    inside = label[parent] == label[child]
    if not inside.any():
        return None
    # Only now, and only for the parts that hang together, does it matter which sheets meet on a day.
    tangled = [edge for edge, keep in zip(edges, inside, strict=True) if keep]
    keys = {key for key, *_ in tangled}
    ways: dict[tuple[int, str], int] = {}
    rivals = [
        Candidate(s.key, ways.setdefault((s.part, s.alternate), len(ways)), "A", s.revision, s.status, s.effective_from, s.effective_to)
        for s in sheets
        if any(part_of[key] == s.part for key in keys)
    ]
    days = {d for s in rivals for d in (s.effective_from, s.effective_to) if d}
    days |= {d for _, _, first, last in tangled for d in (first, last) if d}
    for day in sorted(days | {date.min}):
        for drafts in (False, True):
            chosen = set(choose_sheets(rivals, day, drafts).values())
            meets = [(part_of[key], to) for key, to, first, last in tangled if key in chosen and in_force(day, first, last)]
            if meets:
                ends = np.array(meets)
                loop = find_loop(count, ends[:, 0], ends[:, 1])
                if loop is not None:
                    return [numbers[i] for i in loop]
    return None
