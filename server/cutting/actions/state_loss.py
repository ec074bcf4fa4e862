"""What a plan loses of a material, stated on the lines that are cut from it: as scrap, in drafts."""

from typing import Any

from definition.models.sheets import BuildSheet, Line
from tally_core.basics.errors import MissingError, TallyError
from verbs.contract import writing
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet

from cutting.models import CutPlan
from cutting.planned import loss_percent

__all__ = ["state_loss"]


def state_loss(user: Any, plan_id: int, part: str) -> list[BuildSheet]:
    """Put the loss of a material on the lines of a plan, each in the draft of its sheet; all of them or none.

    Raises MissingError for a line that is no more, TallyError where a plan says no loss of it, and Refused.
    """
    with writing(user, "sheets"):
        plan = CutPlan.objects.filter(pk=plan_id).first()
        material = next((m for m in plan.said["materials"] if m["part"] == part), None) if plan and plan.said else None
        loss = loss_percent(material) if material else None
        if plan is None or material is None or loss is None or material["stops"]:
            raise TallyError(f"This plan says nothing of what is lost of {part}.")
        lines = {str(x.pk): x for x in Line.objects.filter(pk__in=[p["line"] for p in material["pieces"]]).select_related("sheet__part")}
        drafts: dict[int, BuildSheet] = {}
        for piece in material["pieces"]:
            line = lines.get(piece["line"])
            if line is None:
                raise MissingError(f"The line of {piece['name']} is no longer there; plan it anew.")
            sheet = open_sheet(user, line.sheet.part.number, line.sheet.alternate, reason=f"cut plan {plan.number}")
            there = sheet.lines.filter(lineage=line.lineage).first()
            if there is None:
                raise MissingError(f"The line of {piece['name']} is not in the draft of {sheet}; plan it anew.")
            after = {"scrap_percent": loss} | ({"yield_percent": None} if there.yield_percent is not None else {})
            change = {"table": "line", "id": there.pk, "before": {}, "after": after}
            drafts[sheet.pk], _ = edit_sheet(user, sheet.pk, sheet.version, [change], f"what cut plan {plan.number} loses")
        return list(drafts.values())
