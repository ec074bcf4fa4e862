"""Pictures from outside."""

import base64
import io

from tally_core.basics.errors import TallyError

__all__ = ["MOST_POINTS", "measure_picture", "small_picture"]

MOST_POINTS = 50_000_000
#: The longest side of a picture on a list, in points: a few centimetres in print.
_SMALL = 240


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
