"""What stands together in the element *other*, told apart: by hand, and adding up to the element on generated definitions."""

import unittest
from datetime import date
from decimal import Decimal

import numpy as np
from tally_core.basics.elements import AT
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.cost import Fixed
from tally_core.cost.other_charges import other_charges
from tally_core.stated.bundle import read_bundle

from .generate import DAY, bundle

TODAY = date.fromisoformat(DAY)


def told(document: dict, part: str, quantity: str | None = None, fixed: list[str] | None = None) -> tuple[dict[str, float], float]:
    """Part number → what of it stands in *other* in one of ``part``, and the element as the roll-up has it."""
    basis = Basis(TODAY, None if quantity is None else Decimal(quantity), (), True)
    question = ask(read_bundle(document), part, basis)
    numbers = [p["number"] for p in document["parts"]]
    if fixed:
        free, _ = tally(question)
        rows = np.array([numbers.index(n) for n in fixed])
        question.fixed = Fixed(rows, free.unit[rows], free.this_level[rows])
    costs, _ = tally(question)
    taken, each = other_charges(question.structure, costs, question.top, question.fixed)
    found = taken * each
    return ({numbers[i]: round(float(v), 9) for i, v in enumerate(found) if v}, float(costs.unit[question.top, AT["other"]]))


def lamp(**tube: object) -> dict:
    """A lamp takes two tubes and a freight of 3; a tube takes a tenth of an anodizing of 40 and, once a lot of 10, a tool of 50."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "parts": [
            {"number": "LAMP", "kind": "made", "unit": "ea"},
            {"number": "TUBE", "kind": "made", "unit": "ea", "costing_lot": "10"} | tube,
            {"number": "BAR", "kind": "bought", "unit": "m", "unit_cost": "5"},
            {"number": "FREIGHT", "kind": "charge", "unit": "ea", "unit_cost": "3"},
            {"number": "ANODIZING", "kind": "charge", "unit": "ea", "unit_cost": "40"},
            {"number": "TOOL", "kind": "charge", "unit": "ea", "unit_cost": "50"},
        ],
        "build_sheets": [
            {
                "part": "LAMP",
                "status": "released",
                "lines": [{"item": 10, "part": "TUBE", "quantity": "2"}, {"item": 20, "part": "FREIGHT", "quantity": "1"}],
            },
            {
                "part": "TUBE",
                "status": "released",
                "lines": [
                    {"item": 10, "part": "BAR", "quantity": "1"},
                    {"item": 20, "part": "ANODIZING", "quantity": "0.1", "scrap_percent": "50"},
                    {"item": 30, "part": "TOOL", "quantity": "1", "quantity_basis": "per_lot"},
                ],
            },
        ],
    }


class OtherCharges(unittest.TestCase):
    def test_by_hand(self) -> None:
        """2 × 0.1 × 40 = 8 of anodizing, 2 × 50 / 10 = 10 of the tool, 3 of freight: 21; what is wasted of anodizing is scrap."""
        found, element = told(lamp(), "LAMP")
        self.assertEqual(found, {"ANODIZING": 8.0, "TOOL": 10.0, "FREIGHT": 3.0})
        self.assertAlmostEqual(element, 21, 9)
        # A job of 5 lamps makes 10 tubes in one lot; of 50, a hundred.
        self.assertEqual(told(lamp(), "LAMP", "50")[0], {"ANODIZING": 8.0, "TOOL": 1.0, "FREIGHT": 3.0})

    def test_a_markup_and_a_cost_by_hand_stand_with_their_part(self) -> None:
        # A tube rolls up to 5 + 4 + 2 of scrap + 5 = 16; a tenth on top is 1.6 for each of two.
        found, element = told(lamp(markup_percent="10", given_reason="as agreed"), "LAMP")
        self.assertEqual(found, {"ANODIZING": 8.0, "TOOL": 10.0, "FREIGHT": 3.0, "TUBE": 3.2})
        self.assertAlmostEqual(element, 24.2, 9)
        # Given as 8, half of its roll-up: half of each charge, where it keeps the proportion; nothing of them where it is one sum.
        found, element = told(lamp(given_cost="8", given_as="proportion", given_reason="as agreed"), "LAMP")
        self.assertEqual(found, {"ANODIZING": 4.0, "TOOL": 5.0, "FREIGHT": 3.0})
        self.assertAlmostEqual(element, 12, 9)
        self.assertEqual(told(lamp(given_cost="8", given_reason="as agreed"), "LAMP")[0], {"FREIGHT": 3.0})

    def test_a_standard_stands_with_its_part_whole(self) -> None:
        found, element = told(lamp(), "LAMP", None, ["TUBE"])
        self.assertEqual((found, round(element, 9)), ({"TUBE": 18.0, "FREIGHT": 3.0}, 21.0))

    def test_they_add_up_on_generated_definitions(self) -> None:
        some = 0
        for seed in range(120):
            document, top, _ = bundle(seed)
            for quantity in (None, "7"):
                found, element = told(document, top, quantity)
                self.assertAlmostEqual(sum(found.values()), element, delta=1e-7 + 1e-12 * abs(element), msg=seed)
                some += len(found) > 1
        self.assertGreater(some, 40)
