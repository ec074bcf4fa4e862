"""Choose an offer by hand for a plan, so that the rest is planned around it; or let go of a choice."""

from decimal import Decimal

from definition.models.parts import Part
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing

from buying.actions.open_plan import held_plan, plan_changed
from buying.alternates import alternates_of, need_served
from buying.market import market_of
from buying.models import BuyPlan, HeldChoice, Offer
from buying.typed_number import typed_number

__all__ = ["hold_choice", "let_go_choice"]


def hold_choice(user, plan_id: int, version: int | None, offer_id: int, quantity: str | None = None) -> BuyPlan:
    """Hold so much of an offer, in the part's buying unit; without a quantity the least that covers the need.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        plan = held_plan(plan_id, version)
        offer = Offer.objects.select_related("part").filter(pk=offer_id, let_go_at=None).first()
        if offer is None:
            raise MissingError("This offer does not hold any more.")
        need = need_served(plan, offer.part_id)
        if need is None:
            raise ProblemsError([Problem("offer", f"{offer.part.number} is no need of this plan; plan it first")])
        if quantity is None:
            looked = next((o for o in need.offers if o["offer"] == offer_id), None)
            quantity = (looked or {}).get("alone") or need.said["quantity"]
        amount = typed_number(quantity) or Decimal(0)
        if not 0 < amount < 10**9:
            raise ProblemsError([Problem("quantity", "how much is bought, more than 0")])
        first = min(b.start for b in _core_offer(offer, plan, need.part).breaks)
        if amount < first:
            raise ProblemsError([Problem("quantity", f"this offer has a price from {first.normalize():f} on")])
        HeldChoice.objects.update_or_create(plan=plan, offer=offer, defaults={"quantity": amount, "chosen_by": str(user)})
        return plan_changed(plan, user)


def _core_offer(offer: Offer, plan: BuyPlan, part: Part):
    market = market_of([part], "", plan.opened_at.date(), alternates_of(plan))
    for row, made in zip(market.rows, market.offers, strict=True):
        if row.pk == offer.pk:
            return made
    raise ProblemsError([Problem("offer", f"{offer.unit} does not convert into the unit {offer.part.number} is bought in")])


def let_go_choice(user, plan_id: int, version: int | None, offer_id: int) -> BuyPlan:
    """Let go of a choice by hand. Raises MissingError and Refused."""
    with writing(user, "buying"):
        plan = held_plan(plan_id, version)
        if not plan.held.filter(offer=offer_id).delete()[0]:
            raise MissingError("This was not chosen by hand, or no longer.")
        return plan_changed(plan, user)
