"""Say that a plan was cut: what it took goes out of stock, what it left is stock of its sizes, and the leftovers it took are gone."""

from decimal import Decimal
from typing import Any

from definition.models.parts import Part
from django.utils.timezone import now
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from verbs.contract import writing
from verbs.parts.move_stock import move_stock

from cutting.actions.plan_cuts import held_plan
from cutting.behind import behind
from cutting.models import CutPlan, Leftover
from cutting.states import require_now

__all__ = ["cut_plan"]


def cut_plan(user: Any, plan_id: int, moves_stock: bool) -> CutPlan:
    """All of it or nothing. ``moves_stock``: whole bars and boards, less what is left of them, are taken out of stock.

    Raises ProblemsError for a plan that has not been made, cannot be cut whole or is behind, and where a leftover or the stock is not there;
    MissingError and Refused.
    """
    with writing(user, "cutting"):
        plan = held_plan(plan_id)
        require_now(plan, "cut", behind(plan))
        assert plan.said is not None
        materials = plan.said["materials"]
        parts = {p.number: p for p in Part.objects.filter(number__in=[m["part"] for m in materials])}
        wanted = [u["leftover"] for m in materials for u in m["used"] if u["leftover"] is not None]
        taken = list(Leftover.objects.select_for_update().filter(pk__in=wanted, used_by=None, gone_by="").order_by("pk"))
        if len(taken) != len(set(wanted)):
            raise ProblemsError([Problem("leftovers", "a leftover of this plan is no longer there; plan it anew")])
        Leftover.objects.filter(pk__in=[x.pk for x in taken]).update(used_by=plan)
        for material in materials:
            part = parts.get(material["part"])
            if part is None:
                raise TallyError(f"{material['part']} is no longer a part of ours; plan it anew.")
            Leftover.objects.bulk_create(
                Leftover(
                    part=part,
                    length_mm=Decimal(x["length"]),
                    width_mm=None if x["width"] is None else Decimal(x["width"]),
                    left_by=plan,
                    added_by=str(user),
                )
                for x in material["left"]
                for _ in range(x["count"])
            )
            out = _out_of_stock(material)
            if moves_stock and out:
                move_stock(user, part.number, f"{-out:f}", f"cut by {plan.number}")
        plan.state, plan.cut_by, plan.cut_at = "cut", str(user), now()
        plan.save(update_fields=["state", "cut_by", "cut_at"])
        return plan


def _out_of_stock(material: dict[str, Any]) -> Decimal:
    """In the part's unit: what whole stock goes less what comes back; of a part that is counted, whole ones."""
    if material["taken"] is None:
        return Decimal(material["fresh"])
    return round(Decimal(material["taken"]), 6)
