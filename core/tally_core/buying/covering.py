"""What each part asks for, with the offers that may serve it; and why a part cannot be covered at all."""

from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from .offers import Need, Purchase, Tier, arrival, least_quantity, ruled_out, tiers

__all__ = ["REASONS", "Ask", "Uncovered", "asks", "price_of"]

#: Why nothing covers a part, from what came least far to what came furthest.
REASONS = ("no offer", "not approved", "too late", "too few", "over the surplus", "under the order minimum")


@dataclass(frozen=True, slots=True)
class Uncovered:
    """A part that no plan covers. ``reason`` is one of ``REASONS``; ``detail`` a sentence."""

    part: str
    reason: str
    detail: str


@dataclass(frozen=True, slots=True)
class Ask:
    """All that is needed of one part.

    ``steps``: by each day, the quantity that must be there by then, growing. ``offers``: places in the purchase of those that may be
    used. ``held``: quantities by hand, by the place of their offer. ``most``: the largest quantity that may be bought, None without limit.
    """

    part: str
    steps: tuple[tuple[date, Decimal], ...]
    offers: tuple[int, ...]
    held: dict[int, Decimal]
    most: Decimal | None
    lines: int

    @property
    def quantity(self) -> Decimal:
        """The whole need."""
        return self.steps[-1][1]

    @property
    def alone(self) -> bool:
        """Whether one offer covers it, so that an offer which does not is out of the question."""
        return self.lines == 1 and len(self.steps) == 1 and not self.held


def price_of(purchase: Purchase, offer: int, tier: Tier) -> Decimal:
    """A price in the currency of the plan. One without a rate was ruled out before, or is held by hand: then it is an error of ours."""
    given = purchase.offers[offer]
    return tier.price * (Decimal(1) if given.currency == purchase.currency else purchase.rates[given.currency])


def asks(purchase: Purchase) -> tuple[list[Ask], list[Uncovered]]:
    """What the parts ask for, in the order of the needs, and the parts that no offer covers whatever else is planned.

    Needs of one part are taken together, day by day: what comes early serves a later day too.
    """
    needs: dict[str, list[Need]] = defaultdict(list)
    for need in purchase.needs:
        if need.quantity > 0:
            needs[need.part].append(need)
    offers = defaultdict(list)
    for at, offer in enumerate(purchase.offers):
        offers[offer.part].append(at)
    held: dict[str, dict[int, Decimal]] = defaultdict(dict)
    for choice in purchase.held:
        held[purchase.offers[choice.offer].part][choice.offer] = choice.quantity
    found, uncovered = [], []
    for part, of_part in needs.items():
        made = _ask(purchase, part, of_part, offers[part], held[part])
        if isinstance(made, Ask):
            found.append(made)
        else:
            uncovered.append(made)
    return found, uncovered


def _ask(purchase: Purchase, part: str, needs: list[Need], offers: list[int], held: dict[int, Decimal]) -> Ask | Uncovered:
    by_day: dict[date, Decimal] = defaultdict(Decimal)
    for need in needs:
        by_day[need.by if need.by and purchase.hold_to_days else date.max] += need.quantity
    total, steps = Decimal(0), []
    for day in sorted(by_day):
        total += by_day[day]
        steps.append((day, total))
    latest = replace(needs[0], by=steps[-1][0])
    why = {at: ruled_out(purchase.offers[at], latest, purchase) for at in offers if at not in held}
    usable = tuple(at for at, reason in why.items() if not reason)
    by_hand = sum(held.values(), Decimal(0))
    most = None if purchase.surplus_percent is None else max(total * (1 + purchase.surplus_percent / 100), by_hand)
    lines = max(purchase.split * len(steps), len(held) + (by_hand < total))
    ask = Ask(part, tuple(steps), usable, held, most, lines)
    return _reason(purchase, ask, why) or ask


def _reason(purchase: Purchase, ask: Ask, why: dict[int, str]) -> Uncovered | None:
    """Why a part cannot be covered, as far as its offers tell without trying combinations."""
    if not ask.offers and not ask.held:
        if not why:
            return Uncovered(ask.part, "no offer", "Nobody offers it.")
        for said, reason in (("too late", "too late"), ("not approved", "not approved")):
            if said in why.values():
                detail = _soonest(purchase, ask, why) if said == "too late" else "No offer is of an approved maker's number."
                return Uncovered(ask.part, reason, detail)
        detail = "; ".join(f"{purchase.offers[at].supplier}: {said}" for at, said in why.items())
        return Uncovered(ask.part, "no offer", f"No offer may be used: {detail}.")
    for day, quantity in ask.steps:
        in_time = [at for at in ask.offers if arrival(purchase.offers[at], purchase.day) <= day]
        if _reach(purchase, ask, in_time) >= quantity:
            continue
        if _reach(purchase, ask, list(ask.offers)) >= quantity:
            return Uncovered(ask.part, "too late", f"{quantity:f} are needed by {day}; not as many come by then.")
        if "too late" in why.values() and _reach(purchase, ask, [*ask.offers, *(a for a in why if why[a] == "too late")]) >= quantity:
            return Uncovered(ask.part, "too late", f"{quantity:f} are needed; what comes in time does not cover it.")
        return Uncovered(ask.part, "too few", f"{quantity:f} are needed, more than can be had of {_offers(ask.lines)}.")
    if ask.alone and ask.most is not None:
        least = [least_quantity(purchase.offers[at], ask.quantity) for at in ask.offers]
        if not any(q is not None and q <= ask.most for q in least):
            found = min(q for q in least if q is not None)
            detail = f"{found:f} would have to be bought for {ask.quantity:f}."
            return Uncovered(ask.part, "over the surplus", detail)
    return None


def _offers(count: int) -> str:
    return "one offer" if count == 1 else f"{count} offers"


def _soonest(purchase: Purchase, ask: Ask, why: dict[int, str]) -> str:
    late = [purchase.offers[at] for at, said in why.items() if said == "too late"]
    first = min(late, key=lambda offer: offer.lead_days)
    return f"The soonest comes on {arrival(first, purchase.day)}, from {first.supplier}."


def _reach(purchase: Purchase, ask: Ask, offers: list[int]) -> Decimal:
    """The most that can be had of so many offers as a part may be spread over."""
    caps = []
    for at in offers:
        highest = [t.high for t in tiers(purchase.offers[at])]
        caps.append(Decimal("Infinity") if None in highest else max((h for h in highest if h is not None), default=Decimal(0)))
    free = ask.lines - len(ask.held)
    return sum(sorted(caps, reverse=True)[:free], Decimal(0)) + sum(ask.held.values(), Decimal(0))
