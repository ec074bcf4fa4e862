"""Cases by hand for what ``./tally mutate`` found that no test would notice: edges, what is left out, what stands where nothing is said."""

import copy
import os
import random
import subprocess
import sys
import unittest
from collections.abc import Iterable
from dataclasses import replace
from datetime import date
from decimal import Decimal as D
from typing import Any

import numpy as np
from tally_core.basics.elements import AT
from tally_core.basics.errors import ProblemsError
from tally_core.buying.cheapest import cheapest_plan
from tally_core.buying.covering import asks
from tally_core.buying.line_by_line import line_by_line
from tally_core.buying.offers import Break, Need, Offer, Purchase, Supplier
from tally_core.buying.pricing import priced
from tally_core.buying.purchase_file import read_purchase
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.causes import _numbered, causes
from tally_core.cuts.bars import cut_bars
from tally_core.cuts.cuts_file import read_cuts
from tally_core.cuts.stock import Piece, Placed, Stock, Used, cutting_of
from tally_core.handover.comparing import compare_definitions
from tally_core.handover.settling import agree
from tally_core.inquiries.layout import Place, stays
from tally_core.lists.intake import read_rows
from tally_core.lists.neutral import read_list
from tally_core.lists.title_block import said_to_be_for
from tally_core.lists.titles import ColumnMap, ListTable, own_columns, split_title
from tally_core.pairing.numbers import kept_keys
from tally_core.pairing.propose import Asked, Ours, Shelf
from tally_core.stated.bundle import read_bundle
from tally_core.stated.classes import check_class
from tally_core.stated.definition import ClassField, MakerNumber, Part, PartClass
from tally_core.stated.numbering import next_numbers
from tally_core.stated.records import MOST_MAKER_NUMBERS, check_counted, check_maker_numbers
from tally_core.time.measured import measured_run

from .test_buying import a_purchase
from .test_causes import costing
from .test_handover import _DAY, bundle
from .test_settling import _CROSSES, side

TODAY = date(2026, 11, 25)


class Cutting(unittest.TestCase):
    def test_nothing_to_cut_takes_nothing(self) -> None:
        made = cut_bars([Stock("bar", D(1000), None, D(3))], [Piece("p", D(10), 0)], D(2))
        self.assertEqual((made.count, made.cost, made.bound, made.proven, made.waste_percent), (0, 0, 0, True, 0))

    def test_of_one_stock_what_is_cut_most_often_stands_first(self) -> None:
        """Nine of 60 and one of 90 out of bars of 100: nine bars of the one kind, one of the other."""
        made = cut_bars([Stock("bar", D(100), None, D(1))], [Piece("a", D(90), 1), Piece("b", D(60), 9)], D(0))
        self.assertEqual([(u.count, u.placed[0].name) for u in made.used], [(9, "b"), (1, "a")])

    def test_what_is_left_of_boards_that_are_cut_alike(self) -> None:
        """Three boards of 100 × 50 with one piece of 40 × 30 on each: 1 − 1,200 / 5,000; bars have no width and turn nothing."""
        placed = Placed("p", D(0), D(0), D(40), D(30))
        self.assertFalse(placed.turned)
        made = cutting_of([Stock("board", D(100), D(50), D(2))], [Used(0, 3, (placed,))], D(6))
        self.assertEqual((made.count, made.cost, made.waste_percent), (3, 6, 76))

    def test_a_cost_that_is_no_number_is_said(self) -> None:
        bar = {"stock": "bar", "length_mm": "1000", "cost": "dear"}
        with self.assertRaises(ProblemsError) as caught:
            read_cuts({"format": "round-tally-cuts", "version": 1, "kerf_mm": "0", "bars": [bar], "pieces": []})
        self.assertIn("bars[0].cost", [p.place for p in caught.exception.problems])


