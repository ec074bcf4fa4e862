"""What a choice of quantities costs, to the last digit (rules B3 and B4)."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal, localcontext

from .covering import Uncovered
from .offers import EXACT, Purchase, price_at, rate_of

__all__ = ["Bought", "Choice", "Line", "Order", "Plan", "add_up"]


@dataclass(frozen=True, slots=True)
class Choice:
    """So much of the offer at this place in the purchase."""

    offer: int
    quantity: Decimal


@dataclass(frozen=True, slots=True)
class Line:
    """A line of an order. ``price`` and ``cost`` in the currency of the plan; ``surplus`` is what of it nobody needs."""

    offer: int
    part: str
    number: str
    quantity: Decimal
    price: Decimal
    cost: Decimal
    surplus: Decimal


@dataclass(frozen=True, slots=True)
class Order:
    """What is bought of one supplier. ``missing``: by how much its goods stay under the minimum; ``refused``: who takes no such order."""

    supplier: str
    goods: Decimal
    freight: Decimal
    charge: Decimal
    missing: Decimal
    refused: bool
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class Bought:
    """Orders and what they come to: goods + freight + charges − credit."""

    total: Decimal
    credit: Decimal
    orders: tuple[Order, ...]

    @property
    def refused(self) -> list[Order]:
        """Orders that are not allowed."""
        return [order for order in self.orders if order.refused]


@dataclass(frozen=True, slots=True)
class Plan:
    """The answer of rule B5.

    ``bound``: no plan costs less, proven. ``line_by_line``: what choosing for each need by itself costs; None where that leads to no
    allowed plan. ``finished``: the bound and the total met as closely as was asked; otherwise time ran out, or somebody stopped it.
    """

    bought: Bought
    bound: Decimal
    line_by_line: Decimal | None
    uncovered: tuple[Uncovered, ...]
    finished: bool


def add_up(purchase: Purchase, choices: Iterable[Choice], needed: dict[str, Decimal]) -> Bought:
    """Orders by supplier with their goods, freight and charges, and the credit for what is over.

    Args:
        needed: part → its whole need.

    Of a part that is bought in several lines the surplus stands in the dearest first: that is what would be left away.
    """
    with localcontext(EXACT):
        lines = _lines(purchase, list(choices), needed)
        by_supplier: dict[str, list[Line]] = defaultdict(list)
        for line in lines:
            by_supplier[purchase.offers[line.offer].supplier].append(line)
        orders = tuple(_order(purchase, code, of) for code, of in sorted(by_supplier.items()))
        credit = purchase.worth * sum((line.surplus * line.price for line in lines), Decimal(0))
        total = sum((o.goods + o.freight + o.charge for o in orders), Decimal(0)) - credit
        return Bought(total, credit, orders)


def _lines(purchase: Purchase, choices: Sequence[Choice], needed: dict[str, Decimal]) -> list[Line]:
    priced = []
    for choice in choices:
        offer = purchase.offers[choice.offer]
        own, rate = price_at(offer, choice.quantity), rate_of(offer, purchase)
        if own is None or rate is None:
            raise ValueError(f"{offer.supplier} has no price for {choice.quantity} of {offer.part}")
        priced.append((choice, own * rate))
    left: dict[str, Decimal] = defaultdict(Decimal)
    for choice, _ in priced:
        left[purchase.offers[choice.offer].part] += choice.quantity
    left = {part: max(bought - needed.get(part, Decimal(0)), Decimal(0)) for part, bought in left.items()}
    surplus = {}
    for choice, _ in sorted(priced, key=lambda p: (-p[1], p[0].offer)):
        part = purchase.offers[choice.offer].part
        surplus[choice.offer] = min(left[part], choice.quantity)
        left[part] -= surplus[choice.offer]
    return [
        Line(
            c.offer, purchase.offers[c.offer].part, purchase.offers[c.offer].number, c.quantity, price, c.quantity * price, surplus[c.offer]
        )
        for c, price in priced
    ]


def _order(purchase: Purchase, code: str, lines: list[Line]) -> Order:
    supplier = purchase.suppliers[code]
    goods = sum((line.cost for line in lines), Decimal(0))
    missing = max(supplier.minimum_order - goods, Decimal(0))
    charge = (supplier.small_order_charge or Decimal(0)) if missing else Decimal(0)
    return Order(code, goods, supplier.freight, charge, missing, bool(missing) and supplier.refuses, tuple(lines))
