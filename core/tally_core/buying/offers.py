"""What suppliers offer, what is needed, and which quantities of an offer can be bought at which price (rules B2 and B3).

Quantities are in the part's buying unit. Money and quantities are exact decimals; prices stand in the offer's own currency, and
what a supplier takes once (freight, minimum, charge) in that of the plan.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Context, Decimal

from ..pairing.numbers import fold

__all__ = [
    "EXACT",
    "Break",
    "Held",
    "Need",
    "Offer",
    "Purchase",
    "Supplier",
    "Tier",
    "arrival",
    "least_quantity",
    "price_at",
    "rate_of",
    "ruled_out",
    "tiers",
]

#: Wide enough that no product of a quantity, a price and a rate is ever rounded.
EXACT = Context(prec=80)
#: Of what is measured and not counted, the smallest amount that is told from another.
_SMALLEST = Decimal("0.000001")


@dataclass(frozen=True, slots=True)
class Supplier:
    """Whom we may buy from. Orders under ``minimum_order`` cost ``small_order_charge``, or are refused where it is None."""

    code: str
    freight: Decimal = Decimal(0)
    minimum_order: Decimal = Decimal(0)
    small_order_charge: Decimal | None = None
    # Folded names of makers that they may sell; None: all.
    only_makers: frozenset[str] | None = None
    not_makers: frozenset[str] = frozenset()

    @property
    def refuses(self) -> bool:
        """Whether an order under the minimum is not allowed at all."""
        return self.minimum_order > 0 and self.small_order_charge is None


@dataclass(frozen=True, slots=True)
class Break:
    """From ``start`` on, the whole quantity costs ``price`` each."""

    start: Decimal
    price: Decimal


@dataclass(frozen=True, slots=True)
class Offer:
    """What one supplier asks for one part. ``breaks`` are in order of their start; without ``multiple`` any amount can be had."""

    part: str
    supplier: str
    number: str
    currency: str
    breaks: tuple[Break, ...]
    minimum: Decimal = Decimal(0)
    multiple: Decimal | None = None
    available: Decimal | None = None
    lead_days: int = 0
    valid_from: date | None = None
    valid_to: date | None = None
    maker: str = ""
    maker_number: str = ""


@dataclass(frozen=True, slots=True)
class Need:
    """What is to be bought of a part. ``approved``: folded makers' numbers that may be bought; None: whatever the offer has."""

    part: str
    quantity: Decimal
    by: date | None = None
    approved: frozenset[str] | None = None


@dataclass(frozen=True, slots=True)
class Held:
    """A choice made by hand: so much of the offer at this place in the purchase, whatever else is planned."""

    offer: int
    quantity: Decimal


@dataclass(frozen=True, slots=True)
class Purchase:
    """All that a plan rests on.

    ``rates`` say what one unit of a currency is worth in that of the plan. ``split``: over how many offers one need may be spread.
    ``surplus_percent``: how much more than the need may be bought, in percent of it; None: as much as pays.
    ``surplus_worth_percent``: what the surplus is credited at, in percent of the price paid. ``barred``: suppliers that are not used.
    """

    currency: str
    day: date
    suppliers: Mapping[str, Supplier]
    needs: tuple[Need, ...]
    offers: tuple[Offer, ...]
    rates: Mapping[str, Decimal] = field(default_factory=dict)
    split: int = 1
    surplus_percent: Decimal | None = None
    surplus_worth_percent: Decimal = Decimal(0)
    hold_to_days: bool = True
    barred: frozenset[str] = frozenset()
    most_suppliers: int | None = None
    held: tuple[Held, ...] = ()

    @property
    def by_hand(self) -> frozenset[str]:
        """Suppliers of choices by hand: their orders are made however small, and it is said where they take none such."""
        return frozenset(self.offers[choice.offer].supplier for choice in self.held)

    @property
    def worth(self) -> Decimal:
        """What a surplus is credited at, as a share of the price paid."""
        return self.surplus_worth_percent / 100


@dataclass(frozen=True, slots=True)
class Tier:
    """The quantities of an offer that have one price: from ``low`` to ``high``, in steps of ``step``; without a step any amount."""

    low: Decimal
    high: Decimal | None
    step: Decimal | None
    price: Decimal


