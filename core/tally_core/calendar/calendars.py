"""Working calendars (rule T3): shifts by weekday and closed days, and time laid on them, forward and backward.

Days and times are naive: those of the shop's clock.
"""

import itertools
import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from ..basics.errors import TallyError

__all__ = ["PLAIN_WEEK", "ROUND_THE_CLOCK", "Calendar", "open_minutes", "parse_shifts", "work_before", "work_by_week", "work_from"]

_DAYS = ("Mo", "Tu", "We", "Th", "Fr", "Sa", "Su")
_MIDNIGHT = 24 * 60
_PART = re.compile(r"([A-Za-z]{2})(?:\s*-\s*([A-Za-z]{2}))?\s+(\d{1,2}):(\d\d)\s*-\s*(\d{1,2}):(\d\d)")
#: Beyond so many days a schedule means that something is wrong.
_MOST_DAYS = 20_000

Spans = tuple[tuple[int, int], ...]


@dataclass(frozen=True, slots=True)
class Calendar:
    """``shifts`` are spans of minutes of the day, by weekday from Monday; ``closed`` days have none, and nobody works
    during ``stops``, each from a moment up to another."""

    shifts: tuple[Spans, Spans, Spans, Spans, Spans, Spans, Spans]
    closed: frozenset[date] = frozenset()
    stops: tuple[tuple[datetime, datetime], ...] = ()

    def spans(self, day: date) -> Spans:
        """When work goes on on a day, in minutes from midnight."""
        if day in self.closed:
            return ()
        spans = self.shifts[day.weekday()]
        for start, end in self.stops:
            if start.date() <= day <= end.date():
                first = 0 if start.date() < day else start.hour * 60 + start.minute
                last = _MIDNIGHT if end.date() > day else end.hour * 60 + end.minute
                cut = ((a, min(b, first)) for a, b in spans), ((max(a, last), b) for a, b in spans)
                spans = tuple(sorted({span for some in cut for span in some if span[0] < span[1]}))
        return spans

    def share(self) -> float:
        """The share of a plain week in which work goes on, closed days and stops left out of account."""
        return sum(last - first for spans in self.shifts for first, last in spans) / (7 * _MIDNIGHT)


def parse_shifts(text: str) -> Calendar:
    """A calendar out of words like ``Mo-Fr 06:00-14:00; Mo-Th 14:00-22:00; Sa 08:00-12:00``; a shift may pass midnight.

    Raises TallyError, in the user's words, for what cannot be read, for shifts that overlap, and for no open hour.

    >>> parse_shifts("Sa 22:00-02:00").shifts[5:]
    (((1320, 1440),), ((0, 120),))
    """
    days: list[list[tuple[int, int]]] = [[] for _ in _DAYS]
    for part in filter(None, (p.strip() for p in text.split(";"))):
        match = _PART.fullmatch(part)
        if match is None:
            raise TallyError(f"“{part[:40]}” is no shift; write it like Mo-Fr 07:00-15:30, several with semicolons")
        first, last = match[1].capitalize(), (match[2] or match[1]).capitalize()
        if first not in _DAYS or last not in _DAYS:
            raise TallyError(f"“{part[:40]}” names no weekday; they are {', '.join(_DAYS)}")
        start, end = int(match[3]) * 60 + int(match[4]), int(match[5]) * 60 + int(match[6])
        if max(start, end) > _MIDNIGHT or int(match[4]) > 59 or int(match[6]) > 59 or start == end:
            raise TallyError(f"“{part[:40]}” is no span of a day; times run from 00:00 to 24:00")
        at, stop = _DAYS.index(first), _DAYS.index(last)
        while True:
            if start < end:
                days[at].append((start, end))
            else:
                days[at].append((start, _MIDNIGHT))
                if end:
                    days[(at + 1) % 7].append((0, end))
            if at == stop:
                break
            at = (at + 1) % 7
    shifts = []
    for name, spans in zip(_DAYS, days, strict=True):
        spans.sort()
        for one, other in itertools.pairwise(spans):
            if other[0] < one[1]:
                raise TallyError(f"two shifts overlap on {name}")
        shifts.append(tuple(spans))
    if not any(shifts):
        raise TallyError("a calendar needs at least one open hour")
    return Calendar(tuple(shifts))  # type: ignore[arg-type]


#: What a work center keeps that states no shifts, and what needs nobody.
PLAIN_WEEK = parse_shifts("Mo-Fr 08:00-16:00")
ROUND_THE_CLOCK = parse_shifts("Mo-Su 00:00-24:00")


def _at(day: date, minute: float) -> datetime:
    return datetime.combine(day, time()) + timedelta(minutes=minute)


def _minute(moment: datetime) -> float:
    return (moment - datetime.combine(moment.date(), time())).total_seconds() / 60.0


def _open_from(calendar: Calendar, moment: datetime) -> Iterator[tuple[date, float, float]]:
    """Open spans from a moment on: day, first and last minute."""
    day, since = moment.date(), _minute(moment)
    for _ in range(_MOST_DAYS):
        for first, last in calendar.spans(day):
            if last > since:
                yield day, max(first, since), last
        day, since = day + timedelta(days=1), 0.0
    raise TallyError("this work would not end within fifty years; look at its times and at the shifts")


def work_from(calendar: Calendar, start: datetime, minutes: float) -> datetime:
    """When so much work ends that begins at ``start`` or as soon as it can. No work ends where it starts.

    >>> work_from(PLAIN_WEEK, datetime(2026, 11, 27, 15, 0), 90)
    datetime.datetime(2026, 11, 30, 8, 30)
    """
    if minutes <= 0:
        return start
    for day, first, last in _open_from(calendar, start):
        if minutes <= last - first + 1e-9:
            return _at(day, first + minutes)
        minutes -= last - first
    raise AssertionError


def work_by_week(calendar: Calendar, start: datetime, minutes: float) -> dict[date, float]:
    """So much work laid from a moment on, by the Monday of each week it falls into.

    >>> work_by_week(PLAIN_WEEK, datetime(2026, 11, 27, 15, 0), 90)
    {datetime.date(2026, 11, 23): 60.0, datetime.date(2026, 11, 30): 30.0}
    """
    found: dict[date, float] = {}
    if minutes > 0:
        for day, first, last in _open_from(calendar, start):
            week = day - timedelta(days=day.weekday())
            found[week] = found.get(week, 0.0) + min(minutes, last - first)
            minutes -= last - first
            if minutes <= 1e-9:
                break
    return found


def open_minutes(calendar: Calendar, week: date) -> float:
    """How long work goes on in the seven days from a day on."""
    days = (week + timedelta(days=n) for n in range(7))
    return float(sum(last - first for day in days for first, last in calendar.spans(day)))


def work_before(calendar: Calendar, end: datetime, minutes: float) -> datetime:
    """When so much work must begin at the latest to end by ``end``. No work begins where it ends.

    >>> work_before(PLAIN_WEEK, datetime(2026, 11, 30, 8, 30), 90)
    datetime.datetime(2026, 11, 27, 15, 0)
    """
    if minutes <= 0:
        return end
    day, until = end.date(), _minute(end)
    for _ in range(_MOST_DAYS):
        for first, last in reversed(calendar.spans(day)):
            if first >= until:
                continue
            stop = min(last, until)
            if minutes <= stop - first + 1e-9:
                return _at(day, stop - minutes)
            minutes -= stop - first
        if day <= date.min + timedelta(days=1):
            break
        day, until = day - timedelta(days=1), float(_MIDNIGHT)
    raise TallyError("this work would have to begin more than fifty years before; look at its times and at the shifts")
