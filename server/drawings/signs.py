"""What views are called by and where they are taken: cutting lines, frames of details, letters; and what a revision changed."""

from collections.abc import Iterator
from typing import Any

from formats.step_lines import DIRECTIONS, across

from drawings.laid import PAPERS, View
from drawings.standing import FRAME, RADIUS, Standing, seen_as_line, stacked, view_box

__all__ = ["Mark", "detail_frames", "line", "mark_of_revision", "revisions", "scale_words", "text", "view_signs"]

#: A mark on the paper: a line through points, a text, or a circle, in millimetres.
Mark = dict[str, Any]
#: How far a cutting line reaches beyond its view, how long its thick ends and arrows are, and how high letters.
_BEYOND, _THICK, _ARROW, _LETTER = 4.0, 5.0, 6.0, 5.0
_MOST_LISTED, _ROW = 6, 6.0
_COLUMNS = (("Revision", 18.0), ("Valid from", 44.0), ("Changed by", 72.0))


def line(x1: float, y1: float, x2: float, y2: float, width: float = 0.25, dash: str = "") -> Mark:
    """``dash``: nothing, ``hidden`` or ``chain``."""
    return {"kind": "line", "points": [x1, y1, x2, y2], "width": width, "dash": dash}


def text(x: float, y: float, words: str, size: float = 2.6, at: str = "start", strong: bool = False) -> Mark:
    """``at``: whether it begins at its place, or has its middle there."""
    return {"kind": "text", "points": [x, y], "text": words, "size": size, "at": at, "strong": strong}


def scale_words(scale: float) -> str:
    """A scale as ISO 5455 writes it.

    >>> scale_words(0.5), scale_words(2.0)
    ('1:2', '2:1')
    """
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:g}"


def view_signs(found: Standing) -> Iterator[Mark]:
    """Above each section and detail what it is called by (ISO 128-3), and the line along which each section is cut, on a view that sees it so."""
    for view in found.laid.views:
        said = found.views.get(view.key)
        if said is None or not view.letter:
            continue
        middle = view.x + said["width"] * view.scale / 2
        words = f"{view.letter} ({scale_words(view.scale)})" if view.of else f"{view.letter}–{view.letter}"
        yield text(middle, view.y - 3, words, _LETTER, "middle", True)
        if not view.of and view.depth is not None:
            yield from _cutting_line(found, view, said)


def _cutting_line(found: Standing, section: View, said: dict[str, Any]) -> Iterator[Mark]:
    """On the first view from whose side the plane is seen as a line; none where there is none."""
    axis, at = said["plane"]
    looks = tuple(-n for n in DIRECTIONS[section.direction][0])
    view = seen_as_line(found, axis)
    if view is None:
        return
    seen = found.views[view.key]
    right, up = across(view.direction)
    left, high = seen["origin"]
    box = view_box(view, seen)
    if right[axis]:
        x = view.x + (at * right[axis] - left) * view.scale
        way = looks[axis] * right[axis]
        for y, inward in ((box.y - _BEYOND, 1), (box.y + box.height + _BEYOND, -1)):
            yield line(x, y, x, y + inward * _THICK, 0.7)
            yield from _arrow(x, y, way, 0)
            yield text(x + way * (_ARROW + 3), y + 1.8, section.letter, _LETTER, "middle", True)
        yield line(x, box.y - _BEYOND, x, box.y + box.height + _BEYOND, 0.25, "chain")
    else:
        y = view.y + (high - at * up[axis]) * view.scale
        way = -looks[axis] * up[axis]
        for x, inward in ((box.x - _BEYOND, 1), (box.x + box.width + _BEYOND, -1)):
            yield line(x, y, x + inward * _THICK, y, 0.7)
            yield from _arrow(x, y, 0, way)
            yield text(x, y + way * (_ARROW + 3) + 1.8, section.letter, _LETTER, "middle", True)
        yield line(box.x - _BEYOND, y, box.x + box.width + _BEYOND, y, 0.25, "chain")


def _arrow(x: float, y: float, dx: float, dy: float) -> Iterator[Mark]:
    """From the cutting line the way in which one looks; its head is two strokes."""
    u, v = x + dx * _ARROW, y + dy * _ARROW
    yield line(x, y, u, v, 0.35)
    for side in (1, -1):
        yield line(u, v, u - dx * 2.4 + dy * side * 0.8, v - dy * 2.4 + dx * side * 0.8, 0.35)


def detail_frames(found: Standing) -> Iterator[Mark]:
    """On the view that a detail is of: what of it is shown, with its letter."""
    by_key = {v.key: v for v in found.laid.views}
    for detail in found.laid.views:
        view = by_key.get(detail.of)
        if view is None or detail.box is None or detail.key not in found.views:
            continue
        x, y, wide, high = (n * view.scale for n in detail.box)
        x, y = view.x + x, view.y + y
        yield {"kind": "line", "points": [x, y, x + wide, y, x + wide, y + high, x, y + high, x, y], "width": 0.25, "dash": ""}
        yield text(x + wide + 1.5, y - 1.5, detail.letter, _LETTER, "start", True)


def revisions(found: Standing) -> Iterator[Mark]:
    """The newest revisions of the sheet as a table in the upper right corner; what the drawing follows at the top."""
    if not found.laid.revisions:
        return
    x, y = PAPERS[found.laid.size][0] - FRAME[2] - _COLUMNS[-1][1], FRAME[1]
    right = x + _COLUMNS[-1][1]
    rows = [
        [title for title, _ in _COLUMNS],
        *(
            [s.revision, s.effective_from.isoformat() if s.effective_from else s.status, s.changed_by]
            for s in found.revisions[:_MOST_LISTED]
        ),
    ]
    low = y + _ROW * len(rows)
    yield {"kind": "line", "points": [x, y, x, low, right, low], "width": 0.35, "dash": ""}
    for at, row in enumerate(rows):
        yield line(x, y + _ROW * (at + 1), right, y + _ROW * (at + 1), 0.35 if at == 0 else 0.18)
        start = 0.0
        for cell, (_, end) in zip(row, _COLUMNS, strict=True):
            yield text(x + start + 1.5, y + _ROW * (at + 1) - 1.8, cell[:16], 2.2 if at == 0 else 2.6)
            start = end
    changed = {x.key for x in found.lines if x.revised}
    for balloon in found.laid.balloons:
        for key, (bx, by) in zip(balloon.lines, stacked(balloon), strict=True):
            if key in changed:
                yield from mark_of_revision(bx - RADIUS - 2.6, by, found.sheet.revision)


def mark_of_revision(x: float, y: float, revision: str) -> Iterator[Mark]:
    """A triangle with the revision in it (common practice), its middle at a place."""
    yield {"kind": "line", "points": [x - 2.6, y + 1.8, x + 2.6, y + 1.8, x, y - 2.8, x - 2.6, y + 1.8], "width": 0.25, "dash": ""}
    yield text(x, y + 1.2, revision[:3], 2.0, "middle", True)
