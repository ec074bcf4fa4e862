"""More cases that nothing but a small change of a rule would show, each worked by hand; found by ``./tally mutate``."""

import unittest
from datetime import date, datetime
from decimal import Decimal as D

import numpy as np
from jsonschema import Draft202012Validator
from tally_core.basics.errors import TallyError
from tally_core.basics.ordering import find_loop, low_level_codes
from tally_core.calendar.calendars import Calendar
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.lot_curve import cheaper_from, lots_to_show
from tally_core.cost.sensitivity import sensitivities
from tally_core.lists.cells import is_settled, uses_decimal_comma
from tally_core.lists.intake import designators, read_rows
from tally_core.stated.bundle import read_bundle
from tally_core.stated.bundle_schema import bundle_schema
from tally_core.stated.definition import Line, Part
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import check_line, check_number
from tally_core.structure.structure import build_structure, require_sheets
from tally_core.structure.tabulate import tabulate
from tally_core.time.measured import measured_run

from .test_edges_of_rules import DAY, product

HEAD = {"format": "round-tally-bundle", "version": 1}


class Lists(unittest.TestCase):
    def test_texts_that_speak_for_both_signs_settle_nothing(self) -> None:
        self.assertTrue(is_settled(["0.5"]))
        for cells in (["0.125", "1,5"], ["1.5", "1,5"]):
            self.assertFalse(uses_decimal_comma(cells), cells)
        self.assertTrue(uses_decimal_comma(["0,125", "0,125", "1.5"]))

    def test_ranges_of_one_and_of_too_many_digits(self) -> None:
        self.assertEqual(designators("R3-R3 R1-R00000002"), ["R3", "R1-R00000002"])

    def test_a_unit_that_nobody_knows_is_said(self) -> None:
        rows = [["Part", "Qty", "Unit"], ["A-1", "2", "bushel"]]
        (read,) = read_rows(rows, 0, {"part": 0, "quantity": 1, "unit": 2}, "TOP", False)
        self.assertEqual(read.problems, ["unit “bushel” is not known"])


class Bundles(unittest.TestCase):
    def test_the_schema_knows_every_field_at_every_depth(self) -> None:
        schema = Draft202012Validator(bundle_schema("round-tally-bundle", 1))
        part = {"number": "A", "kind": "bought", "unit": "ea"}
        self.assertTrue(schema.is_valid(HEAD | {"parts": [part], "options": [{"code": "X"}]}))
        for wrong in ({"more": 1}, {"parts": [part | {"more": 1}]}, {"options": [{"code": "X", "more": 1}]}):
            self.assertFalse(schema.is_valid(HEAD | wrong), wrong)

    def test_a_center_of_the_library_may_be_known_elsewhere(self) -> None:
        entry = {"code": "CUT", "operation": {"name": "Cut", "work_center": "SAW"}}
        read = read_bundle(HEAD | {"standard_operations": [entry]}, known_centers=lambda codes: codes & {"SAW"})
        self.assertEqual(read.standard_operations[0].operation.work_center, "SAW")

    def test_a_long_text_is_quoted_by_its_beginning(self) -> None:
        reader = RecordReader()
        reader.record(Part, {"number": "A", "unit_cost": "x" * 60}, "")
        self.assertIn(f"{'x' * 36}...", reader.problems[0].message)
        self.assertNotIn("x" * 37, reader.problems[0].message)

    def test_letters_that_another_form_stands_for_and_lists_that_are_none(self) -> None:
        self.assertIsNone(check_number("Ä-1", "part number"))
        self.assertIn("“ß”", check_number("Maß-1", "part number") or "")
        self.assertIn("confused", check_number("ﬁ-1", "part number") or "")
        line = Line(10, part="A", quantity=D(1), kept_off=["parts", "nowhere"])
        self.assertEqual([p.message for p in check_line(line, "ea")], ["there is no list 'nowhere'; the lists are lines, parts and top"])

    def test_what_is_no_number_is_told_what_it_could_be(self) -> None:
        for text, words in (
            ("1,234", '"1,234" could be 1234 or 1.234; write the one that is meant'),
            ("-12,500", '"-12,500" could be -12500 or -12.500; write the one that is meant'),
            ("1/3", '"1/3" is written as a decimal, like 0.333333'),
            ("1/0", '"1/0" is not a number'),
            ("1,23", '"1,23" is not a number'),
            ("1234,567", '"1234,567" is not a number'),
        ):
            reader = RecordReader()
            reader.record(Part, {"number": "A", "unit_cost": text}, "")
            self.assertEqual([p.message for p in reader.problems], [words])

    def test_a_negative_quantity_is_told_of_the_by_product(self) -> None:
        for quantity, told in ((D(-1), True), (D("-0.5"), True)):
            (found,) = [p for p in check_line(Line(10, part="A", quantity=quantity), "kg") if p.place == "quantity"]
            self.assertEqual("by-product" in found.message, told)
        (other,) = [p for p in check_line(Line(10, part="A", quantity=D(1), scrap_percent=D(-1)), "kg")]
        self.assertNotIn("by-product", other.message)


