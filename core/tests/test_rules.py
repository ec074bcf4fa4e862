"""The rules against exact fractions on generated structures, and worked examples of the trade."""

import json
import unittest
from datetime import date
from decimal import Decimal
from fractions import Fraction as F

from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import LoopError, TallyError
from tally_core.cost.answers import Basis, ask, cost_answer, needs_answer, tally
from tally_core.cost.working import Workings
from tally_core.stated.bundle import parse_bundle, read_bundle

from .exact import Exact
from .generate import DAY, bundle

DAY_OF = date.fromisoformat(DAY)


def question(document: dict, part: str, quantity: str | None = None, options=(), day: date = DAY_OF, drafts=False):
    definition = read_bundle(parse_bundle(json.dumps(document)))
    return ask(definition, part, Basis(day, Decimal(quantity) if quantity else None, tuple(options), drafts))


def small(lines: list[dict], operations: list[dict] | None = None, lot: str | None = None, **sheet) -> dict:
    """A bundle of one made part M over bought parts A (3.00 each) and B (metres, 2.00)."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "work_centers": [{"code": "W", "labor_rate": "60", "machine_rate": "30"}],
        "parts": [
            {"number": "M", "kind": "made", "unit": "ea", "costing_lot": lot},
            {"number": "A", "kind": "bought", "unit": "ea", "unit_cost": "3"},
            {"number": "B", "kind": "bought", "unit": "m", "unit_cost": "2"},
        ],
        "build_sheets": [{"part": "M", "status": "released", "lines": lines, "operations": operations or []} | sheet],
    }


def unit_cost(document: dict, quantity: str | None = None, **basis) -> Decimal:
    return Decimal(cost_answer(question(document, "M", quantity, **basis))["unit_cost"])


class CostsByHand(unittest.TestCase):
    def test_in_the_proportion_of_the_roll_up_in_whose_place_it_stands(self) -> None:
        """By hand: 6 of material and 4 of labor and 2 of machine, rolled up; 18 by hand are 9, 6 and 3."""
        document = small([{"part": "A", "quantity": "2"}], [{"sequence": 10, "work_center": "W", "run_minutes": "4"}])
        document["parts"].append({"number": "TOP", "kind": "made", "unit": "ea"})
        document["build_sheets"].append({"part": "TOP", "status": "released", "lines": [{"part": "M", "quantity": "2"}]})

        def elements(part: str, **given: str) -> dict[str, float]:
            document["parts"][0] |= given
            asked = question(document, part)
            costs, needs = tally(asked)
            for element, name in enumerate(ELEMENTS):
                opened = Workings(asked.structure, costs, needs, "EUR", asked.top).open(("element", asked.top, element))
                self.assertAlmostEqual(opened.value, costs.unit[asked.top, element], 12, name)
            said = cost_answer(asked)
            self.assertEqual(costs.unit[asked.top].sum(), float(said["unit_cost"]))
            return {n: float(v) for n, v in said["elements"].items() if float(v)}

        self.assertEqual(elements("M"), {"material": 6, "labor": 4, "machine": 2})
        # What is not lost has no place in a working.
        asked = question(document, "M")
        opened = Workings(asked.structure, tally(asked)[0], None, "EUR", asked.top).open(("gross", 0))
        self.assertEqual([x.label for x in opened.operands], ["net quantity"])
        self.assertEqual(elements("M", given_cost="18"), {"material": 18})
        self.assertEqual(elements("M", given_as="proportion"), {"material": 9, "labor": 6, "machine": 3})
        self.assertEqual(elements("TOP"), {"material": 18, "labor": 12, "machine": 6})
        # Where nothing is rolled up there is no proportion.
        document["build_sheets"][0] |= {"lines": [], "operations": []}
        self.assertEqual(elements("M"), {"material": 18})
        # A bought part has no roll-up, whatever it says.
        document["parts"][1] |= {"given_cost": "5", "given_as": "proportion"}
        document["build_sheets"][0]["lines"] = [{"part": "A", "quantity": "1"}]
        self.assertEqual(elements("A"), {"material": 5})


class AgainstExactFractions(unittest.TestCase):
    """Rules U1 to U8, N1 to N3, C1 to C5 on 200 generated bundles, standard and job."""

    def close(self, found: float, exact: F, scale: F, what: str) -> None:
        limit = 1e-12 * max(abs(float(exact)), float(scale))
        self.assertLessEqual(abs(found - float(exact)), limit, what)

    def test_costs_and_needs(self) -> None:
        for seed in range(200):
            document, top, options = bundle(seed)
            for quantity in (None, "1", "37"):
                asked = question(document, top, quantity, options)
                exact = Exact(document, top, DAY, options, F(quantity) if quantity else None)
                costs, needs = tally(asked)
                scale = exact.total(top)
                this, lower = exact.vector(top)
                for e, name in enumerate(ELEMENTS):
                    where = f"seed {seed}, quantity {quantity}, {name}"
                    self.close(costs.this_level[asked.top, e], this[name], scale, where)
                    self.close(costs.lower_levels[asked.top, e], lower[name], scale, where)
                if needs is not None:
                    for row, number in enumerate(asked.structure.parts.numbers):
                        where = f"seed {seed}, quantity {quantity}, {number}"
                        self.close(needs.gross[row], exact.gross[number], F(0), where)
                        self.close(needs.returns[row], exact.returns[number], F(0), where)
                        self.close(needs.lot[row], exact.lots[number], F(0), where)

    def test_answers_leave_with_six_decimals(self) -> None:
        document, top, options = bundle(7)
        exact = Exact(document, top, DAY, options, F(12))
        answer = cost_answer(question(document, top, "12", options))
        self.assertEqual(Decimal(answer["unit_cost"]), round(Decimal(float(exact.total(top))), 6))
        both = (answer["this_level"], answer["lower_levels"])
        for name in ELEMENTS:
            self.assertAlmostEqual(sum(Decimal(b[name]) for b in both), Decimal(answer["elements"][name]), delta=2e-6)


class WorkedExamples(unittest.TestCase):
    def test_rod_and_one_operation(self) -> None:
        """The worked example of docs/arithmetic.md: 6.00 + 0.30 + 0.80 + 2.00."""
        document = small(
            [{"part": "B", "quantity": "2", "unit": "m", "scrap_percent": "5"}],
            [{"sequence": 10, "work_center": "W", "setup_minutes": "12", "run_minutes": "3"}],
            lot="10",
        )
        document["parts"][2]["unit_cost"] = "3.00"
        document["work_centers"] = [{"code": "W", "labor_rate": "40.00"}]
        answer = cost_answer(question(document, "M"))
        self.assertEqual(answer["unit_cost"], "9.100000")
        wanted = {"material": "6.000000", "scrap": "0.300000", "setup": "0.800000", "labor": "2.000000"}
        self.assertEqual({k: v for k, v in answer["elements"].items() if v != "0.000000"}, wanted)

    def test_speaker_kit(self) -> None:
        """J. Heizer and B. Render, Operations Management, chapter on MRP (from memory): needs of 50 kits."""
        made = {"A": "B2 C3", "B": "D2 E2", "C": "E2 F2", "F": "D2 G1"}
        numbers = "ABCDEFG"
        document = {
            "format": "round-tally-bundle",
            "version": 1,
            "parts": [{"number": n, "kind": "made" if n in made else "bought", "unit": "ea"} for n in numbers],
            "build_sheets": [
                {"part": n, "status": "released", "lines": [{"part": u[0], "quantity": u[1]} for u in uses.split()]}
                for n, uses in made.items()
            ],
        }
        found = {n["part"]: int(Decimal(n["gross"])) for n in needs_answer(question(document, "A", "50"))["needs"]}
        self.assertEqual(found, {"B": 100, "C": 150, "F": 300, "E": 500, "D": 800, "G": 300})

    def test_common_practice(self) -> None:
        """Common practice: 10 % scrap issues 1.1 times net; half an hour of labor is 0.5 on an hourly rate."""
        scrapped = needs_answer(question(small([{"part": "B", "quantity": "1", "scrap_percent": "10"}]), "M", "100"))
        self.assertEqual(scrapped["needs"][0]["gross"], "110.000000")
        half = small([], [{"sequence": 10, "work_center": "W", "run_minutes": "30"}])
        self.assertEqual(cost_answer(question(half, "M"))["elements"]["labor"], "30.000000")

    def test_a_vessel_takes_whole_cycles(self) -> None:
        """Common practice: a vessel that holds 100 needs one cycle up to 100 and two from there to 200."""
        run = [{"sequence": 10, "work_center": "W", "run_minutes": "60", "run_basis": "per_cycle", "cycle_quantity": "100"}]
        for quantity, cycles in (("1", 1), ("100", 1), ("101", 2), ("200", 2)):
            labor = Decimal(cost_answer(question(small([], run), "M", quantity))["elements"]["labor"])
            self.assertAlmostEqual(labor * int(quantity), 60 * cycles, delta=Decimal("0.001"))

    def test_an_offcut_returned_lowers_the_cost(self) -> None:
        """Common practice: an offcut returned is a negative quantity on the bill; it is never netted (N3)."""
        document = small([{"item": 10, "part": "B", "quantity": "3"}, {"item": 20, "kind": "byproduct", "part": "B", "quantity": "1"}])
        self.assertEqual(unit_cost(document), 4)
        answer = needs_answer(question(document, "M", "10"))
        self.assertEqual(answer["needs"][0]["gross"], "30.000000")
        self.assertEqual(answer["returns"][0]["quantity"], "10.000000")

    def test_a_given_cost_replaces_the_roll_up_but_not_the_needs(self) -> None:
        document = small([{"part": "A", "quantity": "2"}])
        document["parts"][0]["given_cost"] = "99"
        self.assertEqual(unit_cost(document), 99)
        self.assertEqual(needs_answer(question(document, "M", "5"))["needs"][0]["gross"], "10.000000")

    def test_rounding_up_happens_once_and_not_for_dust(self) -> None:
        """N2: three lines of 0.1 m of a part counted whole, for 10: 3, not 4."""
        document = small([{"item": i, "part": "A", "quantity": "0.1"} for i in (10, 20, 30)])
        self.assertEqual(needs_answer(question(document, "M", "10"))["needs"][0]["lot"], "3.000000")


class Refused(unittest.TestCase):
    def says(self, words: str, document: dict, part: str = "M", **basis) -> None:
        with self.assertRaises(TallyError) as caught:
            cost_answer(question(document, part, **basis))
        self.assertIn(words, str(caught.exception))

    def test_a_loop_names_its_path(self) -> None:
        document = small([{"part": "N", "quantity": "1"}])
        document["parts"].append({"number": "N", "kind": "made", "unit": "ea"})
        document["build_sheets"].append({"part": "N", "status": "released", "lines": [{"part": "M", "quantity": "1"}]})
        with self.assertRaises(LoopError) as caught:
            cost_answer(question(document, "M"))
        self.assertEqual(caught.exception.path, ["M", "N", "M"])

    def test_messages(self) -> None:
        self.says("part X is not known", small([]), "X")
        self.says("option GPS is not known", small([]), options=["GPS"])
        self.says("kg is a mass", small([{"part": "B", "quantity": "1", "unit": "kg"}]))
        self.says("yield percent must be more than 0", small([{"part": "B", "quantity": "1", "yield_percent": "0"}]))
        self.says("scrap percent cannot be negative", small([{"part": "B", "quantity": "1", "scrap_percent": "-5"}]))
        self.says("no released build sheet in force", small([], status="draft"))
        removing = {"item": 20, "part": "A", "quantity": "3", "option": "LESS", "option_action": "remove"}
        self.says("1 ea more than is there (items 10)", small([{"item": 10, "part": "A", "quantity": "2"}, removing]), options=["LESS"])

    def test_every_problem_is_named_by_its_place(self) -> None:
        document = small([{"part": "Q", "quantity": "x"}, {"kind": "nut", "part": "A"}])
        document["parts"].append({"number": "a", "kind": "bought", "unit": "furlong"})
        with self.assertRaises(TallyError) as caught:
            read_bundle(document)
        text = str(caught.exception)
        for place in (
            "build_sheets[0].lines[0].quantity",
            "build_sheets[0].lines[0].part",
            "build_sheets[0].lines[1].kind",
            "parts[3].unit",
            "parts[3].number",
        ):
            self.assertIn(place, text)


class InForce(unittest.TestCase):
    """U7: half-open days, drafts and alternates."""

    def test_revisions_take_turns(self) -> None:
        document = small([{"part": "A", "quantity": "1"}], effective_to="2026-07-01")
        document["build_sheets"].append(
            {"part": "M", "revision": "B", "status": "released", "effective_from": "2026-07-01", "lines": [{"part": "A", "quantity": "2"}]}
        )
        document["build_sheets"].append({"part": "M", "revision": "C", "lines": [{"part": "A", "quantity": "5"}]})
        document["build_sheets"].append({"part": "M", "alternate": "B", "status": "released", "lines": [{"part": "A", "quantity": "9"}]})
        self.assertEqual(unit_cost(document, day=date(2026, 6, 30)), 3)
        self.assertEqual(unit_cost(document, day=date(2026, 7, 1)), 6)
        self.assertEqual(unit_cost(document, day=date(2026, 7, 1), drafts=True), 15)
