"""Questions to a cost over the API."""

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.test import TestCase
from tally_core.structure.overlay import INPUTS, input_word
from testing import Api, load, rod_and_tube, sheet_of


class Questions(TestCase):
    def setUp(self) -> None:
        document = rod_and_tube("released")
        # Another way: the same part bought in, which costs 12 whatever the lot.
        document["parts"].append({"number": "RT-B", "kind": "bought", "unit": "ea", "unit_cost": "12"})
        document["build_sheets"].append(
            {"part": "RT-1", "alternate": "B", "status": "released", "lines": [{"item": 10, "part": "RT-B", "quantity": "1"}]}
        )
        load(document)
        self.api = Api("engineer")
        self.sheet = BuildSheet.objects.get(part__number="RT-1", alternate="A")
        self.rod = Part.objects.get(number="ROD")

    def test_inputs_are_ranked_and_each_opens_into_the_same_figure(self) -> None:
        status, ranked = self.api.get("/questions/inputs", sheet=self.sheet.pk, idle=True)
        self.assertEqual(status, 200, ranked)
        # A yield of 100 % stands there as well: what one percent lost would cost.
        self.assertEqual(ranked["items"][0]["word"], "yield, %")
        _, working_ones = self.api.get("/questions/inputs", sheet=self.sheet.pk)
        self.assertEqual(working_ones["items"][0]["word"], "unit cost")
        first = next(item for item in ranked["items"] if item["word"] == "unit cost")
        # 2.1 m with scrap and 0.5 m in the tube, at 3.00: 7.80 in all, 1 % of it.
        self.assertEqual((first["name"], first["word"], first["value"], first["moves"]), ("ROD", "unit cost", 3.0, 0.078))
        sizes = [abs(item["moves"]) for item in ranked["items"]]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertEqual(ranked["count"], len(sizes))
        labor = next(item for item in ranked["items"] if item["field"] == "labor_rate")
        # (1.2 + 3 + 1) min at 40 an hour, set-up among it: the center states no rate of its own for that.
        self.assertAlmostEqual(labor["moves"], 5.2 / 60 * 40 / 100, places=9)
        for item in ranked["items"]:
            self.assertIn(item["word"], [*(input_word(f) for fields in INPUTS.values() for f in fields), "batch size"])
            status, working = self.api.get("/costing/working", sheet=self.sheet.pk, figure=item["figure"])
            self.assertEqual(status, 200, working)
            self.assertAlmostEqual(working["value"], item["moves"], places=9)

    def test_every_input_tried_moves_the_cost_as_its_sensitivity_says(self) -> None:
        _, ranked = self.api.get("/questions/inputs", sheet=self.sheet.pk)
        tried = 0
        for item in ranked["items"]:
            if item["field"] == "yield_percent" or item["table"] == "sheet":
                continue
            what = f"{item['table']},{item['key']},{item['field']},{item['value'] * 1.01:.9f}"
            status, bridge = self.api.post("/questions/bridge", {"sheet": self.sheet.pk, "basis": {}, "other": {"what_if": what}})
            self.assertEqual(status, 200, bridge)
            # All of these but the lots are linear; those bend a little over 1 %.
            self.assertAlmostEqual(bridge["after"] - bridge["before"], item["moves"], delta=2e-6 + abs(item["moves"]) * 0.011)
            self.assertEqual(round(sum(bridge["caused"].values()) * 1e6), round((bridge["after"] - bridge["before"]) * 1e6))
            tried += 1
        self.assertGreater(tried, 10)

    def test_the_curve_and_where_making_becomes_cheaper_than_buying(self) -> None:
        status, curve = self.api.get("/questions/lots", sheet=self.sheet.pk)
        self.assertEqual(status, 200, curve)
        # Made: 7.80 + 0.40 + 4 min at 40 + 12 min of set-up at 40, over the lot.
        fixed, each = 8.0, 7.8 + 0.4 + 4 / 60 * 40
        made, bought = curve["curves"]
        self.assertEqual(bought["costs"], [12.0] * len(curve["lots"]))
        for lot, cost in zip(curve["lots"], made["costs"], strict=True):
            self.assertAlmostEqual(cost, each + fixed / lot, places=5)
        [crossing] = curve["crossings"]
        # 8 / (12 - 10.8667) = 7.06: eight it is.
        self.assertEqual((crossing["lot"], crossing["cheaper"], crossing["than"]), (8.0, "alternate A", "alternate B"))
        self.assertTrue(self.api.get("/questions/lots", sheet=self.sheet.pk, quantity="50")[1]["job"])

    def test_a_bridge_between_a_day_a_lot_and_another_way(self) -> None:
        status, found = self.api.post("/questions/bridge", {"sheet": self.sheet.pk, "basis": {}, "other": {"quantity": "100"}})
        self.assertEqual(status, 200, found)
        self.assertEqual([name for name, value in found["caused"].items() if value], ["lot"])
        other = BuildSheet.objects.get(part__number="RT-1", alternate="B")
        _, found = self.api.post("/questions/bridge", {"sheet": self.sheet.pk, "basis": {}, "other": {}, "other_sheet": other.pk})
        self.assertEqual(found["after"], 12.0)
        self.assertEqual([name for name, value in found["caused"].items() if value], ["structure"])
        self.assertEqual(self.api.post("/questions/bridge", {"sheet": 0, "basis": {}, "other": {}})[0], 404)
        two_parts = {"sheet": self.sheet.pk, "other_sheet": BuildSheet.objects.filter(part__number="T-1")[0].pk, "basis": {}, "other": {}}
        status, said = self.api.post("/questions/bridge", two_parts)
        self.assertEqual((status, "one part" in said["message"]), (422, True), said)
        self.assertEqual(self.api.get("/costing/working", sheet=sheet_of("T-1").pk, figure="moves:part:0:unit_cost")[0], 422)
