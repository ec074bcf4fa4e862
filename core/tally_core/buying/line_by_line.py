"""What choosing for each need by itself costs: the plan somebody makes line after line, as the measure of rule B5."""

from decimal import Decimal

from .covering import Ask
from .offers import Purchase, arrival, least_quantity, price_at, rate_of, tiers
from .orders import Bought, Choice, add_up

__all__ = ["line_by_line"]


def line_by_line(purchase: Purchase, asked: list[Ask]) -> Bought | None:
    """Each need from the offer that costs it least, freight and minimums not thought of; where none covers it alone, from the cheapest on.

    Where a supplier takes no order as small as that, a line is raised until it does, or the supplier is left out and chosen anew,
    whichever costs less. None where this leads to no allowed plan.
    """
    needed = {ask.part: ask.quantity for ask in asked}
    out: set[str] = set()
    best: Bought | None = None
    while True:
        choices: list[Choice] = []
        for ask in asked:
            for_ask = _for_one(purchase, ask, out)
            if for_ask is None:
                return best
            choices += for_ask
        bought = add_up(purchase, choices, needed)
        if not bought.refused:
            return _cheaper(purchase, best, bought)
        supplier = next((o.supplier for o in bought.refused if o.supplier not in out), None)
        if supplier is None:
            # What is held by hand stays under a minimum, whoever else is left out.
            return best
        raised = _raised(purchase, asked, choices, supplier)
        if raised is not None:
            best = _cheaper(purchase, best, add_up(purchase, raised, needed))
        out.add(supplier)


def _cheaper(purchase: Purchase, best: Bought | None, other: Bought) -> Bought | None:
    if other.refused or _within(purchase, other) is None:
        return best
    return other if best is None or other.total < best.total else best


def _within(purchase: Purchase, bought: Bought) -> Bought | None:
    most = purchase.most_suppliers
    return None if most is not None and len(bought.orders) > most else bought


def _net(purchase: Purchase, offer: int, quantity: Decimal, needed: Decimal) -> Decimal:
    given = purchase.offers[offer]
    price, rate = price_at(given, quantity), rate_of(given, purchase)
    assert price is not None and rate is not None
    return price * rate * (quantity - purchase.worth * max(quantity - needed, Decimal(0)))


def _quantities(purchase: Purchase, ask: Ask, offer: int, wanted: Decimal) -> list[Decimal]:
    """The smallest quantity that covers, and the start of each price above it."""
    given = purchase.offers[offer]
    least = least_quantity(given, wanted)
    if least is None:
        return []
    found = [least, *(t.low for t in tiers(given) if t.low > least)]
    return [q for q in found if ask.most is None or q <= ask.most]


def _for_one(purchase: Purchase, ask: Ask, out: set[str]) -> list[Choice] | None:
    held = [Choice(offer, quantity) for offer, quantity in ask.held.items()]
    left = ask.quantity - sum((c.quantity for c in held), Decimal(0))
    if left <= 0:
        return held
    usable = [at for at in ask.offers if purchase.offers[at].supplier not in out]
    early = [at for at in usable if arrival(purchase.offers[at], purchase.day) <= ask.steps[0][0]]
    tried = [(at, q) for at in early for q in _quantities(purchase, ask, at, left)]
    if tried:
        at, quantity = min(tried, key=lambda t: (_net(purchase, t[0], t[1], left), t))
        return [*held, Choice(at, quantity)]
    return _spread(purchase, ask, held, usable, left)


def _spread(purchase: Purchase, ask: Ask, held: list[Choice], usable: list[int], left: Decimal) -> list[Choice] | None:
    """From the cheapest on as much as there is, until the need is covered; soonest first where days press."""

    def order(at: int) -> tuple:
        offer = purchase.offers[at]
        arrives = arrival(offer, purchase.day)
        day = next((d for d, _ in ask.steps if arrives <= d), arrives)
        return day, min(t.price for t in tiers(offer)) * (rate_of(offer, purchase) or 0), at

    chosen = list(held)
    for at in sorted((at for at in usable if any(True for _ in tiers(purchase.offers[at]))), key=order):
        if left <= 0 or len(chosen) >= ask.lines:
            break
        offer = purchase.offers[at]
        quantity = least_quantity(offer, left)
        if quantity is None:
            quantity = max((t.high for t in tiers(offer) if t.high is not None), default=Decimal(0))
        chosen.append(Choice(at, quantity))
        left -= quantity
    total = sum((c.quantity for c in chosen), Decimal(0))
    if left > 0 or (ask.most is not None and total > ask.most):
        return None
    for day, quantity in ask.steps:
        if sum((c.quantity for c in chosen if arrival(purchase.offers[c.offer], purchase.day) <= day), Decimal(0)) < quantity:
            return None
    return chosen


def _raised(purchase: Purchase, asked: list[Ask], choices: list[Choice], supplier: str) -> list[Choice] | None:
    """The same choices with one line of a supplier raised until its minimum is reached, the line that costs least for it."""
    by_part = {ask.part: ask for ask in asked}
    supplier_of = purchase.suppliers[supplier]
    lines = [c for c in choices if purchase.offers[c.offer].supplier == supplier]
    goods = sum((_net(purchase, c.offer, c.quantity, c.quantity) for c in lines), Decimal(0))
    best: tuple[Decimal, Choice, Decimal] | None = None
    for choice in lines:
        offer = purchase.offers[choice.offer]
        ask = by_part[offer.part]
        if choice.offer in ask.held or sum(1 for c in choices if purchase.offers[c.offer].part == offer.part) > 1:
            continue
        own = goods - _net(purchase, choice.offer, choice.quantity, choice.quantity)
        for tier in tiers(offer):
            price = tier.price * (rate_of(offer, purchase) or Decimal(0))
            if price <= 0:
                continue
            wanted = least_quantity(offer, max((supplier_of.minimum_order - own) / price, choice.quantity, tier.low))
            if wanted is None or (ask.most is not None and wanted > ask.most) or (tier.high is not None and wanted > tier.high):
                continue
            more = _net(purchase, choice.offer, wanted, ask.quantity) - _net(purchase, choice.offer, choice.quantity, ask.quantity)
            if best is None or more < best[0]:
                best = (more, choice, wanted)
    if best is None:
        return None
    return [Choice(c.offer, best[2]) if c is best[1] else c for c in choices]
