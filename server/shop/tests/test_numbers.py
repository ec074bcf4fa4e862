"""Figures of the shop by hand: utilisation, scrap, yield; stock by day and at standard; a day reported at once; what can be built; what waits on Today."""

import csv
import io
from datetime import datetime, timedelta
from decimal import Decimal
from unittest.mock import patch
from uuid import uuid4

import openpyxl
from definition.models.parts import OpenOrder, Part, StockMove, StockWorth
from definition.models.sheets import BuildSheet, Operation
from definition.models.work_centers import WorkCenter
from django.utils.timezone import localdate, localtime, now
from standards.models import Round, Standard, Tally
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import ProblemsError
from tally_core.calendar.calendars import PLAIN_WEEK, work_from
from testing import Api, load, person, rod_and_tube

from shop.actions.close_order import close_order
from shop.actions.open_order import open_order
from shop.actions.value_stock_at import value_stock_at
from shop.models import Posting, WorkOrder
from shop.order_work import order_work
from shop.tests.floor import Shop


class Numbers(Shop):
    def setUp(self) -> None:
        super().setUp()
        load(rod_and_tube("released"))
        self.stock(ROD="300", NUT="200", T_1="40")
        self.api = Api("shop")

    def closed(self, quantity: str, scrapped: int = 0) -> WorkOrder:
        order = self.released("RT-1", quantity)
        self.report(order, 10, str(int(quantity) - scrapped), scrapped=str(scrapped), reason="torn", setup_minutes="60", run_minutes="180")
        self.report(order, 20, str(int(quantity) - scrapped), run_minutes="60")
        order.refresh_from_db()
        return close_order(self.shop, order.pk, order.version)

    def test_utilisation_scrap_and_yield_by_hand(self) -> None:
        """By hand: 5 h in a week of 5 shifts of 8 h; 2 of 18 reported are scrap, 8 of 10 pass, then 8 of 8."""
        self.closed("10", 2)
        said = self.api.get("/shop/figures")[1]
        (lathe,) = said["centers"]
        self.assertEqual((lathe["code"], lathe["hours"][-1]), ("LATHE", 5))
        self.assertEqual(lathe["utilisation"][-1], 5 / 40)
        self.assertAlmostEqual(lathe["scrap_ratio"], 2 / 18, 6)
        (part,) = said["parts"]
        self.assertEqual((part["part"], part["good"], part["first_pass"]), ("RT-1", 8, 0.8))
        self.assertEqual(len(said["weeks"]), 13)

    def test_stock_by_day_is_the_sum_of_its_moves_and_leaves_as_a_list(self) -> None:
        StockMove.objects.update(made_at=now() - timedelta(days=3))
        yesterday = self.api.get("/shop/stock", day=(localdate() - timedelta(days=1)).isoformat())[1]
        self.closed("10")
        today = self.api.get("/shop/stock")[1]
        self.assertEqual(Decimal(yesterday["total"]), 300 * 3 + 200 * Decimal("0.1") + 40 * Decimal("1.5"))
        self.assertEqual(Decimal(today["total"]), sum(m.value for m in StockMove.objects.all()))
        self.assertEqual({r["part"]: Decimal(r["quantity"]) for r in today["rows"]}["RT-1"], 10)
        status, content = self.api.get("/shop/stock/moves/csv", first=localdate().isoformat(), last=localdate().isoformat())
        rows = list(csv.reader(io.StringIO(content.decode("utf-8-sig"))))
        self.assertEqual((status, rows[0][1]), (200, "Part"))
        self.assertEqual(sum(Decimal(r[5]) for r in rows[1:] if r[1] == "NUT"), -4)
        self.assertEqual({r[9] for r in rows[1:]}, {WorkOrder.objects.get().number})
        status, content = self.api.get("/shop/stock/moves/xlsx", first="2020-01-01", last=localdate().isoformat())
        self.assertEqual(openpyxl.load_workbook(io.BytesIO(content)).active.max_row, StockMove.objects.count() + 1)
        self.assertEqual(self.api.get("/shop/stock/moves/csv", first="2026-02-02", last="2026-02-01")[0], 422)
        self.assertEqual(self.api.get("/shop/stock/moves/csv", first="soon", last="2026-02-01")[0], 422)

    def test_at_standard_what_an_order_cost_beyond_it_stays_with_the_order(self) -> None:
        self.refused("one of", lambda: value_stock_at(person("accountant"), "guess"))
        value_stock_at(person("accountant"), "standard")
        since = localdate()
        accepted = Round.objects.create(name="R", first_day=since, status="accepted", opened_by="accountant")
        Tally.objects.create(
            round=accepted, round_version=1, mark={}, last_standard=0, elements=list(ELEMENTS), causes=[], tallied_by="accountant"
        )
        for number, cost in (("NUT", "0.20"), ("RT-1", "12")):
            row = [int(Decimal(cost) * 10**6)] + [0] * (len(ELEMENTS) - 1)
            Standard.objects.create(
                part=Part.objects.get(number=number), round=accepted, first_day=since, lot=10**7, unit=row[0], elements=row, this_level=row
            )
        order = self.closed("10")
        # The nuts stood at 0.10 and were brought to 0.20 before they went; the product stands at 12 whatever it cost.
        self.assertEqual(StockMove.objects.get(part__number="NUT", reason="to its standard").value, 20)
        self.assertEqual(sum(m.value for m in StockMove.objects.filter(part__number="RT-1")), 120)
        self.assertEqual(-sum(p.value for p in order.postings.filter(kind="rest")), order.spent - 120)
        self.assertEqual(Decimal(order.came_to["by_cause"]["material price"]), 4)
        self.stock(NUT="10")
        self.assertEqual(StockWorth.objects.get(part__number="NUT").elements, {"material": "34.000000000"})
        self.check_balance()

    def test_an_order_is_planned_around_what_is_released_already(self) -> None:
        """Set up in 12 and turned in 3 minutes each, and fitted there too: one after the other at a work center of one station; beside one another at one of two; and what is done takes no room any more."""

        def turning(order: WorkOrder) -> tuple[datetime, datetime]:
            first = order.operations.get(sequence=10)
            assert first.starts_at and first.ends_at
            return first.starts_at, first.ends_at

        def fitted(order: WorkOrder) -> datetime:
            ends = order.operations.get(sequence=20).ends_at
            assert ends
            return ends

        # An hour at which a shift is on, and one minute for all that follows.
        afternoon = localtime().replace(hour=13, minute=10, second=0, microsecond=0)
        for place in ("shop.occupied.now", "shop.laying.localtime"):
            clock = patch(place, return_value=afternoon)
            clock.start()
            self.addCleanup(clock.stop)
        one, two = self.released("RT-1", "40"), self.released("RT-1", "40")
        self.assertGreaterEqual(turning(one)[0], afternoon)
        self.assertGreaterEqual(turning(two)[1] - turning(one)[1], timedelta(minutes=132))
        self.assertGreaterEqual(turning(two)[1] - fitted(one), timedelta(minutes=132))
        # Backward from a day on which both could have been turned last, the second is turned before the first.
        wanted = localdate() + timedelta(days=60)
        late, later = self.released("RT-1", "40", wanted=wanted), self.released("RT-1", "40", wanted=wanted)
        self.assertLessEqual(turning(later)[1], turning(late)[0])
        # Once the first is turned, nothing of it is in the way.
        self.stock(ROD="900", NUT="900", T_1="90")
        self.report(one, 10, "40")
        small = self.released("RT-1", "1")
        self.assertLess(turning(small)[1], turning(one)[1])
        # Where there are two stations, two are turned beside one another, and a third after them.
        WorkOrder.objects.update(state="cancelled")
        WorkCenter.objects.update(stations=2)
        first, second, third = (turning(self.released("RT-1", "40")) for _ in range(3))
        self.assertEqual(first[1], second[1])
        self.assertGreaterEqual(third[1] - first[1], timedelta(minutes=132))

    def test_a_day_is_reported_whole_or_not_at_all(self) -> None:
        one, two = self.released("RT-1", "5"), self.released("RT-1", "3")
        here = self.api.get("/shop/day")[1]
        self.assertEqual([(r["order"], r["sequence"], r["here"]) for r in here], [(one.number, 10, "5"), (two.number, 10, "3")])
        rows = [
            {"order": one.number, "sequence": 10, "good": "5"},
            {"order": two.number, "sequence": 10, "good": "4"},
            {"order": "WO-1", "sequence": 10, "good": "1"},
            {"order": two.number, "sequence": 70, "good": "1"},
        ]
        key = str(uuid4())
        status, said = self.api.post("/shop/day", {"key": key, "rows": rows})
        self.assertEqual(status, 422)
        self.assertEqual([p["place"] for p in said["problems"]], ["rows[1].good", "rows[2].order", "rows[3].sequence"])
        self.assertEqual(one.entries.count(), 0)
        rows = [{**rows[0], "done_by": "Ada Brink"}, {**rows[1], "good": "3"}]
        for _ in range(2):
            self.assertEqual(self.api.post("/shop/day", {"key": key, "rows": rows}), (200, {"count": 2}))
        self.assertEqual((one.entries.get().done_by, two.entries.count()), ("Ada Brink", 1))

    def test_what_was_really_taken_stands_in_place_of_what_the_list_says(self) -> None:
        """By hand: five of 10 take 20 nuts and 5 tubes at operation 20. 22 nuts and 4 tubes were taken: two more, and one tube less than
        the list, which the next report does not take after all."""
        order = self.released("RT-1", "10")
        self.report(order, 10, "10")
        status, takes = self.api.get("/shop/day/takes", order=order.number, sequence=20, units="5")
        self.assertEqual(
            (status, {t["part"]: (t["quantity"], t["backflush"]) for t in takes}), (200, {"T-1": ("5", True), "NUT": ("20", True)})
        )
        rows = {t["part"]: t["row"] for t in takes}
        before = {p: StockWorth.objects.get(part__number=p).quantity for p in rows}

        def tell(good: str, **taken: str) -> tuple[int, dict]:
            stated = [{"row": rows[p.replace("_", "-")], "quantity": q} for p, q in taken.items()]
            return self.api.post(
                "/shop/day", {"key": str(uuid4()), "rows": [{"order": order.number, "sequence": 20, "good": good, "taken": stated}]}
            )

        for wrong in ({"NUT": "2.5"}, {"NUT": "-1"}, {"NUT": "many"}):
            self.assertEqual(tell("5", **wrong)[0], 422)
        self.assertEqual(tell("5", NUT="22", T_1="4")[0], 200)
        self.assertEqual({p: before[p] - StockWorth.objects.get(part__number=p).quantity for p in rows}, {"NUT": 22, "T-1": 4})
        takes = {t["part"]: t["quantity"] for t in self.api.get("/shop/day/takes", order=order.number, sequence=20, units="5")[1]}
        self.assertEqual(takes, {"T-1": "5", "NUT": "20"})
        # What the store issues is proposed as well, and taken with the report once it is said.
        self.api.send("PUT", f"/shop/orders/{order.pk}/backflush", [{"row": rows["T-1"], "backflush": False}])
        self.assertEqual(tell("5", T_1="5")[0], 200)
        self.assertEqual({p: before[p] - StockWorth.objects.get(part__number=p).quantity for p in rows}, {"NUT": 42, "T-1": 9})
        order.refresh_from_db()
        self.assertEqual(order.state, "done")
        said = close_order(self.shop, order.pk, order.version).came_to
        self.assertEqual(sum(Decimal(x) for x in said["by_cause"].values()), Decimal(said["difference"]))
        self.check_balance()
        self.assertEqual(self.api.get("/shop/day/takes", order="WO-1", sequence=20, units="5")[0], 404)
        self.assertEqual(self.api.get("/shop/day/takes", order=order.number, sequence=20, units="x")[0], 422)

    def test_who_gets_what_of_several_and_what_is_spoken_for(self) -> None:
        """By hand: 40 tubes and 300 m of rod are free; a tube takes 0.5 m. What is released keeps its share."""
        status, said = self.api.post(
            "/shop/can-build", [{"part": "RT-1", "quantity": "30"}, {"part": "RT-1", "quantity": "30"}, {"part": "T-1"}]
        )
        self.assertEqual(status, 200, said)
        first, second, third = said
        self.assertEqual((first["most"], first["limited_by"]), ("50", ["NUT"]))
        self.assertEqual({r["part"]: r["short"] for r in first["rows"]}["NUT"], "0")
        nuts = next(r for r in second["rows"] if r["part"] == "NUT")
        self.assertEqual((nuts["free"], nuts["short"]), ("80", "40"))
        tubes = next(r for r in second["rows"] if r["part"] == "T-1")
        self.assertEqual((tubes["free"], tubes["needed"]), ("10", "30"))
        # 63 m went to each of the thirty, and 10 m to the twenty tubes that are made for the second.
        self.assertEqual(third["most"], "328")
        self.released("RT-1", "40")
        self.assertEqual(self.api.post("/shop/can-build", [{"part": "RT-1"}])[1][0]["most"], "10")
        self.assertEqual(self.api.post("/shop/can-build", [{"part": "NOPE"}])[0], 404)
        self.assertEqual(self.api.post("/shop/can-build", [])[0], 422)

    def test_what_released_orders_take_is_there_for_nobody_else(self) -> None:
        """By hand: an order for 40 takes 160 of 200 nuts; one for 20 more takes 40 that are there and 40 of 100 that come."""
        self.released("RT-1", "40")
        sheet = BuildSheet.objects.get(part__number="RT-1")

        def nuts() -> tuple:
            build = {"part": "RT-1", "quantity": "20", "options": []}
            rows = self.api.post("/sheets/matrix", {"builds": [build], "day": "", "drafts": False, "stock": True})[1]["rows"]
            row = next(r for r in rows if r["part"] == "NUT")
            view = self.api.get(f"/sheets/{sheet.pk}/view")[1]
            part = next(p for p in view["parts"] if p["number"] == "NUT")
            plan = self.buyer.post("/buying/plans", {"title": "x", "builds": [{"part": "RT-1", "quantity": "20"}], "limits": {}})[1]["id"]
            needs = {n["part"]: n for n in self.buyer.get(f"/buying/plans/{plan}")[1]["needs"]}
            need = self.buyer.get(f"/buying/needs/{needs['NUT']['id']}")[1]
            most = self.api.get(f"/costing/buildable?sheet={sheet.pk}")[1]
            return (
                (row["on_hand"], row["spoken_for"], row["order"]),
                (part["on_hand"], part["spoken_for"]),
                (float(need["stock"]), sum(float(o["quantity"]) for o in need["orders"]), float(needs["NUT"]["quantity"])),
                float(most["quantity"]),
            )

        self.buyer = Api("buyer")
        self.assertEqual(nuts(), ((200, 160, 40), (200, 160), (40, 0, 40), 10))
        self.released("RT-1", "20")
        OpenOrder.objects.create(part=Part.objects.get(number="NUT"), order="PO-1", quantity=100, due_on=localdate(), added_by="x")
        self.assertEqual(nuts(), ((200, 240, 20), (200, 240), (0, 60, 20), 0))

    def test_today_says_what_is_late_short_and_not_released(self) -> None:
        order = self.released("RT-1", "60")
        WorkOrder.objects.filter(pk=order.pk).update(wanted=localdate() - timedelta(days=2))
        planned = open_order(self.shop, "T-1", "2", nest=False)
        heaps = {h["title"]: h for h in self.api.get("/today")[1]["heaps"]}
        (late,) = heaps["Work orders due and late"]["rows"]
        self.assertEqual((late["name"], late["more"], late["urgent"]), (order.number, "2 days late", True))
        self.assertEqual(heaps["Short of parts"]["rows"][0]["more"], "2 parts short")
        self.assertEqual(heaps["Not released"]["rows"][0]["name"], planned.number)
        self.api.post(f"/shop/orders/{order.pk}/begin", {"sequence": 10, "done_by": "Ada Brink"})
        heaps = {h["title"]: h for h in self.api.get("/today")[1]["heaps"]}
        self.assertIn("Ada Brink", heaps["Being worked at"]["rows"][0]["more"])
        self.assertEqual(self.api.post(f"/shop/orders/{order.pk}/begin", {"sequence": 10, "begins": False}), (200, {"begun": False}))
        done = self.closed("5")
        heaps = {h["title"]: h for h in Api("accountant").get("/today")[1]["heaps"]}
        self.assertEqual(heaps["Came to more or less than expected"]["rows"][0]["name"], done.number)

    def test_today_says_which_times_are_missing(self) -> None:
        order = self.released("RT-1", "10")

        def heap() -> list[tuple[str, str, str, bool]]:
            heaps = {h["title"]: h for h in self.api.get("/today")[1]["heaps"]}
            return [(r["name"], r["what"], r["more"], r["urgent"]) for r in heaps["Times to enter"]["rows"]]

        self.assertEqual(heap(), [])
        for sequence in (10, 20):
            self.report(order, sequence, "6", run_minutes="0", setup_minutes="0")
        turned = (order.number, "10 Turn of RT-1", "6 ea reported, LATHE", False)
        self.assertEqual(heap(), [turned, (order.number, "20 Fit of RT-1", "6 ea reported, LATHE", False)])
        # Minutes told afterwards, without units, are enough; done and still without them, it is pressing.
        self.report(order, 20, "0", run_minutes="7")
        self.assertEqual(heap(), [turned])
        self.report(order, 10, "4", run_minutes="0", setup_minutes="0")
        self.report(order, 20, "4", run_minutes="4")
        self.assertEqual(heap(), [(order.number, "10 Turn of RT-1", "10 ea reported, LATHE", True)])

    def test_today_says_where_there_is_more_to_do_than_time(self) -> None:
        """By hand: 12 minutes and 1,200 times 3 to turn, 1,200 times 1 to fit: two full weeks before its day; twice is too much for the one lathe."""
        # A Friday within the four weeks that are looked at, and far enough that nothing of it lies before now.
        wanted = localdate() + timedelta(days=25 - localdate().weekday())

        def heap() -> list[dict]:
            heaps = {h["title"]: h for h in self.api.get("/today")[1]["heaps"]}
            return heaps["More to do than time"]["rows"]

        self.assertEqual(heap(), [])
        one = self.released("RT-1", "1200", wanted=wanted)
        self.assertEqual(heap(), [])
        two = self.released("RT-1", "1200", wanted=wanted)
        # By itself it is laid before the first, which may be before today, and on most days something else comes out; both are meant at once.
        for operation in one.operations.all():
            two.operations.filter(row=operation.row).update(starts_at=operation.starts_at, ends_at=operation.ends_at)
        first = heap()[0]
        self.assertEqual((first["name"], first["to"], first["urgent"]), ("LATHE", "/work-centers/load", True))
        self.assertRegex(first["more"], r"^week of \d\d \w+: 80 h in 40 h$")

    def test_what_is_left_of_released_orders_loads_the_work_centers(self) -> None:
        """By hand: set-up 12 and run 30 for ten, then 10; when six of ten are turned, 12 of 30 minutes are left of that."""
        order = self.released("RT-1", "10")

        def hours() -> float:
            status, said = self.api.post("/work-centers/load", {"builds": [], "orders": True})
            self.assertEqual(status, 200, said)
            self.assertEqual({s["order"] for s in said["sources"]}, {order.number})
            return sum(said["centers"][0]["load"])

        self.assertAlmostEqual(hours(), 52 / 60, 5)
        self.report(order, 10, "6")
        self.assertAlmostEqual(hours(), 22 / 60, 5)
        both = self.api.post("/work-centers/load", {"builds": [{"part": "RT-1", "quantity": "10"}], "orders": True})[1]
        self.assertAlmostEqual(sum(both["centers"][0]["load"]), 74 / 60, 5)
        self.assertEqual(self.api.post("/work-centers/load", {"builds": [], "orders": False})[0], 422)

    def test_what_follows_an_operation_that_is_late_is_late_with_it(self) -> None:
        """Both laid last week: 312 minutes to turn stand from now on, and what is fitted then waits for them; where they overlap, it does not."""
        order = self.released("RT-1", "100")
        turn, fit = order.operations.order_by("row")
        last_week = now() - timedelta(days=7)
        order.operations.update(starts_at=last_week, ends_at=last_week)
        first, second = order_work()
        here = localtime(now()).replace(tzinfo=None)
        self.assertEqual((first.minutes, second.minutes), (312, 100))
        self.assertLess(abs(first.begins - here), timedelta(seconds=30))
        self.assertEqual(second.begins, work_from(PLAIN_WEEK, first.begins, 312))
        # What is laid far enough behind it stands where it was laid.
        later = now() + timedelta(days=30)
        order.operations.filter(pk=fit.pk).update(starts_at=later)
        self.assertEqual(order_work()[1].begins, localtime(later).replace(tzinfo=None))
        order.operations.filter(pk=turn.pk).update(ends_at=last_week + timedelta(days=2))
        order.operations.filter(pk=fit.pk).update(starts_at=last_week + timedelta(days=1))
        first, second = order_work()
        self.assertEqual(second.begins, first.begins)
        self.report(order, 10, "100")
        (second,) = order_work()
        self.assertLess(abs(second.begins - here), timedelta(seconds=30))

    def test_any_of_a_group_takes_up_what_may_be_done_there(self) -> None:
        """Turning stands in the queues of both lathes until somebody begins; what it costs there is at the rates there: 6 minutes at 60."""
        WorkCenter.objects.filter(code="LATHE").update(group="turning")
        WorkCenter.objects.create(code="LATHE-2", group="turning", labor_rate=60)
        WorkCenter.objects.create(code="SAW", group="cutting", labor_rate=60)
        Operation.objects.filter(sequence=10).update(any_of_group=True)
        order = self.released("RT-1", "10")

        def queues() -> dict[str, list[int]]:
            told = {c: self.api.get(f"/shop/centers/{c}")[1]["tasks"] for c in ("LATHE", "LATHE-2", "SAW")}
            self.assertEqual(
                {c["code"]: c["operations"] for c in self.api.get("/shop/centers")[1]},
                {c: len(tasks) for c, tasks in told.items() if tasks},
            )
            return {c: [t["sequence"] for t in tasks] for c, tasks in told.items()}

        both = {"LATHE": [10, 20], "LATHE-2": [10], "SAW": []}
        self.assertEqual(queues(), both)
        (task,) = self.api.get("/shop/centers/LATHE-2")[1]["tasks"]
        self.assertEqual(task["any_of"], "turning")
        load = self.api.post("/work-centers/load", {"builds": [], "orders": True})[1]
        self.assertEqual({(s["center"], s["sequence"]) for s in load["sources"]}, {("LATHE", 10), ("LATHE", 20)})
        at = f"/shop/orders/{order.pk}"
        status, said = self.api.post(f"{at}/begin", {"sequence": 10, "center": "SAW"})
        self.assertEqual(status, 422)
        self.assertIn("is done at a work center of turning, not at SAW", said["message"])
        self.assertEqual(self.api.post(f"{at}/begin", {"sequence": 10, "center": "LATHE-2"})[0], 200)
        self.assertEqual(queues(), {"LATHE": [20], "LATHE-2": [10], "SAW": []})
        status, said = self.api.post(f"{at}/begin", {"sequence": 10, "center": "LATHE"})
        self.assertEqual((status, said["message"]), (422, "shop is at it at LATHE-2"))
        self.assertEqual(self.api.post(f"{at}/begin", {"sequence": 10, "center": "LATHE-2"})[0], 200)
        self.api.post(f"{at}/begin", {"sequence": 10, "begins": False})
        self.assertEqual(queues(), both)
        # Given another name, the group of the order is empty but for the work center itself; nothing is lost.
        WorkCenter.objects.filter(group="turning").update(group="lathes")
        self.assertEqual(queues(), {"LATHE": [20], "LATHE-2": [10], "SAW": []})
        load = self.api.post("/work-centers/load", {"builds": [], "orders": True})[1]
        self.assertEqual({(s["center"], s["sequence"]) for s in load["sources"]}, {("LATHE-2", 10), ("LATHE", 20)})
        WorkCenter.objects.filter(group="lathes").update(group="turning")
        report = {"key": str(uuid4()), "sequence": 10, "good": "2", "run_minutes": "6"}
        self.assertEqual(self.api.post(f"{at}/report", report | {"center": "SAW"})[0], 422)
        status, said = self.api.post(f"{at}/report", report | {"center": "LATHE-2"})
        self.assertEqual(status, 200, said)
        self.assertEqual(Decimal(Posting.objects.get(kind="work").elements["labor"]), 6)
        # What is not of the group stays where it is.
        self.assertEqual(self.api.post(f"{at}/begin", {"sequence": 20, "center": "LATHE-2"})[0], 422)

    def test_asked_again_for_want_of_an_answer_opens_no_second_order(self) -> None:
        asked = {"key": str(uuid4()), "part": "RT-1", "quantity": "2"}
        first, again, other = (self.api.post("/shop/orders", asked | more)[1] for more in ({}, {}, {"key": str(uuid4())}))
        self.assertEqual(first["number"], again["number"])
        # With what is nested below it: as many for each of the two that there are.
        per_order = WorkOrder.objects.filter(parent_id=first["id"]).count() + 1
        self.assertNotEqual(other["number"], first["number"])
        self.assertEqual(WorkOrder.objects.count(), per_order + 1 + WorkOrder.objects.filter(parent_id=other["id"]).count())
        self.assertEqual(Api("viewer").post("/shop/orders", asked)[0], 403)

    def test_what_is_typed_wrong_is_named(self) -> None:
        for body, words in (
            ({"part": "RT-1", "quantity": "two"}, "above 0"),
            ({"part": "RT-1", "quantity": "2", "wanted": "soon"}, "no day"),
            ({"part": "RT-1", "quantity": "1e99"}, "above 0"),
            ({"part": "RT-1", "quantity": "2", "options": ["GOLD"]}, "GOLD"),
        ):
            status, said = self.api.post("/shop/orders", body)
            self.assertEqual(status, 422, said)
            self.assertIn(words, str(said))
        order = self.released("RT-1", "2")
        path = f"/shop/orders/{order.pk}"
        for at, body in (
            ("report", {"key": "no", "sequence": 10}),
            ("report", {"key": str(uuid4()), "sequence": 10, "good": "NaN"}),
            ("issue", {"key": str(uuid4()), "issues": [{"component": 99, "quantity": "1"}]}),
            ("issue", {"key": str(uuid4()), "issues": []}),
            ("sent", {"key": str(uuid4()), "sequence": 10, "quantity": "-1"}),
            ("close", {"version": order.version}),
            ("change", {"version": 1, "quantity": "3"}),
        ):
            self.assertEqual(self.api.post(f"{path}/{at}", body)[0], 422, at)
        # A clock without a zone is the shop's; one that is wrong is said, whatever it shows.
        for at, words in (("0001-01-01T00:00", "was released"), ("9999-12-31T23:59:59-14:00", "still to come")):
            status, said = self.api.post(f"{path}/report", {"key": str(uuid4()), "sequence": 10, "good": "1", "at": at})
            self.assertEqual(status, 422, said)
            self.assertIn(words, str(said))
        with self.assertRaises(ProblemsError):
            close_order(self.shop, order.pk, order.version)
        self.assertEqual(self.api.post("/shop/orders/999999/release", {"version": 1})[0], 404)
