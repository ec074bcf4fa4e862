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

from tally_core.handover.comparing import compare_definitions, comparison_as_json
from tally_core.handover.reading import read_side

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
    made = [{"number": f"M{n}", "kind": "made", "unit": "ea", "description": f"made {n}"} for n in range(r.randint(1, 3))]
    sheets = []
    for part in made:
        lines = []
        for n in range(r.randint(1, 6)):
            of = r.choice(bought)
            lines.append(
                {
                    "item": 10 * (n + 1),
                    "part": of["number"],
                    "quantity": str(r.randint(1, 9)),
                    "unit": of["unit"],
                    "issue_at": r.choice([None, 10]),
                }
            )
        operations = [
            {"sequence": 10 * (n + 1), "name": f"step {n}", "work_center": "W", "run_minutes": "1"} for n in range(r.randint(1, 2))
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
            lines.append({"item": r.choice([15, 25, 90]), "part": of["number"], "quantity": "1", "unit": of["unit"], "issue_at": None})
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


def plain_triples(agreed: list[dict], ours: list[dict], theirs: list[dict]) -> list[tuple[dict | None, dict | None, dict | None]]:
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
    sheets = [{s["part"]: s["lines"] for s in (d or {"build_sheets": []})["build_sheets"]} for d in (agreed, ours, theirs)]
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
            verdict = plain_verdict([before and plain_amount(before), plain_amount(here), plain_amount(there)], before is None)
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
        (row.get("part") or row["parent"], *sorted(mirror.get(v, v) for v in [f["verdict"] for f in row["fields"]] or [row["verdict"]]))
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
        self.assertTrue(
            all(seen.get(v, 0) > 10 for v in ("we moved", "they moved", "both moved", "differs", "only here", "only there")), seen
        )

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
                    wanted[number] = (max(found.values(), key=["we moved", "they moved", "both moved", "differs"].index), found)
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
