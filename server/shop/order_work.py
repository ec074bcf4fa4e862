"""What is still to be done on released orders, for the load of work centers."""

from collections.abc import Callable
from datetime import datetime, timedelta

from definition.models.work_centers import WorkCenter
from django.utils.timezone import localtime, now
from loading.times import calendars
from readings.center_load import OrderWork
from tally_core.calendar.calendars import Calendar, work_from

from shop.models import OrderOperation
from shop.stations import floats

__all__ = ["order_work"]


def order_work() -> list[OrderWork]:
    """Every operation of a released order at a work center that is not reported whole, from when it is laid, or from now where that is past.

    Its set-up counts until something of it is reported, its run by the units that are not. What follows an operation that is late is late with
    it: it begins when that will be done, or together with it where they were laid to overlap. Two queries.
    """
    here = localtime(now()).replace(tzinfo=None)
    rows = OrderOperation.objects.filter(order__state__in=("released", "running")).select_related("order__part", "center")
    by_order: dict[int, dict[int, OrderOperation]] = {}
    for row in rows.order_by("order_id", "row"):
        by_order.setdefault(row.order_id, {})[row.row] = row
    calendar = calendars()
    return [work for operations in by_order.values() for work in _of_order(operations, here, calendar)]


def _of_order(
    operations: dict[int, OrderOperation], here: datetime, calendar: Callable[[str, list[dict[str, str]]], Calendar]
) -> list[OrderWork]:
    leads = {o.sequence: o for o in operations.values() if o.resource == 0}
    rows = [(leads.get(o.sequence, o), o) for o in operations.values()]
    begins: dict[int, datetime] = {}
    ends: dict[int, datetime] = {}
    said = []
    # In the order in which they were laid, whatever follows another one comes behind it.
    for lead, o in sorted(rows, key=lambda x: (_laid(x[0].starts_at, here), x[1].resource, x[1].row)):
        if lead.planned <= 0 or lead.good + lead.scrapped >= lead.planned:
            continue
        begin = begins[lead.row] if o is not lead and lead.row in begins else max(_laid(lead.starts_at, here), here)
        if o is lead:
            for before in (operations[row] for row in o.follows if row in ends):
                overlaps = before.ends_at is not None and o.starts_at is not None and o.starts_at < before.ends_at
                begin = max(begin, begins[before.row] if overlaps else ends[before.row])
            away = o.ends_at - o.starts_at if o.outside and o.starts_at and o.ends_at else timedelta()
            begins[o.row], ends[o.row] = begin, begin + away
        minutes = _minutes_left(o, lead)
        if minutes <= 0 or not isinstance(o.center, WorkCenter):
            continue
        end = work_from(calendar(o.center.shifts, o.center.stops), begin, minutes)
        ends[lead.row] = max(ends.get(lead.row, end), end)
        group = o.group if floats(o) else ""
        said.append(OrderWork(o.order.number, o.center.code, begin, minutes, o.order.part.number, o.sequence, o.name, group))
    return said


def _laid(moment: datetime | None, here: datetime) -> datetime:
    return localtime(moment).replace(tzinfo=None) if moment else here


def _minutes_left(o: OrderOperation, lead: OrderOperation) -> float:
    reported = lead.good + lead.scrapped
    return float((o.setup_minutes if not reported else 0) + o.run_minutes * (1 - reported / lead.planned))
