"""Parts that stand at a standard, inputs laid over others, and figures that add up after rounding."""

import copy
import random
import unittest
from datetime import date
from decimal import ROUND_HALF_EVEN, Decimal
from fractions import Fraction as F

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.basics.rounding import millionths
from tally_core.cost.answers import Basis, Question, ask, tally
from tally_core.cost.cost import Fixed, roll_up, standard_lots, unit_totals
from tally_core.cost.working_of_moves import MovesWorkings
from tally_core.stated.bundle import read_bundle
from tally_core.structure.overlay import INPUTS, Change, lay_over, same_inputs
from tally_core.structure.structure import build_structure

from .exact import Exact
from .generate import DAY, bundle

TODAY = date.fromisoformat(DAY)


def asked(document: dict, top: str, options: list[str], quantity: int | None = None) -> Question:
    return ask(read_bundle(document), top, Basis(TODAY, quantity, tuple(options)))  # type: ignore[arg-type]


class Standing(unittest.TestCase):
    def test_a_total_is_the_sum_of_its_elements_however_it_is_made(self) -> None:
        for seed in range(80):
            document, top, options = bundle(seed)
            s = asked(document, top, options).structure
            lots = standard_lots(s)
            costs = roll_up(s, lots)
            np.testing.assert_allclose(unit_totals(s, lots), costs.unit.sum(axis=1), rtol=1e-12, atol=1e-12)
            rows = np.flatnonzero(costs.unit.any(axis=1))[::3]
            fixed = Fixed(rows, costs.unit[rows] * 1.5, costs.this_level[rows])
            np.testing.assert_allclose(unit_totals(s, lots, fixed), roll_up(s, lots, fixed).unit.sum(axis=1), rtol=1e-12, atol=1e-12)

    def test_standards_that_are_what_the_parts_cost_change_nothing(self) -> None:
        """Everything but the top at what it rolls up to: one level on these standards is the roll-up through all levels."""
        for seed in range(60):
            document, top, options = bundle(seed)
            question = asked(document, top, options)
            costs, _ = tally(question)
            rows = np.flatnonzero(np.arange(len(costs.unit)) != question.top)
            question.fixed = Fixed(rows, costs.unit[rows], costs.this_level[rows])
            one_level, _ = tally(question)
            np.testing.assert_allclose(one_level.unit, costs.unit, rtol=1e-12, atol=1e-12)
            np.testing.assert_allclose(one_level.this_level, costs.this_level, rtol=1e-12, atol=1e-12)

    def test_one_part_at_a_standard_against_exact_arithmetic(self) -> None:
        """The same by hand: the part becomes a bought one with the standard for its price, in the bundle's own JSON."""
        met = 0
        for seed in range(60):
            document, top, options = bundle(seed)
            question = asked(document, top, options)
            s = question.structure
            made = [i for i in np.unique(s.child).tolist() if s.parts.kind[i] == 0]
            if not made:
                continue
            row = random.Random(seed).choice(made)
            vector = np.zeros((1, len(ELEMENTS)))
            vector[0, 0] = 12.34
            question.fixed = Fixed(np.array([row]), vector, vector)
            ours = tally(question)[0].unit[question.top].sum()
            other = copy.deepcopy(document)
            part = next(p for p in other["parts"] if p["number"] == s.parts.numbers[row])
            for name in ("given_cost", "markup_percent", "overhead_percent"):
                part.pop(name, None)
            part |= {"kind": "bought", "unit_cost": "12.34"}
            other["build_sheets"] = [x for x in other["build_sheets"] if x["part"] != part["number"]]
            wanted = Exact(other, top, DAY, options, None).total(top)
            self.assertAlmostEqual(ours, float(wanted), delta=1e-9 * max(1, abs(float(wanted))), msg=str(seed))
            # Its working says so, and ends there.
            w = MovesWorkings(s, tally(question)[0], None, "EUR", question.top, question.fixed)
            opened = w.open(("unit", row))
            self.assertEqual([o.source for o in opened.operands], [("standard", row, "unit")])
            self.assertEqual(opened.value, 12.34)
            self.assertAlmostEqual(w.open(("unit", question.top)).value, ours, places=9)
            met += 1
        self.assertGreater(met, 30)


