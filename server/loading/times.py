"""When a product's operations and purchases happen: the structure laid on the calendars of its work centers."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from decimal import Decimal
from types import MappingProxyType
from typing import Any
from uuid import UUID

import numpy as np
from definition.models.parts import Part, Workspace
from definition.models.sheets import BuildSheet
from definition.models.work_centers import WorkCenter
from definition.stock_levels import Level, step_of, stock_levels
from django.db import connection
from django.utils.timezone import localdate
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.basics.kinds import BOUGHT, HAS_PRICE
from tally_core.basics.ordering import reachable
from tally_core.calendar.calendars import PLAIN_WEEK, Calendar, parse_shifts
from tally_core.calendar.schedule import Overlap, Scheduled, Step, routing_order, schedule_backward, schedule_forward
from tally_core.cost.answers import Basis
from tally_core.cost.cost import job_lots, standard_lots
from tally_core.structure.needs import Needs, job_needs
from tally_core.structure.structure import Structure
from tally_core.structure.to_order import covered_on, to_order
from tally_core.time.leadtime import DAY, Elapsed, TimeTable, elapsed

from loading.columns import keys_text
from loading.reads import load_question
from loading.times_read import load_times

__all__ = ["Plan", "Work", "calendars", "plan_product", "product_times"]

_OPERATIONS_SQL = """
    SELECT o.id, o.sequence, o.name, o.outside, coalesce(o.supplier, ''), coalesce(w.name, ''), coalesce(w.code, ''), coalesce(w.shifts, ''), w.id,
        CASE WHEN o.any_of_group THEN w."group" ELSE '' END
    FROM definition_operation o LEFT JOIN definition_workcenter w ON w.id = o.work_center_id
    WHERE o.sheet_id = ANY(%s::bigint[])
"""


@dataclass(frozen=True, slots=True)
class Work:
    """What is said of an operation, and when anybody works at it; outside that is nobody's calendar here."""

    sequence: int
    name: str
    outside: bool
    supplier: str
    center_name: str
    center: str
    group: str  # any work center of which may do it; empty where that one does
    calendar: Calendar | None


@dataclass(slots=True)
class _Network:
    """Steps, what each follows and how far it overlaps with it, and what they are."""

    steps: list[Step] = field(default_factory=list)
    follows: list[list[int]] = field(default_factory=list)
    kinds: list[tuple[str, int]] = field(default_factory=list)  # ("operation" | "order" | "there", operation or part)
    overlaps: dict[tuple[int, int], Overlap] = field(default_factory=dict)

    def add(self, step: Step, follows: list[int], kind: str, row: int) -> int:
        self.steps.append(step)
        self.follows.append(follows)
        self.kinds.append((kind, row))
        return len(self.steps) - 1


@dataclass(slots=True)
class Plan:
    """One lot of a product in time. Steps are ``kinds``: operations and parts by their rows."""

    structure: Structure
    part_ids: list[int]
    work: list[Work]  # over operations
    times: TimeTable
    elapsed: Elapsed
    needs: Needs | None
    steps: list[Step]
    kinds: list[tuple[str, int]]
    scheduled: Scheduled
    cover: dict[int, Level] | None  # over bought parts, where stock counts


def plan_product(
    part: Part,
    basis: Basis,
    wanted: date | None,
    sheet: BuildSheet | None = None,
    stock: bool = False,
    alone: bool = False,
    taken: Mapping[int, list[dict[str, str]]] = MappingProxyType({}),
    begin: datetime | None = None,
) -> Plan:
    """The schedule of a product: backward from the end of a wanted day, or forward from ``begin``, else from the day of the basis.

    Every made part is one lot, as the basis has it (C5). A component is there when the operation it is issued at begins, its
    queue included. What is bought takes its lead time in days on the clock; charges and what the customer supplies are
    there. With ``stock``, what is on hand, or comes in before it is needed, covers what a job takes of bought parts and need not
    be ordered; of standard lots nobody knows what they take. ``alone`` lays the part's own operations only: all it takes is there. ``taken``: by the key of a work center further spans,
    written like its stops, in which nothing is laid there. Raises TallyError where the basis has no answer or operations wait for one another.
    """
    loaded, question = load_question(part, basis, sheet)
    s = question.structure
    lots = standard_lots(s)
    needs = None
    if basis.quantity is not None:
        needs = job_needs(s, question.top, float(basis.quantity))
        lots = job_lots(s, needs)
    times = load_times(loaded)
    spent = elapsed(s, times, lots)
    with connection.cursor() as cursor:
        cursor.execute(_OPERATIONS_SQL, [keys_text(loaded.sheet_of.values())])
        told = {row[0]: row[1:] for row in cursor.fetchall()}
    if len(told) != len(loaded.operation_ids):
        raise TallyError("Sheets were changed while they were read; ask once more.")
    stops_of = dict(WorkCenter.objects.exclude(stops=[]).values_list("id", "stops"))
    calendar = calendars()
    work = []
    for key in loaded.operation_ids:
        sequence, name, outside, supplier, center_name, code, shifts, center, group = told[UUID(bytes=bytes(key))]
        works = None if outside else calendar(shifts, [*stops_of.get(center, []), *taken.get(center, [])])
        work.append(Work(sequence, name, outside, supplier, center_name, code, group or "", works))
    network = _network(s, question.top, work, times, spent, alone)
    cover = None
    if stock and needs is not None:
        bought = np.flatnonzero(s.parts.kind == BOUGHT)
        keys = {int(loaded.part_ids[row]): int(row) for row in bought}
        levels = stock_levels(Part.objects.filter(pk__in=list(keys)))
        cover = {keys[key]: level for key, level in levels.items()}
    try:
        scheduled = _laid(network, begin or _midnight(basis.as_of), wanted, needs, cover)
    except OverflowError:
        raise TallyError("This would reach beyond any calendar; look at its days, its waits and its lead times.") from None
    return Plan(s, loaded.part_ids.tolist(), work, times, spent, needs, network.steps, network.kinds, scheduled, cover)


