"""Where a sheet came from: the inquiries that became it, and for each of its lines the row of the list that says so."""

from typing import Any

from definition.models.sheets import BuildSheet, Line
from tally_core.basics.errors import MissingError

from inquiries.models import Inquiry, Origin

__all__ = ["origins_of"]


def origins_of(sheet_id: int) -> dict[str, Any]:
    """The inquiries of a sheet, whatever revision of it they became, and line → row of a list. Four queries."""
    sheet = BuildSheet.objects.filter(pk=sheet_id).first()
    if sheet is None:
        raise MissingError("This sheet is no longer there.")
    inquiries = Inquiry.objects.filter(products__sheet__part=sheet.part_id).distinct().order_by("-id")
    lineages = dict(Line.objects.filter(sheet=sheet).values_list("lineage", "id"))
    rows = Origin.objects.filter(lineage__in=lineages).select_related("line__inquiry")
    # Of the file its name alone: its cells may be many.
    names = dict(rows.values_list("line__file", "line__file__name"))
    return {
        "inquiries": [{"id": i.pk, "number": i.number, "title": i.title} for i in inquiries],
        "lines": {
            str(lineages[o.lineage]): {
                "inquiry": o.line.inquiry_id,
                "number": o.line.inquiry.number,
                "file": names[o.line.file_id],
                "row": o.line.row,
                "line": o.line_id,
            }
            for o in rows.order_by("id")
        },
    }
