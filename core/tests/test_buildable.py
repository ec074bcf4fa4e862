"""Rule W7 against exact fractions."""

import random
import unittest
from datetime import date
from fractions import Fraction as F

import numpy as np
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis, ask, buildable_answer
from tally_core.stated.bundle import read_bundle
from tally_core.structure.buildable import buildable, shortages
from tally_core.structure.net_needs import net_needs

from .exact import Exact
from .generate import DAY, bundle

TODAY = date.fromisoformat(DAY)


class FromStock(unittest.TestCase):
    def test_it_is_covered_and_one_more_is_not(self) -> None:
        some = 0
        for seed in range(150):
            document, top, options = bundle(seed)
            r = random.Random(seed)
            numbers = [p["number"] for p in document["parts"]]
            free = {n: F(r.randint(0, 4000), r.choice([1, 4])) for n in numbers if r.random() < 0.85}
            s = ask(read_bundle(document), top, Basis(TODAY, None, tuple(options))).structure
            rows = {n: i for i, n in enumerate(s.parts.numbers)}
            there = np.array([float(free.get(n, 0)) for n in s.parts.numbers])
            found = buildable(s, rows[top], there)
            exact = Exact(document, top, DAY, options, None)
            if np.isinf(found.quantity):
                self.assertEqual(exact.shortages(F(10**12), free), {}, seed)
                continue
            quantity = F(f"{found.quantity:.6f}")
            whole = bool(s.parts.whole_only[rows[top]])
            if whole:
                self.assertEqual(quantity.denominator, 1, seed)
            if whole or quantity == 0:
                self.assertEqual(exact.shortages(quantity, free), {}, seed)
            else:
                # At the limit itself float64 takes a need of a billionth more for the same (N2).
                self.assertEqual(exact.shortages(quantity - F(1, 1000), free), {}, seed)
                self.assertNotEqual(exact.shortages(quantity + F(2, 10**6), free), {}, seed)
            lacks = exact.shortages(quantity + 1, free)
            self.assertEqual(set(lacks), {s.parts.numbers[i] for i in np.flatnonzero(found.short)}, seed)
            for number, amount in lacks.items():
                self.assertAlmostEqual(found.short[rows[number]], float(amount), delta=1e-9 * max(1, float(amount)))
            some += found.quantity > 0
        self.assertGreater(some, 50)

    def test_several_products_are_built_together(self) -> None:
        """Two lamps and three signs share a half made from whole plates, one and a half each: 3 + 4.5 plates are 8, and not 3 and 5."""
        half = {"item": 10, "part": "HALF", "quantity": "1"}
        document = {
            "format": "round-tally-bundle",
            "version": 1,
            "currency": "EUR",
            "parts": [
                {"number": "PLATE", "kind": "bought", "unit": "ea"},
                {"number": "HALF", "kind": "made", "unit": "ea"},
                {"number": "LAMP", "kind": "made", "unit": "ea"},
                {"number": "SIGN", "kind": "made", "unit": "ea"},
                {"number": "BOTH", "kind": "made", "unit": "ea"},
            ],
            "build_sheets": [
                {"part": "LAMP", "status": "released", "lines": [half]},
                {"part": "SIGN", "status": "released", "lines": [half]},
                {"part": "HALF", "status": "released", "lines": [{"item": 10, "part": "PLATE", "quantity": "1.5"}]},
                {
                    "part": "BOTH",
                    "status": "released",
                    "lines": [{"item": 10, "part": "LAMP", "quantity": "1"}, {"item": 20, "part": "SIGN", "quantity": "1"}],
                },
            ],
        }
        s = ask(read_bundle(document), "BOTH", Basis(TODAY, None, ())).structure
        at = {n: i for i, n in enumerate(s.parts.numbers)}
        wanted, free = np.zeros(len(at)), np.zeros(len(at))
        wanted[at["LAMP"]], wanted[at["SIGN"]] = 2, 3
        needs = net_needs(s, wanted, free)
        self.assertEqual((needs.gross[at["HALF"]], needs.gross[at["PLATE"]], needs.lacks[at["PLATE"]]), (5, 7.5, 8))
        # One half is there, and a lamp too: the lamp is what is built and is left alone, the half serves.
        free[at["HALF"]], free[at["LAMP"]] = 1, 1
        needs = net_needs(s, wanted, free)
        self.assertEqual((needs.taken[at["HALF"]], needs.left[at["HALF"]], needs.lacks[at["PLATE"]]), (1, 4, 6))
        # As a part of BOTH a lamp of the shelf serves, beside the two that are built for themselves.
        wanted[at["BOTH"]] = 1
        needs = net_needs(s, wanted, free)
        self.assertEqual((needs.gross[at["LAMP"]], needs.taken[at["LAMP"]], needs.left[at["LAMP"]]), (3, 1, 2))
        self.assertEqual(needs.lacks[at["PLATE"]], 1.5 * 5 + 0.5)

    def test_by_hand(self) -> None:
        """Two tubs of 2.5 kg each take 3 kg of paste; half is there as a mix of the shelf."""

        def answer(on_hand: dict[str, float], unit: str = "kg", **more: str) -> dict:
            document = {
                "format": "round-tally-bundle",
                "version": 1,
                "currency": "EUR",
                "parts": [
                    {"number": "TUB", "kind": "made", "unit": unit},
                    {"number": "MIX", "kind": "made", "unit": "kg"},
                    {"number": "OIL", "kind": "bought", "unit": "kg"},
                    {"number": "LID", "kind": "bought", "unit": "ea"},
                    {"number": "FEE", "kind": "charge", "unit": "ea"},
                ],
                "build_sheets": [
                    {
                        "part": "TUB",
                        "status": "released",
                        "lines": [
                            {"item": 10, "part": "MIX", "quantity": "0.5"},
                            {"item": 20, "part": "FEE", "quantity": "1"},
                            {"item": 30, "part": "LID", "quantity": "1", "customer_supplied": True} | more,
                        ],
                    },
                    {"part": "MIX", "status": "released", "lines": [{"item": 10, "part": "OIL", "quantity": "2"}]},
                ],
            }
            question = ask(read_bundle(document), "TUB", Basis(TODAY))
            free = np.array([on_hand.get(n, 0.0) for n in question.structure.parts.numbers])
            return buildable_answer(question, free)

        # 1 kg of mix is there, 3 kg of oil make 1.5 more; each tub takes half a kilogram.
        self.assertEqual(
            answer({"MIX": 1, "OIL": 3}), {"part": "TUB", "quantity": "5.000000", "limited_by": [{"part": "OIL", "short": "1.000000"}]}
        )
        self.assertEqual(answer({"MIX": 0.35, "OIL": 0.1})["quantity"], "0.800000")
        # Whole tubs only, and the tubs on the shelf are not taken to build tubs.
        self.assertEqual(answer({"MIX": 0.8, "TUB": 9}, unit="ea")["quantity"], "1.000000")
        self.assertEqual(answer({})["quantity"], "0.000000")
        # A balance below nothing is nothing.
        self.assertEqual(answer({"MIX": -5, "OIL": 1})["quantity"], "1.000000")

    def test_what_has_no_limit_and_what_has_no_sheet(self) -> None:
        part = {"number": "A", "kind": "made", "unit": "ea"}
        document = {"format": "round-tally-bundle", "version": 1, "currency": "EUR", "parts": [part]}
        with self.assertRaisesRegex(TallyError, "no released build sheet in force on 2026-06-15 for A"):
            buildable_answer(ask(read_bundle(document), "A", Basis(TODAY)), np.zeros(1))
        document["build_sheets"] = [{"part": "A", "status": "released"}]
        self.assertEqual(
            buildable_answer(ask(read_bundle(document), "A", Basis(TODAY)), np.zeros(1)), {"part": "A", "quantity": None, "limited_by": []}
        )
        s = ask(read_bundle(document), "A", Basis(TODAY)).structure
        self.assertFalse(shortages(s, 0, 5.0, np.zeros(1)).any())
