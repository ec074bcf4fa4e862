"""What is shown of cutting: plans, one plan with how it stands, materials with their sizes and leftovers."""

from typing import Any

from definition.models.parts import Part
from definition.records import plain_decimal
from jobs.work import job_state, last_job, last_jobs

from cutting.actions.plan_cuts import KIND
from cutting.behind import behind
from cutting.models import CutPlan, Leftover
from cutting.planned import loss_percent, sizes_of, stock_cost
from cutting.states import answers

__all__ = ["leftovers", "one_plan", "plans", "sizes"]

_SHOWN = 200


def plans() -> list[dict[str, Any]]:
    """The newest plans first, at most 200."""
    rows = list(CutPlan.objects.all()[:_SHOWN])
    jobs = last_jobs([KIND], [r.pk for r in rows])
    return [_head(row) | {"doing": job_state(jobs.get(row.pk)).doing} for row in rows]


def _head(row: CutPlan) -> dict[str, Any]:
    return {
        "id": row.pk,
        "number": row.number,
        "state": row.state,
        "day": row.day.isoformat(),
        "kerf_mm": plain_decimal(row.kerf_mm),
        "keep_mm": plain_decimal(row.keep_mm),
        "builds": [{"part": b["part"], "quantity": b["quantity"], "options": b["options"]} for b in row.builds],
        "made_by": row.made_by,
        "made_at": row.made_at.isoformat(),
        "cut_by": row.cut_by,
        "cut_at": row.cut_at.isoformat() if row.cut_at else "",
    }


def one_plan(plan: CutPlan) -> dict[str, Any]:
    """A plan whole; ``behind`` says what moved since it was made."""
    materials = plan.said["materials"] if plan.said else []
    moved = behind(plan)
    return _head(plan) | {
        "job": job_state(last_job(KIND, plan.pk)),
        "behind": moved,
        "why_not": answers(plan, moved),
        "materials": [m | {"loss_percent": loss_percent(m)} for m in materials],
    }


def sizes(part: Part) -> dict[str, Any]:
    """In which sizes a material comes, and what is left of it. ``stated`` is False where the sizes are those of the part itself."""
    held = sizes_of([part])[part.pk]
    rows = [
        {
            "length_mm": plain_decimal(s.length_mm),
            "width_mm": plain_decimal(s.width_mm),
            "cost": plain_decimal(s.cost),
            "by_part": None if (c := stock_cost(part, s.length_mm, s.width_mm)) is None else f"{c:.2f}",
        }
        for s in held.sizes
    ]
    return {"part": part.number, "stated": bool(held.sizes and held.sizes[0].pk), "sizes": rows, "leftovers": leftovers(part)}


def leftovers(part: Part) -> list[dict[str, Any]]:
    """What is left of a material and there."""
    rows = Leftover.objects.filter(part=part, used_by=None, gone_by="").select_related("left_by")
    return [
        {
            "id": x.pk,
            "length_mm": plain_decimal(x.length_mm),
            "width_mm": plain_decimal(x.width_mm),
            "words": x.note or (f"left by {x.left_by.number}" if x.left_by else f"counted by {x.added_by}"),
            "at": x.added_at.isoformat(),
        }
        for x in rows
    ]
