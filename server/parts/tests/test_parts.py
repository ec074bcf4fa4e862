"""Parts and work centers over the API: searched, made, changed, refused."""

from django.test import TestCase
from testing import Api, load, rod_and_tube
from workcenters.models import WorkCenter

from parts.models import Part


class Parts(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")

    def test_every_word_counts_and_the_whole_number_comes_first(self) -> None:
        Part.objects.create(number="A-ROD-9", description="rod end")
        Part.objects.create(number="ROD-1", description="steel rod")
        _, page = self.api.get("/parts", search="rod")
        self.assertEqual(page["items"][0]["number"], "ROD")
        self.assertEqual(page["total"], 4)
        _, page = self.api.get("/parts", search="STEEL ro")
        self.assertEqual([p["number"] for p in page["items"]], ["ROD-1"])
        _, page = self.api.get("/parts", search="100%_")
        self.assertEqual(page["total"], 0)
        _, page = self.api.get("/parts", offset=2, limit=1)
        self.assertEqual((page["offset"], len(page["items"]), page["total"]), (2, 1, 6))

    def test_refusals_name_the_field(self) -> None:
        for fields, place, words in (
            ({"number": "ROD"}, "number", "exists already"),
            ({"number": "rod"}, "number", "ROD exists already"),
            ({"number": "R D"}, "number", "holds no blanks"),
            ({"number": "R\u041ed"}, "number", "easily confused"),
            ({"number": "X", "unit": "furlong"}, "unit", "is not known"),
            ({"number": "X", "unit_cost": "-1"}, "unit_cost", "cannot be negative"),
            ({"number": "X", "unit_cost": "1.2.3"}, "unit_cost", "is not a number"),
            ({"number": "X", "unit_cost": "1e400"}, "unit_cost", "usable"),
            ({"number": "X", "costing_lot": "0"}, "costing_lot", "more than 0"),
            ({"number": "X", "kind": "gadget"}, "kind", "use one of"),
        ):
            status, said = self.api.post("/parts", {"kind": "bought", "unit": "ea"} | fields)
            self.assertEqual(status, 422, fields)
            self.assertEqual(said["problems"][0]["place"], place)
            self.assertIn(words, said["problems"][0]["message"])
        self.assertEqual(Part.objects.count(), 4)

    def test_a_change_keeps_what_was_not_sent_and_leaves_a_record(self) -> None:
        status, part = self.api.send("PATCH", "/parts/one?number=ROD", {"description": "Bar", "version": 1})
        self.assertEqual((status, part["description"], part["unit_cost"], part["version"]), (200, "Bar", "3", 2))
        self.assertEqual(Part.objects.get(number="ROD").history.first().history_user.username, "engineer")
        status, said = self.api.send("PATCH", "/parts/one?number=ROD", {"description": "Mine", "version": 1})
        self.assertEqual(status, 422)
        self.assertIn("somebody else", said["message"])
        self.api.send("PATCH", "/parts/one?number=ROD", {"unit_cost": ""})
        self.assertIsNone(Part.objects.get(number="ROD").unit_cost)

    def test_a_unit_in_use_keeps_its_dimension(self) -> None:
        status, said = self.api.send("PATCH", "/parts/one?number=ROD", {"unit": "kg"})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "unit"))
        self.assertEqual(self.api.send("PATCH", "/parts/one?number=ROD", {"unit": "mm"})[0], 200)
        status, said = self.api.send("PATCH", "/parts/one?number=RT-1", {"kind": "bought"})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "kind"))

    def test_work_centers(self) -> None:
        status, said = self.api.post("/work-centers", {"code": "MILL", "labor_rate": "x", "efficiency_percent": "0"})
        self.assertEqual({p["place"] for p in said["problems"]}, {"labor_rate", "efficiency_percent"})
        status, center = self.api.post("/work-centers", {"code": "MILL", "labor_rate": "41.5"})
        self.assertEqual((status, center["setup_labor_rate"], center["stations"]), (200, None, 1))
        accountant = Api("accountant")
        self.assertEqual(
            accountant.send("PATCH", "/work-centers/one?code=MILL", {"labor_rate": "43", "version": 1})[0], 200
        )
        self.assertEqual(WorkCenter.objects.get(code="MILL").history.first().history_user.username, "accountant")

    def test_signing_in(self) -> None:
        self.client.logout()
        wrong = self.client.post(
            "/api/session", {"user": "engineer", "password": "no"}, content_type="application/json"
        )
        self.assertEqual(wrong.status_code, 422)
        from testing import PASSWORD

        right = self.client.post(
            "/api/session", {"user": "engineer", "password": PASSWORD}, content_type="application/json"
        )
        self.assertEqual(
            (right.status_code, right.json()["writes"]), (200, ["intake", "parts", "sheets", "work centers"])
        )
