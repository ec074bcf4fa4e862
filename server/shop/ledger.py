"""The ledger of the shop: every act on an order is an entry with its postings, made once, with what moves in stock, in one transaction."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from definition.models.parts import StockMove
from django.utils.timezone import is_naive, make_aware, now
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.shop.reporting import Stage, finished, received
from verbs.parts.move_lots import Codes
from verbs.parts.post_stock import StockPost, post_stock

from shop.models import Component, Entry, OrderOperation, Posting, WorkOrder
from shop.numbers import keep_open_quantity
from shop.order_states import REPORTED

__all__ = ["Book", "Row", "held_order", "open_book", "write_entry"]

_NONE = Decimal(0)
#: All of a component, and of its part what a posting needs: a part may be a long row.
_COMPONENT = [f.attname for f in Component._meta.concrete_fields] + ["part__number", "part__unit", "part__kind", "part__whole_only"]
#: How far a clock in the shop may run ahead of ours.
_CLOCK = timedelta(minutes=5)


@dataclass(slots=True)
class Row:
    """A posting that is to be. ``stock``: the move that goes with it; its worth is then what the order bears."""

    kind: str
    operation: int | None = None
    component: int | None = None
    part: int | None = None
    quantity: Decimal = _NONE
    stood_in: Decimal = _NONE
    good: Decimal = _NONE
    scrapped: Decimal = _NONE
    setup_minutes: Decimal = _NONE
    run_minutes: Decimal = _NONE
    cost: dict[str, Decimal] = field(default_factory=dict)
    stock: StockPost | None = None


@dataclass(slots=True)
class Book:
    """An order that is held for writing, with its rows."""

    order: WorkOrder
    operations: list[OrderOperation]
    components: list[Component]

    def stages(self) -> tuple[list[Stage], list[OrderOperation]]:
        """The operations as stages of the work, without what works beside them, and those operations."""
        leads = [o for o in self.operations if o.resource == 0]
        at = {o.row: i for i, o in enumerate(leads)}
        stages = [Stage(o.planned, o.good, o.scrapped, tuple(at[r] for r in o.follows)) for o in leads]
        return stages, leads


def held_order(order_id: int, version: int | None = None) -> WorkOrder:
    """An order, locked until the transaction ends. Raises MissingError, and ProblemsError where ``version`` is given and is another by now."""
    order = WorkOrder.objects.select_for_update(of=("self",)).select_related("part").filter(pk=order_id).first()
    if order is None:
        raise MissingError("This order is no longer there.")
    if version is not None and version != order.version:
        raise ProblemsError([Problem("", f"{order.number} was changed by somebody else meanwhile; look at it again")])
    return order


def open_book(order_id: int) -> Book:
    """The book of an order, held. Three queries. Raises MissingError."""
    order = held_order(order_id)
    return Book(order, list(order.operations.all()), list(order.components.select_related("part").only(*_COMPONENT)))


def written(book: Book, key: UUID) -> Entry | None:
    """The entry that stands under a key: the same act, told twice. Raises ProblemsError where it is one of another order."""
    entry = Entry.objects.filter(key=key).first()
    if entry is not None and entry.order_id != book.order.pk:
        raise ProblemsError([Problem("key", "this was reported on another order already")])
    return entry


def moment(book: Book, at: datetime | None) -> datetime:
    """When something happened. Raises ProblemsError for a clock that is wrong: later than now, or before the order was released."""
    if at is None:
        return now()
    if is_naive(at):
        # The shop's clock, without a zone.
        at = make_aware(at)
    if at > now() + _CLOCK:
        raise ProblemsError([Problem("at", f"{at:%d %b %H:%M} is still to come; the clock of this place is wrong")])
    released = book.order.released_at
    if released is not None and at < released:
        raise ProblemsError([Problem("at", f"{book.order.number} was released on {released:%d %b %H:%M}, after that")])
    return at


def write_entry(
    user: Any,
    book: Book,
    kind: str,
    rows: Sequence[Row],
    key: UUID,
    at: datetime,
    done_by: str = "",
    reason: str = "",
    reverses: Entry | None = None,
    codes: Codes = (),
) -> Entry:
    """Write an act: its postings, the stock it moves, the sums of the order; and what came out of the last operation is received, as ``codes`` where
    they are given.

    Within the caller's transaction, with the order held. A fixed number of queries. Raises ProblemsError where stock is not there.
    """
    order = book.order
    entry = Entry.objects.create(
        key=key, order=order, kind=kind, at=at, done_by=done_by or str(user), posted_by=str(user), reason=reason, reverses=reverses
    )
    all_rows = list(rows)
    _add_up(book, all_rows)
    all_rows += _receipt(book, codes)
    moving = [row for row in all_rows if row.stock is not None]
    moves = post_stock(str(user), [row.stock for row in moving if row.stock is not None], at)
    move_of = {id(row): move for row, move in zip(moving, moves, strict=True)}
    postings = [_posting(entry, row, move_of.get(id(row))) for row in all_rows]
    Posting.objects.bulk_create(postings)
    order.spent += sum((p.value for p in postings if p.kind not in ("receipt", "rest")), _NONE)
    order.good += sum((p.quantity for p in postings if p.kind == "receipt"), _NONE)
    _save(user, book, at)
    return entry


def _posting(entry: Entry, row: Row, move: StockMove | None) -> Posting:
    cost = row.cost
    if move is not None:
        cost = {name: -Decimal(text) for name, text in move.elements.items()}
    kept = {name: round(amount, 9) for name, amount in cost.items() if amount}
    return Posting(
        entry=entry,
        order=entry.order,
        kind=row.kind,
        operation=row.operation,
        component=row.component,
        part_id=row.part,
        quantity=row.quantity,
        stood_in=row.stood_in,
        good=row.good,
        scrapped=row.scrapped,
        setup_minutes=row.setup_minutes,
        run_minutes=row.run_minutes,
        value=sum(kept.values(), _NONE),
        elements={name: f"{amount:f}" for name, amount in kept.items()},
        move=move,
    )


def _add_up(book: Book, rows: Sequence[Row]) -> None:
    operations, components = {o.row: o for o in book.operations}, {c.row: c for c in book.components}
    for row in rows:
        if row.kind == "work" and row.operation is not None:
            operations[row.operation].good += row.good
            operations[row.operation].scrapped += row.scrapped
        elif row.kind == "sent" and row.operation is not None:
            operations[row.operation].sent += row.quantity
        elif row.kind == "issue" and row.component is not None:
            component = components[row.component]
            if row.stood_in:
                component.stood_in += row.stood_in
            else:
                component.issued += row.quantity


def _receipt(book: Book, codes: Codes) -> list[Row]:
    """Good units of the last operation are received (W2), at what one is expected to cost until the order is closed."""
    order = book.order
    came = received(book.stages()[0]) - order.good
    if not came:
        return []
    if sum((quantity for _, quantity in codes), _NONE) != abs(came):
        # A reversal may take back other units than came with it: then the oldest go.
        codes = () if came < 0 else codes
    cost = None
    if came > 0:
        cost = {name: Decimal(text) * came for name, text in (order.plan or {}).get("unit", {}).items()}
    post = StockPost(order.part_id, came, f"made, {order.number}", cost, "good", codes, order.number)
    return [Row("receipt", part=order.part_id, quantity=came, stock=post)]


def _save(user: Any, book: Book, at: datetime) -> None:
    order = book.order
    # Rows that are there, told anew: one statement without a case for each of them.
    OrderOperation.objects.bulk_create(
        book.operations, update_conflicts=True, unique_fields=["id"], update_fields=["good", "scrapped", "sent", "begun_at", "begun_by"]
    )
    if book.components:
        Component.objects.bulk_create(book.components, update_conflicts=True, unique_fields=["id"], update_fields=["issued", "stood_in"])
    stages, _ = book.stages()
    before = order.state
    if order.state in REPORTED:
        done = finished(stages)
        order.state = "done" if done else "running"
        order.finished_at = (order.finished_at or at) if done else None
    order.version += 1
    _save_order(user, order, before)
    keep_open_quantity(order, user)


def _save_order(user: Any, order: WorkOrder, before: str) -> None:
    """What a posting moves of an order. The ledger is its record; its own history tells of steps from state to state."""
    moved = {"spent": order.spent, "good": order.good, "state": order.state, "finished_at": order.finished_at, "version": order.version}
    if order.state == before:
        WorkOrder.objects.filter(pk=order.pk).update(**moved)
    else:
        order._history_user = user
        order.save(update_fields=list(moved))
