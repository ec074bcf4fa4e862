"""Edges of cutting and of what stands around a view: bounds that claim too much, patterns that are forgotten, places at a line.

Everything is worked out by hand or by trying everything.
"""

import itertools
import random
import unittest
from decimal import Decimal as D

import numpy as np
from tally_core.cuts.bars import _Bars, cut_bars
from tally_core.cuts.boards import cut_boards
from tally_core.cuts.stock import Panel, Piece, Stock
from tally_core.drawings.balloons import Box, slots_around
from tally_core.drawings.by_position import Group, in_rows, number_by_position


class Cutting(unittest.TestCase):
    def test_every_pattern_worth_so_much_is_found_and_no_other(self) -> None:
        """On it rests that a plan is proven: against all counts tried out."""
        for seed in range(60):
            r = random.Random(seed)
            lengths = [D(n) for n in r.sample(range(3, 30), r.randint(1, 4))]
            wanted = [r.randint(0, 4) for _ in lengths]
            bars = _Bars([D(r.randint(20, 60))], lengths, wanted, D(r.choice([0, 1])))
            duals = np.array([r.choice([0.0, 0.3, 0.5, 0.8]) for _ in lengths])
            least = r.choice([0.0, 0.4, 1.0, 1.7])
            room, takes = bars.room[0], bars.takes
            expected = set()
            for counts in itertools.product(*(range(n + 1) for n in bars.most(0, wanted))):
                left = room - sum(n * t for n, t in zip(counts, takes, strict=True))
                full = all(n >= most or t > left for n, t, most in zip(counts, takes, bars.most(0, wanted), strict=True))
                if left >= 0 and full and float(np.dot(counts, duals)) >= least - 1e-12:
                    expected.add(counts)
            found = bars.every(duals, 0, least)
            assert found is not None
            # What is worth just so much may be told either way by the last bit.
            sure = {p.counts for p in found if abs(float(np.dot(p.counts, duals)) - least) > 1e-9}
            self.assertEqual(sure, {c for c in expected if abs(float(np.dot(c, duals)) - least) > 1e-9}, seed)
            self.assertLessEqual({p.counts for p in found}, expected, seed)

    def test_what_a_bar_costs_does_not_change_how_it_is_cut(self) -> None:
        pieces = [Piece(f"p{n}", D(f"{731 + 213 * n}.{n}57"), 7) for n in range(8)]
        made = [cut_bars([Stock("bar", D("12000.001"), None, D(cost))], pieces, D("2.003")) for cost in ("1", "0.01", "250")]
        self.assertEqual([(m.count, m.proven, m.bound == m.cost) for m in made], [(made[0].count, True, True)] * 3)

    def test_a_kerf_is_not_lost_at_the_far_edges_of_a_board(self) -> None:
        """Four of 48 with three kerfs of 4 between take 4 × 48 + 3 × 4 = 204 along each side, and the bound knows it."""
        for stock, panel, count in (
            (Stock("board", D(204), D(204), D(1)), Panel("p", D(48), D(48), 16), 1),
            (Stock("board", D(100), D(48), D(1)), Panel("p", D(48), D(48), 2), 1),
            (Stock("board", D(100), D(47), D(1)), Panel("p", D(48), D(47), 4, "length"), 2),
        ):
            made = cut_boards([stock], [panel], D(4))
            self.assertEqual((made.count, made.bound, made.proven), (count, count, True))


class Places(unittest.TestCase):
    def test_a_row_holds_what_stands_just_so_far_off(self) -> None:
        self.assertEqual(in_rows({"a": (9, 0), "b": (1, 5)}, 5), ["b", "a"])
        self.assertEqual(in_rows({"a": (9, 0), "b": (1, 5.001)}, 5), ["a", "b"])

    def test_locked_numbers_of_what_stands_nowhere_stay_and_others_are_passed_over(self) -> None:
        groups = {"": Group(10, 10)}
        found = number_by_position({"a": (0, 0), "b": (9, 0)}, {}, groups, {"c": 20, "gone": 40}, 5, behind=("c", "d"), taken=(30,))
        self.assertEqual(found, {"a": 10, "b": 50, "d": 60, "c": 20})

    def test_as_many_rings_as_are_needed_and_no_more(self) -> None:
        box, paper = Box(150, 100, 60, 40), Box(0, 0, 420, 297)
        first = slots_around(box, 4, 1, paper)
        self.assertEqual(slots_around(box, 4, len(first), paper), first)
        self.assertGreater(len(slots_around(box, 4, len(first) + 1, paper)), len(first))

    def test_only_what_a_balloon_would_reach_into_is_blocked(self) -> None:
        """A balloon fills a square of its radius; the same places without and with what is blocked, told apart by squares."""
        box, paper, radius = Box(150, 100, 60, 40), Box(0, 0, 420, 297), 4.0
        free = slots_around(box, radius, 1, paper)
        for blocked in (Box(100, 80, 45, 30), Box(205, 130, 60, 60), Box(140, 70, 90, 22), Box(0, 118, 420, 4)):
            kept = slots_around(box, radius, 1, paper, [blocked])[: len(free)]
            for x, y in free:
                apart = (
                    x + radius <= blocked.x
                    or x - radius >= blocked.x + blocked.width
                    or y + radius <= blocked.y
                    or y - radius >= blocked.y + blocked.height
                )
                self.assertEqual((x, y) in kept, apart, (x, y, blocked))
