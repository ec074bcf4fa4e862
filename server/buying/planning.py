"""Making a plan: needs, what can be bought, the cheapest way, and what of it is kept."""

from collections import defaultdict
from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime
from decimal import ROUND_CEILING, Decimal, localcontext
from typing import Any

from definition.models.parts import Workspace
from django.db import transaction
from django.utils.timezone import localdate, now
from tally_core.buying.cheapest import cheapest_plan
from tally_core.buying.covering import REASONS
from tally_core.buying.offers import EXACT, Held, Need, Offer, Purchase, arrival, least_quantity, price_at, rate_of, ruled_out, tiers
from tally_core.buying.orders import Line, Plan
from tally_core.pairing.numbers import fold

from buying.alternates import alternates_of
from buying.limits import Limits, limits_of
from buying.market import Market, market_of, not_within
from buying.models import BuyPlan, PlanNeed
from buying.models import Offer as Offered
from buying.needs import NeedOf, in_buying_units, needs_of

__all__ = ["FORMAT", "make_plan"]

FORMAT = 1
#: Up to so many needs a plan is searched until it is proven; above, until it is within this share of its bound.
_FEW_NEEDS, _GAP = 200, 1e-4
_SIX = Decimal("0.000001")
#: Offers that a sentence names at most.
_MOST_TOLD = 5

#: Says what is done, with the best total and the bound while it searches; answers whether to stop.
Say = Callable[[str], bool]


def make_plan(plan: BuyPlan, say: Say) -> None:
    """Plan anew and keep the result in the place of the last one, in one transaction. Raises TallyError."""
    limits, day, version, moment = limits_of(plan), localdate(), plan.version, now()
    say("what the builds take")
    needs = needs_of(plan, limits, day)
    currency = Workspace.the().currency
    market = market_of([need.part for need in needs], currency, day, alternates_of(plan))
    by_hand = set(plan.held.values_list("offer", flat=True))
    market.set_aside(lambda row: "" if row.pk in by_hand else not_within(row, limits, moment))
    held, lost = _held(plan, market)
    with localcontext(EXACT):
        purchase = _purchase(needs, market, limits, currency, day, held)
    gap = 0.0 if len(needs) <= _FEW_NEEDS else _GAP
    say(f"{len(needs):,} needs, {len(market.offers):,} offers: searching")

    def watch(best: float, bound: float) -> bool:
        known = f"best {best:,.2f}, at least {bound:,.2f}" if best < 1e29 else f"at least {bound:,.2f}"
        return say(f"{known} {currency}")

    made = cheapest_plan(purchase, gap=gap, seconds=limits.seconds, watch=watch)
    free = None
    if held and made.finished:
        say("what the choices by hand cost")
        free = cheapest_plan(replace(purchase, held=()), gap=gap, seconds=limits.seconds)
    with localcontext(EXACT), transaction.atomic():
        _keep(plan, limits, (version, moment), needs, market, purchase, made, free, lost)


def _held(plan: BuyPlan, market: Market) -> tuple[tuple[Held, ...], list[str]]:
    """The choices by hand that can be held, and those that cannot, in words."""
    at = {row.pk: n for n, row in enumerate(market.rows)}
    found, lost = [], []
    for choice in plan.held.select_related("offer__part"):
        words = f"{choice.quantity.normalize():f} of {choice.offer.part.number} from {choice.offer.supplier_id}"
        place = at.get(choice.offer_id)
        if place is None:
            lost.append(f"{words}: the offer is gone, or nothing needs it")
        elif market.offers[place].currency not in {market.currency, *market.rates}:
            lost.append(f"{words}: no rate for {market.offers[place].currency}")
        elif price_at(market.offers[place], choice.quantity) is None:
            lost.append(f"{words}: it has no price for so few")
        else:
            found.append(Held(place, choice.quantity))
    return tuple(found), lost


