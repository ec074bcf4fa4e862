"""Comparing three ways, by hand: units, the same part twice, lineage, what is kept, sheets that count, and what is refused.

The rules are ours (docs/arithmetic.md, H1 to H4); factors between units are those of NIST SP 811 (exact by definition).
"""

import json
import unittest
from typing import Any

from tally_core.basics.errors import ProblemsError
from tally_core.handover.comparing import Comparison, compare_definitions
from tally_core.handover.matching import match
from tally_core.handover.reading import read_side
from tally_core.handover.three_way import Field, compare_fields, verdict_of_one_side

from .test_handover import _DAY, compared


class ByHand(unittest.TestCase):
    def two(self, *lines: dict[str, Any], parts: list[dict] | None = None) -> dict[str, Any]:
        return {
            "format": "round-tally-bundle", "version": 1,
            "parts": parts or [{"number": "M", "kind": "made", "unit": "ea"}, {"number": "B", "kind": "bought", "unit": "m"}],
            "build_sheets": [{"part": "M", "lines": list(lines)}],
        }  # fmt: skip

    def test_the_same_amount_in_another_unit_is_nobodys_move(self) -> None:
        agreed = self.two({"item": 10, "part": "B", "quantity": "0.4", "unit": "m", "fixed_loss": "0.1"})
        same = self.two({"item": 10, "part": "B", "quantity": "40", "unit": "cm", "fixed_loss": "10"})
        more = self.two({"item": 10, "part": "B", "quantity": "500", "unit": "mm", "fixed_loss": "100"})
        self.assertEqual(compared(agreed, agreed, same)["lines"], [])
        (row,) = compared(agreed, same, more)["lines"]
        self.assertEqual(row["verdict"], "they moved")
        (row,) = compared(agreed, more, same)["lines"]
        self.assertEqual(row["verdict"], "we moved")
        # A fixed loss is in the unit of its line: 0.1 mm is not 0.1 m.
        other = self.two({"item": 10, "part": "B", "quantity": "400", "unit": "mm", "fixed_loss": "0.1"})
        self.assertEqual(compared(agreed, agreed, other)["lines"][0]["verdict"], "they moved")
        # Named otherwise, it is the same unit.
        pieces = [{"number": "M", "kind": "made", "unit": "ea"}, {"number": "B", "kind": "bought", "unit": "pcs"}]
        ours = self.two({"item": 10, "part": "B", "quantity": "2"}, parts=[pieces[0], pieces[1] | {"unit": "ea"}])
        theirs = self.two({"item": 10, "part": "B", "quantity": "2.0", "unit": "pcs"}, parts=pieces)
        self.assertEqual(sum(map(len, compared(None, ours, theirs).values())), 0)

    def test_the_same_part_twice_in_another_order_is_the_same(self) -> None:
        one, two = {"item": 10, "part": "B", "quantity": "1"}, {"item": 20, "part": "B", "quantity": "2"}
        self.assertEqual(compared(None, self.two(one, two), self.two(two, one))["lines"], [])

    def test_the_same_part_twice(self) -> None:
        """A line that is taken away is the one that is missing, and the other keeps what it is."""
        first, second = {"item": 10, "part": "B", "quantity": "1"}, {"item": 20, "part": "B", "quantity": "2"}
        both = self.two(first, second)
        (row,) = compared(both, self.two(second), both)["lines"]
        self.assertEqual((row["item"], row["verdict"], row["was_agreed"], row["proposal"]), (10, "only there", True, "ours"))
        (row,) = compared(both, both, self.two(first, second | {"item": 25}))["lines"]
        self.assertEqual((row["fields"][0]["field"], row["fields"][0]["verdict"], row["item"]), ("item", "they moved", 20))

    def test_a_line_is_known_by_its_lineage_first(self) -> None:
        """Its part was exchanged and it moved: it is the same line all the same, and the part is a field of it."""
        line = {"item": 10, "part": "B", "quantity": "1", "lineage": "x-1"}
        other = {"item": 20, "part": "C", "quantity": "1", "lineage": "x-1"}
        (row,) = compared(self.two(line), self.two(other), self.two(line))["lines"]
        self.assertEqual((row["verdict"], row["part"], [f["field"] for f in row["fields"]]), ("we moved", "C", ["item", "part", "unit"]))
        without = [{n: v for n, v in x.items() if n != "lineage"} for x in (line, other)]
        rows = compared(self.two(without[0]), self.two(without[1]), self.two(without[0]))["lines"]
        self.assertEqual([r["verdict"] for r in rows], ["only here", "only there"])

    def test_what_is_kept_by_hand_is_never_proposed_for_removal(self) -> None:
        glue = {"item": 90, "part": "B", "quantity": "1"}
        (row,) = compared(self.two(glue), self.two(), self.two(glue))["lines"]
        self.assertEqual((row["verdict"], row["proposal"]), ("only there", "ours"))
        (row,) = compared(self.two(glue), self.two(), self.two(glue | {"by_hand": True}))["lines"]
        self.assertEqual((row["verdict"], row["proposal"]), ("only there", None))

    def test_a_row_on_one_side(self) -> None:
        line = {"item": 10, "part": "B", "quantity": "1"}
        with_it, without, more = self.two(line), self.two(), self.two(line | {"quantity": "2"})
        cases = [
            (without, with_it, without, "only here", False, "ours"), (without, without, with_it, "only there", False, "theirs"),
            (with_it, with_it, without, "only here", True, "theirs"), (with_it, without, with_it, "only there", True, "ours"),
            # Taken away on one side and changed on the other: nobody's is proposed.
            (with_it, more, without, "only here", True, None), (with_it, without, more, "only there", True, None),
        ]  # fmt: skip
        for agreed, ours, theirs, verdict, was, proposal in cases:
            (row,) = compared(agreed, ours, theirs)["lines"]
            self.assertEqual((row["verdict"], row["was_agreed"], row["proposal"]), (verdict, was, proposal))
        self.assertEqual(verdict_of_one_side(False, True, True, kept=True), ("only there", None), "H4")

    def test_a_field_may_belong_to_a_side(self) -> None:
        owner = {"a": "theirs"}.get
        found = compare_fields({"a": 1, "b": 1}, {"a": 2, "b": 2}, {"a": 3, "b": 1}, owner)
        self.assertEqual(found, [Field("a", 1, 2, 3, "both moved", "theirs"), Field("b", 1, 2, 1, "we moved", "ours")])

    def test_the_sheet_that_counts(self) -> None:
        """Of several revisions the one in force; a draft only where nothing was ever released."""

        def sheet(revision: str, quantity: str, **more: str) -> dict[str, Any]:
            return {"part": "M", "revision": revision, "lines": [{"item": 10, "part": "B", "quantity": quantity}], **more}

        ours = self.two()
        ours["build_sheets"] = [
            sheet("A", "1", status="released", effective_from="2026-01-01", effective_to="2026-06-01"),
            sheet("B", "2", status="released", effective_from="2026-06-01"),
            sheet("C", "3", status="released", effective_from="2027-01-01"),
            sheet("D", "4", status="draft"),
        ]
        (row,) = compared(None, ours, self.two({"item": 10, "part": "B", "quantity": "9"}))["lines"]
        self.assertEqual(row["fields"][0]["ours"], "2")
        for sheets, counts in (
            ([sheet("D", "4", status="draft"), sheet("A", "1", status="retired")], "4"),
            # It is in force from its first day up to, not on, its last (U7).
            ([sheet("B", "2", status="released", effective_from="2026-11-26"), sheet("A", "1", status="released", effective_from="2026-01-01", effective_to="2026-11-26")], "2"),
            ([sheet("A", "1", status="released", effective_from="2026-01-01", effective_to="2026-11-27"), sheet("B", "2", status="released", effective_from="2026-11-27")], "1"),
            # From its first day on the newer of two that are in force.
            ([sheet("A", "1", status="released", effective_from="2026-01-01"), sheet("B", "2", status="released", effective_from="2026-11-26")], "2"),
            # Released before any draft, though its days are over.
            ([sheet("D", "4", status="draft"), sheet("A", "1", status="released", effective_to="2026-01-01"), sheet("E", "5", status="draft")], "1"),
            # Of several drafts the last.
            ([sheet("D", "4", status="draft"), sheet("E", "5", status="draft")], "5"),
        ):  # fmt: skip
            ours["build_sheets"] = sheets
            (row,) = compared(None, ours, self.two({"item": 10, "part": "B", "quantity": "9"}))["lines"]
            self.assertEqual(row["fields"][0]["ours"], counts)

    def test_fields_of_a_class_and_makers_numbers_are_fields_of_the_part(self) -> None:
        def part(**more: Any) -> dict[str, Any]:
            return self.two(parts=[{"number": "B", "kind": "bought", "unit": "m", **more}, {"number": "M", "kind": "made", "unit": "ea"}])

        before = part(own_values={"hue": "red", "fit": "H7"}, maker_numbers=[{"number": "N-1", "maker": "Nordry"}])
        after = part(own_values={"hue": "blue", "fit": "H7"}, maker_numbers=[{"number": "N-2", "maker": "Nordry"}], on_hand="7")
        (row,) = compared(before, before, after)["parts"]
        self.assertEqual(row["fields"][0]["ours"], "red")
        self.assertEqual([f["field"] for f in row["fields"]], ["own_values.hue", "maker_numbers"], "what is on hand is each side's own")

    def test_what_was_taken_away_in_another_unit_is_not_changed(self) -> None:
        agreed = self.two({"item": 10, "part": "B", "quantity": "0.4", "unit": "m"})
        ours = self.two({"item": 10, "part": "B", "quantity": "400", "unit": "mm"})
        (row,) = compared(agreed, ours, self.two())["lines"]
        self.assertEqual((row["verdict"], row["proposal"]), ("only here", "theirs"))

    def test_operations_without_names_are_told_apart_by_their_sequence(self) -> None:
        ours, theirs = self.two(), self.two()
        ours["build_sheets"][0]["operations"] = [{"sequence": 10, "work_center": "W"}]
        theirs["build_sheets"][0]["operations"] = [{"sequence": 20, "work_center": "W"}]
        said = compared(None, ours, theirs)["operations"]
        self.assertEqual([(r["sequence"], r["verdict"]) for r in said], [(10, "only here"), (20, "only there")])

    def test_alternates_heads_and_operations(self) -> None:
        ours, theirs = self.two(), self.two()
        ours["build_sheets"] = [{"part": "M", "batch": "2", "operations": [
            {"sequence": 10, "name": "Saw", "work_center": "W"}, {"sequence": 20, "name": "Turn", "work_center": "W"}]}]  # fmt: skip
        theirs["build_sheets"] = [
            {
                "part": "M",
                "operations": [{"sequence": 15, "name": "Turn", "work_center": "W"}, {"sequence": 10, "name": "Saw", "work_center": "V"}],
            },
            {"part": "M", "alternate": "B"},
        ]
        said = compared(None, ours, theirs)
        self.assertEqual([(r["alternate"], r["verdict"]) for r in said["sheets"]], [("A", "differs"), ("B", "only there")])
        self.assertEqual(
            [(r["name"], [(f["field"], f["ours"], f["theirs"]) for f in r["fields"]]) for r in said["operations"]],
            [("Saw", [("work_center", "W", "V")]), ("Turn", [("sequence", 20, 15)])],
        )

    def test_text_lines_and_what_agrees_is_counted(self) -> None:
        text = {"kind": "text", "text": "Mind the glass.", "item": 5}
        lines = [text, {"item": 10, "part": "B", "quantity": "1"}]
        sides = [read_side(json.dumps(self.two(*x)).encode()) for x in (lines, [lines[1], text | {"text": "Mind it."}])]
        made: Comparison = compare_definitions(None, sides[0], sides[1], _DAY)
        self.assertEqual({n: len(rows) for n, rows in made.agreeing.items()}, {"parts": 2, "sheets": 1, "lines": 1, "operations": 0})
        self.assertEqual([r.verdict for r in made.lines], ["only here", "only there"])

    def test_a_part_of_a_whole_is_read_and_what_is_wrong_is_named(self) -> None:
        alone = self.two({"item": 10, "part": "ELSEWHERE", "quantity": "1", "unit": "m"})
        alone["parts"] = []
        self.assertEqual(compared(None, alone, alone)["lines"], [])
        # What could not be handed over is compared all the same.
        odd = self.two({"item": 10, "part": "B", "quantity": "1", "unit": "furlong", "issue_at": 70})
        (row,) = compared(None, odd, self.two({"item": 10, "part": "B", "quantity": "1", "unit": "m"}))["lines"]
        self.assertEqual([f["field"] for f in row["fields"]], ["unit", "issue_at"])
        for wrong, place in (
            ({"quantity": "many"}, "lines[0].quantity"),
            ({"colour": "red"}, "lines[0].colour"),
            ({"item": "1.5"}, "lines[0].item"),
        ):
            with self.assertRaises(ProblemsError) as refused:
                read_side(json.dumps(self.two({"item": 10, "part": "B", "quantity": "1"} | wrong)).encode())
            self.assertIn(place, refused.exception.problems[0].place)
        twice = self.two()
        for name, where in (("parts", "parts[2].number"), ("build_sheets", "build_sheets[1].revision")):
            with self.assertRaises(ProblemsError) as refused:
                read_side(json.dumps(twice | {name: twice[name] + twice[name][:1]}).encode())
            self.assertEqual(refused.exception.problems[0].place, where)
        for content in (b"", b"[]", b'{"format": "x"}', b'{"format": "round-tally-bundle", "version": 1, "parts": 7, "build_sheets": [1]}'):
            with self.assertRaises(ProblemsError):
                read_side(content)

    def test_rows_without_a_first_name_are_matched_by_the_next(self) -> None:
        """A name that no row has puts nobody in order: what the second key says is what counts."""
        keys = [lambda row: row[0], lambda row: row[1]]
        rows = list(match([(None, 1), (None, 2)], [(None, 2), (None, 1)], [], keys))
        self.assertEqual(rows, [((None, 2), (None, 2), None), ((None, 1), (None, 1), None)])

    def test_many_rows_of_one_part_are_matched_in_their_order(self) -> None:
        rows = list(match([("B", n) for n in range(2000)], [("B", n) for n in range(1000, 3000)], [], [lambda x: x, lambda x: x[0]]))
        self.assertEqual((len(rows), rows[0], rows[-1]), (2000, (("B", 1000), ("B", 1000), None), (("B", 999), ("B", 2999), None)))
