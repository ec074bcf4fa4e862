"""What a quantity is offered at: cost by element, marked up, with what is paid once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, Decimal

__all__ = ["Once", "Priced", "priced"]


@dataclass(frozen=True, slots=True)
class Once:
    """What is paid once whatever the quantity: tooling, a first set-up. ``spread``: within the price, or else beside it."""

    words: str
    amount: Decimal
    spread: bool = False


@dataclass(frozen=True, slots=True)
class Priced:
    """Money in the currency of the quote, for the whole quantity but ``each``.

    ``cost``: what it costs us, with what is paid once and spread. ``price``: quantity × ``each``; ``beside``: what is paid once and
    stands beside it. ``margin_percent``: what of the price is not cost.
    """

    cost: Decimal
    marked: dict[str, Decimal]
    each: Decimal
    price: Decimal
    beside: Decimal
    margin_percent: Decimal


def priced(
    quantity: Decimal,
    costs: Mapping[str, Decimal],
    markups: Mapping[str, Decimal],
    overall: Decimal,
    once: Sequence[Once],
    decimals: int = 2,
) -> Priced:
    """Each element is raised by its own markup, their sum by that over all; what is paid once and spread is added, and raised by neither.

    Args:
        costs: element → cost of the whole quantity.
        markups: element → percent; one that is not named is not raised.
        decimals: to which the price of one is rounded, half-even.

    >>> p = priced(Decimal(10), {"material": Decimal(60), "labor": Decimal(40)}, {"material": Decimal(10)}, Decimal(20),
    ...            [Once("tool", Decimal(8), True), Once("first set-up", Decimal(25))])
    >>> str(p.each), str(p.price), str(p.beside), str(p.cost), f"{p.margin_percent:.2f}"
    ('13.52', '135.20', '25', '108', '20.12')
    """
    marked = {name: cost * (1 + markups.get(name, Decimal(0)) / 100) for name, cost in costs.items()}
    spread = sum((o.amount for o in once if o.spread), Decimal(0))
    total = sum(marked.values(), Decimal(0)) * (1 + overall / 100) + spread
    each = (total / quantity).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_EVEN)
    price = each * quantity
    cost = sum(costs.values(), Decimal(0)) + spread
    margin = (price - cost) / price * 100 if price else Decimal(0)
    beside = sum((o.amount for o in once if not o.spread), Decimal(0))
    return Priced(cost, marked, each, price, beside, margin)
