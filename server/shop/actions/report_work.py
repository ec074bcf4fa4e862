"""Report work at an operation: good and scrapped units, minutes, and with them what is taken at it (rules W2, W3)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal
from fractions import Fraction
from math import prod
from typing import Any
from uuid import UUID

from definition.models.work_centers import WorkCenter
from definition.records import work_center_record
from django.utils.timezone import localdate
from tally_core.basics.elements import HOURLY
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.shop.expected import ExpectedOperation, OrderPlan, Rates
from tally_core.shop.kept_plan import read_plan
from tally_core.shop.reporting import backflushed, came
from tally_core.stated.reading import RecordReader
from tally_core.structure.rates import center_on
from verbs.contract import writing
from verbs.parts.move_lots import Codes

from shop.laying import decimal_of
from shop.ledger import Book, Row, moment, open_book, write_entry, written
from shop.models import Component, Entry, OrderOperation
from shop.order_states import require_now
from shop.stations import done_at
from shop.taking import beyond_the_list, taking

__all__ = ["Report", "report_work"]

_NONE = Decimal(0)


@dataclass(frozen=True, slots=True)
class Report:
    """What somebody says of an operation, as typed. ``more``: beyond the list, [component's row, quantity];
    ``reason``: for scrap, and for more units than came, which must be meant (``beyond``).
    ``taken``: what was really taken at it, [component's row, quantity], in place of what the list says.
    ``codes``: serial numbers of the good units of a last operation, or its lot."""

    sequence: int
    good: str = "0"
    scrapped: str = "0"
    setup_minutes: str = "0"
    run_minutes: str = "0"
    reason: str = ""
    beyond: bool = False
    more: Sequence[tuple[int, str]] = ()
    taken: Sequence[tuple[int, str]] = ()
    codes: Sequence[str] = ()


def report_work(
    user: Any, order_id: int, key: UUID, report: Report, at: datetime | None = None, done_by: str = "", center: str = ""
) -> Entry:
    """Keep what was done, once for a key. ``center``: where it is reported, which must be where the operation is done.

    Raises ProblemsError for what cannot be, MissingError and Refused; then nothing is written.
    """
    with writing(user, "shop reports"):
        book = open_book(order_id)
        told = written(book, key)
        if told is not None:
            return told
        require_now(book.order, "report")
        when = moment(book, at)
        stages, leads = book.stages()
        place = next((i for i, o in enumerate(leads) if o.sequence == report.sequence), None)
        if place is None:
            raise MissingError(f"{book.order.number} has no operation {report.sequence}.")
        operation = leads[place]
        good, scrapped, setup, run = _typed(book, report)
        problems: list[Problem] = []
        try:
            done_at(operation, center)
        except ProblemsError as error:
            problems += error.problems
        reason = " ".join(report.reason.split())
        if len(reason) > 300 or not reason.isprintable():
            problems.append(Problem("reason", "at most 300 characters that can be printed"))
        if not (good or scrapped or setup or run):
            problems.append(Problem("good", "say what was done: units or minutes"))
        if scrapped and not reason:
            problems.append(Problem("reason", "say why it was scrapped"))
        there = operation.sent if operation.outside else came(stages, place)
        left = there - operation.good - operation.scrapped
        if good + scrapped > left and not (report.beyond and reason):
            word = "were sent" if operation.outside else "came to it"
            problems.append(
                Problem("good", f"only {_short(there)} {word}, {_short(max(left, _NONE))} of them not reported yet; more needs a reason")
            )
        if problems:
            raise ProblemsError(problems)
        plan = read_plan(book.order.plan or {})
        rows = _work(book, plan, operation, good, scrapped, setup, run, when)
        operation.begun_at, operation.begun_by = None, ""
        total = operation.good + operation.scrapped + good + scrapped
        taken = _taken(book, operation, report)
        for component in book.components:
            if component.operation != operation.row:
                continue
            flushed = _flushed(book, plan, component, total) if component.backflush and good + scrapped else []
            rows += flushed
            if component.row in taken:
                rows += _corrected(book, plan, component, taken[component.row], flushed)
        for component_row, quantity in report.more:
            found = next((c for c in book.components if c.row == component_row), None)
            if found is None:
                raise ProblemsError([Problem("more", "this component is not on the order")])
            rows.append(beyond_the_list(book.order, found, _number(quantity, "more")))
        return write_entry(user, book, "report", rows, key, when, done_by, reason, codes=_codes(report.codes, good))


def _codes(told: Sequence[str], good: Decimal) -> Codes:
    """One code is the lot of all; several are a unit each."""
    codes = [code.strip() for code in told if code.strip()]
    return ((codes[0], good),) if len(codes) == 1 else tuple((code, Decimal(1)) for code in codes)


def _short(quantity: Decimal) -> str:
    return f"{quantity.normalize():f}"


def _number(text: str, place: str) -> Decimal:
    reader = RecordReader()
    amount = reader.decimal(text, place)
    if reader.problems or amount is None or not 0 <= amount < Decimal("1e9"):
        raise ProblemsError(reader.problems or [Problem(place, "a number from 0")])
    return round(amount, 9)


def _typed(book: Book, report: Report) -> tuple[Decimal, Decimal, Decimal, Decimal]:
    names = ("good", "scrapped", "setup_minutes", "run_minutes")
    good, scrapped, setup, run = (_number(getattr(report, name) or "0", name) for name in names)
    if book.order.part.whole_only and (good % 1 or scrapped % 1):
        raise ProblemsError([Problem("good", f"{book.order.part.number} is counted in whole units")])
    return good, scrapped, setup, run


def _work(
    book: Book, plan: OrderPlan, operation: OrderOperation, good: Decimal, scrapped: Decimal, setup: Decimal, run: Decimal, when: datetime
) -> list[Row]:
    """A posting for the operation, and one for each that works beside it: its own minutes, as much over or under as those of the operation."""
    units = good + scrapped
    rows = []
    crew = [o for o in book.operations if o.sequence == operation.sequence]
    rates = _rates_on(crew, when)
    told = sum(o.good + o.scrapped for o in crew[:1])
    may_before, may_now = (plan.operations[operation.row].hours(Fraction(x)) for x in (told, told + units))
    allowed = sum(may_now) - sum(may_before)
    spent = Fraction(setup + run) / 60
    for o in crew:
        expected = plan.operations[o.row]
        if o.row == operation.row:
            hours = Fraction(setup) / 60, Fraction(run) / 60
        else:
            share = spent / allowed if allowed else Fraction(1)
            before, after = expected.hours(Fraction(told)), expected.hours(Fraction(told + units))
            hours = (after[0] - before[0]) * share, (after[1] - before[1]) * share
        cost = _paid(expected, *hours, Fraction(units), rates.get(o.center_id))
        lead = o.row == operation.row
        rows.append(
            Row(
                "work",
                operation=o.row,
                good=good,
                scrapped=scrapped,
                setup_minutes=setup if lead else decimal_of(hours[0] * 60),
                run_minutes=run if lead else decimal_of(hours[1] * 60),
                cost=cost,
            )
        )
    return rows


def _paid(expected: ExpectedOperation, setup: Fraction, run: Fraction, units: Fraction, rates: Rates | None) -> dict[str, Decimal]:
    """At the rates of the day (C3); a piece rate is what the operation states. Work outside costs what is invoiced."""
    if expected.outside_price is not None or rates is None:
        return {}
    held = replace(rates, piece=expected.rates.piece)
    return {name: decimal_of(amount) for name, amount in expected.paid(setup, run, units, held).items()}


def _rates_on(operations: Sequence[OrderOperation], when: datetime) -> dict[int | None, Rates]:
    """By work center: what an hour costs on the day it was worked."""
    found: dict[int | None, Rates] = {}
    for center in WorkCenter.objects.filter(pk__in={o.center_id for o in operations if o.center_id}):
        c = center_on(work_center_record(center), localdate(when))
        labor = Fraction(c.labor_rate)
        setup = labor if c.setup_labor_rate is None else Fraction(c.setup_labor_rate)
        found[center.pk] = Rates(
            labor,
            setup,
            {x.element: prod((Fraction(getattr(c, name)) for name in x.factors), start=Fraction(1)) for x in HOURLY},
            Fraction(c.overhead_percent_of_labor),
        )
    return found


def _taken(book: Book, operation: OrderOperation, report: Report) -> dict[int, Decimal]:
    """What is said to be taken, by the component's row. Raises ProblemsError for what the operation does not take."""
    of_it = {c.row: c for c in book.components if c.operation == operation.row and not c.byproduct}
    found = {}
    for row, typed in report.taken:
        if row not in of_it:
            raise ProblemsError([Problem("taken", "this component is not taken at this operation")])
        found[row] = _number(typed, "taken")
        if of_it[row].part.whole_only and found[row] % 1:
            raise ProblemsError([Problem("taken", f"{of_it[row].part.number} is counted in whole units")])
    return found


def _corrected(book: Book, plan: OrderPlan, component: Component, taken: Decimal, flushed: Sequence[Row]) -> list[Row]:
    """What was really taken, beside what the list took: of what the store issues all of it, else what it is more or less."""
    if not component.backflush:
        return taking(book.order, plan, component, taken) if taken else []
    other = taken - sum((row.quantity for row in flushed), _NONE)
    return [beyond_the_list(book.order, component, other)] if other else []


def _flushed(book: Book, plan: OrderPlan, component: Component, total: Decimal) -> list[Row]:
    whole = component.part.whole_only and not component.byproduct
    due = backflushed(plan.lines[component.row], total, component.issued + component.stood_in, whole)
    return taking(book.order, plan, component, due) if due else []
