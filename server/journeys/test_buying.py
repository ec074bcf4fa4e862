"""Buying in a real browser: an inquiry priced at two quantities, a choice by hand, a quote; then an order that comes in two parts."""

import re
from decimal import Decimal
from typing import Any

from buying.models import PurchaseOrder, Quote
from buying.tests.lamps import SCREWS, day, lamps, screw_services
from definition.models.parts import Part, StockMove
from django.core import mail
from inquiries.models import ListLine
from outside.tests.standing import switch
from playwright.sync_api import Page, expect
from testing import Api, load

from journeys.browser import Journey, answer_lost, keys
from standins.suppliers import Server


class Buying(Journey):
    def setUp(self) -> None:
        super().setUp()
        load(lamps(labor=True))
        self.buyer = Api("buyer")
        self.offer("SCR", "Fathom Bolts", [["1", "0.10"], ["1000", "0.04"]], maker_number="N-5")
        self.offer("SCR", "Kelpie Supply", [["1", "0.12"]], maker_number="N-5")

    def offer(self, part: str, supplier: str, breaks: list[list[str]], **more: str) -> None:
        status, answer = self.buyer.post("/buying/offers", {"part": part, "supplier": supplier, "breaks": breaks, **more})
        self.assertEqual(status, 200, answer)

    def asked(self) -> int:
        """An inquiry for 100 and 400 lamps: a list of one line, held for ours."""
        inquiry = self.buyer.post("/inquiries", {"title": "Pier lamps", "customer": "Quay Trust"})[1]["id"]
        self.buyer.upload("list.csv", b"Part number;Description;Quantity\nQT-1;Lamp;1\n", f"/inquiries/{inquiry}/files")
        line = ListLine.objects.get(said__part="QT-1")
        self.buyer.post(f"/inquiries/{inquiry}/decisions", [{"line": line.pk, "seen": line.stamp, "verb": "take", "part": "LAMP"}])
        builds: list[dict[str, Any]] = [{"line": line.pk, "quantity": q, "wanted_by": None} for q in ("100", "400")]
        self.buyer.send("PUT", f"/inquiries/{inquiry}/builds", builds)
        return inquiry

    def planned(self, page: Page, words: str) -> None:
        expect(page.get_by_role("region", name="What the plan comes to")).to_contain_text(words)

    def test_an_inquiry_is_priced_at_two_quantities_and_quoted(self) -> None:
        inquiry = self.asked()
        page = self.sign_in("buyer", f"/inquiries/{inquiry}")
        page.get_by_role("button", name="Builds 2").click()
        # The line that is held for ours is what is built, not the name of the list.
        expect(page.get_by_label("Product of build 1").locator("option:checked")).to_have_text("LAMP")
        page.get_by_role("button", name="Plan the buying of each").click()
        table = page.get_by_role("table", name="Buy plans")
        expect(table.get_by_text("not planned")).to_have_count(0)
        expect(table.get_by_role("row").filter(has_text="100 × LAMP")).to_contain_text("40.00")
        self.check_access(page, "the plans of an inquiry")
        page.get_by_role("button", name=re.compile(r"^B\d+$")).last.press("Enter")

        # 520 screws: 1000 at 0.04 are 40.00, just 520 would be 52.00. Nobody offers tube.
        grid = page.get_by_role("grid", name="Needs of the plan")
        expect(grid.get_by_role("row").nth(1)).to_contain_text("no offer")
        expect(grid).to_be_focused()
        keys(page, "o")
        expect(page.get_by_label("Supplier", exact=True)).to_be_focused()
        keys(page, "Holm Metals")
        page.get_by_label("Price 1", exact=True).fill("30")
        page.get_by_role("button", name="Keep the offer").press("Enter")
        self.planned(page, "550.00")
        aside = page.get_by_role("complementary", name="The need and its offers")
        expect(aside).to_contain_text("17 at 30.00 = 510.00")
        grid.focus()
        grid.get_by_role("row").filter(has_text="SCR").click()
        expect(aside).to_contain_text("1\u202f000 cost 40.00, just 520 would cost 52.00")
        expect(aside.get_by_role("img", name=re.compile(r"^Price ladder. Needed: 520. Bought: 1\s000 from Fathom Bolts"))).to_be_visible()
        self.check_access(page, "a buy plan")

        # The second offer by its digit: 520 × 0.12 = 62.40, 22.40 more.
        keys(page, "2")
        self.planned(page, "the choices by hand cost 22.40")
        keys(page, "Delete")
        expect(page.get_by_text("the choices by hand")).to_have_count(0)
        self.planned(page, "550.00")
        keys(page, "g")
        page.get_by_role("checkbox", name="Fathom Bolts").click()
        page.get_by_role("button", name="Plan within these").click()
        self.planned(page, "572.40")
        expect(page.get_by_text("without Fathom Bolts")).to_be_visible()
        keys(page, "g")
        page.get_by_role("checkbox", name="Fathom Bolts").click()
        page.get_by_role("button", name="Plan within these").click()
        self.planned(page, "550.00")

        # Pipe may stand in for tube, in this plan alone: 9 long bars of 6 m at 50.00 for 17 of 3 m at 30.00, 60.00 less.
        Part.objects.create(number="PIPE", kind="bought", unit="m", buying_unit="long bar", stock_per_buying_unit=6)
        self.offer("PIPE", "Kelpie Supply", [["1", "50"]])
        grid.get_by_role("row").filter(has_text="TUBE").click()
        aside.get_by_role("button", name="Another part: choose").click()
        keys(page, "PIPE", "Enter")
        self.planned(page, "490.00")
        expect(aside.get_by_role("region", name="In its place")).to_contain_text("PIPE")
        expect(aside.get_by_role("region", name="Offers")).to_contain_text("bought: 18 at 25.00 = 450.00")
        expect(grid.get_by_role("row").filter(has_text="TUBE")).to_contain_text("PIPE from Kelpie Supply")
        self.check_access(page, "a part that stands in")
        aside.get_by_role("button", name="no longer").click()
        self.planned(page, "550.00")

        # The other quantity is behind: 400 lamps have no tube yet.
        page.goto(f"{self.live_server_url}/buying?inquiry={inquiry}")
        page.get_by_role("row").filter(has_text="400 × LAMP").get_by_role("button").click()
        expect(grid.get_by_role("row").nth(1)).to_contain_text("no offer")
        page.get_by_role("button", name="Plan anew").click()
        # 2080 screws at 0.04 are 83.20, 67 bars at 30.00 are 2010.00.
        self.planned(page, "2\u202f093.20")
        page.goto(f"{self.live_server_url}/buying?inquiry={inquiry}")
        # The answer is lost on its way: pressed again, it is the quote that was made.
        with answer_lost(page, "**/api/quotes/of-inquiry/*"):
            page.get_by_role("button", name="Quote these quantities").click()
        expect(page.get_by_role("alert")).to_contain_text("cannot be reached")
        page.get_by_role("button", name="Quote these quantities").click()
        prices = page.get_by_role("table", name="Costs and prices")
        # 100: 550 for material, 100 for labor, 30 for set-up: 6.80 each.
        expect(prices.get_by_role("row").filter(has_text="price of one")).to_contain_text("6.80")
        page.get_by_label("Added over all").fill("25")
        page.get_by_label("Added over all").press("Enter")
        expect(prices.get_by_role("row").filter(has_text="price of one")).to_contain_text("8.50")
        expect(prices.get_by_role("row").filter(has_text="margin")).to_contain_text("20.0 %")
        page.get_by_role("button", name="Another one").click()
        page.get_by_label("What is paid once, 1", exact=True).fill("jig")
        page.get_by_label("Amount paid once, 1", exact=True).fill("50")
        page.get_by_label("in the price").check()
        page.get_by_role("button", name="Keep them").click()
        expect(prices.get_by_role("row").filter(has_text="price of one")).to_contain_text("9.00")
        self.check_access(page, "a quote")
        page.get_by_role("button", name="It was sent").click()
        expect(page.get_by_text(re.compile("^sent .* by buyer$"))).to_be_visible()
        expect(page.get_by_label("Added over all")).to_be_disabled()
        self.assertEqual(Quote.objects.get().state, "sent")

    def test_what_has_no_price_is_asked_for_and_the_answer_is_planned_with(self) -> None:
        self.buyer.post("/partners", {"name": "Holm Metals", "supplier": True, "code": "HM", "mail": "yard@holm.example"})
        plan = self.buyer.post("/buying/plans", {"title": "Spring", "builds": [{"part": "LAMP", "quantity": "100"}]})[1]["id"]
        page = self.sign_in("buyer", f"/buying/{plan}")
        expect(page.get_by_role("grid", name="Needs of the plan")).to_be_focused()
        keys(page, "q")
        panel = page.get_by_role("dialog", name="Ask suppliers")
        expect(panel.get_by_label("TUBE")).to_be_checked()
        expect(panel.get_by_label("SCR")).not_to_be_checked()
        panel.get_by_label("Holm Metals").check()
        panel.get_by_label("Answer wanted by").fill(day(6))
        panel.get_by_role("button", name="Make the draft").click()
        letter = panel.get_by_label("The mail to Holm Metals")
        expect(letter).to_have_value(re.compile("17 bar of TUBE, Tube"))
        self.check_access(page, "a request for quotation")
        self.assertEqual(len(mail.outbox), 0)
        letter.fill("Two bars are always welcome as a sample.")
        panel.get_by_role("button", name="Send it").click()
        expect(panel.get_by_text(re.compile("sent .*, wanted by"))).to_be_visible()
        self.assertEqual([(m.to, m.body) for m in mail.outbox], [(["yard@holm.example"], "Two bars are always welcome as a sample.")])
        # The answer is brought where all requests stand; the plan is made anew with it.
        page.goto(f"{self.live_server_url}/requests")
        page.get_by_role("row").filter(has_text="Holm Metals").get_by_role("button").first.click()
        panel = page.get_by_role("dialog")
        self.check_access(page, "the list of requests")
        answer = {"name": "back.csv", "mimeType": "text/csv", "buffer": b"Part;From;Price;Lead days\nTUBE;1;28;5\n"}
        panel.get_by_label("The answer of Holm Metals").set_input_files(answer)
        expect(panel.get_by_text(re.compile("^answered "))).to_be_visible()
        panel.get_by_role("link", name="To its plan").click()
        # 17 bars at 28.00 and the screws at 40.00.
        self.planned(page, "516.00")

    def test_services_are_asked_while_one_is_down(self) -> None:
        """Both suppliers' services by the screen: one is down and said so, the other's price is planned with; then both; rates from the feed."""
        for name in ("Holm Metals", "Overseas"):
            self.buyer.post("/partners", {"name": name, "supplier": True, "currency": "USD" if name == "Overseas" else ""})
        with screw_services(Server(0, SCREWS)) as at:
            page = self.sign_in("buyer", "/partners")
            for name, service in (("Holm Metals", "holm prices"), ("Fathom Bolts", "fathom prices")):
                page.get_by_role("row").filter(has_text=name).get_by_role("button").first.click()
                page.get_by_label("Asked by").select_option(label=service)
                page.get_by_role("button", name="Save the terms").click()
                expect(page.get_by_role("button", name="Save the terms")).to_be_disabled()
                page.keyboard.press("Escape")
            # A price list with titles of its own: which column holds what is said, and then it is kept.
            page.get_by_role("row").filter(has_text="Overseas").get_by_role("button").first.click()
            prices = page.get_by_role("region", name="Price list")
            file = {"name": "list.csv", "mimeType": "text/csv", "buffer": b"Unser Typ;Staffel;Preis\nN 5;1;0.30\nN-5;100;0.25\n"}
            prices.get_by_label("A price list as").set_input_files(file)
            expect(prices.get_by_text("the list needs a column price")).to_be_visible()
            for title, holds in (("Unser Typ", "maker's number"), ("Staffel", "from this quantity"), ("Preis", "price")):
                prices.get_by_label(f"What {title} holds").select_option(label=holds)
            prices.get_by_role("button", name="Read it so").click()
            self.check_access(page, "a price list")
            prices.get_by_role("button", name="Keep it").click()
            expect(prices.get_by_text("Kept 1 offer.")).to_be_visible()
            page.keyboard.press("Escape")
            switch(at, "fathom", "down")
            plan = self.buyer.post("/buying/plans", {"title": "Spring", "builds": [{"part": "LAMP", "quantity": "100"}]})[1]["id"]
            page.goto(f"{self.live_server_url}/buying/{plan}")
            self.planned(page, "40.00")
            page.get_by_role("button", name="Ask suppliers").click()
            services = page.get_by_role("region", name="By their services")
            expect(services.get_by_text("1 of 1 to ask")).to_have_count(2)
            services.get_by_role("button", name="Ask them").click()
            expect(services.get_by_role("alert")).to_contain_text("Fathom Bolts: 1 of 1 calls came to nothing: the service answered 503")
            expect(services.get_by_text("all 1 known")).to_have_count(1)
            self.check_access(page, "asking suppliers")
            switch(at, "fathom", "well")
            services.get_by_role("button", name="Ask them").click()
            expect(services.get_by_text("all 1 known")).to_have_count(2)
            expect(services.get_by_role("alert")).to_have_count(0)
            page.keyboard.press("Escape")
            page.get_by_role("row").filter(has_text="SCR").click()
            aside = page.get_by_role("complementary", name="The need and its offers")
            expect(aside).to_contain_text("service holm")
            expect(aside).to_contain_text("service fathom")
            page.goto(f"{self.live_server_url}/buying")
            page.get_by_role("button", name="Rates").click()
            page.get_by_role("button", name="Take what is new").click()
            expect(page.get_by_text("from the feed, buyer").first).to_be_visible()

    def test_a_plan_becomes_orders_that_come_in_two_parts(self) -> None:
        self.offer("TUBE", "Holm Metals", [["1", "30"]], lead_days="9")
        page = self.sign_in("buyer", "/buying")
        page.get_by_role("button", name="New buy plan").first.click()
        keys(page, "Spring")
        page.get_by_role("button", name="a product to build").click()
        keys(page, "LAMP", "Enter")
        page.get_by_label("How many").fill("100")
        page.get_by_label("Material by").fill(day(20))
        page.get_by_role("button", name="Plan it").click()
        self.planned(page, "proven the cheapest")
        page.get_by_role("button", name="Order it").click()
        expect(page.get_by_role("status").filter(has_text="Made 2 orders")).to_be_visible()
        page.get_by_role("row").filter(has_text="Holm Metals").get_by_role("button").click()
        lines = page.get_by_role("table", name="Lines of the order")
        page.get_by_label("Price of TUBE").fill("29.50")
        page.get_by_role("button", name="Save the lines").click()
        expect(lines).to_contain_text("501.50")
        self.check_access(page, "a draft of an order")
        page.get_by_role("button", name="Place the order").click()
        page.get_by_label("Came of TUBE").fill("10")
        page.get_by_label("Their delivery note").fill("L 9")
        page.get_by_role("button", name="Take in what came").press("Enter")
        expect(lines).to_contain_text("10 came, 7 to come")
        self.check_access(page, "an order half received")

        # The shop takes in the rest; it may not cancel or close.
        shop = self.sign_in("shop", page.url.removeprefix(self.live_server_url))
        expect(shop.get_by_role("button", name="Cancel it")).to_have_attribute("aria-disabled", "true")
        shop.get_by_role("button", name="all that is to come").click()
        shop.get_by_role("button", name="Take in what came").click()
        expect(shop.get_by_text("received", exact=True)).to_be_visible()
        self.assertEqual([o.state for o in PurchaseOrder.objects.order_by("id")], ["draft", "done"])
        self.assertEqual(sum(StockMove.objects.values_list("quantity", flat=True)), Decimal(51))
        shop.get_by_role("link", name="TUBE").click()
        expect(shop.get_by_role("region", name="Stock and open orders")).to_contain_text("51")
        expect(shop.get_by_role("region", name="Offers")).to_contain_text("30.00 from 1 EUR per bar")
        self.check_access(shop, "a part with its offers")

        # Whoever only looks sees the plan and changes nothing.
        viewer = self.sign_in("viewer", "/buying")
        viewer.get_by_role("button", name=re.compile(r"^B\d+$")).click()
        expect(viewer.get_by_role("button", name="Order it")).to_have_attribute("aria-disabled", "true")
