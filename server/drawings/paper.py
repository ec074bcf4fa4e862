"""A drawing as marks on its paper: frame, title block (the fields of ISO 7200), parts list, views, balloons; and out as SVG, PDF and DXF at true scale."""

import base64
import io
from collections.abc import Iterator
from html import escape
from math import hypot

import ezdxf
from definition.models.parts import Workspace
from django.utils.timezone import localdate
from files.store import opened
from formats.document import page_pdf
from tally_core.drawings.balloons import Box

from drawings.laid import PAPERS
from drawings.signs import Mark, detail_frames, line, mark_of_revision, revisions, scale_words, text, view_signs
from drawings.standing import FRAME, RADIUS, Listed, Standing, anchor, stacked

__all__ = ["SHAPES", "list_boxes", "marks", "paper_of"]

SHAPES = {"pdf": "application/pdf", "svg": "image/svg+xml", "dxf": "image/vnd.dxf"}
_DASHES = {"hidden": "2 1", "chain": "6 1 1 1"}
_TITLE_WIDTH, _TITLE_HEIGHT, _ROW = 180.0, 36.0, 6.0
#: The list on the drawing: titles, and where each column ends.
_COLUMNS = (("Item", 12.0), ("Part", 44.0), ("Description", 144.0), ("Quantity", 180.0))


def marks(found: Standing) -> list[Mark]:
    """Frame, title block, parts list, revisions, and what views are called by."""
    width, height = PAPERS[found.laid.size]
    left, top, right, low = FRAME
    frame = [left, top, width - right, top, width - right, height - low, left, height - low, left, top]
    return [
        {"kind": "line", "points": frame, "width": 0.7, "dash": ""},
        *_title(found, width - right, height - low),
        *_list(found, width - right, height - low - _TITLE_HEIGHT),
        *view_signs(found),
        *revisions(found),
    ]


def list_boxes(found: Standing) -> list[Box]:
    """What the title block and the parts list cover."""
    width, height = PAPERS[found.laid.size]
    right, low = width - FRAME[2], height - FRAME[3]
    boxes = [Box(right - _TITLE_WIDTH, low - _TITLE_HEIGHT, _TITLE_WIDTH, _TITLE_HEIGHT)]
    for x, high, rows in _blocks(found, right, low - _TITLE_HEIGHT):
        boxes.append(Box(x, high, _TITLE_WIDTH, _ROW * (len(rows) + 1)))
    return boxes


