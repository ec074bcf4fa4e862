"""Calendars against numpy.busday_offset, schedules against NetworkX's longest path, and weekends by hand."""

import unittest
from datetime import date, datetime, timedelta

import networkx as nx
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.errors import TallyError
from tally_core.calendar.calendars import PLAIN_WEEK, ROUND_THE_CLOCK, Calendar, parse_shifts, work_before, work_from
from tally_core.calendar.schedule import Step, routing_order, schedule_backward, schedule_forward

DAY = st.dates(date(2026, 1, 1), date(2030, 12, 31))
MOMENT = st.datetimes(datetime(2026, 1, 1), datetime(2030, 12, 31)).map(lambda m: m.replace(second=0, microsecond=0))
SHIFTS = st.sampled_from(
    ["Mo-Fr 08:00-16:00", "Mo-Fr 06:00-14:00; Mo-Th 14:00-22:00", "Su-Th 22:00-06:00", "We 10:00-11:00", "Mo-Su 00:00-24:00"]
)


class Calendars(unittest.TestCase):
    @given(DAY, st.integers(1, 300), st.sets(DAY, max_size=20))
    @settings(max_examples=150, deadline=None)
    def test_whole_days_agree_with_numpys_business_days(self, day: date, days: int, closed: set[date]) -> None:
        """So many eight-hour days from the morning on end on the day numpy.busday_offset names, at four in the afternoon."""
        calendar = Calendar(PLAIN_WEEK.shifts, frozenset(closed))
        holidays = sorted(np.datetime64(d) for d in closed)
        first = np.busday_offset(day, 0, roll="forward", holidays=holidays)
        last = np.busday_offset(first, days - 1, holidays=holidays).astype(date)
        morning = datetime.combine(day, datetime.min.time())
        ends = work_from(calendar, morning, days * 480)
        self.assertEqual(ends, datetime.combine(last, datetime.min.time()) + timedelta(hours=16))
        starts = work_before(calendar, ends, days * 480)
        self.assertEqual(starts, datetime.combine(first.astype(date), datetime.min.time()) + timedelta(hours=8))

    @given(SHIFTS, MOMENT, st.integers(1, 20_000), st.integers(1, 20_000))
    @settings(max_examples=150, deadline=None)
    def test_work_adds_up_and_turns_round(self, shifts: str, start: datetime, one: int, other: int) -> None:
        calendar = parse_shifts(shifts)
        ends = work_from(calendar, work_from(calendar, start, one), other)
        self.assertEqual(ends, work_from(calendar, start, one + other))
        back = work_before(calendar, ends, one + other)
        self.assertGreaterEqual(back, start)
        self.assertEqual(work_from(calendar, back, one + other), ends)

    def test_a_wait_goes_on_over_the_weekend(self) -> None:
        """24 h from Friday 15:00 end on Saturday 15:00; work goes on on Monday. 27 November 2026 is a Friday."""
        friday = datetime(2026, 11, 27, 14, 0)
        step = Step(work=60, wait=24 * 60, move=30, calendar=PLAIN_WEEK)
        self.assertEqual(step.end(friday), datetime(2026, 11, 30, 8, 30))
        self.assertEqual(Step(work=60, wait=24 * 60, calendar=PLAIN_WEEK).end(friday), datetime(2026, 11, 28, 15, 0))
        self.assertEqual(step.start(datetime(2026, 11, 30, 8, 30)), datetime(2026, 11, 27, 15, 0))

    def test_what_cannot_be_read_is_named(self) -> None:
        for text, told in (
            ("", "at least one open hour"),
            ("Mo-Fr", "is no shift"),
            ("Xx 08:00-16:00", "names no weekday"),
            ("Mo 08:00-25:00", "no span of a day"),
            ("Mo 08:61-09:00", "no span of a day"),
            ("Mo 08:00-08:00", "no span of a day"),
            ("Mo-Fr 08:00-16:00; We 15:00-18:00", "overlap on We"),
            ("Su 20:00-04:00; Mo 03:00-05:00", "overlap on Mo"),
        ):
            with self.assertRaisesRegex(TallyError, told):
                parse_shifts(text)
        with self.assertRaisesRegex(TallyError, "fifty years"):
            work_from(parse_shifts("Mo 08:00-08:01"), datetime(2026, 1, 1), 1e9)


@st.composite
def networks(draw) -> tuple[list[float], list[list[int]]]:
    count = draw(st.integers(1, 25))
    follows = [sorted(draw(st.sets(st.integers(0, i - 1), max_size=3))) if i else [] for i in range(count)]
    return [float(draw(st.integers(0, 5000))) for _ in range(count)], follows


class Schedules(unittest.TestCase):
    @given(networks())
    @settings(max_examples=150, deadline=None)
    def test_round_the_clock_it_is_the_longest_path(self, network: tuple[list[float], list[list[int]]]) -> None:
        minutes, follows = network
        graph = nx.DiGraph()
        graph.add_nodes_from(range(-1, len(minutes)))
        for at, before in enumerate(follows):
            graph.add_edges_from((b, at, {"weight": minutes[b]}) for b in before)
            graph.add_edge(at, len(minutes), weight=minutes[at])
            graph.add_edge(-1, at, weight=0.0)
        longest = nx.dag_longest_path_length(graph)
        start = datetime(2026, 1, 5)
        steps = [Step(m, calendar=ROUND_THE_CLOCK if i % 2 else None) for i, m in enumerate(minutes)]
        forward = schedule_forward(steps, follows, start)
        self.assertEqual(max(forward.end) - start, timedelta(minutes=longest))
        backward = schedule_backward(steps, follows, max(forward.end))
        self.assertEqual(min(backward.start), start)
        for scheduled in (forward, backward):
            self.assertEqual(sum(minutes[i] for i in scheduled.chain), longest)
            for one, other in zip(scheduled.chain, scheduled.chain[1:], strict=False):
                self.assertIn(one, follows[other])
        for at, before in enumerate(follows):
            for b in before:
                self.assertLessEqual(forward.end[b], forward.start[at])
                self.assertLessEqual(backward.end[b], backward.start[at])
            self.assertLessEqual(forward.start[at], backward.start[at], "as late as may be is no earlier than as early as can be")

    @given(networks(), SHIFTS, MOMENT)
    @settings(max_examples=80, deadline=None)
    def test_on_a_calendar_what_must_be_early_enough_is(self, network, shifts: str, end: datetime) -> None:
        minutes, follows = network
        calendar = parse_shifts(shifts)
        steps = [Step(m, wait=m / 3, calendar=calendar) for m in minutes]
        backward = schedule_backward(steps, follows, end)
        self.assertLessEqual(max(backward.end), end)
        again = schedule_forward(steps, follows, min(backward.start))
        self.assertLessEqual(max(again.end), end)

    def test_operations_that_wait_for_one_another(self) -> None:
        with self.assertRaisesRegex(TallyError, "20 → 40 → 30 → 20|20 → 30 → 40 → 20"):
            routing_order({10: [], 20: [40], 30: [20], 40: [30]})
