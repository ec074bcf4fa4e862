"""Columns read from PostgreSQL in binary: what comes back, and that a null never passes as a figure."""

from datetime import date

from definition.models.parts import Part
from django.test import TestCase
from tally_core.basics.errors import MissingError
from tally_core.cost.answers import Basis
from testing import load, rod_and_tube

from loading.columns import fetch_columns
from loading.reads import load_question

_KINDS = {"int8": (1, 2), "int4": (1, 2), "float8": (1.5, 2.5), "bool": (True, False)}


class Columns(TestCase):
    def test_values_come_back_in_their_order(self) -> None:
        for kind, (a, b) in _KINDS.items():
            found = fetch_columns({"x": ("v", kind)}, "FROM (VALUES (%s), (%s)) AS t(v)", [a, b])
            self.assertEqual(found["x"].tolist(), [a, b], kind)
            self.assertEqual(fetch_columns({"x": ("1", "int4")}, "WHERE false", [])["x"].size, 0)

    def test_a_null_is_refused_however_many_there_are(self) -> None:
        """Two nulls of four bytes are as long as one element: counting bytes does not find them."""
        for kind in _KINDS:
            for nulls in (1, 2, 3, 4):
                rows = ", ".join(["(1)"] * 3 + ["(null)"] * nulls)
                value = "(v = 1)" if kind == "bool" else "v"
                with self.subTest(kind=kind, nulls=nulls), self.assertRaisesMessage(AssertionError, "holds a null"):
                    fetch_columns({"x": (value, kind)}, f"FROM (VALUES {rows}) AS t(v)", [])


class Missing(TestCase):
    def test_a_part_that_was_taken_away_meanwhile_is_never_mistaken_for_another(self) -> None:
        load(rod_and_tube("released"))
        part = Part.objects.get(number="RT-1")
        basis = Basis(date.today(), None, (), False)
        loaded, question = load_question(part, basis)
        self.assertEqual(loaded.part_ids[question.top], part.pk)
        for gone in (0, max(loaded.part_ids) + 1):
            with self.assertRaises(MissingError):
                loaded.row(gone)
        part.pk = 10**9
        with self.assertRaises(MissingError):
            load_question(part, basis)
