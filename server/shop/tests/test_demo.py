"""The demo's orders come out of the rules: balances hold, and what it is to show is there."""

from demo.load_demo import load_demo
from django.test import TestCase

from shop.models import WorkOrder
from shop.reads import shown_orders
from shop.tests.floor import Shop


class OfTheDemo(TestCase):
    check_balance = Shop.check_balance

    def test_three_months_of_orders(self) -> None:
        load_demo(orders=True)
        self.check_balance()
        rows = shown_orders("open")
        self.assertEqual(sum(1 for r in rows if r["state"] == "running"), 2)
        self.assertEqual(sum(1 for r in rows if r["late"]), 1)
        self.assertEqual(sum(1 for r in rows if r["short"]), 1)
        self.assertGreaterEqual(sum(1 for r in rows if r["parent"]), 1)
        closed = WorkOrder.objects.filter(state="closed")
        self.assertGreater(closed.count(), 25)
        for order in closed:
            told = order.came_to
            assert told is not None
            self.assertEqual(sum(float(c["amount"]) for c in told["causes"]).__round__(6), float(told["difference"]))
