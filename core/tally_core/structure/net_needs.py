"""Rule B1 over a structure: what several builds take of every part, less what is there."""

from dataclasses import dataclass

import numpy as np

from ..basics.kinds import IS_ITSELF, PART_KIND, TAKES_SHEET
from ..basics.rounding import round_up
from .structure import Structure

__all__ = ["NetNeeds", "net_needs"]

_STOCKED = np.array([kind.stocked for kind in PART_KIND.values()])
#: A charge is never lacking.
_BOUGHT = _STOCKED | TAKES_SHEET
_DUST = 1e-11


@dataclass(slots=True)
class NetNeeds:
    """Arrays over parts, each in the part's stock unit.

    ``gross``: what is asked for. ``taken``: what of it is there. ``left``: what of it must be made or bought, whole where the part is
    counted in whole units. ``lacks``: ``left`` of what no sheet says how to make.
    """

    gross: np.ndarray
    taken: np.ndarray
    left: np.ndarray
    lacks: np.ndarray


def net_needs(structure: Structure, wanted: np.ndarray, free: np.ndarray) -> NetNeeds:
    """Rules N1 and B1 for building ``wanted`` of each part together.

    Args:
        wanted: over parts, how many are built; what is on stock of them is left alone.
        free: over parts, what is there for it.

    Sub-assemblies are taken from what is there first, and only what is left of them is made. What the customer supplies is not looked
    for, and by-products serve nothing (N3).
    """
    s, parts = structure, structure.parts
    count = len(parts)
    gross, taken, left, lacks = wanted.astype(float), np.zeros(count), np.zeros(count), np.zeros(count)
    whole = parts.whole_only & IS_ITSELF[parts.kind]
    there = np.where(_STOCKED[parts.kind], np.maximum(free, 0.0), 0.0)
    asks = ~s.byproduct & ~s.free
    made = np.isfinite(parts.batch)
    for a, b in zip(s.level_start[:-1], s.level_start[1:], strict=True):
        rows = s.order[a:b]
        taken[rows] = np.minimum(gross[rows] - wanted[rows], there[rows])
        rest = gross[rows] - taken[rows]
        rest[rest <= _DUST * np.maximum(1.0, gross[rows])] = 0.0
        left[rows] = np.where(whole[rows], round_up(rest), rest)
        lacks[rows] = np.where(~made[rows] & _BOUGHT[parts.kind[rows]], left[rows], 0.0)
        usages = np.arange(s.usage_start[a], s.usage_start[b])
        lot = np.where(made, left, 0.0)
        usages = usages[asks[usages] & (lot[s.parent[usages]] > 0)]
        used = s.gross_per_unit[usages] * lot[s.parent[usages]] + s.gross_per_lot[usages]
        gross += np.bincount(s.child[usages], weights=used, minlength=count)
    return NetNeeds(gross, taken, left, lacks)
