"""Orders from planned to closed: figures by hand, and what is refused.

Everything is worked out by hand from ``rod_and_tube``: a
lathe at 40 an hour; RT-1 takes 2 m of rod with 5 % scrap (set-up 12 min, run 3 min), then a tube and four nuts (run 1 min).
"""

from datetime import timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid4

from definition.models.parts import OpenOrder, StockMove, StockWorth
from definition.models.work_centers import FinishedWork
from django.db import transaction
from django.db.models import Sum
from django.utils.timezone import localdate, now
from tally_core.basics.errors import MissingError, ProblemsError
from testing import load, rod_and_tube

from shop.actions.build_at_once import build_at_once
from shop.actions.change_order import change_order, replan_order, split_order
from shop.actions.close_order import cancel_order, close_order
from shop.actions.flush_components import flush_components
from shop.actions.issue_components import Issue, issue_components
from shop.actions.link_order import link_order
from shop.actions.open_order import open_order
from shop.actions.release_order import release_order
from shop.actions.reverse_entry import reverse_entry
from shop.actions.work_outside import invoice_outside, send_outside
from shop.models import Posting, WorkOrder
from shop.outcome import expected_rest
from shop.reads import one_order
from shop.tests.floor import ZERO, Shop


class Walk(Shop):
    def setUp(self) -> None:
        super().setUp()
        load(rod_and_tube("released"))

    def test_from_short_to_closed_with_a_nested_order(self) -> None:
        self.stock(ROD="100", NUT="100", T_1="3")
        order = open_order(self.shop, "RT-1", "10", localdate() + timedelta(days=30))
        nested = order.nested.get()
        self.assertEqual((nested.part.number, nested.quantity, nested.state), ("T-1", 7, "planned"))
        assert order.starts_at and order.ends_at
        self.assertLessEqual(nested.wanted, order.wanted)
        release_order(self.shop, nested.pk, nested.version)
        order = release_order(self.shop, order.pk, order.version)
        # By hand, a lot of 10: rod 6 + 0.30, the tube 1.50, nuts 0.40, set-up 8 / 10, run 2, fit 40 / 60.
        self.assertAlmostEqual(order.expected / 10, Decimal("6.3") + Decimal("1.9") + Decimal("0.8") + 2 + Decimal(40) / 60, 6)
        self.assertEqual(OpenOrder.objects.get(order=order.number).quantity, 10)
        # The tubes are short until the nested order has brought them.
        self.report(order, 10, "10", setup_minutes="15", run_minutes="33")
        self.assertEqual(order.components.get(part__number="ROD").issued, 21)
        self.refused("only 3 ea of T-1 are on hand", lambda: self.report(order, 20, "10", run_minutes="10"))
        self.report(nested, 0, "7")
        nested.refresh_from_db()
        self.assertEqual((nested.state, nested.good), ("done", 7))
        self.report(order, 20, "8", scrapped="1", reason="thread torn", run_minutes="9")
        order.refresh_from_db()
        self.assertEqual((order.state, order.good), ("running", 8))
        self.assertEqual(OpenOrder.objects.get(order=order.number).quantity, 2)
        self.report(order, 20, "1", run_minutes="1")
        order.refresh_from_db()
        self.assertEqual((order.state, order.good), ("done", 9))
        self.assertEqual(order.components.get(part__number="NUT").issued, 40)
        nested = close_order(self.shop, nested.pk, nested.version)
        order = close_order(self.shop, order.pk, order.version)
        self.assertEqual(nested.came_to["difference"], "0.000000")
        said = {name: Decimal(x) for name, x in order.came_to["by_cause"].items() if Decimal(x)}
        # 9 of 10 good: one more of everything was started (6.30 + 1.90 + 2 + 0.666…), the set-up of 8 lies on 9; 15 for 12 and 33 for 30 minutes.
        self.assertEqual(said, {"labor efficiency": Decimal(4), "yield": Decimal("10.866667"), "lot": Decimal("0.8")})
        finished = {w.sequence: (w.quantity, w.run_minutes, w.setup_minutes) for w in FinishedWork.objects.filter(order=order.number)}
        self.assertEqual(finished, {10: (10, 33, 15), 20: (10, 10, 0)})
        self.assertFalse(OpenOrder.objects.filter(order=order.number).exists())
        # Rule W6: nothing was there before, so the mean is what the order cost, over its good units.
        worth = StockWorth.objects.get(part__number="RT-1")
        actual = sum((Decimal(x) for x in order.came_to["actual"].values()), ZERO)
        self.assertAlmostEqual(sum(Decimal(x) for x in worth.elements.values()), actual, 6)
        self.check_balance()

    def test_a_posting_stands_once_and_a_reversal_brings_all_back(self) -> None:
        self.stock(ROD="50", NUT="50", T_1="10")
        before = dict(StockMove.objects.values_list("part__number").annotate(n=Sum("quantity")))
        worth = dict(StockMove.objects.values_list("part__number").annotate(n=Sum("value")))
        order, key = self.released("RT-1", "5"), uuid4()
        first = self.report(order, 10, "5", key=key, run_minutes="20")
        self.assertEqual(self.report(order, 10, "5", key=key, run_minutes="20").pk, first.pk)
        self.assertEqual(Posting.objects.filter(kind="work").count(), 1)
        done = self.report(order, 20, "5", run_minutes="5")
        order.refresh_from_db()
        self.assertEqual((order.state, order.good), ("done", 5))
        for entry in (done, first):
            self.refused("say why", lambda entry=entry: reverse_entry(self.shop, order.pk, entry.pk, uuid4(), " "))
            reverse_entry(self.shop, order.pk, entry.pk, uuid4(), "wrong order")
        self.refused("reversed already", lambda: reverse_entry(self.shop, order.pk, first.pk, uuid4(), "again"))
        after = dict(StockMove.objects.values_list("part__number").annotate(n=Sum("quantity")))
        self.assertEqual({n: q for n, q in after.items() if q}, before)
        # What was received went out at what it was worth, which is what it came in for.
        self.assertEqual({n: v for n, v in StockMove.objects.values_list("part__number").annotate(n=Sum("value")) if v}, worth)
        order.refresh_from_db()
        self.assertEqual((order.state, order.good, order.spent), ("running", 0, 0))
        self.check_balance()
        other = self.released("RT-1", "2")
        self.refused("another order", lambda: self.report(other, 10, "1", key=key))

    def test_what_cannot_be_is_named_and_nothing_is_written(self) -> None:
        self.stock(ROD="500", NUT="500", T_1="50")
        planned = open_order(self.shop, "RT-1", "5", nest=False)
        self.refused("nothing is reported on it", lambda: self.report(planned, 10, "1"))
        order = self.released("RT-1", "5")
        self.refused("only 5 came to it", lambda: self.report(order, 10, "6"))
        self.refused("only 0 came to it", lambda: self.report(order, 20, "1"))
        self.refused("counted in whole units", lambda: self.report(order, 10, "1.5"))
        self.refused("say why it was scrapped", lambda: self.report(order, 10, "1", scrapped="1"))
        self.refused("is done at LATHE, not at SAW", lambda: self.report(order, 10, "1", center="SAW"))
        self.refused("the clock of this place is wrong", lambda: self.report(order, 10, "1", at=now() + timedelta(hours=2)))
        self.refused("was released", lambda: self.report(order, 10, "1", at=now() - timedelta(days=2)))
        self.refused("say what was done", lambda: self.report(order, 10, "0"))
        self.refused("is not a number", lambda: self.report(order, 10, "many"))
        with self.assertRaises(MissingError):
            self.report(order, 30, "1")
        self.report(order, 10, "6", reason="one more came from the last order", beyond=True)
        self.refused("were issued", lambda: issue_components(self.shop, order.pk, uuid4(), [Issue(0, "-99")]))
        self.refused("say why T-1 is taken", lambda: issue_components(self.shop, order.pk, uuid4(), [Issue(None, "1", "T-1")]))
        self.refused("done inside", lambda: send_outside(self.shop, order.pk, uuid4(), 10, "1"))
        self.report(order, 20, "6", reason="as came")
        order.refresh_from_db()
        close_order(self.shop, order.pk, order.version)
        self.refused("is closed; nothing", lambda: self.report(order, 10, "1"))
        self.refused("only what is made", lambda: open_order(self.shop, "ROD", "1"))
        self.refused("a number above 0", lambda: open_order(self.shop, "RT-1", "0"))
        self.refused("is past", lambda: open_order(self.shop, "RT-1", "1", localdate() - timedelta(days=1)))
        self.check_balance()

    def test_another_part_instead_and_one_beyond_the_list(self) -> None:
        load(
            {"format": "round-tally-bundle", "version": 1, "parts": [{"number": "BRASS", "kind": "bought", "unit": "m", "unit_cost": "5"}]}
        )
        self.stock(ROD="20", NUT="50", T_1="10", BRASS="20")
        order = self.released("RT-1", "5")
        issue_components(self.shop, order.pk, uuid4(), [Issue(0, "4", "BRASS", "4.5"), Issue(None, "2", "NUT")], reason="rod ran out")
        self.report(order, 10, "5", run_minutes="15", setup_minutes="12")
        rod = order.components.get(part__number="ROD")
        self.assertEqual((rod.issued, rod.stood_in), (6, Decimal("4.5")))  # 10.5 in all
        self.report(order, 20, "5", run_minutes="5")
        order.refresh_from_db()
        said = close_order(self.shop, order.pk, order.version).came_to
        causes = {name: Decimal(x) for name, x in said["by_cause"].items() if Decimal(x)}
        self.assertEqual(causes, {"substitution": Decimal("6.5"), "material usage": Decimal("0.2")})  # 4 × 5 − 4.5 × 3
        self.check_balance()

    def test_what_is_taken_beyond_the_list_is_not_taken_off_the_next_report(self) -> None:
        self.stock(ROD="100", NUT="100", T_1="10")
        order = self.released("RT-1", "10")
        self.report(order, 10, "10", setup_minutes="12", run_minutes="30")
        nuts = order.components.get(part__number="NUT")
        self.report(order, 20, "5", run_minutes="5", more=[(nuts.row, "3")])
        self.report(order, 20, "5", run_minutes="5")
        self.assertEqual(StockWorth.objects.get(part__number="NUT").quantity, 57)
        order.refresh_from_db()
        said = close_order(self.shop, order.pk, order.version).came_to
        self.assertEqual({n: Decimal(x) for n, x in said["by_cause"].items() if Decimal(x)}, {"material usage": Decimal("0.3")})
        self.check_balance()

    def test_orders_change_split_and_are_cancelled(self) -> None:
        self.stock(ROD="100", NUT="100", T_1="30")
        order = self.released("RT-1", "10")
        self.assertEqual(order.components.get(part__number="NUT").required, 40)
        other = split_order(self.shop, order.pk, order.version, "4")
        order.refresh_from_db()
        self.assertEqual((order.quantity, other.quantity, other.state), (6, 4, "released"))
        self.assertEqual(order.components.get(part__number="NUT").required, 24)
        day = localdate() + timedelta(days=9)
        changed = change_order(self.shop, order.pk, order.version, "8", day)
        self.assertEqual((changed.state, changed.wanted, changed.operations.get(sequence=10).planned), ("released", day, 8))
        self.report(changed, 10, "1")
        changed.refresh_from_db()
        self.refused("is running", lambda: change_order(self.shop, changed.pk, changed.version, "9", day))
        self.refused("something was done", lambda: cancel_order(self.shop, changed.pk, changed.version, "no"))
        self.refused("say why", lambda: cancel_order(self.shop, other.pk, other.version, ""))
        self.assertEqual(cancel_order(self.shop, other.pk, other.version, "not wanted").state, "cancelled")
        self.assertFalse(OpenOrder.objects.filter(order=other.number).exists())
        self.assertEqual(other.history.first().history_change_reason, "not wanted")

    def test_what_an_order_refuses_is_known_beforehand(self) -> None:
        """In every state, and after everything was reversed, the order's page says what the actions themselves say."""
        self.stock(ROD="1000", NUT="1000", T_1="300")
        acts: dict[str, Any] = {
            "release": lambda o: release_order(self.shop, o.pk, o.version),
            "change": lambda o: replan_order(self.shop, o.pk, o.version, "tried"),
            "report": lambda o: self.report(o, 10, "1"),
            "flush": lambda o: flush_components(self.shop, o.pk, {}),
            "close": lambda o: close_order(self.shop, o.pk, o.version, "tried"),
            "cancel": lambda o: cancel_order(self.shop, o.pk, o.version, "tried"),
        }
        whole = self.released("RT-1", "2")
        begun, undone = self.released("RT-1", "2"), self.released("RT-1", "2")
        self.report(begun, 10, "1")
        reverse_entry(self.shop, undone.pk, self.report(undone, 10, "1").pk, uuid4(), "slip")
        for sequence in (10, 20):
            self.report(whole, sequence, "2")
        closed = self.released("RT-1", "1")
        self.report(closed, 10, "1")
        closed.refresh_from_db()
        closed = close_order(self.shop, closed.pk, closed.version, "enough")
        gone = self.released("RT-1", "1")
        gone = cancel_order(self.shop, gone.pk, gone.version, "not wanted")
        planned, released = open_order(self.shop, "RT-1", "2", nest=False), self.released("RT-1", "2")
        met = {}
        for order in (planned, released, begun, undone, whole, closed, gone):
            order.refresh_from_db()
            told = one_order(order)["why_not"]
            self.assertEqual(set(told), set(acts))
            for action, act in acts.items():
                with transaction.atomic():
                    try:
                        act(WorkOrder.objects.get(pk=order.pk))
                        said = None
                    except ProblemsError as error:
                        said = error.problems[0].message
                    transaction.set_rollback(True)
                if action == "report" and order.state == "done":
                    # It may be reported on; that all of it has come already is a word of the report.
                    said = None
                self.assertEqual(said, told[action], (order.state, action))
            met[order.pk] = [action for action in acts if told[action] is None]
        self.assertEqual(
            [met[o.pk] for o in (planned, released, begun, undone, whole, closed, gone)],
            [
                ["release", "change", "cancel"],
                ["change", "report", "flush", "cancel"],
                ["report", "flush", "close"],
                ["report", "flush", "close", "cancel"],
                ["report", "close"],
                [],
                [],
            ],
        )

    def test_a_later_revision_is_a_difference_until_it_is_taken_over(self) -> None:
        self.stock(ROD="100", NUT="100", T_1="30")
        order = self.released("RT-1", "5")
        self.assertEqual(one_order(order)["behind"], "")
        document = rod_and_tube("released")
        later = document["build_sheets"][0] | {"revision": "B", "effective_from": localdate().isoformat()}
        later["lines"] = [line | ({"quantity": "6"} if line["part"] == "NUT" else {}) for line in later["lines"]]
        load(document | {"build_sheets": [document["build_sheets"][0] | {"effective_to": localdate().isoformat()}, later]})
        said = one_order(WorkOrder.objects.get(pk=order.pk))
        self.assertEqual((said["sheet"], said["behind"]), ("rev. A", "rev. B is in force now"))
        self.assertEqual(order.components.get(part__number="NUT").required, 20)
        self.refused("say why", lambda: replan_order(self.shop, order.pk, order.version, ""))
        order = replan_order(self.shop, order.pk, order.version, "drawing changed")
        self.assertEqual(order.components.get(part__number="NUT").required, 30)
        self.assertEqual(one_order(WorkOrder.objects.get(pk=order.pk))["behind"], "")
        self.assertIn("drawing changed", order.history.values_list("history_change_reason", flat=True))

    def test_an_order_that_is_there_is_made_for_another(self) -> None:
        order = open_order(self.shop, "RT-1", "10", nest=False)
        tubes = self.released("T-1", "20")
        tubes = link_order(self.shop, tubes.pk, tubes.version, order.number.lower())
        self.assertEqual([o["number"] for o in one_order(order)["nested"]], [tubes.number])
        order.refresh_from_db()
        self.refused("is itself made for", lambda: link_order(self.shop, order.pk, order.version, tubes.number))
        self.refused("there is no order", lambda: link_order(self.shop, tubes.pk, tubes.version, "WO-9"))
        other = self.released("T-1", "2")
        self.refused("does not take", lambda: link_order(self.shop, other.pk, other.version, tubes.number))
        self.assertIsNone(link_order(self.shop, tubes.pk, tubes.version, "").parent)

    def test_built_at_once_or_not_at_all(self) -> None:
        self.stock(ROD="30", NUT="30", T_1="7")
        key = uuid4()
        order = build_at_once(self.shop, "RT-1", "7", key)
        self.assertEqual((order.state, order.good), ("closed", 7))
        self.assertEqual(order.came_to["difference"], "0.000000")
        self.assertEqual(build_at_once(self.shop, "RT-1", "7", key).pk, order.pk)
        self.assertEqual(StockWorth.objects.get(part__number="RT-1").quantity, 7)
        orders = WorkOrder.objects.count()
        self.refused("T-1 are on hand", lambda: build_at_once(self.shop, "RT-1", "1", uuid4()))
        self.assertEqual(WorkOrder.objects.count(), orders)
        self.check_balance()

    def test_a_running_order_says_what_is_still_to_come(self) -> None:
        self.stock(ROD="100", NUT="100", T_1="30")
        order = self.released("RT-1", "10")
        self.assertAlmostEqual(float(expected_rest(order, [])), float(order.expected), 6)
        self.report(order, 10, "10", setup_minutes="12", run_minutes="60")
        order.refresh_from_db()
        rest = expected_rest(order, list(order.postings.all()))
        self.assertAlmostEqual(float(rest), 10 * (1.9 + 40 / 60), 6)
        self.assertAlmostEqual(float(order.spent), 63 + 8 + 40, 6)


