"""Edges of pieces to cut, of whole cases, of balloons and of the block over a list, each worked by hand; found by ``./tally mutate``."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal as D

from tally_core.basics.errors import TallyError
from tally_core.drawings.balloons import Box, crossings, slots_around
from tally_core.handover.comparing import Of, compare_definitions
from tally_core.handover.three_way import compare_fields
from tally_core.lists.placements import MILLIMETRES
from tally_core.lists.title_block import said_to_be_for
from tally_core.lists.titles import ListTable, split_title
from tally_core.pairing.values import AWG, MULTIPLES
from tally_core.stated.cut_pieces import read_cut
from tally_core.stated.definition import Definition, Line, MakerNumber, Part, Sheet
from tally_core.structure.to_order import covered_on, order_step, to_order

DAY = date(2026, 11, 26)


class Pieces(unittest.TestCase):
    def test_a_bar_and_a_board_as_they_are_cut(self) -> None:
        self.assertEqual(read_cut("12 × 200").as_cut(), (200, None))
        self.assertEqual(read_cut("12 × 200, over 4").as_cut(), (204, None))
        board = read_cut("2 × 600 × 300, edges 1 2 4 8, over 16")
        self.assertEqual(board.edges, (1, 2, 4, 8))
        self.assertEqual(board.as_cut(), (600 - 4 - 8 + 16, 300 - 1 - 2 + 16))

    def test_the_smallest_sides(self) -> None:
        self.assertEqual((read_cut("1 × 1 × 1").length, read_cut("1 × 0.5").length), (1, D("0.5")))

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
    def test_two_rows_of_titles_may_be_all_there_is(self) -> None:
        table = ListTable([["Part", "Total"], ["number", "quantity"]])
        self.assertEqual((table.header, sorted(table.columns)), (1, ["part", "quantity"]))
        self.assertEqual(list(table.body()), [])

    def test_what_stands_alone_in_its_row_is_a_heading_of_a_section(self) -> None:
        table = ListTable([["Part", "Qty"], ["Screws and nuts", ""], ["NUT", "4"], ["WASHER", ""]])
        self.assertEqual([row[0] for _, row in table.body()], ["NUT", "WASHER"])

    def test_one_field_said_twice_is_one(self) -> None:
        self.assertEqual(split_title("Part No / Article No"), ["part"])


class Sides(unittest.TestCase):
    def test_a_field_that_one_side_knows_is_compared(self) -> None:
        found = compare_fields(None, {"a": 1, "c": 3}, {"b": 2, "c": 3})
        self.assertEqual([(f.name, f.ours, f.theirs) for f in found], [("a", 1, None), ("b", None, 2)])

    def test_what_stands_beside_a_part_is_compared_where_the_part_is_the_same(self) -> None:
        ours = Of(Definition(parts=[Part("A")], maker_numbers={"A": [MakerNumber("N-1")]}))
        theirs = Of(Definition(parts=[Part("A")]))
        (row,) = compare_definitions(None, ours, theirs, DAY).parts
        self.assertEqual(([f.name for f in row.fields], row.was_agreed), (["maker_numbers"], False))
        (row,) = compare_definitions(theirs, ours, theirs, DAY).parts
        self.assertEqual((row.verdict, row.was_agreed), ("we moved", True))
        self.assertEqual(compare_definitions(None, theirs, theirs, DAY).parts, [])

    def test_a_sheet_is_not_in_force_on_its_last_day(self) -> None:
        """A begins later and ends today; B began before and goes on: B counts."""
        ended = Sheet("M", "A", "A", "released", date(2026, 3, 1), DAY, lines=[Line(10, part="B", quantity=D(1))])
        goes_on = Sheet("M", "A", "B", "released", date(2026, 1, 1), lines=[Line(10, part="B", quantity=D(2))])
        parts = [Part("M", kind="made"), Part("B")]
        ours, theirs = (Of(Definition(parts=parts, sheets=s)) for s in ([ended, goes_on], [replace(goes_on, lines=[])]))
        (row,) = compare_definitions(None, ours, theirs, DAY).lines
        self.assertEqual(row.records[1].quantity, 2)

    def test_places_are_compared_in_any_order_and_only_where_both_know_them(self) -> None:
        def side(*places: str) -> Of:
            lines = [Line(10, part="B", quantity=D(2), reference_designators=list(places))]
            return Of(Definition(parts=[Part("M", kind="made"), Part("B")], sheets=[Sheet("M", status="released", lines=lines)]))

        self.assertEqual(compare_definitions(None, side("R1", "R2"), side("R2", "R1"), DAY).lines, [])
        (row,) = compare_definitions(None, side("R1", "R2"), side("R1", "R3"), DAY).lines
        self.assertEqual([f.name for f in row.fields], ["reference_designators"])
        known = {"parts": ["unit"], "sheets": [], "lines": ["quantity"], "operations": []}
        self.assertEqual(compare_definitions(None, side("R1"), side("R3"), DAY, compared=known).lines, [])


class Published(unittest.TestCase):
    def test_wires_by_their_gauge(self) -> None:
        """Square millimetres as ASTM B258 has them, rounded; from memory."""
        for gauge, area in ((4, "21.2"), (10, "5.26"), (18, "0.823"), (24, "0.205"), (30, "0.0509"), (36, "0.0127"), (40, "0.00501")):
            self.assertAlmostEqual(AWG[gauge] * 10**6 / D(area), 1, delta=D("0.005"), msg=str(gauge))
        self.assertEqual((min(AWG), max(AWG)), (4, 40))

    def test_prefixes_and_lengths(self) -> None:
        """The SI Brochure (prefixes) and NIST SP 811 (an inch is 25.4 mm, exact)."""
        exponents = {"f": -15, "p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3, "": 0, "R": 0, "E": 0, "k": 3, "K": 3, "M": 6, "G": 9}
        self.assertEqual({prefix: D(10) ** e for prefix, e in exponents.items()}, MULTIPLES)
        of_an_inch = {"mm": D("25.4"), "mil": 1000, "thou": 1000, "in": 1, "um": 25400, "micron": 25400}
        for unit, count in of_an_inch.items():
            self.assertEqual(MILLIMETRES[unit] * count, D("25.4"), unit)
        spelled = {"mm": ("millimeter", "millimeters", "millimetre", "millimetres"), "mil": ("mils",), "in": ("inch", "inches")}
        for unit, words in spelled.items():
            self.assertEqual({MILLIMETRES[w] for w in words}, {MILLIMETRES[unit]})


class TitleBlock(unittest.TestCase):
    def test_what_a_list_is_for(self) -> None:
        self.assertEqual(said_to_be_for([["Date", "2026"], ["Title", "Lamp"]], 2, "KP-10.csv"), ("KP-10", "Lamp"))
        self.assertEqual(said_to_be_for([["Title", "Lamp"], ["Name", "Other"]], 2, "x 1")[1], "Lamp")
        self.assertEqual(said_to_be_for([["Title", "L" * 200]], 1, "x")[1], "L" * 200)
        self.assertEqual(said_to_be_for([["Title", "L" * 201], ["Name", "Lamp"]], 2, "x")[1], "Lamp")
        self.assertEqual(said_to_be_for([], 0, "in/of/KP-10.7.csv")[0], "KP-10.7")
        self.assertEqual(said_to_be_for([], 0, "in\\KP-11.csv")[0], "KP-11")
        self.assertEqual(said_to_be_for([["Assembly", "K" * 63 + "123"]], 1, "x")[0], "K" * 63 + "1")
        self.assertEqual(said_to_be_for([], 0, "_rest.csv")[0], "_rest")
