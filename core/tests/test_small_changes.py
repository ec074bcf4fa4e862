"""Cases that nothing but a small change of a rule would show: found by ``./tally mutate``, each worked by hand."""

import unittest
from datetime import date, datetime
from decimal import Decimal as D

import numpy as np
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError, UnitError
from tally_core.basics.ordering import find_loop
from tally_core.basics.units import SYMBOLS
from tally_core.calendar.calendars import Calendar, parse_shifts, work_by_week, work_from
from tally_core.calendar.critical_path import critical_path, earliest
from tally_core.calendar.schedule import Step, schedule_forward
from tally_core.checks.survey import survey
from tally_core.cost.causes import CAUSES, Costing, causes
from tally_core.cost.cost import Fixed, standard_lots
from tally_core.lists.intake import designators, propose_without_header, read_rows
from tally_core.stated.compare import compare_sheets, pair
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet, Subcontract, WorkCenter
from tally_core.structure.structure import Structure, build_structure, starts_per_good_unit
from tally_core.structure.tabulate import tabulate
from tally_core.time.leadtime import TimeTable, elapsed, lead_times, order_of_work, routing_times

DAY = date(2026, 6, 15)


def structured(definition: Definition, options: tuple[str, ...] = ()) -> tuple[Structure, dict[str, int]]:
    parts, lines, operations, rows, codes = tabulate(definition, DAY)
    return build_structure(parts, lines, operations, DAY, [codes[o] for o in options]), rows


class Calendars(unittest.TestCase):
    def test_minutes_of_shifts_and_stops(self) -> None:
        self.assertEqual(parse_shifts("Mo 08:15-16:45").shifts[0], ((495, 1005),))
        self.assertEqual(parse_shifts("Mo 07:59-08:59").shifts[0], ((479, 539),))
        self.assertEqual(parse_shifts("Mo 00:00-24:00").shifts[0], ((0, 1440),))
        week = parse_shifts("Mo-Fr 08:00-16:00").shifts
        stop = (datetime(2026, 11, 25, 9, 10), datetime(2026, 11, 25, 11, 50))
        self.assertEqual(Calendar(week, stops=(stop,)).spans(date(2026, 11, 25)), ((480, 550), (710, 960)))

    def test_dust_and_small_pieces_of_work(self) -> None:
        week = parse_shifts("Mo-Fr 08:00-16:00")
        done = work_from(week, datetime(2026, 11, 27, 8), 480 + 1e-10)
        self.assertEqual(done.date(), date(2026, 11, 27), "dust does not wait for Monday")
        self.assertEqual(work_by_week(week, datetime(2026, 11, 27, 8), 0.5), {date(2026, 11, 23): 0.5})


class Networks(unittest.TestCase):
    def test_a_long_narrow_network_that_ends_in_itself(self) -> None:
        """Too narrow for the way by fronts, and every edge but the last leads on: the last leads to where it comes from."""
        before = np.append(np.arange(40), 40)
        after = np.append(np.arange(1, 41), 40)
        with self.assertRaisesRegex(ValueError, "wait for one another"):
            earliest(np.zeros(41), before, after, np.ones(41))

    def test_nothing_has_no_path(self) -> None:
        nothing = np.zeros(0, dtype=np.int64)
        end, path = critical_path(np.zeros(0), nothing, nothing)
        self.assertEqual((end.tolist(), path), ([], []))

    def test_a_loop_is_found_behind_a_way_that_leads_into_it(self) -> None:
        self.assertIn(find_loop(3, np.array([1, 2, 0]), np.array([2, 1, 1])), ([1, 2, 1], [2, 1, 2]))

    def test_one_operation_starts_what_it_loses_and_no_operation_nothing(self) -> None:
        self.assertEqual(starts_per_good_unit(np.array([0]), np.array([50.0])).tolist(), [2.0])
        self.assertEqual(starts_per_good_unit(np.array([], dtype=int), np.array([])).tolist(), [])

    def test_a_unit_that_nobody_knows_is_refused_where_columns_are_made(self) -> None:
        for part, line in (
            (Part("K", unit="bushel"), Line(part="K", quantity=D(1))),
            (Part("K"), Line(part="K", quantity=D(1), unit="bushel")),
        ):
            held = Definition(parts=[Part("M", kind="made"), part], sheets=[Sheet("M", status="released", lines=[line])])
            with self.assertRaises(UnitError):
                structured(held)

    def test_nothing_at_all_has_no_levels(self) -> None:
        s, _ = structured(Definition())
        self.assertEqual((s.level_start.tolist(), s.usage_start.tolist()), ([0], [0]))