class Outside(Shop):
    def test_sent_back_in_parts_and_invoiced(self) -> None:
        load(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "parts": [{"number": "HOOK", "kind": "made", "unit": "ea"}],
                "build_sheets": [
                    {
                        "part": "HOOK",
                        "status": "released",
                        "operations": [
                            {
                                "sequence": 10,
                                "name": "Coat",
                                "subcontract": {"supplier": "Quay Coating", "unit_price": "2", "minimum_charge": "15", "lead_days": 5},
                            }
                        ],
                    }
                ],
            }
        )
        order = self.released("HOOK", "10")
        self.assertEqual(order.expected, 20)
        self.refused("only 0 were sent", lambda: self.report(order, 10, "4"))
        self.refused("only 10 are there", lambda: send_outside(self.shop, order.pk, uuid4(), 10, "11"))
        send_outside(self.shop, order.pk, uuid4(), 10, "10", "slip 4")
        self.report(order, 10, "4")
        self.report(order, 10, "5", scrapped="1", reason="runs in the coat")
        key: UUID = uuid4()
        for _ in range(2):
            invoice_outside(self.shop, order.pk, key, 10, "23.50", "R-77")
        order.refresh_from_db()
        self.assertEqual((order.state, order.good, order.spent), ("done", 9, Decimal("23.5")))
        said = close_order(self.shop, order.pk, order.version).came_to
        self.assertEqual(
            {n: Decimal(x) for n, x in said["by_cause"].items() if Decimal(x)}, {"outside price": Decimal("3.5"), "yield": Decimal(2)}
        )
        self.check_balance()
