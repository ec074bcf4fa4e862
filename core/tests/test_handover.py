"""Comparing three ways (rules H1 to H4): against a second, plainly written comparison on generated triples, and what holds of any.

The rules are ours (docs/arithmetic.md); merging three ways against the last common state is common practice of version control. The
factors between units are those of NIST SP 811 (exact by definition).
"""

import copy
import json
import random
import unittest
from datetime import date
from fractions import Fraction
from typing import Any

from tally_core.basics.errors import ProblemsError
from tally_core.handover.comparing import Comparison, compare_definitions, comparison_as_json
from tally_core.handover.matching import match
from tally_core.handover.reading import read_side
from tally_core.handover.three_way import Field, compare_fields, verdict_of_one_side

_DAY = date(2026, 11, 26)
_METRES = {"m": Fraction(1), "mm": Fraction(1, 1000), "cm": Fraction(1, 100), "in": Fraction("0.0254")}
_DEFAULTS = {"quantity": None, "issue_at": None, "scrap_percent": None, "item": None}
_MIRROR = {"we moved": "they moved", "they moved": "we moved", "only here": "only there", "only there": "only here"}


def compared(agreed: dict | None, ours: dict, theirs: dict) -> dict[str, Any]:
    sides = [None if d is None else read_side(json.dumps(d).encode()) for d in (agreed, ours, theirs)]
    return comparison_as_json(compare_definitions(sides[0], sides[1], sides[2], _DAY))  # type: ignore[arg-type]


def bundle(r: random.Random) -> dict[str, Any]:
    """A few products over bought parts, among them lengths; a part may stand twice under a product."""
    bought = [
        {"number": f"B{n}", "kind": "bought", "unit": r.choice(["ea", "m"]), "unit_cost": str(r.randint(1, 9))}
        for n in range(r.randint(3, 6))
    ]
    made = [
        {"number": f"M{n}", "kind": "made", "unit": "ea", "description": f"made {n}"} for n in range(r.randint(1, 3))
    ]
    sheets = []
    for part in made:
        lines = []
        for n in range(r.randint(1, 6)):
            of = r.choice(bought)
            lines.append({"item": 10 * (n + 1), "part": of["number"], "quantity": str(r.randint(1, 9)), "unit": of["unit"], "issue_at": r.choice([None, 10])})  # fmt: skip
        operations = [
            {"sequence": 10 * (n + 1), "name": f"step {n}", "work_center": "W", "run_minutes": "1"}
            for n in range(r.randint(1, 2))
        ]
        sheets.append({"part": part["number"], "batch": "1", "lines": lines, "operations": operations})
    return {"format": "round-tally-bundle", "version": 1, "parts": bought + made, "build_sheets": sheets}


def moved(r: random.Random, document: dict[str, Any]) -> dict[str, Any]:
    """The same after somebody worked on it."""
    made = copy.deepcopy(document)
    for _ in range(r.randint(0, 9)):
        sheet = r.choice(made["build_sheets"])
        lines = sheet["lines"]
        what = r.randrange(11)
        if what == 0:
            r.choice(made["parts"])["description"] = r.choice(["one", "two"])
        elif what == 1:
            r.choice([p for p in made["parts"] if p["kind"] == "bought"])["unit_cost"] = str(r.randint(1, 9))
        elif what == 2 and lines:
            r.choice(lines)["quantity"] = str(r.randint(1, 9))
        elif what == 3 and lines:
            r.choice(lines)["issue_at"] = r.choice([None, 10, 20])
        elif what == 4 and lines:
            lines.remove(r.choice(lines))
        elif what == 5:
            of = r.choice([p for p in made["parts"] if p["kind"] == "bought"])
            lines.append(
                {
                    "item": r.choice([15, 25, 90]),
                    "part": of["number"],
                    "quantity": "1",
                    "unit": of["unit"],
                    "issue_at": None,
                }
            )
        elif what == 6 and lines:
            r.choice(lines)["item"] = r.choice([15, 25, 35, 70])
        elif what == 7:
            made["parts"].append({"number": f"N{r.randrange(3)}", "kind": "bought", "unit": "ea", "unit_cost": "1"})
            if len({p["number"] for p in made["parts"]}) < len(made["parts"]):
                made["parts"].pop()
        elif what == 8:
            sheet["batch"] = r.choice(["1", "2"])
        elif what == 9:
            r.choice(sheet["operations"])["run_minutes"] = r.choice(["1", "2"])
        elif what == 10:
            lengths = [x for x in lines if x["unit"] == "m"]
            for line in lengths[:1]:
                # The same length, in another unit.
                line["quantity"], line["unit"] = str(int(line["quantity"]) * 1000), "mm"
    return made


