"""Cases of the rules that generated structures seldom meet: where a sign, a term or a bound left out would show."""

import unittest
from datetime import date, datetime
from decimal import Decimal as D

import numpy as np
from tally_core.answers import Basis, Question, ask, tally
from tally_core.calendars import Calendar, parse_shifts, work_before, work_by_week, work_from
from tally_core.causes import CAUSES, Costing, causes
from tally_core.checks import check
from tally_core.cost import Fixed, roll_up, standard_lots
from tally_core.critical_path import critical_path, earliest
from tally_core.definition import Definition, Line, Operation, Part, Sheet, Subcontract, WorkCenter
from tally_core.elements import ELEMENTS
from tally_core.errors import TallyError
from tally_core.leadtime import TimeTable, elapsed, lead_times
from tally_core.lot_curve import cost_at
from tally_core.needs import job_needs, uses_of
from tally_core.overlay import Change, lay_over
from tally_core.schedule import Overlap, Step, routing_order, schedule_backward, schedule_forward
from tally_core.sensitivity import sensitivities
from tally_core.structure import Structure, build_structure
from tally_core.survey import survey
from tally_core.tables import NO_END
from tally_core.tabulate import tabulate

DAY = date(2026, 6, 15)


def structure(definition: Definition, chosen: tuple[str, ...] = ()) -> tuple[Structure, list[str]]:
    parts, lines, operations, rows, codes = tabulate(definition, DAY)
    return build_structure(parts, lines, operations, DAY, [codes[o] for o in chosen]), list(rows)


def product(**changes: object) -> Definition:
    """M of one lathe takes two A and, through S, one B; every figure can be worked out in the head."""
    return Definition(
        work_centers=[WorkCenter("W", labor_rate=D(60), machine_rate=D(30))],
        parts=[Part("M", kind="made", costing_lot=D(10)), Part("S", kind="made", costing_lot=D(4)),
               Part("A", unit_cost=D(3)), Part("B", unit="kg", unit_cost=D(5))],
        sheets=[
            Sheet("M", status="released", operations=[Operation(10, "Turn", "W", run_minutes=D(2)), Operation(20, "Fit", "W", run_minutes=D(1))],
                  lines=[Line(10, part="A", quantity=D(2)), Line(20, part="S", quantity=D(1), issue_at=20)]),
            Sheet("S", status="released", operations=[Operation(10, "Cut", "W", run_minutes=D(4))], lines=[Line(10, part="B", quantity=D(1))]),
        ],
    )  # fmt: skip


class Calendars(unittest.TestCase):
    WEEK = parse_shifts("Mo-Fr 08:00-16:00")

    def test_shifts_that_cannot_be(self) -> None:
        for text in (
            "Xx-Fr 08:00-16:00",
            "Mo-Xx 08:00-16:00",
            "Mo 08:60-16:00",
            "Mo 08:00-16:60",
            "Mo 08:00-25:00",
            "Mo 08:00-08:00",
            "",
            ";",
            "Mo 08:00-12:00; Mo 11:59-13:00",
        ):
            with self.assertRaises(TallyError, msg=text):
                parse_shifts(text)
        self.assertEqual(parse_shifts("mo 08:00-12:00; Mo 12:00-24:00").shifts[0], ((480, 720), (720, 1440)))
        self.assertEqual(parse_shifts("Su 22:00-24:00").shifts[6], ((1320, 1440),))
        self.assertEqual(parse_shifts("Sa-Mo 08:00-09:00").shifts[5:], (((480, 540),), ((480, 540),)))
        self.assertEqual(parse_shifts("Fr 20:00-00:00").shifts[4:6], (((1200, 1440),), ()))
        self.assertEqual(self.WEEK.share(), 5 * 8 / (7 * 24))

    def test_work_at_the_edges_of_a_shift(self) -> None:
        friday = datetime(2026, 11, 27, 16)
        self.assertEqual(work_from(self.WEEK, friday, 1), datetime(2026, 11, 30, 8, 1))
        self.assertEqual(work_from(self.WEEK, friday, 0), friday)
        self.assertEqual(work_from(self.WEEK, datetime(2026, 11, 27, 8), 480), friday)
        self.assertEqual(work_before(self.WEEK, datetime(2026, 11, 30, 8), 1), datetime(2026, 11, 27, 15, 59))
        self.assertEqual(work_before(self.WEEK, friday, 480), datetime(2026, 11, 27, 8))
        self.assertEqual(work_before(self.WEEK, friday, 0), friday)
        self.assertEqual(work_by_week(self.WEEK, friday, 0), {})
        self.assertEqual(work_by_week(self.WEEK, datetime(2026, 11, 27, 8), 480), {date(2026, 11, 23): 480.0})

    def test_stops_take_out_just_their_time(self) -> None:
        def spans(first: datetime, last: datetime, day: date) -> tuple:
            return Calendar(self.WEEK.shifts, stops=((first, last),)).spans(day)

        day = date(2026, 11, 25)
        self.assertEqual(
            spans(datetime(2026, 11, 25, 10, 30), datetime(2026, 11, 25, 11), day), ((480, 630), (660, 960))
        )
        self.assertEqual(spans(datetime(2026, 11, 24, 10), datetime(2026, 11, 25, 9), day), ((540, 960),))
        self.assertEqual(spans(datetime(2026, 11, 25, 15), datetime(2026, 11, 26, 9), day), ((480, 900),))
        self.assertEqual(spans(datetime(2026, 11, 24), datetime(2026, 11, 26), day), ())
        self.assertEqual(spans(datetime(2026, 11, 26), datetime(2026, 11, 27), day), ((480, 960),))
        self.assertEqual(Calendar(self.WEEK.shifts, frozenset({day})).spans(day), ())


