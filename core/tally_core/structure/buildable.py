"""Rule W7: how many can be built from what is there."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from .net_needs import net_needs
from .structure import Structure

__all__ = ["Buildable", "buildable", "shortages"]

#: More than anybody builds: above it nothing limits.
_MOST = 1e12
#: Probes along tangents at most.
_TANGENTS = 12


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
    wanted = np.zeros(len(structure.parts))
    wanted[top] = quantity
    return net_needs(structure, wanted, free).lacks


def buildable(structure: Structure, top: int, free: np.ndarray) -> Buildable:
    """Rule W7: the largest quantity whose needs, taken through sub-assemblies on stock first, are covered by what is free.

    Args:
        free: over parts, what is on hand and not reserved, in the part's stock unit.

    A part counted in whole units is built in whole units; any other to six decimals.
    """
    whole = bool(structure.parts.whole_only[top])
    step = 1.0 if whole else 1e-7
    least, most = 0.0, _MOST
    lacks = shortages(structure, top, most, free)
    if not lacks.any():
        return Buildable(np.inf, np.zeros(len(structure.parts)))

    def enough(quantity: float) -> bool:
        return not shortages(structure, top, quantity, free).any()

    def on_grid(quantity: float) -> float:
        return float(np.floor(quantity)) if whole else quantity

    for _ in range(_TANGENTS):
        probe = max(on_grid(_root(structure, top, free, most, lacks)), 0.0)
        found = shortages(structure, top, probe, free)
        if not found.any():
            least = probe
            break
        gained = most - probe
        most, lacks = probe, found
        if gained <= most * 1e-4:
            break
    # What is rounded up to whole pieces moves it a little to either side: steps that grow find the other end, halves the rest.
    width = max(step, on_grid(most * 1e-7))
    if least > 0.0:
        while least + width < most and enough(least + width):
            least += width
            width *= 16
        most = min(least + width, most)
    else:
        while most - width > 0.0 and not enough(most - width):
            most -= width
            width *= 16
        least = max(most - width, 0.0)
    while most - least > step:
        middle = on_grid((least + most) / 2)
        least, most = (middle, most) if enough(middle) else (least, middle)
    # What is covered exactly is covered: the search comes to it from below.
    quantity = least if whole else _rounded(least, enough)
    return Buildable(quantity, shortages(structure, top, quantity + 1.0, free))


def _root(structure: Structure, top: int, free: np.ndarray, most: float, lacks: np.ndarray) -> float:
    """Where the first shortage ends if it goes on as it does just below ``most``: what is lacking grows ever faster, so a tangent comes to it
    from above, but for what is rounded up to whole pieces."""
    below = shortages(structure, top, most * (1.0 - 1e-3), free)
    slope = (lacks - below) / (most * 1e-3)
    rows = np.flatnonzero((lacks > 0) & (slope > 0))
    return float((most - lacks[rows] / slope[rows]).min()) if rows.size else 0.0


def _rounded(least: float, enough: Callable[[float], bool]) -> float:
    above = round(least, 6)
    return above if enough(above) else float(np.floor(least * 1e6) / 1e6)
