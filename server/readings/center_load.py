"""The load of a set of builds on every work center, by week, against what it can do."""

import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from definition.models.parts import Part
from definition.models.work_centers import WorkCenter
from django.db.models import Q
from django.utils.timezone import localdate
from loading.reads import part_named
from loading.times import Plan, calendars, plan_product
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.calendar.calendars import Calendar, open_minutes, work_by_week, work_from
from tally_core.calendar.paces import parse_paces, work_together
from tally_core.cost.answers import Basis

__all__ = ["MOST_BUILDS", "OrderWork", "PlannedBuild", "center_load"]

MOST_BUILDS, MOST_WEEKS = 40, 520
#: Operations and purchases of all builds together: some seconds of work.
MOST_STEPS = 40_000


@dataclass(frozen=True, slots=True)
class PlannedBuild:
    """A build as the basis has it, wanted at the end of a day, or begun on the day of the basis when none is given."""

    part: str
    basis: Basis
    wanted: date | None


@dataclass(frozen=True, slots=True)
class OrderWork:
    """What is still to be done at a work center on an order: from when on, how many minutes."""

    order: str
    center: str
    begins: datetime
    minutes: float
    part: str
    sequence: int
    name: str
    group: str = ""  # any work center of which may still do it


@dataclass(frozen=True, slots=True)
class _Work:
    """An operation where it is stated, or what works beside it: its hours by week, and what it is.

    ``group``: any work center of which may do it.
    """

    group: str
    center: str
    hours: dict[date, float]
    of: dict[str, Any]


def center_load(builds: list[PlannedBuild], orders: Sequence[OrderWork] = ()) -> dict[str, Any]:
    """Hours at every work center by week, with the operations they come from, as plain values.

    Every build is laid on the calendars by itself, backward from its wanted day, as on its sheet (T1 to T4); capacity is the
    hours a work center is open times its stations, each at its pace. Set-up and run are load, a queue is not. An operation that
    shares its lot over stations loads all of them, and what works beside it its own work center from the same start. What any
    work center of a group may do stays where it is stated as long as there is time, and else goes as a whole to the one of them
    that it fills least, after all that has its place. Orders add what is still to be done on them, from when they are laid.
    Raises ProblemsError placing what is wrong at its build.
    """
    if not (builds or orders) or len(builds) > MOST_BUILDS:
        raise TallyError(f"A load is made of 1 to {MOST_BUILDS} builds.")
    today = localdate()
    cells: dict[tuple[str, date], float] = {}
    sources: list[dict[str, Any]] = []
    floating: list[_Work] = []
    calendar = calendars()
    for x in itertools.chain(_of_builds(builds, today), _of_orders(orders, calendar)):
        if x.group:
            floating.append(x)
        else:
            _put(cells, sources, x.center, x.hours, x.of)
    capacity_of = _Capacity(calendar)
    _share_out(floating, cells, sources, capacity_of)
    weeks = _weeks({week for _, week in cells})
    used = {center for center, _ in cells}
    centers = []
    for center in WorkCenter.objects.filter(code__in=used).order_by("group", "code"):
        load = [round(cells.get((center.code, week), 0.0), 6) for week in weeks]
        capacity = [capacity_of(center, week) for week in weeks]
        centers.append(
            {
                "code": center.code,
                "name": center.name,
                "group": center.group,
                "stations": center.stations,
                "load": load,
                "capacity": capacity,
                "over": sum(a > b + 1e-9 for a, b in zip(load, capacity, strict=True)),
            }
        )
    return {
        "weeks": [week.isoformat() for week in weeks],
        "today": today.isoformat(),
        "centers": centers,
        "sources": sorted(sources, key=lambda x: (x["center"], x["week"], -x["hours"], x["part"], x["sequence"])),
    }


def _of_builds(builds: Sequence[PlannedBuild], today: date) -> Iterator[_Work]:
    """The work of builds, each laid on the calendars by itself. Raises ProblemsError placing what is wrong at its build."""
    numbers: dict[int, str] = {}
    plans: dict[PlannedBuild, Plan] = {}
    laid = 0
    for index, build in enumerate(builds):
        if build.wanted is not None and build.wanted < today:
            raise ProblemsError([Problem(f"builds[{index}].wanted", f"the wanted day {build.wanted} is past")])
        try:
            # The same build once more is laid like the first one.
            plan = plans.get(build) or plan_product(part_named(build.part), build.basis, build.wanted)
            plans[build] = plan
        except ProblemsError:
            raise
        except TallyError as error:
            raise ProblemsError([Problem(f"builds[{index}].part", str(error))]) from None
        laid += len(plan.kinds)
        if laid > MOST_STEPS:
            raise TallyError(f"These builds have more than {MOST_STEPS:,} operations and purchases together; look at them in parts.")
        fresh = [key for key in plan.part_ids if key not in numbers]
        numbers |= dict(Part.objects.filter(id__in=fresh).values_list("id", "number"))
        for start, lead, row in _worked(plan):
            work = plan.work[row]
            if work.calendar is None:
                continue
            stations = float(plan.times.stations[row])
            begins = work_from(work.calendar, start, float(plan.times.queue_minutes[lead]))
            busy = float(plan.elapsed.setup[row]) + float(plan.elapsed.run[row]) / stations
            total = float(plan.elapsed.setup[row] + plan.elapsed.run[row])
            by_week = work_by_week(work.calendar, begins, busy)
            hours = {week: minutes / busy * total / 60.0 for week, minutes in by_week.items()}
            part = numbers[plan.part_ids[int(plan.structure.operations.parent[row])]]
            of = {"build": index, "order": "", "part": part, "sequence": work.sequence, "name": work.name}
            yield _Work(work.group if row == lead else "", work.center, hours, of)


