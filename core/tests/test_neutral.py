"""The neutral reading of lists and placements: every shape by a small list written out by hand.

Words for columns and marks, and that a quantity counts its designators, are common practice; 1 inch is 25.4 mm by NIST SP 811.
"""

import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st
from tally_core.lists.neutral import ListRow, read_list, read_quantity
from tally_core.lists.placements import read_places
from tally_core.lists.titles import ColumnMap, known_words, split_title


def said(rows: list[list]) -> list[tuple]:
    return [(r.level, r.part, str(r.quantity), r.unit) for r in read_list(rows).rows]


class Shapes(unittest.TestCase):
    def test_a_title_block_levels_and_a_total_beneath(self) -> None:
        rows = [
            ["Parts of the lamp"], [], ["Rev", "C"],
            ["Level", "Part No.", "Description", "Qty", "UoM"],
            [0, "TOP", "Lamp", 1, "EA"], [1, "SUB", "Engine", 2, "EA"], [2, "ROD", "Rod", 3.5, "MTR"], [1, "LID", "Lid", 1, "EA"],
            ["Level", "Part No.", "Description", "Qty", "UoM"], [1, "NUT", "Nut", 4, "EA"],
            ["Total", "", "", 11.5, ""], ["Printed by hand"],
        ]  # fmt: skip
        self.assertEqual(
            said(rows),
            [(0, "TOP", "1", "ea"), (1, "SUB", "2", "ea"), (2, "ROD", "3.5", "m"), (1, "LID", "1", "ea"), (1, "NUT", "4", "ea")],
        )  # fmt: skip
        self.assertEqual(read_list(rows).problems, [])

    def test_fields_of_ones_own_are_columns_by_their_names(self) -> None:
        """Numbers with their unit and decimal sign away, by the column; a known title stays what it is, and who asks for none gets none."""
        own = {"length_mm": True, "finish": False, "mass": True, "note": False}
        rows = [
            ["Part", "Qty", "Finish", "Length (mm)", "Mass", "Note"],
            ["A", 1, "Black", "12,5 mm", 0.25, "by hand"], ["B", 2, "", 40, "heavy", ""], ["C", 3, "bright", "1,25", "", ""],
        ]  # fmt: skip
        read = read_list(rows, None, own)
        self.assertEqual(
            [r.own_fields for r in read.rows],
            [{"finish": "Black", "length_mm": "12.5", "mass": "0.25"}, {"length_mm": "40"}, {"finish": "bright", "length_mm": "1.25"}],
        )
        self.assertEqual(read.rows[0].note, "by hand")
        self.assertEqual([(t.row, t.field) for t in read.problems], [(3, "own_fields")])
        self.assertIn("mass", read.problems[0].message)
        self.assertEqual(read.map.columns["own: length_mm"], (3, 0))
        # By a map that was kept for it the same; without the fields, none.
        self.assertEqual([r.own_fields for r in read_list(rows, read.map, own).rows], [r.own_fields for r in read.rows])
        self.assertEqual([r.own_fields for r in read_list(rows).rows], [{}, {}, {}])
        # A map may also say what no title tells; what nothing settles is said.
        given = ColumnMap(0, {"part": (0, 0), "own: mass": (3, 0)})
        doubtful = read_list([["Part", "Qty", "a", "b"], ["A", 1, "", "1,250"]], given, own)
        self.assertEqual(len([t for t in doubtful.problems if t.row == 0 and t.message.startswith("mass: nothing settles")]), 1)

    def test_dotted_items_indentation_and_parents_place_rows(self) -> None:
        dotted = [["Item", "Part", "Qty"], ["1", "A", 1], ["1.1", "B", 2], ["1.1.1", "C", 3], ["1.2", "D", 1], ["2", "E", 1]]
        self.assertEqual([x[0] for x in said(dotted)], [1, 2, 3, 2, 1])
        indented = [["Part", "Qty"], ["TOP", 1], ["  A", 2], ["    B", 3], ["  C", 1]]
        self.assertEqual([x[:2] for x in said(indented)], [(0, "TOP"), (1, "A"), (2, "B"), (1, "C")])
        pointed = [["Part", "Description", "Qty"], ["T", "Lamp", 1], ["A", ". Ring", 1], ["B", ".. Screw", 1]]
        found = read_list(pointed).rows
        self.assertEqual([(r.level, r.description) for r in found], [(0, "Lamp"), (1, "Ring"), (2, "Screw")])
        parents = [["Component", "Parent", "Qty"], ["B", "A", 1], ["A", "TOP", 1], ["C", "TOP", 1]]
        self.assertEqual([x[:2] for x in said(parents)], [(2, "B"), (1, "A"), (1, "C")])
        # A list that is flat says nothing of levels, and numbers that only look dotted place nothing.
        self.assertNotIn("level", read_list([["Item", "Part", "Qty"], ["10.5", "A", 1], ["11.5", "B", 1]]).fields)

    def test_two_rows_of_titles_and_a_column_of_two_fields(self) -> None:
        rows = [["", "Part", "Quantity", "Manufacturer"], ["Pos", "number", "per unit", "/ MPN"], ["1", "A", "2", "Ohm / R-10K"]]
        (row,) = read_list(rows).rows
        self.assertEqual((row.part, row.quantity, row.maker, row.maker_number), ("A", 2, "Ohm", "R-10K"))
        other = [["MPN | Maker", "Qty"], ["R-10K|Ohm", 1], ["R-11K", 1]]
        self.assertEqual([(r.maker_number, r.maker) for r in read_list(other).rows], [("R-10K", "Ohm"), ("R-11K", "")])

    def test_no_titles_at_all(self) -> None:
        self.assertEqual(said([["A-1", "3", "pcs"], ["A-2", "12", "m"]]), [(None, "A-1", "3", "ea"), (None, "A-2", "12", "m")])

    def test_the_decimal_sign_is_found_by_column_and_a_number_stays_one(self) -> None:
        rows = [["Part", "Qty", "Price"], ["A", 3.5, "1.234,50"], ["B", "12,50", "1,234"], ["C", "1.000", "2"]]
        found = read_list(rows)
        self.assertEqual([r.quantity for r in found.rows], [Decimal("3.5"), Decimal("12.5"), 1000])
        self.assertEqual([r.unit_cost for r in found.rows], [Decimal("1234.5"), Decimal("1.234"), 2])
        self.assertEqual(found.problems, [])
        # Nothing settles it: it is read in one way, and that is said. An impossible grouping is found on its row.
        unsettled = read_list([["Part", "Qty"], ["A", "1,234"]])
        self.assertIn("nothing settles the decimal sign", unsettled.problems[0].message)
        wrong = read_list([["Part", "Qty"], ["A", "1,5"], ["B", "12,34,567"]])
        self.assertEqual([(p.row, "12,34,567" in p.message) for p in wrong.problems], [(3, True)])

    def test_quantities_as_people_write_them(self) -> None:
        for text, comma, number, unit in (
            ("2 pcs", False, "2", "ea"), ("1,5 m", True, "1.5", "m"), ("1/2", False, "0.5", ""), ("2 1/2", False, "2.5", ""),
            ("6x", False, "6", ""), ("x6", False, "6", ""), ("6 X", False, "6", ""), ("1.234,5 kg", True, "1234.5", "kg"), ("3 St.", False, "3", "ea"),
            ("0.5m²", False, "0.5", "m2"), ("1\u202f000", False, "1000", ""), ("12 mm", False, "12", "mm"),
        ):  # fmt: skip
            self.assertEqual(read_quantity(text, comma), (Decimal(number), unit), text)
        for text in ("", "few", "2 bushels", "1/0", "--2", "2 pcs or 3"):
            with self.assertRaises(ValueError, msg=text):
                read_quantity(text, False)

    def test_designators_count_and_stand_once(self) -> None:
        rows = [["Part", "Qty", "Designators"], ["A", 4, "R1-R3, R7"], ["B", 3, "C1 C2"], ["C", 2, "R3,R9"], ["D", 2, "L1;L1"]]
        found = read_list(rows)
        self.assertEqual(found.rows[0].designators, ["R1", "R2", "R3", "R7"])
        self.assertEqual(
            [(p.row, p.message) for p in found.problems],
            [(3, "quantity 3, but 2 designators"), (4, "R3 stands at row 2 too"), (5, "L1 named twice")],
        )
        counted = read_list([["Part", "Ref Des"], ["A", "R1-R4"], ["B", "C1"]])
        self.assertEqual([r.quantity for r in counted.rows], [4, 1])

    def test_what_is_not_fitted_and_what_the_customer_supplies(self) -> None:
        rows = [
            ["Part", "Qty", "Description", "Notes"],
            ["A", "1", "Resistor", "DNP"], ["B", "DNP", "Resistor", ""], ["C", "1", "Board, beigestellt", ""], ["D", "1", "Cap", "free issue"], ["E", "1", "Nut", ""],
        ]  # fmt: skip
        found = read_list(rows)
        self.assertEqual([r.not_fitted for r in found.rows], [True, True, None, None, None])
        self.assertEqual([r.customer_supplied for r in found.rows], [None, None, True, True, None])
        self.assertEqual((found.rows[1].quantity, found.problems), (None, []))
        columns = [["Part", "Qty", "Fitted", "Consigned"], ["A", 1, "yes", "x"], ["B", 1, "no", ""]]
        self.assertEqual([(r.not_fitted, r.customer_supplied) for r in read_list(columns).rows], [(False, True), (True, False)])

    def test_what_is_wrong_is_said_at_its_row(self) -> None:
        rows = [["Level", "Part", "Qty", "Unit"], ["0", "T", "1", "ea"], ["2", "A", "", "ea"], ["x", "B", "1", "bushel"]]
        problems = [(p.row, p.message) for p in read_list(rows).problems]
        self.assertEqual(
            problems,
            [
                (3, "the quantity is missing"),
                (4, "unit “bushel” is not known"),
                (4, "“x” is not a level"),
                (3, "level 2 follows level 0: a level is missing between them"),
            ],
        )

    def test_titles_in_four_languages(self) -> None:
        for title, name in (
            ("Qté", "quantity"), ("Cantidad", "quantity"), ("Menge", "quantity"), ("QTY.", "quantity"), ("Désignation", "description"),
            ("Benennung", "description"), ("Descripción", "description"), ("Hersteller-Teilenummer", "maker_number"), ("MPN 1", "maker_number"),
            ("Sachnummer", "part"), ("P/N", "part"), ("Repères", "reference_designators"), ("Colour", None),
        ):  # fmt: skip
            self.assertEqual(known_words(title), name, title)
        self.assertEqual(split_title("Length / Width"), [])

    @given(st.lists(st.lists(st.one_of(st.text(max_size=12), st.floats(), st.integers(), st.booleans()), max_size=6), max_size=12))
    def test_no_table_breaks_the_reader(self, rows: list[list]) -> None:
        for row in read_list(rows).rows:
            self.assertIsInstance(row, ListRow)
        read_places(rows)


