"""Rule C6: a field that rolls up over the structure, like mass: its sum, its largest, or its worst."""

from dataclasses import dataclass

import numpy as np

from ..basics.kinds import PART_KIND
from .structure import Structure

__all__ = ["RolledField", "counts_in_fields", "roll_up_field"]

#: Over the codes of part kinds: a charge is paid for and is no thing, so it has no mass and nothing of the kind.
_IS_THING = np.array([kind.stocked or not kind.itself for kind in PART_KIND.values()])


@dataclass(slots=True)
class RolledField:
    """A field over the parts of a structure.

    Attributes:
        value: float64, for one stock unit of each part; NaN where nothing is known.
        partial: bool; something that goes in says nothing, so that a sum is at least as much.
        stands: bool; the part states a value, which stands instead of what its sheet would make of it.
    """

    value: np.ndarray
    partial: np.ndarray
    stands: np.ndarray


def counts_in_fields(structure: Structure, lots: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Over usages: the net quantity for one unit of the parent (U2), and whether the usage counts.

    What is given back, a charge, and what goes in with nothing count for nothing; what the customer supplies goes in.
    """
    s = structure
    net = s.net(lots)
    return net, ~s.byproduct & (net > 0.0) & _IS_THING[s.parts.kind[s.child]]


def roll_up_field(structure: Structure, lots: np.ndarray, how: str, stated: np.ndarray) -> RolledField:
    """Rule C6 for every part, deepest level first.

    Args:
        lots: over parts; they matter to lines that take so much per lot.
        how: ``sum`` (net quantity per unit × value), ``largest``, or ``worst``, which is the largest place in an ordered choice.
        stated: float64 over parts, what each part says of itself for one stock unit; NaN where it says nothing.
    """
    s = structure
    net, counts = counts_in_fields(s, lots)
    stands = ~np.isnan(stated)
    value, partial = stated.copy(), np.isnan(stated)
    for a, b in zip(s.level_start[-2::-1], s.level_start[:0:-1], strict=True):
        rows = np.arange(s.usage_start[a], s.usage_start[b])
        rows = rows[counts[rows] & ~stands[s.parent[rows]]]
        if not rows.size:
            continue
        parent, child = s.parent[rows], s.child[rows]
        partial[parent] = False
        np.logical_or.at(partial, parent, partial[child])
        known = ~np.isnan(value[child])
        parent, below = parent[known], value[child[known]]
        if how == "sum":
            value[parent] = 0.0
            np.add.at(value, parent, net[rows[known]] * below)
        else:
            value[parent] = -np.inf
            np.maximum.at(value, parent, below)
    return RolledField(value, partial & _IS_THING[s.parts.kind], stands)
