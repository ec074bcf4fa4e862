"""Take what the shop reports of finished orders: rows of a list, all of them or none."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from accounts.access import require
from definition.models.parts import Part
from definition.models.work_centers import FinishedWork
from django.db import transaction
from django.db.models.functions import Upper
from django.utils.timezone import localdate
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.lists.cells import Cell
from tally_core.lists.titled import TitledList, TitledRow

__all__ = ["COLUMNS", "take_finished_work"]

#: The columns a list has, by what their titles may be.
COLUMNS = {
    "order": ("order", "order number", "work order"),
    "part": ("part", "part number", "number"),
    "sequence": ("operation", "sequence"),
    "quantity": ("quantity", "qty", "units"),
    "run_minutes": ("run minutes", "run, min", "run"),
    "setup_minutes": ("set-up minutes", "setup minutes", "set-up, min", "set-up"),
    "finished_on": ("finished", "finished on", "day"),
}
_OPTIONAL = ("setup_minutes",)
_MOST_ROWS = 20_000


def take_finished_work(user: Any, rows: Sequence[Sequence[Cell]]) -> tuple[int, int]:
    """Keep the rows of a list whose first row holds titles. An operation of an order is kept once: rows that are there
    already, unchanged, are passed over.

    Returns how many were kept and how many passed over. Raises ProblemsError with every row that cannot be kept, and
    Refused.
    """
    require(user, "finished orders")
    listed = TitledList(rows, COLUMNS, ["sequence", "quantity", "run_minutes", "setup_minutes"])
    missing = [COLUMNS[name][0] for name in COLUMNS if name not in listed.columns and name not in _OPTIONAL]
    if missing:
        raise ProblemsError([Problem("", f"the list has no column {', '.join(missing)}; its first row must name its columns")])
    if len(rows) > _MOST_ROWS + 1:
        raise ProblemsError([Problem("", f"a list has at most {_MOST_ROWS:,} rows; bring it in in parts")])
    problems: list[Problem] = []

    with transaction.atomic():
        # Whoever writes a number small means the same part.
        numbers = {row.text("part").upper() for row in listed}
        known = Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=numbers)
        parts = {p.number.upper(): p for p in known}
        held = {
            (w.part_id, w.order, w.sequence): w
            for w in FinishedWork.objects.select_for_update().filter(order__in={row.text("order") for row in listed}, reversed_at=None)
        }
        fresh: dict[tuple[int, str, int], FinishedWork] = {}
        same = 0
        for row in listed:
            number = row.number
            wrong: list[str] = []
            part = parts.get(row.text("part").upper())
            if part is None:
                wrong.append(f"part {row.text('part') or '(empty)'} is not known")
            order = row.text("order")
            if not 0 < len(order) <= 64 or not order.isprintable():
                wrong.append("an order has a number of 1 to 64 characters")
            sequence = _number(row, "sequence", "operation", wrong)
            if sequence is not None and (sequence != int(sequence) or not 0 < sequence < 2**31):
                wrong.append("an operation is a whole number")
            quantity = _number(row, "quantity", "quantity", wrong)
            if quantity is not None and quantity <= 0:
                wrong.append("a finished order has a quantity above 0")
            run = _number(row, "run_minutes", "run minutes", wrong)
            setup = _number(row, "setup_minutes", "set-up minutes", wrong) if row.text("setup_minutes") else None
            day = _day(row, wrong)
            if wrong or part is None or sequence is None or quantity is None or run is None or day is None:
                problems += [Problem(f"row {number}", f"row {number}: {words}") for words in wrong]
                continue
            work = FinishedWork(
                part=part,
                order=order,
                sequence=int(sequence),
                finished_on=day,
                quantity=quantity,
                run_minutes=run,
                setup_minutes=setup,
                added_by=str(user),
            )
            key = (part.pk, order, int(sequence))
            other = held.get(key) or fresh.get(key)
            if other is None:
                fresh[key] = work
            elif (other.quantity, other.run_minutes, other.setup_minutes, other.finished_on) == (quantity, run, setup, day):
                same += 1
            else:
                problems.append(
                    Problem(f"row {number}", f"row {number}: operation {int(sequence)} of order {order} is there already with other values")
                )
        if problems:
            raise ProblemsError(problems[:200])
        FinishedWork.objects.bulk_create(fresh.values(), batch_size=2000)
        return len(fresh), same


def _number(row: TitledRow, name: str, word: str, wrong: list[str]) -> Decimal | None:
    try:
        value = row.amount(name)
    except ValueError as error:
        wrong.append(f"{word}: {error}")
        return None
    if value is None or not 0 <= value < 10**9:
        wrong.append(f"{word} is a number from 0, not {row.text(name)[:20] or 'empty'}")
        return None
    return round(value, 9)


def _day(row: TitledRow, wrong: list[str]) -> date | None:
    try:
        day = row.day("finished_on")
    except ValueError:
        day = None
    if day is None:
        wrong.append(f"the day it was finished is written like 2026-11-20, not {row.text('finished_on')[:20] or 'empty'}")
    elif day > localdate():
        wrong.append(f"{day.isoformat()} is still to come")
        return None
    return day
