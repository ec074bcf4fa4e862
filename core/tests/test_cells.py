"""What a cell of a list made elsewhere says: a number stays the number its file holds, text is read by one decimal sign."""

import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.lists.cells import is_settled, read_day, read_number, reads_two_ways, text_of, uses_decimal_comma
from tally_core.lists.intake import propose_columns, read_rows
from tally_core.lists.titled import TitledList


class Numbers(unittest.TestCase):
    @given(st.decimals(min_value=0, max_value=10**9, places=4), st.booleans())
    @settings(deadline=None)
    def test_a_numeric_cell_is_never_read_again(self, number: Decimal, comma: bool) -> None:
        self.assertAlmostEqual(read_number(float(number), comma), number, places=4)
        self.assertEqual(read_number(3.5, comma), Decimal("3.5"))
        self.assertEqual(read_number(0.1 + 0.2, comma), Decimal("0.3"))

    @given(st.decimals(min_value=-(10**9), max_value=10**9, places=4))
    @settings(deadline=None)
    def test_numbers_in_either_manner_of_writing(self, number: Decimal) -> None:
        english = f"{number:,.4f}"
        german = english.translate(str.maketrans(",.", ".,"))
        self.assertEqual(read_number(english, comma=False), number)
        self.assertEqual(read_number(german, comma=True), number)
        self.assertEqual(read_number(german.replace(".", "\u202f"), comma=True), number)

    def test_text_of_the_other_manner_is_refused_with_the_one_that_is_meant(self) -> None:
        for text, comma in (("3.5", True), ("1,5", False), ("12.50", True), ("0,25", False), ("1,234.5", True)):
            with self.assertRaisesRegex(ValueError, "decimal (point|comma), and this list", msg=text):
                read_number(text, comma)

    def test_what_is_no_number_is_refused(self) -> None:
        for text in ("two", "1.2.3", "--1", "1e400", "nan", "inf", "1;2", "", "12 34", "1,23,456", "1'2345", "e5", "٣"):
            for comma in (True, False):
                with self.assertRaises(ValueError, msg=text):
                    read_number(text, comma)
        for cell in (True, date(2026, 3, 31), float("nan"), float("inf"), 1e12):
            with self.assertRaises(ValueError, msg=str(cell)):
                read_number(cell, False)

    def test_bounds_are_where_they_are_said_to_be(self) -> None:
        self.assertEqual(read_number("999999999999", False), Decimal("999999999999"))
        self.assertEqual(read_number("0.000000001", False), Decimal("1e-9"))
        self.assertEqual(read_number("-\u00a01\u202f000", False), -1000)
        self.assertEqual(read_number("\u22122,5", True), Decimal("-2.5"))
        self.assertEqual(read_number(".5", False), Decimal("0.5"))
        for text in ("1000000000000", "0.0000000001"):
            with self.assertRaisesRegex(ValueError, "usable"):
                read_number(text, False)

    def test_the_decimal_sign_is_found_from_what_can_be_true(self) -> None:
        self.assertTrue(uses_decimal_comma(["2", "0,5"]))
        self.assertTrue(uses_decimal_comma(["1.234,50", "1.234"]))
        self.assertTrue(uses_decimal_comma(["0,125"]))
        self.assertTrue(uses_decimal_comma(["0,125", "1.234"]), "a group never follows a nought: only the first says anything")
        self.assertTrue(uses_decimal_comma([3.5, "12,50"]))
        self.assertTrue(uses_decimal_comma(["1,234"]), "nothing settles it: a single comma is taken for the decimal sign")
        for cells in (["1,200", "0.5"], ["1", "2"], [], ["1,234,567"], ["1,234", "1.234"], ["0.125", "1,250"], [3.5]):
            self.assertFalse(uses_decimal_comma(cells), cells)
        self.assertTrue(reads_two_ways("-1,234"))
        self.assertFalse(any(map(reads_two_ways, ("12", "1,5", "0,125", "1,234.5", "x"))))
        self.assertFalse(is_settled([1.5, "1,234"]))

    def test_days(self) -> None:
        self.assertEqual(read_day(date(2027, 1, 31)), read_day(" 2027-01-31T08:00:00 "))
        self.assertEqual(text_of(date(2027, 1, 31)), "2027-01-31")
        with self.assertRaises(ValueError):
            read_day("31/01/2027")


