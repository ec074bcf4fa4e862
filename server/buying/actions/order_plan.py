"""Turn a plan into orders, one for each supplier; or one part into an order by hand. Drafts, to be looked at before they are placed."""

from collections import defaultdict
from datetime import timedelta
from decimal import Decimal

from definition.models.parts import Part, Workspace
from django.utils.timezone import localdate
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.buying.offers import price_at
from verbs.contract import writing

from buying.actions.open_plan import held_plan
from buying.market import market_of, rates_on
from buying.models import BuyPlan, Offer, OrderLine, PlanNeed, PurchaseOrder, Terms
from buying.needs import buying_unit, each_for_other, in_buying_units
from buying.order_numbers import next_order_number
from buying.reads import plans_shown
from buying.typed_number import typed_number

__all__ = ["order_part", "order_plan"]


def order_plan(user, plan_id: int, version: int | None) -> list[PurchaseOrder]:
    """Orders of a plan as it was planned. Raises MissingError, Refused, and ProblemsError where it was changed since, or ordered already."""
    with writing(user, "buying"):
        plan = held_plan(plan_id, version)
        if plan.result is None or plan.planned_version != plan.version:
            raise ProblemsError([Problem("", "the plan was changed since it was planned; plan it anew first")])
        if plans_shown().filter(pk=plan.pk, market_moved=True).exists():
            raise ProblemsError([Problem("", "offers for it came or went since it was planned, or rates did; plan it anew first")])
        there = plan.orders.exclude(state="cancelled").values_list("number", flat=True)
        if there:
            raise ProblemsError([Problem("", f"ordered already: {', '.join(sorted(there))}")])
        by_supplier: dict[str, list[tuple[PlanNeed, dict]]] = defaultdict(list)
        for need in plan.needs.select_related("part").order_by("position"):
            for bought in need.bought:
                by_supplier[bought["supplier"]].append((need, bought))
        if not by_supplier:
            raise ProblemsError([Problem("", "the plan buys nothing")])
        heads = {o["supplier"]: o for o in plan.result["orders"]}
        offers = Offer.objects.select_related("part").in_bulk([b["offer"] for of in by_supplier.values() for _, b in of])
        terms = {t.partner_id: t for t in Terms.objects.filter(partner__name__in=list(by_supplier))}
        rates = {code: rate.rate for code, rate in rates_on(localdate()).items()}
        made = []
        for supplier, lines in sorted(by_supplier.items()):
            made += _orders_of(user, plan, supplier, lines, offers, terms.get(supplier), rates, Decimal(heads[supplier]["charge"]))
        return made


def _orders_of(
    user,
    plan: BuyPlan,
    supplier: str,
    lines: list[tuple[PlanNeed, dict]],
    offers: dict[int, Offer],
    terms: Terms | None,
    rates: dict[str, Decimal],
    charge: Decimal,
) -> list[PurchaseOrder]:
    """One order for each currency in which a supplier offers; freight and charge stand on the first."""
    by_currency: dict[str, list[tuple[PlanNeed, dict, Offer]]] = defaultdict(list)
    for need, bought in lines:
        offer = offers[bought["offer"]]
        by_currency[offer.currency].append((need, bought, offer))
    made: list[PurchaseOrder] = []
    own = Workspace.the().currency
    for currency, of in sorted(by_currency.items()):
        order = PurchaseOrder(
            number=next_order_number(), supplier_id=supplier, currency=currency, plan=plan, made_by=str(user), note=plan.title[:200]
        )
        if not made:
            rate = Decimal(1) if currency == own else rates.get(currency, Decimal(1))
            order.freight = terms.freight if terms else Decimal(0)
            order.charge = round(charge / rate, 6)
        order._history_user = user
        order.save()
        made.append(order)
        OrderLine.objects.bulk_create(
            _line(order, position, offer.part, offer, _of_its_own(offer.part, need.part, Decimal(bought["quantity"])), terms)
            for position, (need, bought, offer) in enumerate(of, 1)
        )
    return made


def _of_its_own(part: Part, needed: Part, quantity: Decimal) -> Decimal:
    """What a plan buys, in buying units of the part that is ordered, which may stand in for the one that is needed."""
    each = Decimal(1) if part == needed else each_for_other(part, needed) or Decimal(1)
    return round(quantity / each, 6)


def _line(order: PurchaseOrder, position: int, part: Part, offer: Offer, quantity: Decimal, terms: Terms | None) -> OrderLine:
    factor = in_buying_units(part, offer.unit) or Decimal(1)
    own = max((Decimal(start) * factor, Decimal(price) / factor) for start, price in offer.breaks if Decimal(start) * factor <= quantity)
    return OrderLine(
        order=order,
        position=position,
        part=part,
        offer=offer,
        maker=offer.maker,
        maker_number=offer.maker_number,
        their_number=offer.their_number,
        unit=buying_unit(part),
        stock_each=round(1 / (in_buying_units(part, part.unit) or Decimal(1)), 9),
        quantity=quantity,
        price=round(own[1], 12),
        due_on=localdate() + timedelta(days=offer.lead_days + (terms.transit_days if terms else 0)),
    )


def order_part(user, part: str, offer_id: int, quantity: str) -> PurchaseOrder:
    """An order of one part, from one of its offers, without a plan. Raises MissingError, ProblemsError and Refused."""
    with writing(user, "buying"):
        offer = Offer.objects.select_related("part", "supplier").filter(pk=offer_id, part__number=part, let_go_at=None).first()
        if offer is None:
            raise MissingError("This offer does not hold any more.")
        amount = typed_number(quantity) or Decimal(0)
        if not 0 < amount < 10**9:
            raise ProblemsError([Problem("quantity", "how much is ordered, more than 0")])
        market = market_of([offer.part], Workspace.the().currency, localdate())
        core = next((o for row, o in zip(market.rows, market.offers, strict=True) if row.pk == offer.pk), None)
        if core is None or price_at(core, amount) is None:
            first = min((b.start for b in core.breaks), default=Decimal(0)) if core else Decimal(0)
            raise ProblemsError([Problem("quantity", f"this offer has a price from {first.normalize():f} on")])
        terms = Terms.objects.filter(partner=offer.supplier).first()
        order = PurchaseOrder(number=next_order_number(), supplier=offer.supplier, currency=offer.currency, made_by=str(user))
        order.freight = terms.freight if terms else Decimal(0)
        order._history_user = user
        order.save()
        _line(order, 1, offer.part, offer, amount, terms).save()
        return order
