"""Close an order: what it came to is kept, its receipt is worth what it cost (W6), and its times become measured times. Or cancel it."""

from datetime import datetime
from decimal import Decimal
from fractions import Fraction
from typing import Any
from uuid import uuid4

from definition.models.parts import StockWorth, Workspace
from definition.models.work_centers import FinishedWork
from django.utils.timezone import localdate, now
from standards.models import Standard
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing
from verbs.parts.post_stock import StockPost, post_stock

from shop.laying import decimal_of
from shop.ledger import Book, held_order, open_book
from shop.models import Entry, Posting, WorkOrder
from shop.numbers import keep_open_quantity
from shop.order_states import require_now
from shop.outcome import outcome, plain_outcome

__all__ = ["cancel_order", "close_order"]


def close_order(user: Any, order_id: int, version: int, reason: str = "", at: datetime | None = None) -> WorkOrder:
    """An order that is not done is closed short, with a reason. Nothing is reported on it any more.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "work orders"):
        book = open_book(order_id)
        order = book.order
        if version != order.version:
            raise ProblemsError([Problem("", f"{order.number} was changed by somebody else meanwhile; look at it again")])
        require_now(order, "close")
        words = " ".join(reason.split())
        if order.state == "running" and not words:
            raise ProblemsError([Problem("reason", "it is not done; say why nothing more comes of it")])
        when = at or now()
        postings = list(order.postings.all())
        order.came_to = plain_outcome(order, postings, book.operations, book.components)
        _value_receipt(user, book, postings, when)
        _keep_times(user, book, postings, when)
        order.state, order.closed_by, order.closed_at = "closed", str(user), when
        order.version += 1
        order._history_user, order._change_reason = user, words[:100]
        order.save()
        keep_open_quantity(order, user)
        return order


def _value_receipt(user: Any, book: Book, postings: list[Posting], when: datetime) -> None:
    """Rule W6: what the good units cost more or less than they came in for is put on those still there; the rest of it left with the others.
    Where stock stands at standard, all of it is a variance of the order."""
    order = book.order
    actual = outcome(order, postings).actual
    came_in: dict[str, Fraction] = {}
    for p in postings:
        if p.kind == "receipt":
            for name, text in p.elements.items():
                came_in[name] = came_in.get(name, Fraction(0)) - Fraction(text)
    more = {n: decimal_of(actual.get(n, Fraction(0)) - came_in.get(n, Fraction(0))) for n in {*actual, *came_in}}
    # What rounding leaves over goes to the largest, so that the order comes out at nothing.
    over = sum((p.value for p in postings), Decimal(0)) - sum(more.values(), Decimal(0))
    if over:
        largest = max(more, key=lambda name: abs(more[name]), default="other")
        more[largest] = more.get(largest, Decimal(0)) + over
    more = {name: amount for name, amount in more.items() if amount}
    if not more:
        return
    worth = StockWorth.objects.select_for_update().filter(part=order.part).first()
    there = min(worth.quantity if worth else Decimal(0), order.good)
    entry = Entry.objects.create(key=uuid4(), order=order, kind="closing", at=when, done_by=str(user), posted_by=str(user))
    kept: dict[str, Decimal] = {}
    at_standard = Workspace.the().stock_at == "standard" and Standard.objects.filter(part=order.part).exists()
    if there > 0 and not at_standard:
        kept = {name: round(amount * there / order.good, 9) for name, amount in more.items()}
        move = post_stock(str(user), [StockPost(order.part_id, Decimal(0), f"closed, {order.number}", kept)], when)[0]
        Posting.objects.create(
            entry=entry,
            order=order,
            kind="receipt",
            part=order.part,
            value=-sum(kept.values(), Decimal(0)),
            elements={name: f"{-amount:f}" for name, amount in kept.items()},
            move=move,
        )
    rest = {name: amount - kept.get(name, Decimal(0)) for name, amount in more.items()}
    if any(rest.values()):
        Posting.objects.create(
            entry=entry,
            order=order,
            kind="rest",
            value=-sum(rest.values(), Decimal(0)),
            elements={n: f"{-a:f}" for n, a in rest.items() if a},
        )


def _keep_times(user: Any, book: Book, postings: list[Posting], when: datetime) -> None:
    """What the run of each operation took joins the measured times of the part."""
    rows = []
    for o in book.operations:
        of = [p for p in postings if p.kind == "work" and p.operation == o.row]
        run, units = sum((p.run_minutes for p in of), Decimal(0)), o.good + o.scrapped
        if o.resource or o.outside or o.center_id is None or units <= 0 or run <= 0:
            continue
        setup = sum((p.setup_minutes for p in of), Decimal(0))
        rows.append(
            FinishedWork(
                part=book.order.part,
                order=book.order.number,
                sequence=o.sequence,
                finished_on=localdate(when),
                quantity=units,
                run_minutes=run,
                setup_minutes=setup,
                added_by=str(user),
            )
        )
    FinishedWork.objects.bulk_create(rows, ignore_conflicts=True)


def cancel_order(user: Any, order_id: int, version: int, reason: str) -> WorkOrder:
    """An order on which nothing stands reported is not made. Its nested orders stay, each to be cancelled by itself.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "work orders"):
        order = held_order(order_id, version)
        words = " ".join(reason.split())
        if not 0 < len(words) <= 100 or not words.isprintable():
            raise ProblemsError([Problem("reason", "say why, in 1 to 100 characters")])
        require_now(order, "cancel")
        order.state, order.closed_by, order.closed_at = "cancelled", str(user), now()
        order.version += 1
        order._history_user, order._change_reason = user, words
        order.save()
        keep_open_quantity(order, user)
        return order
