"""A product in time: worked by hand over a weekend, chained to what sets it, refused where it cannot be."""

from datetime import date
from unittest.mock import patch

from definition.models.parts import OpenOrder, Part
from demo.load_demo import load_demo
from django.test import TestCase
from testing import Api, load, person, rod_and_tube, sheet_of
from verbs.parts.move_stock import move_stock

from readings.export_bundle import export_bundle

TODAY = date(2026, 11, 25)  # a Wednesday


def timed() -> dict:
    """RT-1 of ten: 12 + 30 minutes of turning, a coat that dries 24 h, then fitting; rods take five days, nuts one."""
    document = rod_and_tube()
    days = {"ROD": 5, "NUT": 1}
    for part in document["parts"]:
        part["lead_time_days"] = days.get(part["number"], 0)
    document["build_sheets"][0]["operations"][0]["wait_minutes"] = "1440"
    return document


class Times(TestCase):
    def setUp(self) -> None:
        load(timed())
        self.api = Api("engineer")
        self.sheet = sheet_of("RT-1")
        now = patch("loading.times.localdate", return_value=TODAY)
        now.start()
        self.addCleanup(now.stop)

    def times(self, **query: str) -> dict:
        status, said = self.api.get(f"/sheets/{self.sheet.id}/times", drafts="true", **query)
        self.assertEqual(status, 200, said)
        return said

    def test_forward_from_a_day(self) -> None:
        """Rods come on Monday 30 at 00:00; turned from 8:00 to 8:42, dry on Tuesday 8:42, fitted in ten minutes."""
        said = self.times(day="2026-11-25")
        steps = [(x["sequence"], x["start"], x["end"], x["chain"]) for x in said["steps"]]
        self.assertEqual(steps, [(10, "2026-11-30T00:00", "2026-12-01T08:42", True), (20, "2026-12-01T08:42", "2026-12-01T08:52", True)])
        self.assertEqual((said["start"], said["end"]), ("2026-11-25T00:00", "2026-12-01T08:52"))
        self.assertEqual([(o["part"], o["chain"]) for o in said["orders"] if o["chain"]], [("ROD", True)])

    def test_backward_from_a_wanted_day(self) -> None:
        """For Friday 18 December: fitted by 16:00, coated a day before, turned on Thursday; rods ordered on Saturday 12."""
        said = self.times(wanted="2026-12-18")
        steps = {x["sequence"]: (x["start"], x["end"]) for x in said["steps"]}
        self.assertEqual(steps[20], ("2026-12-18T15:50", "2026-12-19T00:00"))
        self.assertEqual(steps[10][1], "2026-12-18T15:50")
        self.assertEqual(steps[10][0], "2026-12-17T15:08")
        orders = {o["part"]: (o["order_by"], o["late"]) for o in said["orders"]}
        self.assertEqual(orders, {"ROD": ("2026-12-12", False), "NUT": ("2026-12-17", False)})

    def test_a_closed_day_and_shifts_of_its_own(self) -> None:
        self.assertEqual(self.api.post("/work-centers/closed-days", {"days": ["2026-11-30", "2026-11-30"]})[1], {"days": ["2026-11-30"]})
        self.assertEqual(self.times(day="2026-11-25")["end"], "2026-12-02T08:52")
        self.assertEqual(self.api.patch("/work-centers/one?code=LATHE", {"shifts": "Mo-Su 06:00-22:00"})[0], 200)
        self.assertEqual(self.times(day="2026-11-25")["end"], "2026-12-02T06:52")
        status, said = self.api.patch("/work-centers/one?code=LATHE", {"shifts": "Mo-Fr 8-16"})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "shifts"))
        self.assertEqual(Api("buyer").post("/work-centers/closed-days", {"days": []})[0], 403)
        self.assertEqual(self.api.post("/work-centers/closed-days", {"days": ["soon"]})[0], 422)

    def test_a_job_takes_longer_and_orders_what_it_needs(self) -> None:
        said = self.times(day="2026-11-25", quantity="100")
        self.assertEqual([round(x["work_minutes"]) for x in said["steps"]], [312, 100])
        rod = next(o for o in said["orders"] if o["part"] == "ROD")
        # 100 x (2 m + 5 % + the tube's 0.5 m).
        self.assertEqual((rod["quantity"], rod["unit"]), (260.0, "m"))

    def test_stock_and_what_is_coming_count_for_a_job(self) -> None:
        """100 take 260 m of rod and 400 nuts. 100 m are there and 50 m come in time: 110 m are short, three rolls of 50 m.

        The nuts are all there, so there is nothing to order of them; without stock it is whole boxes of 250.
        """
        Part.objects.filter(number="ROD").update(buying_unit="roll", stock_per_buying_unit=50)
        Part.objects.filter(number="NUT").update(buying_unit="box", stock_per_buying_unit=250)
        buyer = person("buyer")
        move_stock(buyer, "ROD", "100", "counted")
        move_stock(buyer, "NUT", "400", "counted")
        for order, due in (("PO-1", date(2026, 12, 10)), ("PO-2", date(2027, 3, 1)), ("PO-3", None)):
            OpenOrder.objects.create(part=Part.objects.get(number="ROD"), order=order, quantity=50, due_on=due, added_by="x")

        def orders(**more: str) -> dict[str, tuple]:
            said = self.times(wanted="2026-12-18", quantity="100", **more)
            self.assertEqual(said["stock"], not more)
            return {o["part"]: (o["taken"], o["free"], o["on_order"], o["quantity"], o["order_by"] is None) for o in said["orders"]}

        self.assertEqual(orders(), {"ROD": (260, 100, 50, 150, False), "NUT": (400, 400, 0, 0, True)})
        self.assertEqual(orders(stock="false"), {"ROD": (260, 0, 0, 300, False), "NUT": (400, 0, 0, 500, False)})
        standard = self.times(wanted="2026-12-18")
        self.assertEqual((standard["stock"], {o["quantity"] for o in standard["orders"]}), (False, {None}))

    def test_what_is_there_need_not_be_waited_for(self) -> None:
        """Rods take five days; with all of them on hand, turning begins on the Wednesday itself, and with a delivery on Friday then."""
        forward = self.times(day="2026-11-25", quantity="10", stock="false")
        self.assertEqual(forward["steps"][0]["start"], "2026-11-30T00:00")
        OpenOrder.objects.create(part=Part.objects.get(number="ROD"), order="PO-1", quantity=26, due_on=date(2026, 11, 27), added_by="x")
        self.assertEqual(self.times(day="2026-11-25", quantity="10")["steps"][0]["start"], "2026-11-27T00:00")
        move_stock(person("buyer"), "ROD", "26", "counted")
        move_stock(person("buyer"), "NUT", "40", "counted")
        said = self.times(day="2026-11-25", quantity="10")
        self.assertEqual(said["steps"][0]["start"], "2026-11-25T00:00")
        self.assertEqual([o["order_by"] for o in said["orders"]], [None, None])

    def test_a_fork_and_a_join(self) -> None:
        """Two operations beside one another follow the first; the last follows both, and so the longer one."""
        ids = {o.sequence: str(o.id) for o in self.sheet.operations.all()}
        new = [
            {
                "table": "operation",
                "id": f"00000000-0000-4000-8000-0000000000{n}",
                "before": None,
                "after": {"sequence": n, "name": f"op {n}", "work_center": "LATHE", "setup_minutes": str(n), "after": after},
            }
            for n, after in ((30, [20]), (40, [20]), (50, [30, 40]))
        ]
        self.assertEqual(self.api.post(f"/sheets/{self.sheet.id}/edits", {"version": 1, "changes": new})[0], 200)
        said = self.times(day="2026-11-25")
        chain = [x["sequence"] for x in said["steps"] if x["chain"]]
        self.assertEqual(chain, [10, 20, 40, 50])
        self.assertEqual(said["end"], "2026-12-01T10:22")
        back = {"table": "operation", "id": ids[20], "before": {"after": []}, "after": {"after": [50]}}
        status, said = self.api.post(f"/sheets/{self.sheet.id}/edits", {"version": 2, "changes": [back]})
        self.assertEqual(status, 422)
        self.assertRegex(said["message"], "operations wait for one another: 20 → (30|40|50) → ")
        self.assertIn(".after", said["problems"][0]["place"])

    def test_what_cannot_be(self) -> None:
        for query, told in (({"wanted": "2026-11-24"}, "is past"), ({"wanted": "soon"}, "a day like"), ({"quantity": "-1"}, "above 0")):
            status, said = self.api.get(f"/sheets/{self.sheet.id}/times", **query)
            self.assertEqual(status, 422)
            self.assertIn(told, said["message"])
        said = self.times(wanted="2026-11-27")
        self.assertEqual([o["part"] for o in said["orders"] if o["late"]], ["ROD"])

    def test_public_holidays_are_offered(self) -> None:
        """1 January is a public holiday in the Netherlands, and 25 and 26 December are (Dutch law; from memory)."""
        _, offered = self.api.get("/work-centers/public-holidays", country="nl", year=2027)
        days = {x["day"] for x in offered}
        self.assertLessEqual({"2027-01-01", "2027-12-25", "2027-12-26"}, days)
        for query in ({"country": "ZZ", "year": 2027}, {"country": "NL", "year": 9999}, {"country": "NL", "year": "x"}):
            self.assertEqual(self.api.get("/work-centers/public-holidays", **query)[0], 422)


