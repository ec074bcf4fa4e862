"""Cutting of the demo: in which sizes timber comes, a plan that was cut and left something, and one that is to be cut."""

from decimal import Decimal
from typing import Any

from cutting.actions.cut_plan import cut_plan
from cutting.actions.keep_sizes import keep_sizes
from cutting.actions.plan_cuts import KIND, make_plan, plan_cuts
from jobs.work import last_job
from readings.matrix import Build

__all__ = ["load_cutting"]


def load_cutting(engineer: Any, shop: Any) -> None:
    """Two plans; the first was cut."""
    keep_sizes(engineer, "PLY-09", [{"length_mm": "2440", "width_mm": "1250"}])
    keep_sizes(engineer, "BTN-30", [{"length_mm": "3000"}])
    first = plan_cuts(engineer, [Build("CR-155", (), Decimal(5))], "3", "300", drafts=False)
    job = last_job(KIND, first.pk)
    assert job is not None
    make_plan.call(first.pk, job.pk)
    cut_plan(shop, first.pk, moves_stock=False)
    plan_cuts(shop, [Build("CR-155", (), Decimal(20)), Build("CR-200", (), Decimal(12))], "3", "300", drafts=False)