def _of_orders(orders: Sequence[OrderWork], calendar: Callable[[str, list[dict[str, str]]], Calendar]) -> Iterator[_Work]:
    """What is still to be done on orders, from when it is laid."""
    held = {c.code: calendar(c.shifts, c.stops) for c in WorkCenter.objects.filter(code__in={w.center for w in orders})}
    for x in orders:
        hours = {w: minutes / 60.0 for w, minutes in work_by_week(held[x.center], x.begins, x.minutes).items()}
        of = {"build": None, "order": x.order, "part": x.part, "sequence": x.sequence, "name": x.name}
        yield _Work(x.group, x.center, hours, of)


class _Capacity:
    """Hours that a work center can do in a week: those it is open, times its stations, each at its pace."""

    def __init__(self, calendar: Callable[[str, list[dict[str, str]]], Calendar]) -> None:
        self._calendar = calendar
        self._held: dict[tuple[int, date], float] = {}

    def __call__(self, center: WorkCenter, week: date) -> float:
        key = (center.pk, week)
        if key not in self._held:
            at_once = work_together(parse_paces(center.paces, center.stations), center.stations)
            self._held[key] = open_minutes(self._calendar(center.shifts, center.stops), week) / 60.0 * at_once
        return self._held[key]


def _put(
    cells: dict[tuple[str, date], float], sources: list[dict[str, Any]], center: str, hours: dict[date, float], of: dict[str, Any]
) -> None:
    for week, amount in hours.items():
        cells[center, week] = cells.get((center, week), 0.0) + amount
        sources.append({"any_of": ""} | of | {"center": center, "week": week.isoformat(), "hours": round(amount, 6)})


def _share_out(floating: list[_Work], cells: dict[tuple[str, date], float], sources: list[dict[str, Any]], capacity: _Capacity) -> None:
    """Each where it is stated while there is time, else where it fills least; the earliest and longest first."""
    groups: dict[str, list[WorkCenter]] = defaultdict(list)
    stated: dict[str, WorkCenter] = {}
    may = Q(group__in={x.group for x in floating}) | Q(code__in={x.center for x in floating})
    for center in WorkCenter.objects.filter(may).order_by("code"):
        groups[center.group].append(center)
        stated[center.code] = center
    for x in sorted(floating, key=lambda x: (min(x.hours, default=date.max), -sum(x.hours.values()))):

        def fullest(center: WorkCenter, x: _Work = x) -> tuple[bool, float, bool]:
            shares = [
                (cells.get((center.code, week), 0.0) + amount) / there if (there := capacity(center, week)) else math.inf
                for week, amount in x.hours.items()
            ]
            most, elsewhere = round(max(shares, default=0.0), 9), center.code != x.center
            return elsewhere or most > 1.0, most, elsewhere

        # An order keeps the group that it was released with; its work center may be in another by now.
        of_group = groups[x.group] if stated[x.center] in groups[x.group] else [*groups[x.group], stated[x.center]]
        _put(cells, sources, min(of_group, key=fullest).code, x.hours, x.of | {"any_of": x.group})


def _worked(plan: Plan) -> Iterator[tuple[datetime, int, int]]:
    """When each operation starts, its row, and the row of each that works on it: itself, and what works beside it."""
    resource = plan.structure.operations.resource
    for at, (kind, lead) in enumerate(plan.kinds):
        if kind == "operation":
            yield plan.scheduled.start[at], lead, lead
            row = lead + 1
            while row < len(resource) and resource[row]:
                yield plan.scheduled.start[at], lead, row
                row += 1


def _weeks(found: set[date]) -> list[date]:
    """Every week from the first to the last, also those in which nothing is done."""
    if not found:
        return []
    first, last = min(found), max(found)
    if (last - first).days > 7 * MOST_WEEKS:
        raise TallyError("These builds lie more than ten years apart; look at them in parts.")
    return [first + timedelta(days=7 * n) for n in range((last - first).days // 7 + 1)]