def _blocks(found: Standing, right: float, low: float) -> Iterator[tuple[float, float, list[Listed]]]:
    """The list in blocks that fit above the title, the first at the right: where each begins, and its rows from the bottom up."""
    rows = sorted(found.lines, key=lambda x: (x.item is None, x.item or 0))
    each = max(1, int((low - FRAME[1] - 4) / _ROW) - 1)
    for begin in range(0, max(len(rows), 1), each):
        here = rows[begin : begin + each]
        yield right - _TITLE_WIDTH * (1 + begin // each), low - _ROW * (len(here) + 1), here


def _title(found: Standing, right: float, low: float) -> Iterator[Mark]:
    x, y = right - _TITLE_WIDTH, low - _TITLE_HEIGHT
    yield {"kind": "line", "points": [x, y, right, y, right, low, x, low, x, y], "width": 0.5, "dash": ""}
    for across in (12.0, 24.0):
        yield line(x, y + across, right, y + across)
    scales = ", ".join(dict.fromkeys(scale_words(v.scale) for v in found.laid.views))
    fields = (
        # x, y, width of the cell, the field's name by ISO 7200, and what stands in it
        (0, 0, 110, "Title", f"{found.part.description}"),
        (110, 0, 70, "Identification number", found.part.number),
        (0, 12, 60, "Legal owner", found.laid.owner or Workspace.the().firm),
        (60, 12, 50, "Document type", "Assembly drawing"),
        (110, 12, 35, "Revision", found.sheet.revision),
        (145, 12, 35, "Status", found.sheet.status),
        (0, 24, 60, "Creator", found.sheet.changed_by),
        (60, 24, 50, "Date of issue", localdate().isoformat()),
        (110, 24, 35, "Scale", scales),
        (145, 24, 17, "Size", found.laid.size),
        (162, 24, 18, "Sheet", "1 / 1"),
    )
    for dx, dy, wide, name, value in fields:
        if dx:
            yield line(x + dx, y + dy, x + dx, y + dy + 12)
        yield text(x + dx + 1.5, y + dy + 3.2, name, 1.8)
        yield text(x + dx + 1.5, y + dy + 9, _fit(str(value), wide - 3, 3.5 if dy == 0 else 3.0), 3.5 if dy == 0 else 3.0, strong=dy == 0)


def _fit(text: str, width: float, size: float) -> str:
    most = int(width / (size * 0.55))
    return text if len(text) <= most else text[: most - 1] + "…"


def _list(found: Standing, right: float, low: float) -> Iterator[Mark]:
    """The lines of the sheet, the first at the bottom, above the title; what is too much for the height stands beside it."""
    for x, high, here in _blocks(found, right, low):
        yield {"kind": "line", "points": [x, low, x, high, x + _TITLE_WIDTH, high, x + _TITLE_WIDTH, low], "width": 0.35, "dash": ""}
        for at, row in enumerate([None, *here]):
            y = low - _ROW * at
            cells = (
                [title for title, _ in _COLUMNS]
                if row is None
                else [
                    "" if row.item is None else str(row.item),
                    row.number,
                    row.description,
                    f"{row.quantity} {row.unit}" if row.quantity else "as needed",
                ]
            )
            yield line(x, y - _ROW, x + _TITLE_WIDTH, y - _ROW, 0.35 if row is None else 0.18)
            if row is not None and row.revised and found.laid.revisions:
                yield from mark_of_revision(x - 3.2, y - _ROW / 2, found.sheet.revision)
            start = 0.0
            for cell, (_, end) in zip(cells, _COLUMNS, strict=True):
                size = 2.2 if row is None else 2.6
                yield text(x + start + 1.5, y - 1.8, _fit(cell, end - start - 2, size), size)
                if row is None and end < _TITLE_WIDTH:
                    yield line(x + end, low, x + end, high, 0.18)
                start = end


def _all_marks(found: Standing) -> Iterator[Mark]:
    yield from marks(found)
    yield from detail_frames(found)
    for view in found.laid.views:
        said = found.views.get(view.key)
        if said and "picture" in said:
            sides = said["width"] * view.scale, said["height"] * view.scale
            yield {"kind": "picture", "points": [view.x, view.y, *sides], "picture": said["picture"]}
        for part in said["parts"] if said else ():
            if part["name"] in view.left_out:
                continue
            for kind, width in (("hidden", 0.18), ("hatch", 0.13), ("seen", 0.35)):
                if kind == "hidden" and not view.hidden:
                    continue
                for points in part[kind]:
                    placed = [v * view.scale + (view.x, view.y)[i % 2] for i, v in enumerate(points)]
                    yield {"kind": "line", "points": placed, "width": width, "dash": "hidden" if kind == "hidden" else ""}
    lines = {x.key: x for x in found.lines}
    for balloon in found.laid.balloons:
        if balloon.line not in lines:
            continue
        x, y = balloon.to
        at = anchor(found, balloon)
        if at is not None:
            away = hypot(at[0] - x, at[1] - y)
            if away > RADIUS:
                yield line(x + (at[0] - x) * RADIUS / away, y + (at[1] - y) * RADIUS / away, *at)
                yield {"kind": "dot", "points": [*at], "width": 0.6}
        for key, (u, v) in zip(balloon.lines, stacked(balloon), strict=True):
            listed = lines.get(key)
            if listed is None:
                continue
            yield {"kind": "circle", "points": [u, v], "width": RADIUS}
            yield text(u, v + 1.3, "" if listed.item is None else str(listed.item), 3.5, "middle", True)
            if found.laid.quantities and listed.quantity:
                yield text(u + RADIUS + 1, v + 1.1, f"× {listed.quantity}", 3.0)


def paper_of(found: Standing, shape: str) -> bytes:
    """The drawing as a file, at true scale."""
    if shape == "dxf":
        return _dxf(found)
    svg = _svg(found)
    if shape == "svg":
        return svg.encode()
    width, height = PAPERS[found.laid.size]
    return page_pdf(f"{found.part.number} {found.sheet.revision}", svg, width, height)


def _svg(found: Standing) -> str:
    width, height = PAPERS[found.laid.size]
    drawn = []
    for mark in _all_marks(found):
        p = mark["points"]
        match mark["kind"]:
            case "line":
                path = " ".join(f"{x:.2f},{y:.2f}" for x, y in zip(p[::2], p[1::2], strict=True))
                dashed = f' stroke-dasharray="{_DASHES[mark["dash"]]}"' if mark["dash"] else ""
                drawn.append(f'<polyline points="{path}" stroke-width="{mark["width"]:g}"{dashed}/>')
            case "circle":
                drawn.append(f'<circle cx="{p[0]:.2f}" cy="{p[1]:.2f}" r="{mark["width"]:g}" stroke-width="0.35" fill="#fff"/>')
            case "dot":
                drawn.append(f'<circle cx="{p[0]:.2f}" cy="{p[1]:.2f}" r="{mark["width"]:g}" fill="#000" stroke="none"/>')
            case "picture":
                with opened(mark["picture"].file, mark["picture"].name) as held:
                    png = base64.b64encode(held.read()).decode()
                drawn.append(
                    f'<image x="{p[0]:.2f}" y="{p[1]:.2f}" width="{p[2]:.2f}" height="{p[3]:.2f}" href="data:image/png;base64,{png}"/>'
                )
            case "text":
                weight = ' font-weight="600"' if mark["strong"] else ""
                drawn.append(
                    f'<text x="{p[0]:.2f}" y="{p[1]:.2f}" font-size="{mark["size"]:g}" text-anchor="{mark["at"]}" fill="#000" stroke="none"{weight}>{escape(mark["text"])}</text>'
                )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}" fill="none" stroke="#000" '
        f'stroke-linejoin="round" font-family="Reading, sans-serif">{"".join(drawn)}</svg>'
    )


