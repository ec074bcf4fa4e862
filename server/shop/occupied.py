"""When work centers are taken by orders that are released: nothing else is planned there then; what is longer than a gap goes on behind it."""

from collections import defaultdict
from datetime import datetime, timedelta

from django.db.models import F
from django.utils.timezone import make_naive, now
from loading.times import calendars
from tally_core.calendar.calendars import work_before

from shop.models import OrderOperation, WorkOrder

__all__ = ["occupied"]

_MINUTE = timedelta(minutes=1)


def occupied(but: WorkOrder) -> dict[int, list[dict[str, str]]]:
    """By the key of a work center the spans, as its stops are written, in which all its stations are taken by other orders. Two queries.

    An operation takes one station for its minutes before its planned end, until all its units are reported; what was planned and is past
    takes none.
    """
    calendar = calendars()
    rows = (
        OrderOperation.objects.filter(order__state__in=("released", "running"), starts_at__isnull=False, ends_at__gt=now())
        .exclude(order=but.pk)
        .filter(planned__gt=F("good") + F("scrapped"))
        .filter(center__isnull=False)
        .annotate(minutes=F("setup_minutes") + F("run_minutes"))
        .values_list("center", "center__stations", "center__shifts", "center__stops", "ends_at", "minutes")
    )
    turns: dict[int, list[tuple[datetime, int]]] = defaultdict(list)
    stations: dict[int, int] = {}
    for center, many, shifts, stops, ends_at, minutes in rows:
        # A first operation is ready from the beginning of its day on; it takes the work center only while it is worked on.
        assert ends_at is not None, "asked for"
        ends = make_naive(ends_at)
        starts = work_before(calendar(shifts, stops), ends, float(minutes))
        if starts < ends:
            turns[center] += [(starts, 1), (ends, -1)]
            stations[center] = many
    return {center: _full(sorted(at), stations[center]) for center, at in turns.items()}


def _full(turns: list[tuple[datetime, int]], stations: int) -> list[dict[str, str]]:
    spans: list[dict[str, str]] = []
    taken = 0
    since: datetime | None = None
    for at, change in turns:
        taken += change
        if taken >= stations and since is None:
            since = at
        elif taken < stations and since is not None:
            if since < at:
                spans.append({"start": _written(since), "end": _written(at + _MINUTE - timedelta(microseconds=1))})
            since = None
    return spans


def _written(at: datetime) -> str:
    """To the minute."""
    return at.isoformat(timespec="minutes")
