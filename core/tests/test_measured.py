"""Measured run times against Python's statistics module."""

import statistics
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.time.measured import measured_run


class Measured(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.integers(1, 10_000), st.integers(1, 500)), min_size=1, max_size=30),
        st.sampled_from([50.0, 80.0, 100.0, 125.0]),
    )
    @settings(max_examples=60, deadline=None)
    def test_against_the_statistics_module(self, orders: list[tuple[int, int]], efficiency: float) -> None:
        """Of what a plan at that efficiency would have to state to come out as measured (rule C3 turned round)."""
        for basis, times in (("per_unit", lambda q: q), ("per_lot", lambda q: 1), ("per_cycle", lambda q: -(-q // 7))):
            each = [minutes / times(quantity) * efficiency / 100 for minutes, quantity in orders]
            found = measured_run(orders, basis, 7.0, efficiency)
            self.assertAlmostEqual(found.run_minutes, statistics.fmean(each), places=6)
            if len(each) > 1:
                self.assertAlmostEqual(found.spread or 0.0, statistics.stdev(each), places=5)

    def test_nine_decimals(self) -> None:
        self.assertEqual(measured_run([(100, 3)], "per_unit", None, 100.0).run_minutes, 33.333333333)
        self.assertEqual(measured_run([(100, 3), (100, 3)], "per_unit", None, 100.0).by_quantity, 33.333333333)
        self.assertEqual(measured_run([(100, 3)], "per_unit", None, 100.0).each, (33.333333333,))

    def test_no_orders_have_no_mean(self) -> None:
        with self.assertRaisesRegex(ValueError, "no finished orders"):
            measured_run([], "per_unit", None, 100.0)