class Places(unittest.TestCase):
    def test_units_of_titles_of_the_file_and_of_cells(self) -> None:
        in_titles = [["RefDes", "X (mil)", "Y (mil)", "Rot", "Side", "Package"], ["R1", "1000", "-500.5", "450", "Bottom", "0603"]]
        found = read_places(in_titles)
        assert found is not None
        (place,), problems = found
        self.assertEqual((place.x_mm, place.y_mm, place.rotation, place.side), (Decimal("25.4"), Decimal("-12.7127"), 90, "bottom"))
        self.assertEqual(problems, [])
        above = [["Units: inch"], ["Designator  Mid X  Mid Y  Layer  Rotation  Footprint"], ["C1  1.5  2  T  -90  0805"]]
        found = read_places(above)
        assert found is not None
        self.assertEqual((found[0][0].x_mm, found[0][0].rotation, found[0][0].package), (Decimal("38.1"), 270, "0805"))
        cells = [["Ref", "X", "Y"], ["U1", "12.5mm", "100mil"]]
        found = read_places(cells)
        assert found is not None
        self.assertEqual((found[0][0].y_mm, found[1]), (Decimal("2.54"), []))

    def test_what_is_doubtful_or_wrong_is_said(self) -> None:
        rows = [["Ref", "X", "Y", "DNP"], ["R1", "1", "2", ""], ["R1", "3", "4", "x"], ["R2", "far", "1", ""], ["R3", "1 furlong", "2", ""]]
        found = read_places(rows)
        assert found is not None
        self.assertEqual([p.fitted for p in found[0]], [True, False])
        self.assertEqual(
            [(p.row, p.message) for p in found[1]],
            [
                (4, "R2 has no coordinates"),
                (5, "“1 furlong” is not a length"),
                (0, "no unit of length is stated; coordinates are read as millimetres"),
                (3, "R1 stands at row 2 too"),
            ],
        )
        self.assertIsNone(read_places([["Part", "Qty"], ["A", 1]]))
