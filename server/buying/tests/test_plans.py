"""A buy plan as the API makes it: what is needed, what covers it, what is held by hand; worked by hand beside each check."""

from datetime import timedelta
from decimal import Decimal as D
from typing import Any
from unittest.mock import patch

from definition.models.parts import MakerNumber, Part
from django.utils.timezone import now
from partners.models import Partner
from standards.models import Proposal
from testing import Api, load
from verbs.parts.move_stock import move_stock
from verbs.parts.take_open_orders import take_open_orders

from buying.actions.plan_now import KIND
from buying.models import BuyPlan, Offer, OrderLine, PlanAlternate

from .lamps import Lamps, day


class Plans(Lamps):
    def test_old_prices_and_makers_that_are_not_bought_are_left_out(self) -> None:
        old = self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker="Nordry", maker_number="N-5")
        self.offer("SCR", "Kelpie Supply", [["1", "0.30"]], maker_number="N-5")
        Offer.objects.filter(pk=old).update(offered_at=now() - timedelta(days=40))
        plan = self.plan(("LAMP", "100"), oldest_days=30)
        need = self.need(plan, "SCR")
        self.assertEqual(need["bought"][0]["supplier"], "Kelpie Supply")
        self.assertEqual({o["ruled_out"] for o in need["looked_at"]}, {"", "said 40 days ago"})
        # Said again since, it is not old.
        Offer.objects.filter(pk=old).update(confirmed_at=now())
        plan = self.plan(("LAMP", "100"), oldest_days=30)
        self.assertEqual(self.need(plan, "SCR")["bought"][0]["supplier"], "Fathom Bolts")
        plan = self.plan(("LAMP", "100"), barred_makers=["  NORDRY ", ""])
        self.assertEqual((plan["limits"]["barred_makers"], self.need(plan, "SCR")["bought"][0]["supplier"]), (["NORDRY"], "Kelpie Supply"))
        # Nothing left: the reason names each, and a choice by hand is held all the same.
        Offer.objects.filter(supplier="Kelpie Supply").update(let_go_at=now())
        plan = self.plan(("LAMP", "100"), barred_makers=["nordry"])
        row = plan["needs"]["SCR"]
        self.assertEqual((row["reason"], row["detail"]), ("no offer", "No offer may be used: Fathom Bolts: maker not used."))
        status, _ = self.buyer.post(f"/buying/plans/{plan['id']}/hold", {"offer": old, "version": plan["version"]})
        self.assertEqual((status, self.read(plan["id"])["needs"]["SCR"]["bought"][0]["by_hand"]), (200, True))
        for limits, place in (({"oldest_days": -1}, "oldest_days"), ({"barred_makers": ["x" * 201]}, "barred_makers")):
            body = {"title": "x", "builds": [{"part": "LAMP", "quantity": "1"}], "limits": limits}
            self.assertEqual([p["place"] for p in self.buyer.post("/buying/plans", body)[1]["problems"]], [place])

    def test_what_is_there_is_taken_first_and_the_sum_opens(self) -> None:
        """100 lamps: 420 screws with scrap, and one for each of the 90 stems that are not in stock; 60 in stock, 200 on order in time."""
        shop = Api("shop").user
        move_stock(shop, "SCR", "60", "counted")
        move_stock(shop, "STEM", "10", "counted")
        orders = [["order", "part", "open", "due"], ["PO-7", "SCR", "200", day(20)], ["PO-8", "SCR", "50", day(40)]]
        take_open_orders(self.buyer.user, orders)
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"], ["500", "0.05"]], maker_number="n 5", lead_days="7")
        plan = self.plan(("LAMP", "100", day(30)))
        need = self.need(plan, "SCR")
        self.assertEqual([(a["words"], D(a["quantity"])) for a in need["asked_by"]], [("100 × LAMP", D(510))])
        self.assertEqual((D(need["stock"]), [(o["words"], D(o["quantity"])) for o in need["orders"]]), (D(60), [("PO-7", D(200))]))
        # 510 − 60 − 200 = 250 at 0.10 are 25.00; 500 at 0.05 cost as much, and 250 is taken or 500: both are the cheapest.
        self.assertEqual((D(need["quantity"]), D(plan["total"]), plan["total"]), (D(250), D(25), plan["bound"]))
        # Glass comes from the customer, and a stem is made.
        self.assertEqual(set(plan["needs"]), {"SCR", "TUBE"})
        left_alone = self.plan(("LAMP", "100", day(30)), use_stock=False, use_orders=False)
        self.assertEqual(D(left_alone["needs"]["SCR"]["quantity"]), 420 + 100)

    def test_builds_of_different_days_share_what_is_there_in_order(self) -> None:
        """50 screws in stock go to the boxes of next week; the lamps of next month get the order that comes before them."""
        move_stock(Api("shop").user, "SCR", "50", "counted")
        take_open_orders(self.buyer.user, [["order", "part", "open", "due"], ["PO-7", "SCR", "100", day(20)]])
        fast = self.offer("SCR", "Fathom Bolts", [["1", "0.20"]], maker_number="N5", lead_days="2")
        slow = self.offer("SCR", "Kelpie Supply", [["1", "0.10"]], maker_number="N5", lead_days="25")
        plan = self.plan(("BOX", "30", day(7)), ("LAMP", "100", day(30)))
        need = self.need(plan, "SCR")
        self.assertEqual([(n["day"], D(n["quantity"])) for n in need["left"]], [(day(7), D(10)), (day(30), D(420))])
        self.assertEqual({b["offer"]: D(b["quantity"]) for b in need["bought"]}, {fast: D(10), slow: D(420)})
        self.assertEqual(D(plan["total"]), D("0.20") * 10 + D("0.10") * 420)

    def test_a_part_is_bought_in_its_buying_unit(self) -> None:
        """100 lamps take 50 m of tube: 16⅔ bars of 3 m, so 17. An offer by the metre is turned into bars."""
        self.offer("SCR", "Fathom Bolts", [["1", "0.01"]], maker_number="N-5")
        by_the_bar = self.offer("TUBE", "Holm Metals", [["1", "30"]])
        plan = self.plan()
        self.assertEqual(
            [(b["offer"], b["quantity"], b["surplus"]) for b in plan["needs"]["TUBE"]["bought"]], [(by_the_bar, "17", "0.333333")]
        )
        by_the_metre = self.offer("TUBE", "Tube Yard", [["1", "9"]], unit="m", multiple="3")
        plan = self.read(self.buyer.post(f"/buying/plans/{plan['id']}/plan", {})[1]["id"])
        self.assertEqual(
            [(b["offer"], b["quantity"], D(b["cost"])) for b in plan["needs"]["TUBE"]["bought"]], [(by_the_metre, "17", D(459))]
        )
        status, answer = self.buyer.post("/buying/offers", {"part": "TUBE", "supplier": "X", "breaks": [["1", "1"]], "unit": "kg"})
        self.assertEqual((status, answer["problems"][0]["place"]), (422, "unit"))

    def test_what_nothing_covers_stands_first_with_its_reason(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="OTHER-9")
        gone = self.offer("TUBE", "Holm Metals", [["1", "30"]], valid_to=day(-1))
        plan = self.plan()
        self.assertEqual({p: n["reason"] for p, n in plan["needs"].items()}, {"SCR": "not approved", "TUBE": "no offer"})
        self.assertEqual((plan["uncovered"], plan["total"]), (2, "0"))
        self.assertEqual(self.need(plan, "TUBE")["looked_at"][0]["ruled_out"], "no longer valid")
        self.buyer.post(f"/buying/offers/{gone}/let-go", {})
        self.assertEqual(self.need(self.plan(), "TUBE")["looked_at"], [])
        self.assertEqual(Offer.objects.filter(pk=gone).count(), 1, "an offer is kept for ever")

    def test_freight_and_minimums_count_once_and_in_the_suppliers_currency(self) -> None:
        """SCR 520 at 0.10 = 52 and 17 bars at 30 = 510, both also at Kelpie in dollars at 0.9: freight 20 USD are 18 EUR."""
        for part, own, theirs in (("SCR", "0.10", "0.10"), ("TUBE", "30", "31")):
            number = "N-5" if part == "SCR" else ""
            self.offer(part, "Fathom Bolts", [["1", own]], maker_number=number)
            self.offer(part, "Kelpie Supply", [["1", theirs]], maker_number=number, currency="USD")
        code = next(p["code"] for p in self.buyer.get("/partners")[1] if p["name"] == "Kelpie Supply")
        version = next(p["version"] for p in self.buyer.get("/partners")[1] if p["code"] == code)
        self.buyer.send("PATCH", f"/partners/one?code={code}", {"currency": "USD", "version": version})
        self.terms("Kelpie Supply", freight="20", minimum_order="100", small_order_charge="")
        without = self.plan()
        self.assertEqual((D(without["total"]), [o["supplier"] for o in without["orders"]]), (D(562), ["Fathom Bolts"]))
        self.assertEqual(next(o for o in self.need(without, "SCR")["looked_at"] if o["currency"] == "USD")["ruled_out"], "no rate for USD")
        self.assertEqual(self.buyer.post("/buying/rates", {"currency": "usd", "day": day(-5), "rate": "0,900"})[0], 200)
        self.buyer.post("/buying/rates", {"currency": "USD", "day": day(3), "rate": "0.1"})
        plan = self.plan()
        # All of it there: (52 + 527) × 0.9 + 18 = 539.10; a rate of a later day does not count yet.
        self.assertEqual((D(plan["total"]), plan["rates"]), (D("539.10"), {"USD": "0.9"}))
        # Neither a rate that does not hold yet nor one of another currency moves it; another one of its own does.
        self.buyer.post("/buying/rates", {"currency": "USD", "day": day(4), "rate": "0.2"})
        self.buyer.post("/buying/rates", {"currency": "GBP", "day": day(-1), "rate": "1.2"})
        self.assertFalse(self.read(plan["id"])["behind"])
        self.buyer.post("/buying/rates", {"currency": "USD", "day": day(-1), "rate": "0.95"})
        self.assertTrue(self.read(plan["id"])["behind"])
        status, said = self.buyer.post(f"/orders/of-plan/{plan['id']}", {"version": plan["version"]})
        self.assertEqual((status, "or rates did" in said["message"]), (422, True))
        (order,) = plan["orders"]
        self.assertEqual((D(order["freight"]), D(order["minimum"])), (D(18), D(90)))
        barred = self.plan(barred=["Kelpie Supply"])
        self.assertEqual(D(barred["total"]), D(562))
        # Given another name, they are still not used; of no supplier, nothing is barred.
        code = Partner.objects.get(name="Kelpie Supply").code
        self.assertEqual(
            self.buyer.send(
                "PATCH", f"/partners/one?code={code}", {"name": "Kelpie & Sons", "version": Partner.objects.get(code=code).version}
            )[0],
            200,
        )
        self.assertEqual(self.read(barred["id"])["limits"]["barred"], ["Kelpie & Sons"])
        again = self.read(self.buyer.post(f"/buying/plans/{barred['id']}/plan", {})[1]["id"])
        self.assertEqual((again["limits"]["barred"], D(again["total"])), (["Kelpie & Sons"], D(562)))
        body = {"version": again["version"], "limits": {"barred": ["Nobody"]}}
        status, said = self.buyer.send("PATCH", f"/buying/plans/{barred['id']}", body)
        self.assertEqual((status, "Nobody is no supplier" in said["message"]), (422, True))
        self.assertEqual(self.buyer.send("PATCH", f"/buying/plans/{barred['id']}", body | {"limits": {"barred": []}})[0], 200)
        self.assertEqual(self.read(barred["id"])["limits"]["barred"], [])

    def test_a_choice_by_hand_is_held_and_its_price_said(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5")
        dear = self.offer("SCR", "Kelpie Supply", [["100", "0.15"]], maker_number="N-5")
        self.offer("TUBE", "Holm Metals", [["1", "30"]])
        plan = self.plan()
        self.assertEqual(D(plan["total"]), 52 + 510)
        at = f"/buying/plans/{plan['id']}"
        self.assertEqual(self.buyer.post(f"{at}/hold", {"offer": dear, "quantity": "50", "version": plan["version"]})[0], 422)
        self.assertEqual(self.buyer.post(f"{at}/hold", {"offer": dear, "quantity": "120", "version": 99})[0], 422)
        self.buyer.post(f"{at}/hold", {"offer": dear, "quantity": "120", "version": plan["version"]})
        held = self.read(plan["id"])
        # 120 × 0.15 and the other 400 at 0.10: 6.00 more.
        self.assertEqual((D(held["total"]), D(held["without_choices"]), held["held"]), (D(568), D(562), {str(dear): "120"}))
        self.assertEqual({b["by_hand"] for b in held["needs"]["SCR"]["bought"] if b["offer"] == dear}, {True})
        self.buyer.post(f"/buying/offers/{dear}/let-go", {})
        lost = self.read(self.buyer.post(f"{at}/plan", {})[1]["id"])
        self.assertEqual((len(lost["lost"]), D(lost["total"])), (1, D(562)))
        self.buyer.post(f"{at}/let-go", {"offer": dear, "version": lost["version"]})
        self.assertEqual(self.read(plan["id"])["held"], {})

    def test_a_stopped_search_keeps_the_best_plan(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5")
        self.offer("TUBE", "Holm Metals", [["1", "30"]])

        def stopped(purchase: Any, **given: Any) -> Any:
            """The search as it is when the worker is told to stop while it searches."""
            from jobs.models import Job
            from tally_core.buying.cheapest import cheapest_plan

            Job.objects.filter(kind=KIND, ended_at=None).update(stopped_by="buyer")
            with patch("buying.actions.plan_now._EVERY", -1.0):
                self.assertTrue(given["watch"](1.0, 0.0))
            return cheapest_plan(purchase, watch=lambda best, bound: True)

        with patch("buying.planning.cheapest_plan", stopped):
            plan = self.plan()
        self.assertEqual(D(plan["total"]), 52 + 510)
        self.assertLessEqual(D(plan["bound"]), D(plan["total"]))

    def test_a_plan_says_that_it_was_changed_since(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5")
        plan = self.plan()
        self.assertFalse(plan["behind"])
        body = {"version": plan["version"], "limits": {"split": 2}}
        status, changed = self.buyer.send("PATCH", f"/buying/plans/{plan['id']}", body)
        self.assertEqual((status, changed["behind"], changed["limits"]["split"]), (200, True, 2))
        self.assertEqual(self.buyer.send("PATCH", f"/buying/plans/{plan['id']}", body)[0], 422, "somebody was faster")
        self.assertEqual(BuyPlan.history.filter(id=plan["id"]).count(), 2)
        self.assertEqual(self.buyer.post(f"/buying/plans/{plan['id']}/drop", {"version": changed["version"]})[0], 200)
        self.assertEqual(self.buyer.get(f"/buying/plans/{plan['id']}")[0], 404)

    def test_wrong_plans_offers_and_limits_are_named_by_their_field(self) -> None:
        wrong = [{"part": "SCR", "quantity": "1"}, {"part": "LAMP", "quantity": "0"}, {"part": "NONE", "quantity": "x", "by": "soon"}]
        status, answer = self.buyer.post("/buying/plans", {"title": "", "builds": wrong, "limits": {"split": 9}})
        self.assertEqual((status, [p["place"] for p in answer["problems"]]), (422, ["title", "split"]))
        status, answer = self.buyer.post("/buying/plans", {"title": "x", "builds": wrong})
        places = ["builds[0].part", "builds[1].quantity", "builds[2].part", "builds[2].quantity", "builds[2].by"]
        self.assertEqual((status, [p["place"] for p in answer["problems"]]), (422, places))
        offer = {
            "part": "SCR",
            "supplier": "S",
            "breaks": [["1", "0.1"], ["1", "0.2"], ["5", ""]],
            "multiple": "0",
            "currency": "EURO",
            "lead_days": "1.5",
        }
        status, answer = self.buyer.post("/buying/offers", offer)
        self.assertEqual(status, 422)
        self.assertEqual(
            {p["place"] for p in answer["problems"]}, {"breaks[1].from", "breaks[2].price", "multiple", "currency", "lead_days"}
        )
        rising = {"part": "SCR", "supplier": "S", "breaks": [["1", "10"], ["100", "12"]], "price_per": "100"}
        status, answer = self.buyer.post("/buying/offers", rising)
        self.assertEqual((status, answer["look"]), (200, ["the price rises from 0.1 at 1 to 0.12 at 100"]))
        self.assertEqual(self.buyer.post("/buying/rates", {"currency": "EUR", "day": "2026-01-01", "rate": "1"})[0], 422)

    def test_a_sheet_that_is_missing_is_said_and_the_last_plan_stands(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5")
        plan = self.plan()
        Part.objects.create(number="BARE", kind="made")
        builds = [{"part": "BARE", "quantity": "1"}]
        self.buyer.send("PATCH", f"/buying/plans/{plan['id']}", {"version": plan["version"], "builds": builds})
        self.buyer.post(f"/buying/plans/{plan['id']}/plan", {})
        answer = self.buyer.get(f"/buying/plans/{plan['id']}")[1]
        self.assertIn("BARE has no build sheet in force", answer["failed"])
        self.assertEqual((answer["total"], answer["behind"]), (plan["total"], True))

    def test_the_screen_asks_a_fixed_number_of_queries(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5")
        plan = self.plan(("LAMP", "10"), ("BOX", "10"), ("STEM", "1"))
        with self.assertNumQueries(9):
            self.buyer.get(f"/buying/plans/{plan['id']}")
        self.plan()
        with self.assertNumQueries(5):
            self.buyer.get("/buying/plans")

    def test_its_prices_go_into_a_round_and_not_into_the_parts(self) -> None:
        """17 bars of 3 m at 30.00: a metre is 10.00; 1000 screws at 0.04 serve 520, and each costs 0.04."""
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"], ["1000", "0.04"]], maker_number="N-5")
        self.offer("TUBE", "Holm Metals", [["1", "30"]])
        plan = self.plan()
        status, opened = self.buyer.post("/rounds", {"name": "Spring", "first_day": day(30), "scope": "touched"})
        self.assertEqual(status, 200, opened)
        status, answer = self.buyer.post(f"/buying/plans/{plan['id']}/propose", {"round": opened["id"]})
        self.assertEqual((status, answer), (200, {"count": 2}))
        proposed = dict(Proposal.objects.filter(round=opened["id"]).values_list("part__number", "value"))
        self.assertEqual(proposed, {"SCR": D("0.04"), "TUBE": D(10)})
        self.assertEqual(set(Part.objects.filter(kind="bought").values_list("unit_cost", flat=True)), {None})
        self.assertEqual(Api("shop").post(f"/buying/plans/{plan['id']}/propose", {"round": opened["id"]})[0], 403)

    def test_days_are_held_to_unless_told_otherwise(self) -> None:
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5", lead_days="10")
        self.terms("Fathom Bolts", transit_days="3")
        self.assertEqual(self.plan(("STEM", "5", day(12)))["needs"]["SCR"]["reason"], "too late")
        self.assertEqual(self.plan(("STEM", "5", day(13)))["needs"]["SCR"]["reason"], "")
        self.assertEqual(self.plan(("STEM", "5", day(12)), hold_to_days=False)["needs"]["SCR"]["reason"], "")

    def test_another_part_is_bought_in_the_place_of_one_for_this_plan_alone(self) -> None:
        """100 lamps take 50 m of tube, bought in bars of 3 m: 17 bars at 9 are 153. Pipe in bars of 6 m at 16: 9 bars, 144, do for 18."""
        Part.objects.create(number="PIPE", kind="bought", unit="m", buying_unit="long bar", stock_per_buying_unit=6)
        Part.objects.create(number="HOSE", kind="bought", unit="kg")
        self.offer("TUBE", "Fathom Bolts", [["1", "9"]])
        pipe = self.offer("PIPE", "Kelpie Supply", [["1", "20"], ["9", "16"]], available="10")
        plan = self.plan(("LAMP", "100"))
        self.assertEqual((plan["needs"]["TUBE"]["bought"][0]["cost"], plan["needs"]["TUBE"]["quantity"]), ("153", "16.666667"))
        at = f"/buying/plans/{plan['id']}"

        def allow(part: str, instead_of: str = "TUBE", api: Api | None = None) -> tuple[int, Any]:
            version = self.read(plan["id"])["version"]
            return (api or self.buyer).post(f"{at}/allow", {"part": part, "instead_of": instead_of, "version": version})

        self.assertEqual(allow("PIPE", api=Api("engineer"))[0], 403)
        for part, instead_of, words in (
            ("PIPE", "NOSUCH", "no need of this plan"),
            ("NOSUCH", "TUBE", "not known"),
            ("TUBE", "TUBE", "the part itself"),
            ("SCR", "TUBE", "needs SCR itself"),
            ("HOSE", "TUBE", "does not convert"),
        ):
            status, said = allow(part, instead_of)
            self.assertEqual((status, words in said["message"]), (422, True), said)
        self.assertEqual(allow("PIPE")[0], 200)
        self.assertIn("may be bought for TUBE already", allow("PIPE", "SCR")[1]["message"])
        after = self.read(plan["id"])
        need = self.need(after, "TUBE")
        (bought,) = need["bought"]
        self.assertEqual((bought["part"], bought["quantity"], bought["cost"], bought["surplus"]), ("PIPE", "18", "144", "1.333333"))
        looked = next(o for o in need["looked_at"] if o["part"] == "PIPE")
        # In the buying unit of the tube: a long bar is two of them.
        self.assertEqual((looked["breaks"], looked["multiple"], looked["available"]), ([["2", "10"], ["18", "8"]], "2", "20"))
        self.assertEqual([(a["part"], a["itself"]) for a in need["allowed"]], [("PIPE", False)])
        # It is ordered as what it is, in its own unit; and it is no price of the tube's.
        self.assertEqual(self.buyer.post(f"{at}/hold", {"offer": pipe, "quantity": "20", "version": after["version"]})[0], 200)
        after = self.read(plan["id"])
        self.assertEqual(after["needs"]["TUBE"]["bought"][0]["quantity"], "20")
        status, orders = self.buyer.post(f"/orders/of-plan/{plan['id']}", {"version": after["version"]})
        self.assertEqual(status, 200, orders)
        lines = [(x.part.number, x.unit, x.quantity, x.price, x.stock_each) for x in OrderLine.objects.all()]
        self.assertEqual(lines, [("PIPE", "long bar", D(10), D(16), D(6))])
        accountant = Api("accountant")
        a_round = accountant.post("/rounds", {"name": "Next", "first_day": day(60), "scope": "all"})[1]
        self.assertEqual(accountant.post(f"{at}/propose", {"round": a_round["id"]})[0], 422)
        # An offer of what stands in moves the plan like any other.
        self.assertFalse(self.read(plan["id"])["behind"])
        self.offer("PIPE", "Fathom Bolts", [["1", "30"]])
        self.assertTrue(self.read(plan["id"])["behind"])
        version = after["version"]
        status, said = self.buyer.post(f"{at}/disallow", {"part": "PIPE", "version": version})
        self.assertEqual((status, self.read(plan["id"])["needs"]["TUBE"]["bought"][0]["cost"]), (200, "153"), said)
        self.assertEqual(self.buyer.post(f"{at}/disallow", {"part": "PIPE", "version": version + 1})[0], 404)
        self.assertEqual(list(PlanAlternate.history.order_by("pk").values_list("history_type", flat=True)), ["+", "-"])

    def test_what_stands_in_keeps_to_its_own_approved_numbers(self) -> None:
        """Screws are approved of one maker; bolts stand in, approved of another. What the plan needs itself is not shared out."""
        for number in ("BOLT", "NAIL"):
            Part.objects.create(number=number, kind="bought", unit="ea")
        MakerNumber.objects.create(part=Part.objects.get(number="BOLT"), maker_id="Nordry", number="B-7", rank=1)
        self.offer("SCR", "Fathom Bolts", [["1", "0.30"]], maker_number="N-5")
        self.offer("SCR", "Fathom Bolts", [["1", "0.05"]])
        self.offer("SCR", "Fathom Bolts", [["1", "0.05"]], maker_number="B-7")
        self.offer("BOLT", "Kelpie Supply", [["1", "0.10"]], maker_number="X-1")
        self.offer("BOLT", "Kelpie Supply", [["1", "0.20"]], maker_number="B-7")
        self.offer("NAIL", "Kelpie Supply", [["1", "0.25"]])
        plan = self.plan(("LAMP", "100"))
        for number in ("BOLT", "NAIL"):
            version = self.read(plan["id"])["version"]
            status, said = self.buyer.post(f"/buying/plans/{plan['id']}/allow", {"part": number, "instead_of": "SCR", "version": version})
            self.assertEqual(status, 200, said)
        need = self.need(self.read(plan["id"]), "SCR")
        told = {(o["part"], o["maker_number"]): o["ruled_out"] for o in need["looked_at"]}
        own = {("", ""): "not approved", ("", "B-7"): "not approved", ("", "N-5"): ""}
        self.assertEqual(told, own | {("BOLT", "X-1"): "not approved", ("BOLT", "B-7"): "", ("NAIL", ""): ""})
        self.assertEqual([(b["part"], b["price"]) for b in need["bought"]], [("BOLT", "0.2")])
        # A build that takes bolts itself: they serve only that, and the need says so.
        load({"format": "round-tally-bundle", "version": 1, "currency": "EUR", "work_centers": [], "parts": [
            {"number": "RACK", "kind": "made", "unit": "ea", "costing_lot": "10"}], "build_sheets": [
            {"part": "RACK", "status": "released", "lines": [{"item": 10, "part": "BOLT", "quantity": "3"}]}]})  # fmt: skip
        version = self.read(plan["id"])["version"]
        builds = [{"part": "LAMP", "quantity": "100"}, {"part": "RACK", "quantity": "1"}]
        self.buyer.send("PATCH", f"/buying/plans/{plan['id']}", {"builds": builds, "version": version})
        self.buyer.post(f"/buying/plans/{plan['id']}/plan", {})
        need = self.need(self.read(plan["id"]), "SCR")
        self.assertEqual([(b["part"], b["price"]) for b in need["bought"]], [("NAIL", "0.25")])
        self.assertEqual([(a["part"], a["itself"]) for a in need["allowed"]], [("BOLT", True), ("NAIL", False)])