class Lists(unittest.TestCase):
    def test_numeric_cells_and_text_beside_one_another(self) -> None:
        rows = [["part", "qty", "unit cost"], ["A", 3.5, "12,50"], ["B", "12,50", 4], ["C", "3.5", "x"], ["D", "", 1]]
        found = read_rows(rows, 0, propose_columns(rows, 0), "TOP", comma=True)
        self.assertEqual([r.quantity for r in found], [Decimal("3.5"), Decimal("12.5"), None, None])
        self.assertEqual([r.unit_cost for r in found], [Decimal("12.5"), 4, None, 1])
        self.assertEqual([len(r.problems) for r in found], [0, 0, 2, 1])
        self.assertIn("“3.5” is a number with a decimal point", found[2].problems[0])

    def test_a_number_that_could_be_two_is_said_unless_the_list_settles_it(self) -> None:
        def looks(*texts: str) -> list[int]:
            rows = [["part", "qty"], *([f"P{i}", text] for i, text in enumerate(texts))]
            comma = uses_decimal_comma(texts)
            return [len(r.looks) for r in read_rows(rows, 0, propose_columns(rows, 0), "TOP", comma)]

        self.assertEqual(looks("1,234", "2"), [1, 0])
        self.assertEqual(looks("1,234", "0,5"), [0, 0])

    def test_a_missing_quantity_is_named_beside_a_bad_number(self) -> None:
        rows = [["part", "qty", "x"], ["A B", "", "y"], ["", 2, "z"], ["C", "", "z"]]
        found = read_rows(rows, 0, {"part": 0, "quantity": 1}, "TOP", comma=False)
        self.assertEqual(["the quantity is missing" in r.problems for r in found], [True, False, True])
        self.assertEqual([len(r.problems) for r in found], [2, 1, 1])
        found = read_rows([["part"], ["A"]], 0, {"part": 0}, "TOP", comma=False)
        self.assertEqual(found[0].problems, ["the quantity is missing"])

    def test_lists_by_the_titles_of_their_first_row(self) -> None:
        rows = [
            ["Order", "Open quantity", "Due"],
            ["7", "1,5", date(2027, 1, 31)],
            ["", " ", ""],
            [8, 3.5, "2027-02-01"],
            ["9", "2.5", ""],
            ["10", "0,5", ""],
            ["11", "two", ""],
        ]
        listed = TitledList(rows, {"order": ("order",), "open": ("open", "open quantity"), "due": ("due",), "x": ("x",)}, ["open"])
        self.assertEqual((len(listed), listed.comma, "x" in listed.columns), (5, {"open": True}, False))
        first, second, third, _, fifth = listed
        self.assertEqual((first.number, first.amount("open"), first.day("due")), (2, Decimal("1.5"), date(2027, 1, 31)))
        self.assertEqual((second.number, second.text("order"), second.amount("open")), (4, "8", Decimal("3.5")))
        self.assertEqual((third.day("due"), third.text("x"), third.amount("x")), (None, "", None))
        self.assertEqual(third.amount("open"), Decimal("2.5"), "it can be read in one way only")
        with self.assertRaisesRegex(ValueError, "not a number"):
            fifth.amount("open")
        (alone,) = TitledList([["open"], ["1,234"]], {"open": ("open",)}, ["open"])
        with self.assertRaisesRegex(ValueError, "write 1234 or 1.234"):
            alone.amount("open")
        (point,) = TitledList([["open"], ["1.234"]], {"open": ("open",)}, ["open"])
        self.assertEqual(point.amount("open"), Decimal("1.234"))


class Rows(unittest.TestCase):
    def test_a_row_may_be_shorter_than_its_titles(self) -> None:
        listed = TitledList([["Part", "Price"], ["A-1"], ["B-2", "2,50"]], {"part": ("part",), "price": ("price",)}, ["price"])
        self.assertEqual([row.text("part") for row in listed], ["A-1", "B-2"])
