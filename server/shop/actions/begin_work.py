"""Somebody begins at an operation, or leaves it without a report."""

from typing import Any

from django.utils.timezone import now
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing

from shop.ledger import open_book
from shop.models import OrderOperation
from shop.order_states import require_now
from shop.stations import done_at

__all__ = ["begin_work"]


def begin_work(user: Any, order_id: int, sequence: int, begins: bool, done_by: str = "", center: str = "") -> OrderOperation:
    """Begin, or leave what was begun. Beginning twice leaves the first moment. ``center``: where. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "shop reports"):
        book = open_book(order_id)
        require_now(book.order, "report")
        operation = next((o for o in book.operations if o.sequence == sequence and o.resource == 0), None)
        if operation is None:
            raise MissingError(f"{book.order.number} has no operation {sequence}.")
        words = " ".join(done_by.split())
        if len(words) > 100 or not words.isprintable():
            raise ProblemsError([Problem("done_by", "at most 100 characters that can be printed")])
        here = operation.center.code if operation.center else ""
        if begins and operation.begun_at is not None and center not in ("", here):
            raise ProblemsError([Problem("center", f"{operation.begun_by} is at it at {here}")])
        if begins:
            done_at(operation, center)
        if begins and operation.begun_at is None:
            operation.begun_at, operation.begun_by = now(), words or str(user)
        elif not begins:
            operation.begun_at, operation.begun_by = None, ""
        operation.save(update_fields=["begun_at", "begun_by"])
        return operation
