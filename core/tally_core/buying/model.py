"""The plan of rule B5 as a linear program with whole numbers, written so that its relaxation is close to it.

Of each offer a price has one switch (bought at this price or not), and beside it the steps bought above the smallest quantity that
makes sense at that price. Where one offer covers a need, that smallest quantity covers it already, and steps above it only help an
order over its supplier's minimum; so most offers are a switch and nothing else. Switches are tied to their supplier's one by one, not
summed up, and of dominated prices none is written down.
"""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from decimal import ROUND_CEILING, Decimal
from math import inf

from .covering import Ask, price_of
from .offers import Purchase, Tier, arrival, tiers

__all__ = ["Candidate", "Model", "Program", "modelled"]

_ZERO = Decimal(0)
#: The finest amount of what has no multiple.
_FINEST = Decimal("0.000001")


@dataclass(slots=True)
class Program:
    """Columns and rows of a linear program; rows by their terms, compressed."""

    cost: list[float] = field(default_factory=list)
    lower: list[float] = field(default_factory=list)
    upper: list[float] = field(default_factory=list)
    whole: list[bool] = field(default_factory=list)
    row_lower: list[float] = field(default_factory=list)
    row_upper: list[float] = field(default_factory=list)
    starts: list[int] = field(default_factory=lambda: [0])
    index: list[int] = field(default_factory=list)
    value: list[float] = field(default_factory=list)

    def column(self, cost: float, upper: float, *, whole: bool, lower: float = 0.0) -> int:
        """Add a column; its place."""
        self.cost.append(cost)
        self.lower.append(lower)
        self.upper.append(upper)
        self.whole.append(whole)
        return len(self.cost) - 1

    def row(self, terms: Iterable[tuple[int, float]], lower: float = -inf, upper: float = inf) -> None:
        """Add a row: the sum of its terms lies between ``lower`` and ``upper``."""
        for column, value in terms:
            self.index.append(column)
            self.value.append(value)
        self.starts.append(len(self.index))
        self.row_lower.append(lower)
        self.row_upper.append(upper)


@dataclass(slots=True)
class Candidate:
    """One offer at one price: ``low`` bought at least, up to ``more`` steps above it. ``price`` in the currency of the plan."""

    offer: int
    supplier: str
    price: Decimal
    low: Decimal
    step: Decimal | None
    more: Decimal
    # Columns of the program.
    used: int = -1
    above: int = -1

    def net(self, needed: Decimal, worth: Decimal) -> Decimal:
        """What ``low`` costs where it serves a need by itself, with what is over credited."""
        return self.price * (self.low - worth * (self.low - needed))

    @property
    def size(self) -> Decimal:
        """What one of ``more`` is."""
        return self.step or Decimal(1)


@dataclass(slots=True)
class Model:
    """The program, and what its columns stand for."""

    program: Program
    candidates: list[Candidate]
    suppliers: dict[str, int]
    # Part → the column that says it stays uncovered; only where that was allowed.
    missed: dict[str, int]
    # Supplier → the column that says it is paid the charge for small orders.
    charged: dict[str, int]


def modelled(purchase: Purchase, asked: list[Ask], raised: dict[str, Decimal], *, may_miss: bool = False, minimums: bool = True) -> Model:
    """Write the plan down.

    Args:
        raised: supplier → what its minimum is raised by, where float dust let an order pass under it.
        may_miss: allow parts to stay uncovered, and count them instead of the money.
        minimums: whether the minimums of suppliers hold.
    """
    model = Model(Program(), [], {}, {}, {})
    p = model.program
    of_supplier: dict[str, list[Candidate]] = defaultdict(list)
    by_hand = purchase.by_hand
    for ask in asked:
        candidates = _candidates(purchase, ask, minimums)
        for c in candidates:
            of_supplier[c.supplier].append(c)
        _columns(p, purchase, ask, candidates, money=not may_miss)
        if may_miss:
            model.missed[ask.part] = p.column(1.0, 1.0, whole=True)
        missed = model.missed.get(ask.part)
        _cover(p, purchase, ask, candidates, missed)
        model.candidates += candidates
    for code, candidates in of_supplier.items():
        supplier = purchase.suppliers[code]
        model.suppliers[code] = p.column(0.0 if may_miss else float(supplier.freight), 1.0, whole=True)
        if minimums and supplier.minimum_order > 0 and not (supplier.refuses and code in by_hand):
            least = supplier.minimum_order + raised.get(code, _ZERO)
            if not supplier.refuses:
                charge = 0.0 if may_miss else float(supplier.small_order_charge or 0)
                model.charged[code] = p.column(charge, 1.0, whole=True)
            _minimum(p, least, model.suppliers[code], model.charged.get(code), candidates)
    _ties(p, purchase, asked, model)
    if purchase.most_suppliers is not None:
        p.row([(column, 1.0) for column in model.suppliers.values()], upper=float(purchase.most_suppliers))
    return model