class Buying(unittest.TestCase):
    def purchase(self, needs: Iterable[Need], offers: Iterable[Offer], **given: Any) -> Purchase:
        return Purchase("EUR", TODAY, {c: Supplier(c) for c in "ST"}, tuple(needs), tuple(offers), **given)

    def offer(self, supplier: str, price: str, available: str, **given: Any) -> Offer:
        return Offer("X", supplier, "", "EUR", (Break(D(1), D(price)),), available=D(available), **given)

    def test_line_by_line_spreads_from_the_cheapest_on_and_may_come_out_even(self) -> None:
        """Sixty are needed; the dear one has fifty, the cheap one forty: forty cheap, twenty dear. Of thirty and thirty all."""
        dear, cheap = self.offer("S", "3", "50"), self.offer("T", "2", "40")
        even = self.offer("S", "3", "30"), self.offer("T", "2", "30")
        for offers, total in (((dear, cheap), D(40) * 2 + D(20) * 3), (even, D(150))):
            purchase = self.purchase([Need("X", D(60))], offers, split=2, surplus_percent=D(0))
            made = line_by_line(purchase, asks(purchase)[0])
            assert made is not None
            self.assertEqual(made.total, total)

    def test_at_most_so_many_suppliers_are_bought_from(self) -> None:
        """X is cheap at S and Y at T, each dear at the other: two suppliers cost 2, one 52."""
        offers = [Offer(p, c, "", "EUR", (Break(D(1), D(1) if (p, c) in (("X", "S"), ("Y", "T")) else D(51)),)) for p in "XY" for c in "ST"]
        needs = [Need("X", D(1)), Need("Y", D(1))]
        for most, total in ((2, 2), (1, 52), (None, 2)):
            plan = cheapest_plan(self.purchase(needs, offers, most_suppliers=most))
            self.assertEqual((plan.bought.total, len({o.supplier for o in plan.bought.orders})), (total, 1 if most == 1 else 2))

    def test_an_offer_without_a_minimum_sells_any_amount(self) -> None:
        plan = cheapest_plan(self.purchase([Need("X", D("0.25"))], [Offer("X", "S", "", "EUR", (Break(D(0), D(8)),))]))
        self.assertEqual((plan.bought.total, plan.bound), (2, 2))

    def test_a_need_without_a_part_is_said(self) -> None:
        document = a_purchase(suppliers=[{"code": "S"}], needs=[{"quantity": "1"}], offers=[])
        with self.assertRaises(ProblemsError) as caught:
            read_purchase(document)
        self.assertEqual([(p.place, p.message) for p in caught.exception.problems], [("needs[0].part", "this is needed")])

    def test_what_costs_nothing_has_no_margin(self) -> None:
        self.assertEqual(priced(D(10), {}, {}, D(20), []).margin_percent, 0)


class Numbers(unittest.TestCase):
    def test_the_mean_of_measured_times_has_nine_decimals(self) -> None:
        """A third and two ninths of a minute, and weighed by one and nine: (3 · 1/3 + 9 · 2/9) / 12."""
        found = measured_run([(1, 3), (2, 9)], "per_unit", None, 100.0)
        self.assertEqual((found.run_minutes, found.by_quantity), (round(found.run_minutes, 9), round(found.by_quantity, 9)))
        self.assertAlmostEqual(found.run_minutes, 5 / 18, places=8)
        uneven = measured_run([(1, 3), (2, 9), (1, 7)], "per_unit", None, 100.0)
        self.assertEqual((uneven.run_minutes, uneven.by_quantity), (round(uneven.run_minutes, 9), round(uneven.by_quantity, 9)))

    def test_what_is_taken_beneath_the_start_of_a_scheme_moves_nothing(self) -> None:
        scheme = PartClass("Screws", "SCR-", 3, start=10, step=1)
        self.assertEqual(next_numbers(scheme, ["SCR-005"], 2), ["SCR-010", "SCR-011"])
        self.assertEqual(next_numbers(scheme, ["SCR-010"], 1), ["SCR-011"])

    def test_as_many_makers_numbers_as_there_may_be(self) -> None:
        most = [MakerNumber("M", f"N{n}") for n in range(MOST_MAKER_NUMBERS)]
        self.assertEqual(list(check_maker_numbers(most)), [])
        self.assertEqual([p.place for p in check_maker_numbers([*most, MakerNumber("M", "last")])], [""])
        self.assertEqual({p.place for p in check_maker_numbers([MakerNumber("M", "N"), MakerNumber("M" * 500, "O")])}, {"[1].number"})

    def test_what_is_never_stocked_is_not_counted(self) -> None:
        (told,) = check_counted(Part(number="FRT", kind="charge", unit="ea"), D(2))
        self.assertEqual((told.place, told.message), ("on_hand", "FRT is a charge and is never stocked"))
        self.assertEqual(list(check_counted(Part(number="NUT", kind="bought", unit="ea"), D(2))), [])