def _purchase(needs: list[NeedOf], market: Market, limits: Limits, currency: str, day: date, held: tuple[Held, ...]) -> Purchase:
    wanted = []
    for need in needs:
        factor = in_buying_units(need.part, need.unit) or Decimal(1)
        approved = market.approved.get(need.part.number)
        for by, quantity in need.left:
            wanted.append(Need(need.part.number, (quantity * factor).quantize(_SIX, ROUND_CEILING), by, approved))
    return Purchase(
        currency,
        day,
        market.suppliers,
        tuple(wanted),
        tuple(market.offers),
        market.rates,
        limits.split,
        None if limits.surplus_percent is None else Decimal(limits.surplus_percent),
        Decimal(limits.surplus_worth_percent),
        limits.hold_to_days,
        frozenset(limits.barred),
        limits.most_suppliers,
        held,
    )


def _text(number: Decimal) -> str:
    return f"{number.quantize(_SIX).normalize():f}"


def _keep(
    plan: BuyPlan,
    limits: Limits,
    as_of: tuple[int, datetime],
    needs: list[NeedOf],
    market: Market,
    purchase: Purchase,
    made: Plan,
    free: Plan | None,
    lost: list[str],
) -> None:
    lines: dict[str, list[Line]] = defaultdict(list)
    for order in made.bought.orders:
        for line in order.lines:
            lines[line.part].append(line)
    uncovered = {u.part: u for u in made.uncovered}
    offers: dict[str, list[int]] = defaultdict(list)
    for at, offer in enumerate(purchase.offers):
        offers[offer.part].append(at)
    wanted: dict[str, list[Need]] = defaultdict(list)
    for core_need in purchase.needs:
        wanted[core_need.part].append(core_need)
    unusable: dict[int, list[tuple[Offered, str]]] = defaultdict(list)
    for row, words in market.unusable:
        unusable[market.serves(row)].append((row, words))
    PlanNeed.objects.filter(plan=plan).delete()
    rows = []
    for position, need in enumerate(needs):
        number = need.part.number
        quantity = sum((n.quantity for n in wanted[number]), Decimal(0))
        why = uncovered.get(number)
        left_out = [f"{row.supplier_id}: {words}" for row, words in unusable[need.part.pk]]
        detail = why.detail if why else ""
        if why and why.reason == "no offer" and left_out:
            detail = f"No offer may be used: {'; '.join(left_out[:_MOST_TOLD])}."
        looked = [_looked_at(purchase, market, at, wanted[number], quantity) for at in offers[number]]
        looked += [_cannot(market, row, words) for row, words in unusable[need.part.pk]]
        usable = sum(1 for offer in looked if not offer["ruled_out"])
        said = need.plain() | {"quantity": _text(quantity), "usable": usable}
        rows.append(
            PlanNeed(
                plan=plan,
                position=position,
                part=need.part,
                said=said,
                bought=[_bought(purchase, market, line) for line in lines[number]],
                reason=why.reason if why else "",
                detail=detail,
                offers=looked,
            )
        )
    PlanNeed.objects.bulk_create(rows, batch_size=1000)
    used = {purchase.offers[line.offer].currency for of in lines.values() for line in of} - {purchase.currency}
    result = {
        "format": FORMAT,
        "day": purchase.day.isoformat(),
        "currency": purchase.currency,
        "limits": limits.plain(),
        "total": _text(made.bought.total),
        "bound": _text(made.bound),
        "line_by_line": None if made.line_by_line is None else _text(made.line_by_line),
        "credit": _text(made.bought.credit),
        "finished": made.finished,
        "without_choices": _text(free.bought.total) if free and len(free.uncovered) == len(made.uncovered) else None,
        "lost": lost,
        "rates": {code: f"{market.rates[code].normalize():f}" for code in sorted(used)},
        "orders": [
            {
                "supplier": o.supplier,
                "goods": _text(o.goods),
                "freight": _text(o.freight),
                "charge": _text(o.charge),
                "minimum": _text(purchase.suppliers[o.supplier].minimum_order),
                "missing": _text(o.missing),
                "refused": o.refused,
                "lines": len(o.lines),
            }
            for o in made.bought.orders
        ],
        "uncovered": {
            reason: sum(1 for u in made.uncovered if u.reason == reason)
            for reason in REASONS
            if any(u.reason == reason for u in made.uncovered)
        },
    }
    BuyPlan.objects.filter(pk=plan.pk).update(result=result, planned_version=as_of[0], planned_at=as_of[1])