def _laid(network: _Network, first: datetime, wanted: date | None, needs: Needs | None, cover: dict[int, Level] | None) -> Scheduled:
    """The network laid on its calendars; orders that what is there makes needless, or early, take no longer than it takes."""
    orders = [(at, row) for at, (kind, row) in enumerate(network.kinds) if kind == "order" and cover and row in cover]
    if wanted is None:
        for at, row in orders:
            assert needs is not None and cover is not None
            there = covered_on(_exact(needs.lot[row]), cover[row].free, cover[row].arriving())
            if there is not None:
                minutes = (_midnight(there) - first) / timedelta(minutes=1) if there > first.date() else 0.0
                network.steps[at] = Step(min(network.steps[at].work, minutes))
        return schedule_forward(network.steps, network.follows, first, network.overlaps)
    end = _midnight(wanted + timedelta(days=1))
    scheduled = schedule_backward(network.steps, network.follows, end, network.overlaps)
    needless = [at for at, row in orders if needs and cover and not _short(needs.lot[row], cover[row], scheduled.end[at].date())]
    if not needless:
        return scheduled
    # When an order ends is set by what takes it; so only its own length changes.
    for at in needless:
        network.steps[at] = Step(0.0)
    return schedule_backward(network.steps, network.follows, end, network.overlaps)


def _exact(quantity: float) -> Decimal:
    return Decimal(repr(round(float(quantity), 9)))


def _short(quantity: float, level: Level, needed: date) -> Decimal:
    """What is to be ordered so that a quantity is there on a day."""
    return to_order(_exact(quantity), level.free + level.arriving_by(needed), level.minimum, level.step)


def product_times(sheet: BuildSheet, basis: Basis, wanted: date | None, stock: bool = True) -> dict[str, Any]:
    """:func:`plan_product` as plain values. Raises ProblemsError for a wanted day that is past."""
    today = localdate()
    if wanted is not None and wanted < today:
        raise ProblemsError([Problem("wanted", f"the wanted day {wanted.isoformat()} is past")])
    plan = plan_product(sheet.part, basis, wanted, sheet, stock)
    parts = Part.objects.in_bulk(plan.part_ids)
    return _answer(plan, [parts[key] for key in plan.part_ids], today, wanted)


def _midnight(day: date) -> datetime:
    return datetime.combine(day, datetime.min.time())


def calendars() -> Callable[[str, list[dict[str, str]]], Calendar]:
    """Calendars by shifts and stops, as a work center has them; each is made once."""
    closed = frozenset(Workspace.the().closed_days)
    held: dict[tuple[str, str], Calendar] = {}

    def calendar(shifts: str, stops: list[dict[str, str]]) -> Calendar:
        key = (shifts, repr(stops))
        if key not in held:
            spans = [(datetime.fromisoformat(x["start"]), datetime.fromisoformat(x["end"])) for x in stops]
            week = (parse_shifts(shifts) if shifts else PLAIN_WEEK).shifts
            held[key] = Calendar(week, closed, tuple(spans))
        return held[key]

    return calendar


def _network(s: Structure, top: int, work: list[Work], times: TimeTable, spent: Elapsed, alone: bool) -> _Network:
    counts = ~s.byproduct & ~s.free
    taken = reachable(len(s.parts), s.parent[counts], s.child[counts], top)
    if alone:
        taken[np.arange(len(taken)) != top] = False
    at = np.where(s.lines.operation[s.line] >= 0, s.lines.operation[s.line], s.first_operation[s.parent])
    follows: dict[int, list[int]] = {}
    edges: dict[tuple[int, int], int] = {}
    for edge, (before, after) in enumerate(zip(times.before.tolist(), times.after.tolist(), strict=True)):
        follows.setdefault(after, []).append(before)
        edges[after, before] = edge
    network = _Network()
    there: dict[int, int] = {}
    # What stands below comes first.
    for part in s.order[::-1].tolist():
        if not taken[part]:
            continue
        usages = np.arange(len(s.line))[s.usages_of(part)]
        usages = usages[counts[usages]]
        below: dict[int, list[int]] = {}
        for operation, child in () if alone else zip(at[usages].tolist(), s.child[usages].tolist(), strict=True):
            below.setdefault(operation, []).append(there[child])
        rows = [o for o in range(*s.operations_of(part).indices(len(work))) if s.operations.resource[o] == 0]
        if HAS_PRICE[s.parts.kind[part]]:
            days = float(times.lead_days[part]) if s.parts.kind[part] == BOUGHT else 0.0
            there[part] = network.add(Step(days * DAY), [], "order", part)
        elif not rows:
            there[part] = network.add(Step(0.0), sorted({x for xs in below.values() for x in xs}), "there", part)
        else:
            own = {row: follows.get(row, []) for row in rows}
            there[part] = _routing(network, part, own, edges, work, times, spent, below)
    return network


