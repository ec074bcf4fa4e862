"""Rule C6 against exact fractions, and its working against the roll-up."""

import random
import unittest
from datetime import date
from fractions import Fraction as F

import numpy as np
from tally_core.basics.kinds import PART_KINDS
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.working_of_fields import FieldWorkings
from tally_core.stated.bundle import read_bundle
from tally_core.stated.classes import check_class
from tally_core.stated.definition import ClassField, PartClass
from tally_core.structure.rolled_fields import roll_up_field

from .exact import Exact
from .generate import DAY, bundle


class RolledFields(unittest.TestCase):
    def test_sum_largest_and_worst_are_what_exact_fractions_say(self) -> None:
        met = {"sum": 0, "largest": 0, "worst": 0}
        partial_met = silent = 0
        for seed in range(120):
            document, top, options = bundle(seed)
            quantity = None if seed % 2 else 7
            question = ask(read_bundle(document), top, Basis(date.fromisoformat(DAY), quantity, tuple(options)))  # type: ignore[arg-type]
            s, lots = question.structure, tally(question)[0].lots
            exact = Exact(document, top, DAY, options, None if quantity is None else F(quantity))
            r = random.Random(seed)
            numbers = list(s.parts.numbers)
            for how in met:
                stated = {}
                for part in document["parts"]:
                    # Seldom on what is made: there it stands instead of what the sheet comes to.
                    if r.random() < (0.1 if part["kind"] in ("made", "phantom") else 0.8) and part["kind"] != "charge":
                        stated[part["number"]] = F(r.randint(0, 5)) if how == "worst" else F(r.randint(0, 9999), 1000)
                given = np.array([float(stated[n]) if n in stated else np.nan for n in numbers])
                rolled = roll_up_field(s, lots, how, given)
                w = FieldWorkings(s, lots, rolled, "mass", "kg", how, "mass_kg")
                for row, number in enumerate(numbers):
                    if not (row == question.top or (s.child == row).any()) or PART_KINDS[s.parts.kind[row]] == "charge":
                        continue
                    value, partial = exact.field(number, how, stated)
                    where = f"{seed} {how} {number}"
                    self.assertEqual(bool(rolled.partial[row]), partial, where)
                    self.assertEqual(bool(rolled.stands[row]), number in stated, where)
                    partial_met += partial
                    if value is None:
                        silent += 1
                        self.assertTrue(np.isnan(rolled.value[row]), where)
                        continue
                    self.assertAlmostEqual(rolled.value[row], float(value), delta=1e-12 * max(1, value), msg=where)
                    self.assertAlmostEqual(w.open(row).value, rolled.value[row], delta=1e-9 * max(1, value), msg=where)
                    met[how] += number not in stated
        self.assertGreater(min(*met.values(), partial_met, silent), 60)

    def test_the_working_says_what_stands_and_what_is_silent(self) -> None:
        """Worked by hand: 2 of 1.5 kg and 3 of a part that says nothing; and a top that states 5 kg."""
        document = {
            "format": "round-tally-bundle",
            "version": 1,
            "currency": "EUR",
            "parts": [
                {"number": n, "kind": kind, "unit": "ea"}
                for n, kind in (("T", "made"), ("M", "made"), ("A", "bought"), ("B", "bought"), ("C", "charge"))
            ],
            "build_sheets": [
                {"part": "T", "status": "released", "lines": [{"item": 10, "part": "M", "quantity": "4"}]},
                {
                    "part": "M",
                    "status": "released",
                    "lines": [
                        {"item": 10, "part": "A", "quantity": "2", "scrap_percent": "50"},
                        {"item": 20, "part": "B", "quantity": "3"},
                        {"item": 30, "part": "C", "quantity": "1"},
                        {"item": 40, "part": "A", "quantity": "1", "kind": "byproduct"},
                    ],
                },
            ],
        }
        question = ask(read_bundle(document), "T", Basis(date.fromisoformat(DAY)))
        s, lots = question.structure, tally(question)[0].lots
        at = {n: i for i, n in enumerate(s.parts.numbers)}
        stated = np.full(len(at), np.nan)
        stated[at["A"]] = 1.5
        rolled = roll_up_field(s, lots, "sum", stated)
        w = FieldWorkings(s, lots, rolled, "mass", "kg", "sum", "mass_kg")
        self.assertEqual((rolled.value[at["M"]], rolled.value[at["T"]]), (3.0, 12.0))
        opened = w.open(at["M"])
        self.assertEqual(opened.note, "at least: something that goes in says nothing")
        self.assertEqual([(o.label, o.value) for o in opened.operands], [("A", 3.0), ("B", 0.0)])
        self.assertEqual(opened.operands[0].operands[1].source, ("part", at["A"], "mass_kg"))
        self.assertEqual(opened.operands[1].operands[1].note, "says nothing")
        self.assertEqual(w.open(at["T"]).operands[0].operands[1].figure, ("field", at["M"]))

        stated[at["T"]] = 5.0
        stands = roll_up_field(s, lots, "sum", stated)
        opened = FieldWorkings(s, lots, stands, "mass", "kg", "sum", "mass_kg").open(at["T"])
        self.assertEqual((opened.value, opened.note), (5.0, "stated; it stands instead of what its sheet comes to"))
        self.assertFalse(stands.partial[at["T"]])
        self.assertEqual(opened.unit, "kg per ea")
        length = FieldWorkings(s, lots, roll_up_field(s, lots, "largest", stated), "length", "mm", "largest", "x")
        self.assertEqual(length.open(at["T"]).unit, "mm")

        # What goes in with nothing counts for nothing, however bad it is.
        document["build_sheets"][1]["lines"][1]["quantity"] = "0"  # type: ignore[index]
        none = ask(read_bundle(document), "T", Basis(date.fromisoformat(DAY)))
        bad = np.full(len(at), np.nan)
        bad[at["A"]], bad[at["B"]] = 1, 2
        self.assertEqual(roll_up_field(none.structure, tally(none)[0].lots, "worst", bad).value[at["M"]], 1)

        worst = np.full(len(at), np.nan)
        worst[at["A"]], worst[at["B"]] = 0, 2
        rolled = roll_up_field(s, lots, "worst", worst)
        choices = ["none", "irritant", "toxic"]
        opened = FieldWorkings(s, lots, rolled, "hazard", "", "worst", "own_values", choices).open(at["T"])
        self.assertEqual((opened.value, opened.note, opened.operands[0].note), (2.0, "toxic", "toxic"))
        # Where nothing that goes in says one, there is no word.
        silent = roll_up_field(s, lots, "worst", np.full(len(at), np.nan))
        unsaid = FieldWorkings(s, lots, silent, "hazard", "", "worst", "own_values", choices).open(at["T"])
        self.assertNotIn(unsaid.note, choices)

    def test_what_can_roll_up(self) -> None:
        def problems(kind: str, how: str) -> list[str]:
            own = ClassField("f", kind, choices=["a"], expression="unit_cost", rolls_up=how)
            return [p.place for p in check_class(PartClass("X", fields=[own]))]

        for kind in ("number", "money", "computed"):
            self.assertEqual((problems(kind, "sum"), problems(kind, "largest")), ([], []), kind)
            self.assertEqual(problems(kind, "worst"), ["fields[0].rolls_up"], kind)
        self.assertEqual((problems("choice", "worst"), problems("choice", "sum")), ([], ["fields[0].rolls_up"]))
        self.assertEqual((problems("text", "sum"), problems("text", "")), (["fields[0].rolls_up"], []))
        self.assertEqual(problems("number", "mean"), ["fields[0].rolls_up"])