class Times(unittest.TestCase):
    def test_the_first_operation_of_all_waits_for_what_it_takes(self) -> None:
        """A bought component there after five days goes into the operation in row 0, which takes a day; what goes into the second
        (two days later) is there long before. By hand: 5 + 1 + 2 days; the routing alone 1 + 2."""
        definition = Definition(
            work_centers=[WorkCenter("W")],
            parts=[Part("M", kind="made"), Part("A"), Part("B")],
            sheets=[Sheet("M", status="released", operations=[Operation(10, "x", "W", run_minutes=D(1440)), Operation(20, "y", "W", run_minutes=D(2880))],
                          lines=[Line(10, part="A", quantity=D(1), issue_at=10), Line(20, part="B", quantity=D(1), issue_at=20)])],
        )  # fmt: skip
        s, rows = structured(definition)
        lead = np.zeros(len(rows))
        lead[rows["A"]], lead[rows["B"]] = 5.0, 0.5
        nothing = np.zeros(2)
        times = TimeTable(
            queue_minutes=nothing, wait_minutes=nothing, move_minutes=nothing, stations=np.ones(2), transfer_quantity=np.full(2, np.nan),
            outside_days=nothing, share=np.ones(2), before=np.array([0]), after=np.array([1]), lead_days=lead,
        )  # fmt: skip
        self.assertEqual(lead_times(s, times, standard_lots(s)).tolist(), [8.0, 5.0, 0.5])
        each, routing = routing_times(s, times, elapsed(s, times, standard_lots(s)))
        self.assertEqual((each.tolist(), routing.tolist()), ([1.0, 2.0], [3.0, 0.0, 0.0]))

    def test_an_operation_that_follows_itself_follows_the_one_before(self) -> None:
        definition = Definition(
            work_centers=[WorkCenter("W")],
            parts=[Part("M", kind="made")],
            sheets=[Sheet("M", status="released", operations=[Operation(10, "x", "W"), Operation(20, "y", "W")])],
        )
        s, _ = structured(definition)
        before, after = order_of_work(s.operations, {1: [20, 99]})
        self.assertEqual((before.tolist(), after.tolist()), ([0], [1]))

    def test_an_overlap_at_half_the_hours_and_a_lot_below_one(self) -> None:
        """0.5 in a lot, a quarter of it moved on: half of the run time. Open half the week, everything takes twice as long:
        the second begins after a queue of 3 and half of 60 minutes, doubled, and takes 20, doubled; by hand 66 + 40 = 106."""
        definition = Definition(
            work_centers=[WorkCenter("W")], parts=[Part("M", kind="made", unit="m", costing_lot=D("0.5"))],
            sheets=[Sheet("M", status="released", operations=[Operation(10, "x", "W", run_minutes=D(120)), Operation(20, "y", "W", run_minutes=D(20), run_basis="per_lot")])],
        )  # fmt: skip
        s, _ = structured(definition)
        nothing = np.zeros(2)
        times = TimeTable(
            queue_minutes=np.array([3.0, 0.0]), wait_minutes=nothing, move_minutes=nothing, stations=np.ones(2), outside_days=nothing,
            transfer_quantity=np.array([0.25, np.nan]), share=np.full(2, 0.5), before=np.array([0]), after=np.array([1]), lead_days=np.zeros(1),
        )  # fmt: skip
        spent = elapsed(s, times, standard_lots(s))
        self.assertEqual((spent.lead.tolist(), spent.run.tolist()), ([33.0], [60.0, 20.0]))
        # What the second works off last is all of it: it ends when the first has ended (63 doubled) and then 20, doubled.
        self.assertAlmostEqual(lead_times(s, times, standard_lots(s))[0] * 1440, 126 + 40)
        self.assertAlmostEqual(routing_times(s, times, spent)[1][0] * 1440, 126 + 40)


