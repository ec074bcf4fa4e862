"""What stands together in the element *other*: charges and markups of all levels, each told by the part that it comes from."""

import numpy as np

from ..basics.elements import AT
from ..structure.needs import taken_in_one
from ..structure.structure import Structure
from .cost import Costs, Fixed, rolls, splits_given

__all__ = ["other_charges"]


def other_charges(structure: Structure, costs: Costs, top: int, fixed: Fixed | None = None) -> tuple[np.ndarray, np.ndarray]:
    """How much of each part counts in one unit of ``top``, and the charge or markup of its own that stands in one of it.

    Both over parts; their products add up to the element *other* of ``top`` (C1, C2, C5). What a part does not put together itself, a standard or a cost given by hand, stands with that part whole. What of a charge is
    wasted stands in the element *scrap*, as with anything.
    """
    s, at = structure, AT["other"]
    split = splits_given(s, fixed)
    made = rolls(s, fixed) | split
    counts = ~s.free & ~s.byproduct & made[s.parent]
    net = np.where(counts, s.net(costs.lots), 0.0)
    # A cost given by hand in the proportion of its roll-up passes on that much of what it takes.
    passes = np.ones(len(s.parts))
    if split.any():
        taken = np.bincount(s.parent, weights=net * costs.unit[s.child, at], minlength=len(passes))
        lower = costs.lower_levels[:, at]
        passes = np.where(split & (taken != 0.0), lower / np.where(taken != 0.0, taken, 1.0), passes)
    share = taken_in_one(s, top, net * passes[s.parent])
    return share, np.where(made, costs.this_level[:, at], costs.unit[:, at])
