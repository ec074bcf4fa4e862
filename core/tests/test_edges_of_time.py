"""Cases of the time rules that generated networks seldom meet."""

import unittest
from datetime import date, datetime
from decimal import Decimal as D

import numpy as np
from tally_core.basics.errors import TallyError
from tally_core.calendar.calendars import Calendar, parse_shifts, work_before, work_by_week, work_from
from tally_core.calendar.critical_path import critical_path, earliest
from tally_core.calendar.paces import parse_paces, work_together
from tally_core.calendar.schedule import Overlap, Step, routing_order, schedule_backward, schedule_forward
from tally_core.cost.cost import standard_lots
from tally_core.structure.structure import Structure
from tally_core.time.leadtime import TimeTable, elapsed, lead_times

from .test_edges_of_rules import product, structure


class Paces(unittest.TestCase):
    def test_a_pace_is_a_share_above_nothing_for_each_station(self) -> None:
        self.assertEqual(parse_paces("1, 0.5,120 %", 3), (0.01, 0.005, 1.2))
        self.assertEqual((parse_paces(" ", 2), work_together((1.2, 0.8, 1.0), 2)), ((1.0, 1.0), 2.0))
        for text, stations in (("0", 1), ("0.0, 100", 2), ("fast", 1), ("-5", 1), ("100", 2), ("100, 100", 1), ("100,", 2), ("1e3", 1)):
            with self.assertRaises(TallyError, msg=text):
                parse_paces(text, stations)


class Calendars(unittest.TestCase):
    WEEK = parse_shifts("Mo-Fr 08:00-16:00")

    def test_shifts_that_cannot_be(self) -> None:
        for text in (
            "Xx-Fr 08:00-16:00",
            "Mo-Xx 08:00-16:00",
            "Mo 08:60-16:00",
            "Mo 08:00-16:60",
            "Mo 08:00-25:00",
            "Mo 08:00-08:00",
            "",
            ";",
            "Mo 08:00-12:00; Mo 11:59-13:00",
        ):
            with self.assertRaises(TallyError, msg=text):
                parse_shifts(text)
        self.assertEqual(parse_shifts("mo 08:00-12:00; Mo 12:00-24:00").shifts[0], ((480, 720), (720, 1440)))
        self.assertEqual(parse_shifts("Su 22:00-24:00").shifts[6], ((1320, 1440),))
        self.assertEqual(parse_shifts("Sa-Mo 08:00-09:00").shifts[5:], (((480, 540),), ((480, 540),)))
        self.assertEqual(parse_shifts("Fr 20:00-00:00").shifts[4:6], (((1200, 1440),), ()))
        self.assertEqual(self.WEEK.share(), 5 * 8 / (7 * 24))

    def test_work_at_the_edges_of_a_shift(self) -> None:
        friday = datetime(2026, 11, 27, 16)
        self.assertEqual(work_from(self.WEEK, friday, 1), datetime(2026, 11, 30, 8, 1))
        self.assertEqual(work_from(self.WEEK, friday, 0), friday)
        self.assertEqual(work_from(self.WEEK, datetime(2026, 11, 27, 8), 480), friday)
        self.assertEqual(work_before(self.WEEK, datetime(2026, 11, 30, 8), 1), datetime(2026, 11, 27, 15, 59))
        self.assertEqual(work_before(self.WEEK, friday, 480), datetime(2026, 11, 27, 8))
        self.assertEqual(work_before(self.WEEK, friday, 0), friday)
        self.assertEqual(work_by_week(self.WEEK, friday, 0), {})
        self.assertEqual(work_by_week(self.WEEK, datetime(2026, 11, 27, 8), 480), {date(2026, 11, 23): 480.0})

    def test_stops_take_out_just_their_time(self) -> None:
        def spans(first: datetime, last: datetime, day: date) -> tuple:
            return Calendar(self.WEEK.shifts, stops=((first, last),)).spans(day)

        day = date(2026, 11, 25)
        self.assertEqual(spans(datetime(2026, 11, 25, 10, 30), datetime(2026, 11, 25, 11), day), ((480, 630), (660, 960)))
        self.assertEqual(spans(datetime(2026, 11, 24, 10), datetime(2026, 11, 25, 9), day), ((540, 960),))
        self.assertEqual(spans(datetime(2026, 11, 25, 15), datetime(2026, 11, 26, 9), day), ((480, 900),))
        self.assertEqual(spans(datetime(2026, 11, 24), datetime(2026, 11, 26), day), ())
        self.assertEqual(spans(datetime(2026, 11, 26), datetime(2026, 11, 27), day), ((480, 960),))
        self.assertEqual(Calendar(self.WEEK.shifts, frozenset({day})).spans(day), ())


