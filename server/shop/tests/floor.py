"""What the tests of orders share: orders that are released, reports, stock, and the balance of the ledger."""

from decimal import Decimal
from typing import Any
from uuid import uuid4

from definition.models.parts import StockWorth
from django.db.models import Sum
from django.test import TestCase
from tally_core.basics.errors import ProblemsError, TallyError
from testing import person
from verbs.parts.move_stock import move_stock

from shop.actions.open_order import open_order
from shop.actions.release_order import release_order
from shop.actions.report_work import Report, report_work
from shop.models import Entry, WorkOrder

ZERO = Decimal(0)


class Shop(TestCase):
    def setUp(self) -> None:
        self.shop = person("shop")

    def released(self, part: str, quantity: str, **more: Any) -> WorkOrder:
        order = open_order(self.shop, part, quantity, **({"nest": False} | more))
        return release_order(self.shop, order.pk, order.version)

    def report(self, order: WorkOrder, sequence: int, good: str, **more: Any) -> Entry:
        key = more.pop("key", None) or uuid4()
        told = {name: more.pop(name) for name in ("at", "done_by", "center") if name in more}
        return report_work(self.shop, order.pk, key, Report(sequence, good, **more), **told)

    def stock(self, **counts: str) -> None:
        for number, quantity in counts.items():
            move_stock(self.shop, number.replace("_", "-"), quantity, "counted")

    def refused(self, words: str, act: Any) -> None:
        entries = Entry.objects.count()
        with self.assertRaises((ProblemsError, TallyError)) as met:
            act()
        problems = getattr(met.exception, "problems", None)
        self.assertIn(words, " ".join(p.message for p in problems) if problems else str(met.exception))
        self.assertEqual(Entry.objects.count(), entries)

    def check_balance(self) -> None:
        """Stock and its worth are the sums of the ledger, nowhere below nothing, and a closed order comes out at nothing."""
        for worth in StockWorth.objects.select_related("part"):
            sums = worth.part.moves.aggregate(quantity=Sum("quantity"), value=Sum("value"))
            self.assertEqual(worth.quantity, sums["quantity"], worth.part.number)
            self.assertEqual(sum((Decimal(x) for x in worth.elements.values()), ZERO), sums["value"], worth.part.number)
            self.assertGreaterEqual(worth.quantity, 0)
        for order in WorkOrder.objects.all():
            rows = order.postings.all()
            cost = sum((p.value for p in rows if p.kind not in ("receipt", "rest")), ZERO)
            self.assertEqual(order.spent, cost)
            self.assertEqual(order.good, sum((p.quantity for p in rows if p.kind == "receipt"), ZERO))
            if order.state == "closed":
                self.assertEqual(sum((p.value for p in rows), ZERO), 0)