class Causing(unittest.TestCase):
    def test_operations_of_a_part_that_is_gone_answer_to_none(self) -> None:
        """X had three operations in rows 0 to 2 and is gone; K's only one is number 1 of the first part. Were X's third taken for it,
        part of the difference would be called a rate."""

        def costing(with_x: bool) -> Costing:
            parts = [Part("K", kind="made")]
            sheets = [Sheet("K", status="released", operations=[Operation(1, "k", "V", run_minutes=D(60))])]
            if with_x:
                parts.insert(0, Part("X", kind="made"))
                steps = [Operation(s, "x", "W", run_minutes=D(60)) for s in (10, 20, 30)]
                sheets.append(Sheet("X", status="released", operations=steps))
                sheets[0].lines.append(Line(10, part="X", quantity=D(1)))
            centers = [WorkCenter("V", labor_rate=D(7)), WorkCenter("W", labor_rate=D(20))]
            s, rows = structured(Definition(work_centers=centers, parts=parts, sheets=sheets))
            return Costing(s, standard_lots(s), np.array([{"K": 1, "X": 2}[n] for n in rows]))

        found, before, after = causes(costing(True), costing(False))
        self.assertEqual((before.tolist(), after.tolist()), ([67.0], [7.0]))
        self.assertEqual({c: v for c, v in zip(CAUSES, found[0].tolist(), strict=True) if v}, {"structure": -60.0})

    def test_a_standard_of_the_first_part_is_its_own(self) -> None:
        """The first part in the table stands at 4 now, the second at nothing: the product that takes both moves by 4 - 3."""

        def costing(fixed: Fixed | None) -> Costing:
            parts = [Part("A", unit_cost=D(3)), Part("B", unit_cost=D(5)), Part("M", kind="made")]
            sheet = Sheet("M", status="released", lines=[Line(10, part="A", quantity=D(1)), Line(20, part="B", quantity=D(1))])
            s, _ = structured(Definition(parts=parts, sheets=[sheet]))
            return Costing(s, standard_lots(s), np.arange(3), fixed)

        unit = np.zeros((1, len(ELEMENTS)))
        unit[0, 0] = 4.0
        found, before, after = causes(costing(None), costing(Fixed(np.array([0]), unit, unit)))
        self.assertEqual((before.tolist(), after.tolist()), ([3, 5, 8], [4, 5, 9]))
        self.assertEqual(found[:, CAUSES.index("price")].tolist(), [1, 0, 1])
        self.assertEqual(np.abs(found).sum(), 2.0)

    def test_a_part_that_is_gone_has_no_standard(self) -> None:
        """M took A, B and X; A and B stand at 4 and 7 now instead of 3 and 5, and X is gone: 3 by price, the 11 of X by structure."""

        def costing(with_x: bool) -> Costing:
            parts = [Part("A", unit_cost=D(3)), Part("B", unit_cost=D(5)), Part("M", kind="made")]
            lines = [Line(10, part="A", quantity=D(1)), Line(20, part="B", quantity=D(1))]
            if with_x:
                parts.append(Part("X", unit_cost=D(11)))
                lines.append(Line(30, part="X", quantity=D(1)))
            s, rows = structured(Definition(parts=parts, sheets=[Sheet("M", status="released", lines=lines)]))
            fixed = None
            if not with_x:
                unit = np.zeros((2, len(ELEMENTS)))
                unit[:, 0] = 4.0, 7.0
                fixed = Fixed(np.array([0, 1]), unit, unit)
            return Costing(s, standard_lots(s), np.arange(len(rows)), fixed)

        found, before, after = causes(costing(True), costing(False))
        self.assertEqual((before[2], after[2]), (19.0, 11.0))
        self.assertEqual({c: v for c, v in zip(CAUSES, found[2].tolist(), strict=True) if v}, {"price": 3.0, "structure": -11.0})


class Schedules(unittest.TestCase):
    def test_a_step_that_takes_no_time_is_of_the_chain(self) -> None:
        start = datetime(2026, 11, 25)
        found = schedule_forward([Step(0.0), Step(60.0)], [[], [0]], start)
        self.assertEqual((found.start, found.end), ([start, start], [start, datetime(2026, 11, 25, 1)]))
        self.assertEqual(found.chain, [0, 1])


