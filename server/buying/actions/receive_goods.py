"""Take goods in that came on an order: stock moves with it, in one transaction."""

from decimal import Decimal
from typing import Any

from definition.models.parts import Workspace
from django.utils.timezone import localdate
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing
from verbs.parts.post_stock import StockPost, post_stock

from buying.actions.place_order import held_order
from buying.market import rates_on
from buying.models import OrderLine, PurchaseOrder, Receipt
from buying.open_quantities import keep_open_quantities
from buying.states import ORDER_ACTIONS
from buying.typed_number import typed_number

__all__ = ["close_line", "receive_goods"]


def receive_goods(user, order_id: int, version: int | None, came: list[dict[str, Any]], slip: str) -> tuple[PurchaseOrder, list[str]]:
    """Keep what came of some lines, in their unit. ``came``: line, quantity; ``slip``: the number of their delivery note.

    Answers the order, and in words what came more than was ordered. An order all of whose lines came is done.
    Raises ProblemsError placing each problem at its line, MissingError and Refused.
    """
    with writing(user, "stock"):
        order = held_order(order_id, version)
        ORDER_ACTIONS.require("receive", order.state, order.number)
        lines = {line.pk: line for line in order.lines.select_related("part")}
        problems: list[Problem] = []
        found: list[tuple[OrderLine, Decimal]] = []
        for at, given in enumerate(came):
            line = lines.get(given.get("line", 0))
            if line is None:
                problems.append(Problem(f"came[{at}]", "this line is no longer there"))
                continue
            quantity = _quantity(given.get("quantity"))
            if quantity is None or quantity <= 0:
                problems.append(Problem(f"came[{at}].quantity", "how much came, more than 0"))
            elif line.part.whole_only and (quantity * line.stock_each) % 1:
                problems.append(Problem(f"came[{at}].quantity", f"{line.part.number} is counted in whole units"))
            else:
                found.append((line, quantity))
        words = " ".join(slip.split())
        if len(words) > 100 or not words.isprintable():
            problems.append(Problem("slip", "at most 100 characters that can be printed"))
        if not came:
            problems.append(Problem("came", "say what came"))
        if problems:
            raise ProblemsError(problems)
        over = _received(user, order, found, words)
        if all(line.to_come == 0 for line in lines.values()):
            order.state = "done"
        order.version += 1
        order._history_user = user
        order.save()
        keep_open_quantities(order, user)
        return order, over


def _received(user, order: PurchaseOrder, found: list[tuple[OrderLine, Decimal]], slip: str) -> list[str]:
    """Each line as it came, worth what is paid for it with the overhead on it (C1); freight and charges are not spread over lines."""
    reason = f"received, {order.number}" + (f", slip {slip}" if slip else "")
    rate = _rate(order)
    posts = []
    for line, quantity in found:
        paid = None if rate is None else quantity * line.price * rate
        cost = None if paid is None else {"material": paid, "overhead": paid * line.part.overhead_percent / 100}
        posts.append(StockPost(line.part_id, round(quantity * line.stock_each, 9), reason, cost, origin=slip or order.number))
    over = []
    for (line, quantity), move in zip(found, post_stock(str(user), posts), strict=True):
        Receipt.objects.create(line=line, quantity=quantity, slip=slip, move=move, received_by=str(user))
        line.received += quantity
        line.save(update_fields=["received"])
        more = line.received - line.quantity
        if more > 0:
            over.append(f"{line.part.number}: {more.normalize():f} {line.unit} more than ordered")
    return over


def _rate(order: PurchaseOrder) -> Decimal | None:
    """What the currency of an order is worth today; None where nobody said."""
    if order.currency == Workspace.the().currency:
        return Decimal(1)
    rate = rates_on(localdate()).get(order.currency)
    return None if rate is None else rate.rate


def _quantity(text: Any) -> Decimal | None:
    number = typed_number(text)
    return round(number, 9) if number is not None and abs(number) < 10**9 else None


def close_line(user, order_id: int, version: int | None, line_id: int) -> PurchaseOrder:
    """Nothing more is to come of a line, though less came than was ordered. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "buying"):
        order = held_order(order_id, version)
        ORDER_ACTIONS.require("close_line", order.state, order.number)
        line = order.lines.filter(pk=line_id, closed=False).first()
        if line is None:
            raise ProblemsError([Problem("line", "only a line of which something is to come is closed")])
        line.closed = True
        line.save(update_fields=["closed"])
        if all(other.to_come == 0 for other in order.lines.all()):
            order.state = "done"
        order.version += 1
        order._history_user = user
        order.save()
        keep_open_quantities(order, user)
        return order
