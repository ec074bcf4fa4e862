"""Report a whole day at once: many orders in one list, typed or pasted, all of them or none."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID, uuid5

from tally_core.basics.errors import Problem, ProblemsError, TallyError
from verbs.contract import writing

from shop.actions.report_work import Report, report_work
from shop.models import Entry, WorkOrder

__all__ = ["DayRow", "report_day"]

_MOST_ROWS = 500


@dataclass(frozen=True, slots=True)
class DayRow:
    """A row of the list: what was done at an operation of an order, as typed."""

    order: str
    report: Report
    done_by: str = ""


def report_day(user: Any, key: UUID, rows: Sequence[DayRow], at: datetime | None = None) -> list[Entry]:
    """Keep all rows, once for a key. Raises ProblemsError with every row that cannot be, by its place ``rows[n]``, and Refused."""
    with writing(user, "shop reports"):
        if not 0 < len(rows) <= _MOST_ROWS:
            raise ProblemsError([Problem("rows", f"a list has 1 to {_MOST_ROWS} rows")])
        numbers = {row.order.strip().upper() for row in rows}
        # Held in one order, so that two lists wait for one another.
        orders = {o.number: o for o in WorkOrder.objects.select_for_update().filter(number__in=numbers).order_by("pk")}
        problems: list[Problem] = []
        entries = []
        for i, row in enumerate(rows):
            order = orders.get(row.order.strip().upper())
            if order is None:
                problems.append(Problem(f"rows[{i}].order", f"there is no order {row.order.strip()[:20] or '(empty)'}"))
                continue
            try:
                entries.append(report_work(user, order.pk, uuid5(key, str(i)), row.report, at, row.done_by))
            except ProblemsError as error:
                problems += [Problem(f"rows[{i}].{p.place}", f"{order.number}, {row.report.sequence}: {p.message}") for p in error.problems]
            except TallyError as error:
                problems.append(Problem(f"rows[{i}].sequence", str(error)))
        if problems:
            raise ProblemsError(problems)
        return entries
