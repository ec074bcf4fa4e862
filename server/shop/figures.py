"""Numbers that people look at: utilisation by work center and week, scrap ratio, first pass yield, and how orders came out.

ISO 22400-2 (from memory): scrap ratio = scrap quantity / produced quantity; first pass yield = good parts at first inspection / inspected parts.
"""

from collections import defaultdict
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from definition.models.work_centers import WorkCenter
from django.db.models import F, Sum
from django.db.models.functions import TruncWeek
from django.utils.timezone import localdate
from loading.times import calendars
from tally_core.calendar.calendars import open_minutes
from tally_core.shop.reporting import first_pass_yield, scrap_ratio

from shop.models import OrderOperation, Posting, WorkOrder

__all__ = ["WEEKS", "shop_figures"]

WEEKS = 13


def shop_figures() -> dict[str, Any]:
    """The last weeks, today's with them, by work center; and by part what orders that ended in them came to. A fixed number of queries."""
    today = localdate()
    monday = today - timedelta(days=today.weekday())
    weeks = [monday - timedelta(days=7 * n) for n in reversed(range(WEEKS))]
    return {"weeks": [w.isoformat() for w in weeks], "centers": _by_center(weeks), "parts": _by_part(weeks[0])}


def _by_center(weeks: list[date]) -> list[dict[str, Any]]:
    worked: dict[int, dict[date, Decimal]] = defaultdict(dict)
    good: dict[int, Decimal] = defaultdict(Decimal)
    scrapped: dict[int, Decimal] = defaultdict(Decimal)
    postings = Posting.objects.filter(kind="work", entry__at__date__gte=weeks[0])
    reported = OrderOperation.objects.filter(center__isnull=False, order__in=postings.values("order"))
    center_of = {(o, row): (center, resource) for o, row, center, resource in reported.values_list("order", "row", "center", "resource")}
    rows = (
        postings.annotate(week=TruncWeek("entry__at"))
        .values_list("order", "operation", "week")
        .annotate(minutes=Sum(F("setup_minutes") + F("run_minutes")), good=Sum("good"), scrapped=Sum("scrapped"))
        .order_by()
    )
    for order, row, week, minutes, ok, bad in rows:
        key, resource = center_of.get((order, row), (None, 0))
        if key is None:
            continue
        worked[key][week.date()] = worked[key].get(week.date(), Decimal(0)) + minutes
        if resource == 0:
            good[key] += ok
            scrapped[key] += bad
    open_at = calendars()
    said = []
    for center in WorkCenter.objects.filter(pk__in=list(worked)).order_by("group", "code"):
        calendar = open_at(center.shifts, center.stops)
        hours = [float(worked[center.pk].get(w, Decimal(0))) / 60 for w in weeks]
        may = [open_minutes(calendar, w) / 60 * center.stations for w in weeks]
        said.append(
            {
                "code": center.code,
                "name": center.name,
                "hours": [round(h, 2) for h in hours],
                "utilisation": [round(h / m, 4) if m else None for h, m in zip(hours, may, strict=True)],
                "good": float(good[center.pk]),
                "scrapped": float(scrapped[center.pk]),
                "scrap_ratio": _ratio(scrap_ratio(scrapped[center.pk], good[center.pk] + scrapped[center.pk])),
            }
        )
    return said


def _by_part(since: date) -> list[dict[str, Any]]:
    """Orders that ended since a day: first pass yield over all their operations, and what they came to."""
    ended = WorkOrder.objects.filter(state="closed", closed_at__date__gte=since)
    passed: dict[str, Decimal] = {}
    inspected: dict[str, tuple[Decimal, Decimal]] = {}
    rows = (
        OrderOperation.objects.filter(order__in=ended.values("pk"), resource=0)
        .values_list("order__part__number", "sequence")
        .annotate(good=Sum("good"), scrapped=Sum("scrapped"))
        .order_by()
    )
    for number, _sequence, good, scrapped in rows:
        share = first_pass_yield(good, good + scrapped)
        passed[number] = passed.get(number, Decimal(1)) * (Decimal(1) if share is None else share)
        before = inspected.get(number, (Decimal(0), Decimal(0)))
        inspected[number] = (before[0] + good, before[1] + scrapped)
    said: dict[str, dict[str, Any]] = {}
    for order in ended.select_related("part").defer("plan").order_by("closed_at"):
        row = said.setdefault(
            order.part.number,
            {
                "part": order.part.number,
                "description": order.part.description,
                "orders": [],
                "good": Decimal(0),
                "expected": Decimal(0),
                "actual": Decimal(0),
            },
        )
        outcome = order.came_to or {}
        row["orders"].append({"id": order.pk, "number": order.number})
        row["good"] += order.good
        row["expected"] += Decimal(outcome.get("expected_total", "0"))
        row["actual"] += Decimal(outcome.get("actual_total", "0"))
    for number, row in said.items():
        good, scrapped = inspected.get(number, (Decimal(0), Decimal(0)))
        row |= {
            "good": float(row["good"]),
            "expected": f"{row['expected']:f}",
            "actual": f"{row['actual']:f}",
            "scrap_ratio": _ratio(scrap_ratio(scrapped, good + scrapped)),
            "first_pass": _ratio(passed.get(number)),
        }
    return sorted(said.values(), key=lambda row: row["part"])


def _ratio(value: Decimal | None) -> float | None:
    return None if value is None else round(float(value), 6)
