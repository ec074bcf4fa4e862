"""What is to be ordered (rules B1 and B2), against trying every amount."""

import unittest
from datetime import date, timedelta
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.structure.to_order import covered_on, order_step, to_order

TENTHS = st.integers(0, 200).map(lambda n: Decimal(n) / 10)
STEP = st.one_of(st.none(), st.integers(1, 60).map(lambda n: Decimal(n) / 10))


class Ordering(unittest.TestCase):
    @given(TENTHS, TENTHS, st.one_of(st.none(), TENTHS), STEP)
    @settings(deadline=None)
    def test_the_least_amount_that_can_be_bought_and_covers(
        self, need: Decimal, there: Decimal, minimum: Decimal | None, step: Decimal | None
    ) -> None:
        found = to_order(need, there, minimum, step)
        if need <= there:
            self.assertEqual(found, 0)
            return
        least = max(need - there, minimum or Decimal(0))
        if step is None:
            self.assertEqual(found, least)
            return
        tried = Decimal(0)
        while tried < least:
            tried += step
        self.assertEqual(found, tried)

    def test_dust_is_no_case(self) -> None:
        self.assertEqual(to_order(Decimal("100.0000000001"), Decimal(0), None, Decimal(50)), 100)
        self.assertEqual(to_order(Decimal("0.0000000001"), Decimal(0), Decimal(5), Decimal(50)), 0)

    @given(STEP, STEP)
    @settings(deadline=None)
    def test_a_step_is_a_multiple_of_all_it_has_to_be(self, case: Decimal | None, multiple: Decimal | None) -> None:
        found = order_step("m", "roll" if case else None, case, multiple, False)
        wanted = [x for x in (case, multiple) if x is not None]
        if not wanted:
            self.assertIsNone(found)
            return
        assert found is not None
        self.assertTrue(all(found % x == 0 for x in wanted))
        smaller = [found / n for n in range(2, 12) if all(found / n % x == 0 for x in wanted)]
        self.assertEqual(smaller, [], "the smallest of them")

    def test_how_parts_are_bought(self) -> None:
        """A dozen is twelve (UN/CEFACT Recommendation 20, DZN); what is weighed is bought in any amount."""
        self.assertEqual(order_step("ea", "dozen", None, None, True), 12)
        self.assertEqual(order_step("ea", "ea", None, None, True), 1)
        self.assertEqual(order_step("g", "kg", None, None, False), None)
        self.assertEqual(order_step("ea", "box", Decimal(40), Decimal(100), True), 200)
        self.assertEqual(order_step("ea", "box", Decimal(40), None, True), 40)
        self.assertIsNone(order_step("m", "furlong", None, None, False))

    @given(TENTHS, TENTHS, st.lists(st.tuples(st.integers(0, 20), TENTHS), max_size=6))
    @settings(deadline=None)
    def test_the_day_from_which_it_is_there(self, need: Decimal, on_hand: Decimal, coming: list[tuple[int, Decimal]]) -> None:
        first = date(2027, 1, 1)
        arriving = [(first + timedelta(days=n), quantity) for n, quantity in coming]
        found = covered_on(need, on_hand, arriving)
        if need <= on_hand:
            self.assertEqual(found, date.min)
            return
        days = [first + timedelta(days=n) for n in range(21)]
        there = {day: on_hand + sum(q for due, q in arriving if due <= day) for day in days}
        self.assertEqual(found, next((day for day in days if there[day] >= need), None))
