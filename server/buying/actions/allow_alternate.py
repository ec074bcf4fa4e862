"""Allow a part to be bought in the place of another, for one plan alone; or no longer."""

from definition.models.parts import Part
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing

from buying.actions.open_plan import held_plan, plan_changed
from buying.models import BuyPlan, PlanAlternate
from buying.needs import each_for_other

__all__ = ["allow_alternate", "disallow_alternate"]


def allow_alternate(user, plan_id: int, version: int | None, part: str, instead_of: str) -> BuyPlan:
    """Let a plan buy a part for the needs of another one; no sheet changes.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        plan = held_plan(plan_id, version)
        need = plan.needs.select_related("part").filter(part__number=instead_of).first()
        if need is None:
            raise ProblemsError([Problem("instead_of", f"{instead_of[:64] or 'a part'} is no need of this plan; plan it first")])
        other = Part.objects.filter(number=part).first()
        problem = _why_not(plan, other, need.part, part)
        if other is None or problem:
            raise ProblemsError([Problem("part", problem)])
        row = PlanAlternate(plan=plan, part=other, instead_of=need.part, allowed_by=str(user))
        row._history_user = user
        row.save()
        return plan_changed(plan, user)


def _why_not(plan: BuyPlan, other: Part | None, part: Part, typed: str) -> str:
    if other is None:
        return f"{typed[:64] or 'a part'} is not known"
    if other == part:
        return f"{part.number} is the part itself"
    if other.lifecycle == "obsolete":
        return f"{other.number} is obsolete"
    if plan.needs.filter(part=other).exists():
        return f"this plan needs {other.number} itself: its offers serve that need alone"
    there = plan.alternates.select_related("instead_of").filter(part=other).first()
    if there is not None:
        return f"{other.number} may be bought for {there.instead_of.number} already; its offers serve one need"
    if each_for_other(other, part) is None:
        return f"{other.number} is counted in {other.unit}, which does not convert into what {part.number} is bought in"
    return ""


def disallow_alternate(user, plan_id: int, version: int | None, part: str) -> BuyPlan:
    """Have a plan buy a part in the place of no other any longer; choices by hand of its offers go too. Raises MissingError and Refused."""
    with writing(user, "buying"):
        plan = held_plan(plan_id, version)
        row = plan.alternates.filter(part__number=part).first()
        if row is None:
            raise MissingError("This part stands in for no other here, or no longer.")
        plan.held.filter(offer__part=row.part_id).delete()
        row._history_user = user
        row.delete()
        return plan_changed(plan, user)
