"""Say which components of an order are taken with what is reported, and which the store issues."""

from collections.abc import Mapping
from typing import Any

from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

from shop.ledger import open_book
from shop.models import Component, WorkOrder

__all__ = ["flush_components"]


def flush_components(user: Any, order_id: int, rows: Mapping[int, bool]) -> WorkOrder:
    """``rows``: by a component's row, whether it is taken with what is reported at its operation. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "work orders"):
        book = open_book(order_id)
        if book.order.state not in ("released", "running"):
            raise ProblemsError([Problem("", f"{book.order.number} is {book.order.state}")])
        chosen = [c for c in book.components if c.row in rows]
        for component in chosen:
            component.backflush = rows[component.row]
        Component.objects.bulk_update(chosen, ["backflush"])
        book.order.version += 1
        book.order._history_user = user
        book.order.save()
        return book.order
