"""A run time computed from fields of the part that is made: bends, metres that are cut, and what else is known of it."""

from collections.abc import Mapping
from decimal import Decimal
from math import isfinite

from .classes import evaluate

__all__ = ["OF_SHAPE", "run_minutes"]

#: What a part's model says of it and may stand in an expression: lengths in millimetres, and counts. Flat sizes are those of a part bent from sheet.
OF_SHAPE = ("bends", "cutouts", "cut_length_mm", "thickness_mm", "flat_length_mm", "flat_width_mm", "volume_mm3", "surface_mm2")
_STEP = Decimal("0.000001")


def run_minutes(expression: str, known: Mapping[str, float | str]) -> Decimal:
    """Minutes, to a millionth. Raises ValueError, in words, where the expression gives none.

    >>> run_minutes("0.2 + bends * 0.15 + cut_length_mm / 1000 * 0.8", {"bends": 4, "cut_length_mm": 1250})
    Decimal('1.8')
    """
    found = evaluate(expression, known)
    if isinstance(found, str | bool):
        raise ValueError("a run time is a number of minutes")
    if not isfinite(found) or not 0 <= found < 1e9:
        raise ValueError(f"{found:g} minutes are no run time")
    return Decimal(repr(float(found))).quantize(_STEP).normalize() + 0
