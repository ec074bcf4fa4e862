"""Rule W7: how many can be built from what is there."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..basics.kinds import IS_ITSELF, PART_KIND, TAKES_SHEET
from ..basics.rounding import round_up
from .structure import Structure

__all__ = ["Buildable", "buildable", "shortages"]

_STOCKED = np.array([kind.stocked for kind in PART_KIND.values()])
#: A charge is never lacking.
_LIMITS = _STOCKED | TAKES_SHEET
#: More than anybody builds: above it nothing limits.
_MOST = 1e12
_DUST = 1e-11


@dataclass(slots=True)
class Buildable:
    """``quantity`` of the top part, in its stock unit; infinite where nothing that is kept in stock goes into it.

    ``short`` is, over parts, what one more would lack.
    """

    quantity: float
    short: np.ndarray


def shortages(structure: Structure, top: int, quantity: float, free: np.ndarray) -> np.ndarray:
    """Over parts: what a job of ``quantity`` lacks, in the part's stock unit.

    Sub-assemblies are taken from stock first, and only what is left of them is made; a made part lacks something itself only
    where no sheet says how to make it. The top's own stock is left alone, and what the customer supplies is not looked for.
    """
    s, parts = structure, structure.parts
    need = np.zeros(len(parts))
    need[top] = quantity
    lacks = np.zeros(len(parts))
    whole = parts.whole_only & IS_ITSELF[parts.kind]
    there = np.where(_STOCKED[parts.kind], np.maximum(free, 0.0), 0.0)
    there[top] = 0.0
    asks = ~s.byproduct & ~s.free
    made = np.isfinite(parts.batch)
    for a, b in zip(s.level_start[:-1], s.level_start[1:], strict=True):
        rows = s.order[a:b]
        left = np.maximum(need[rows] - there[rows], 0.0)
        left[left <= _DUST * np.maximum(1.0, need[rows])] = 0.0
        left = np.where(whole[rows], round_up(left), left)
        lot = np.zeros(len(parts))
        lot[rows] = np.where(made[rows], left, 0.0)
        lacks[rows] = np.where(~made[rows] & _LIMITS[parts.kind[rows]], left, 0.0)
        usages = np.arange(s.usage_start[a], s.usage_start[b])
        usages = usages[asks[usages] & (lot[s.parent[usages]] > 0)]
        taken = s.gross_per_unit[usages] * lot[s.parent[usages]] + s.gross_per_lot[usages]
        need += np.bincount(s.child[usages], weights=taken, minlength=len(parts))
    return lacks


def buildable(structure: Structure, top: int, free: np.ndarray) -> Buildable:
    """Rule W7: the largest quantity whose needs, taken through sub-assemblies on stock first, are covered by what is free.

    Args:
        free: over parts, what is on hand and not reserved, in the part's stock unit.

    A part counted in whole units is built in whole units; any other to six decimals.
    """
    whole = bool(structure.parts.whole_only[top])

    def enough(quantity: float) -> bool:
        return not shortages(structure, top, quantity, free).any()

    if enough(_MOST):
        return Buildable(np.inf, np.zeros(len(structure.parts)))
    least, most = 0.0, 1.0
    while enough(most):
        least, most = most, most * 2
    step = 1.0 if whole else 1e-7
    while most - least > step:
        middle = float((least + most) // 2) if whole else (least + most) / 2
        least, most = (middle, most) if enough(middle) else (least, middle)
    # What is covered exactly is covered: the search comes to it from below.
    quantity = least if whole else _rounded(least, enough)
    return Buildable(quantity, shortages(structure, top, quantity + 1.0, free))


def _rounded(least: float, enough: Callable[[float], bool]) -> float:
    above = round(least, 6)
    return above if enough(above) else float(np.floor(least * 1e6) / 1e6)
