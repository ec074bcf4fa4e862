"""Work outside: units sent to a supplier, and what was invoiced for them. What comes back is reported like any operation."""

from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.shop.reporting import came
from tally_core.stated.reading import RecordReader
from verbs.contract import writing

from shop.ledger import Book, Row, moment, open_book, write_entry, written
from shop.models import Entry, OrderOperation
from shop.order_states import require_now

__all__ = ["invoice_outside", "send_outside"]


def _place(book: Book, sequence: int) -> tuple[int, OrderOperation]:
    leads = book.stages()[1]
    for i, o in enumerate(leads):
        if o.sequence == sequence:
            if not o.outside:
                raise ProblemsError([Problem("sequence", f"operation {sequence} of {book.order.number} is done inside")])
            return i, o
    raise MissingError(f"{book.order.number} has no operation {sequence}.")


def _amount(text: str, place: str) -> Decimal:
    reader = RecordReader()
    amount = reader.decimal(text, place)
    if reader.problems or amount is None or not 0 < amount < Decimal("1e9"):
        raise ProblemsError(reader.problems or [Problem(place, "a number above 0")])
    return round(amount, 9)


def send_outside(user: Any, order_id: int, key: UUID, sequence: int, quantity: str, slip: str = "", at: datetime | None = None) -> Entry:
    """So many units left for the supplier; at most those that came to the operation. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "shop reports"):
        book = open_book(order_id)
        told = written(book, key)
        if told is not None:
            return told
        require_now(book.order, "report")
        place, operation = _place(book, sequence)
        units = _amount(quantity, "quantity")
        there = came(book.stages()[0], place) - operation.sent
        if units > there:
            raise ProblemsError([Problem("quantity", f"only {max(there, Decimal(0)).normalize():f} are there to be sent")])
        row = Row("sent", operation=operation.row, quantity=units)
        return write_entry(user, book, "sent", [row], key, moment(book, at), "", _words(slip, "slip"))


def invoice_outside(
    user: Any, order_id: int, key: UUID, sequence: int, amount: str, invoice: str = "", at: datetime | None = None
) -> Entry:
    """What the supplier invoiced, in the currency of the workspace. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "shop reports"):
        book = open_book(order_id)
        told = written(book, key)
        if told is not None:
            return told
        require_now(book.order, "report")
        _, operation = _place(book, sequence)
        row = Row("invoice", operation=operation.row, cost={"subcontract": _amount(amount, "amount")})
        return write_entry(user, book, "invoice", [row], key, moment(book, at), "", _words(invoice, "invoice"))


def _words(text: str, place: str) -> str:
    words = " ".join(text.split())
    if len(words) > 100 or not words.isprintable():
        raise ProblemsError([Problem(place, "at most 100 characters that can be printed")])
    return words