class Expressions(unittest.TestCase):
    def said(self, *fields: ClassField) -> list[tuple[str, str]]:
        return [(p.place, p.message) for p in check_class(PartClass("P", fields=list(fields)))]

    def test_a_loop_stands_at_the_field_it_begins_with(self) -> None:
        fields = [ClassField("n", "number"), ClassField("a", "computed", expression="b + n"), ClassField("b", "computed", expression="a")]
        ((place, told),) = self.said(*fields)
        first = told.split(": ")[1][0]
        self.assertEqual(place, f"fields[{[f.name for f in fields].index(first)}].expression")

    def test_beside_what_is_not_known_no_loop_is_looked_for(self) -> None:
        loop = [ClassField("a", "computed", expression="b"), ClassField("b", "computed", expression="a")]
        self.assertEqual([p for p, _ in self.said(*loop, ClassField("c", "computed", expression="nothing"))], ["fields[2].expression"])
        self.assertEqual([p for p, _ in self.said(*loop, ClassField("c", "computed", expression="1 +"))], ["fields[2].expression"])

    def test_as_long_as_an_expression_may_be(self) -> None:
        """Of a sum of n numbers three nodes each less one (numbers, signs, sums) and the whole; a sign before one is two more."""
        longest = "+".join(["1"] * 39 + ["--1"])
        self.assertEqual(self.said(ClassField("a", "computed", expression="+".join(["1"] * 40))), [])
        self.assertEqual(self.said(ClassField("a", "computed", expression="+".join(["1"] * 40) + "-(-1)"))[0][0], "fields[0].expression")
        self.assertIn("too long", self.said(ClassField("a", "computed", expression=longest))[0][1])


class Lists(unittest.TestCase):
    def test_a_parent_that_stands_nowhere_is_said(self) -> None:
        rows = [["parent", "part", "qty"], ["", "A", "1"], ["Q", "B", "1"]]
        found = read_rows(rows, 0, {"parent": 0, "part": 1, "quantity": 2}, "TOP", False)
        self.assertEqual([r.problems for r in found], [[], ["its parent Q stands nowhere in the list"]])

    def test_a_quantity_that_only_says_whose_it_is_or_that_it_is_left_out(self) -> None:
        read = read_list([["Part", "Qty"], ["A", "customer supplied"], ["B", "not fitted"], ["C", "2"]])
        found = [(r.quantity, bool(r.customer_supplied), bool(r.not_fitted)) for r in read.rows]
        self.assertEqual(found, [(None, True, False), (None, False, True), (2, False, False)])
        self.assertEqual([t for t in read.problems if "cannot be read" in t.message or "is no number" in t.message], [])

    def test_titles_beside_one_another_are_no_number(self) -> None:
        self.assertEqual(said_to_be_for([["Part No", "Description"], ["Assembly", "KP-7"]], 2, "x.csv")[0], "KP-7")


class Agreeing(unittest.TestCase):
    def test_what_one_side_only_has_and_is_left_is_not_agreed(self) -> None:
        document = bundle(random.Random(3))
        ours, theirs = side(document), side(copy.deepcopy(document))
        number = ours.definition.parts[0].number
        gone = {number}
        theirs.definition.parts = [p for p in theirs.definition.parts if p.number not in gone]
        theirs.definition.sheets = [s for s in theirs.definition.sheets if s.part not in gone]
        made = compare_definitions(None, ours, theirs, _DAY, compared=_CROSSES)
        now = agree(made, None, ours)
        self.assertNotIn(number, [p.number for p in now.of.definition.parts])
        self.assertNotIn(number, [s.part for s in now.of.definition.sheets])
        self.assertEqual(len(now.of.definition.parts), len(theirs.definition.parts))

    def test_the_unit_of_a_part_stands_by_itself(self) -> None:
        document = bundle(random.Random(3))
        agreed, ours, theirs = side(document), side(copy.deepcopy(document)), side(copy.deepcopy(document))
        part = theirs.definition.parts[0]
        was = part.unit
        part.unit = "kg" if was != "kg" else "m"
        made = compare_definitions(agreed, ours, theirs, _DAY, compared=_CROSSES)
        now = agree(made, agreed, ours)
        self.assertEqual(next(p.unit for p in now.of.definition.parts if p.number == part.number), was)


