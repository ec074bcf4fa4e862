"""The board of an inquiry: where layouts have each component, and which line it belongs to."""

from typing import Any

from inquiries.lines import core_line, counting
from inquiries.models import Inquiry, InquiryFile

__all__ = ["board_of"]


def board_of(inquiry: Inquiry) -> dict[str, Any]:
    """The components of all layouts that count, in millimetres, each with the line that names it; the outlines that a layout states, and
    the extent of the board."""
    files = InquiryFile.objects.filter(inquiry=inquiry, replaced_by=None).exclude(places=[])
    line_of = {d.upper(): x.pk for x in counting(inquiry) if x.row > 0 for d in core_line(x).designators}
    boards = list(files.exclude(board={}).values_list("board", flat=True))
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
    outline: list[list[float]] = next((b["outline"] for b in boards if b.get("outline")), [])
    corners = outline or [[p["x"], p["y"]] for p in places]
    xs, ys = [c[0] for c in corners], [c[1] for c in corners]
    extent = [min(xs), min(ys), max(xs), max(ys)] if corners else [0, 0, 0, 0]
    used = {p["package"] for p in places}
    packages = {name: box for b in boards for name, box in b.get("packages", {}).items() if name in used}
    return {"places": places, "extent": extent, "outline": outline, "packages": packages}
