"""Rounding: up to whole pieces (rule N2), and half-even where a figure leaves the core."""

from decimal import ROUND_HALF_EVEN, Decimal

import numpy as np

__all__ = ["decimal_text", "round_up"]

# Sums of a few hundred float64 terms stray by some 1e-13 of their size; a real fraction that a user can type
# (six decimals) is far larger than this.
_DUST = 1e-12


def round_up(value: np.ndarray | float) -> np.ndarray:
    """Rule N2: the next whole number, but float dust above a whole number is not a piece.

    >>> round_up(3.0000000000004).item(), round_up(3.000001).item()
    (3.0, 4.0)
    """
    value = np.asarray(value, dtype=float)
    return np.ceil(value - _DUST * np.maximum(1.0, np.abs(value)))


def decimal_text(value: float, places: int = 6) -> str:
    """A figure as it leaves the core: decimal text, rounded half-even.

    >>> decimal_text(9.1), decimal_text(-0.0000001)
    ('9.100000', '0.000000')
    """
    # repr gives the shortest decimal that is this float, so that 0.0000005 rounds as the user would round it.
    rounded = Decimal(repr(float(value))).quantize(Decimal(1).scaleb(-places), ROUND_HALF_EVEN)
    return f"{abs(rounded) if rounded == 0 else rounded:f}"