def _candidates(purchase: Purchase, ask: Ask, minimums: bool) -> list[Candidate]:
    found = [_held(purchase, ask, offer, quantity) for offer, quantity in ask.held.items()]
    if sum(ask.held.values(), _ZERO) >= ask.quantity:
        return found
    for offer in ask.offers:
        supplier = purchase.suppliers[purchase.offers[offer].supplier]
        minimum = supplier.minimum_order if minimums else _ZERO
        for tier in tiers(purchase.offers[offer]):
            made = _candidate(purchase, ask, offer, tier, minimum)
            if made:
                found.append(made)
    return _worth_it(purchase, ask, found) if ask.alone else found


def _held(purchase: Purchase, ask: Ask, offer: int, quantity: Decimal) -> Candidate:
    reached = [t for t in purchase.offers[offer].breaks if t.start <= quantity]
    price = price_of(purchase, offer, Tier(quantity, quantity, None, reached[-1].price))
    return Candidate(offer, purchase.offers[offer].supplier, price, quantity, None, _ZERO)


def _candidate(purchase: Purchase, ask: Ask, offer: int, tier: Tier, minimum: Decimal) -> Candidate | None:
    """The quantities of a tier that may be worth buying; None where there are none."""
    price = price_of(purchase, offer, tier)
    covers = max(_rounded_up(ask.quantity, tier.step), tier.low)
    low = covers if ask.alone else tier.low
    # What covers the need is enough, but for what may lift an order over its supplier's minimum.
    lift = _ZERO
    if minimum > 0 and price > 0:
        lift = _rounded_up(minimum / price, tier.step)
    ends = [covers + lift]
    if tier.high is not None:
        ends.append(tier.high)
    if ask.most is not None:
        ends.append(_rounded_down(ask.most, tier.step))
    high = min(ends)
    if low > high:
        return None
    more = (high - low) / (tier.step or Decimal(1))
    return Candidate(offer, purchase.offers[offer].supplier, price, low, tier.step, more)


def _worth_it(purchase: Purchase, ask: Ask, candidates: list[Candidate]) -> list[Candidate]:
    """Without what another does at least as well, whatever the rest of the plan is."""
    worth = purchase.worth
    cheapest: dict[str, Decimal] = {}
    for c in candidates:
        net = c.net(ask.quantity, worth)
        if c.supplier not in cheapest or net < cheapest[c.supplier]:
            cheapest[c.supplier] = net
    # What a part costs at most, whoever else is bought from.
    anyhow = min(
        (
            net + s.freight + (s.small_order_charge or _ZERO)
            for code, net in cheapest.items()
            if not (s := purchase.suppliers[code]).refuses
        ),
        default=None,
    )
    if purchase.most_suppliers is not None:
        anyhow = None
    kept: list[Candidate] = []
    alike: set[tuple[str, Decimal]] = set()
    for c in sorted(candidates, key=lambda c: (c.net(ask.quantity, worth), c.offer)):
        supplier, net = purchase.suppliers[c.supplier], c.net(ask.quantity, worth)
        free = supplier.minimum_order <= 0
        if free and (c.supplier, _ZERO) in alike:
            continue
        if not supplier.refuses:
            # Its goods may at most save the charge.
            saves = _ZERO if free else supplier.small_order_charge or _ZERO
            if not free and net > cheapest[c.supplier] + saves:
                continue
            if anyhow is not None and net > anyhow + saves:
                continue
        if free:
            alike.add((c.supplier, _ZERO))
        kept.append(c)
    return kept


