"""When a product's operations and purchases happen: the structure laid on the calendars of its work centers."""

from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

import numpy as np
from django.db import connection
from django.utils.timezone import localdate
from parts.models import Part, Workspace
from sheets.models import BuildSheet
from tally_core.answers import Basis
from tally_core.calendars import PLAIN_WEEK, Calendar, parse_shifts
from tally_core.cost import job_lots, operation_costs, standard_lots
from tally_core.errors import Problem, ProblemsError
from tally_core.needs import job_needs
from tally_core.ordering import reachable
from tally_core.schedule import Scheduled, Step, routing_order, schedule_backward, schedule_forward
from tally_core.structure import Structure
from tally_core.tables import BOUGHT, CHARGE

from .reads import keys_text, load_question

__all__ = ["product_times"]

_DAY = 24 * 60.0
_OPERATIONS_SQL = """
    SELECT o.id, o.sequence, o.name, o.after, o.queue_minutes::float8, o.wait_minutes::float8, o.move_minutes::float8, o.outside,
        o.lead_days, o.supplier, coalesce(w.name, ''), coalesce(w.code, ''), coalesce(w.shifts, '')
    FROM sheets_operation o LEFT JOIN workcenters_workcenter w ON w.id = o.work_center_id
    WHERE o.sheet_id = ANY(%s::bigint[])
"""


class _Network:
    """Steps and what each follows, with what they are."""

    def __init__(self) -> None:
        self.steps: list[Step] = []
        self.follows: list[list[int]] = []
        self.kinds: list[tuple[str, int]] = []  # ("operation" | "order" | "there", row of the operation or part)

    def add(self, step: Step, follows: list[int], kind: str, row: int) -> int:
        self.steps.append(step)
        self.follows.append(follows)
        self.kinds.append((kind, row))
        return len(self.steps) - 1


def product_times(sheet: BuildSheet, basis: Basis, wanted: date | None) -> dict[str, Any]:
    """The schedule of a product as plain values: backward from the end of a wanted day, or forward from the day of the basis.

    Every made part is one lot, as the basis has it (C5). A component is there when the operation it is issued at begins, its
    queue included. What is bought takes its lead time in days on the clock; charges and what the customer supplies are
    there. Raises ProblemsError for a wanted day that is past, TallyError where the basis has no answer or operations
    wait for one another.
    """
    today = localdate()
    if wanted is not None and wanted < today:
        raise ProblemsError([Problem("wanted", f"the wanted day {wanted.isoformat()} is past")])
    loaded, question = load_question(sheet.part, basis, sheet)
    s = question.structure
    lots = standard_lots(s)
    needs = None
    if basis.quantity is not None:
        needs = job_needs(s, question.top, float(basis.quantity))
        lots = job_lots(s, needs)
    keys = loaded.part_ids.tolist()
    parts = Part.objects.in_bulk(keys)
    with connection.cursor() as cursor:
        cursor.execute(_OPERATIONS_SQL, [keys_text(loaded.sheet_of.values())])
        told = {row[0]: row[1:] for row in cursor.fetchall()}
    operations = [told[UUID(bytes=bytes(key))] for key in loaded.operation_ids]
    lead = {row: parts[key].lead_time_days for row, key in enumerate(keys)}
    network = _network(s, question.top, lots, operations, lead)
    if wanted is not None:
        scheduled = schedule_backward(network.steps, network.follows, _midnight(wanted + timedelta(days=1)))
    else:
        scheduled = schedule_forward(network.steps, network.follows, _midnight(basis.as_of))
    return _answer(network, scheduled, s, [parts[k] for k in keys], operations, needs, today, wanted)


def _midnight(day: date) -> datetime:
    return datetime.combine(day, datetime.min.time())


