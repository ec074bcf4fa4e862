"""Edges of what an order expects and reports (W1 to W6), each worked by hand; found by ``./tally mutate``."""

import unittest
from decimal import Decimal as D
from fractions import Fraction as F

from tally_core.cost.cost import roll_up, standard_lots
from tally_core.shop.expected import ExpectedLine, ExpectedOperation, OrderPlan, Rates
from tally_core.shop.from_costing import order_plan
from tally_core.shop.kept_plan import plain_plan, read_plan
from tally_core.shop.reporting import Stage, backflushed, finished, first_pass_yield, scrap_ratio
from tally_core.shop.variances import ActualWork, came_to
from tally_core.shop.worth import Worth
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet, WorkCenter
from tally_core.structure.structure import build_structure
from tally_core.structure.tabulate import tabulate

from .test_small_changes import DAY


class Reporting(unittest.TestCase):
    def test_one_unit_is_something_and_none_is_not(self) -> None:
        self.assertTrue(finished([Stage(D(1), D(1))]))
        # Nothing was planned and nothing reported: that is no order that is done.
        self.assertFalse(finished([Stage(D(0))]))
        self.assertFalse(finished([]))

    def test_what_is_issued_whole_is_rounded_up_but_for_dust(self) -> None:
        self.assertEqual(backflushed(ExpectedLine("A", 0, per_start=F(1)), D(3), D(0), True), 3)
        self.assertEqual(backflushed(ExpectedLine("A", 0, per_start=F("0.33333333334")), D(3), D(0), True), 1)
        self.assertEqual(backflushed(ExpectedLine("A", 0, per_start=F("0.3334")), D(3), D(0), True), 2)
        self.assertEqual(backflushed(ExpectedLine("A", 0, per_start=F(1, 3)), D(1), D(0), False), D("0.333333333"))

    def test_nothing_started_takes_nothing_of_a_lot(self) -> None:
        line = ExpectedLine("GLUE", 0, per_start=F(2), per_lot=F(5), net_per_unit=F(1), net_per_lot=F(3))
        self.assertEqual((line.gross(F(0)), line.net(F(0))), (0, 0))
        self.assertEqual((line.gross(F(1)), line.net(F(1))), (7, 4))


class Expected(unittest.TestCase):
    def test_a_cycle_that_holds_nothing_said_is_one(self) -> None:
        cycle = ExpectedOperation(10, rates=Rates(F(1)), run_basis="per_cycle", run_hours=F(2))
        self.assertEqual(cycle.hours(F(7)), (0, 2))

    def test_an_operation_is_itself_unless_it_works_beside_one(self) -> None:
        self.assertEqual(ExpectedOperation(10).resource, 0)

    def test_no_hours_where_nothing_is_started_or_it_is_done_outside(self) -> None:
        turn = ExpectedOperation(10, setup_hours=F(2), run_hours=F(1))
        self.assertEqual((turn.hours(F(0)), turn.hours(F(1))), ((0, 0), (2, 1)))
        self.assertEqual(ExpectedOperation(10, setup_hours=F(2), run_hours=F(1), outside_price=F(9)).hours(F(1)), (0, 0))

    def test_yield_and_scrap_by_iso_22400(self) -> None:
        """ISO 22400-2, from memory: good of inspected, scrapped of produced; nothing of nothing is no figure."""
        self.assertEqual((first_pass_yield(D(9), D(10)), first_pass_yield(D(0), D(0))), (D("0.9"), None))
        self.assertEqual((scrap_ratio(D(1), D(4)), scrap_ratio(D(0), D(0))), (D("0.25"), None))

    def test_dust_of_a_cycle_is_none(self) -> None:
        oven = ExpectedOperation(10, run_hours=F(1), run_basis="per_cycle", cycle_quantity=F(4))
        self.assertEqual(oven.hours(F(12))[1], 3)
        self.assertEqual(oven.hours(F(12) + 4 * F(7, 10**10))[1], 3)
        self.assertEqual(oven.hours(F(12) + 4 * F(2, 10**9))[1], 4)

    def test_hours_of_an_order_are_those_of_set_up_and_run_together(self) -> None:
        turn = ExpectedOperation(10, setup_hours=F(2), run_hours=F(3), rates=Rates(F(1), F(1)))
        (row,) = [
            x
            for x in came_to(OrderPlan(F(1), [turn], []), F(1), [ActualWork(F(1), F(5), F(7), {})], [], {}).causes
            if x.cause == "labor efficiency"
        ]
        self.assertEqual(dict(row.terms)["hours"], 12)
        self.assertEqual(dict(row.terms)["allowed for what was started"], 5)

    def test_another_lot_is_told_of_the_order(self) -> None:
        """A set-up of 2 hours at 1 was spread over 10, and 5 came: of the 2 that a lot costs 1 was expected."""
        turn = ExpectedOperation(10, setup_hours=F(2), rates=Rates(setup_labor=F(1)))
        found = came_to(OrderPlan(F(10), [turn], []), F(5), [ActualWork(F(5), F(2), F(0), {"setup": F(2)})], [], {})
        self.assertEqual(
            [(c.cause, c.at, c.amount, dict(c.terms)) for c in found.causes if c.amount],
            [("lot", ("order", 0), 1, {"good units": 5, "ordered": 10})],
        )


