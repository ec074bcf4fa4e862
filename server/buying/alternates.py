"""Parts that may be bought in the place of others, for one plan."""

from typing import Any

from definition.models.parts import Part

from buying.models import BuyPlan, PlanNeed

__all__ = ["allowed_for", "alternates_of", "need_served"]


def alternates_of(plan: BuyPlan) -> dict[Part, Part]:
    """Part → the part in whose place it may be bought. One query."""
    return {a.part: a.instead_of for a in plan.alternates.select_related("part", "instead_of")}


def need_served(plan: BuyPlan, part_id: int) -> PlanNeed | None:
    """The need of a plan that offers of a part are to: its own, else the one in whose place it may be bought."""
    instead = plan.alternates.filter(part=part_id).values("instead_of")
    needs = plan.needs.select_related("part")
    return needs.filter(part=part_id).first() or needs.filter(part__in=instead).first()


def allowed_for(need: PlanNeed) -> list[dict[str, Any]]:
    """What may be bought in the place of a need's part; ``itself``: the plan needs it itself, and its offers serve only that."""
    rows = list(need.plan.alternates.filter(instead_of=need.part_id).select_related("part"))
    needed = set(need.plan.needs.filter(part__in=[a.part_id for a in rows]).values_list("part", flat=True))
    return [
        {"part": a.part.number, "description": a.part.description, "allowed_by": a.allowed_by, "itself": a.part_id in needed} for a in rows
    ]