class Schedules(unittest.TestCase):
    START = datetime(2026, 11, 25)

    def minutes(self, moments: list[datetime]) -> list[float]:
        return [(moment - self.START).total_seconds() / 60 for moment in moments]

    def test_overlaps_forward(self) -> None:
        """The second begins after 20 of the first one's 100 minutes, and ends no sooner than 5 after the first has ended."""
        quick = schedule_forward([Step(100.0), Step(30.0)], [[], [0]], self.START, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual(
            (self.minutes(quick.start), self.minutes(quick.end), quick.chain), ([0, 20], [100, 105], [0, 1])
        )
        slow = schedule_forward([Step(100.0), Step(90.0)], [[], [0]], self.START, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual((self.minutes(slow.start), self.minutes(slow.end)), ([0, 20], [100, 110]))
        exact = schedule_forward([Step(100.0), Step(85.0)], [[], [0]], self.START, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual(self.minutes(exact.end), [100, 105])

    def test_overlaps_backward(self) -> None:
        end = self.START
        found = schedule_backward([Step(100.0), Step(30.0)], [[], [0]], end, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual(
            (self.minutes(found.start), self.minutes(found.end), found.chain), ([-105, -30], [-5, 0], [0, 1])
        )
        slow = schedule_backward([Step(100.0), Step(90.0)], [[], [0]], end, {(1, 0): Overlap(20.0, 5.0)})
        # It has to begin 20 minutes after the first one, which ends 5 before it does: so the first begins at -110.
        self.assertEqual((self.minutes(slow.start), self.minutes(slow.end)), ([-110, -90], [-10, 0]))

    def test_the_chain_is_what_sets_it(self) -> None:
        # Two that take as long lead to the third: the one met first stands in the chain; a shorter one never does.
        found = schedule_forward([Step(5.0), Step(5.0), Step(4.0), Step(1.0)], [[], [], [], [0, 1, 2]], self.START)
        self.assertEqual(found.chain, [0, 3])
        back = schedule_backward([Step(5.0), Step(1.0), Step(1.0), Step(4.0)], [[], [0], [0], [0]], self.START)
        self.assertEqual((back.chain, self.minutes(back.start)), ([0, 3], [-9, -1, -1, -4]))
        self.assertEqual(schedule_forward([], [], self.START).chain, [])
        self.assertEqual(schedule_backward([], [], self.START).chain, [])
        self.assertEqual(schedule_backward([Step(1.0)], [[]], self.START).chain, [0])

    def test_waits_and_moves(self) -> None:
        week = parse_shifts("Mo-Fr 08:00-16:00")
        step = Step(60.0, 24 * 60.0, 30.0, week)
        friday = datetime(2026, 11, 27, 15)
        self.assertEqual(step.end(friday), datetime(2026, 11, 30, 8, 30))
        self.assertEqual(step.end(step.start(datetime(2026, 11, 30, 8, 30))), datetime(2026, 11, 30, 8, 30))
        self.assertEqual(Step(60.0, 30.0, 10.0).end(self.START), datetime(2026, 11, 25, 1, 40))
        self.assertEqual(Step(60.0, 30.0, 10.0).start(datetime(2026, 11, 25, 1, 40)), self.START)

    def test_the_path_of_a_loop_begins_with_its_smallest(self) -> None:
        with self.assertRaisesRegex(TallyError, "10 → (20 → 30|30 → 20) → 10$"):
            routing_order({30: [20], 20: [10], 10: [30]})

    def test_long_narrow_networks_and_their_loops(self) -> None:
        """Longer than the way by fronts is worth: edge by edge, in any numbering, with what begins later."""
        count = 400
        before, after = np.arange(count - 1), np.arange(1, count)
        lag = np.ones(count - 1)
        begin = np.zeros(count)
        begin[200] = 1000.0
        wanted = np.where(np.arange(count) < 200, np.arange(count), 800 + np.arange(count)).astype(float)
        self.assertEqual(earliest(begin, before, after, lag).tolist(), wanted.tolist())
        turned = count - 1 - np.arange(count)
        self.assertEqual(
            earliest(begin[::-1].copy(), turned[before], turned[after], lag).tolist(), wanted[::-1].tolist()
        )
        with self.assertRaisesRegex(ValueError, "wait for one another"):
            critical_path(np.ones(3), np.array([0, 1]), np.array([1, 1]))
        for first, then in ((count - 1, 0), (5, 5)):
            with self.assertRaisesRegex(ValueError, "wait for one another"):
                earliest(begin, np.append(before, first), np.append(after, then), np.append(lag, 1.0))
        end, path = critical_path(np.ones(count), turned[before], turned[after])
        self.assertEqual((end.max(), path), (count, turned.tolist()))


class LeadTimes(unittest.TestCase):
    def table(self, s: Structure, **given: object) -> TimeTable:
        count = len(s.operations)
        columns: dict[str, object] = {
            "before": np.zeros(0, dtype=np.int64), "after": np.zeros(0, dtype=np.int64), "queue_minutes": np.zeros(count),
            "wait_minutes": np.zeros(count), "move_minutes": np.zeros(count), "stations": np.ones(count),
            "transfer_quantity": np.full(count, np.nan), "outside_days": np.zeros(count), "share": np.ones(count),
            "lead_days": np.zeros(len(s.parts)),
        }  # fmt: skip
        return TimeTable(**{n: columns[n] for n in TimeTable.__dataclass_fields__} | given)  # type: ignore[arg-type]

    def test_on_a_calendar_that_is_open_a_part_of_the_week(self) -> None:
        """At a quarter of the hours, work takes four times as long and a wait as long as ever."""
        s, numbers = structure(product())
        at = {
            (numbers[p], int(q)): i
            for i, (p, q) in enumerate(zip(s.operations.parent, s.operations.sequence, strict=True))
        }
        first, second, below = at["M", 10], at["M", 20], at["S", 10]
        waits = np.zeros(len(s.operations))
        waits[first] = 1440.0
        moves = np.zeros(len(s.operations))
        moves[below] = 60.0
        times = self.table(s, before=np.array([first]), after=np.array([second]), wait_minutes=waits, move_minutes=moves,
                           share=np.full(len(s.operations), 0.25))  # fmt: skip
        found = dict(zip(numbers, lead_times(s, times, standard_lots(s)), strict=True))
        # S: 4 x 4 min and an hour of moving, four times; M: 20 min four times, a day, then 10 min four times; S is there long before.
        self.assertAlmostEqual(found["S"], (4 * 4 + 60) * 4 / 1440)
        self.assertAlmostEqual(found["M"], (20 * 4 + 1440 + 10 * 4) / 1440)

    def test_overlap_with_a_yield_between(self) -> None:
        """The first passes half of what it starts: two it has started become one of the ten the second starts."""
        definition = product()
        definition.sheets[0].operations[0].yield_percent = D(50)
        s, numbers = structure(definition)
        row = numbers.index("M")
        first, second = (i for i, p in enumerate(s.operations.parent) if p == row)
        moved = np.full(len(s.operations), np.nan)
        moved[first] = 2.0
        times = self.table(
            s,
            before=np.array([first]),
            after=np.array([second]),
            transfer_quantity=moved,
            queue_minutes=np.full(len(s.operations), 3.0),
        )
        spent = elapsed(s, times, standard_lots(s))
        # 20 are started at 2 min each; two of them take 4 min after a queue of 3; the second's share of one of ten is 1 min.
        self.assertEqual((spent.overlaps.tolist(), spent.lead.tolist(), spent.tail.tolist()), ([True], [7.0], [1.0]))
        days = dict(zip(numbers, lead_times(s, times, standard_lots(s)), strict=True))
        self.assertAlmostEqual(days["M"] * 1440, 3 + 40 + 1)


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
        self,
        old: Definition,
        new: Definition,
        *,
        once: dict[str, float] | None = None,
        now: dict[str, float] | None = None,
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
        new.sheets[0].lines = [
            Line(5, part="A", quantity=D(2)),
            Line(10, part="A", quantity=D(4)),
            new.sheets[0].lines[1],
        ]
        self.assertEqual(self.found(old, new), {"structure": 12.0}, "the second line of it is new")
        self.assertEqual(self.found(new, old), {"structure": -12.0})
        three = product()
        three.sheets[0].lines = [Line(n, part="A", quantity=D(n)) for n in (1, 2, 3)] + [three.sheets[0].lines[1]]
        self.assertEqual(
            self.found(new, three), {"usage": -9.0, "structure": 9.0}, "2 and 4 become 1 and 2, and 3 is new"
        )

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
        self.assertEqual(
            dict(zip(numbers, alone.depth.tolist(), strict=True)), {"M": -1, "S": -1, "A": -1, "B": 0, "C": -1}
        )
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
            [
                Change("line", "quantity", row, np.array([7.0])),
                Change("operation", "yield_percent", row, np.array([50.0])),
            ],
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
            (standing["standard"][row["S"]], standing["unit_cost"][row["B"]], standing["unit_cost"][row["S"]]),
            (0.09, 0.0, 0.0),
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
            with self.assertRaisesRegex(
                TallyError, f"sheet S, item 20: .* removes 1.5 kg of B, 0.5 kg more than is there .{word}"
            ):
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


class Checking(unittest.TestCase):
    TODAY = date(2026, 11, 24)

    def found(self, definition: Definition, day: date | None = None, code: str = "") -> list[tuple[str, str, str, int]]:
        s = survey(definition)
        return [(f.code, f.severity, s.numbers[f.part], int(s.item[f.line]) if f.line >= 0 else -1)
                for f in check(s, day or self.TODAY) if not code or f.code == code]  # fmt: skip

    def revisions(self, *days: tuple[str | None, str | None]) -> list[str]:
        definition = product()
        one = definition.sheets.pop(0)
        for name, (first, last) in zip("ABCDE", days, strict=False):
            definition.sheets.append(Sheet("M", revision=name, status="released", lines=one.lines, operations=one.operations,
                                           effective_from=date.fromisoformat(first) if first else None,
                                           effective_to=date.fromisoformat(last) if last else None))  # fmt: skip
        s = survey(definition)
        return [f.message for f in check(s, self.TODAY) if f.code == "overlap"]

    def test_days_that_overlap_further_on(self) -> None:
        """A from January on, B for February, C from May on: B lies inside A, and C meets A although B stands between."""
        said = self.revisions(("2026-01-01", None), ("2026-02-01", "2026-03-01"), ("2026-05-01", None))
        self.assertEqual(said, [
            "revisions A and B are both in force from 2026-02-01 on", "revisions A and C are both in force from 2026-05-01 on",
        ])  # fmt: skip
        self.assertEqual(
            self.revisions(("2026-01-01", "2026-02-01"), ("2026-02-01", "2026-05-01"), ("2026-05-01", None)), []
        )
        self.assertEqual(
            self.revisions((None, "2026-02-02"), ("2026-02-01", None)),
            ["revisions A and B are both in force from 2026-02-01 on"],
        )
        self.assertEqual(
            self.revisions((None, None), (None, "2026-02-01")),
            ["revisions A and B are both in force from the start on"],
        )
        self.assertEqual(self.revisions(("2026-01-01", "2026-03-01"), ("2026-02-01", "2026-06-01"), ("2026-05-01", None)), [
            "revisions A and B are both in force from 2026-02-01 on", "revisions B and C are both in force from 2026-05-01 on",
        ])  # fmt: skip

    def test_alternates_and_drafts_do_not_overlap(self) -> None:
        definition = product()
        first = definition.sheets[0]
        definition.sheets += [Sheet("M", alternate="B", status="released", lines=first.lines, operations=first.operations),
                              Sheet("M", revision="C", lines=first.lines, operations=first.operations)]  # fmt: skip
        self.assertEqual(self.found(definition, code="overlap"), [])

    def test_a_loop_on_no_day_is_none_and_one_on_some_day_is(self) -> None:
        def looping(first: str, last: str) -> list:
            definition = product()
            definition.sheets[1].lines.append(
                Line(
                    70,
                    part="M",
                    quantity=D(1),
                    effective_from=date.fromisoformat(first),
                    effective_to=date.fromisoformat(last),
                )
            )
            definition.sheets[0].effective_to = date(2027, 1, 1)
            return self.found(definition, code="loop")

        self.assertEqual(looping("2027-01-01", "2028-01-01"), [], "the sheets never meet")
        self.assertEqual(len(looping("2026-12-31", "2028-01-01")), 1)
        self.assertEqual(len(looping("2026-01-01", "2026-01-02")), 1)

    def test_days_of_lines_and_sheets(self) -> None:
        def obsolete(**days: date) -> list:
            definition = product()
            definition.parts[2].lifecycle = "obsolete"
            for name, value in days.items():
                setattr(definition.sheets[0].lines[0], name, value)
            return self.found(definition, code="lifecycle")

        self.assertEqual(len(obsolete(effective_from=self.TODAY)), 1)
        self.assertEqual(obsolete(effective_from=date(2026, 11, 25)), [])
        self.assertEqual(len(obsolete(effective_to=date(2026, 11, 25))), 1)
        self.assertEqual(obsolete(effective_to=self.TODAY), [])
        for first, last, count in ((self.TODAY, None, 1), (date(2026, 11, 25), None, 0), (None, self.TODAY, 0)):
            definition = product()
            definition.parts[2].lifecycle = "obsolete"
            definition.sheets[0].effective_from, definition.sheets[0].effective_to = first, last
            self.assertEqual(len(self.found(definition, code="lifecycle")), count, (first, last))

    def test_a_missing_sheet_under_a_draft_is_worth_a_look(self) -> None:
        definition = product()
        definition.sheets.pop()
        self.assertEqual(self.found(definition, code="no-sheet"), [("no-sheet", "stops", "M", 20)])
        definition.sheets[0].status = "draft"
        self.assertEqual(self.found(definition, code="no-sheet"), [("no-sheet", "look", "M", 20)])
        drafts = product()
        drafts.sheets[1].status = "draft"
        self.assertEqual(self.found(drafts, code="no-sheet"), [("no-sheet", "stops", "M", 20)])
        drafts.sheets[0].status = "draft"
        self.assertEqual(self.found(drafts, code="no-sheet"), [])

    def test_what_counts_nothing_or_is_not_ours_is_let_be(self) -> None:
        definition = product()
        definition.parts[2].unit_cost = None
        self.assertEqual(len(self.found(definition, code="no-cost")), 1)
        definition.sheets[0].lines[0].customer_supplied = True
        self.assertEqual(self.found(definition, code="no-cost"), [])
        definition.sheets[0].lines[0].customer_supplied, definition.sheets[0].lines[0].not_fitted = False, True
        self.assertEqual(self.found(definition, code="no-cost"), [])
        definition.sheets[0].lines[0].not_fitted = False
        definition.parts[2].given_cost = D(0)
        self.assertEqual(self.found(definition, code="no-cost"), [], "a cost given by hand is one")
        removing = product()
        removing.parts[2].unit_cost, removing.parts[2].lifecycle = None, "obsolete"
        removing.sheets[0].lines[0].not_fitted = True
        removing.sheets[0].lines.append(Line(30, part="A", quantity=D(0), option="X", option_action="remove"))
        self.assertEqual([f[0] for f in self.found(removing)], ["no-quantity"])
        unit = product()
        unit.sheets[1].lines[0].unit, unit.sheets[1].lines[0].not_fitted = "m", True
        self.assertEqual(self.found(unit, code="unit"), [])
        kilograms = product()
        kilograms.sheets[1].lines[0].unit = None
        self.assertEqual(self.found(kilograms, code="unit"), [], "a line without a unit is in its part's")

    def places(self, *lines: Line) -> list[tuple[str, int]]:
        definition = product()
        definition.sheets[0].lines[:1] = list(lines)
        return [
            (f.message, int(survey(definition).item[f.line]))
            for f in check(survey(definition), self.TODAY)
            if f.code == "designators"
        ]

    def test_designators(self) -> None:
        """Common practice: as many reference designators as pieces, each place once; exchanged parts share theirs."""
        self.assertEqual(
            self.places(
                Line(10, part="A", quantity=D(1), unit="dozen", reference_designators=[f"R{n}" for n in range(12)])
            ),
            [],
        )
        self.assertEqual(
            self.places(Line(10, part="A", quantity=None, reference_designators=["R1"])), [], "as needed is no count"
        )
        self.assertEqual(
            self.places(Line(10, part="B", quantity=D(3), reference_designators=["R1"])), [], "kilograms are no count"
        )
        one = Line(10, part="A", quantity=D(1), reference_designators=["R1"])

        def other(**more: object) -> Line:
            return Line(30, part="A", quantity=D(1), reference_designators=["R1"], **more)  # type: ignore[arg-type]

        self.assertEqual(self.places(one, other()), [("R1 stands at item 10 too", 30)])
        self.assertEqual(self.places(one, other(option="X")), [])
        self.assertEqual(self.places(one, other(option="X", option_action="remove")), [])
        self.assertEqual(self.places(one, other(not_fitted=True)), [])
        xs = Line(10, part="A", quantity=D(1), reference_designators=["R1"], option="X")
        self.assertEqual(self.places(xs, other(option="Y")), [])
        self.assertEqual(self.places(xs, other(option="X")), [("R1 stands at item 10 too", 30)])

    def test_items_options_and_defaults(self) -> None:
        definition = product()
        definition.sheets[0].lines[0].item = definition.sheets[0].lines[1].item = 1
        self.assertEqual(self.found(definition, code="item-twice"), [("item-twice", "look", "M", 1)])
        definition.sheets[0].lines[0].item = definition.sheets[0].lines[1].item = None
        self.assertEqual(self.found(definition, code="item-twice"), [])
        options = product()
        for item, code in ((30, "X"), (40, "Y"), (50, "X")):
            options.sheets[0].lines.append(Line(item, part="A", quantity=D("1.5"), option=code, option_action="remove"))
        # X alone takes 3 of the 2 that are there; what it does together with Y is no second finding.
        self.assertEqual(self.found(options, code="option-removes"), [("option-removes", "stops", "M", 30)])
        stated = product()
        for item, code in ((30, "X"), (40, "Y")):
            stated.sheets[0].lines.append(Line(item, part="A", quantity=D("1.5"), option=code, option_action="remove"))
        self.assertEqual(self.found(stated, code="option-removes"), [("option-removes", "look", "M", 40)])
        for stating in ({"X": ["Y"]}, {"Y": ["X"]}):
            stated.not_together = stating
            self.assertEqual(self.found(stated, code="option-removes"), [])
        adding = product()
        adding.sheets[0].lines += [
            Line(30, part="A", quantity=D(1), option="ADDS"),
            Line(40, part="A", quantity=D(3), option="LESS", option_action="remove"),
        ]
        self.assertEqual(
            self.found(adding, code="option-removes"),
            [("option-removes", "stops", "M", 40)],
            "what another option adds is not there without it",
        )
        self.assertEqual(survey(adding).removes.tolist(), [False, False, False, True, False])
        needed = product()
        needed.sheets[0].lines[0].quantity = None
        needed.sheets[0].lines.append(Line(30, part="A", quantity=D(1), option="X", option_action="remove"))
        self.assertEqual(
            self.found(needed, code="option-removes"),
            [("option-removes", "stops", "M", 30)],
            "as needed is nothing to take from",
        )
        lost = product()
        lost.parts[0].default_alternate = "Z"
        (finding,) = [f for f in check(survey(lost), self.TODAY) if f.code == "lost-default"]
        self.assertEqual((finding.part, finding.sheet, finding.line), (0, -1, -1))

    def test_the_survey_holds_what_was_stated(self) -> None:
        s = survey(product())
        self.assertEqual((s.item.tolist(), s.line_last_day.tolist()[0]), ([10, 20, 10], NO_END))
        self.assertEqual(s.counts.tolist(), [True, True, True])
        noted = product()
        noted.sheets[0].lines += [
            Line(None, kind="text", text="note"),
            Line(40, part="A", quantity=D(1), not_fitted=True),
        ]
        found = survey(noted)
        self.assertEqual(
            (found.counts.tolist(), found.item.tolist(), found.child.tolist()[2]),
            ([True, True, False, False, True], [10, 20, 0, 40, 10], -1),
        )