class Comparing(unittest.TestCase):
    def test_a_row_that_only_the_left_begins_with_stands_first(self) -> None:
        self.assertEqual(pair(["a", "b"], ["b", "c", "d"], [lambda x: x]), [(0, None), (1, 0), (None, 1), (None, 2)])

    def test_work_outside_and_what_is_empty(self) -> None:
        def sheet(operation: Operation, *lines: Line) -> Sheet:
            return Sheet("M", operations=[operation], lines=list(lines))

        outside = Operation(10, "Zinc", subcontract=Subcontract("Galvo", D(2), D(5), 3))
        (row,) = compare_sheets(sheet(outside), sheet(Operation(10, "Zinc", subcontract=Subcontract("Galvo", D(3), D(5), 3))))[1:]
        self.assertEqual((row.state, row.fields), ("changed", (("unit_price", "2", "3"),)))
        (row,) = compare_sheets(sheet(outside), sheet(Operation(10, "Zinc", "W")))[1:]
        self.assertEqual(
            dict((n, (a, b)) for n, a, b in row.fields),
            {
                "work_center": (None, "W"),
                "supplier": ("Galvo", None),
                "unit_price": ("2", None),
                "minimum_charge": ("5", None),
                "lead_days": ("3", None),
            },
        )
        one, other = (
            Line(10, part="A", quantity=D(1)),
            Line(10, part="A", quantity=D(1), reference_designators=["R1"], text="x", not_fitted=True),
        )
        self.assertEqual(
            compare_sheets(sheet(outside, one), sheet(outside, other))[-1].fields,
            (("not_fitted", None, "yes"), ("reference_designators", None, "R1"), ("text", None, "x")),
        )


class Options(unittest.TestCase):
    def test_a_small_quantity_is_no_dust(self) -> None:
        """4 millionths of 10 are taken away: 6 are left, however small."""
        sheet = Sheet(
            "M",
            status="released",
            lines=[
                Line(10, part="A", quantity=D("0.00001")),
                Line(20, part="A", quantity=D("0.000004"), option="LESS", option_action="remove"),
            ],
        )
        s, _ = structured(Definition(parts=[Part("M", kind="made"), Part("A", unit="kg")], sheets=[sheet]), ("LESS",))
        self.assertAlmostEqual(s.quantity.tolist()[0], 6e-6, places=15)
        sheet.lines[0].quantity, sheet.lines[1].quantity = D(100_000), D("99999.99996")
        s, _ = structured(Definition(parts=[Part("M", kind="made"), Part("A", unit="kg")], sheets=[sheet]), ("LESS",))
        self.assertEqual(s.line.tolist(), [], "a part in ten thousand million is dust of a large quantity")

    def test_a_small_excess_is_no_dust(self) -> None:
        sheet = Sheet(
            "M",
            status="released",
            lines=[
                Line(10, part="A", quantity=D("0.000001")),
                Line(20, part="A", quantity=D("0.000004"), option="LESS", option_action="remove"),
            ],
        )
        with self.assertRaisesRegex(TallyError, "the option removes"):
            structured(Definition(parts=[Part("M", kind="made"), Part("A", unit="kg")], sheets=[sheet]), ("LESS",))


class Surveys(unittest.TestCase):
    def test_what_counts(self) -> None:
        lines = [
            Line(kind="text", text="x"),
            Line(part="A", quantity=D(1), not_fitted=True),
            Line(part="A"),
            Line(part="A", kind="byproduct", quantity=D(1)),
        ]
        found = survey(Definition(parts=[Part("M", kind="made"), Part("A")], sheets=[Sheet("M", lines=lines)]))
        self.assertEqual(found.counts.tolist(), [False, False, True, True])
        self.assertEqual(found.option.tolist(), [-1] * 4)
        first = survey(
            Definition(
                parts=[Part("A", unit="kg"), Part("M", kind="made")],
                sheets=[Sheet("M", lines=[Line(part="A", quantity=D(1)), Line(quantity=D(1))])],
            )
        )
        self.assertEqual(
            (first.counts.tolist(), SYMBOLS[first.line_unit[0]]), ([True, False], "kg"), "a component without a part counts nothing"
        )