def _dxf(found: Standing) -> bytes:
    """In millimetres of the paper, y upward as DXF has it; lines, hidden ones, balloons and texts on layers of their own."""
    drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    for layer in ("LINES", "HIDDEN", "BALLOONS", "TEXT"):
        drawing.layers.add(layer)
    space, height = drawing.modelspace(), PAPERS[found.laid.size][1]
    for mark in _all_marks(found):
        p = mark["points"]
        if mark["kind"] == "line":
            points = [(x, height - y) for x, y in zip(p[::2], p[1::2], strict=True)]
            space.add_lwpolyline(points, dxfattribs={"layer": "HIDDEN" if mark["dash"] == "hidden" else "LINES"})
        elif mark["kind"] == "picture":
            # A drawing exchange file holds no picture of its own: where it stands is said by a frame and its name.
            x, y, wide, high = p
            corners = [(x, height - y), (x + wide, height - y), (x + wide, height - y - high), (x, height - y - high)]
            space.add_lwpolyline(corners, close=True, dxfattribs={"layer": "LINES"})
            space.add_text(mark["picture"].name, height=3, dxfattribs={"layer": "TEXT", "insert": (x + 2, height - y - 5)})
        elif mark["kind"] in ("circle", "dot"):
            space.add_circle((p[0], height - p[1]), mark["width"], dxfattribs={"layer": "BALLOONS"})
        else:
            words = space.add_text(mark["text"], height=mark["size"], dxfattribs={"layer": "TEXT", "insert": (p[0], height - p[1])})
            if mark["at"] == "middle":
                words.set_placement((p[0], height - p[1]), align=ezdxf.enums.TextEntityAlignment.CENTER)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