# -- the second opinion


def plain_amount(line: dict[str, Any]) -> Any:
    if line["quantity"] is None:
        return None
    return Fraction(line["quantity"]) * _METRES[line["unit"]] if line["unit"] in _METRES else Fraction(line["quantity"])


def plain_partners(mine: list[dict], agreed: list[dict]) -> list[int | None]:
    """For each of mine the place of the agreed line it is: by part and item, then by part."""
    found: list[int | None] = [None] * len(mine)
    for same in (lambda a, b: a["part"] == b["part"] and a["item"] == b["item"], lambda a, b: a["part"] == b["part"]):
        for i, line in enumerate(mine):
            if found[i] is None:
                for j, other in enumerate(agreed):
                    if j not in found and same(line, other):
                        found[i] = j
                        break
    return found


def plain_triples(
    agreed: list[dict], ours: list[dict], theirs: list[dict]
) -> list[tuple[dict | None, dict | None, dict | None]]:
    a, b = plain_partners(ours, agreed), plain_partners(theirs, agreed)
    rows: list[tuple[dict | None, dict | None, dict | None]] = []
    for j, before in enumerate(agreed):
        here = ours[a.index(j)] if j in a else None
        there = theirs[b.index(j)] if j in b else None
        if here or there:
            rows.append((before, here, there))
    new_ours, new_theirs = (
        [x for x, j in zip(ours, a, strict=True) if j is None],
        [x for x, j in zip(theirs, b, strict=True) if j is None],
    )
    partners = plain_partners(new_ours, new_theirs)
    rows += [(None, x, None if j is None else new_theirs[j]) for x, j in zip(new_ours, partners, strict=True)]
    return rows + [(None, None, x) for j, x in enumerate(new_theirs) if j not in partners]


def plain_verdict(values: list[Any], nothing: bool) -> str | None:
    before, here, there = values
    if here == there:
        return None
    if nothing:
        return "differs"
    return "they moved" if here == before else "we moved" if there == before else "both moved"


def plain_lines(agreed: dict | None, ours: dict, theirs: dict) -> list[tuple]:
    """What does not agree of the lines: (parent, part, verdict, {field: verdict}), in no order."""
    said = []
    sheets = [
        {s["part"]: s["lines"] for s in (d or {"build_sheets": []})["build_sheets"]} for d in (agreed, ours, theirs)
    ]
    for parent in {*sheets[1], *sheets[2]}:
        for before, here, there in plain_triples(*(s.get(parent, []) for s in sheets)):
            if here is None or there is None:
                said.append((parent, (here or there)["part"], "only there" if here is None else "only here", ()))  # type: ignore[index]
                continue
            found = {}
            for name in ("item", "issue_at"):
                verdict = plain_verdict([before and before[name], here[name], there[name]], before is None)
                if verdict:
                    found[name] = verdict
            verdict = plain_verdict(
                [before and plain_amount(before), plain_amount(here), plain_amount(there)], before is None
            )
            if verdict:
                found["amount"] = verdict
            if found:
                strongest = max(found.values(), key=["we moved", "they moved", "both moved", "differs"].index)
                said.append((parent, here["part"], strongest, tuple(sorted(found.items()))))
    return sorted(said, key=str)


