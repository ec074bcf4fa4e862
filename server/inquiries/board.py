"""The board of an inquiry: where layouts have each component, and which line it belongs to."""

from typing import Any

from inquiries.lines import core_line, counting
from inquiries.models import Inquiry, InquiryFile

__all__ = ["board_of"]


def board_of(inquiry: Inquiry) -> dict[str, Any]:
    """The components of all layouts that count, in millimetres, each with the line that names it; and the extent of the board."""
    files = InquiryFile.objects.filter(inquiry=inquiry, replaced_by=None).exclude(places=[])
    line_of = {d.upper(): x.pk for x in counting(inquiry) if x.row > 0 for d in core_line(x).designators}
    places = [
        {
            "designator": p["designator"],
            "package": p.get("package", ""),
            "x": float(p["x_mm"]),
            "y": float(p["y_mm"]),
            "rotation": float(p["rotation"]),
            "side": p.get("side") or "top",
            "fitted": bool(p.get("fitted", True)),
            "line": line_of.get(p["designator"].upper()),
        }
        for some in files.values_list("places", flat=True)
        for p in some
    ]
    xs, ys = [p["x"] for p in places], [p["y"] for p in places]
    extent = [min(xs), min(ys), max(xs), max(ys)] if places else [0, 0, 0, 0]
    return {"places": places, "extent": extent}