def _columns(p: Program, purchase: Purchase, ask: Ask, candidates: list[Candidate], *, money: bool) -> None:
    worth = purchase.worth
    credited = worth > 0 and money
    held = set(ask.held)
    for c in candidates:
        cost = c.price * c.low if money else _ZERO
        step_cost = c.price * c.size if money else _ZERO
        if credited and ask.alone:
            cost = c.net(ask.quantity, worth)
            step_cost *= 1 - worth
        by_hand = c.offer in held
        c.used = p.column(float(cost), 1.0, whole=True, lower=1.0 if by_hand else 0.0)
        if c.more > 0:
            c.above = p.column(float(step_cost), float(c.more), whole=c.step is not None)
            p.row([(c.above, 1.0), (c.used, -float(c.more))], upper=0.0)
    if credited and not ask.alone:
        over = []
        for c in candidates:
            column = p.column(-float(worth * c.price), inf, whole=False)
            p.row([(column, 1.0), *_quantity(c, -1.0)], upper=0.0)
            over.append((column, 1.0))
        p.row([*over, *(t for c in candidates for t in _quantity(c, -1.0))], upper=-float(ask.quantity))


def _quantity(c: Candidate, factor: float = 1.0) -> list[tuple[int, float]]:
    terms = [(c.used, factor * float(c.low))]
    return terms if c.above < 0 else [*terms, (c.above, factor * float(c.size))]


def _cover(p: Program, purchase: Purchase, ask: Ask, candidates: list[Candidate], missed: int | None) -> None:
    if ask.alone:
        p.row([*((c.used, 1.0) for c in candidates), *([(missed, 1.0)] if missed is not None else [])], 1.0, 1.0)
        return
    for day, quantity in ask.steps:
        in_time = [c for c in candidates if c.offer in ask.held or arrival(purchase.offers[c.offer], purchase.day) <= day]
        rest = [(missed, float(quantity))] if missed is not None else []
        p.row([*(t for c in in_time for t in _quantity(c)), *rest], lower=float(quantity))
        # The same once more with each offer for no more than the need: what a share of a large pack must not pretend to cover.
        capped = [(c.used, float(min(c.low + c.more * c.size, quantity))) for c in in_time]
        p.row([*capped, *rest], lower=float(quantity))
    limit = [(missed, float(ask.lines))] if missed is not None else []
    p.row([*((c.used, 1.0) for c in candidates), *limit], upper=float(ask.lines))
    if ask.most is not None:
        p.row([t for c in candidates for t in _quantity(c)], upper=float(ask.most))


def _minimum(p: Program, least: Decimal, bought: int, charged: int | None, candidates: list[Candidate]) -> None:
    """Goods reach the minimum, or the charge is paid where there is one; in shares of the minimum."""
    terms = []
    for c in candidates:
        share = float(c.price * c.low / least)
        terms.append((c.used, min(share, 1.0) if c.above < 0 else share))
        if c.above >= 0:
            terms.append((c.above, float(c.price * c.size / least)))
    if charged is not None:
        terms.append((charged, 1.0))
        p.row([(charged, 1.0), (bought, -1.0)], upper=0.0)
    p.row([*terms, (bought, -1.0)], lower=0.0)


def _ties(p: Program, purchase: Purchase, asked: list[Ask], model: Model) -> None:
    """No offer without its supplier, and each offer at one price."""
    alone = {ask.part for ask in asked if ask.alone}
    groups: dict[tuple[str, str], list[int]] = defaultdict(list)
    for c in model.candidates:
        part = purchase.offers[c.offer].part
        groups[c.supplier, f"\0{part}" if part in alone else str(c.offer)].append(c.used)
    for (supplier, _), used in groups.items():
        p.row([*((column, 1.0) for column in used), (model.suppliers[supplier], -1.0)], upper=0.0)


def _rounded_up(quantity: Decimal, step: Decimal | None) -> Decimal:
    if step is None:
        return quantity.quantize(_FINEST, ROUND_CEILING)
    whole, rest = divmod(quantity, step)
    return (whole + (1 if rest else 0)) * step


def _rounded_down(quantity: Decimal, step: Decimal | None) -> Decimal:
    return quantity if step is None else (quantity // step) * step
