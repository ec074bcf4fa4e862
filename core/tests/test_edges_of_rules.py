"""Cases of the rules that generated structures seldom meet: where a sign, a term or a bound left out would show."""

import unittest
from datetime import date
from decimal import Decimal as D

import numpy as np
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis, Question, ask, tally
from tally_core.cost.causes import CAUSES, Costing, causes
from tally_core.cost.cost import Fixed, roll_up, standard_lots
from tally_core.cost.lot_curve import cost_at
from tally_core.cost.sensitivity import sensitivities
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet, Subcontract, WorkCenter
from tally_core.structure.needs import job_needs, uses_of
from tally_core.structure.overlay import Change, lay_over
from tally_core.structure.structure import Structure, build_structure
from tally_core.structure.tabulate import tabulate

DAY = date(2026, 6, 15)


def structure(definition: Definition, chosen: tuple[str, ...] = ()) -> tuple[Structure, list[str]]:
    parts, lines, operations, rows, codes = tabulate(definition, DAY)
    return build_structure(parts, lines, operations, DAY, [codes[o] for o in chosen]), list(rows)


def product(**changes: object) -> Definition:
    """M of one lathe takes two A and, through S, one B; every figure can be worked out in the head."""
    return Definition(
        work_centers=[WorkCenter("W", labor_rate=D(60), machine_rate=D(30))],
        parts=[
            Part("M", kind="made", costing_lot=D(10)),
            Part("S", kind="made", costing_lot=D(4)),
            Part("A", unit_cost=D(3)),
            Part("B", unit="kg", unit_cost=D(5)),
        ],
        sheets=[
            Sheet(
                "M",
                status="released",
                operations=[Operation(10, "Turn", "W", run_minutes=D(2)), Operation(20, "Fit", "W", run_minutes=D(1))],
                lines=[Line(10, part="A", quantity=D(2)), Line(20, part="S", quantity=D(1), issue_at=20)],
            ),
            Sheet(
                "S", status="released", operations=[Operation(10, "Cut", "W", run_minutes=D(4))], lines=[Line(10, part="B", quantity=D(1))]
            ),
        ],
    )