def told_lines(said: dict[str, Any]) -> list[tuple]:
    """The same of our answer: the fields of an amount taken together."""
    rows = []
    for row in said["lines"]:
        found: dict[str, str] = {}
        for f in row["fields"]:
            name = "amount" if f["field"] in ("quantity", "unit") else f["field"]
            # A quantity may agree while its unit does not.
            if name != "amount" or name not in found or f["verdict"] == "both moved":
                found[name] = f["verdict"]
        rows.append((row["parent"], row["part"], row["verdict"], tuple(sorted(found.items()))))
    return sorted(rows, key=str)


def told(rows: list[dict[str, Any]], mirror: dict[str, str]) -> list[tuple]:
    """Rows with the verdicts of their fields, or their own where one side only has them."""
    return sorted(
        (
            row.get("part") or row["parent"],
            *sorted(mirror.get(v, v) for v in [f["verdict"] for f in row["fields"]] or [row["verdict"]]),
        )
        for row in rows
    )


class Generated(unittest.TestCase):
    def test_lines_agree_with_the_second_opinion(self) -> None:
        seen: dict[str, int] = {}
        for seed in range(300):
            r = random.Random(seed)
            agreed: dict | None = bundle(r)
            ours, theirs = moved(r, agreed), moved(r, agreed)  # type: ignore[arg-type]
            if seed % 5 == 0:
                agreed = None
            said = compared(agreed, ours, theirs)
            self.assertEqual(told_lines(said), plain_lines(agreed, ours, theirs), seed)
            for row in said["lines"] + said["parts"]:
                seen[row["verdict"]] = seen.get(row["verdict"], 0) + 1
        # Each verdict came up often enough to mean something.
        self.assertTrue(all(seen.get(v, 0) > 10 for v in ("we moved", "they moved", "both moved", "differs", "only here", "only there")), seen)  # fmt: skip

    def test_parts_agree_with_the_second_opinion(self) -> None:
        for seed in range(300):
            r = random.Random(1000 + seed)
            agreed = bundle(r)
            ours, theirs = moved(r, agreed), moved(r, agreed)
            of = [{p["number"]: p for p in d["parts"]} for d in (agreed, ours, theirs)]
            wanted = {}
            for number in {*of[1], *of[2]}:
                if number not in of[1] or number not in of[2]:
                    wanted[number] = ("only there" if number not in of[1] else "only here", {})
                    continue
                before = of[0].get(number)
                found = {}
                for name in ("description", "unit_cost"):
                    values = [
                        None if p is None else p.get(name, "" if name == "description" else None)
                        for p in (before, of[1][number], of[2][number])
                    ]
                    verdict = plain_verdict(values, before is None)
                    if verdict:
                        found[name] = verdict
                if found:
                    wanted[number] = (
                        max(found.values(), key=["we moved", "they moved", "both moved", "differs"].index),
                        found,
                    )
            said = {
                row["part"]: (row["verdict"], {f["field"]: f["verdict"] for f in row["fields"]})
                for row in compared(agreed, ours, theirs)["parts"]
            }
            self.assertEqual(said, wanted, seed)

    def test_what_holds_of_any(self) -> None:
        for seed in range(60):
            r = random.Random(5000 + seed)
            agreed = bundle(r)
            ours, theirs = moved(r, agreed), moved(r, agreed)
            for same in (agreed, ours):
                self.assertEqual(sum(map(len, compared(r.choice([agreed, None]), same, same).values())), 0)
            said, turned = compared(agreed, ours, theirs), compared(agreed, theirs, ours)
            for kind in said:
                self.assertEqual(told(said[kind], _MIRROR), told(turned[kind], {}), (seed, kind))
            # Where one side moved, its value is proposed; where both did, nothing is.
            for row in (row for kind in said for row in said[kind]):
                for f in row["fields"]:
                    self.assertEqual(f["proposal"], {"we moved": "ours", "they moved": "theirs"}.get(f["verdict"]))
                    self.assertNotEqual(f["ours"], f["theirs"])


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

    def test_the_same_part_twice(self) -> None:
        """A line that is taken away is the one that is missing, and the other keeps what it is."""
        first, second = {"item": 10, "part": "B", "quantity": "1"}, {"item": 20, "part": "B", "quantity": "2"}
        both = self.two(first, second)
        (row,) = compared(both, self.two(second), both)["lines"]
        self.assertEqual(
            (row["item"], row["verdict"], row["was_agreed"], row["proposal"]), (10, "only there", True, "ours")
        )
        (row,) = compared(both, both, self.two(first, second | {"item": 25}))["lines"]
        self.assertEqual(
            (row["fields"][0]["field"], row["fields"][0]["verdict"], row["item"]), ("item", "they moved", 20)
        )

    def test_a_line_is_known_by_its_lineage_first(self) -> None:
        """Its part was exchanged and it moved: it is the same line all the same, and the part is a field of it."""
        line = {"item": 10, "part": "B", "quantity": "1", "lineage": "x-1"}
        other = {"item": 20, "part": "C", "quantity": "1", "lineage": "x-1"}
        (row,) = compared(self.two(line), self.two(other), self.two(line))["lines"]
        self.assertEqual(
            (row["verdict"], row["part"], [f["field"] for f in row["fields"]]),
            ("we moved", "C", ["item", "part", "unit"]),
        )
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
            return {
                "part": "M",
                "revision": revision,
                "lines": [{"item": 10, "part": "B", "quantity": quantity}],
                **more,
            }

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
            return self.two(
                parts=[
                    {"number": "B", "kind": "bought", "unit": "m", **more},
                    {"number": "M", "kind": "made", "unit": "ea"},
                ]
            )

        before = part(own_values={"hue": "red", "fit": "H7"}, maker_numbers=[{"number": "N-1", "maker": "Nordry"}])
        after = part(
            own_values={"hue": "blue", "fit": "H7"}, maker_numbers=[{"number": "N-2", "maker": "Nordry"}], on_hand="7"
        )
        (row,) = compared(before, before, after)["parts"]
        self.assertEqual(row["fields"][0]["ours"], "red")
        self.assertEqual(
            [f["field"] for f in row["fields"]],
            ["own_values.hue", "maker_numbers"],
            "what is on hand is each side's own",
        )

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
                "operations": [
                    {"sequence": 15, "name": "Turn", "work_center": "W"},
                    {"sequence": 10, "name": "Saw", "work_center": "V"},
                ],
            },
            {"part": "M", "alternate": "B"},
        ]
        said = compared(None, ours, theirs)
        self.assertEqual(
            [(r["alternate"], r["verdict"]) for r in said["sheets"]], [("A", "differs"), ("B", "only there")]
        )
        self.assertEqual(
            [(r["name"], [(f["field"], f["ours"], f["theirs"]) for f in r["fields"]]) for r in said["operations"]],
            [("Saw", [("work_center", "W", "V")]), ("Turn", [("sequence", 20, 15)])],
        )

    def test_text_lines_and_what_agrees_is_counted(self) -> None:
        text = {"kind": "text", "text": "Mind the glass.", "item": 5}
        lines = [text, {"item": 10, "part": "B", "quantity": "1"}]
        sides = [read_side(json.dumps(self.two(*x)).encode()) for x in (lines, [lines[1], text | {"text": "Mind it."}])]
        made: Comparison = compare_definitions(None, sides[0], sides[1], _DAY)
        self.assertEqual(
            {n: len(rows) for n, rows in made.agreeing.items()}, {"parts": 2, "sheets": 1, "lines": 1, "operations": 0}
        )
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
        for content in (
            b"",
            b"[]",
            b'{"format": "x"}',
            b'{"format": "round-tally-bundle", "version": 1, "parts": 7, "build_sheets": [1]}',
        ):
            with self.assertRaises(ProblemsError):
                read_side(content)

    def test_many_rows_of_one_part_are_matched_in_their_order(self) -> None:
        rows = list(
            match(
                [("B", n) for n in range(2000)],
                [("B", n) for n in range(1000, 3000)],
                [],
                [lambda x: x, lambda x: x[0]],
            )
        )
        self.assertEqual(
            (len(rows), rows[0], rows[-1]), (2000, (("B", 1000), ("B", 1000), None), (("B", 999), ("B", 2999), None))
        )
