"""Edges of lists that customers send: how a row is read, how rows are placed, and where a layout has its components.

Titles and marks are common practice.
"""

import unittest
from decimal import Decimal as D

from tally_core.inquiries.line import InquiryLine
from tally_core.lists.cells import is_settled, read_number, reads_two_ways, uses_decimal_comma
from tally_core.lists.neutral import read_list, read_quantity
from tally_core.lists.placements import PlaceRow, read_places
from tally_core.lists.titles import ColumnMap
from tally_core.pairing.describe import describe


def rows_of(*rows: list) -> list:
    return read_list(rows).rows


def troubles(*rows: list) -> list[tuple[int, str]]:
    return [(p.row, p.message) for p in read_list(rows).problems]


class OneRow(unittest.TestCase):
    def test_a_word_that_is_no_number_is_shown_to_forty_letters(self) -> None:
        for length, shown in ((40, "y" * 40), (41, "y" * 40)):
            with self.assertRaisesRegex(ValueError, f"“{shown}”"):
                read_number("y" * length, False)

    def test_columns_about_the_part(self) -> None:
        titles = ["Part no", "Description", "Qty", "Package", "Material", "Supplier", "Supplier part no.", "Datasheet", "Lifecycle status"]
        (row,) = rows_of(titles, ["A-1", "Resistor", 2, "0603", "alumina", "Fathom", "F-77", "https://a.example/x.pdf", "NRND"])
        self.assertEqual(
            (row.part, row.case, row.material, row.supplier, row.supplier_number, row.link, row.lifecycle),
            ("A-1", "0603", "alumina", "Fathom", "F-77", "https://a.example/x.pdf", "NRND"),
        )
        (row,) = rows_of(
            ["Teilenummer", "Bezeichnung", "Menge", "Werkstoff", "Bauform", "Lieferant"], ["A-1", "x", 2, "S235", "0805", "Quay"]
        )
        self.assertEqual((row.material, row.case, row.supplier), ("S235", "0805", "Quay"))
        # Where nothing else is the number, a material is the part.
        (row,) = rows_of(["Material", "Material description", "Qty"], ["4711", "Tube", 2])
        self.assertEqual((row.part, row.description, row.material), ("4711", "Tube", ""))
        (row,) = rows_of(["MPN", "Material", "Qty"], ["N-1", "brass", 2])
        self.assertEqual((row.maker_number, row.material, row.part), ("N-1", "brass", ""))

    def test_lists_of_boards_say_values_in_many_ways(self) -> None:
        """The letters of a designator tell the kind where no word does (IEEE 315, from memory); what stands in other columns counts."""
        for titles, row, kind, fields in (
            (["Reference", "Value", "Footprint", "Qty"], ["R1, R2", "10k", "R_0603", 2], "resistor", {"resistance": "10000", "case": "0603"}),
            (["Designator", "Value", "Package", "Qty"], ["L1", "10u", "0805", 1], "inductor", {"inductance": "0.00001", "case": "0805"}),
            (["Designator", "Value", "Description", "Qty"], ["C1", "100n 50V", "ceramic", 1], "capacitor", {"capacitance": "0.0000001", "voltage": "50"}),
            (["Designator", "Comment", "Description", "Quantity"], ["R7", "4k7", "1 % 0603", 1], "resistor", {"resistance": "4700", "tolerance": "1", "case": "0603"}),
            # A word tells more than a letter; letters that differ tell nothing; a comment beside a value is a remark.
            (["Designator", "Value", "Description", "Qty"], ["R9", "10 µH", "Choke", 1], "inductor", {"inductance": "0.00001"}),
            (["Designator", "Value", "Comment", "Qty"], ["R1 C1", "47", "see R3", 2], "", {}),
            (["Designator", "Value", "Comment", "Qty"], ["R1", "47", "see R3", 1], "resistor", {"resistance": "47"}),
        ):  # fmt: skip
            (said,) = rows_of(titles, row)
            line = InquiryLine.of(1, "", said.row, {n: getattr(said, n) for n in ("description", "value", "case", "designators")})
            found = describe(line.words)
            self.assertEqual(
                (found.kind, {n: f"{s.value:f}" if isinstance(s.value, D) else s.value for n, s in found.fields.items()}),
                (kind, fields),
                titles,
            )
        (said,) = rows_of(["Designator", "Value", "Comment", "Description", "Qty"], ["R1", "10k", "near U1", "Chip resistor", 1])
        self.assertEqual((said.value, said.note, said.description), ("10k", "near U1", "Chip resistor"))
        (said,) = rows_of(["Part", "Comment", "Qty"], ["A-1", "painted", 1])
        self.assertEqual((said.note, said.value), ("painted", ""))

    def test_two_rows_of_titles_of_two_columns(self) -> None:
        (row,) = rows_of(["Part", "Menge"], ["number", ""], ["A-1", 2])
        self.assertEqual((row.row, row.part, row.quantity), (3, "A-1", D(2)))
        # The row beneath names no more than the one above, and does not only go on with it: it is a row of the list.
        found = rows_of(["Part", "Description", "Qty"], ["Bolt", "painted", ""], ["A-1", "pin", 2])
        self.assertEqual([x.part for x in found], ["Bolt", "A-1"])

    def test_a_total_beside_a_number_is_a_part(self) -> None:
        titles = ["Part", "Description", "Qty"]
        self.assertEqual([x.part for x in rows_of(titles, ["A-1", "pin", 2], ["", "Total", 2])], ["A-1"])
        self.assertEqual([x.part for x in rows_of(titles, ["A-1", "Total", 2], ["A-2", "nut", 1])], ["A-1", "A-2"])

    def test_a_length_with_both_signs_has_a_decimal_point(self) -> None:
        for text, millimetres in (("1,234.5", "1234.5"), ("1,5", "1.5"), ("12.5 mm", "12.5")):
            (place,), _ = read_places([["Ref", "Mid X (mm)", "Y mm", "Side"], ["R1", text, "1", "top"]])
            self.assertEqual(place.x_mm, D(millimetres), text)

    def test_fractions_and_times(self) -> None:
        for text, comma, number, unit in (
            ("1/3", False, "0.333333333", ""), ("3 2/4 m", False, "3.5", "m"), ("0/5", False, "0", ""), ("4 x", False, "4", ""), ("x 4 pcs", False, "4", "ea"),
            ("-2", False, "-2", ""), ("+2,5 kg", True, "2.5", "kg"), ("1'000 pcs.", False, "1000", "ea"),
        ):  # fmt: skip
            self.assertEqual(read_quantity(text, comma), (D(number), unit), text)
        for text in ("4 xx", "1/2/3", "x", "2 x bushels"):
            with self.assertRaises(ValueError, msg=text):
                read_quantity(text, False)

    def test_texts_have_an_end_and_units_a_column(self) -> None:
        (read,) = rows_of(["Part", "Qty", "Unit", "Note"], ["A" * 600, "2 m", "kg", "n" * 501])
        self.assertEqual((len(read.part), len(read.note), read.unit, read.quantity), (500, 500, "kg", 2))
        self.assertEqual(rows_of(["Part", "Qty", "Unit"], ["A", "2 m", ""])[0].unit, "m")

    def test_marks_stand_in_any_text_and_are_no_designators(self) -> None:
        found = rows_of(
            ["Part", "Qty", "Designators", "Maker", "Description"],
            ["A", "2", "R1, R2 (DNP)", "", ""], ["B", "1", "C1", "not fitted", ""], ["C", "2 DNP", "C2 C3", "", ""],
            ["D", "1", "C4", "", "nicht bestückt"], ["E", "1", "C5", "", "dnpx"], ["F", "Beistellung", "C6", "", ""],
        )  # fmt: skip
        self.assertEqual([r.not_fitted for r in found], [True, True, True, True, None, None])
        self.assertEqual(found[0].designators[:2], ["R1", "R2"])
        self.assertEqual([r.quantity for r in found], [2, 1, 2, 1, 1, None])
        self.assertEqual([r.customer_supplied for r in found], [None] * 5 + [True])
        # A column of its own speaks for every row; an empty cell of "fitted" says nothing against it.
        found = rows_of(["Part", "Qty", "DNP"], ["A", 1, "x"], ["B", 1, "no"], ["C", 1, ""], ["D", 1, "perhaps"])
        self.assertEqual([r.not_fitted for r in found], [True, False, False, True])
        found = rows_of(["Part", "Qty", "Fitted", "Free issue"], ["A", 1, "y", "no"], ["B", 1, "n", "ja"], ["C", 1, "", "-"])
        self.assertEqual([(r.not_fitted, r.customer_supplied) for r in found], [(False, False), (True, True), (False, False)])

    def test_a_quantity_is_missing_only_where_nothing_stands_for_it(self) -> None:
        self.assertEqual(
            troubles(["Part", "Qty", "Designators", "DNP"], ["A", "", "", ""], ["B", "", "R1", ""], ["C", "", "", "x"], ["D", "-1", "", ""]),
            [(2, "the quantity is missing"), (5, "quantity -1 is below nothing")],
        )  # fmt: skip
        self.assertEqual(troubles(["Part", "Description"], ["A", "pin"]), [])
        # Counted only where there is no column of quantities.
        self.assertIsNone(rows_of(["Part", "Qty", "Designators"], ["A", "", "R1 R2"])[0].quantity)

    def test_costs_and_scrap_without_what_stands_around_them(self) -> None:
        (read,) = rows_of(["Part", "Qty", "Unit cost", "Scrap %"], ["A", 1, "EUR 3.25 / ea", "5 %"])
        self.assertEqual((read.unit_cost, read.scrap_percent), (D("3.25"), 5))
        (read,) = rows_of(["Part", "Qty", "Unit cost", "Scrap %"], ["A", 1, -2.5, 0.5])
        self.assertEqual((read.unit_cost, read.scrap_percent), (D("-2.5"), D("0.5")))
        said = troubles(
            ["Part", "Qty", "Unit cost", "Scrap %"], ["A", 1, "1.5", "1,5"], ["B", 1, "2.5", "2.5"], ["C", 1, "on request", "3.5"]
        )
        self.assertEqual([row for row, _ in said], [2, 4])
        self.assertTrue(said[0][1].startswith("scrap: ") and said[1][1].startswith("unit cost: "), said)

    def test_designators_against_quantity(self) -> None:
        self.assertEqual(
            troubles(
                ["Part", "Qty", "Unit", "Designators", "DNP"],
                ["A", 2, "", "R1", ""], ["B", "1.5", "m", "W1", ""], ["C", 0, "ea", "R2", "x"], ["D", 0, "ea", "R3", ""], ["E", 1, "", "R4", "x"],
            ),
            [(2, "quantity 2, but 1 designators"), (5, "quantity 0, but 1 designators")],
        )  # fmt: skip
        many = " ".join(f"R{n} R{n}" for n in range(1, 8))
        self.assertIn((2, "R1, R2, R3, R4, R5 named twice"), troubles(["Part", "Qty", "Designators"], ["A", 14, many]))


