"""Bounds, defaults and rare cases of lists and figures: where a small change of a rule would show."""

import unittest
from decimal import Decimal as D

import numpy as np
from tally_core.basics.errors import TallyError
from tally_core.basics.rounding import decimal_text, millionths, round_up
from tally_core.cost.answers import Basis, ask, cost_answer, needs_answer
from tally_core.lists.intake import find_header, propose_columns, propose_without_header, read_rows, sole_root
from tally_core.stated.bundle import read_bundle
from tally_core.stated.compare import compare_sheets, pair
from tally_core.stated.definition import Line, Operation, Sheet
from tally_core.time.measured import measured_run

from .test_edges import DAY


class Lists(unittest.TestCase):
    def test_headers_and_columns(self) -> None:
        self.assertIsNone(find_header([["part"], ["A"]]), "one known word is no header")
        rows = [["part", "qty"], ["part", "qty"], ["A", "1"]]
        self.assertEqual(find_header(rows), 0, "the first of two that say as much")
        self.assertEqual(find_header([[1, 2], ["part", "qty"]]), 1)
        self.assertEqual(propose_columns([["part", "a", "b"], ["A", "kg", "2"], ["B", "m", "3"]], 0), {"part": 0, "unit": 1, "quantity": 2})
        self.assertEqual(propose_columns([["part", "a"], ["A", "kg"], ["B", "x"]], 0), {"part": 0})
        two = propose_columns([["part", "unit", "a"], ["A", "kg", "m"]], 0)
        self.assertEqual(two, {"part": 0, "unit": 1}, "a second column of units is none")
        self.assertEqual(propose_columns([["part", "x"], ["A", "R1, R2"], ["B", "C1"]], 0), {"part": 0, "reference_designators": 1})
        self.assertEqual(propose_columns([["a", "x"], ["A", "R1, R2"], ["B", "C1"]], 0), {})
        self.assertEqual(propose_columns([["part"]], 0), {"part": 0}, "a header alone")

    def test_without_a_header(self) -> None:
        rows = [["A-1", "Screw, pan head, M4 x 12", "2", "pcs"], ["B-2", "Washer for the screw", "4", "pcs"]]
        self.assertEqual(propose_without_header(rows, set()), {"part": 0, "description": 1, "quantity": 2, "unit": 3})
        half = [["A-1", "2", "kg"], ["B-2", "3", "x"]]
        self.assertEqual(propose_without_header(half, set()), {"part": 0, "quantity": 1}, "half of a column are no units")
        self.assertEqual(propose_without_header([["x", "A-1"], ["y", "B-2"]], {"B-2"}), {"part": 1})
        self.assertEqual(propose_without_header([["A-1"]], set()), {"part": 0}, "a list of one row")
        self.assertEqual(propose_without_header([["A-1"], ["B-2", "5"]], set()), {"part": 0, "quantity": 1})
        self.assertEqual(propose_without_header([], set()), {})

    def test_levels_and_parents(self) -> None:
        rows = [["level", "part", "qty"], ["1.0", "A", "1"], [2.0, "B", "1"], ["2", "C", "5"]]
        found = read_rows(rows, 0, propose_columns(rows, 0), "TOP", False)
        self.assertEqual([(r.level, r.parent) for r in found], [(1, "TOP"), (2, "A"), (2, "A")])
        rows = [["parent", "part", "qty"], ["", "TOP", ""], ["TOP", "A", "1"], ["A", "B", "2"]]
        found = read_rows(rows, 0, propose_columns(rows, 0), "TOP", False)
        self.assertEqual([(r.is_top, r.parent, r.problems) for r in found], [(True, "", []), (False, "TOP", []), (False, "A", [])])
        self.assertEqual(sole_root([["parent", "part"], ["A", "B"], ["C", "D"]], 0, {"parent": 0, "part": 1}), "")

    def test_amounts_of_a_row(self) -> None:
        rows = [["part", "qty", "scrap %"], ["A", "1", "5 %"], ["B", 0, "-1"], ["C", "2", 7.5]]
        found = read_rows(rows, 0, propose_columns(rows, 0), "TOP", False)
        self.assertEqual([r.scrap_percent for r in found], [5, None, D("7.5")])
        self.assertEqual(len(found[1].problems), 2)
        named = read_rows(
            [["part", "qty", "item"], ["A", "1", "10.0"], ["B", "1", "x"]], 0, {"part": 0, "quantity": 1, "item": 2}, "T", False
        )
        self.assertEqual([r.item for r in named], [10, None])

    def test_pairs_and_fields_of_two_sheets(self) -> None:
        self.assertEqual(pair(["a"], ["a"], [lambda x: None]), [(0, None), (None, 0)])
        self.assertEqual(pair(["a", "b", "c"], ["c"], [lambda x: x]), [(0, None), (1, None), (2, 0)])
        left = Sheet(
            "M",
            lines=[Line(10, part="A", quantity=D(1), not_fitted=True), Line(20, kind="text", text="see drawing"), Line(30, part="B")],
            operations=[Operation(10, "Turn", "W"), Operation(20, "", "W"), Operation(30, "", "V")],
        )
        right = Sheet(
            "M",
            lines=[
                Line(15, part="A", quantity=D("1.0"), customer_supplied=True),
                Line(20, kind="text", text="see drawing"),
                Line(30, part="C"),
            ],
            operations=[Operation(15, "Turn", "W"), Operation(40, "", "W")],
        )
        found = [(d.table, d.left, d.right, d.state, [f[0] for f in d.fields]) for d in compare_sheets(left, right)]
        self.assertEqual(
            found,
            [
                ("sheet", 0, 0, "same", []),
                ("operation", 0, 0, "changed", ["sequence"]),
                ("operation", 1, None, "only left", []),
                ("operation", 2, None, "only left", []),
                ("operation", None, 1, "only right", []),
                ("line", 0, 0, "changed", ["item", "customer_supplied", "not_fitted"]),
                ("line", 1, 1, "same", []),
                ("line", 2, 2, "changed", ["part"]),
            ],
        )


