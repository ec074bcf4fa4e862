"""Put the prices of a plan into a round: proposed there like any other, never silently into the parts."""

from decimal import Decimal
from typing import Any

from accounts.access import require
from rounds.actions.propose import propose
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from buying.models import BuyPlan
from buying.needs import in_buying_units

__all__ = ["propose_prices"]

_SIX = Decimal("0.000001")


def propose_prices(user: Any, plan_id: int, round_id: int) -> int:
    """Propose for each part that a plan buys what one stock unit of it is bought at, freight and charges left out.

    Answers how many were proposed. Raises MissingError, Refused, and ProblemsError where the plan buys nothing or was changed since.
    """
    require(user, "rounds")
    plan = BuyPlan.objects.filter(pk=plan_id).first()
    if plan is None:
        raise MissingError("This plan is no longer there.")
    if plan.planned_version != plan.version:
        raise ProblemsError([Problem("", "the plan was changed since it was planned; plan it anew first")])
    items = []
    for need in plan.needs.select_related("part").order_by("position"):
        # What stands in for it in this plan says nothing of its own price.
        own = [b for b in need.bought if not b.get("part")]
        bought = sum((Decimal(b["quantity"]) for b in own), Decimal(0))
        each = in_buying_units(need.part, need.part.unit)
        if not bought or each is None:
            continue
        cost = sum((Decimal(b["cost"]) for b in own), Decimal(0))
        price = (cost / bought * each).quantize(_SIX)
        items.append(
            {"table": "part", "key": need.part.number, "field": "unit_cost", "value": f"{price:f}", "reason": f"bought so by {plan.number}"}
        )
    if not items:
        raise ProblemsError([Problem("", "the plan buys nothing")])
    propose(user, round_id, items, source=f"buy plan {plan.number}")
    return len(items)
