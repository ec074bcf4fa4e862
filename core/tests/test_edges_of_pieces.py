"""Edges of pieces to cut, of whole cases, of balloons and of the block over a list, each worked by hand; found by ``./tally mutate``."""

import unittest
from datetime import date
from decimal import Decimal as D

from tally_core.basics.errors import TallyError
from tally_core.drawings.balloons import Box, crossings, slots_around
from tally_core.handover.three_way import compare_fields
from tally_core.lists.title_block import said_to_be_for
from tally_core.lists.titles import split_title
from tally_core.stated.cut_pieces import read_cut
from tally_core.structure.to_order import covered_on, order_step, to_order


class Pieces(unittest.TestCase):
    def test_a_bar_and_a_board_as_they_are_cut(self) -> None:
        self.assertEqual(read_cut("12 × 200").as_cut(), (200, None))
        self.assertEqual(read_cut("12 × 200, over 4").as_cut(), (204, None))
        board = read_cut("2 × 600 × 300, edges 1 2 4 8, over 16")
        self.assertEqual(board.edges, (1, 2, 4, 8))
        self.assertEqual(board.as_cut(), (600 - 4 - 8 + 16, 300 - 1 - 2 + 16))

    def test_what_cannot_be_cut(self) -> None:
        for text, why in (
            ("12", "write count"),
            ("1 × 2 × 3 × 4", "write count"),
            ("1.5 × 200", "whole number"),
            ("0 × 200", "whole number"),
            ("100001 × 200", "whole number"),
            ("1 × 200.0001", "three decimals"),
            ("1 × 1000001", "from 0"),
            ("1 × -5", "from 0"),
            ("1 × 0", "above 0"),
            ("1 × 5 × 3, edges 0 0 2 3", "above 0"),
            ("1 × 9 × 3, edges 1 2 0 0", "above 0"),
            ("1 × 200, grain length", "said of boards"),
            ("1 × 200, edges 1 1 1 1", "said of boards"),
        ):
            with self.subTest(text), self.assertRaisesRegex(TallyError, why):
                read_cut(text)
        self.assertEqual(read_cut("100000 × 1000000").count, 100_000)
        self.assertEqual(read_cut("1 × 200.001").length, D("200.001"))


class WholeCases(unittest.TestCase):
    def test_a_unit_that_is_bought_as_it_is_counted_is_no_case(self) -> None:
        self.assertIsNone(order_step("dozen", "dozen", None, None, False))
        self.assertIsNone(order_step("ea", None, None, None, False))
        self.assertEqual(order_step("ea", "dozen", None, None, False), 12)
        self.assertEqual(order_step("ea", None, None, D("2.5"), True), 5)

    def test_dust_is_neither_short_nor_uncovered(self) -> None:
        dust = D("1e-9")
        self.assertEqual(to_order(D(5) + dust, D(5), D(100), None), 0)
        self.assertEqual(to_order(D(5) + 2 * dust, D(5), D(100), None), 100)
        day = date(2027, 1, 1)
        self.assertEqual(covered_on(D(5) + dust, D(5), []), date.min)
        self.assertEqual(covered_on(D(7) + dust, D(5), [(day, D(2))]), day)
        self.assertIsNone(covered_on(D(7) + 2 * dust, D(5), [(day, D(2))]))


class Balloons(unittest.TestCase):
    def test_a_ring_has_its_corners_once_and_the_same_steps_on_either_side(self) -> None:
        """By hand, radius 1 around 10 × 30: the ring is 14.4 × 34.4, with 5 and 13 gaps: 2 × 6 and 2 × 12 places."""
        paper = Box(-100, -100, 300, 300)
        found = slots_around(Box(0, 0, 10, 30), 1, 1, paper)
        self.assertEqual((len(found), len(set(found))), (36, 36))
        left = sorted(y for x, y in found if x == min(p[0] for p in found))
        right = sorted(y for x, y in found if x == max(p[0] for p in found))
        self.assertEqual((len(left), left), (14, right))

    def test_leaders_that_touch_do_not_cross(self) -> None:
        bar, across = ((0, 0), (4, 0)), ((2, -1), (2, 1))
        self.assertEqual(crossings([bar, across]), [(0, 1)])
        for end in (((2, 0), (2, 1)), ((2, 1), (2, 0)), ((0, 0), (0, 1)), ((4, 0), (5, 0))):
            self.assertEqual(crossings([bar, end]), [], end)
            self.assertEqual(crossings([end, bar]), [], end)


class Titles(unittest.TestCase):
    def test_one_field_said_twice_is_one(self) -> None:
        self.assertEqual(split_title("Part No / Article No"), ["part"])


class Sides(unittest.TestCase):
    def test_a_field_that_one_side_knows_is_compared(self) -> None:
        found = compare_fields(None, {"a": 1, "c": 3}, {"b": 2, "c": 3})
        self.assertEqual([(f.name, f.ours, f.theirs) for f in found], [("a", 1, None), ("b", None, 2)])


class TitleBlock(unittest.TestCase):
    def test_what_a_list_is_for(self) -> None:
        self.assertEqual(said_to_be_for([["Date", "2026"], ["Title", "Lamp"]], 2, "KP-10.csv"), ("KP-10", "Lamp"))
        self.assertEqual(said_to_be_for([["Title", "Lamp"], ["Name", "Other"]], 2, "x 1")[1], "Lamp")
        self.assertEqual(said_to_be_for([["Title", "L" * 200]], 1, "x")[1], "L" * 200)
        self.assertEqual(said_to_be_for([["Title", "L" * 201], ["Name", "Lamp"]], 2, "x")[1], "Lamp")
        self.assertEqual(said_to_be_for([], 0, "in/of/KP-10.7.csv")[0], "KP-10.7")
        self.assertEqual(said_to_be_for([], 0, "in\\KP-11.csv")[0], "KP-11")