def _network(s: Structure, top: int, lots: np.ndarray, operations: list, lead: dict[int, int]) -> _Network:
    closed = frozenset(Workspace.the().closed_days)
    calendars: dict[str, Calendar] = {}

    def calendar(shifts: str) -> Calendar:
        if shifts not in calendars:
            calendars[shifts] = Calendar((parse_shifts(shifts) if shifts else PLAIN_WEEK).shifts, closed)
        return calendars[shifts]

    work = operation_costs(s.operations, s.starts, lots[s.operations.parent])
    minutes = ((work.setup_hours + work.run_hours) * 60.0).tolist()
    counts = ~s.byproduct & ~s.free
    taken = reachable(len(s.parts), s.parent[counts], s.child[counts], top)
    at = np.where(s.lines.operation[s.line] >= 0, s.lines.operation[s.line], s.first_operation[s.parent])
    network = _Network()
    there: dict[int, int] = {}
    # What stands below comes first.
    for part in s.order[::-1].tolist():
        if not taken[part]:
            continue
        usages = np.arange(len(s.line))[s.usages_of(part)]
        usages = usages[counts[usages]]
        below: dict[int, list[int]] = {}
        for operation, child in zip(at[usages].tolist(), s.child[usages].tolist(), strict=True):
            below.setdefault(operation, []).append(there[child])
        rows = list(range(*s.operations_of(part).indices(len(operations))))
        if s.parts.kind[part] in (BOUGHT, CHARGE):
            days = lead[part] if s.parts.kind[part] == BOUGHT else 0
            there[part] = network.add(Step(days * _DAY), [], "order", part)
        elif not rows:
            there[part] = network.add(Step(0.0), sorted({x for xs in below.values() for x in xs}), "there", part)
        else:
            there[part] = _routing(network, part, rows, operations, minutes, below, calendar)
    return network


def _routing(
    network: _Network, part: int, rows: list[int], operations: list, minutes: list, below: dict, calendar
) -> int:
    """The steps of one part's operations; returns the step at which the part is there."""
    row_of = {operations[row][0]: row for row in rows}
    before: dict[int, list[int]] = {}
    for place, row in enumerate(rows):
        sequence, _, after, *_ = operations[row]
        named = [other for other in after if other in row_of]
        before[sequence] = named or ([operations[rows[place - 1]][0]] if place and not after else [])
    step_of: dict[int, int] = {}
    for sequence in routing_order(before):
        row = row_of[sequence]
        _, _, _, queue, wait, move, outside, days, _, _, _, shifts = operations[row]
        step = (
            Step(queue + days * _DAY, wait, move)
            if outside
            else Step(queue + minutes[row], wait, move, calendar(shifts))
        )
        follows = [step_of[other] for other in before[sequence]] + below.get(row, [])
        step_of[sequence] = network.add(step, follows, "operation", row)
    followed = {other for others in before.values() for other in others}
    return network.add(
        Step(0.0), [step for sequence, step in step_of.items() if sequence not in followed], "there", part
    )


def _answer(
    network: _Network, scheduled: Scheduled, s: Structure, parts: list[Part], operations: list, needs: Any, today: date,
    wanted: date | None,
) -> dict[str, Any]:  # fmt: skip
    chain = set(scheduled.chain)
    steps, orders = [], []
    for at, (kind, row) in enumerate(network.kinds):
        start, end = scheduled.start[at], scheduled.end[at]
        if kind == "order" and s.parts.kind[row] == BOUGHT:
            part = parts[row]
            orders.append(
                {
                    "part": part.number,
                    "description": part.description,
                    "order_by": start.date().isoformat(),
                    "needed": end.isoformat(timespec="minutes"),
                    "lead_days": part.lead_time_days,
                    "quantity": None if needs is None else float(needs.lot[row]),
                    "unit": part.unit,
                    "chain": at in chain,
                    "late": start.date() < today,
                }
            )
        elif kind == "operation":
            sequence, name, _, queue, wait, move, outside, days, supplier, center, code, _ = operations[row]
            part = parts[int(s.operations.parent[row])]
            steps.append(
                {
                    "part": part.number,
                    "description": part.description,
                    "sequence": sequence,
                    "name": name,
                    "where": f"outside: {supplier}" if outside else center or code,
                    "start": start.isoformat(timespec="minutes"),
                    "end": end.isoformat(timespec="minutes"),
                    "work_minutes": round(network.steps[at].work - queue, 3) if not outside else days * _DAY,
                    "queue_minutes": queue,
                    "wait_minutes": wait,
                    "move_minutes": move,
                    "outside": outside,
                    "chain": at in chain,
                }
            )
    starts = [scheduled.start[i] for i in range(len(network.steps))]
    first, last = (min(starts), max(scheduled.end)) if starts else (_midnight(today), _midnight(today))
    return {
        "wanted": wanted.isoformat() if wanted else None,
        "today": today.isoformat(),
        "start": first.isoformat(timespec="minutes"),
        "end": last.isoformat(timespec="minutes"),
        "lead_days": round((last - first).total_seconds() / 86400.0, 2),
        "steps": sorted(steps, key=lambda x: (x["start"], x["end"], x["part"], x["sequence"])),
        "orders": sorted(orders, key=lambda x: (x["order_by"], x["part"])),
    }
