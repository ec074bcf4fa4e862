"""Write the definition, or what one part takes, as a bundle."""

from definition.models.parts import MakerNumber, Part, PartClass, Workspace
from definition.models.sheets import BuildSheet, Option
from definition.models.work_centers import StandardOperation, WorkCenter
from definition.records import class_record, part_record, sheet_record, standard_record, work_center_record
from django.db.models import Q, QuerySet
from tally_core.stated import definition as core
from tally_core.stated.bundle import write_bundle

__all__ = ["export_bundle"]


def export_bundle(part_ids: list[int] | None = None) -> dict:
    """The bundle of some parts with all their sheets, or of everything; reads back to the same records."""
    parts = Part.objects.order_by("number")
    sheets = BuildSheet.objects.select_related("part").order_by("part__number", "alternate", "revision")
    sheets = sheets.prefetch_related("lines__part", "lines__operation", "lines__option", "operations__work_center", "operations__standard")
    centers = WorkCenter.objects.order_by("code")
    standards = StandardOperation.objects.select_related("work_center")
    options = Option.objects.all()
    classes = PartClass.objects.all()
    if part_ids is not None:
        parts = parts.filter(id__in=part_ids)
        sheets = sheets.filter(part_id__in=part_ids)
        standards = standards.filter(operations__sheet__part_id__in=part_ids).distinct()
        used = Q(operations__sheet__part_id__in=part_ids) | Q(standardoperations__in=standards.values("id"))
        centers = centers.filter(used).distinct()
        classes = classes.filter(name__in=parts.values("part_class"))
        options = options.filter(lines__sheet__part_id__in=part_ids).distinct()
    codes = {o.code for o in options}
    return write_bundle(
        core.Definition(
            currency=Workspace.the().currency,
            work_centers=[work_center_record(c) for c in centers],
            parts=[part_record(p) for p in parts],
            sheets=[
                sheet_record(s, list(s.lines.all()), sorted(s.operations.all(), key=lambda o: (o.sequence, o.resource))) for s in sheets
            ],
            options={o.code: o.name for o in options},
            standard_operations=[standard_record(x) for x in standards],
            part_classes=[class_record(c) for c in classes],
            maker_numbers=_maker_numbers(parts),
            not_together={o.code: [c for c in o.not_with if c in codes] for o in options if o.not_with},
        )
    )


def _maker_numbers(parts: QuerySet[Part]) -> dict[str, list[core.MakerNumber]]:
    """By part number; stock is left out, since a file that is loaded again later would undo what was moved meanwhile."""
    found: dict[str, list[core.MakerNumber]] = {}
    rows = MakerNumber.objects.filter(part__in=parts).order_by("part__number", "rank", "id")
    for number, maker, text, package in rows.values_list("part__number", "maker_id", "number", "package"):
        listed = found.setdefault(number, [])
        listed.append(core.MakerNumber(text, str(maker or ""), package, len(listed) + 1))
    return found
