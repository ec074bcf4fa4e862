"""Further cases by hand for changes that no test noticed: what is said of a side, workings without a part, bounds of records."""

import json
import unittest
from datetime import date, timedelta
from decimal import Decimal as D
from typing import Any

import numpy as np
from tally_core.basics.elements import AT
from tally_core.basics.errors import ProblemsError
from tally_core.cost.answers import tally
from tally_core.cost.working import Workings
from tally_core.drawings import balloons
from tally_core.drawings.balloons import Box, place_balloons, slots_around
from tally_core.drawings.room import room_for
from tally_core.handover.reading import read_side
from tally_core.lists.titles import ColumnMap, ListTable, known_words
from tally_core.pairing.compare import compare
from tally_core.pairing.describe import Described, Said
from tally_core.stated.bundle import parse_bundle
from tally_core.stated.definition import MakerNumber, Operation, Part, PriceChange, Resource, StandardOperation
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import check_maker_numbers, check_number, check_part, check_standard_operation
from tally_core.stated.run_times import run_minutes

from .test_rules import question, small


class Sides(unittest.TestCase):
    def side(self, parts: list[Any], **more: Any) -> Any:
        document = {"format": "round-tally-bundle", "version": 1, "parts": parts, **more}
        return read_side(json.dumps(document).encode())

    def test_a_part_that_cannot_be_read_is_named_and_nothing_else(self) -> None:
        with self.assertRaises(ProblemsError) as refused:
            self.side([7, {"number": "A", "kind": "bought", "unit": "ea"}])
        self.assertEqual([p.place for p in refused.exception.problems], ["parts[0]"])

    def test_a_side_of_parts_alone(self) -> None:
        self.assertEqual([p.number for p in self.side([{"number": "A", "kind": "bought", "unit": "ea"}]).definition.parts], ["A"])

    def test_what_is_counted_is_whole_unless_it_is_said(self) -> None:
        units = [
            ("ea", {}, True),
            ("m", {}, False),
            ("ea", {"whole_only": False}, False),
            ("m", {"whole_only": True}, True),
            ("furlong", {}, False),
        ]
        parts = [{"number": f"P{n}", "kind": "bought", "unit": unit, **said} for n, (unit, said, _) in enumerate(units)]
        read = self.side(parts).definition.parts
        self.assertEqual([(p.unit, p.whole_only) for p in read], [(unit, whole) for unit, _, whole in units])

    def test_a_name_through_revisions_is_a_text_that_says_something(self) -> None:
        lines = [{"item": n, "part": "A", "quantity": "1", "lineage": name} for n, name in enumerate(("", 7, None, "L-4"), 1)]
        side = self.side([], build_sheets=[{"part": "M", "lines": lines}])
        self.assertEqual(list(side.lineage.values()), ["L-4"])

    def test_a_file_of_another_version_is_none_of_ours(self) -> None:
        for changed in ({"version": 2}, {"version": None}, {"format": "list"}):
            with self.assertRaises(ProblemsError) as refused:
                self.side([], **changed)
            self.assertEqual(
                [str(p) for p in refused.exception.problems], ["format: this is not a round-tally-bundle file of version 1"], changed
            )
        with self.assertRaisesRegex(ProblemsError, "this is not a round-tally-bundle file"):
            read_side(b"[]")

    def test_a_number_that_no_number_can_be_is_said(self) -> None:
        """An exponent beyond those that Python's decimals have (decimal.MAX_EMAX) raises an error of its own there, which is none of a text."""
        with self.assertRaisesRegex(ProblemsError, "nearer to nought"):
            parse_bundle(b'{"format": -1e-9999999999999999999}')