class FromCosting(unittest.TestCase):
    def test_each_line_is_issued_where_the_sheet_says_and_a_phantom_where_it_stands(self) -> None:
        """By hand: 3 PIN at 10, 1 KIT at 20, which is 2 CLIP and 4 NUT; 1 CAP at no operation, so at the first."""
        definition = Definition(
            parts=[
                Part("TOP", kind="made"),
                Part("KIT", kind="phantom"),
                *(Part(n, unit_cost=D(1)) for n in ("PIN", "CLIP", "NUT", "CAP")),
            ],
            work_centers=[WorkCenter("W", labor_rate=D(30))],
            sheets=[
                Sheet(
                    "TOP",
                    status="released",
                    lines=[
                        Line(10, part="PIN", quantity=D(3), issue_at=10),
                        Line(20, part="KIT", quantity=D(1), issue_at=20),
                        Line(30, part="CAP", quantity=D(1)),
                    ],
                    operations=[Operation(10, "a", "W"), Operation(20, "b", "W")],
                ),
                Sheet("KIT", status="released", lines=[Line(10, part="CLIP", quantity=D(2)), Line(20, part="NUT", quantity=D(4))]),
            ],
        )
        parts, lines, operations, rows, _ = tabulate(definition, DAY)
        s = build_structure(parts, lines, operations, DAY, [])
        plan, _, usages = order_plan(s, rows["TOP"], roll_up(s, standard_lots(s)), F(6))
        self.assertEqual([s.parts.numbers[s.child[u]] for u in usages], [x.part for x in plan.lines])
        self.assertEqual(
            sorted((x.part, x.operation, x.per_start) for x in plan.lines), [("CAP", 0, 1), ("CLIP", 1, 2), ("NUT", 1, 4), ("PIN", 0, 3)]
        )
        # What a place is called is kept even where it is nothing.
        kept = plain_plan(plan)
        self.assertEqual({(x["part"], x["operation"]) for x in kept["lines"]}, {("CAP", 0), ("CLIP", 1), ("NUT", 1), ("PIN", 0)})
        self.assertEqual([x["sequence"] for x in kept["operations"]], [10, 20])
        self.assertEqual(read_plan(kept), plan)
        # What is as it would be anyway is not kept.
        bare = OrderPlan(F(2), [ExpectedOperation(10, rates=Rates(F(1)))], [ExpectedLine("CAP", 0, per_start=F(2))])
        kept = plain_plan(bare)
        self.assertEqual([set(x) for x in kept["lines"]], [{"part", "operation", "per_start"}])
        self.assertEqual([set(x) for x in kept["operations"]], [{"sequence", "rates"}])
        self.assertEqual(read_plan(kept), bare)

    def test_a_part_without_operations_has_one_to_report_at(self) -> None:
        lines = [Line(10, part="PIN", quantity=D(3))]
        parts = [Part("TOP", kind="made"), Part("PIN", unit_cost=D(1))]
        tables = tabulate(Definition(parts=parts, sheets=[Sheet("TOP", status="released", lines=lines)]), DAY)
        s = build_structure(*tables[:3], DAY, [])
        plan, rows, _ = order_plan(s, tables[3]["TOP"], roll_up(s, standard_lots(s)), F(6))
        self.assertEqual(([o.sequence for o in plan.operations], rows, [x.operation for x in plan.lines]), ([0], [], [0]))


class Worths(unittest.TestCase):
    def test_what_stands_at_nothing_is_not_kept(self) -> None:
        held = Worth(D(4), {"material": D(10), "labor": D(1)})
        self.assertEqual(held.stand_at({"material": D(3), "labor": D(0)}), {"material": D(2), "labor": D(-1)})
        self.assertEqual(held.elements, {"material": D(12)})
        empty = Worth()
        self.assertEqual((empty.stand_at({"material": D(3)}), empty.elements), ({}, {}))

    def test_what_is_not_there_has_no_mean(self) -> None:
        self.assertIsNone(Worth().mean())
        self.assertEqual(Worth(D("0.5"), {"material": D(1)}).mean(), {"material": D(2)})