class Demo(TestCase):
    def test_backward_from_where_forward_ends_begins_no_earlier(self) -> None:
        load_demo()
        api, sheet = Api("engineer"), sheet_of_revision("HL-155", "A")
        for quantity in ("", "250"):
            forward = api.get(f"/sheets/{sheet}/times", quantity=quantity)[1]
            wanted = (date.fromisoformat(forward["end"][:10])).isoformat()
            backward = api.get(f"/sheets/{sheet}/times", quantity=quantity, wanted=wanted)[1]
            self.assertEqual(len(forward["steps"]), len(backward["steps"]))
            self.assertGreaterEqual(backward["start"], forward["start"])
            self.assertGreater(len(forward["steps"]), 15)
            self.assertTrue(any(x["chain"] for x in forward["steps"]))


def sheet_of_revision(number: str, revision: str) -> int:
    from definition.models.sheets import BuildSheet

    return BuildSheet.objects.get(part__number=number, revision=revision).pk


class Rates(TestCase):
    def test_two_days_have_two_costs_each_with_its_working(self) -> None:
        """40.00 an hour, from 1 January 2027 on 50.00; set-up labor is not stated and so goes along.

        A lot of ten: 12 min set-up and 10 x (3 + 1) min run: 52 / 60 h; at 40.00 that is 3.4667 each, at 50.00 4.3333.
        """
        load(rod_and_tube())
        api, sheet = Api("engineer"), sheet_of("RT-1")
        change = {"first_day": "2027-01-01", "labor_rate": "50"}
        status, center = api.patch("/work-centers/one?code=LATHE", {"rates": [change], "version": 1})
        self.assertEqual((status, center["rates"][0]["labor_rate"]), (200, "50"))
        labor = {}
        for day in ("2026-12-31", "2027-01-01", "2027-06-01"):
            view = api.get(f"/sheets/{sheet.id}/view", drafts="true", day=day)[1]
            top = view["parts"][view["top"]]
            labor[day] = round(sum(top["elements"].get(n, 0) for n in ("setup", "labor")), 6)
        self.assertEqual(labor, {"2026-12-31": 3.466667, "2027-01-01": 4.333333, "2027-06-01": 4.333333})
        work = str(sheet.operations.get(sequence=10).id)
        for day, rate, reason in (("2026-12-31", 40.0, "test"), ("2027-01-01", 50.0, "holds from 2027-01-01 on")):
            status, working = api.get("/costing/working", sheet=sheet.id, figure=f"work:{work}", drafts="true", day=day)
            self.assertEqual(status, 200)
            rates = [x for x in every(working) if x["label"] in ("labor rate", "set-up labor rate")]
            self.assertEqual({x["value"] for x in rates}, {rate})
            self.assertEqual({x["source"]["reason"] for x in rates}, {reason})
        bundle = export_bundle()
        self.assertEqual(bundle["work_centers"][0]["rates"][0]["labor_rate"], "50")
        load(bundle)
        self.assertEqual(export_bundle(), bundle)

    def test_what_a_change_of_rates_would_touch(self) -> None:
        load(rod_and_tube())
        api = Api("viewer")
        _, uses = api.get("/work-centers/one/uses", code="LATHE")
        self.assertEqual([(u["part"], u["sequence"], u["status"]) for u in uses], [("RT-1", 10, "draft"), ("RT-1", 20, "draft")])
        self.assertEqual(api.get("/work-centers/one/uses", code="NONE"), (200, []))

    def test_rates_that_cannot_be(self) -> None:
        load(rod_and_tube())
        api = Api("engineer")
        day = {"first_day": "2027-01-01"}
        for rates, place in (
            ([{"first_day": "soon"}], "rates[0].first_day"),
            ([{"first_day": ""}], "rates[0].first_day"),
            ([day | {"labor_rate": "-1"}], "rates[0].labor_rate"),
            ([day, day], "rates[1].first_day"),
            ([day | {"machine_rate": "many"}], "rates[0].machine_rate"),
        ):
            status, said = api.patch("/work-centers/one?code=LATHE", {"rates": rates})
            self.assertEqual((status, said["problems"][0]["place"]), (422, place))


def every(working: dict) -> list[dict]:
    return [working, *(x for operand in working["operands"] for x in every(operand))]
