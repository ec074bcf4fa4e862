"""Parts and work centers over the API: searched, made, changed, refused."""

from definition.models.parts import Part
from definition.models.work_centers import WorkCenter
from django.test import TestCase
from testing import Api, load, rod_and_tube


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
        status, part = self.api.patch("/parts/one?number=ROD", {"description": "Bar", "version": 1})
        self.assertEqual((status, part["description"], part["unit_cost"], part["version"]), (200, "Bar", "3", 2))
        self.assertEqual(Part.objects.get(number="ROD").history.first().history_user.username, "engineer")
        status, said = self.api.patch("/parts/one?number=ROD", {"description": "Mine", "version": 1})
        self.assertEqual(status, 422)
        self.assertIn("somebody else", said["message"])
        self.api.patch("/parts/one?number=ROD", {"unit_cost": ""})
        self.assertIsNone(Part.objects.get(number="ROD").unit_cost)

    def test_a_unit_in_use_keeps_its_dimension(self) -> None:
        status, said = self.api.patch("/parts/one?number=ROD", {"unit": "kg"})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "unit"))
        self.assertEqual(self.api.patch("/parts/one?number=ROD", {"unit": "mm"})[0], 200)
        status, said = self.api.patch("/parts/one?number=RT-1", {"kind": "bought"})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "kind"))

    def test_work_centers(self) -> None:
        status, said = self.api.post("/work-centers", {"code": "MILL", "labor_rate": "x", "efficiency_percent": "0"})
        self.assertEqual({p["place"] for p in said["problems"]}, {"labor_rate", "efficiency_percent"})
        status, center = self.api.post("/work-centers", {"code": "MILL", "labor_rate": "41.5"})
        self.assertEqual((status, center["setup_labor_rate"], center["stations"]), (200, None, 1))
        accountant = Api("accountant")
        self.assertEqual(accountant.patch("/work-centers/one?code=MILL", {"labor_rate": "43", "version": 1})[0], 200)
        self.assertEqual(WorkCenter.objects.get(code="MILL").history.first().history_user.username, "accountant")

    def test_signing_in(self) -> None:
        self.client.logout()
        wrong = self.client.post("/api/session", {"user": "engineer", "password": "no"}, content_type="application/json")
        self.assertEqual(wrong.status_code, 422)
        from testing import PASSWORD

        right = self.client.post("/api/session", {"user": "engineer", "password": PASSWORD}, content_type="application/json")
        self.assertEqual(
            (right.status_code, right.json()["refused"]),
            (
                200,
                {
                    "standards": "You may look at standards but not change them; ask somebody who is accountant.",
                    "buying": "You may look at buying but not change it; ask somebody who is buyer.",
                    "people": "Who may sign in is for somebody who is administrator.",
                },
            ),
        )