class Causing(unittest.TestCase):
    def costing(
        self, definition: Definition, keys: dict[str, int] | None = None, fixed: dict[str, float] | None = None
    ) -> tuple[Costing, list[str]]:
        s, numbers = structure(definition)
        names = keys or {n: i for i, n in enumerate("MSABCD")}
        standing = None
        if fixed:
            rows = np.array([numbers.index(n) for n in fixed])
            unit = np.zeros((len(rows), len(ELEMENTS)))
            unit[:, 0] = list(fixed.values())
            standing = Fixed(rows, unit, unit * 0.5)
        return Costing(s, standard_lots(s), np.array([names[n] for n in numbers]), standing), numbers

    def found(
        self, old: Definition, new: Definition, *, once: dict[str, float] | None = None, now: dict[str, float] | None = None
    ) -> dict[str, float]:
        """What each cause moves the unit cost of M by, with the standards that stood `once` and stand `now`."""
        a, _ = self.costing(old, fixed=once)
        b, numbers = self.costing(new, fixed=now)
        caused, before, after = causes(a, b)
        row = numbers.index("M")
        self.assertAlmostEqual(float(before[row] + caused[row].sum()), float(after[row]), places=9)
        return {name: round(float(x), 9) for name, x in zip(CAUSES, caused[row], strict=True) if abs(x) > 1e-9}

    def test_what_is_added_taken_away_or_moved_is_structure(self) -> None:
        old = product()
        more = product()
        more.sheets[0].operations.append(Operation(30, "Pack", "W", run_minutes=D(2)))
        # Two minutes of labor at 60 and of the machine at 30 an hour.
        self.assertEqual(self.found(old, more), {"structure": 3.0})
        self.assertEqual(self.found(more, old), {"structure": -3.0})
        bare = product()
        bare.sheets[0].operations = []
        bare.sheets[0].lines[1].issue_at = None
        self.assertEqual(self.found(bare, old), {"structure": 4.5})
        outside = product()
        outside.sheets[0].operations[1] = Operation(20, "Fit", subcontract=Subcontract("", D(7)))
        self.assertEqual(self.found(old, outside), {"structure": 5.5})
        self.assertEqual(self.found(outside, old), {"structure": -5.5})
        renumbered = product()
        renumbered.sheets[0].operations[1].sequence = 40
        renumbered.sheets[0].lines[1].issue_at = 40
        self.assertEqual(self.found(old, renumbered), {})
        extra = product()
        extra.parts.append(Part("C", unit_cost=D(2)))
        extra.sheets[0].lines.append(Line(30, part="C", quantity=D(1)))
        self.assertEqual(self.found(old, extra), {"structure": 2.0})
        self.assertEqual(self.found(extra, old), {"structure": -2.0})

    def test_a_part_on_several_lines_of_one_side(self) -> None:
        old, new = product(), product()
        new.sheets[0].lines = [Line(5, part="A", quantity=D(2)), Line(10, part="A", quantity=D(4)), new.sheets[0].lines[1]]
        self.assertEqual(self.found(old, new), {"structure": 12.0}, "the second line of it is new")
        self.assertEqual(self.found(new, old), {"structure": -12.0})
        three = product()
        three.sheets[0].lines = [Line(n, part="A", quantity=D(n)) for n in (1, 2, 3)] + [three.sheets[0].lines[1]]
        self.assertEqual(self.found(new, three), {"usage": -9.0, "structure": 9.0}, "2 and 4 become 1 and 2, and 3 is new")

    def test_a_part_that_changes_its_kind(self) -> None:
        old, new = product(), product()
        new.parts[1] = Part("S", kind="bought", unit_cost=D(9))
        new.sheets.pop()
        # Made: 5 for a kilogram and 4 min at 90 an hour, 11; bought: 9.
        self.assertEqual(self.found(old, new), {"structure": -2.0})
        self.assertEqual(self.found(new, old), {"structure": 2.0})

    def test_standards_that_come_change_and_go_are_prices(self) -> None:
        plain = product()
        self.assertEqual(self.found(plain, plain, once={"S": 8.0}, now={"S": 10.0}), {"price": 2.0})
        self.assertEqual(self.found(plain, plain, once={"S": 8.0}), {"price": 3.0})
        self.assertEqual(self.found(plain, plain, now={"S": 8.0}), {"price": -3.0})
        self.assertEqual(self.found(plain, plain, once={"A": 3.0}, now={"B": 5.0}), {})

    def test_parts_that_one_side_lacks(self) -> None:
        old, new = product(), product()
        new.parts.append(Part("C", unit_cost=D(2)))
        a, _ = self.costing(old)
        b, numbers = self.costing(new)
        caused, before, after = causes(a, b)
        row = numbers.index("C")
        self.assertTrue(np.isnan(caused[row]).all() and np.isnan(before[row]))
        self.assertEqual(after[row], 2.0)


