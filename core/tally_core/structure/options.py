"""Rule U6: options that add quantities to a sheet and take others away."""

import numpy as np

from ..basics.errors import TallyError
from ..basics.kinds import LINE_KIND, LINE_KINDS
from ..basics.units import FACTORS, SYMBOLS
from .tables import LineTable, PartTable

__all__ = ["take_away"]

_EXACT_ENOUGH = 1e-9


def take_away(parts: PartTable, lines: LineTable, counts: np.ndarray, removing: np.ndarray) -> np.ndarray:
    """Rule U6: the quantities of all lines after the removing lines have taken theirs.

    Args:
        counts: bool over lines, those whose quantity counts under the basis.
        removing: bool over lines, those that remove under the basis.

    Returns:
        float64 over lines, in each line's own unit; zero where a line was removed whole.

    Each removing line takes its quantity of the same part from the same sheet, from its lines in list order, before
    any loss. It takes only from lines of its own kind and basis (per unit from per unit, per lot from per lot).
    Raises TallyError, naming the line, when it removes more than is there.
    """
    quantity = lines.quantity.copy()
    for row in np.flatnonzero(removing):
        same = (
            counts
            & (lines.parent == lines.parent[row])
            & (lines.child == lines.child[row])
            & (lines.kind == lines.kind[row])
            & (lines.per_lot == lines.per_lot[row])
        )
        left = lines.quantity[row]
        for source in np.flatnonzero(same):
            factor = FACTORS[lines.unit[row], lines.unit[source]]
            taken = min(quantity[source], left * factor)
            quantity[source] -= taken
            left -= taken / factor
            # Dust left behind by a unit conversion is neither a quantity nor an excess.
            if quantity[source] <= _EXACT_ENOUGH * lines.quantity[source]:
                quantity[source] = 0.0
            if left <= _EXACT_ENOUGH * lines.quantity[row]:
                left = 0.0
                break
        if left > 0:
            unit = SYMBOLS[lines.unit[row]]
            word = LINE_KIND[LINE_KINDS[lines.kind[row]]].word
            stand = np.flatnonzero(same)
            where = "items " + ", ".join(str(lines.item[i]) for i in stand) if len(stand) else f"no line with it as a {word} counts"
            raise TallyError(
                f"sheet {parts.numbers[lines.parent[row]]}, item {lines.item[row]}: the option removes "
                f"{lines.quantity[row]:g} {unit} of {parts.numbers[lines.child[row]]}, "
                f"{left:g} {unit} more than is there ({where})"
            )
    return quantity