class Schedules(unittest.TestCase):
    START = datetime(2026, 11, 25)

    def minutes(self, moments: list[datetime]) -> list[float]:
        return [(moment - self.START).total_seconds() / 60 for moment in moments]

    def test_overlaps_forward(self) -> None:
        """The second begins after 20 of the first one's 100 minutes, and ends no sooner than 5 after the first has ended."""
        quick = schedule_forward([Step(100.0), Step(30.0)], [[], [0]], self.START, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual((self.minutes(quick.start), self.minutes(quick.end), quick.chain), ([0, 20], [100, 105], [0, 1]))
        slow = schedule_forward([Step(100.0), Step(90.0)], [[], [0]], self.START, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual((self.minutes(slow.start), self.minutes(slow.end)), ([0, 20], [100, 110]))
        exact = schedule_forward([Step(100.0), Step(85.0)], [[], [0]], self.START, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual(self.minutes(exact.end), [100, 105])

    def test_overlaps_backward(self) -> None:
        end = self.START
        found = schedule_backward([Step(100.0), Step(30.0)], [[], [0]], end, {(1, 0): Overlap(20.0, 5.0)})
        self.assertEqual((self.minutes(found.start), self.minutes(found.end), found.chain), ([-105, -30], [-5, 0], [0, 1]))
        slow = schedule_backward([Step(100.0), Step(90.0)], [[], [0]], end, {(1, 0): Overlap(20.0, 5.0)})
        # It has to begin 20 minutes after the first one, which ends 5 before it does: so the first begins at -110.
        self.assertEqual((self.minutes(slow.start), self.minutes(slow.end)), ([-110, -90], [-10, 0]))

    def test_the_chain_is_what_sets_it(self) -> None:
        # Two that take as long lead to the third: the one met first stands in the chain; a shorter one never does.
        found = schedule_forward([Step(5.0), Step(5.0), Step(4.0), Step(1.0)], [[], [], [], [0, 1, 2]], self.START)
        self.assertEqual(found.chain, [0, 3])
        back = schedule_backward([Step(5.0), Step(1.0), Step(1.0), Step(4.0)], [[], [0], [0], [0]], self.START)
        self.assertEqual((back.chain, self.minutes(back.start)), ([0, 3], [-9, -1, -1, -4]))
        self.assertEqual(schedule_forward([], [], self.START).chain, [])
        self.assertEqual(schedule_backward([], [], self.START).chain, [])
        self.assertEqual(schedule_backward([Step(1.0)], [[]], self.START).chain, [0])

    def test_waits_and_moves(self) -> None:
        week = parse_shifts("Mo-Fr 08:00-16:00")
        step = Step(60.0, 24 * 60.0, 30.0, week)
        friday = datetime(2026, 11, 27, 15)
        self.assertEqual(step.end(friday), datetime(2026, 11, 30, 8, 30))
        self.assertEqual(step.end(step.start(datetime(2026, 11, 30, 8, 30))), datetime(2026, 11, 30, 8, 30))
        self.assertEqual(Step(60.0, 30.0, 10.0).end(self.START), datetime(2026, 11, 25, 1, 40))
        self.assertEqual(Step(60.0, 30.0, 10.0).start(datetime(2026, 11, 25, 1, 40)), self.START)

    def test_the_path_of_a_loop_begins_with_its_smallest(self) -> None:
        with self.assertRaisesRegex(TallyError, "10 → (20 → 30|30 → 20) → 10$"):
            routing_order({30: [20], 20: [10], 10: [30]})

    def test_long_narrow_networks_and_their_loops(self) -> None:
        """Longer than the way by fronts is worth: edge by edge, in any numbering, with what begins later."""
        count = 400
        before, after = np.arange(count - 1), np.arange(1, count)
        lag = np.ones(count - 1)
        begin = np.zeros(count)
        begin[200] = 1000.0
        wanted = np.where(np.arange(count) < 200, np.arange(count), 800 + np.arange(count)).astype(float)
        self.assertEqual(earliest(begin, before, after, lag).tolist(), wanted.tolist())
        turned = count - 1 - np.arange(count)
        self.assertEqual(earliest(begin[::-1].copy(), turned[before], turned[after], lag).tolist(), wanted[::-1].tolist())
        with self.assertRaisesRegex(ValueError, "wait for one another"):
            critical_path(np.ones(3), np.array([0, 1]), np.array([1, 1]))
        for first, then in ((count - 1, 0), (5, 5)):
            with self.assertRaisesRegex(ValueError, "wait for one another"):
                earliest(begin, np.append(before, first), np.append(after, then), np.append(lag, 1.0))
        end, path = critical_path(np.ones(count), turned[before], turned[after])
        self.assertEqual((end.max(), path), (count, turned.tolist()))


class LeadTimes(unittest.TestCase):
    def table(self, s: Structure, **given: object) -> TimeTable:
        count = len(s.operations)
        columns: dict[str, object] = {
            "before": np.zeros(0, dtype=np.int64),
            "after": np.zeros(0, dtype=np.int64),
            "queue_minutes": np.zeros(count),
            "wait_minutes": np.zeros(count),
            "move_minutes": np.zeros(count),
            "stations": np.ones(count),
            "transfer_quantity": np.full(count, np.nan),
            "outside_days": np.zeros(count),
            "share": np.ones(count),
            "lead_days": np.zeros(len(s.parts)),
        }
        return TimeTable(**{n: columns[n] for n in TimeTable.__dataclass_fields__} | given)  # type: ignore[arg-type]

    def test_on_a_calendar_that_is_open_a_part_of_the_week(self) -> None:
        """At a quarter of the hours, work takes four times as long and a wait as long as ever."""
        s, numbers = structure(product())
        at = {(numbers[p], int(q)): i for i, (p, q) in enumerate(zip(s.operations.parent, s.operations.sequence, strict=True))}
        first, second, below = at["M", 10], at["M", 20], at["S", 10]
        waits = np.zeros(len(s.operations))
        waits[first] = 1440.0
        moves = np.zeros(len(s.operations))
        moves[below] = 60.0
        times = self.table(
            s,
            before=np.array([first]),
            after=np.array([second]),
            wait_minutes=waits,
            move_minutes=moves,
            share=np.full(len(s.operations), 0.25),
        )
        found = dict(zip(numbers, lead_times(s, times, standard_lots(s)), strict=True))
        # S: 4 x 4 min and an hour of moving, four times; M: 20 min four times, a day, then 10 min four times; S is there long before.
        self.assertAlmostEqual(found["S"], (4 * 4 + 60) * 4 / 1440)
        self.assertAlmostEqual(found["M"], (20 * 4 + 1440 + 10 * 4) / 1440)

    def test_overlap_with_a_yield_between(self) -> None:
        """The first passes half of what it starts: two it has started become one of the ten the second starts."""
        definition = product()
        definition.sheets[0].operations[0].yield_percent = D(50)
        s, numbers = structure(definition)
        row = numbers.index("M")
        first, second = (i for i, p in enumerate(s.operations.parent) if p == row)
        moved = np.full(len(s.operations), np.nan)
        moved[first] = 2.0
        times = self.table(
            s, before=np.array([first]), after=np.array([second]), transfer_quantity=moved, queue_minutes=np.full(len(s.operations), 3.0)
        )
        spent = elapsed(s, times, standard_lots(s))
        # 20 are started at 2 min each; two of them take 4 min after a queue of 3; the second's share of one of ten is 1 min.
        self.assertEqual((spent.overlaps.tolist(), spent.lead.tolist(), spent.tail.tolist()), ([True], [7.0], [1.0]))
        days = dict(zip(numbers, lead_times(s, times, standard_lots(s)), strict=True))
        self.assertAlmostEqual(days["M"] * 1440, 3 + 40 + 1)