class Figures(unittest.TestCase):
    def test_rounding(self) -> None:
        self.assertEqual(round_up(np.array([0.0, 2.0, 2.1, -0.5])).tolist(), [0, 2, 3, 0])
        self.assertEqual(decimal_text(0.0000005), "0.000000")
        self.assertEqual(decimal_text(0.0000015), "0.000002")
        self.assertEqual(decimal_text(1.5, 0), "2")
        for parts, total in (
            (np.array([[9e12]]), np.array([1.0])),
            (np.array([[1.0]]), np.array([9e12])),
            (np.array([[np.nan]]), np.array([1.0])),
        ):
            with self.assertRaisesRegex(TallyError, "too large"):
                millionths(parts, total)
        kept, whole = millionths(np.array([[8.9e12]]), np.array([8.9e12]))
        self.assertEqual((kept[0, 0], whole[0]), (8_900_000_000_000_000_000, 8_900_000_000_000_000_000))

    def test_measured_times(self) -> None:
        self.assertEqual(measured_run([(30.0, 10.0)], "per_cycle", 5.0, 100.0).run_minutes, 15.0)
        self.assertEqual(measured_run([(30.0, 10.1)], "per_cycle", 5.0, 100.0).run_minutes, 10.0)
        self.assertEqual(measured_run([(30.0, 10.0 + 1e-12)], "per_cycle", 5.0, 100.0).run_minutes, 15.0)
        self.assertEqual(measured_run([(30.0, 1.0)], "per_cycle", 5.0, 100.0).run_minutes, 30.0)
        self.assertEqual(measured_run([(30.0, 10.0)], "per_cycle", None, 100.0).run_minutes, 3.0)
        self.assertEqual(measured_run([(30.0, 10.0)], "per_lot", None, 50.0).run_minutes, 15.0)
        self.assertEqual(measured_run([(10.0, 3.0)], "per_unit", None, 100.0).run_minutes, 3.333333333)
        self.assertIsNone(measured_run([(10.0, 3.0)], "per_unit", None, 100.0).spread)

    def test_answers_say_their_basis(self) -> None:
        document = {
            "format": "round-tally-bundle",
            "version": 1,
            "currency": "EUR",
            "parts": [{"number": "M", "kind": "made", "unit": "ea"}, {"number": "K", "kind": "bought", "unit": "ea", "unit_cost": "2"}],
            "build_sheets": [{"part": "M", "status": "released", "lines": [{"part": "K", "quantity": "3"}]}],
        }
        read = read_bundle(document)
        plain = cost_answer(ask(read, "M", Basis(DAY)))
        self.assertEqual(plain["basis"], {"lots": "standard", "quantity": None, "as_of": "2026-06-15", "options": [], "drafts": False})
        job = cost_answer(ask(read, "M", Basis(DAY, D(5), (), True)))
        self.assertEqual(job["basis"], {"lots": "job", "quantity": "5", "as_of": "2026-06-15", "options": [], "drafts": True})
        self.assertEqual((job["unit_cost"], sum(map(float, job["elements"].values()))), ("6.000000", 6.0))
        self.assertEqual(Basis(DAY, prices="level").plain()["prices"], "level")
        tried = Basis(DAY, what_if=(("part", "1", "unit_cost", "3"),))
        self.assertEqual([list(x) for x in tried.plain()["what_if"]], [["part", "1", "unit_cost", "3"]])
        self.assertEqual([Basis(DAY).plain_inputs, Basis(DAY, prices="level").plain_inputs, tried.plain_inputs], [True, False, False])
        self.assertEqual([n["gross"] for n in needs_answer(ask(read, "M", Basis(DAY, D(5))))["needs"]], ["15.000000"])
        sheets = read.sheets
        read.sheets = []
        for answer in (cost_answer, needs_answer):
            with self.assertRaisesRegex(TallyError, "2026-06-15"):
                answer(ask(read, "M", Basis(DAY, D(5))))
        # A cost that is given suffices to cost a part; what it takes is still asked of its sheet.
        read.parts[0].given_cost = D(4)
        self.assertEqual(cost_answer(ask(read, "M", Basis(DAY, D(5))))["unit_cost"], "4.000000")
        with self.assertRaises(TallyError):
            needs_answer(ask(read, "M", Basis(DAY, D(5))))
        read.sheets = sheets
        self.assertEqual(len(needs_answer(ask(read, "M", Basis(DAY, D(5))))["needs"]), 1)
