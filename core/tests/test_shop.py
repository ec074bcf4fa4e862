"""Orders: what is expected, what may be reported, what it came to and why (W1 to W6)."""

import json
from datetime import date
from decimal import Decimal
from fractions import Fraction as F
from random import Random
from unittest import TestCase

import numpy as np
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.basics.kinds import PHANTOM
from tally_core.cost.answers import Basis, ask, tally
from tally_core.shop.expected import ExpectedLine, ExpectedOperation, OrderPlan, Rates, expected_cost
from tally_core.shop.from_costing import order_plan
from tally_core.shop.kept_plan import plain_plan, read_plan
from tally_core.shop.reporting import Stage, backflushed, came, finished, received
from tally_core.shop.variances import CAUSES, ActualLine, ActualWork, came_to, to_millionths
from tally_core.shop.worth import Worth
from tally_core.stated.bundle import read_bundle

from .generate import DAY, bundle


def _jackets() -> OrderPlan:
    """C. Horngren et al., Cost Accounting, chapter 7, the jackets (from memory): 2.00 yd at 30 and 0.8 h at 20 for each of 10,000."""
    sew = ExpectedOperation(10, run_hours=F("0.8"), rates=Rates(labor=F(20), setup_labor=F(20)))
    cloth = ExpectedLine("CLOTH", 0, per_start=F(2), net_per_unit=F(2), price={"material": F(30)})
    return OrderPlan(F(10_000), [sew], [cloth])


