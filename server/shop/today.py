"""What the shop has for somebody today: what is late, short, not released, at work, or waits to be closed. Each heap takes a fixed number of queries."""

from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from urllib.parse import quote

from definition.records import plain_decimal
from django.db import connection
from django.db.models import DecimalField, F, OuterRef, Q, Subquery, Sum
from django.db.models.fields.json import KT
from django.db.models.functions import Abs, Cast
from django.utils.timezone import localdate, localtime, now
from readings.center_load import center_load
from readings.heaps import MOST, Heap, Row, heap_of

from shop.models import OrderOperation, Posting, WorkOrder
from shop.order_work import order_work
from shop.reads import SHORT_SQL

__all__ = ["at_work", "came_to_more", "due_work", "not_released", "over_capacity", "short_of_parts", "times_to_enter", "to_be_closed"]

_DUE, _SOON, _WEEKS = timedelta(days=14), timedelta(days=7), timedelta(weeks=4)
_LOAD = "/work-centers/load"


def _what(order: WorkOrder) -> str:
    return f"{plain_decimal(order.quantity)} {order.part.unit} of {order.part.number} {order.part.description}".strip()


def _row(order: WorkOrder, more: str, urgent: bool = False) -> Row:
    return Row(order.number, _what(order), more, f"/shop/orders/{order.pk}", urgent)


def due_work(user: Any) -> Heap:
    """Released and running orders that are due within two weeks, the late ones first."""
    today = localdate()
    found = WorkOrder.objects.filter(state__in=("released", "running"), wanted__lte=today + _DUE).select_related("part")

    def row(order: WorkOrder) -> Row:
        assert order.wanted is not None
        late = (today - order.wanted).days
        when = f"{late} {'day' if late == 1 else 'days'} late" if late > 0 else "today" if not late else f"on {order.wanted:%d %b}"
        return _row(order, when, late > 0)

    return heap_of(found.order_by("wanted", "id"), row, "/shop")


def short_of_parts(user: Any) -> Heap:
    """Orders that lack a component: stock goes to the order that is wanted first."""
    with connection.cursor() as cursor:
        cursor.execute(SHORT_SQL)
        short = dict(cursor.fetchall())
    found = WorkOrder.objects.filter(pk__in=list(short)).select_related("part").order_by(F("wanted").asc(nulls_last=True), "id")
    rows = [_row(o, f"{short[o.pk]} {'part' if short[o.pk] == 1 else 'parts'} short", True) for o in found[:MOST]]
    return Heap(rows, len(short), "/shop")


def not_released(user: Any) -> Heap:
    """Planned orders that should begin within a week, or should have begun."""
    found = WorkOrder.objects.filter(state="planned").filter(Q(starts_at__lte=now() + _SOON) | Q(starts_at=None)).select_related("part")

    def row(order: WorkOrder) -> Row:
        past = order.starts_at is not None and order.starts_at < now()
        when = f"{'was to begin' if past else 'begins'} on {localtime(order.starts_at):%d %b}" if order.starts_at else "no day"
        return _row(order, when, past)

    return heap_of(found.order_by("starts_at", "id"), row, "/shop")


def at_work(user: Any) -> Heap:
    """Operations at which somebody is just now."""
    found = OrderOperation.objects.filter(begun_at__isnull=False).select_related("order__part", "center").order_by("begun_at")

    def row(o: OrderOperation) -> Row:
        where = o.center.code if o.center else ""
        to = f"/shop/at/{quote(where, safe='')}" if where else f"/shop/orders/{o.order_id}"
        return Row(
            o.order.number,
            f"{o.sequence} {o.name} of {o.order.part.number}",
            f"{o.begun_by}, since {localtime(o.begun_at):%d %b %H:%M}",
            to,
        )

    return heap_of(found, row, "/shop/at")


def times_to_enter(user: Any) -> Heap:
    """Operations of orders not closed of which units are reported and no minute: their times would be missing in what they came to."""
    timed = Posting.objects.filter(order=OuterRef("order"), operation=OuterRef("row"), kind="work").values("operation")
    spent = timed.annotate(minutes=Sum(F("run_minutes") + F("setup_minutes"))).values("minutes")
    found = (
        OrderOperation.objects.filter(order__state__in=("running", "done"), resource=0, outside=False)
        .filter(Q(good__gt=0) | Q(scrapped__gt=0), Q(run_minutes__gt=0) | Q(setup_minutes__gt=0))
        .annotate(spent=Subquery(spent))
        .filter(spent=0)
        .select_related("order__part", "center")
        .order_by("order__wanted", "order", "row")
    )

    def row(o: OrderOperation) -> Row:
        where = o.center.code if o.center else ""
        units = f"{plain_decimal(o.good + o.scrapped)} {o.order.part.unit} reported"
        return Row(
            o.order.number,
            f"{o.sequence} {o.name} of {o.order.part.number}",
            f"{units}, {where}",
            f"/shop/orders/{o.order_id}",
            o.order.state == "done",
        )

    return heap_of(found, row, "/shop")


def to_be_closed(user: Any) -> Heap:
    """Orders whose work is done and that nobody has closed."""
    found = WorkOrder.objects.filter(state="done").select_related("part").order_by("finished_at", "id")
    return heap_of(found, lambda o: _row(o, f"done on {localtime(o.finished_at):%d %b}" if o.finished_at else ""), "/shop")


def over_capacity(user: Any) -> Heap:
    """Work centers that have more to do on released orders within some weeks than they are open for; the week that is over most first."""
    work = order_work()
    if not work:
        return Heap([], 0, _LOAD)
    load = center_load([], work)
    last = (localdate() + _WEEKS).isoformat()
    over = [
        (done / capacity if capacity else float("inf"), done, capacity, week, center)
        for center in load["centers"]
        for week, done, capacity in zip(load["weeks"], center["load"], center["capacity"], strict=True)
        if week <= last and done > capacity + 1e-9
    ]
    rows = [
        Row(
            center["code"],
            center["name"],
            f"week of {date.fromisoformat(week):%d %b}: {round(done, 1):g} h in {round(capacity, 1):g} h",
            _LOAD,
            True,
        )
        for _, done, capacity, week, center in sorted(over, key=lambda x: (-x[0], x[3], x[4]["code"]))
    ]
    return Heap(rows[:MOST], len(rows), _LOAD)


def came_to_more(user: Any) -> Heap:
    """Orders closed in the last quarter that came furthest from what was expected."""
    moved = Cast(KT("came_to__difference"), DecimalField(max_digits=22, decimal_places=6))
    found = WorkOrder.objects.filter(state="closed", closed_at__gte=now() - timedelta(days=91)).annotate(moved=moved)

    def row(order: WorkOrder) -> Row:
        amount: Decimal = order.moved  # type: ignore[attr-defined]
        share = f" ({amount / order.spent * 100:+.0f} %)" if order.spent else ""
        return _row(order, f"{amount:+,.2f}{share}".replace(",", "\u202f").replace("-", "−"))

    return heap_of(found.select_related("part").order_by(Abs("moved").desc(), "id"), row, "/shop?all=1")
