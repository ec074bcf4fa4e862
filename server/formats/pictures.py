"""Pictures from outside."""

import base64
import io
from typing import Any

from tally_core.basics.errors import TallyError

__all__ = ["MOST_POINTS", "measure_picture", "page_picture", "small_picture"]

MOST_POINTS = 50_000_000
#: The longest side of a picture on a list, in points: a few centimetres in print.
_SMALL = 240
#: The longest side of a picture or page on a drawing: in points, and of a picture, which has no size of its own, on paper in millimetres.
_LARGE, _LARGE_MM = 2400, 200.0
_POINTS_PER_INCH = 72


def measure_picture(name: str, content: bytes) -> tuple[int, int]:
    """Width and height in points, once the whole picture could be drawn. Raises TallyError for one that cannot.

    A picture may claim any size in its first bytes; so all of it is unpacked.
    """
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(io.BytesIO(content)) as picture:
            if picture.width * picture.height > MOST_POINTS:
                raise TallyError(f"{name} has {picture.width} x {picture.height} points; that is too many")
            picture.load()
            return picture.width, picture.height
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise TallyError(f"{name} begins like a picture and is none, or is damaged") from None


def small_picture(name: str, content: bytes) -> dict[str, object]:
    """A picture small enough for a list: ``png`` in base64, ``width`` and ``height`` in points. Raises TallyError for one that cannot be drawn."""
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(io.BytesIO(content)) as picture:
            if picture.width * picture.height > MOST_POINTS:
                raise TallyError(f"{name} has too many points for a list")
            # Of a photograph only as much is unpacked as is needed.
            picture.draft("RGB", (2 * _SMALL, 2 * _SMALL))
            small = picture.convert("RGBA")
            small.thumbnail((_SMALL, _SMALL))
            ground = Image.new("RGB", small.size, "white")
            ground.paste(small, mask=small.getchannel("A"))
            buffer = io.BytesIO()
            ground.save(buffer, "PNG", optimize=True)
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise TallyError(f"{name} cannot be drawn on a list") from None
    return {"png": base64.b64encode(buffer.getvalue()).decode(), "width": ground.width, "height": ground.height}


def page_picture(name: str, content: bytes, page: int) -> dict[str, object]:
    """A picture, or a page of a PDF from 1 on, to stand on a drawing: ``png`` in base64, ``width_mm`` and ``height_mm`` on paper.

    A page has the size it has; the longer side of a picture is 200 mm. Raises TallyError for what cannot be drawn.
    """
    from PIL import Image, UnidentifiedImageError

    if content[:1024].lstrip().startswith(b"%PDF"):
        return _pdf_page(name, content, page)
    try:
        with Image.open(io.BytesIO(content)) as picture:
            if picture.width * picture.height > MOST_POINTS:
                raise TallyError(f"{name} has too many points for a drawing")
            large = picture.convert("RGBA")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise TallyError(f"{name} is neither a picture nor a PDF that can be drawn") from None
    longest = max(large.size)
    return _on_white(large) | {"width_mm": large.width * _LARGE_MM / longest, "height_mm": large.height * _LARGE_MM / longest}


def _pdf_page(name: str, content: bytes, page: int) -> dict[str, object]:
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(content)
        pages = len(document)
        if not 1 <= page <= pages:
            raise TallyError(f"{name} has {pages} {'page' if pages == 1 else 'pages'}; there is no page {page}")
        sheet = document[page - 1]
        width, height = sheet.get_size()
        if not min(width, height) > 1:
            raise TallyError(f"page {page} of {name} has no size")
        drawn = sheet.render(scale=min(_LARGE / max(width, height), 4)).to_pil()
    except pypdfium2.PdfiumError:
        raise TallyError(f"{name} is no PDF that can be drawn: it is damaged, or locked by a password") from None
    inch = 25.4 / _POINTS_PER_INCH
    return _on_white(drawn.convert("RGBA")) | {"width_mm": width * inch, "height_mm": height * inch}


def _on_white(picture: Any) -> dict[str, object]:
    from PIL import Image

    picture.thumbnail((_LARGE, _LARGE))
    ground = Image.new("RGB", picture.size, "white")
    ground.paste(picture, mask=picture.getchannel("A"))
    buffer = io.BytesIO()
    ground.save(buffer, "PNG", optimize=True)
    return {"png": base64.b64encode(buffer.getvalue()).decode()}