class Causes(unittest.TestCase):
    def test_operations_that_are_all_gone_leave_their_cost_as_structure(self) -> None:
        """A lathe at 60 an hour for 6 minutes: 6 less, and nothing of it is a price or a rate."""
        before = {
            "format": "round-tally-bundle", "version": 1, "currency": "EUR",
            "work_centers": [{"code": "W", "labor_rate": "60"}],
            "parts": [{"number": "P1", "kind": "made", "unit": "ea"}, {"number": "P2", "kind": "bought", "unit": "ea", "unit_cost": "2"}],
            "build_sheets": [
                {"part": "P1", "status": "released", "lines": [{"item": 10, "part": "P2", "quantity": "1"}],
                 "operations": [{"sequence": 10, "name": "Turn", "work_center": "W", "run_minutes": "6"}]}
            ],
        }  # fmt: skip
        after = copy.deepcopy(before)
        after["build_sheets"][0]["operations"] = []  # type: ignore[index]
        found, was, now = causes(costing(before, []), costing(after, []))
        self.assertEqual((was[0], now[0]), (8, 2))
        np.testing.assert_allclose(found[0], [0, 0, 0, 0, 0, -6], atol=1e-12)

    def test_where_nothing_worked_before_the_first_operation_is_structure(self) -> None:
        """The same the other way round: of the operations before there is not even one to look among."""
        after = {
            "format": "round-tally-bundle", "version": 1, "currency": "EUR",
            "work_centers": [{"code": "W", "labor_rate": "60"}],
            "parts": [{"number": "P1", "kind": "made", "unit": "ea"}, {"number": "P2", "kind": "bought", "unit": "ea", "unit_cost": "2"}],
            "build_sheets": [
                {"part": "P1", "status": "released", "lines": [{"item": 10, "part": "P2", "quantity": "1"}],
                 "operations": [{"sequence": 10, "name": "Turn", "work_center": "W", "run_minutes": "6"},
                                {"sequence": 20, "name": "Mill", "work_center": "W", "run_minutes": "2"}]}
            ],
        }  # fmt: skip
        before = copy.deepcopy(after)
        before["build_sheets"][0]["operations"] = []  # type: ignore[index]
        found, was, now = causes(costing(before, []), costing(after, []))
        self.assertEqual((was[0], now[0]), (2, 10))
        np.testing.assert_allclose(found[0], [0, 0, 0, 0, 0, 8], atol=1e-12)

    def test_of_the_same_key_each_is_counted(self) -> None:
        self.assertEqual(_numbered(np.array([5, 3, 5, 5, 3])).tolist(), [0, 0, 1, 2, 1])


class ListsRead(unittest.TestCase):
    def test_of_two_columns_with_one_title_the_first_counts(self) -> None:
        self.assertEqual(own_columns(["Part", "Finish", "Finish"], [0], ["finish"]), {"own: finish": (1, 0)})

    def test_how_far_down_titles_are_looked_for(self) -> None:
        """A hundred rows of words before the table; a hundred and one are too many."""
        table = [["Part no.", "Qty"], ["A-1", "2"]]
        for before, header in ((99, 99), (100, -1)):
            self.assertEqual(ListTable([["about this list"]] * before + table).header, header)

        # And titles that are known from before are looked for as far.
        known = ColumnMap(0, {"part": (0, 0), "quantity": (1, 0)}, titles=("Part no.", "Qty"))
        for before, header in ((99, 99), (100, None)):
            found = known.found_in([["about this list"]] * before + table)
            self.assertEqual(found and found.header, header)

    def test_what_stands_beside_a_maker_is_not_always_his_number(self) -> None:
        self.assertEqual(split_title("Manufacturer / Country"), ["maker"])

    def test_a_row_that_holds_a_number_is_no_row_of_titles(self) -> None:
        """A richer row further down that holds a number is not; one with a box that is ticked may be."""
        self.assertEqual(ListTable([["Part", "Qty"], ["Item", "Part", "Qty", 3]]).header, 0)
        self.assertEqual(ListTable([["Part", "Qty", True], ["A-1", "2", False]]).header, 0)
        # Half a row of titles is not made whole by a row that holds figures.
        self.assertEqual(ListTable([["Part", ""], ["A-1 x", "Qty 7"]]).header, -1)

    def test_which_rows_are_rows_of_the_list(self) -> None:
        rows = [
            ["Part", "Description", "Qty", "Note"],
            ["A-1", "Total", "5", ""],  # a part may be called anything
            ["", "Total", "5", ""],  # beneath the table
            ["", "Grease", "3", ""],  # a thing that has no number yet
            ["", "Grease", "", "see above"],  # words
            ["", "", "4", "left over"],
            ["Total", "", "9", ""],
            ["B-2", "", "", ""],
        ]
        self.assertEqual([number for number, _ in ListTable(rows).body()], [2, 4, 8])

    def test_a_map_without_titles_reads_them_where_it_says(self) -> None:
        rows = [["Part", "Qty"], ["A-1", "2"]]
        self.assertEqual(ListTable(rows, ColumnMap(0, {"part": (0, 0)})).titles, ["Part", "Qty"])
        # What was said to have no titles is not guessed at.
        self.assertEqual(ListTable(rows, ColumnMap(-1, {"part": (1, 0)})).columns, {"part": (1, 0)})

    def test_the_decimal_sign_that_was_said_is_kept(self) -> None:
        """Nothing in it settles the sign: what somebody said of it does, both ways."""
        for comma, quantity in ((True, D(1500)), (False, D("1.5"))):
            given = ColumnMap(0, {"part": (0, 0), "quantity": (1, 0)}, {"quantity": comma}, ("Part", "Qty"))
            (row,) = read_list([["Part", "Qty"], ["A-1", "1.500"]], given).rows
            self.assertEqual(row.quantity, quantity)

    def test_dotted_items_stand_beneath_their_beginning(self) -> None:
        """Item 7.1 stands beneath 7, which is an item; that no item is called 1 or 4 is nothing to it."""
        rows = [["Item", "Part", "Qty"], ["7", "A", "1"], ["7.2", "B", "2"], ["7.2.4", "C", "3"]]
        self.assertEqual([r.level for r in read_list(rows).rows], [1, 2, 3])

    def test_a_component_that_moved_along_one_axis_moved(self) -> None:
        here = Place("0603", "top", x_mm=D(10), y_mm=D(20))
        self.assertTrue(stays(here, replace(here, x_mm=D("10.019"), y_mm=D("19.981"))))
        for moved in ({"x_mm": D("10.02")}, {"y_mm": D("20.02")}, {"x_mm": D(40)}, {"y_mm": D(40)}):
            self.assertFalse(stays(here, replace(here, **moved)), moved)


