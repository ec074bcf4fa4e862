"""From a plan to orders, placed and received in parts: stock moves with it, and nothing is ordered twice."""

import csv
import io
from decimal import Decimal as D
from typing import Any
from xml.etree import ElementTree as ET

from definition.models.parts import OpenOrder, Part, StockMove
from definition.stock_levels import stock_levels
from pypdf import PdfReader
from testing import Api

from buying.models import PurchaseOrder, Receipt

from .lamps import Lamps, day

_CBC = "{urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2}"


class Orders(Lamps):
    def ordered(self) -> tuple[dict[str, Any], list[dict[str, Any]]]:
        """100 lamps: 520 screws in packs of 100 at 0.10, and 17 bars at 30 with freight 25."""
        self.offer(
            "SCR", "Fathom Bolts", [["1", "0.10"]], maker="Nordry", maker_number="N-5", multiple="100", lead_days="7", their_number="FB-5"
        )
        self.offer("TUBE", "Holm Metals", [["1", "30"]], lead_days="12")
        self.terms("Holm Metals", freight="25")
        plan = self.plan()
        status, made = self.buyer.post(f"/orders/of-plan/{plan['id']}", {"version": plan["version"]})
        self.assertEqual(status, 200, made)
        return plan, [self.buyer.get(f"/orders/{key}")[1] for key in made["orders"]]

    def test_prices_of_before_are_not_ordered(self) -> None:
        old = self.offer("SCR", "Fathom Bolts", [["1", "0.10"]], maker_number="N-5")
        plan = self.plan(("BOX", "10"))
        self.buyer.post(f"/buying/offers/{old}/let-go", {})
        status, answer = self.buyer.post(f"/orders/of-plan/{plan['id']}", {"version": plan["version"]})
        self.assertEqual((status, "offers for it came or went since" in answer["message"]), (422, True))
        # An offer for something else moves nothing here.
        self.offer("SCR", "Fathom Bolts", [["1", "0.12"]], maker_number="N-5")
        self.buyer.post(f"/buying/plans/{plan['id']}/plan", {})
        self.offer("TUBE", "Fathom Bolts", [["1", "9"]])
        plan = self.read(plan["id"])
        self.assertEqual((plan["behind"], self.buyer.post(f"/orders/of-plan/{plan['id']}", {"version": plan["version"]})[0]), (False, 200))

    def test_a_plan_becomes_an_order_for_each_supplier_and_only_once(self) -> None:
        plan, (screws, tube) = self.ordered()
        self.assertEqual([o["supplier"] for o in (screws, tube)], ["Fathom Bolts", "Holm Metals"])
        (line,) = screws["rows"]
        self.assertEqual((line["quantity"], D(line["price"]), line["their_number"], line["due_on"]), ("600", D("0.1"), "FB-5", day(7)))
        self.assertEqual(
            (D(tube["goods"]), tube["freight"], tube["rows"][0]["unit"], tube["rows"][0]["stock_each"]), (D(510), "25", "bar", "3")
        )
        total = sum(D(o["goods"]) + D(o["freight"]) + D(o["charge"]) for o in (screws, tube))
        self.assertEqual(total, D(plan["total"]))
        self.assertEqual(OpenOrder.objects.count(), 0, "a draft is no order yet")
        status, answer = self.buyer.post(f"/orders/of-plan/{plan['id']}", {"version": plan["version"]})
        self.assertEqual((status, "ordered already" in str(answer)), (422, True), answer)
        self.assertEqual(PurchaseOrder.objects.count(), 2)

    def test_placed_received_in_two_parts_and_done(self) -> None:
        _, (_, tube) = self.ordered()
        at = f"/orders/{tube['id']}"
        status, placed = self.buyer.post(f"{at}/place", {"version": tube["version"]})
        self.assertEqual((status, placed["state"]), (200, "placed"))
        # 17 bars of 3 m.
        self.assertEqual(
            OpenOrder.objects.values_list("part__number", "order", "quantity", "kept").get(), ("TUBE", tube["number"], D(51), True)
        )
        level = stock_levels(Part.objects.filter(number="TUBE"))
        self.assertEqual([one.on_order for one in level.values()], [D(51)])
        shop = Api("shop")
        line = placed["rows"][0]["id"]
        status, part = shop.post(
            f"{at}/receive", {"version": placed["version"], "came": [{"line": line, "quantity": "10"}], "slip": "L 77"}
        )
        self.assertEqual((status, part["rows"][0]["to_come"], part["state"], part["told"]), (200, "7", "placed", []), part)
        self.assertEqual(StockMove.objects.values_list("quantity", "reason").get(), (D(30), f"received, {tube['number']}, slip L 77"))
        self.assertEqual(OpenOrder.objects.get().quantity, D(21))
        stale = shop.post(f"{at}/receive", {"version": placed["version"], "came": [{"line": line, "quantity": "10"}]})
        self.assertEqual(stale[0], 422, "who saw it before the first receipt does not receive it twice")
        status, done = shop.post(f"{at}/receive", {"version": part["version"], "came": [{"line": line, "quantity": "8"}]})
        self.assertEqual((done["state"], done["told"]), ("done", ["TUBE: 1 bar more than ordered"]))
        self.assertEqual(
            (OpenOrder.objects.count(), Receipt.objects.count(), sum(StockMove.objects.values_list("quantity", flat=True))), (0, 2, D(54))
        )

    def test_cancelled_with_a_reason_what_came_stays(self) -> None:
        _, (screws, _) = self.ordered()
        at = f"/orders/{screws['id']}"
        placed = self.buyer.post(f"{at}/place", {"version": screws["version"]})[1]
        line = placed["rows"][0]["id"]
        part = self.buyer.post(f"{at}/receive", {"version": placed["version"], "came": [{"line": line, "quantity": "100"}]})[1]
        self.assertEqual(self.buyer.post(f"{at}/cancel", {"version": part["version"], "reason": " "})[0], 422)
        gone = self.buyer.post(f"{at}/cancel", {"version": part["version"], "reason": "they cannot deliver"})[1]
        self.assertEqual((gone["state"], gone["reason"], OpenOrder.objects.count()), ("cancelled", "they cannot deliver", 0))
        self.assertEqual(StockMove.objects.get().quantity, D(100))
        again = self.buyer.post(f"{at}/receive", {"version": gone["version"], "came": [{"line": line, "quantity": "1"}]})
        self.assertEqual(again[0], 422)

    def test_a_line_of_which_nothing_more_comes_is_closed(self) -> None:
        _, (screws, _) = self.ordered()
        placed = self.buyer.post(f"/orders/{screws['id']}/place", {"version": screws["version"]})[1]
        at = f"/orders/{screws['id']}/lines/{placed['rows'][0]['id']}/close"
        status, closed = self.buyer.post(at, {"version": placed["version"]})
        self.assertEqual((status, closed["state"], closed["rows"][0]["closed"], OpenOrder.objects.count()), (200, "done", True, 0))

    def test_a_draft_is_changed_and_a_placed_one_is_not(self) -> None:
        _, (screws, _) = self.ordered()
        at, line = f"/orders/{screws['id']}", screws["rows"][0]["id"]
        wrong = [{"line": line, "quantity": "x", "price": "-1", "due_on": "soon"}]
        status, answer = self.buyer.send("PATCH", at, {"version": screws["version"], "lines": wrong})
        self.assertEqual(
            (status, [p["place"] for p in answer["problems"]]), (422, ["lines[0].quantity", "lines[0].price", "lines[0].due_on"])
        )
        body = {"version": screws["version"], "lines": [{"line": line, "quantity": "700", "price": "0,09", "due_on": day(9)}]}
        changed = self.buyer.send("PATCH", at, body)[1]
        self.assertEqual((changed["rows"][0]["quantity"], changed["rows"][0]["price"], D(changed["goods"])), ("700", "0.09", D(63)))
        two = {"version": changed["version"], "lines": [{"line": line, "quantity": "1,000"}]}
        self.assertEqual(self.buyer.send("PATCH", at, two)[0], 422, "a thousand, or one")
        nothing = {"version": changed["version"], "lines": [{"line": line, "quantity": "0"}]}
        self.assertEqual(self.buyer.send("PATCH", at, nothing)[0], 422)
        placed = self.buyer.post(f"{at}/place", {"version": changed["version"]})[1]
        self.assertEqual(self.buyer.send("PATCH", at, {"version": placed["version"], "lines": []})[0], 422)
        self.assertEqual(self.buyer.post(f"{at}/place", {"version": placed["version"]})[0], 422)

    def test_what_an_order_refuses_is_known_beforehand(self) -> None:
        """In every state the order says what the actions themselves say."""
        _, (screws, tube) = self.ordered()
        line, other = screws["rows"][0]["id"], tube["rows"][0]["id"]
        told = {}
        for state in ("draft", "placed", "done", "cancelled"):
            if state == "placed":
                screws = self.buyer.post(f"/orders/{screws['id']}/place", {"version": screws["version"]})[1]
            elif state == "done":
                screws = self.buyer.post(f"/orders/{screws['id']}/lines/{line}/close", {"version": screws["version"]})[1]
            elif state == "cancelled":
                screws, line = (self.buyer.post(f"/orders/{tube['id']}/cancel", {"version": tube["version"], "reason": "no"})[1], other)
            self.assertEqual(screws["state"], state)
            at, version = f"/orders/{screws['id']}", {"version": screws["version"]}
            tried = self.buyer.refusals(
                {
                    "change": ("PATCH", at, version | {"lines": []}),
                    "place": ("POST", f"{at}/place", version),
                    "cancel": ("POST", f"{at}/cancel", version | {"reason": "x"}),
                    "receive": ("POST", f"{at}/receive", version | {"came": [{"line": line, "quantity": "1"}]}),
                    "close_line": ("POST", f"{at}/lines/{line}/close", version),
                }
            )
            self.assertEqual(tried, screws["why_not"], state)
            told[state] = sorted(action for action, words in screws["why_not"].items() if words is None)
        self.assertEqual(
            told,
            {"draft": ["cancel", "change", "place"], "placed": ["cancel", "close_line", "receive"], "done": ["receive"], "cancelled": []},
        )

    def test_one_part_is_ordered_by_hand(self) -> None:
        offer = self.offer("TUBE", "Holm Metals", [["5", "30"]])
        few = self.buyer.post("/orders/of-part", {"part": "TUBE", "offer": offer, "quantity": "4"})
        self.assertEqual((few[0], few[1]["problems"][0]["place"]), (422, "quantity"))
        status, made = self.buyer.post("/orders/of-part", {"part": "TUBE", "offer": offer, "quantity": "6"})
        order = self.buyer.get(f"/orders/{made['orders'][0]}")[1]
        self.assertEqual((status, order["state"], D(order["goods"])), (200, "draft", D(180)))

    def test_a_list_does_not_change_what_an_order_of_ours_keeps(self) -> None:
        _, (screws, _) = self.ordered()
        self.buyer.post(f"/orders/{screws['id']}/place", {"version": screws["version"]})
        rows = [["order", "part", "open"], [screws["number"], "SCR", "1"]]
        status, answer = self.buyer.post("/parts/open-orders", {"rows": rows})
        self.assertEqual((status, "is an order of ours" in answer["problems"][0]["message"]), (422, True))
        self.assertEqual(OpenOrder.objects.get().quantity, D(600))

    def test_the_papers_say_the_same(self) -> None:
        self.buyer.send(
            "PATCH", "/partners/ourselves", {"firm": "Tern & Pier", "firm_address": "Quay 4\nNorthquay", "firm_mail": "buy@tern.example"}
        )
        _, (_, tube) = self.ordered()
        paper = f"/orders/{tube['id']}/paper"
        text = "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(self.buyer.get(f"{paper}/pdf")[1])).pages)
        for words in (
            tube["number"],
            "Tern & Pier, Quay 4, Northquay, buy@tern.example",
            "Holm Metals",
            "TUBE",
            "510.00",
            "25.00",
            "535.00",
        ):
            self.assertIn(words, text)
        (row,) = csv.DictReader(io.StringIO(self.buyer.get(f"{paper}/csv")[1].decode()))
        self.assertEqual((row["part"], row["quantity"], row["unit"], row["price"]), ("TUBE", "17", "bar", "30"))
        root = ET.fromstring(self.buyer.get(f"{paper}/xml")[1])
        self.assertEqual([e.text for e in root.iter(f"{_CBC}PayableAmount")], ["535.00"])
        self.assertEqual(
            [e.text for e in root.iter(f"{_CBC}Name") if e.text in ("Tern & Pier", "Holm Metals")], ["Tern & Pier", "Holm Metals"]
        )
        self.assertEqual(self.buyer.get(f"{paper}/exe")[0], 404)

    def test_the_list_of_orders_takes_two_queries_more_than_nothing(self) -> None:
        self.ordered()
        with self.assertNumQueries(4):
            listed = self.buyer.get("/orders")[1]
        self.assertEqual([o["state"] for o in listed], ["draft", "draft"])
