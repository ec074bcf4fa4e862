"""Say which components of an order are taken with what is reported, and which the store issues."""

from collections.abc import Mapping
from typing import Any

from verbs.contract import writing

from shop.ledger import open_book
from shop.models import Component, WorkOrder
from shop.order_states import require_now

__all__ = ["flush_components"]


def flush_components(user: Any, order_id: int, rows: Mapping[int, bool]) -> WorkOrder:
    """``rows``: by a component's row, whether it is taken with what is reported at its operation. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "work orders"):
        book = open_book(order_id)
        require_now(book.order, "flush")
        chosen = [c for c in book.components if c.row in rows]
        for component in chosen:
            component.backflush = rows[component.row]
        Component.objects.bulk_update(chosen, ["backflush"])
        book.order.version += 1
        book.order._history_user = user
        book.order.save()
        return book.order
