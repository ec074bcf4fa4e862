"""What moved since a plan was made."""

from collections import Counter
from decimal import Decimal

from readings.matrix import Build
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis

from cutting.models import CutPlan, Leftover
from cutting.pieces import cut_lines

__all__ = ["behind"]


def behind(plan: CutPlan) -> str:
    """Why a plan that was made and not cut is no longer what would be made now; empty while it is."""
    if plan.state != "made" or plan.said is None:
        return ""
    builds = [Build(b["part"], tuple(b["options"]), Decimal(b["quantity"])) for b in plan.builds]
    try:
        lines = cut_lines(builds, Basis(plan.day, None, (), bool(plan.builds[0]["drafts"])))
    except TallyError as error:
        return str(error)
    now = Counter((x.material.number, x.words, x.count) for x in lines)
    held = Counter((m["part"], str(p["words"]), p["count"]) for m in plan.said["materials"] for p in m["pieces"])
    if now != held:
        return "What is cut is stated otherwise by now."
    wanted = {u["leftover"] for m in plan.said["materials"] for u in m["used"]} - {None}
    if Leftover.objects.filter(pk__in=wanted, used_by=None, gone_by="").count() < len(wanted):
        return "A leftover that it takes is no longer there."
    return ""