def _stands_in(market: Market, row: Offered) -> str:
    """The number of the part that an offer is of, where that stands in for the one that is needed."""
    return row.part.number if row.part_id in market.instead else ""


def _bought(purchase: Purchase, market: Market, line: Line) -> dict[str, Any]:
    return {
        "offer": market.rows[line.offer].pk,
        "part": _stands_in(market, market.rows[line.offer]),
        "supplier": purchase.offers[line.offer].supplier,
        "quantity": _text(line.quantity),
        "price": f"{line.price.normalize():f}",
        "cost": _text(line.cost),
        "surplus": _text(line.surplus),
        "by_hand": any(h.offer == line.offer for h in purchase.held),
    }


def _looked_at(purchase: Purchase, market: Market, at: int, needs: list[Need], quantity: Decimal) -> dict[str, Any]:
    """An offer as it was when the plan was made: its steps in the plan's currency, and what the whole need would cost of it alone."""
    offer, row = purchase.offers[at], market.rows[at]
    rate = rate_of(offer, purchase)
    latest = max((n.by for n in needs if n.by), default=None)
    why = ruled_out(offer, replace(needs[0], by=latest), purchase) if needs else ""
    alone, cost = _best_alone(offer, quantity, rate)
    return {
        "offer": row.pk,
        "part": _stands_in(market, row),
        "supplier": offer.supplier,
        "maker": offer.maker,
        "maker_number": row.maker_number,
        "choice": market.ranks.get((offer.part, fold(offer.maker_number))),
        "number": row.their_number,
        "currency": offer.currency,
        "rate": None if rate is None else f"{rate.normalize():f}",
        "breaks": [[f"{b.start.normalize():f}", f"{b.price.normalize():f}"] for b in offer.breaks],
        "minimum": _text(offer.minimum),
        "multiple": None if offer.multiple is None else _text(offer.multiple),
        "available": None if offer.available is None else _text(offer.available),
        "lead_days": offer.lead_days,
        "arrives": arrival(offer, purchase.day).isoformat(),
        "valid_to": offer.valid_to.isoformat() if offer.valid_to else None,
        "source": row.source,
        "source_words": row.source_words,
        "offered_at": row.offered_at.isoformat(),
        "ruled_out": why or ("" if alone is not None or not quantity else "too few"),
        "alone": None if alone is None else _text(alone),
        "alone_cost": None if cost is None else _text(cost),
    }


def _best_alone(offer: Offer, quantity: Decimal, rate: Decimal | None) -> tuple[Decimal | None, Decimal | None]:
    """The quantity of an offer that covers a need by itself and costs least, and what it costs in the plan's currency."""
    least = least_quantity(offer, quantity) if quantity else None
    if least is None:
        return None, None
    tried = [least, *(tier.low for tier in tiers(offer) if tier.low > least)]
    cost, alone = min((q * (price_at(offer, q) or Decimal(0)), q) for q in tried)
    return alone, None if rate is None else cost * rate


def _cannot(market: Market, row: Offered, words: str) -> dict[str, Any]:
    return {
        "offer": row.pk,
        "part": _stands_in(market, row),
        "supplier": row.supplier_id or "",
        "maker": row.maker,
        "maker_number": row.maker_number,
        "choice": None,
        "number": row.their_number,
        "currency": row.currency,
        "rate": None,
        "breaks": [],
        "minimum": "0",
        "multiple": None,
        "available": None,
        "lead_days": row.lead_days,
        "arrives": "",
        "valid_to": None,
        "source": row.source,
        "source_words": row.source_words,
        "offered_at": row.offered_at.isoformat(),
        "ruled_out": words,
        "alone": None,
        "alone_cost": None,
    }