class Lists(unittest.TestCase):
    def test_ranges_up_to_what_anyone_places(self) -> None:
        self.assertEqual(len(designators("R1-R5000")), 5000)
        self.assertEqual(designators("R1-R5001"), ["R1-R5001"])
        self.assertEqual(designators("R1-R123456789"), ["R1-R123456789"])

    def test_a_quantity_in_the_first_column_and_what_it_cannot_be(self) -> None:
        rows = [["qty", "part", "scrap"], ["2", "A", "-1"], ["0", "B", ""]]
        found = read_rows(rows, 0, {"quantity": 0, "part": 1, "scrap_percent": 2}, "T", False)
        self.assertEqual(found[0].quantity, D(2))
        self.assertEqual([r.problems for r in found], [["scrap percent cannot be negative (-1)"], ["quantity must be more than 0 (0)"]])

    def test_who_the_list_is_for_and_levels_that_are_missing(self) -> None:
        columns = {"level": 0, "part": 1, "quantity": 2}
        head = ["level", "part", "qty"]
        found = read_rows([head, ["0", "A", "1"], ["1", "B", "1"]], 0, columns, "", False)
        self.assertEqual([(r.is_top, r.parent) for r in found], [(True, ""), (False, "A")])
        found = read_rows([head, ["1", "T", "1"], ["2", "A", "1"]], 0, columns, "T", False)
        self.assertEqual([(r.is_top, r.parent) for r in found], [(True, ""), (False, "T")])
        found = read_rows([head, ["1", "S", "1"], ["2", "A", "1"]], 0, columns, "T", False)
        self.assertEqual([(r.is_top, r.parent) for r in found], [(False, "T"), (False, "S")])
        found = read_rows([head, ["2", "A", "1"], ["1", "B", "1"]], 0, columns, "T", False)
        self.assertEqual([r.problems for r in found], [["level 2 follows level 0: a level is missing between them"], []])

    def test_short_rows_and_signs_that_do_not_belong(self) -> None:
        rows = [["part", "qty", "scrap"], ["A", "1"], ["B", "5%", "5%"]]
        found = read_rows(rows, 0, {"part": 0, "quantity": 1, "scrap_percent": 2}, "T", False)
        self.assertEqual((found[0].problems, found[0].scrap_percent), ([], None))
        self.assertEqual((len(found[1].problems), found[1].scrap_percent), (1, D(5)))

    def test_a_single_row_is_a_line_and_short_words_are_no_description(self) -> None:
        (alone,) = read_rows([["level", "part", "qty"], ["0", "A", "1"]], 0, {"level": 0, "part": 1, "quantity": 2}, "T", False)
        self.assertEqual((alone.is_top, alone.parent), (False, "T"))
        self.assertEqual(propose_without_header([["A-1", "2", "ab"], ["A-2", "3", "cd"]], {"A-1", "A-2"}), {"part": 0, "quantity": 1})

    def test_a_row_that_names_itself_as_its_parent(self) -> None:
        rows = [["parent", "part", "qty"], ["T", "A", "1"], ["A", "A", "2"], ["A", "B", "3"]]
        found = read_rows(rows, 0, {"parent": 0, "part": 1, "quantity": 2}, "T", False)
        self.assertEqual([r.problems for r in found][1], ["A would contain itself"])

    def test_levels_below_a_product_that_is_not_in_the_list(self) -> None:
        rows = [["level", "part", "qty"], ["1", "A", "1"], ["2", "B", "1"], ["1", "C", "1"]]
        found = read_rows(rows, 0, {"level": 0, "part": 1, "quantity": 2}, "T", False)
        self.assertEqual([(r.part, r.parent) for r in found], [("A", "T"), ("B", "A"), ("C", "T")])
        rows = [["level", "part", "qty"], ["1", "A", "1"], ["3", "B", "1"]]
        found = read_rows(rows, 0, {"level": 0, "part": 1, "quantity": 2}, "T", False)
        self.assertEqual([(r.part, r.parent, bool(r.problems)) for r in found], [("A", "T", False), ("B", "T", True)])