def price_at(offer: Offer, quantity: Decimal) -> Decimal | None:
    """Rule B3: the price of the highest break that a quantity reaches, in the offer's currency; None below the first.

    >>> a = Offer("P", "S", "", "EUR", (Break(Decimal(1), Decimal("0.50")), Break(Decimal(100), Decimal("0.41"))))
    >>> price_at(a, Decimal(99)), price_at(a, Decimal(100)), price_at(a, Decimal("0.5"))
    (Decimal('0.50'), Decimal('0.41'), None)
    """
    reached = [b.price for b in offer.breaks if b.start <= quantity]
    return reached[-1] if reached else None


def rate_of(offer: Offer, purchase: Purchase) -> Decimal | None:
    """What one unit of the offer's currency is worth in that of the plan; None where no rate is stated."""
    return Decimal(1) if offer.currency == purchase.currency else purchase.rates.get(offer.currency)


def arrival(offer: Offer, day: date) -> date:
    """The day on which goods ordered on ``day`` are there; days of the calendar."""
    try:
        return day + timedelta(days=offer.lead_days)
    except OverflowError:
        return date.max


def least_quantity(offer: Offer, wanted: Decimal) -> Decimal | None:
    """Rule B2: the smallest quantity of an offer that is no less than ``wanted``; None where there is not as much.

    >>> a = Offer("P", "S", "", "EUR", (Break(Decimal(1), Decimal(1)),), Decimal(50), Decimal(25), Decimal(130))
    >>> least_quantity(a, Decimal(10)), least_quantity(a, Decimal(101)), least_quantity(a, Decimal(126))
    (Decimal('50'), Decimal('125'), None)
    """
    found = (_up(max(tier.low, wanted), tier.step) for tier in tiers(offer) if tier.high is None or tier.high >= wanted)
    return min((q for q in found if offer.available is None or q <= offer.available), default=None)


def tiers(offer: Offer) -> Iterator[Tier]:
    """The quantities that can be bought of an offer, price by price (rules B2 and B3), from the smallest on.

    >>> a = Offer("P", "S", "", "EUR", (Break(Decimal(1), Decimal(3)), Break(Decimal(100), Decimal(2))), Decimal(30), Decimal(20))
    >>> [(str(t.low), str(t.high), str(t.price)) for t in tiers(a)]
    [('40', '80', '3'), ('100', 'None', '2')]
    """
    step = offer.multiple
    for at, here in enumerate(offer.breaks):
        low = _up(max(here.start, offer.minimum, step or _SMALLEST), step)
        ends = [offer.available] if offer.available is not None else []
        if at + 1 < len(offer.breaks):
            ends.append(_below(offer.breaks[at + 1].start, step))
        high = _down(min(ends), step) if ends else None
        if high is None or low <= high:
            yield Tier(low, high, step, here.price)


def ruled_out(offer: Offer, need: Need, purchase: Purchase) -> str:
    """Rule B2: why an offer may not be used for a need, in a few words; empty where it may be."""
    supplier = purchase.suppliers.get(offer.supplier)
    if supplier is None or offer.supplier in purchase.barred:
        return "supplier not used"
    maker = fold(offer.maker)
    if maker in supplier.not_makers or (supplier.only_makers is not None and maker not in supplier.only_makers):
        return "not sold by them"
    if need.approved is not None and fold(offer.maker_number) not in need.approved:
        return "not approved"
    if offer.valid_to is not None and offer.valid_to < purchase.day:
        return "no longer valid"
    if offer.valid_from is not None and offer.valid_from > purchase.day:
        return "not valid yet"
    if rate_of(offer, purchase) is None:
        return f"no rate for {offer.currency}"
    if purchase.hold_to_days and need.by is not None and arrival(offer, purchase.day) > need.by:
        return "too late"
    return ""


def _up(quantity: Decimal, step: Decimal | None) -> Decimal:
    if step is None:
        return quantity
    whole, rest = EXACT.divmod(quantity, step)
    return (whole + (1 if rest else 0)) * step


def _down(quantity: Decimal, step: Decimal | None) -> Decimal:
    return quantity if step is None else EXACT.divide_int(quantity, step) * step


def _below(start: Decimal, step: Decimal | None) -> Decimal:
    """The largest quantity below the start of the next price."""
    return start - _SMALLEST if step is None else _up(start, step) - step