class VariancesTest(TestCase):
    def test_the_jackets_give_their_four_variances(self) -> None:
        work = [ActualWork(F(10_000), F(0), F(9_000), {"labor": F(9_000) * 22})]
        lines = [ActualLine(F(22_200), {"material": F(22_200) * 28})]
        result = came_to(_jackets(), F(10_000), work, lines, {})
        causes = result.by_cause()
        self.assertEqual(causes["material price"], -44_400)
        self.assertEqual(causes["material usage"], 66_000)
        self.assertEqual(causes["labor rate"], 18_000)
        self.assertEqual(causes["labor efficiency"], 20_000)
        self.assertEqual({n for n, amount in causes.items() if amount}, {"material price", "material usage", "labor rate", "labor efficiency"})  # fmt: skip
        self.assertEqual(sum(result.actual.values()) - sum(result.expected.values()), 59_600)

    def test_a_set_up_over_fewer_good_units_is_lot_and_a_scrapped_unit_is_yield(self) -> None:
        """By hand: 10 ordered, 8 good of 10 started; set-up 1 h, 0.1 h a unit, all at 30; a bar of 5 for each."""
        turn = ExpectedOperation(10, setup_hours=F(1), run_hours=F("0.1"), rates=Rates(F(30), F(30)))
        bar = ExpectedLine("BAR", 0, per_start=F(1), net_per_unit=F(1), price={"material": F(5)})
        plan = OrderPlan(F(10), [turn], [bar])
        work = [ActualWork(F(10), F(1), F(1), {"setup": F(30), "labor": F(30)})]
        result = came_to(plan, F(8), work, [ActualLine(F(10), {"material": F(50)})], {})
        self.assertEqual(sum(result.expected.values()), 88)  # 8 × (5 + 3 + 3)
        causes = result.by_cause()
        self.assertEqual(causes["lot"], 6)  # the set-up of 30 over 8 and not 10: 30 − 24
        self.assertEqual(causes["yield"], 16)  # two more bars, two more times 0.1 h
        self.assertEqual(sum(causes.values()), 22)
        self.assertEqual(result.actual["scrap"], 10)
        self.assertEqual(result.actual["material"], 40)

    def test_another_part_in_its_place_an_invoice_and_what_no_list_asks_for(self) -> None:
        coat = ExpectedOperation(20, outside_price=F(2), outside_minimum=F(15))
        tube = ExpectedLine("TUBE", 0, per_start=F(3), net_per_unit=F(3), price={"material": F(4)})
        swarf = ExpectedLine("SWARF", 0, per_start=F("0.5"), price={"material": F(1)}, byproduct=True)
        plan = OrderPlan(F(10), [coat], [tube, swarf])
        lines = [ActualLine(F(20), {"material": F(80)}, F(10), {"material": F(45)}), ActualLine(F(4), {"material": F(4)})]
        result = came_to(plan, F(10), [ActualWork(F(10), invoiced=F(23))], lines, {"material": F(7)})
        causes = result.by_cause()
        self.assertEqual(causes["substitution"], 5)
        # Of 30 taken, 10 of them another part, all 30 stay in ten good units: nothing of them is scrap.
        self.assertEqual((result.actual.get("scrap", 0), result.actual["material"]), (0, 80 + 45 + 7))
        self.assertEqual(causes["outside price"], 3)
        self.assertEqual(causes["material usage"], 7 + 1)  # taken beyond the list, and one less came back
        self.assertEqual(result.actual["byproduct"], -4)
        self.assertEqual(sum(causes.values()), sum(result.actual.values()) - sum(result.expected.values()))

    def test_of_what_is_taken_beyond_the_need_a_share_is_scrap_whatever_stood_in(self) -> None:
        """Ten units need 30; 30 for 120 and 10 of another part for 45 were taken: three quarters of 165 stay, a quarter is scrap."""
        tube = ExpectedLine("TUBE", 0, per_start=F(3), net_per_unit=F(3), price={"material": F(4)})
        plan = OrderPlan(F(10), [ExpectedOperation(10, run_hours=F(0))], [tube])
        result = came_to(plan, F(10), [ActualWork(F(10))], [ActualLine(F(30), {"material": F(120)}, F(10), {"material": F(45)})], {})
        self.assertEqual((result.actual["material"], result.actual["scrap"]), (F(495, 4), F(165, 4)))

    def test_what_was_paid_for_nothing_taken_is_price_and_what_no_list_asks_for_is_the_orders(self) -> None:
        """By hand: 10 units with a bar of 5 each and half a kilo of swarf at 1 back; nothing of either moved, 12 and 2 were booked all the
        same, and 7 were taken beyond the list."""
        turn = ExpectedOperation(10, run_hours=F(0))
        bar = ExpectedLine("BAR", 0, per_start=F(1), net_per_unit=F(1), price={"material": F(5)})
        swarf = ExpectedLine("SWARF", 0, per_start=F("0.5"), price={"material": F(1)}, byproduct=True)
        lines = [ActualLine(F(0), {"material": F(12)}), ActualLine(F(0), {"material": F(2)})]
        result = came_to(OrderPlan(F(10), [turn], [bar, swarf]), F(10), [ActualWork(F(10))], lines, {"material": F(7)})
        said = {(c.cause, *c.at): c.amount for c in result.causes}
        self.assertEqual((said["material price", "line", 0], said["material price", "line", 1]), (12, -2))
        self.assertEqual(said["material usage", "order", 0], 7)
        self.assertEqual(to_millionths([], F(1)), [])
        # Of nothing taken nothing is scrap.
        self.assertEqual((result.actual["scrap"], result.actual["material"]), (0, 12 + 7))

    def test_causes_add_up_exactly_on_200_orders(self) -> None:
        pick = Random(18)

        def some(most: int = 40) -> F:
            return F(pick.randint(0, most * 1000), 1000)

        for _ in range(200):
            operations = [
                ExpectedOperation(
                    10 * i, pick.randint(0, 1), F(pick.randint(100, 140), 100), some(2), some(1), pick.choice(["per_unit", "per_cycle", "per_lot"]), F(7),
                    some(3), some(3), Rates(some(), some(), {"machine": some(), "overhead": some()}, some(100), pick.choice([None, some(3)])), pick.choice([None, None, some(5)]), some(20),
                )
                for i in range(pick.randint(1, 4))
            ]  # fmt: skip
            lines = [
                ExpectedLine(f"P{i}", pick.randrange(len(operations)), some(5), some(2), some(4), some(1),
                             {"material": some(), "labor": some()}, pick.random() < 0.2)
                for i in range(pick.randint(1, 5))
            ]  # fmt: skip
            plan = OrderPlan(F(pick.randint(1, 50)), operations, lines)
            work = [ActualWork(F(pick.randint(0, 60)), some(3), some(40), {"setup": some(), "labor": some(), "machine": some(), "overhead": some()}, some(90)) for _ in operations]  # fmt: skip
            taken = [ActualLine(some(200), {"material": some(900), "scrap": some(9)}, some(5), {"other": some()}) for _ in lines]  # fmt: skip
            result = came_to(plan, F(pick.randint(0, 60)), work, taken, {"material": some()})
            difference = sum(result.actual.values()) - sum(result.expected.values())
            self.assertEqual(sum(c.amount for c in result.causes), difference)
            self.assertLessEqual({c.cause for c in result.causes}, set(CAUSES))
            rounded = to_millionths([c.amount for c in result.causes], difference)
            if rounded:
                self.assertEqual(sum(rounded), F(round(difference * 10**6), 10**6))


