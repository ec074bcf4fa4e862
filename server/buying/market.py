"""What can be bought just now: offers of parts, suppliers with their terms, and rates, as the core takes them."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from definition.models.parts import Part
from partners.models import Partner
from tally_core.buying import offers as core
from tally_core.pairing.numbers import fold

from buying.limits import Limits
from buying.models import Offer, Rate, Terms
from buying.needs import each_for_other, in_buying_units, whole_units

__all__ = ["Market", "market_of", "not_within", "rates_on"]


@dataclass(slots=True)
class Market:
    """Offers that hold for some parts, in the core's terms, each beside its row; and who makes them."""

    currency: str
    suppliers: dict[str, core.Supplier] = field(default_factory=dict)
    offers: list[core.Offer] = field(default_factory=list)
    rows: list[Offer] = field(default_factory=list)
    rates: dict[str, Decimal] = field(default_factory=dict)
    # Offers that cannot be turned into the part's buying unit, with the reason.
    unusable: list[tuple[Offer, str]] = field(default_factory=list)
    # Part → folded makers' numbers that are approved; a part without any takes all.
    approved: dict[str, frozenset[str]] = field(default_factory=dict)
    # (part, folded maker's number) → which choice it is, where the part has several.
    ranks: dict[tuple[str, str], int] = field(default_factory=dict)
    # Key of a part that stands in for another one → key of that one, to whose needs its offers are.
    instead: dict[int, int] = field(default_factory=dict)

    def serves(self, row: Offer) -> int:
        """The key of the part to whose needs an offer is."""
        return self.instead.get(row.part_id, row.part_id)

    def set_aside(self, why: Callable[[Offer], str]) -> None:
        """Have offers not used for which ``why`` has words."""
        kept = [(offer, row) for offer, row in zip(self.offers, self.rows, strict=True) if not why(row)]
        self.unusable += [(row, words) for row in self.rows if (words := why(row))]
        self.offers, self.rows = [offer for offer, _ in kept], [row for _, row in kept]


def rates_on(day: date) -> dict[str, Rate]:
    """The rate of each currency that holds on a day: the last one stated up to it."""
    found: dict[str, Rate] = {}
    for rate in Rate.objects.filter(day__lte=day).order_by("currency", "-day"):
        found.setdefault(rate.currency, rate)
    return found


def market_of(parts: Iterable[Part], currency: str, day: date, alternates: Mapping[Part, Part] | None = None) -> Market:
    """What can be bought of some parts on a day. A fixed number of queries.

    Args:
        alternates: part → that of the parts in whose place it may be bought. One that is among the parts itself serves only itself: what is
            available of an offer, and its breaks, are not shared out.
    """
    held = {p.pk: p for p in parts}
    instead = {a: held[p.pk] for a, p in (alternates or {}).items() if p.pk in held and a.pk not in held}
    market = Market(currency, rates={code: rate.rate for code, rate in rates_on(day).items()})
    market.instead = {a.pk: p.pk for a, p in instead.items()}
    approved: dict[int, set[str]] = defaultdict(set)
    for part in Part.objects.filter(pk__in=[*held, *market.instead]).prefetch_related("maker_numbers"):
        numbers = sorted(part.maker_numbers.all(), key=lambda n: n.rank)
        for choice, number in enumerate(numbers, 1):
            approved[part.pk].add(fold(number.number))
            if len(numbers) > 1 and part.pk in held:
                market.ranks.setdefault((part.number, fold(number.number)), choice)
    market.approved = {held[key].number: frozenset(numbers) for key, numbers in approved.items() if key in held}
    rows = list(
        Offer.objects.filter(part__in=[*held, *market.instead], let_go_at=None).select_related("part").order_by("part", "offered_at", "id")
    )
    alternate = {a.pk: a for a in instead}
    terms = {t.partner_id: t for t in Terms.objects.all()}
    names = {row.supplier_id for row in rows if row.supplier_id}
    for partner in Partner.objects.filter(name__in=names):
        market.suppliers[partner.name] = _supplier(partner, terms.get(partner.name), market.rates, currency)
    for row in rows:
        part = held[market.serves(row)]
        own = alternate.get(row.part_id, part)
        factor, each = in_buying_units(own, row.unit), Decimal(1) if own is part else each_for_other(own, part)
        if factor is None or each is None:
            unit = row.unit if factor is None else own.unit
            market.unusable.append((row, f"{unit} does not convert into {part.buying_unit or part.unit}"))
            continue
        if own is not part:
            if own.pk in approved and fold(row.maker_number) not in approved[own.pk]:
                market.unusable.append((row, "not approved"))
                continue
            if part.number in market.approved:
                market.approved[part.number] |= {fold(_by_name(own, row))}
        transit = terms[row.supplier_id].transit_days if row.supplier_id in terms else 0
        made = _offer(row, part.number, factor * each, each if whole_units(own) else None, transit)
        market.offers.append(made if own is part else replace(made, maker_number=_by_name(own, row)))
        market.rows.append(row)
    return market


def _by_name(part: Part, row: Offer) -> str:
    """What stands in for a part is approved by its own number too: the part's own offers are not by it."""
    return f"{part.number} {row.maker_number}"


def _supplier(partner: Partner, terms: Terms | None, rates: dict[str, Decimal], currency: str) -> core.Supplier:
    if terms is None:
        return core.Supplier(partner.name)
    # Without a rate their offers are ruled out anyhow.
    rate = Decimal(1) if partner.currency in ("", currency) else rates.get(partner.currency, Decimal(1))
    return core.Supplier(
        partner.name,
        terms.freight * rate,
        terms.minimum_order * rate,
        None if terms.small_order_charge is None else terms.small_order_charge * rate,
        frozenset(map(fold, terms.only_makers)) if terms.only_makers else None,
        frozenset(map(fold, terms.not_makers)),
    )


def _offer(row: Offer, part: str, factor: Decimal, whole: Decimal | None, transit: int) -> core.Offer:
    """An offer in buying units of a part, ``factor`` of which one of its own is; ``whole``: what is bought in whole multiples of, if so."""

    def turned(value: Any) -> Any:
        return None if value is None else Decimal(value) * factor

    multiple = turned(row.multiple)
    return core.Offer(
        part,
        row.supplier_id or "",
        row.their_number or row.maker_number,
        row.currency,
        tuple(core.Break(Decimal(start) * factor, Decimal(price) / factor) for start, price in row.breaks),
        turned(row.minimum),
        whole if multiple is None else multiple,
        turned(row.available),
        row.lead_days + transit,
        row.valid_from,
        row.valid_to,
        row.maker,
        row.maker_number,
    )


def not_within(row: Offer, limits: Limits, moment: datetime) -> str:
    """Why the limits of a plan leave an offer out, in words; empty where they do not."""
    said = row.confirmed_at or row.offered_at
    days = (moment - said).days
    if limits.oldest_days is not None and days > limits.oldest_days:
        return f"said {days} days ago"
    if row.maker and fold(row.maker) in map(fold, limits.barred_makers):
        return "maker not used"
    return ""
