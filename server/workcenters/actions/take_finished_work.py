"""Take what the shop reports of finished orders: rows of a list, all of them or none."""

from collections.abc import Sequence
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from typing import Any

from accounts.access import require
from django.db import transaction
from django.db.models.functions import Upper
from django.utils.timezone import localdate
from parts.models import Part
from tally_core.errors import Problem, ProblemsError

from workcenters.models import FinishedWork

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


def take_finished_work(user: Any, rows: Sequence[Sequence[str]]) -> tuple[int, int]:
    """Keep the rows of a list whose first row holds titles. An operation of an order is kept once: rows that are there
    already, unchanged, are passed over.

    Returns how many were kept and how many passed over. Raises ProblemsError with every row that cannot be kept, and
    Refused.
    """
    require(user, "finished orders")
    titles = [cell.strip().lower() for cell in rows[0]] if rows else []
    at = {name: next((titles.index(w) for w in words if w in titles), -1) for name, words in COLUMNS.items()}
    missing = [COLUMNS[name][0] for name, index in at.items() if index < 0 and name not in _OPTIONAL]
    if missing:
        raise ProblemsError(
            [Problem("", f"the list has no column {', '.join(missing)}; its first row must name its columns")]
        )
    if len(rows) > _MOST_ROWS + 1:
        raise ProblemsError([Problem("", f"a list has at most {_MOST_ROWS:,} rows; bring it in in parts")])
    problems: list[Problem] = []

    def cell(row: Sequence[str], name: str) -> str:
        return row[at[name]].strip() if 0 <= at[name] < len(row) else ""

    body = [(n, row) for n, row in enumerate(rows[1:], 2) if any(c.strip() for c in row)]
    with transaction.atomic():
        # Whoever writes a number small means the same part.
        numbers = {cell(r, "part").upper() for _, r in body}
        known = Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=numbers)
        parts = {p.number.upper(): p for p in known}
        held = {
            (w.part_id, w.order, w.sequence): w
            for w in FinishedWork.objects.select_for_update().filter(order__in={cell(r, "order") for _, r in body})
        }
        fresh: dict[tuple[int, str, int], FinishedWork] = {}
        same = 0
        for number, row in body:
            wrong: list[str] = []
            part = parts.get(cell(row, "part").upper())
            if part is None:
                wrong.append(f"part {cell(row, 'part') or '(empty)'} is not known")
            order = cell(row, "order")
            if not 0 < len(order) <= 64 or not order.isprintable():
                wrong.append("an order has a number of 1 to 64 characters")
            sequence = _number(cell(row, "sequence"), "operation", wrong)
            if sequence is not None and (sequence != int(sequence) or not 0 < sequence < 2**31):
                wrong.append("an operation is a whole number")
            quantity = _number(cell(row, "quantity"), "quantity", wrong)
            if quantity is not None and quantity <= 0:
                wrong.append("a finished order has a quantity above 0")
            run = _number(cell(row, "run_minutes"), "run minutes", wrong)
            text = cell(row, "setup_minutes")
            setup = _number(text, "set-up minutes", wrong) if text else None
            day = _day(cell(row, "finished_on"), wrong)
            if wrong or part is None or sequence is None or quantity is None or run is None or day is None:
                problems += [Problem(f"row {number}", f"row {number}: {words}") for words in wrong]
                continue
            work = FinishedWork(
                part=part, order=order, sequence=int(sequence), finished_on=day, quantity=quantity, run_minutes=run,
                setup_minutes=setup, added_by=str(user),
            )  # fmt: skip
            key = (part.pk, order, int(sequence))
            other = held.get(key) or fresh.get(key)
            if other is None:
                fresh[key] = work
            elif (other.quantity, other.run_minutes, other.setup_minutes, other.finished_on) == (
                quantity,
                run,
                setup,
                day,
            ):
                same += 1
            else:
                problems.append(
                    Problem(f"row {number}", f"row {number}: operation {int(sequence)} of order {order} is there already with other values")
                )  # fmt: skip
        if problems:
            raise ProblemsError(problems[:200])
        FinishedWork.objects.bulk_create(fresh.values(), batch_size=2000)
        return len(fresh), same


def _number(text: str, word: str, wrong: list[str]) -> Decimal | None:
    try:
        value = Decimal(text.replace(",", ".") if text.count(",") == 1 and "." not in text else text)
    except InvalidOperation:
        value = Decimal("NaN")
    if not value.is_finite() or value < 0 or value >= 10**9:
        wrong.append(f"{word} is a number, not {text[:20] or 'empty'}")
        return None
    return round(value, 9)


def _day(text: str, wrong: list[str]) -> date | None:
    try:
        day = datetime.fromisoformat(text).date()
    except ValueError:
        wrong.append(f"the day it was finished is written like 2026-11-20, not {text[:20] or 'empty'}")
        return None
    if day > localdate():
        wrong.append(f"{day.isoformat()} is still to come")
        return None
    return day
