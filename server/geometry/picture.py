"""A line drawing as a picture, for everything that shows pictures of parts."""

import io
from typing import Any

from PIL import Image, ImageDraw

__all__ = ["drawn_picture"]

#: Points of the longer side and of the margin; drawn so many times larger first, which makes lines smooth.
_SIDE, _MARGIN, _FINE = 560, 16, 3
_INK, _PAPER = (17, 25, 27), (255, 255, 255)


def drawn_picture(drawing: dict[str, Any]) -> bytes:
    """A drawing by ``formats.step_lines`` as PNG: black lines on white, nothing hidden."""
    scale = _SIDE / max(drawing["width"], drawing["height"], 1) * _FINE
    margin = _MARGIN * _FINE
    size = tuple(round(drawing[side] * scale) + 2 * margin for side in ("width", "height"))
    picture = Image.new("RGB", size, _PAPER)
    pen = ImageDraw.Draw(picture)
    for line in drawing["seen"]:
        points = [(x * scale + margin, y * scale + margin) for x, y in zip(line[::2], line[1::2], strict=True)]
        pen.line(points, fill=_INK, width=round(2.6 * _FINE), joint="curve")
    picture = picture.resize((size[0] // _FINE, size[1] // _FINE), Image.Resampling.LANCZOS)
    buffer = io.BytesIO()
    picture.convert("L").save(buffer, "PNG", optimize=True)
    return buffer.getvalue()
