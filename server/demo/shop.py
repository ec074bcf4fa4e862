"""Three months of work orders, made by the rules of the product itself: with the scatter of a shop, some running, one late, one short."""

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from random import Random
from typing import Any
from uuid import uuid4

from definition.models.parts import StockWorth
from django.db import transaction
from django.utils.timezone import localdate, make_aware
from shop.actions.close_order import close_order
from shop.actions.issue_components import Issue, issue_components
from shop.actions.open_order import open_order
from shop.actions.release_order import release_order
from shop.actions.report_work import Report, report_work
from shop.actions.work_outside import invoice_outside, send_outside
from shop.models import OrderOperation, WorkOrder
from verbs.parts.post_stock import StockPost, post_stock, stated_worth
from verbs.parts.trace_part import trace_part

__all__ = ["load_orders"]

#: What was made, how many at a time, and how often in the three months.
_MADE = (
    ("GSK-155", 120, 3),
    ("HL155-22", 40, 5),
    ("HL155-11", 40, 4),
    ("HL155-21", 40, 5),
    ("HL155-20", 40, 4),
    ("CR-155", 20, 4),
    ("HL155-30", 30, 5),
    ("HL155-10", 30, 4),
)
_WHY = ("tool mark", "out of tolerance", "dropped", "porous", "wrong orientation")
_PEOPLE = ("Lou Fenner", "Ada Brink", "Tom Ives")


def load_orders(engineer: Any, shop: Any) -> None:
    """Finished orders first, then those that stand open today."""
    pick = Random(155)
    # The light engine has a number of its own on every unit; its boards are made in lots, and their emitters come in lots.
    trace_part(engineer, "HL155-20", "serial")
    trace_part(engineer, "HL155-21", "lot")
    trace_part(engineer, "EMT-4700", "lot")
    done = list(_past(pick))
    for day, number, quantity in done:
        _finished(engineer, shop, pick, day, number, quantity)
    _open(engineer, shop, pick)


def _past(pick: Random) -> Iterator[tuple[date, str, int]]:
    today = localdate()
    runs = [(n, number, size) for number, size, times in _MADE for n in range(times)]
    for n, number, size in sorted(runs, key=lambda run: run[0]):
        days = 84 - 15 * n - pick.randint(0, 11)
        yield today - timedelta(days=days), number, size + 5 * pick.randint(-2, 2)


def _at(day: date, hour: int, minute: int = 0) -> datetime:
    return make_aware(datetime.combine(day, time(hour, minute)))


def _delivered(pick: Random, order: WorkOrder, at: datetime) -> None:
    """What an order takes and the store has not comes in the day before, at a price of its own."""
    posts = []
    for component in order.components.select_related("part"):
        if component.part.kind == "charge" or component.byproduct:
            continue
        there = StockWorth.objects.filter(part=component.part).values_list("quantity", flat=True).first() or Decimal(0)
        lacking = component.required * Decimal("1.15") + 3 - there
        if lacking <= 0:
            continue
        quantity = lacking.to_integral_value() + 1
        price = stated_worth([component.part], at.date()).get(component.part_id, {})
        scatter = Decimal(pick.randint(965, 1045)) / 1000
        posts.append(
            StockPost(
                component.part_id, quantity, "received", {n: a * quantity * scatter for n, a in price.items()}, origin=f"R{at:%y%m%d}"
            )
        )
    with transaction.atomic():
        post_stock("shop", posts, at)


def _begun(engineer: Any, pick: Random, day: date, number: str, quantity: int, lead: int) -> WorkOrder:
    order = open_order(engineer, number, str(quantity), day + timedelta(days=lead), nest=False, day=day)
    order = release_order(engineer, order.pk, order.version, _at(day, 7))
    return order


def _worked(shop: Any, pick: Random, order: WorkOrder, operation: OrderOperation, units: int, at: datetime) -> int:
    """One report with the scatter of a shop; answers the good units."""
    lost = min(1, units // 20) if pick.random() < 0.35 else 0
    share = Decimal(units) / operation.planned
    if operation.outside:
        send_outside(shop, order.pk, uuid4(), operation.sequence, str(units), "", at)
    setup = run = Decimal(0)
    if not operation.outside:
        setup = round(operation.setup_minutes * Decimal(pick.randint(85, 130)) / 100, 0)
        run = round(operation.run_minutes * share * Decimal(pick.randint(92, 112)) / 100, 0)
    report = Report(operation.sequence, str(units - lost), str(lost), str(setup), str(run), pick.choice(_WHY) if lost else "")
    report_work(shop, order.pk, uuid4(), report, at, pick.choice(_PEOPLE))
    if operation.outside:
        order.refresh_from_db()
        expected = next(o for o in (order.plan or {})["operations"] if o["sequence"] == operation.sequence)
        due = max(units * Decimal(_plain(expected["outside_price"])), Decimal(_plain(expected.get("outside_minimum", "0"))))
        invoice_outside(shop, order.pk, uuid4(), operation.sequence, str(round(due * Decimal(pick.randint(98, 106)) / 100, 2)), "", at)
    return units - lost


def _plain(text: str) -> str:
    over, _, under = text.partition("/")
    return str(round(Decimal(over) / Decimal(under or 1), 9))


def _finished(engineer: Any, shop: Any, pick: Random, day: date, number: str, quantity: int) -> None:
    order = _begun(engineer, pick, day, number, quantity, 12)
    _delivered(pick, order, _at(day, 6))
    units = 0
    for n, operation in enumerate(order.operations.filter(resource=0).order_by("row")):
        at = min(
            _at(day + timedelta(days=1 + n * 2), 8 + pick.randint(0, 5), pick.randint(0, 59)), _at(localdate() - timedelta(days=1), 15)
        )
        units = units if n else int(operation.planned)
        units = _worked(shop, pick, order, operation, units, at)
        if pick.random() < 0.25:
            more = (
                order.components.filter(operation=operation.row, part__whole_only=True, byproduct=False)
                .exclude(part__kind="charge")
                .first()
            )
            if more is not None:
                issue_components(shop, order.pk, uuid4(), [Issue(more.row, "1")], at, "", "one was damaged")
    order.refresh_from_db()
    close_order(engineer, order.pk, order.version, "", at + timedelta(hours=2))


def _open(engineer: Any, shop: Any, pick: Random) -> None:
    """Two running, one of them late; one released and short; two planned, with the orders they nest."""
    today = localdate()
    late = _begun(engineer, pick, today - timedelta(days=16), "HL155-30", 30, 13)
    _delivered(pick, late, _at(today - timedelta(days=16), 6))
    first = late.operations.filter(resource=0).order_by("row").first()
    assert first is not None
    _worked(shop, pick, late, first, 18, _at(today - timedelta(days=4), 11, 20))
    running = _begun(engineer, pick, today - timedelta(days=5), "HL155-20", 40, 16)
    _delivered(pick, running, _at(today - timedelta(days=5), 6))
    first = running.operations.filter(resource=0).order_by("row").first()
    assert first is not None
    _worked(shop, pick, running, first, int(first.planned), _at(today - timedelta(days=2), 9, 5))
    short = open_order(engineer, "HL155-40", "60", today + timedelta(days=18), nest=False)
    release_order(engineer, short.pk, short.version)
    spreader = open_order(engineer, "HL155-22", "40", today + timedelta(days=12), nest=False)
    release_order(engineer, spreader.pk, spreader.version)
    open_order(engineer, "HL-155", "80", today + timedelta(days=45), note="stock order for the spring")