class Texts(unittest.TestCase):
    def said(self, value: str) -> Described:
        return Described("resistor", {"resistance": Said(D(value), 0, 0)})

    def test_nothing_and_nothing_agree(self) -> None:
        """A jumper of no resistance is one."""
        self.assertEqual(compare(self.said("0"), self.said("0")), {"resistance": "agrees"})
        self.assertEqual(compare(self.said("0"), self.said("1")), {"resistance": "differs"})

    def test_titles_in_two_rows_of_which_either_is_shorter(self) -> None:
        for first, second in ((["Part", "Quantity"], ["number", "", "Material"]), (["Part", "Quantity", "Material"], ["number"])):
            table = ListTable([first, second, ["A-1", "2", "steel"]])
            self.assertEqual({n: at for n, (at, _) in table.columns.items()}, {"part": 0, "quantity": 1, "material": 2})

    def test_a_map_finds_its_titles_with_or_without_empty_cells_behind_them(self) -> None:
        known = ColumnMap(0, {"part": (0, 0), "quantity": (1, 0)}, {}, ("Part", "Quantity", ""))
        for titles in (["Part", "Quantity"], ["Part", "Quantity", "", ""]):
            found = known.found_in([["A list"], titles, ["A-1", "2"]])
            self.assertEqual(found and found.header, 1)
        self.assertIsNone(known.found_in([["Part"], ["Quantity"]]))

    def test_no_minutes_are_no_minutes_below_nothing(self) -> None:
        self.assertEqual(str(run_minutes("bends * -1", {"bends": 0.0})), "0")


class WorkingsOfWhatIsNotThere(unittest.TestCase):
    def opened(self, element: str, **of_part: str) -> Any:
        document = small([{"part": "A", "quantity": "2"}])
        document["parts"][1] |= of_part
        asked = question(document, "M")
        at = list(asked.structure.parts.numbers).index("A")
        return Workings(asked.structure, tally(asked)[0], None, "EUR", asked.top).open(("element", at, AT[element]))

    def test_a_part_without_overhead_or_markup_shows_none(self) -> None:
        self.assertEqual([x.label for x in self.opened("other").operands], [])
        self.assertEqual([x.label for x in self.opened("other", markup_percent="10").operands], ["markup"])
        self.assertEqual([x.label for x in self.opened("overhead").operands], [])
        self.assertEqual([x.label for x in self.opened("overhead", overhead_percent="10").operands], ["overhead"])