class Master(TestCase):
    """What a part is besides its cost: shape, buying, manufacturers' numbers, stock."""

    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")

    def change(self, number: str = "ROD", **fields: object) -> tuple[int, dict]:
        return self.api.patch(f"/parts/one?number={number}", fields)

    def test_buying_units(self) -> None:
        """Common practice: buy by the roll, hold by the metre; a unit of another dimension needs the part's own factor."""
        for fields, field in (
            ({"buying_unit": "kg"}, "buying_unit"),
            ({"buying_unit": "roll"}, "stock_per_buying_unit"),
            ({"buying_unit": "roll", "stock_per_buying_unit": "0"}, "stock_per_buying_unit"),
            ({"buying_unit": "mm"}, None),
            ({"buying_unit": "roll", "stock_per_buying_unit": "50"}, None),
            ({"buying_unit": "", "stock_per_buying_unit": ""}, None),
        ):
            status, said = self.change(**fields)
            self.assertEqual(status, 422 if field else 200, (fields, said))
            if field:
                self.assertEqual(said["problems"][0]["place"], field)

    def test_shape_and_order_fields_are_checked_and_kept(self) -> None:
        good = {
            "second_description": "drawn",
            "part_class": "bar",
            "material": "EN AW-6060",
            "mass_kg": "1.35",
            "size_mm": "3000 x 25 x 25",
            "reorder_level": "12",
            "order_minimum": "6",
            "order_multiple": "3",
            "supplier_link": "https://supplier.example/rod",
        }
        status, part = self.change(**good)
        self.assertEqual((status, {n: part[n] for n in good}), (200, good))
        for field, value in (
            ("size_mm", "big"),
            ("mass_kg", "-1"),
            ("order_multiple", "0"),
            ("reorder_level", "-2"),
            ("supplier_link", "javascript:alert(1)"),
            ("part_class", "x" * 61),
        ):
            status, said = self.change(**{field: value})
            self.assertEqual((status, said["problems"][0]["place"]), (422, field))
        self.assertEqual(self.api.get("/parts", part_class="bar")[1]["total"], 1)
        self.assertEqual([c["name"] for c in self.api.get("/parts/classes")[1]], ["bar"])
        from readings.export_bundle import export_bundle

        once = export_bundle()
        load(once)
        self.assertEqual(export_bundle(), once)

    def makers(self, *rows: tuple[str, str, str], role: str = "engineer"):
        body = [dict(zip(("maker", "number", "package"), row, strict=True)) for row in rows]
        return Api(role).send("PUT", "/parts/one/makers?number=NUT", body)

    def test_manufacturers_numbers_are_ranked_and_unique(self) -> None:
        first, second = ("Northgate Fasteners", "NF-M5-A2", "M5"), ("Harrow & Pine", "HP5016", "")
        self.assertEqual(self.makers(first, second)[0], 200)
        self.assertEqual(self.makers(second, first)[0], 200)
        held = self.api.get("/parts/one/makers", number="NUT")[1]
        self.assertEqual([m["number"] for m in held], ["HP5016", "NF-M5-A2"])
        for rows, place in (
            ((first, (first[0].lower(), first[1], "")), "[1].number"),
            ((("", "X", ""),), "[0].maker"),
            ((("A\n", "B\x07", ""),), "[0].number"),
        ):
            status, said = self.makers(*rows)
            self.assertEqual((status, place in [p["place"] for p in said["problems"]]), (422, True), said)
        self.assertEqual(self.makers(first, role="viewer")[0], 403)
        self.assertEqual(len(self.api.get("/parts/one/makers", number="NUT")[1]), 2)
        self.assertEqual(self.makers()[0], 200)
        from definition.models.parts import MakerNumber

        self.assertEqual((MakerNumber.objects.count(), MakerNumber.history.filter(history_type="-").count()), (0, 2))

    def test_stock_is_the_sum_of_its_moves_and_never_below_nought(self) -> None:
        def move(quantity: str, reason: str = "counted", number: str = "NUT", role: str = "shop"):
            return Api(role).post(f"/parts/one/stock?number={number}", {"quantity": quantity, "reason": reason})

        total = 0
        for quantity in ("40", "-15", "5"):
            total += int(quantity)
            status, said = move(quantity)
            self.assertEqual((status, said["on_hand"]), (200, str(total)))
        for quantity, reason, place in (
            ("-31", "issued", "quantity"),
            ("0", "x", "quantity"),
            ("2.5", "x", "quantity"),
            ("two", "x", "quantity"),
            ("1", " ", "reason"),
            ("1e13", "x", "quantity"),
        ):
            status, said = move(quantity, reason)
            self.assertEqual((status, said["problems"][0]["place"]), (422, place), quantity)
        self.assertEqual(move("2.5", number="ROD")[0], 200)
        self.assertEqual(move("1", role="viewer")[0], 403)
        self.assertEqual(move("1", number="NONE")[0], 404)
        found = {p["number"]: p["on_hand"] for p in self.api.get("/parts")[1]["items"]}
        self.assertEqual((found["NUT"], found["ROD"], found["T-1"]), ("30", "2.5", None))
        self.assertEqual([m["quantity"] for m in self.api.get("/parts/one/stock", number="NUT")[1]["moves"]], ["5", "-15", "40"])
