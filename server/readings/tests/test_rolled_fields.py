"""Fields that roll up over a product, over the API: mass, own and computed fields, units between classes, workings."""

from definition.models.parts import Part
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from testing import Api, load, rod_and_tube, sheet_of

BARS = {
    "name": "Bars",
    "fields": [
        {"name": "co2_kg", "kind": "number", "unit": "kg", "rolls_up": "sum"},
        {"name": "hazard", "kind": "choice", "choices": ["none", "irritant", "toxic"], "rolls_up": "worst"},
        {"name": "twice", "kind": "computed", "expression": "co2_kg * 2", "rolls_up": "largest"},
    ],
}
SMALL = {
    "name": "Small",
    "fields": [
        {"name": "co2_kg", "kind": "number", "unit": "g", "rolls_up": "sum"},
        {"name": "hazard", "kind": "choice", "choices": ["low", "high"], "rolls_up": "worst"},
    ],
}


class RolledFields(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.api = Api("engineer")
        for each in (BARS, SMALL):
            self.assertEqual(self.api.post("/parts/classes", each)[0], 200)
        for number, fields in {
            "ROD": {"part_class": "Bars", "mass_kg": "1.6", "own_values": {"co2_kg": "0.5", "hazard": "irritant"}},
            "NUT": {"part_class": "Small", "own_values": {"co2_kg": "20", "hazard": "high"}},
        }.items():
            status, said = self.api.patch(f"/parts/one?number={number}", fields)
            self.assertEqual(status, 200, said)
        self.sheet = sheet_of("RT-1").pk

    def fields(self) -> dict[str, dict[str, float | None]]:
        status, said = self.api.get(f"/costing/fields?sheet={self.sheet}")
        self.assertEqual(status, 200, said)
        numbers = dict(Part.objects.values_list("pk", "number"))
        return {f["name"]: dict(zip(map(numbers.get, said["parts"]), f["values"], strict=True)) for f in said["fields"]}

    def working(self, number: str, field: str) -> dict:
        key = Part.objects.get(number=number).pk
        return self.api.get(f"/costing/working?sheet={self.sheet}&figure=field:{key}:{field}")[1]

    def test_they_add_up_by_net_quantities_in_the_unit_of_the_first_class(self) -> None:
        """By hand: 2 m of rod and a tube of half a metre, and four nuts of 20 g; losses are not in the product."""
        found = self.fields()
        self.assertEqual(found["mass_kg"]["RT-1"], 4.0)
        self.assertAlmostEqual(found["co2_kg"]["RT-1"], 2.5 * 0.5 + 4 * 0.02)
        self.assertEqual((found["hazard"]["RT-1"], found["twice"]["RT-1"]), (1.0, 1.0))
        # Other choices have another order, and stand apart.
        self.assertEqual(found["hazard (Small)"], {"RT-1": 1.0, "T-1": None, "NUT": 1.0, "ROD": None})

    def test_a_part_that_says_nothing_makes_it_at_least_as_much(self) -> None:
        said = self.api.get(f"/costing/fields?sheet={self.sheet}")[1]
        partial = {f["name"]: any(f["partial"]) for f in said["fields"]}
        self.assertEqual((partial["mass_kg"], partial["co2_kg"]), (True, False))

    def test_the_working_opens_down_to_who_stated_it(self) -> None:
        opened = self.working("RT-1", "co2_kg")
        self.assertAlmostEqual(opened["value"], 1.33)
        below = [o["operands"][1] for o in opened["operands"]]
        self.assertEqual(
            [(o["label"], o["figure"] is not None) for o in below],
            [("co2_kg of ROD", False), ("co2_kg of T-1", True), ("co2_kg of NUT", False)],
        )
        self.assertEqual(below[0]["source"]["by"], "engineer")
        self.assertIn(":co2_kg", below[1]["figure"])
        # Another own field changed by somebody else is not who stated this one.
        status, said = Api("buyer").patch("/parts/one?number=ROD", {"own_values": {"co2_kg": "0.5", "hazard": "toxic"}})
        self.assertEqual(status, 200, said)
        self.assertEqual(self.working("T-1", "co2_kg")["operands"][0]["operands"][1]["source"]["by"], "engineer")
        worst = self.working("RT-1", "hazard")
        self.assertEqual((worst["value"], worst["note"]), (2.0, "toxic, something that goes in says nothing"))
        for wrong in ("field:0:mass_kg", f"field:{Part.objects.get(number='ROD').pk}:colour", "field:", "field:x:mass_kg"):
            self.assertEqual(self.api.get(f"/costing/working?sheet={self.sheet}&figure={wrong}")[0], 422, wrong)

    def test_what_a_made_part_states_stands(self) -> None:
        self.api.patch("/parts/one?number=T-1", {"mass_kg": "0.7"})
        self.assertAlmostEqual(self.fields()["mass_kg"]["RT-1"], 2 * 1.6 + 0.7)
        self.assertIn("stands instead", self.working("T-1", "mass_kg")["note"])

    def test_a_larger_product_takes_no_more_queries(self) -> None:
        with CaptureQueriesContext(connection) as first:
            self.fields()
        more = rod_and_tube("released")
        more["parts"] += [{"number": f"N{i}", "kind": "bought", "unit": "ea", "part_class": "Small"} for i in range(40)]
        more["build_sheets"][0]["lines"] += [{"item": 100 + i, "part": f"N{i}", "quantity": "1"} for i in range(40)]
        load(more)
        with CaptureQueriesContext(connection) as second:
            self.fields()
        self.assertEqual(len(first), len(second))

    def test_a_way_of_rolling_up_that_does_not_fit_is_refused(self) -> None:
        wrong = {"name": "Odd", "fields": [{"name": "colour", "kind": "text", "rolls_up": "sum"}]}
        status, said = self.api.post("/parts/classes", wrong)
        self.assertEqual((status, said["problems"][0]["place"]), (422, "fields[0].rolls_up"))
