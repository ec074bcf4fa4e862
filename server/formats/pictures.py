"""Pictures from outside."""

import io

from tally_core.basics.errors import TallyError

__all__ = ["MOST_POINTS", "measure_picture"]

MOST_POINTS = 50_000_000


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
