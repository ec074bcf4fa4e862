"""Save a brought-in list: its new parts and sheets, all of it or nothing."""

from accounts.access import require
from definition.loops import refuse_loops
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from django.db import transaction
from simple_history.utils import bulk_create_with_history, bulk_update_with_history
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.basics.units import is_count

from intake.models import Intake
from intake.plan import Mapping, Plan, make_plan

__all__ = ["save_intake"]


def save_intake(user, intake_id: int, mapping: Mapping) -> tuple[BuildSheet, Plan]:
    """Make what the plan says; returns the top part's new sheet.

    Raises ProblemsError, each problem placed at its row, when any row cannot be saved; then nothing is.
    """
    require(user, "intake")
    with transaction.atomic():
        intake = Intake.objects.select_for_update().filter(pk=intake_id, made_by=user).first()
        if intake is None:
            raise MissingError("This list is no longer there; bring the file in again.")
        if intake.state == "saved":
            raise TallyError("This list was saved already; bring the file in again to read it anew.")
        plan = make_plan(intake, mapping)
        problems = [Problem("list", text) for text in plan.problems]
        problems += [Problem(f"row {r.row}", text) for r in plan.rows for text in r.problems]
        if problems:
            raise ProblemsError(problems)
        note = {"default_user": user, "default_change_reason": f"list {intake.name}"}
        fresh = [
            Part(
                number=number,
                description=r.description,
                kind=plan.kinds[number],
                unit=r.unit or "ea",
                whole_only=is_count(r.unit or "ea"),
                unit_cost=r.unit_cost,
                lifecycle="draft",
                part_class=mapping.number_class if number in plan.numbered else "",
            )
            for number, r in plan.new_parts.items()
        ]
        bulk_create_with_history(fresh, Part, **note)
        known = list(Part.objects.select_for_update().filter(number__in={*plan.turned, *plan.described}).order_by("pk"))
        for part in known:
            if part.number in plan.turned:
                part.kind = "made"
            if not part.description:
                part.description = plan.described.get(part.number, "")
            part.version += 1
        if known:
            bulk_update_with_history(known, Part, ["kind", "description", "version"], **note)
        numbers = {n for s in plan.sheets for n in (s.part, *(r.part for r in s.lines))} | {plan.top}
        parts = {p.number: p for p in Part.objects.filter(number__in=numbers)}
        made = [s for s in plan.sheets if not s.stands]
        sheets = [BuildSheet(part=parts[s.part], revision=s.revision, changed_by=str(user)) for s in made]
        bulk_create_with_history(sheets, BuildSheet, **note)
        lines = [
            Line(
                sheet=sheet,
                position=position,
                item=r.item if r.item is not None else 10 * position,
                part=parts[r.part],
                quantity=r.quantity,
                unit=r.unit if r.unit and r.unit != parts[r.part].unit else "",
                scrap_percent=r.scrap_percent,
                reference_designators=r.reference_designators,
            )
            for sheet, planned in zip(sheets, made, strict=True)
            for position, r in enumerate(planned.lines, 1)
        ]
        bulk_create_with_history(lines, Line, **note)
        refuse_loops([s.part_id for s in sheets])
        intake.state = "saved"
        intake.save(update_fields=["state"])
        top = next((s for s in sheets if s.part.number == plan.top), None)
        if top is None:
            raise TallyError(f"The list holds no line of {plan.top} itself.")
        return top, plan