class Times(unittest.TestCase):
    def test_a_stop_that_began_the_day_before(self) -> None:
        stop = (datetime(2026, 11, 24, 20), datetime(2026, 11, 25, 4))
        calendar = Calendar((((0, 480),),) * 7, stops=(stop,))
        self.assertEqual(calendar.spans(date(2026, 11, 25)), ((240, 480),))

    def test_thirds_are_kept_to_nine_decimals(self) -> None:
        self.assertEqual(measured_run([(1.0, 3.0)], "per_unit", None, 100.0).run_minutes, 0.333333333)


class Graphs(unittest.TestCase):
    def test_nodes_of_a_loop_and_what_stands_over_it(self) -> None:
        self.assertEqual(low_level_codes(2, np.array([0, 1]), np.array([1, 0])).tolist(), [-1, -1])
        self.assertEqual(find_loop(3, np.array([1, 2, 0]), np.array([2, 1, 1])), [1, 2, 1])

    def test_missing_sheets_are_named_and_beyond_five_counted(self) -> None:
        for count, more in ((5, ""), (6, " and 1 more")):
            definition = product()
            definition.parts += [Part(f"N{i}", kind="made") for i in range(count)]
            definition.sheets[0].lines += [Line(100 + i, part=f"N{i}", quantity=D(1)) for i in range(count)]
            parts, lines, operations, rows, _ = tabulate(definition, DAY)
            s = build_structure(parts, lines, operations, DAY, [])
            with self.assertRaisesRegex(TallyError, f"N0, N1, N2, N3, N4{more}$"):
                require_sheets(s, rows["M"], False, DAY)

    def test_an_option_takes_from_the_line_that_it_names_and_no_other(self) -> None:
        """SHORT takes one of two A; what the sheet takes of S, and what another sheet takes of A, stays."""
        definition = product()
        definition.options["SHORT"] = ""
        definition.sheets[0].lines.append(Line(30, part="A", quantity=D(1), option="SHORT", option_action="remove"))
        definition.sheets[1].lines.append(Line(20, part="A", quantity=D(3)))
        parts, lines, operations, _, codes = tabulate(definition, DAY)
        s = build_structure(parts, lines, operations, DAY, [codes["SHORT"]])
        taken = {(s.parts.numbers[p], s.parts.numbers[c]): q for p, c, q in zip(s.parent, s.child, s.quantity, strict=True)}
        self.assertEqual(taken, {("M", "A"): 1.0, ("M", "S"): 1.0, ("S", "B"): 1.0, ("S", "A"): 3.0})


class Costs(unittest.TestCase):
    def test_how_many_lots_are_drawn_and_how_near_a_change_is_found(self) -> None:
        self.assertEqual(len(lots_to_show(7.0, False)), 42)
        # 2 + 9,000,000 / lot meets 5 at three million.
        ((lot, ahead),) = cheaper_from(lambda lot: 2 + 9e6 / lot, lambda lot: 5.0, np.array([1e6, 1e7]), False)
        self.assertTrue(ahead)
        self.assertAlmostEqual(lot / 3e6, 1.0, delta=2e-6)

    def test_a_minimum_that_is_just_met_moves_with_the_price(self) -> None:
        document = HEAD | {
            "parts": [{"number": "M", "kind": "made", "unit": "ea", "costing_lot": "10"}],
            "build_sheets": [
                {
                    "part": "M",
                    "status": "released",
                    "lines": [],
                    "operations": [{"sequence": 10, "subcontract": {"supplier": "Q", "unit_price": "2", "minimum_charge": "20"}}],
                }
            ],
        }
        question = ask(read_bundle(document), "M", Basis(date(2026, 6, 15)))
        moved = sensitivities(question.structure, tally(question)[0], question.top)
        self.assertEqual(moved.tables["operation"]["outside_price"].round(9).tolist(), [0.02])

    def test_a_lot_below_moves_with_every_level_over_it(self) -> None:
        """In a job of 10 T, each of 2 kg M, each of 3 kg S with a set-up of 60: one more M per T makes the lot of S 30 larger.

        The cost of one T is 60 / 10 for the set-up of S whatever the quantities: a lot that grows with its use moves nothing.
        """
        center = {"code": "W", "setup_labor_rate": "60"}
        parts = [{"number": n, "kind": "made", "unit": u, "whole_only": False} for n, u in (("T", "ea"), ("M", "kg"), ("S", "kg"))]
        sheets = [
            {"part": "T", "status": "released", "lines": [{"item": 10, "kind": "component", "part": "M", "quantity": "2"}]},
            {"part": "M", "status": "released", "lines": [{"item": 10, "kind": "component", "part": "S", "quantity": "3"}]},
            {"part": "S", "status": "released", "lines": [], "operations": [{"sequence": 10, "work_center": "W", "setup_minutes": "60"}]},
        ]
        read = read_bundle(HEAD | {"work_centers": [center], "parts": parts, "build_sheets": sheets})
        question = ask(read, "T", Basis(date(2026, 6, 15), quantity=D(10)))
        costs, needs = tally(question)
        moved = sensitivities(question.structure, costs, question.top, needs)
        self.assertAlmostEqual(costs.unit[question.top].sum(), 6.0)
        self.assertTrue(np.allclose(moved.tables["line"]["quantity"], 0.0), moved.tables["line"]["quantity"])
