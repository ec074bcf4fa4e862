"""Many at once, twice the same, and broken off in the middle: nothing lost, nothing double, never less than nothing in the store."""

import os
import signal
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from decimal import Decimal
from unittest.mock import patch
from uuid import uuid4

from definition.models.parts import StockMove, StockWorth
from django.db import connection
from django.db.models import Sum
from django.test import TestCase, TransactionTestCase
from django.test.utils import CaptureQueriesContext
from tally_core.basics.errors import ProblemsError
from testing import Api, load, person, rod_and_tube
from verbs.parts.move_stock import move_stock

from shop.actions.build_at_once import build_at_once
from shop.actions.issue_components import Issue, issue_components
from shop.actions.open_order import open_order
from shop.actions.release_order import release_order
from shop.actions.report_work import Report, report_work
from shop.models import Entry, Posting, WorkOrder


def at_once(count: int, act: Callable[[int], str]) -> list[str]:
    """What each of some threads came to, each over a connection of its own."""

    def run(n: int) -> str:
        try:
            return act(n)
        except ProblemsError as error:
            return error.problems[0].message
        finally:
            connection.close()

    with ThreadPoolExecutor(count) as threads:
        return list(threads.map(run, range(count)))


class Threads(TransactionTestCase):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.shop = person("shop")
        for number, count in (("ROD", "500"), ("NUT", "48"), ("T-1", "200")):
            move_stock(self.shop, number, count, "counted")

    def released(self, quantity: str) -> WorkOrder:
        order = open_order(self.shop, "RT-1", quantity, nest=False)
        return release_order(self.shop, order.pk, order.version)

    def check(self) -> None:
        for worth in StockWorth.objects.all():
            sums = StockMove.objects.filter(part=worth.part).aggregate(quantity=Sum("quantity"), value=Sum("value"))
            self.assertEqual(worth.quantity, sums["quantity"])
            self.assertEqual(sum(map(Decimal, worth.elements.values()), Decimal(0)), sums["value"])
            self.assertGreaterEqual(worth.quantity, 0)
        for order in WorkOrder.objects.all():
            said = order.postings.filter(kind="work").values_list("operation").annotate(good=Sum("good"))
            self.assertEqual(dict(said), {o.row: o.good for o in order.operations.all() if o.good})

    def test_twenty_post_against_the_same_stock_and_orders(self) -> None:
        """48 nuts are there, 4 for each unit: of 20 units on two orders exactly 12 are fitted."""
        orders = [self.released("10"), self.released("10")]
        for order in orders:
            report_work(self.shop, order.pk, uuid4(), Report(10, "10"))

        def fit(n: int) -> str:
            report_work(self.shop, orders[n % 2].pk, uuid4(), Report(20, "1"))
            return "done"

        said = at_once(20, fit)
        self.assertEqual(said.count("done"), 12)
        self.assertTrue(all(x == "done" or "NUT are on hand" in x for x in said), said)
        self.assertEqual(StockWorth.objects.get(part__number="NUT").quantity, 0)
        self.check()

    def test_the_same_act_sent_twenty_times_stands_once(self) -> None:
        order, key, other = self.released("10"), uuid4(), uuid4()
        said = at_once(20, lambda n: str(report_work(self.shop, order.pk, key, Report(10, "3")).pk))
        self.assertEqual(len(set(said)), 1)
        built = at_once(8, lambda n: build_at_once(self.shop, "T-1", "2", other).number)
        self.assertEqual(WorkOrder.objects.filter(part__number="T-1").count(), 1)
        self.assertIn(WorkOrder.objects.get(part__number="T-1").number, built)
        order.refresh_from_db()
        self.assertEqual(order.operations.get(row=0).good, 3)
        self.check()

    def test_moves_in_crossing_orders_wait_for_one_another(self) -> None:
        one, two = self.released("5"), self.released("5")

        def act(n: int) -> str:
            rows = [Issue(0, "1"), Issue(1, "1"), Issue(2, "1")]
            if n % 3 == 2:
                move_stock(self.shop, ("NUT", "ROD", "T-1")[n % 2], "1", "found")
            else:
                issue_components(self.shop, (one if n % 2 else two).pk, uuid4(), rows[:: 1 if n % 3 else -1])
            return "done"

        self.assertEqual(at_once(21, act), ["done"] * 21)
        self.check()

    def test_broken_off_anywhere_it_is_as_before(self) -> None:
        order = self.released("10")
        before = (Posting.objects.count(), StockMove.objects.count(), Entry.objects.count())
        for place in _ON_THE_WAY:
            with patch(place, side_effect=RuntimeError("the power went")), self.assertRaises(RuntimeError):
                report_work(self.shop, order.pk, uuid4(), Report(10, "5", run_minutes="9"))
            self.assertEqual((Posting.objects.count(), StockMove.objects.count(), Entry.objects.count()), before, place)
        self.check()

    def test_killed_outright_it_is_as_before_and_what_was_kept_is_kept_once(self) -> None:
        """A process of its own for each act, ended by the system on the way; sent again, the same act stands once."""
        order, act = self.released("10"), uuid4()
        before = (Posting.objects.count(), StockMove.objects.count(), Entry.objects.count())
        for place in (*_ON_THE_WAY, None):
            # Two processes on one connection would speak at once.
            connection.close()
            pid = os.fork()
            if pid == 0:
                with patch(place, side_effect=_killed) if place else nullcontext():
                    report_work(self.shop, order.pk, act, Report(10, "5", run_minutes="9"))
                _killed()
            self.assertEqual(os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]), -signal.SIGKILL, place)
            self.check()
            if place:
                self.assertEqual((Posting.objects.count(), StockMove.objects.count(), Entry.objects.count()), before, place)
        # The last was killed when it was kept already, and before it could answer.
        kept = Posting.objects.count()
        self.assertGreater(kept, before[0])
        report_work(self.shop, order.pk, act, Report(10, "5", run_minutes="9"))
        self.assertEqual((Posting.objects.count(), order.operations.get(row=0).good), (kept, 5))
        self.check()


