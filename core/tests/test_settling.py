"""From decisions to what is written and agreed (rules H3 to H5): on generated triples, with the changes laid on both sides by plain code.

What must hold is our own rule book's (docs/arithmetic.md): after all of it is written, comparing finds nothing; after part of it, only what was left.
"""

import copy
import json
import random
import unittest
from dataclasses import replace
from typing import Any

from tally_core.handover.comparing import Of, Row, compare_definitions
from tally_core.handover.reading import read_side
from tally_core.handover.settling import Change, agree, settle
from tally_core.stated.definition import Line, Sheet

from .test_handover import _DAY, bundle, moved

#: What crosses here: enough that lines, parts, heads and operations all move.
_CROSSES = {
    "parts": {"description", "unit", "kind"},
    "sheets": {"batch"},
    "lines": {"item", "part", "quantity", "unit", "issue_at"},
    "operations": {"sequence", "name", "run_minutes"},
}
_AMOUNT = {"quantity", "unit"}


def side(document: dict[str, Any]) -> Of:
    return read_side(json.dumps(document).encode())


def laid(of: Of, changes: list[Change], which: str) -> None:
    """Lay changes on a side, record by record."""
    sheets = {(s.part, s.alternate): s for s in of.definition.sheets}
    for c in changes:
        if c.side != which:
            continue
        if c.kind == "parts":
            rows: list[Any] = of.definition.parts
        elif c.kind == "sheets":
            rows = of.definition.sheets
        else:
            place = (c.names["parent"], c.names["alternate"])
            sheet = sheets.setdefault(place, Sheet(*place))
            if sheet not in of.definition.sheets:
                of.definition.sheets.append(sheet)
            rows = sheet.lines if c.kind == "lines" else sheet.operations
        if c.verb == "add":
            rows.append(replace(c.source, lines=[], operations=[]) if c.kind == "sheets" else replace(c.source))
            if c.kind == "sheets":
                sheets[c.source.part, c.source.alternate] = rows[-1]
        elif c.verb == "remove":
            rows[:] = [r for r in rows if r is not c.record]
        else:
            names = set(c.values) | (_AMOUNT if _AMOUNT & set(c.values) and isinstance(c.record, Line) else set())
            for name in names:
                setattr(c.record, name, getattr(c.source, name))


def _gone(kind: str, row: Row, choice: str) -> bool:
    """Whether a decision would take a part away."""
    return kind == "parts" and not row.fields and (choice == "ours") != (row.records[1] is not None)