class Pairing(unittest.TestCase):
    def test_a_part_met_twice_counts_at_its_best_rank(self) -> None:
        """ZZ is the fifth choice of one maker's number and the first of another's, AA the third; our own number goes before any of a maker's."""
        twice = Ours("ZZ", makers=[("M", "X1-2000", 5), ("N", "X1-2000", 1)])
        once = Ours("AA", makers=[("M", "X1-2000", 3)])
        proposals = Shelf([twice, once]).propose(Asked(number="X1-2000"))
        self.assertEqual([p.part for p in proposals], ["ZZ", "AA"])
        own = Ours("X1-2000")
        second = Ours("AA", makers=[("M", "X1-2000", 1)])
        self.assertEqual([p.part for p in Shelf([own, second]).propose(Asked(number="X1-2000"))], ["X1-2000", "AA"])

    def test_a_number_is_kept_under_two_to_four_characters_less(self) -> None:
        cut = sorted(len(k) - 2 for k in kept_keys("ABCDEFGHJKLM") if k.startswith("T:"))
        self.assertEqual(cut, [8, 9, 10])


class Given(unittest.TestCase):
    def test_a_cost_that_is_given_stands_in_one_element_where_nothing_is_rolled_up(self) -> None:
        """What goes in costs nothing: the five stand as material, at this level, and in the total."""
        definition = {
            "format": "round-tally-bundle", "version": 1, "currency": "EUR",
            "parts": [{"number": "P1", "kind": "made", "unit": "ea", "given_cost": "5", "given_reason": "by hand", "given_as": "proportion"},
                      {"number": "P2", "kind": "bought", "unit": "ea", "unit_cost": "0"}],
            "build_sheets": [{"part": "P1", "status": "released", "lines": [{"item": 10, "part": "P2", "quantity": "1"}]}],
        }  # fmt: skip
        question = ask(read_bundle(definition), "P1", Basis(TODAY))
        costs, _ = tally(question)
        row = question.top
        self.assertEqual((costs.unit[row, AT["material"]], costs.this_level[row, AT["material"]], costs.unit[row].sum()), (5, 5, 5))
        self.assertEqual(costs.lower_levels[row].sum(), 0)


class Solving(unittest.TestCase):
    def test_the_solver_says_nothing(self) -> None:
        code = "from tally_core.basics.solver import Solver; s = Solver(); s.enableCallbacks(); s.run()"
        there = os.environ | {"PYTHONPATH": os.pathsep.join(p or "." for p in sys.path)}
        said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=there)
        self.assertEqual(said.stdout, "")