#: Where reporting work stands in the middle of writing.
_ON_THE_WAY = (
    "shop.ledger._posting",
    "shop.ledger.keep_open_quantity",
    "shop.ledger.Component.objects.bulk_create",
    "verbs.parts.post_stock.StockWorth.objects.bulk_create",
)


def _killed(*_: object, **__: object) -> None:
    os.kill(os.getpid(), signal.SIGKILL)


class Load(TestCase):
    def test_queries_do_not_grow_with_what_is_taken(self) -> None:
        def queries(count: int) -> tuple[int, int, int]:
            parts = [{"number": f"Q{count}-{i}", "kind": "bought", "unit": "ea", "unit_cost": "1"} for i in range(count)]
            load(
                {
                    "format": "round-tally-bundle",
                    "version": 1,
                    "work_centers": [{"code": f"W{count}"}],
                    "parts": [*parts, {"number": f"P{count}", "kind": "made", "unit": "ea"}],
                    "build_sheets": [
                        {
                            "part": f"P{count}",
                            "status": "released",
                            "operations": [{"sequence": 10, "work_center": f"W{count}", "run_minutes": "1"}],
                            "lines": [{"item": i + 1, "part": p["number"], "quantity": "1"} for i, p in enumerate(parts)],
                        }
                    ],
                }
            )
            shop = person("shop")
            for p in parts:
                move_stock(shop, p["number"], "9", "counted")
            order = open_order(shop, f"P{count}", "3", nest=False)
            with CaptureQueriesContext(connection) as releasing:
                release_order(shop, order.pk, order.version)
            with CaptureQueriesContext(connection) as reporting:
                report_work(shop, order.pk, uuid4(), Report(10, "2", run_minutes="3"))
            api = Api("shop")
            with CaptureQueriesContext(connection) as reading:
                self.assertEqual(api.get(f"/shop/orders/{order.pk}")[0], 200)
            return len(releasing), len(reporting), len(reading)

        few, many = queries(2), queries(50)
        self.assertEqual(few, many)
        self.assertLessEqual(many[1], 30)

    def test_lists_take_the_same_queries_for_few_and_many_orders(self) -> None:
        load(rod_and_tube("released"))
        shop, api = person("shop"), Api("shop")

        def read() -> int:
            with CaptureQueriesContext(connection) as queries:
                self.assertEqual(api.get("/shop/orders")[0], 200)
                self.assertEqual(api.get("/shop/centers/LATHE")[0], 200)
                self.assertEqual(api.get("/shop/centers")[0], 200)
            return len(queries)

        def add(count: int) -> None:
            for _ in range(count):
                order = open_order(shop, "RT-1", "2", nest=False)
                release_order(shop, order.pk, order.version)

        add(1)
        few = read()
        add(9)
        self.assertEqual(read(), few)
        rows = api.get("/shop/orders")[1]
        self.assertEqual({r["short"] for r in rows}, {3})
        self.assertEqual(len(api.get("/shop/centers/LATHE")[1]["tasks"]), 20)
        self.assertEqual(api.get("/shop/centers/NOWHERE")[0], 404)