class Settling(unittest.TestCase):
    def test_all_that_is_decided_is_in_step_afterwards_and_what_is_left_is_found_again(self) -> None:
        left_over = 0
        for seed in range(150):
            r = random.Random(seed)
            document = bundle(r)
            agreed, ours, theirs = side(document), side(moved(r, document)), side(moved(r, document))
            made = compare_definitions(agreed, ours, theirs, _DAY, compared=_CROSSES)
            whole = {
                id(row): r.choice(["ours", "theirs", None] if seed % 2 else ["ours", "theirs"])
                for kind in _CROSSES
                for row in getattr(made, kind)
            }
            changes = settle(made, lambda kind, row, name, whole=whole: whole[id(row)])  # type: ignore[misc]
            before = {k: len(getattr(made, k)) for k in _CROSSES}
            laid(ours, changes, "ours")
            laid(theirs, changes, "theirs")
            after = compare_definitions(agreed, ours, theirs, _DAY, compared=_CROSSES)
            # Parts are taken away on neither side.
            stays = sum(whole[id(row)] is None or _gone(k, row, whole[id(row)]) for k in _CROSSES for row in getattr(made, k))
            found = sum(len(getattr(after, k)) for k in _CROSSES)
            with self.subTest(seed=seed):
                if not stays:
                    self.assertEqual(found, 0, before)
                now = agree(after, agreed, ours).of
                again = compare_definitions(now, ours, theirs, _DAY, compared=_CROSSES)
                self.assertEqual([len(getattr(again, k)) for k in _CROSSES], [len(getattr(after, k)) for k in _CROSSES])
                # What was left stands as it stood against what was agreed before.
                self.assertEqual(
                    [[row.verdict for row in getattr(again, k)] for k in _CROSSES],
                    [[row.verdict for row in getattr(after, k)] for k in _CROSSES],
                )
                left_over += found
        self.assertGreater(left_over, 100)

    def test_what_was_never_agreed_and_is_left_differs_the_next_time_too(self) -> None:
        document = bundle(random.Random(3))
        ours, theirs = side(document), side(copy.deepcopy(document))
        theirs.definition.parts[0].description = "another"
        theirs.definition.parts[0].unit = "kg" if theirs.definition.parts[0].unit != "kg" else "m"
        made = compare_definitions(None, ours, theirs, _DAY, compared=_CROSSES)
        (row,) = made.parts
        self.assertEqual({f.verdict for f in row.fields}, {"differs"})
        # One field is settled, the other left.
        changes = settle(made, lambda kind, row, name: "ours" if name == "description" else None)
        self.assertEqual([(c.side, c.kind, c.verb, set(c.values)) for c in changes], [("theirs", "parts", "change", {"description"})])
        laid(theirs, changes, "theirs")
        after = compare_definitions(None, ours, theirs, _DAY, compared=_CROSSES)
        now = agree(after, None, ours).of
        self.assertEqual(list(now.open.values()), [frozenset({"unit"})])
        again = compare_definitions(now, ours, theirs, _DAY, compared=_CROSSES)
        self.assertEqual([(f.name, f.verdict, f.proposal) for f in again.parts[0].fields], [("unit", "differs", None)])
        # Of the settled one it is known who moved it from now on.
        ours.definition.parts[0].description = "ours moved"
        fields = compare_definitions(now, ours, theirs, _DAY, compared=_CROSSES).parts[0].fields
        self.assertEqual([(f.name, f.verdict) for f in fields], [("description", "we moved"), ("unit", "differs")])

    def test_a_new_line_keeps_what_it_is_known_by(self) -> None:
        document = bundle(random.Random(5))
        agreed = side(document)
        more = copy.deepcopy(document)
        more["build_sheets"][0]["lines"].append({"part": document["parts"][0]["number"], "quantity": "3", "lineage": "new-one"})
        ours, theirs = side(more), side(more)
        (line,) = (x for x in ours.definition.sheets[0].lines if ours.lineage.get(id(x)) == "new-one")
        made = compare_definitions(agreed, ours, theirs, _DAY, compared=_CROSSES)
        for before in (agreed, None):
            now = agree(made if before is not None else compare_definitions(None, ours, theirs, _DAY, compared=_CROSSES), before, ours).of
            self.assertIn("new-one", now.lineage.values())
        self.assertEqual(line.quantity, 3)

    def test_parts_are_taken_away_on_neither_side_and_what_is_kept_by_hand_never(self) -> None:
        document = bundle(random.Random(4))
        agreed, ours = side(document), side(document)
        smaller = copy.deepcopy(document)
        gone = smaller["parts"].pop(0)
        theirs = side(smaller)
        made = compare_definitions(agreed, ours, theirs, _DAY, compared=_CROSSES)
        self.assertEqual([(row.names["part"], row.verdict) for row in made.parts], [(gone["number"], "only here")])
        self.assertEqual(settle(made, lambda kind, row, name: "theirs"), [])
        (back,) = settle(made, lambda kind, row, name: "ours")
        self.assertEqual((back.side, back.verb, back.source.number), ("theirs", "add", gone["number"]))
        kept = copy.deepcopy(document)
        kept["build_sheets"][0]["lines"].append({"part": gone["number"], "quantity": "1", "unit": gone["unit"], "by_hand": True})
        made = compare_definitions(agreed, ours, side(kept), _DAY, compared=_CROSSES)
        (row,) = made.lines
        self.assertTrue(row.kept)
        for choice in ("ours", "theirs"):
            self.assertEqual(settle(made, lambda kind, row, name, choice=choice: choice), [])  # type: ignore[misc]
