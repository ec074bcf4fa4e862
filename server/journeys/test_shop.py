"""An order from short to closed, in a real browser: nested, delivered, released, issued, reported at work centers, one of them without a connection."""

from datetime import timedelta
from decimal import Decimal
from uuid import uuid4

from buying.models import OrderLine, PurchaseOrder
from buying.open_quantities import keep_open_quantities
from definition.models.parts import Part, StockWorth
from definition.models.work_centers import FinishedWork
from django.db import transaction
from django.utils.timezone import localdate
from partners.models import Partner
from playwright.sync_api import expect
from shop.models import Entry, WorkOrder
from testing import load, person
from verbs.parts.move_stock import move_stock

from journeys.browser import Journey, answer_lost, keys


def lamp() -> dict:
    """A lamp of a body cut from bar, coated outside, fitted with screws and tested."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "work_centers": [
            {"code": code, "name": name, "labor_rate": "30"} for code, name in (("SAW", "Saw"), ("BENCH", "Bench"), ("TEST", "Test bay"))
        ],
        "parts": [
            {"number": "BAR", "kind": "bought", "unit": "m", "unit_cost": "4"},
            {"number": "SCREW", "kind": "bought", "unit": "ea", "unit_cost": "0.10"},
            {"number": "BODY", "kind": "made", "unit": "ea", "costing_lot": "5", "description": "Body, cut"},
            {"number": "LAMP", "kind": "made", "unit": "ea", "costing_lot": "5", "description": "Lamp, coated"},
        ],
        "build_sheets": [
            {
                "part": "BODY",
                "status": "released",
                "operations": [{"sequence": 10, "name": "Cut", "work_center": "SAW", "run_minutes": "2"}],
                "lines": [{"item": 10, "part": "BAR", "quantity": "1"}],
            },
            {
                "part": "LAMP",
                "status": "released",
                "operations": [
                    {
                        "sequence": 10,
                        "name": "Fit",
                        "work_center": "BENCH",
                        "setup_minutes": "6",
                        "run_minutes": "4",
                        "instructions": "Tighten **crosswise**.",
                    },
                    {"sequence": 20, "name": "Coat", "subcontract": {"supplier": "Quay Coating", "unit_price": "3", "lead_days": 2}},
                    {"sequence": 30, "name": "Test", "work_center": "TEST", "run_minutes": "2"},
                ],
                "lines": [
                    {"item": 10, "part": "BODY", "quantity": "1", "issue_at": 10},
                    {"item": 20, "part": "SCREW", "quantity": "4", "issue_at": 10},
                ],
            },
        ],
    }


class FromShortToClosed(Journey):
    def setUp(self) -> None:
        super().setUp()
        load(lamp())
        engineer = person("engineer")
        move_stock(engineer, "BAR", "2", "counted")
        move_stock(engineer, "SCREW", "100", "counted")
        supplier, _ = Partner.objects.get_or_create(name="Holm Metals")
        self.bought = PurchaseOrder.objects.create(number="PO-2001", supplier=supplier, currency="EUR", state="placed", made_by="buyer")
        OrderLine.objects.create(
            order=self.bought,
            position=1,
            part=Part.objects.get(number="BAR"),
            unit="m",
            quantity=10,
            price=Decimal("4.20"),
            due_on=localdate() + timedelta(days=4),
        )
        with transaction.atomic():
            keep_open_quantities(self.bought, engineer)

    def test_an_order_with_a_nested_one_and_a_part_that_is_short(self) -> None:
        page = self.sign_in("engineer", "/shop")
        page.get_by_role("button", name="Can it be built?").click()
        asked = page.get_by_role("region", name="Can it be built")
        asked.get_by_role("button", name="Part: choose").click()
        keys(page, "LAMP")
        page.get_by_role("option", name="LAMP").first.wait_for()
        keys(page, "Enter")
        expect(asked).to_contain_text("can be built 2 times from what is free. One more lacks BAR.")
        asked.get_by_role("button", name="Close").click()

        page.get_by_role("button", name="New order").click()
        form = page.get_by_role("form", name="A new order")
        form.get_by_role("button", name="Part: choose").click()
        keys(page, "LAMP")
        page.get_by_role("option", name="LAMP").first.wait_for()
        keys(page, "Enter")
        form.get_by_label("How many").fill("5")
        expect(form.get_by_role("button", name="Open the order")).to_be_enabled()

        # The answer is lost on its way: pressed again, the order is the one that was opened, with its one nested order.
        with answer_lost(page, "**/api/shop/orders"):
            keys(page, "Enter")
        expect(form.get_by_role("alert")).to_contain_text("cannot be reached")
        form.get_by_role("button", name="Open the order").click()
        nested = page.get_by_role("region", name="Orders for what it takes")
        expect(nested).to_contain_text("5 ea")
        self.assertEqual(WorkOrder.objects.filter(part__number="LAMP").count(), 1)
        self.check_access(page, "a planned order")

        # The nested order is released, and short of bar until the purchase order comes in.
        nested.get_by_role("link").first.click()
        page.get_by_role("button", name="Release").click()
        takes = page.get_by_role("table", name="Components of the order")
        expect(takes.get_by_role("row").filter(has_text="BAR")).to_contain_text("3 m")
        expect(takes.get_by_role("row").filter(has_text="BAR")).to_contain_text("PO-2001 on")
        body = page.url
        page.goto(f"{self.live_server_url}/orders/{self.bought.pk}")
        page.get_by_label("Came of BAR").fill("10")
        keys(page, "Enter")
        expect(page.get_by_role("status")).to_contain_text("Received")

        # Reported at the end of the day: all of them, in the time they should take.
        page.goto(f"{self.live_server_url}/shop/day")
        page.get_by_role("button", name="5 ea").click()
        page.get_by_label("run, min of").fill("12")
        # What it takes is proposed, and what was really taken is typed over it.
        page.get_by_role("button", name="Cut").click()
        bar = page.get_by_label("BAR taken for")
        expect(bar).to_have_attribute("placeholder", "5")
        bar.fill("5.2")
        expect(page.get_by_text("by the list 5")).to_be_visible()
        self.check_access(page, "the end of the day")
        page.get_by_role("button", name="Report 1 row").click()
        expect(page.get_by_text("Nothing waits to be reported")).to_be_visible()
        page.goto(body)
        page.get_by_role("button", name="Close the order").click()
        expect(page.get_by_role("region", name="What it came to")).to_contain_text("labor efficiency")

        # The order itself: released, its screws issued by the store.
        order = WorkOrder.objects.get(part__number="LAMP")
        page.goto(f"{self.live_server_url}/shop/orders/{order.pk}")
        page.get_by_role("button", name="Release").click()
        expect(page.get_by_role("table", name="Operations of the order")).to_be_visible()
        page.get_by_role("heading", name="5 ea of").click()
        keys(page, "r")
        expect(page.get_by_role("form", name="Report of operation 10").get_by_label("Good")).to_have_value("5")
        keys(page, "Escape")
        expect(page.get_by_role("form", name="Report of operation 10")).to_have_count(0)
        page.get_by_role("button", name="SCREW is taken with what is reported").click()
        expect(page.get_by_role("button", name="SCREW is issued by the store")).to_be_visible()
        page.get_by_label("Issue of SCREW").fill("21")
        keys(page, "Enter")
        expect(takes.get_by_role("row").filter(has_text="SCREW")).to_contain_text("21")

        # At the bench, without a connection: kept, and sent once when it is back.
        page.goto(f"{self.live_server_url}/shop/at/BENCH")
        expect(page.get_by_text("Tighten crosswise.")).to_be_visible()
        page.get_by_label("Name").fill("Ada Brink")
        page.get_by_role("button", name="Begin").click()
        expect(page.get_by_text("by Ada Brink")).to_have_count(2)
        page.get_by_role("button", name="all 5").click()
        page.get_by_label("Run, min").fill("24")
        page.get_by_label("Set-up, min").fill("6")
        self.check_access(page, "a work center")
        page.context.set_offline(True)
        page.get_by_role("button", name="Report 5 good").click()
        expect(page.get_by_role("list", name="Reports that wait")).to_contain_text("kept here until there is a connection")
        self.assertFalse(Entry.objects.filter(order=order, kind="report").exists())
        page.context.set_offline(False)
        expect(page.get_by_role("list", name="Reports that wait")).to_have_count(0)
        expect(page.get_by_text("Nothing waits here.")).to_be_visible()
        self.assertEqual(Entry.objects.filter(order=order, kind="report").count(), 1)
        self.assertEqual(Entry.objects.get(order=order, kind="report").done_by, "Ada Brink")

        # Outside: sent, back, invoiced.
        page.goto(f"{self.live_server_url}/shop/orders/{order.pk}")
        page.get_by_role("button", name="Send, invoice").click()
        page.get_by_role("button", name="Send them").click()
        coat = page.get_by_role("table", name="Operations of the order").get_by_role("row").filter(has_text="Coat")
        expect(coat).to_contain_text("5 here")
        page.get_by_role("button", name="Report operation 20").click()
        keys(page, "Enter")
        expect(coat).to_contain_text("5 of 5")
        page.get_by_role("button", name="Send, invoice").click()
        page.get_by_label("Invoiced").fill("17,50")
        keys(page, "Enter")
        ledger = page.get_by_role("region", name="Ledger")
        expect(ledger).to_contain_text("20: invoiced")

        # Tested with one scrapped, found by its card's code; a foreign code is none of ours.
        page.goto(f"{self.live_server_url}/shop/at/TEST")
        expect(page.get_by_role("heading", name="Test bay")).to_be_visible()
        page.get_by_label("Scan a card").fill("PART-99")
        keys(page, "Enter")
        expect(page.get_by_role("alert")).to_contain_text("PART-99 does not wait at Test bay.")
        page.get_by_label("Scan a card").fill(f"{order.number}-30")
        keys(page, "Enter")
        for _ in range(4):
            page.get_by_role("button", name="One more Good").click()
        page.get_by_role("button", name="One more Scrap").click()
        page.get_by_role("button", name="dropped").click()
        page.get_by_label("Run, min").fill("10")
        page.get_by_role("button", name="Report 4 good, 1 scrap").click()
        expect(page.get_by_text("Nothing waits here.")).to_be_visible()

        # What it came to, by hand: one screw beyond 20, 24 for 20 minutes at 30, 17.50 for 15, one of five lost.
        page.goto(f"{self.live_server_url}/shop/orders/{order.pk}")
        page.get_by_role("button", name="Close the order").click()
        expect(page.get_by_role("button", name="Close the order")).to_have_count(0)
        came = page.get_by_role("region", name="What it came to")
        expect(came).to_contain_text("4 good units")
        for cause, amount in (("material usage", "+0.10"), ("labor efficiency", "+2.00"), ("outside price", "+2.50"), ("lot", "+0.60")):
            expect(came.get_by_role("button", name=cause)).to_contain_text(amount)
        came.get_by_role("button", name="outside price").click()
        expect(came).to_contain_text("invoiced 17.5")
        self.check_access(page, "what an order came to")
        order.refresh_from_db()
        worth = sum(map(Decimal, StockWorth.objects.get(part__number="LAMP").elements.values()))
        self.assertAlmostEqual(worth, order.spent, 6)
        self.assertEqual(FinishedWork.objects.get(part__number="LAMP", sequence=10).run_minutes, 24)
        # Nothing more is reported on it.
        expect(page.get_by_role("button", name="Reverse")).to_have_count(0)

    def test_a_report_that_was_wrong_is_reversed(self) -> None:
        from shop.actions.open_order import open_order
        from shop.actions.release_order import release_order
        from shop.actions.report_work import Report, report_work

        engineer = person("engineer")
        order = open_order(engineer, "BODY", "2", nest=False)
        release_order(engineer, order.pk, order.version)
        report_work(engineer, order.pk, uuid4(), Report(10, "2", run_minutes="4"))
        page = self.sign_in("shop", f"/shop/orders/{order.pk}")
        page.get_by_role("button", name="Reverse").click()
        page.get_by_label("Why it is reversed").fill("another order was meant")
        keys(page, "Enter")
        expect(page.get_by_role("region", name="Ledger")).to_contain_text("another order was meant")
        expect(page.get_by_role("table", name="Components of the order").get_by_role("row").filter(has_text="BAR")).to_contain_text("2 m")
        self.assertEqual(StockWorth.objects.get(part__number="BAR").quantity, 2)
        self.assertEqual(StockWorth.objects.get(part__number="BODY").quantity, 0)
