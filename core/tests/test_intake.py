"""Reading lists made elsewhere: what a header, a column, a level or a number may look like."""

import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.lists.intake import FIELDS, designators, find_header, propose_columns, read_rows, read_unit

WORDS = st.text(alphabet="abcdefghij 0123456789", min_size=1, max_size=12)


def structure(text: str, top: str = "TOP", **columns: int) -> list[tuple[str, str]]:
    """(parent, part) of the lines of a small table: one row a line, cells with bars, the header first."""
    rows = [[cell.strip() for cell in row.split("|")] for row in text.strip().splitlines()]
    found = read_rows(rows, 0, columns or propose_columns(rows, 0), top, comma=False)
    assert not any(r.problems for r in found), [r.problems for r in found]
    return [(r.parent, r.part) for r in found if not r.is_top]


class Headers(unittest.TestCase):
    @given(st.lists(st.lists(WORDS, max_size=4), max_size=20), st.permutations(["part", "quantity", "unit", "level"]))
    @settings(max_examples=100, deadline=None)
    def test_the_header_is_found_below_any_title_block(self, title: list[list[str]], names: list[str]) -> None:
        r = random.Random(len(title))
        header = [r.choice(FIELDS[name]).upper() for name in names]
        rows = [*title, header, ["1", "2", "ea", "x"]]
        self.assertEqual(find_header(rows), len(title))
        self.assertEqual(propose_columns(rows, len(title)), {name: i for i, name in enumerate(names)})

    def test_punctuation_and_case_do_not_hide_a_name(self) -> None:
        rows = [["PART_NO.", "Qty.", "Ref-Des", "U/M"], ["A-1", "2", "R1,R2", "pcs"]]
        self.assertEqual(propose_columns(rows, 0), {"part": 0, "quantity": 1, "reference_designators": 2, "unit": 3})

    def test_a_table_without_known_words_has_no_header(self) -> None:
        self.assertIsNone(find_header([["alpha", "beta"], ["1", "2"]]))

    def test_columns_are_told_by_their_contents(self) -> None:
        rows = [["Part", "?", "", "!!"], ["A-1", "2", "kg", "R1, R2"], ["A-2", "0.5", "kg", "C7"]]
        self.assertEqual(propose_columns(rows, 0), {"part": 0, "quantity": 1, "unit": 2, "reference_designators": 3})


class Levels(unittest.TestCase):
    def test_numbers_dots_and_dotted_items_say_the_same(self) -> None:
        wanted = [("TOP", "A"), ("A", "B"), ("B", "C"), ("A", "D"), ("TOP", "E")]
        for levels in ("1 2 3 2 1", ".1 ..2 ...3 ..2 .1", "1.1 1.1.1 1.1.1.1 1.1.2 1.2"):
            rows = "\n".join(f"{level} | {part} | 1" for level, part in zip(levels.split(), "ABCDE", strict=True))
            self.assertEqual(structure(f"level | part | qty\n{rows}"), wanted, levels)

    def test_a_first_row_alone_on_level_nought_is_the_product_itself(self) -> None:
        self.assertEqual(structure("level | part | qty\n0 | P | 1\n1 | A | 2\n2 | B | 1", top=""), [("P", "A"), ("A", "B")])

    def test_a_parent_column_joins_in_any_order(self) -> None:
        found = structure("parent | part | qty\nA | B | 1\n | A | 2\nB | C | 1\n | D | 1")
        self.assertEqual(sorted(found), [("A", "B"), ("B", "C"), ("TOP", "A"), ("TOP", "D")])

    def test_a_part_listed_twice_is_worth_a_look_but_a_sub_assembly_listed_again_is_not(self) -> None:
        def looks(text: str) -> list[int]:
            rows = [[cell.strip() for cell in row.split("|")] for row in text.splitlines()]
            return [r.row for r in read_rows(rows, 0, propose_columns(rows, 0), "TOP", False) if r.looks]

        self.assertEqual(looks("part | qty\nA | 1\nB | 1\nA | 2"), [4])
        self.assertEqual(looks("parent | part | qty\nP | A | 1\nQ | A | 1\nP | A | 1\n | P | 1\n | Q | 1"), [4])
        self.assertEqual(looks("level | part | qty\n1 | S | 1\n2 | A | 1\n1 | T | 1\n2 | S | 1\n3 | A | 1"), [])

    def test_a_flat_list_stands_under_the_product(self) -> None:
        self.assertEqual(structure("part | qty\nA | 1\nB | 2"), [("TOP", "A"), ("TOP", "B")])

    def test_rows_are_numbered_as_a_spreadsheet_shows_them(self) -> None:
        rows = [["title"], [], ["part", "qty"], ["A", "1"], [], ["B", "x"], ["a remark"]]
        found = read_rows(rows, 2, propose_columns(rows, 2), "TOP", False)
        self.assertEqual([(r.row, bool(r.problems)) for r in found], [(4, False), (6, True)])

    def test_what_cannot_be_placed_is_said(self) -> None:
        rows = [["level", "part", "qty"], ["1", "A", "1"], ["3", "B", "1"], ["x", "C", "1"], ["", "D", "1"], ["1", "E", ""]]
        found = {r.part: " ".join(r.problems) for r in read_rows(rows, 0, propose_columns(rows, 0), "TOP", False)}
        self.assertEqual(found["A"], "")
        self.assertIn("a level is missing", found["B"])
        self.assertIn("is not a level", found["C"])
        self.assertIn("the level is missing", found["D"])
        self.assertIn("the quantity is missing", found["E"])


class Cells(unittest.TestCase):
    def test_units_by_their_exchange_codes(self) -> None:
        """UN/CEFACT Recommendation 20, the codes listed with the project's sources."""
        codes = {
            "H87": "ea",
            "KGM": "kg",
            "GRM": "g",
            "MTR": "m",
            "MMT": "mm",
            "LTR": "L",
            "MTK": "m2",
            "HUR": "h",
            "MIN": "min",
            "DZN": "dozen",
        }
        self.assertEqual({code: read_unit(code) for code in codes}, codes)
        self.assertEqual([read_unit(u) for u in ("Stk.", "METERS", "sqm", "", "furlong")], ["ea", "m", "m2", None, None])

    def test_designators_and_their_ranges(self) -> None:
        """Common practice: a quantity and its count of reference designators must agree."""
        self.assertEqual(designators("C1-C3,C7 ; R2"), ["C1", "C2", "C3", "C7", "R2"])
        self.assertEqual(designators("R10–12"), ["R10", "R11", "R12"])
        self.assertEqual(designators("U1 .. U2"), ["U1", "U2"])
        self.assertEqual(len(designators("R1-R999999")), 1)
        rows = [["part", "qty", "ref des"], ["A", "3", "R1-R3"], ["B", "2", "R4"], ["C", "2", "R5 R5"]]
        found = read_rows(rows, 0, propose_columns(rows, 0), "TOP", False)
        self.assertEqual(found[0].looks, [])
        self.assertIn("1 designators", found[1].looks[0])
        self.assertIn("R5 named twice", found[2].looks[0])
