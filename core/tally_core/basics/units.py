"""Units of measure and the factors between them.

Factors are exact: 1 in = 25.4 mm, 1 lb = 0.45359237 kg (NIST SP 811), 1 US gal = 3.785411784 L, 1 oz = 28.349523125 g (NIST
Handbook 44). A table of our own, since a package that parses units takes longer to load than a cost to compute; the tests hold it
against that package.
"""

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import cache

import numpy as np

from .errors import UnitError

__all__ = ["FACTORS", "SYMBOLS", "code", "dimension", "factor", "in_base", "is_count"]


@dataclass(frozen=True, slots=True)
class _Unit:
    measures: str  # in words
    in_base: Fraction  # how many of the base unit of what it measures


def _of(measures: str, **in_base: str) -> dict[str, _Unit]:
    return {symbol: _Unit(measures, Fraction(text)) for symbol, text in in_base.items()}


_UNITS = (
    _of("a count", ea="1", pair="2", dozen="12", hundred="100")
    | _of("a mass", g="1", mg="1/1000", kg="1000", t="1000000", lb="453.59237", oz="28.349523125")
    | _of("a length", m="1", mm="1/1000", cm="1/100", km="1000", ft="0.3048", **{"in": "0.0254"})
    | _of("an area", m2="1", mm2="1/1000000", cm2="1/10000", ft2="0.09290304")
    | _of("a volume", m3="1", L="1/1000", mL="1/1000000", gal="0.003785411784")
    | _of("a time", s="1", min="60", h="3600", d="86400")
)

#: Every unit symbol in the order in which it is offered, the more common first. The order is part of no stored format.
SYMBOLS: tuple[str, ...] = (
    "ea", "pair", "dozen", "hundred", "kg", "g", "m", "mm", "cm", "km", "in", "ft", "m2", "mm2", "cm2", "ft2",
    "L", "mL", "m3", "gal", "mg", "t", "lb", "oz", "h", "min", "s", "d",
)  # fmt: skip
_CODES = {symbol: index for index, symbol in enumerate(SYMBOLS)}


def code(symbol: str) -> int:
    """The index of a unit symbol in :data:`SYMBOLS`. Raises UnitError for an unknown one.

    >>> SYMBOLS[code("kg")]
    'kg'
    """
    try:
        return _CODES[symbol]
    except KeyError:
        raise UnitError(f"unit {symbol!r} is not known; use one of {', '.join(SYMBOLS)}") from None


def dimension(symbol: str) -> str:
    """What a unit measures, in words.

    >>> dimension("mL")
    'a volume'
    """
    code(symbol)
    return _UNITS[symbol].measures


@cache
def factor(source: str, target: str) -> Decimal:
    """How many ``target`` one ``source`` is. Raises UnitError when they do not convert.

    >>> factor("in", "mm")
    Decimal('25.4')
    >>> factor("kg", "m")
    Traceback (most recent call last):
    tally_core.basics.errors.UnitError: kg is a mass and m is a length; they do not convert
    """
    code(source), code(target)
    if dimension(source) != dimension(target):
        raise UnitError(f"{source} is {dimension(source)} and {target} is {dimension(target)}; they do not convert")
    exact = _UNITS[source].in_base / _UNITS[target].in_base
    return (Decimal(exact.numerator) / Decimal(exact.denominator)).normalize()


def in_base(quantity: Decimal, symbol: str) -> tuple[str, Fraction]:
    """An amount as what it measures, and exactly how much of the base unit of that: the same for the same amount in any unit.

    >>> in_base(Decimal(500), "mm") == in_base(Decimal("0.5"), "m")
    True
    """
    return dimension(symbol), Fraction(quantity) * _UNITS[symbol].in_base


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
                table[i, j] = float(_UNITS[source].in_base / _UNITS[target].in_base)
    return table


#: ``FACTORS[i, j]``: how many of unit j one of unit i is; NaN where they do not convert.
FACTORS = _factors()