class Costs(unittest.TestCase):
    def test_a_part_at_its_standard_keeps_both_its_levels(self) -> None:
        s, numbers = structure(product())
        unit, here = np.arange(9.0)[None], np.arange(9.0)[None] * 0.25
        row = numbers.index("S")
        costs = roll_up(s, standard_lots(s), Fixed(np.array([row]), unit, here))
        self.assertEqual(costs.unit[row].tolist(), unit[0].tolist())
        self.assertEqual(costs.this_level[row].tolist(), here[0].tolist())
        self.assertEqual(costs.lower_levels[row].tolist(), (unit - here)[0].tolist())

    def test_a_job_of_nothing_takes_nothing_and_depths_say_what_is_met(self) -> None:
        definition = product()
        definition.parts.append(Part("C", unit_cost=D(1)))
        definition.sheets[0].lines.append(Line(30, part="C", quantity=D(0)))
        definition.sheets[1].lines.append(Line(40, kind="byproduct", part="C", quantity=D(2), quantity_basis="per_lot"))
        s, numbers = structure(definition)
        needs = job_needs(s, numbers.index("M"), 3.0)
        self.assertEqual(dict(zip(numbers, needs.returns, strict=True))["C"], 2.0)
        depth = dict(zip(numbers, needs.depth.tolist(), strict=True))
        self.assertEqual(depth, {"M": 0, "S": 1, "A": 1, "B": 2, "C": 1})
        alone = job_needs(s, numbers.index("B"), 3.0)
        self.assertEqual(dict(zip(numbers, alone.depth.tolist(), strict=True)), {"M": -1, "S": -1, "A": -1, "B": 0, "C": -1})
        # A made part that nothing asks for makes no lot, and so takes nothing per lot.
        definition.sheets[0].lines[1].quantity = D(0)
        s, numbers = structure(definition)
        needs = job_needs(s, numbers.index("M"), 3.0)
        self.assertEqual((needs.gross[numbers.index("B")], needs.returns[numbers.index("C")]), (0.0, 0.0))
        self.assertEqual(needs.depth[numbers.index("B")], -1)

    def test_where_used_counts_levels(self) -> None:
        s, numbers = structure(product())
        taken, distance = uses_of(s, numbers.index("B"), standard_lots(s))
        self.assertEqual(dict(zip(numbers, distance.tolist(), strict=True)), {"M": 2, "S": 1, "A": -1, "B": 0})
        self.assertEqual(taken[numbers.index("M")], 1.0)

    def question(self, definition: Definition, top: str = "M", quantity: int | None = None) -> Question:
        return ask(definition, top, Basis(DAY, D(quantity) if quantity else None))

    def test_curves_of_what_is_not_made_are_flat(self) -> None:
        given = product()
        given.parts[0].given_cost, given.parts[0].given_reason = D(7), "agreed"
        for question, cost in ((self.question(product(), "A"), 3.0), (self.question(given), 7.0)):
            self.assertEqual([cost_at(question)(lot) for lot in (1.0, 2.5, 100.0)], [cost] * 3)
        made = self.question(product(), "S")
        setup = product()
        setup.sheets[1].operations[0].setup_minutes = D(12)
        curve = cost_at(self.question(setup, "S"))
        # 12 min at 90 an hour are 18, spread over the lot, upon 11.
        self.assertEqual([round(curve(lot), 9) for lot in (1.0, 2.5, 36.0)], [29.0, 18.2, 11.5])
        self.assertEqual(cost_at(made)(3.0), 11.0)

    def test_scrap_and_yield_take_each_others_place_when_laid_over(self) -> None:
        definition = product()
        definition.sheets[0].lines[0].yield_percent = D(80)
        parts, lines, operations, *_ = tabulate(definition, DAY)
        row = np.array([0])
        _, scrapped, _ = lay_over(parts, lines, operations, [Change("line", "scrap_percent", row, np.array([5.0]))])
        self.assertEqual((scrapped.scrap_percent[0], np.isnan(scrapped.yield_percent[0])), (5.0, True))
        _, back, _ = lay_over(parts, scrapped, operations, [Change("line", "yield_percent", row, np.array([90.0]))])
        self.assertEqual((np.isnan(back.scrap_percent[0]), back.yield_percent[0]), (True, 90.0))
        _, other, passing = lay_over(
            parts,
            lines,
            operations,
            [Change("line", "quantity", row, np.array([7.0])), Change("operation", "yield_percent", row, np.array([50.0]))],
        )
        self.assertEqual((other.yield_percent[0], passing.yield_percent[0]), (80.0, 50.0))
        self.assertEqual(lines.yield_percent[0], 80.0, "what was given stays as it is")
        _, more, _ = lay_over(parts, scrapped, operations, [Change("line", "quantity", row, np.array([7.0]))])
        self.assertEqual((more.quantity[0], more.scrap_percent[0]), (7.0, 5.0))

    def test_sensitivities_at_standards_and_of_odd_inputs(self) -> None:
        definition = product()
        definition.sheets[0].lines[0].quantity = D(1)
        definition.parts[1].unit_cost = D(99)  # of a made part: it costs nothing
        s, numbers = structure(definition)
        costs = roll_up(s, standard_lots(s))
        tables = sensitivities(s, costs, numbers.index("M")).tables
        row = {n: i for i, n in enumerate(numbers)}
        self.assertEqual(tables["part"]["unit_cost"][[row["S"], row["A"], row["B"]]].tolist(), [0.0, 0.03, 0.05])
        line = next(i for i in range(len(s.lines)) if s.lines.child[i] == row["A"])
        self.assertEqual(tables["line"]["quantity"][line], 0.03)
        fixed = Fixed(np.array([row["S"]]), np.full((1, len(ELEMENTS)), 1.0), np.zeros((1, len(ELEMENTS))))
        standing = sensitivities(s, roll_up(s, standard_lots(s), fixed), row["M"], fixed=fixed).tables["part"]
        self.assertEqual(
            (standing["standard"][row["S"]], standing["unit_cost"][row["B"]], standing["unit_cost"][row["S"]]), (0.09, 0.0, 0.0)
        )

    def test_an_option_takes_away_to_the_last_of_it(self) -> None:
        def with_removal(quantity: str, kind: str = "component", unit: str | None = None) -> Definition:
            definition = product()
            definition.options = {"LESS": ""}
            definition.sheets[1].lines[0].kind = kind
            definition.sheets[1].lines.append(
                Line(20, kind=kind, part="B", quantity=D(quantity), unit=unit, option="LESS", option_action="remove")
            )
            return definition

        s, numbers = structure(with_removal("1"), ("LESS",))
        self.assertEqual(job_needs(s, numbers.index("S"), 1.0).gross[numbers.index("B")], 0.0)
        s, numbers = structure(with_removal("1000", unit="g"), ("LESS",))
        self.assertEqual(job_needs(s, numbers.index("S"), 1.0).gross[numbers.index("B")], 0.0)
        s, numbers = structure(with_removal("0.999999"), ("LESS",))
        self.assertAlmostEqual(job_needs(s, numbers.index("S"), 1.0).gross[numbers.index("B")], 1e-6)
        for kind, word in (("component", r"items 10\)"), ("byproduct", r"items 10\)")):
            with self.assertRaisesRegex(TallyError, f"sheet S, item 20: .* removes 1.5 kg of B, 0.5 kg more than is there .{word}"):
                structure(with_removal("1.5", kind), ("LESS",))
        nothing = with_removal("1")
        nothing.sheets[1].lines[0].kind = "byproduct"
        with self.assertRaisesRegex(TallyError, "no line with it as a component counts"):
            structure(nothing, ("LESS",))
        nothing.sheets[1].lines[0].kind, nothing.sheets[1].lines[1].kind = "component", "byproduct"
        with self.assertRaisesRegex(TallyError, "no line with it as a by-product counts"):
            structure(nothing, ("LESS",))

    def test_what_a_product_does_not_take_cannot_stand_in_its_way(self) -> None:
        definition = product()
        definition.parts.append(Part("X", kind="made"))
        definition.sheets.append(Sheet("X", status="released", lines=[Line(10, part="B", quantity=D(1), unit="mm")]))
        parts, lines, operations, rows, _ = tabulate(definition, DAY)
        self.assertEqual(len(build_structure(parts, lines, operations, DAY, [], top=rows["M"]).child), 3)
        for top in (rows["X"], None):
            with self.assertRaisesRegex(TallyError, "sheet X, item 10"):
                build_structure(parts, lines, operations, DAY, [], top=top)

    def test_the_default_alternate_counts(self) -> None:
        # Two A, one S of a kilogram and 4 min, 3 min of its own at 90 an hour; or one A.
        for default, cost in ((None, 6 + 11 + 4.5), ("A", 6 + 11 + 4.5), ("B", 3.0)):
            definition = product()
            definition.parts[0].default_alternate = default
            definition.sheets.append(Sheet("M", "B", status="released", lines=[Line(10, part="A", quantity=D(1))]))
            s, numbers = structure(definition)
            costs = roll_up(s, standard_lots(s))
            self.assertAlmostEqual(float(costs.unit[numbers.index("M")].sum()), cost, msg=str(default))

    def test_phantoms_have_no_work_and_no_lots(self) -> None:
        definition = product()
        definition.parts[1].kind = "phantom"
        with self.assertRaisesRegex(TallyError, "sheet S, operation 10: S is a phantom"):
            structure(definition)
        definition.sheets[1].operations = []
        self.assertEqual(len(structure(definition)[0].child), 3)
        definition.sheets[1].lines[0].fixed_loss = D(1)
        with self.assertRaisesRegex(TallyError, "sheet S, item 10: S is a phantom"):
            structure(definition)

    def test_units_that_do_not_convert_are_named_with_their_sheet(self) -> None:
        definition = product()
        definition.sheets[1].lines[0].unit = "m"
        with self.assertRaisesRegex(TallyError, "S.*B|B.*S"):
            structure(definition)

    def test_a_tally_of_a_job_and_of_standard_lots(self) -> None:
        costs, needs = tally(self.question(product()))
        self.assertIsNone(needs)
        costs, needs = tally(self.question(product(), quantity=20))
        assert needs is not None
        self.assertEqual(round(float(costs.unit[0].sum()), 9), 21.5)
