"""Units against Pint's own registry and the exact factors of NIST SP 811 and NIST Handbook 44."""

import itertools
import unittest
from decimal import Decimal

import numpy as np
import pint
from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.errors import UnitError
from tally_core.basics.rounding import decimal_text, round_up
from tally_core.basics.units import FACTORS, SYMBOLS, code, dimension, factor, is_count

#: What a symbol is called in Pint's registry, where it is not the same.
THEIRS = {
    "L": "liter",
    "mL": "milliliter",
    "gal": "gallon",
    "in": "inch",
    "ft": "foot",
    "m2": "meter**2",
    "mm2": "millimeter**2",
    "cm2": "centimeter**2",
    "ft2": "foot**2",
    "m3": "meter**3",
    "t": "metric_ton",
    "min": "minute",
    "h": "hour",
    "d": "day",
    "g": "gram",
    "s": "second",
}
COUNTS = {"ea": 1, "pair": 2, "dozen": 12, "hundred": 100}


class Units(unittest.TestCase):
    def test_every_factor_agrees_with_pint(self) -> None:
        registry: pint.UnitRegistry = pint.UnitRegistry(non_int_type=Decimal)
        for source, target in itertools.product([s for s in SYMBOLS if s not in COUNTS], repeat=2):
            theirs = [registry.parse_units(THEIRS.get(u, u)) for u in (source, target)]
            if registry.get_dimensionality(theirs[0]) != registry.get_dimensionality(theirs[1]):
                with self.assertRaises(UnitError):
                    factor(source, target)
                continue
            wanted = registry.Quantity(Decimal(1), theirs[0]).to(theirs[1]).magnitude
            self.assertLess(abs(factor(source, target) / Decimal(wanted) - 1), Decimal("1e-12"), (source, target))

    def test_exact_factors(self) -> None:
        """NIST SP 811, appendix B; gallon and ounce in the digits of NIST Handbook 44, appendix C, which does not round them."""
        for source, target, wanted in (
            ("in", "mm", "25.4"),
            ("ft", "m", "0.3048"),
            ("lb", "kg", "0.45359237"),
            ("gal", "L", "3.785411784"),
            ("oz", "g", "28.349523125"),
            ("ft2", "m2", "0.09290304"),
            ("t", "kg", "1000"),
            ("h", "min", "60"),
        ):
            self.assertEqual(factor(source, target), Decimal(wanted))

    def test_counts(self) -> None:
        for symbol, pieces in COUNTS.items():
            self.assertEqual(factor(symbol, "ea"), pieces)
            self.assertTrue(is_count(symbol))
        self.assertFalse(any(is_count(s) for s in SYMBOLS if s not in COUNTS))

    def test_there_and_back_is_one(self) -> None:
        self.assertTrue((np.isnan(FACTORS) == np.isnan(FACTORS.T)).all())
        both = FACTORS * FACTORS.T
        np.testing.assert_allclose(both[~np.isnan(both)], 1, rtol=1e-15)
        self.assertEqual([code(s) for s in SYMBOLS], list(range(len(SYMBOLS))))

    def test_what_does_not_convert_is_said_in_words(self) -> None:
        with self.assertRaises(UnitError) as caught:
            factor("mL", "m2")
        self.assertEqual(str(caught.exception), "mL is a volume and m2 is an area; they do not convert")
        for unknown in ("KG", "liter", "", "m 2"):
            with self.assertRaises(UnitError):
                dimension(unknown)


class Rounding(unittest.TestCase):
    @given(st.integers(0, 10**6), st.floats(0, 3e-13))
    @settings(deadline=None)
    def test_dust_is_not_a_piece_and_a_millionth_is(self, pieces: int, dust: float) -> None:
        """Rule N2."""
        self.assertEqual(round_up(pieces * (1 + dust)).item(), pieces)
        if pieces < 10**5:
            self.assertEqual(round_up(pieces + 1e-6).item(), pieces + 1)

    def test_half_even_where_a_figure_leaves(self) -> None:
        for value, wanted in (
            (0.0000005, "0.000000"),
            (0.0000015, "0.000002"),
            (2.5, "2.500000"),
            (-1e-9, "0.000000"),
            (1e11, "100000000000.000000"),
        ):
            self.assertEqual(decimal_text(value), wanted)
