"""A bundle may hold anything: it is read whole, or every problem is named by its place; nothing else happens."""

import copy
import json
import random
import unittest
from decimal import Decimal
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.errors import ProblemsError
from tally_core.stated.bundle import parse_bundle, read_bundle, write_bundle

from .generate import bundle

ANYTHING = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8) | st.sampled_from(["1", "kg", "A", "2026-01-01"]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)


class Named(unittest.TestCase):
    def problems(self, **more: Any) -> list[tuple[str, str]]:
        document = {"format": "round-tally-bundle", "version": 1, "parts": [], "build_sheets": []} | more
        with self.assertRaises(ProblemsError) as met:
            read_bundle(document)
        return [(p.place, p.message) for p in met.exception.problems]

    def test_what_a_record_needs_is_asked_for(self) -> None:
        self.assertIn(("parts[0].number", "this field is needed"), self.problems(parts=[{"kind": "made", "unit": "ea"}]))

    def test_a_class_is_checked_like_all_else(self) -> None:
        twice = {"name": "Metal", "fields": [{"name": "alloy"}, {"name": "alloy"}]}
        self.assertEqual([place.split(".")[0] for place, _ in self.problems(part_classes=[twice])], ["part_classes[0]"])


def places(document: Any, at: tuple = ()) -> list[tuple]:
    """The way to every value in a document."""
    found = [at]
    if isinstance(document, dict):
        for name, value in document.items():
            found += places(value, (*at, name))
    elif isinstance(document, list):
        for index, value in enumerate(document):
            found += places(value, (*at, index))
    return found


def put(document: Any, at: tuple, value: Any) -> Any:
    """A copy of a document with one value exchanged."""
    if not at:
        return value
    changed = copy.deepcopy(document)
    inner = changed
    for step in at[:-1]:
        inner = inner[step]
    inner[at[-1]] = value
    return changed


class Hostile(unittest.TestCase):
    @given(st.integers(0, 40), st.integers(0, 10**6), ANYTHING)
    @settings(max_examples=400, deadline=None)
    def test_one_value_of_any_kind_anywhere(self, seed: int, which: int, value: Any) -> None:
        document = bundle(seed)[0]
        ways = places(document)
        at = ways[which % len(ways)]
        try:
            definition = read_bundle(put(document, at, value))
        except ProblemsError as error:
            self.assertTrue(error.problems)
            for problem in error.problems:
                self.assertTrue(problem.message)
                self.assertNotIn("Traceback", problem.message)
            return
        # What was read can be written, and reads back to the same.
        once = write_bundle(definition)
        self.assertEqual(write_bundle(read_bundle(once)), once)

    @given(st.binary(max_size=60) | st.text(max_size=60))
    @settings(max_examples=200, deadline=None)
    def test_what_is_no_json_is_said_to_be_none(self, content: bytes | str) -> None:
        try:
            document = parse_bundle(content)
        except ProblemsError:
            return
        with self.assertRaises(ProblemsError):
            read_bundle(document)

    def test_deep_nesting_is_no_way_in(self) -> None:
        with self.assertRaises(ProblemsError):
            read_bundle(parse_bundle("[" * 100_000))

    def test_several_problems_are_all_named_each_at_its_place(self) -> None:
        r = random.Random(7)
        for seed in range(20):
            document = bundle(seed)[0]
            broken = {
                ("parts", r.randrange(len(document["parts"])), "kind"): "screw",
                ("work_centers", 0, "efficiency_percent"): "0",
                ("currency",): "euro",
            }
            for at, value in broken.items():
                document = put(document, at, value)
            with self.assertRaises(ProblemsError) as caught:
                read_bundle(document)
            named = {p.place for p in caught.exception.problems}
            for at in broken:
                place = at[0] if len(at) == 1 else f"{at[0]}[{at[1]}].{at[2]}"
                self.assertIn(place, named, seed)

    def test_amounts_keep_every_digit_on_the_way_through(self) -> None:
        """Money and quantities never pass through binary floats at the edges."""
        for text in ("0.1", "0.000000001", "123456789012.123456789", "3.00", "1E+3", "0.30000000000000004"[:11]):
            document = json.loads(json.dumps(bundle(1)[0]))
            bought = next(p for p in document["parts"] if p["kind"] == "bought")
            bought["unit_cost"] = text
            written = write_bundle(read_bundle(document))
            held = next(p for p in written["parts"] if p["number"] == bought["number"])["unit_cost"]
            self.assertEqual(Decimal(held), Decimal(text))
            self.assertNotIn("E", held)