class LaidOver(unittest.TestCase):
    def test_inputs_laid_over_cost_what_the_changed_definition_costs(self) -> None:
        for seed in range(60):
            document, top, options = bundle(seed)
            for part in document["parts"]:
                # What is laid over is the price it began with.
                part.pop("prices", None)
            for center in document["work_centers"]:
                center |= {"rates": [], "setup_labor_rate": center["labor_rate"]}
            question = asked(document, top, options)
            s = question.structure
            r = random.Random(seed)
            other = copy.deepcopy(document)
            numbers = list(s.parts.numbers)
            changes = []
            for part in other["parts"]:
                if "unit_cost" in part and r.random() < 0.5:
                    part["unit_cost"] = f"{r.randint(1, 9999) / 100}"
                    row = numbers.index(part["number"])
                    changes.append(Change("part", "unit_cost", np.array([row]), np.array([float(part["unit_cost"])])))
            for sheet in other["build_sheets"]:
                row = numbers.index(sheet["part"])
                for line in sheet["lines"]:
                    if "scrap_percent" in line:
                        # A yield takes the place of a scrap, not its side.
                        del line["scrap_percent"]
                        line["yield_percent"] = "80"
                        at = np.flatnonzero((s.lines.parent == row) & (s.lines.item == line["item"]))
                        changes.append(Change("line", "yield_percent", at, np.full(len(at), 80.0)))
                for step, resource, one in (
                    (operation, n, each)
                    for operation in sheet["operations"]
                    for n, each in enumerate([operation, *operation.get("resources", [])])
                ):
                    if "run_minutes" in one:
                        one["run_minutes"] = "7.5"
                        o = s.operations
                        here = (o.parent == row) & (o.sequence == step["sequence"]) & (o.resource == resource)
                        at = np.flatnonzero(here)
                        changes.append(Change("operation", "run_minutes", at, np.full(len(at), 7.5)))
            changes.append(Change("work_center", "labor_rate", np.arange(len(s.operations)), np.full(len(s.operations), 50.0)))
            for center in other["work_centers"]:
                center["labor_rate"] = "50"
            before = copy.deepcopy((s.parts, s.lines, s.operations))
            tables = lay_over(s.parts, s.lines, s.operations, changes)
            for held, now in zip(before, (s.parts, s.lines, s.operations), strict=True):
                self.assertTrue(same_inputs(held, now), "what is laid over is left as it was")
            laid = build_structure(*tables, TODAY, self._codes(document, options), question.top)
            ours = roll_up(laid, standard_lots(laid)).unit[question.top].sum()
            wanted = Exact(other, top, DAY, options, None).total(top)
            self.assertAlmostEqual(ours, float(wanted), delta=1e-9 * max(1, abs(float(wanted))), msg=str(seed))

    @staticmethod
    def _codes(document: dict, options: list[str]) -> list[int]:
        """Options are coded in the order in which lines name them first."""
        codes: dict[str, int] = {}
        order = {p["number"]: i for i, p in enumerate(document["parts"])}
        for sheet in sorted(document["build_sheets"], key=lambda x: order[x["part"]]):
            for line in sheet["lines"]:
                if "option" in line:
                    codes.setdefault(line["option"], len(codes))
        return [codes[o] for o in options if o in codes]

    def test_only_known_inputs_have_a_place(self) -> None:
        document, top, options = bundle(1)
        s = asked(document, top, options).structure
        held = {"part": s.parts, "line": s.lines, "operation": s.operations, "work_center": s.operations}
        for table, fields in INPUTS.items():
            for name in fields:
                self.assertEqual(getattr(held[table], name).dtype.kind, "f", (table, name))


amounts = st.floats(-1e6, 1e6, allow_nan=False, allow_infinity=False)


class AddsUp(unittest.TestCase):
    @given(st.lists(st.lists(amounts, min_size=4, max_size=4), min_size=1, max_size=6))
    @settings(max_examples=200, deadline=None)
    def test_rounded_parts_add_up_to_the_rounded_sum(self, rows: list[list[float]]) -> None:
        parts = np.array(rows)
        whole = parts.sum(axis=1)
        rounded, total = millionths(parts, whole)
        self.assertTrue((rounded.sum(axis=1) == total).all())
        for value, kept in zip(whole.tolist(), total.tolist(), strict=True):
            exact = Decimal(F(value).numerator) / Decimal(F(value).denominator)
            self.assertLessEqual(abs(exact.quantize(Decimal("1e-6"), ROUND_HALF_EVEN) * 10**6 - kept), 1)
        # Only one of a row takes what is left over, and that is less than a millionth for each of the others.
        off = np.abs(rounded - parts * 1e6)
        self.assertTrue(((off > 0.6).sum(axis=1) <= 1).all())
        self.assertTrue((off <= 4).all())

    def test_zeros_stay_zeros_and_what_cannot_be_kept_is_named(self) -> None:
        rounded, total = millionths(np.zeros((2, 6)), np.zeros(2))
        self.assertFalse(rounded.any() or total.any())
        for wrong in (np.nan, np.inf, 1e13):
            with self.assertRaisesRegex(TallyError, "too large to be kept"):
                millionths(np.array([[wrong, 0.0]]), np.array([wrong]))
