"""Comparing two sheets: every row once, nothing where nothing differs, and the fields that were changed."""

import copy
import random
import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st
from tally_core.stated.bundle import read_bundle
from tally_core.stated.compare import Difference, compare_sheets, pair
from tally_core.stated.definition import Line, Operation, Resource, Sheet

from .generate import bundle

ROWS = st.lists(st.tuples(st.sampled_from("abc"), st.integers(0, 3)), max_size=12)


class Pairing(unittest.TestCase):
    @given(ROWS, ROWS)
    def test_every_row_stands_in_one_pair_and_the_first_key_goes_first(self, left: list, right: list) -> None:
        pairs = pair(left, right, [lambda r: r, lambda r: r[0]])
        self.assertEqual(sorted(i for i, _ in pairs if i is not None), list(range(len(left))))
        self.assertEqual([j for _, j in pairs if j is not None], list(range(len(right))))
        exact = sum(1 for i, j in pairs if i is not None and j is not None and left[i] == right[j])
        self.assertEqual(exact, sum(min(left.count(r), right.count(r)) for r in set(left)))
        for i, j in pairs:
            if i is not None and j is not None:
                self.assertEqual(left[i][0], right[j][0])
        # What is left over on one side has no partner of its first letter on the other.
        alone = {left[i][0] for i, j in pairs if j is None and i is not None}
        self.assertFalse(alone & {right[j][0] for i, j in pairs if i is None and j is not None})


class Comparing(unittest.TestCase):
    def differing(self, left: Sheet, right: Sheet) -> list[Difference]:
        return [d for d in compare_sheets(left, right) if d.state != "same"]

    def test_a_sheet_agrees_with_itself_and_each_change_is_found_where_it_was_made(self) -> None:
        r = random.Random(3)
        changes = 0
        for seed in range(60):
            sheets = read_bundle(bundle(seed)[0]).sheets
            for sheet in sheets:
                self.assertEqual(self.differing(sheet, copy.deepcopy(sheet)), [])
                other = copy.deepcopy(sheet)
                if not other.lines:
                    continue
                line = r.choice(other.lines)
                line.fixed_loss += 7
                found = self.differing(sheet, other)
                self.assertEqual([(d.table, d.state) for d in found], [("line", "changed")])
                self.assertEqual([name for name, *_ in found[0].fields], ["fixed_loss"])
                back = self.differing(other, sheet)
                self.assertEqual([(n, b, a) for n, a, b in back[0].fields], list(found[0].fields))
                changes += 1
        self.assertGreater(changes, 100)

    def test_a_part_exchanged_at_its_item_is_one_change_and_an_added_line_is_another(self) -> None:
        """Common practice: the item number is the place, the part is what stands there."""
        left = Sheet("P", lines=[Line(10, part="A", quantity=Decimal(1)), Line(20, part="B", quantity=Decimal(2))])
        right = Sheet(
            "P",
            lines=[
                Line(10, part="C", quantity=Decimal(1)),
                Line(30, part="B", quantity=Decimal(2)),
                Line(40, part="D", quantity=Decimal(1)),
                Line(kind="text", text="note"),
            ],
        )
        found = [(d.state, d.left, d.right, d.fields) for d in self.differing(left, right)]
        self.assertEqual(
            found,
            [
                ("changed", 0, 0, (("part", "A", "C"),)),
                ("changed", 1, 1, (("item", "20", "30"),)),
                ("only right", None, 2, ()),
                ("only right", None, 3, ()),
            ],
        )
        self.assertEqual([d.state for d in self.differing(right, left)][2:], ["only left", "only left"])

    def test_what_works_beside_an_operation_is_compared_in_words(self) -> None:
        left, right = (
            Sheet("P", operations=[Operation(10, "Turn", "W", resources=[Resource("HELP", crew=Decimal(crew))])]) for crew in (1, 2)
        )
        ((_, before, after),) = self.differing(left, right)[0].fields
        self.assertIn("work center HELP", before)
        self.assertEqual((before.count("crew 1"), after.count("crew 2")), (2, 1))
