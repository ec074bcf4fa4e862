"""Rule W7: how many can be built from what is there."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from .net_needs import net_needs
from .structure import Structure

__all__ = ["Buildable", "buildable", "shortages"]

#: More than anybody builds: above it nothing limits.
_MOST = 1e12


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
