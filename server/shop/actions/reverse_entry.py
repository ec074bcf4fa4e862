"""Reverse an entry that was wrong, with a reason: each of its postings the other way, stock with it. The first one stays as it was."""

from decimal import Decimal
from typing import Any
from uuid import UUID

from definition.models.parts import LotMove
from django.utils.timezone import now
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing
from verbs.parts.post_stock import StockPost

from shop.ledger import Row, open_book, write_entry, written
from shop.models import Entry, Posting
from shop.order_states import require_now

__all__ = ["reverse_entry"]


def reverse_entry(user: Any, order_id: int, entry_id: int, key: UUID, reason: str) -> Entry:
    """What was received from the order with it goes out again, at what stock is worth now.

    Raises ProblemsError without a reason, for what was reversed already, or where what was received is no longer there; MissingError and Refused.
    """
    with writing(user, "shop reports"):
        book = open_book(order_id)
        told = written(book, key)
        if told is not None:
            return told
        require_now(book.order, "report")
        entry = Entry.objects.filter(pk=entry_id, order=book.order).prefetch_related("postings__part").first()
        if entry is None:
            raise MissingError("This entry is not of this order.")
        words = " ".join(reason.split())
        if not 0 < len(words) <= 300 or not words.isprintable():
            raise ProblemsError([Problem("reason", "say why, in 1 to 300 characters")])
        if entry.kind == "reversal" or Entry.objects.filter(reverses=entry).exists():
            raise ProblemsError(
                [
                    Problem(
                        "entry", "this was reversed already" if entry.kind != "reversal" else "a reversal is not reversed; report it anew"
                    )
                ]
            )
        # What came out of the last operation follows by itself.
        rows = [_back(p, book.order.number) for p in entry.postings.all() if p.kind != "receipt"]
        came = LotMove.objects.filter(move__posting__entry=entry, move__posting__kind="receipt").select_related("lot")
        codes = tuple((x.lot.code, x.quantity) for x in came)
        return write_entry(user, book, "reversal", rows, key, now(), "", words, entry, codes=codes)


def _back(posting: Posting, number: str) -> Row:
    row = Row(
        posting.kind,
        posting.operation,
        posting.component,
        posting.part_id,
        -posting.quantity,
        -posting.stood_in,
        -posting.good,
        -posting.scrapped,
        -posting.setup_minutes,
        -posting.run_minutes,
        {name: -Decimal(text) for name, text in posting.elements.items()},
    )
    if posting.move_id is not None:
        # What was taken comes back for what it was worth then; ``quantity`` of a by-product came in, and goes out.
        came_in = posting.value < 0 or (posting.value == 0 and posting.quantity < 0)
        quantity = -abs(posting.quantity) if came_in else abs(posting.quantity)
        cost = None if came_in else {name: Decimal(text) for name, text in posting.elements.items()}
        assert posting.part_id is not None
        codes = tuple((x.lot.code, abs(x.quantity)) for x in LotMove.objects.filter(move=posting.move_id).select_related("lot"))
        row.stock = StockPost(posting.part_id, quantity, f"reversed, {number}", cost, "entry", codes)
    return row