class Bounds(unittest.TestCase):
    def test_as_many_prices_as_a_part_may_have(self) -> None:
        prices = [PriceChange(date(2026, 1, 1) + timedelta(days=n), D(1)) for n in range(501)]
        part = Part("A", kind="bought", unit="ea", unit_cost=D(1), prices=prices[:500])
        self.assertEqual(list(check_part(part)), [])
        part.prices = prices
        self.assertEqual([(p.place, p.message) for p in check_part(part)], [("prices", "a part has at most 500 prices")])

    def test_a_makers_number_says_something(self) -> None:
        self.assertEqual([p.message for p in check_maker_numbers([MakerNumber("  ", "M")])], ["the number is needed"])

    def test_nothing_works_beside_an_operation_of_the_library(self) -> None:
        standard = StandardOperation("SAW", operation=Operation(10, "Saw", "W", resources=[Resource("V")]))
        self.assertIn("operation.resources", [p.place for p in check_standard_operation(standard)])

    def test_a_number_that_is_missing_is_named_once(self) -> None:
        """A whole number that is needed counts as nothing then, so that what else is wrong is still told."""
        reader = RecordReader()
        read = reader.record(Operation, {"name": "Saw"}, "o", ("sequence",))
        self.assertEqual(([p.place for p in reader.problems], read and read.sequence), (["o.sequence"], 0))

    def test_places_around_what_is_small_and_beside_what_is_wide(self) -> None:
        """Around a point the first ring, 8.8 away, is one place at each corner: 10.4 apart there is room for no more. A wide thing that ends
        5 beneath the view leaves nothing beneath it up to its right end, and what lies a radius beyond that."""
        paper, point = Box(0, 0, 400, 300), Box(100, 100, 0, 0)
        corners = [(100 + x, 100 + y) for x in (-8.8, 8.8) for y in (-8.8, 8.8)]
        self.assertEqual(sorted(slots_around(point, 4, 1, paper)), sorted(corners))
        view, wide = Box(100, 100, 60, 40), Box(0, 145, 152, 50)
        beneath = [x for x, y in slots_around(view, 4, 1, paper, [wide]) if y > 140]
        self.assertTrue(beneath and all(x >= 156 for x in beneath), beneath)
        self.assertTrue(any(x < 156 for x, y in slots_around(view, 4, 1, paper) if y > 140))

    def test_what_is_blocked_elsewhere_takes_no_place(self) -> None:
        """A thing in the same columns, or in the same rows, that lies apart from the view's surroundings takes nothing away."""
        view, paper = Box(100, 100, 60, 40), Box(0, 0, 400, 300)
        free = slots_around(view, 4, 1, paper)
        for apart in (Box(90, 10, 80, 20), Box(90, 250, 80, 20), Box(5, 90, 20, 60), Box(300, 90, 20, 60)):
            self.assertEqual(slots_around(view, 4, 1, paper, [apart]), free, apart)

    def test_many_at_the_edge_of_the_paper_each_have_a_place(self) -> None:
        """Right of their middle there is room for a few only; so they are halved the other way, and none is left where it points."""
        view, paper = Box(20, 100, 100, 160), Box(0, 0, 124, 400)
        points = [(112.0 + n % 7, 102.0 + 3.9 * n) for n in range(40)]
        placed = place_balloons(points, view, 4, paper)
        self.assertFalse(set(points) & set(placed))
        self.assertEqual(len(set(placed)), 40)

    def test_what_stands_at_the_least_distance_is_stepped_beside(self) -> None:
        """Of the corners around a point one is free, 12 (2.4 radii) from a balloon that stands; any further ring is further away."""
        standing = [(111.0, 89.0), (89.0, 111.0), (111.0, 111.0), (89.0, 77.0)]
        self.assertEqual(place_balloons([(100, 100)], Box(100, 100, 0, 0), 5, Box(0, 0, 400, 300), standing), [(89, 89)])

    def test_many_are_halved_where_both_sides_have_just_room(self) -> None:
        """40 points and 40 places on a line: that takes a fourth of the time of all at once, and is as brief."""
        along = np.arange(40.0)[None, :]
        groups = [(mine.tolist(), around.tolist()) for mine, around in balloons._halved(np.arange(40), np.arange(40), along, along)]
        self.assertEqual(groups, [(list(range(20)),) * 2, (list(range(20, 40)),) * 2])

    def test_what_takes_no_room_is_a_blank(self) -> None:
        """Blanks of Unicode that are of one kind or the other: a space without width is no space to Python, a line separator no Zs, Cf or Cc."""
        for blank in ("\u200b", "\u2028", "\t", "\u00a0"):
            self.assertRegex(check_number(f"A{blank}B") or "", "no blanks; this one has one after “A”", ascii(blank))

    def test_a_cell_of_two_fields_is_parted_once(self) -> None:
        table = ListTable([["Part", "Manufacturer / MPN"], ["A", "Nordry / N-7 / 33"]])
        self.assertEqual([table.text(table.rows[1], name) for name in ("maker", "maker_number")], ["Nordry", "N-7 / 33"])

    def test_in_a_list_of_one_column_a_lone_cell_is_a_row(self) -> None:
        """With more columns, words that stand alone are a remark."""
        for columns, kept in (({"part": (0, 0)}, [2]), ({"part": (0, 0), "quantity": (1, 0)}, [])):
            table = ListTable([["Part", "Qty"], ["see below"]], ColumnMap(0, columns, titles=("Part", "Qty")))
            self.assertEqual([number for number, _ in table.body()], kept, columns)

    def test_a_title_alone_and_cells_of_blanks(self) -> None:
        """One title of places and nothing beside it; a cell of blanks is none, so what stands before it stands alone and is a remark."""
        self.assertEqual(ListTable([["Designator"], ["R1"]]).header, -1)
        self.assertEqual(ListTable([["Designator", "Comment"], ["R1", "10k"]]).columns, {"reference_designators": (0, 0), "value": (1, 0)})
        table = ListTable([["Part", "Qty"], ["see below", " \u2003"], ["A-1", "2"], [" ", "3"]])
        self.assertEqual([number for number, _ in table.body()], [3])

    def test_a_title_without_end_is_none(self) -> None:
        """Of a title only as many words are compared as a known one has, and a cell of a million characters is no title."""
        self.assertEqual(known_words("Qty " + "per assembly " * 20_000), "quantity")
        table = ListTable([["Part", "Qty " + "x" * 1_000_000], ["A", "1"]])
        self.assertEqual((table.header, max(map(len, table.titles))), (0, 300))

    def test_a_place_on_paper_steps_over_what_it_met(self) -> None:
        """Behind 30 and a distance of 8 the next step of 5 is at 40; a second thing there puts it off once more."""
        paper = Box(0, 0, 200, 60)
        self.assertEqual(room_for(20, 60, paper, [Box(0, 0, 30, 60)]), (40, 0))
        self.assertEqual(room_for(20, 60, paper, [Box(0, 0, 30, 60), Box(50, 0, 27, 60)]), (85, 0))
