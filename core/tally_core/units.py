"""Units of measure and the factors between them.

The factors come from Pint, over a registry that holds only the units a bill of materials uses, in exact decimals
(1 in = 25.4 mm, 1 lb = 0.45359237 kg, 1 US gal = 3.785411784 L: NIST SP 811, and Handbook 44 for the gallon).
"""

from decimal import Decimal
from functools import cache

import numpy as np
import pint

from .errors import UnitError

__all__ = ["FACTORS", "SYMBOLS", "code", "dimension", "factor", "is_count"]

_DEFINITIONS = """
ea = [count]
pair = 2 * ea
dozen = 12 * ea
hundred = 100 * ea
g = [mass]
mg = 0.001 * g
kg = 1000 * g
t = 1000000 * g
lb = 453.59237 * g
oz = 28.349523125 * g
m = [length]
mm = 0.001 * m
cm = 0.01 * m
km = 1000 * m
in = 0.0254 * m
ft = 0.3048 * m
m2 = m ** 2
mm2 = 0.000001 * m2
cm2 = 0.0001 * m2
ft2 = 0.09290304 * m2
m3 = m ** 3
L = 0.001 * m3
mL = 0.000001 * m3
gal = 0.003785411784 * m3
min = [time]
s = min / 60
h = 60 * min
d = 1440 * min
"""

# Pint's parser takes none of its own prefixes here, so every symbol is one of these and nothing else.
_registry: pint.UnitRegistry = pint.UnitRegistry(
    None, non_int_type=Decimal, auto_reduce_dimensions=False, cache_folder=None
)
for _line in _DEFINITIONS.strip().splitlines():
    _registry.define(_line)

#: Every unit symbol in the order in which it is offered, the more common first. The order is part of no stored format.
SYMBOLS: tuple[str, ...] = (
    "ea", "pair", "dozen", "hundred", "kg", "g", "m", "mm", "cm", "km", "in", "ft", "m2", "mm2", "cm2", "ft2",
    "L", "mL", "m3", "gal", "mg", "t", "lb", "oz", "h", "min", "s", "d",
)  # fmt: skip
_CODES = {symbol: index for index, symbol in enumerate(SYMBOLS)}

_NAMES = {
    "[count]": "a count",
    "[mass]": "a mass",
    "[length]": "a length",
    "[length] ** 2": "an area",
    "[length] ** 3": "a volume",
    "[time]": "a time",
}


def code(symbol: str) -> int:
    """The index of a unit symbol in :data:`SYMBOLS`. Raises UnitError for an unknown one.

    >>> SYMBOLS[code("kg")]
    'kg'
    """
    try:
        return _CODES[symbol]
    except KeyError:
        raise UnitError(f"unit {symbol!r} is not known; use one of {', '.join(SYMBOLS)}") from None


@cache
def dimension(symbol: str) -> str:
    """What a unit measures, in words.

    >>> dimension("mL")
    'a volume'
    """
    code(symbol)
    return _NAMES[str(_registry.get_dimensionality(symbol))]


@cache
def factor(source: str, target: str) -> Decimal:
    """How many ``target`` one ``source`` is. Raises UnitError when they do not convert.

    >>> factor("in", "mm")
    Decimal('25.4')
    >>> factor("kg", "m")
    Traceback (most recent call last):
    tally_core.errors.UnitError: kg is a mass and m is a length; they do not convert
    """
    code(source), code(target)
    if dimension(source) != dimension(target):
        raise UnitError(f"{source} is {dimension(source)} and {target} is {dimension(target)}; they do not convert")
    return Decimal(_registry.convert(Decimal(1), source, target)).normalize()


def is_count(symbol: str) -> bool:
    """Whether a part in this unit is counted in pieces, and so in whole numbers unless told otherwise.

    >>> is_count("dozen"), is_count("kg")
    (True, False)
    """
    return dimension(symbol) == "a count"


def _factors() -> np.ndarray:
    table = np.full((len(SYMBOLS), len(SYMBOLS)), np.nan)
    for i, source in enumerate(SYMBOLS):
        for j, target in enumerate(SYMBOLS):
            if dimension(source) == dimension(target):
                table[i, j] = float(factor(source, target))
    return table


#: ``FACTORS[i, j]``: how many of unit j one of unit i is; NaN where they do not convert.
FACTORS = _factors()
