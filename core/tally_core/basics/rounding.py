"""Rounding: up to whole pieces (rule N2), and half-even where a figure leaves the core."""

from decimal import ROUND_HALF_EVEN, Decimal

import numpy as np

from .errors import TallyError

__all__ = ["decimal_of", "decimal_text", "millionths", "round_up"]

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


_QUANTA = tuple(Decimal(1).scaleb(-places) for places in range(16))


def decimal_of(value: float, places: int = 6) -> Decimal:
    """A figure as it leaves the core, rounded half-even to at most 15 places.

    >>> decimal_of(9.1), decimal_of(-0.0000001)
    (Decimal('9.100000'), Decimal('0.000000'))
    """
    # repr gives the shortest decimal that is this float, so that 0.0000005 rounds as the user would round it.
    rounded = Decimal(repr(float(value))).quantize(_QUANTA[places], ROUND_HALF_EVEN)
    return rounded or abs(rounded)


def decimal_text(value: float, places: int = 6) -> str:
    """:func:`decimal_of` as text.

    >>> decimal_text(9.1), decimal_text(-0.0000001)
    ('9.100000', '0.000000')
    """
    return f"{decimal_of(value, places):f}"


def millionths(parts: np.ndarray, total: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Round a sum and what it is made of to six decimals so that both still agree.

    Args:
        parts: float64 of shape (N, K).
        total: float64 of shape (N,); the sums of the rows of ``parts``, give or take float dust.

    Returns:
        int64 millionths of shapes (N, K) and (N,). What rounding leaves over goes to the largest of its row; a row of
        zeros stays one.

    Raises TallyError for a figure that is too large to be kept (above some 9 · 10¹²).

    >>> a, b = millionths(np.array([[1 / 3, 1 / 3, 1 / 3]]), np.array([1.0]))
    >>> a.tolist(), b.tolist()
    ([[333334, 333333, 333333]], [1000000])
    """
    with np.errstate(invalid="ignore"):
        if not (np.abs(parts) < 9e12).all() or not (np.abs(total) < 9e12).all():
            raise TallyError("A cost is too large to be kept; look for a price or a quantity of the wrong size.")
    rounded = np.rint(parts * 1e6).astype(np.int64)
    whole = np.rint(total * 1e6).astype(np.int64)
    rows = np.flatnonzero(rounded.sum(axis=1) != whole)
    if rows.size:
        left = whole[rows] - rounded[rows].sum(axis=1)
        rounded[rows, np.abs(parts[rows]).argmax(axis=1)] += left
    return rounded, whole