def _routing(
    network: _Network,
    part: int,
    follows: dict[int, list[int]],
    edges: dict[tuple[int, int], int],
    work: list[Work],
    times: TimeTable,
    spent: Elapsed,
    below: dict[int, list[int]],
) -> int:
    """The steps of one part's operations; returns the step at which the part is there."""
    of_sequence = {work[row].sequence: row for row in follows}
    order = routing_order({work[row].sequence: [work[x].sequence for x in rows] for row, rows in follows.items()})
    step_of: dict[int, int] = {}
    for row in (of_sequence[sequence] for sequence in order):
        step = Step(float(spent.work[row]), float(times.wait_minutes[row]), float(times.move_minutes[row]), work[row].calendar)
        before = [step_of[other] for other in follows[row]]
        step_of[row] = network.add(step, before + below.get(row, []), "operation", row)
        for other in follows[row]:
            edge = edges[row, other]
            if spent.overlaps[edge]:
                overlap = Overlap(float(spent.lead[edge]), float(spent.tail[edge]))
                network.overlaps[step_of[row], step_of[other]] = overlap
    followed = {other for rows in follows.values() for other in rows}
    return network.add(Step(0.0), [step for row, step in step_of.items() if row not in followed], "there", part)


def _answer(plan: Plan, parts: list[Part], today: date, wanted: date | None) -> dict[str, Any]:
    s, scheduled, needs, spent, times = plan.structure, plan.scheduled, plan.needs, plan.elapsed, plan.times
    chain = set(scheduled.chain)
    steps, orders = [], []
    for at, (kind, row) in enumerate(plan.kinds):
        start, end = scheduled.start[at], scheduled.end[at]
        if kind == "order" and s.parts.kind[row] == BOUGHT:
            part = parts[row]
            # Where stock does not count, the amounts that can be bought still do.
            level = plan.cover[row] if plan.cover is not None else None
            rules = level or Level(minimum=part.order_minimum, step=step_of(part))
            quantity = None if needs is None else _short(needs.lot[row], rules, end.date())
            by = end.date() - timedelta(days=part.lead_time_days)
            orders.append(
                {
                    "part": part.number,
                    "description": part.description,
                    "order_by": None if quantity == 0 else by.isoformat(),
                    "needed": end.isoformat(timespec="minutes"),
                    "lead_days": part.lead_time_days,
                    "taken": None if needs is None else float(needs.lot[row]),
                    "free": float(level.free) if level else 0.0,
                    "on_order": float(level.arriving_by(end.date())) if level else 0.0,
                    "quantity": None if quantity is None else float(quantity),
                    "unit": part.unit,
                    "chain": at in chain,
                    "late": quantity != 0 and by < today,
                }
            )
        elif kind == "operation":
            work, part = plan.work[row], parts[int(s.operations.parent[row])]
            queue = float(times.queue_minutes[row])
            steps.append(
                {
                    "part": part.number,
                    "description": part.description,
                    "sequence": work.sequence,
                    "name": work.name,
                    "where": f"outside: {work.supplier}" if work.outside else work.center_name or work.center,
                    "start": start.isoformat(timespec="minutes"),
                    "end": end.isoformat(timespec="minutes"),
                    "work_minutes": round(float(spent.work[row]) - queue, 3),
                    "queue_minutes": queue,
                    "wait_minutes": float(times.wait_minutes[row]),
                    "move_minutes": float(times.move_minutes[row]),
                    "outside": work.outside,
                    "chain": at in chain,
                }
            )
    starts = scheduled.start
    first, last = (min(starts), max(scheduled.end)) if starts else (_midnight(today), _midnight(today))
    return {
        "wanted": wanted.isoformat() if wanted else None,
        "stock": plan.cover is not None,
        "today": today.isoformat(),
        "start": first.isoformat(timespec="minutes"),
        "end": last.isoformat(timespec="minutes"),
        "lead_days": round((last - first).total_seconds() / 86400.0, 2),
        "steps": sorted(steps, key=lambda x: (x["start"], x["end"], x["part"], x["sequence"])),
        "orders": sorted(orders, key=lambda x: (x["order_by"] or "~", x["part"])),
    }