class ManyRows(unittest.TestCase):
    def test_levels_that_are_missing_or_left_out(self) -> None:
        titles = ["Level", "Part", "Qty"]
        self.assertEqual(
            troubles(titles, [0, "T", 1], ["", "A", 1], [1, "B", 1], [3, "C", 1], [2, "D", 1], [5, "E", 1]),
            [
                (3, "the level is missing"),
                (5, "level 3 follows level 1: a level is missing between them"),
                (7, "level 5 follows level 2: a level is missing between them"),
            ],
        )
        # It may begin at any level, and go up by as many as it likes.
        self.assertEqual(troubles(titles, [4, "A", 1], [5, "B", 1], [1, "C", 1], [2, "D", 1]), [])

    def test_parents_give_the_longest_way_down(self) -> None:
        found = read_list(
            [["Part", "Parent", "Qty"], ["D", "B", 1], ["D", "T", 1], ["B", "A", 1], ["A", "T", 1], ["E", "D", 1], ["T", "", 1]]
        )
        # D stands at the 4th level beneath B, so that E beneath D is at the 5th whatever else D stands beneath.
        self.assertEqual([r.level for r in found.rows], [3, 1, 2, 1, 4, 0])
        self.assertEqual((found.problems, "level" in found.fields), ([], True))
        loop = read_list([["Part", "Parent", "Qty"], ["A", "B", 1], ["B", "A", 1], ["C", "C", 1]])
        self.assertEqual([r.level for r in loop.rows], [2, 2, 1])
        self.assertEqual([(p.row, p.message) for p in loop.problems], [(4, "C would contain itself")])

    def test_dotted_items_place_rows_where_half_of_them_do(self) -> None:
        titles = ["Item", "Part", "Qty"]

        def levels(*items: str) -> list[int | None]:
            return [r.level for r in read_list([titles, *([i, f"P{n}", 1] for n, i in enumerate(items))]).rows]

        self.assertEqual(levels("1.", "1.1.", "1.2."), [1, 2, 2])
        self.assertEqual(levels("1", "1.1", "x", "y"), [1, 2, None, None])
        self.assertEqual(levels("1", "1.1", "x", "y", "z"), [None] * 5)
        # One of two stands beneath its beginning, then one of three.
        self.assertEqual(levels("1", "1.1", "3.4"), [1, 2, 2])
        self.assertEqual(levels("1", "1.1", "3.4", "4.5"), [None] * 4)

    def test_indents_by_blanks_dots_dashes_and_tabs(self) -> None:
        titles = ["Part", "Qty"]
        for indented in (
            ["T", "  A", "    B"],
            ["T", "- A", "-- B"],
            ["T", ".A", "..B"],
            ["T", "\tA", "\t\tB"],
            ["T", "\u00a0A", "\u00a0\u00a0B"],
        ):
            found = rows_of(titles, *([p, 1] for p in indented))
            self.assertEqual([(r.level, r.part) for r in found], [(0, "T"), (1, "A"), (2, "B")], indented)
        # A tab is as wide as four blanks; where every row is moved by as much, nothing is placed, and nothing is cut off.
        found = rows_of(titles, ["T", 1], ["    A", 1], ["\tB", 1])
        self.assertEqual([r.level for r in found], [0, 1, 1])
        self.assertEqual([r.level for r in rows_of(titles, [" A", 1], [" B", 1])], [None, None])
        self.assertEqual([r.level for r in rows_of(titles, [" A", 1], ["  B", 1])], [None, None])

    def test_a_map_that_says_how_a_column_is_read_is_not_asked_again(self) -> None:
        given = ColumnMap(0, {"part": (0, 0), "quantity": (1, 0)}, {"quantity": False})
        found = read_list([["Part", "Qty"], ["A", "1,234"]], given)
        self.assertEqual((found.rows[0].quantity, found.problems), (1234, []))

    def test_the_decimal_sign_of_a_column(self) -> None:
        """A number beside its unit decides as one alone; a fraction decides nothing."""
        self.assertEqual([r.quantity for r in rows_of(["Part", "Qty"], ["A", "1,234 m"], ["B", "0,5 m"], ["C", "1/2"])], [D("1.234"), D("0.5"), D("0.5")])  # fmt: skip
        found = read_list([["Part", "Unit cost"], ["A", "1.234"], ["B", "x"]])
        self.assertEqual(found.problems[0].message, "unit cost: nothing settles the decimal sign; “1.234” is read with a decimal point")
        self.assertEqual(found.map.commas, {"unit_cost": False})
        self.assertEqual(
            [uses_decimal_comma(["1,5", "2.5", "3.5"]), uses_decimal_comma(["1,5", "2.5"]), uses_decimal_comma(["1,5", "2,5", "3.5"])],
            [False, False, True],
        )
        self.assertEqual(
            [reads_two_ways("0,125"), reads_two_ways("-1.234"), is_settled(["1.5"]), is_settled(["15"])], [False, True, True, False]
        )
        self.assertEqual([read_number("1e3", False), read_number(1e-9, False), read_number(0, True)], [1000, D("1e-9"), 0])
        for number in (-1e12, 1e-10):
            with self.assertRaises(ValueError):
                read_number(number, False)


