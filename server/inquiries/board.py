"""The boards of an inquiry: where layouts have each component, and which line it belongs to."""

from typing import Any

from tally_core.inquiries.boards import Board, find_boards
from tally_core.inquiries.join import join
from tally_core.inquiries.layout import Place

from inquiries.lines import core_line, core_places, counting, layouts_of
from inquiries.models import Inquiry, InquiryFile

__all__ = ["boards_of"]


def boards_of(inquiry: Inquiry) -> list[dict[str, Any]]:
    """Every board that layouts show: what it is of, or else its files; its components in millimetres, each with the line that names it; the
    outline that a layout states, and the extent."""
    files = layouts_of(inquiry)
    if not files:
        return []
    lines = [core_line(x) for x in counting(inquiry)]
    joined = join(lines)
    found = find_boards(lines, joined, [core_places(f.places) for f in files])
    line_of: list[dict[str, int]] = [{} for _ in found.boards]
    names: list[dict[str, str]] = [{} for _ in found.boards]
    called = {x.thing: x.name for x in reversed(lines)}
    for x in lines:
        at = found.board_of(x) if x.designators and x.row > 0 else None
        if at is not None and at >= 0:
            thing = joined.parents.get(x.key, "")
            names[at].setdefault(thing, called.get(thing, thing))
            for d in x.designators:
                line_of[at].setdefault(d.upper(), x.key)
    return [
        _shown(board, [files[i] for i in board.layouts], line_of[at], [n for n in names[at].values() if n])
        for at, board in enumerate(found.boards)
    ]


def _shown(board: Board, files: list[InquiryFile], line_of: dict[str, int], names: list[str]) -> dict[str, Any]:
    outline: list[list[float]] = next((f.board["outline"] for f in files if f.board.get("outline")), [])
    corners = outline or [[float(p.x_mm), float(p.y_mm)] for p in board.places.values()]
    xs, ys = [c[0] for c in corners], [c[1] for c in corners]
    used = {p.package for p in board.places.values()}
    return {
        "name": ", ".join(names) or ", ".join(f.name for f in files),
        "places": [_place(d, p, line_of.get(d)) for d, p in board.places.items()],
        "extent": [min(xs), min(ys), max(xs), max(ys)],
        "outline": outline,
        "packages": {name: box for f in files for name, box in f.board.get("packages", {}).items() if name in used},
    }


def _place(designator: str, place: Place, line: int | None) -> dict[str, Any]:
    return {
        "designator": designator,
        "package": place.package,
        "x": float(place.x_mm),
        "y": float(place.y_mm),
        "rotation": float(place.rotation),
        "side": place.side or "top",
        "fitted": place.fitted,
        "line": line,
    }