class ExpectedTest(TestCase):
    def test_expected_is_the_job_costing_two_ways(self) -> None:
        """The plan of an order, reckoned exactly from its own rows, against the roll-up of the whole structure."""
        met = elements = 0
        for seed in range(60):
            given, top, options = bundle(seed)
            quantity = 1 + seed % 23
            try:
                question = ask(read_bundle(given), top, Basis(date.fromisoformat(DAY), Decimal(quantity), tuple(options)))
            except TallyError:
                continue
            s = question.structure
            if not s.operations_of(question.top).stop and not len(s.line):
                continue
            costs, _ = tally(question)
            plan, _rows, _usages = order_plan(s, question.top, costs, F(quantity))
            # What was given by hand is no cost of the shop: neither of the part nor of a phantom in it.
            own = (s.parts.kind == PHANTOM) | (np.arange(len(s.parts)) == question.top)
            if (own & ((s.parts.markup_percent != 0) | ~np.isnan(s.parts.given_cost))).any():
                continue
            # What is worth less than nothing is lost at |v| in a roll-up (C2); in a store there is nothing of the kind.
            if any(line.unit_price < 0 for line in plan.lines):
                continue
            met += 1
            said = expected_cost(plan, plan.quantity)
            unit = costs.unit[question.top] * quantity
            self.assertAlmostEqual(float(sum(said.values())), unit.sum(), delta=1e-8 * abs(unit).sum(), msg=str(seed))
            # What is lost of a phantom is lost of all that it gives back, too; elsewhere every element is the same.
            if not (s.byproduct.any() and (s.parts.kind == PHANTOM).any()):
                for name, value in zip(ELEMENTS, unit, strict=True):
                    self.assertAlmostEqual(float(said.get(name, F(0))), value, delta=1e-8 * max(1.0, abs(unit).sum()), msg=name)
                    elements += 1
            self.assertEqual(read_plan(json.loads(json.dumps(plain_plan(plan)))), plan)
        self.assertGreater(met, 20)
        self.assertGreater(elements, 40)

    def test_a_plan_of_a_newer_program_is_not_read(self) -> None:
        with self.assertRaises(TallyError):
            read_plan({"format": 3})

    def test_a_plan_kept_in_format_1_opens_for_ever(self) -> None:
        said = {
            "format": 1, "quantity": "4",
            "operations": [{"sequence": 10, "setup_hours": "1/2", "rates": {"labor": "40", "setup_labor": "44", "machine": "6", "overhead": "4"}}],
            "lines": [{"part": "ROD", "operation": 0, "per_start": "2.1", "net_per_unit": "2", "price": {"material": "3"}}],
        }  # fmt: skip
        self.assertEqual(sum(expected_cost(read_plan(said), F(4)).values()), 22 + 5 + F("8.4") * 3)


class ReportingTest(TestCase):
    def test_what_comes_to_an_operation_is_what_passed_those_before(self) -> None:
        stages = [
            Stage(Decimal(12), Decimal(9), Decimal(2)),
            Stage(Decimal(11), Decimal(7), follows=(0,)),
            Stage(Decimal(11), Decimal(8), follows=(0,)),
            Stage(Decimal(10), Decimal(6), follows=(1, 2)),
        ]
        self.assertEqual([came(stages, i) for i in range(4)], [12, 9, 9, 7])
        self.assertEqual(received(stages), 6)
        self.assertEqual(received(stages[:3]), 7)
        self.assertFalse(finished(stages))
        self.assertTrue(finished([Stage(Decimal(3), Decimal(2), Decimal(1)), Stage(Decimal(3), Decimal(2), follows=(0,))]))

    def test_backflush_takes_what_the_reported_units_took_less_what_was_issued(self) -> None:
        line = ExpectedLine("SCREW", 0, per_start=F("4.08"), per_lot=F(2))
        self.assertEqual(backflushed(line, Decimal(5), Decimal(0), False), Decimal("22.4"))
        self.assertEqual(backflushed(line, Decimal(5), Decimal(0), True), 23)
        self.assertEqual(backflushed(line, Decimal(10), Decimal(23), True), 20)  # 42.8 in all: 43
        self.assertEqual(backflushed(line, Decimal(10), Decimal(60), True), 0)


class WorthTest(TestCase):
    def test_what_came_in_is_what_went_out_and_what_is_there(self) -> None:
        pick = Random(6)
        held = Worth()
        exact_quantity, exact_value = F(0), F(0)
        came, gone = Decimal(0), Decimal(0)
        for _ in range(400):
            if pick.random() < 0.5 or held.quantity == 0:
                quantity = Decimal(pick.randint(1, 500)) / 10
                cost = Decimal(pick.randint(1, 10**7)) / 1000
                held.put(quantity, {"material": cost, "labor": cost / 4})
                came += cost + cost / 4
                exact_quantity += F(quantity)
                exact_value += F(cost) + F(cost) / 4
            else:
                quantity = min(held.quantity, Decimal(pick.randint(1, 400)) / 10)
                gone += sum(held.take(quantity).values())
                exact_value -= exact_value * F(quantity) / exact_quantity
                exact_quantity -= F(quantity)
            self.assertEqual(came, gone + held.value)
            self.assertEqual(F(held.quantity), exact_quantity)
            if exact_quantity:
                # Rule W6 by exact fractions; what is kept is rounded to nine decimals at each move.
                self.assertLess(abs(F(held.value) / exact_quantity - exact_value / exact_quantity), F(1, 10**5))
        with self.assertRaises(ValueError):
            held.take(held.quantity + 1)