class Places(unittest.TestCase):
    def read(self, *rows: list) -> tuple[list[PlaceRow], list[tuple[int, str]]]:
        found = read_places(rows)
        assert found is not None
        return found[0], [(p.row, p.message) for p in found[1]]

    def test_sides_and_what_is_fitted(self) -> None:
        sides = ["T", "top", "Component side", "front", "B", "Bot", "solder", "rückseite", "", "no", "yes", "bx"]
        found, _ = self.read(["Ref", "X (mm)", "Y (mm)", "Side"], *([f"R{n}", 1, 1, s] for n, s in enumerate(sides)))
        self.assertEqual([p.side for p in found], ["top"] * 4 + ["bottom"] * 3 + ["", "", "top", "bottom", ""])
        found, _ = self.read(["Ref", "X (mm)", "Y (mm)", "DNP"], ["R1", 1, 1, "DNP"], ["R2", 1, 1, ""], ["R3", 1, 1, "no"])
        self.assertEqual([p.fitted for p in found], [False, True, True])
        found, _ = self.read(["Ref", "X (mm)", "Y (mm)", "Fitted"], ["R1", 1, 1, "x"], ["R2", 1, 1, ""], ["R3", 1, 1, "no"])
        self.assertEqual([p.fitted for p in found], [True, False, False])

    def test_turns_are_counted_from_nothing_to_a_full_one(self) -> None:
        turns = ["0", "360", "-90", "-450", "89,5", "270°", ""]
        found, said = self.read(["Ref", "X (mm)", "Y (mm)", "Rot"], *([f"R{n}", 1, 1, t] for n, t in enumerate(turns)))
        self.assertEqual([p.rotation for p in found], [0, 0, 270, 270, D("89.5"), 270, 0])
        self.assertEqual(said, [])

    def test_units_by_whom_they_are_stated(self) -> None:
        # The first titles, else the lines above, else millimetres, which is said unless every cell has its own.
        found, said = self.read(["Units used: mil"], ["Ref", "X", "Y"], ["R1", "1000", "2000"])
        self.assertEqual((found[0].x_mm, found[0].y_mm, said), (D("25.4"), D("50.8"), []))
        self.assertEqual(str(self.read(["Ref", "X (mm)", "Y (mm)"], ["R1", "10", "100"])[0][0].x_mm), "10")
        self.assertEqual(self.read(["Ref", "X", "Y"]), ([], []), "nothing is placed, so nothing is doubtful")
        self.assertIsNone(read_places([[f"line {n}"] for n in range(100)] + [["Ref", "X", "Y"], ["R1", "1", "2"]]))
        self.assertIsNotNone(read_places([[f"line {n}"] for n in range(99)] + [["Ref", "X", "Y"], ["R1", "1", "2"]]))
        found, _ = self.read(["Units: mil"], ["Ref", "X (mm)", "Y (mm)"], ["R1", "10", "1,5"])
        self.assertEqual((found[0].x_mm, found[0].y_mm), (10, D("1.5")))
        _, said = self.read(["Ref", "X", "Y"], ["R1", "1mm", "2mm"], ["R2", "1mm", "2"])
        self.assertEqual(said, [], "one that has its own unit in every cell settles it")
        _, said = self.read(["Ref", "X", "Y"], ["R1", "1mm", "2"])
        self.assertEqual(said, [(0, "no unit of length is stated; coordinates are read as millimetres")])

    def test_lines_of_fixed_columns_and_lines_that_are_none(self) -> None:
        found, said = self.read(
            ["Designator    Mid X    Mid Y    Layer"], ["# drawn by hand"], ["R1    1.5mm    2mm    T"], ["---------"], ["C 7   2mm   3mm   B"], [""],
        )  # fmt: skip
        self.assertEqual([(p.designator, p.x_mm, p.side) for p in found], [("R1", D("1.5"), "top"), ("C 7", 2, "bottom")])
        self.assertEqual(said, [])
        _, said = self.read(
            ["Ref", "X (mm)", "Y (mm)"],
            ["Board of the lamp", "", ""],
            ["", "1", "2"],
            ["=====", "", ""],
            ["R1", "1", "y"],
            ["R2", "1", "2"],
            ["R2", "1", "3"],
        )
        self.assertEqual(said, [(2, "Board of the lamp has no coordinates"), (5, "“y” is not a length"), (7, "R2 stands at row 6 too")])
