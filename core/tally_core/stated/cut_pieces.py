"""What is cut out of a bar or a board for one unit of a parent, as a person writes it on a line; and its size as it is cut (rule K1).

    12 × 200                                              twelve pieces of 200 mm, out of bars
    2 × 600 × 300, grain width, edges 1 1 0.4 0, over 3   two panels; edging of so many mm on the front, back, left and right, 3 mm more all round

The front and the back are the sides along the length. The first number is the count; two numbers are a count and a length.
"""

import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation

from ..basics.errors import TallyError

__all__ = ["GRAINS", "CutPieces", "cut_text", "read_cut"]

GRAINS = ("none", "length", "width")
_MOST_COUNT, _MOST_MM = 100_000, Decimal("1e6")
_ZERO = Decimal(0)


@dataclass(frozen=True, slots=True)
class CutPieces:
    """So many pieces, finished sizes in millimetres. ``width`` is None for a piece of a bar.

    Attributes:
        grain: the side of the piece along which the grain runs; ``none``: it may be turned.
        edges: thickness of the edging on the front, back, left and right, which is put on after cutting.
        over: by how much more each side is cut, to be worked off.
    """

    count: int
    length: Decimal
    width: Decimal | None = None
    grain: str = "none"
    edges: tuple[Decimal, Decimal, Decimal, Decimal] = (_ZERO, _ZERO, _ZERO, _ZERO)
    over: Decimal = _ZERO

    def as_cut(self) -> tuple[Decimal, Decimal | None]:
        """Rule K1: length and width as they are cut.

        >>> read_cut("1 × 600 × 300, edges 1 1 0.4 0, over 3").as_cut()
        (Decimal('602.6'), Decimal('301'))
        """
        front, back, left, right = self.edges
        width = None if self.width is None else self.width - front - back + self.over
        return self.length - left - right + self.over, width


def read_cut(text: str) -> CutPieces:
    """Pieces as a person wrote them. Raises TallyError, in words, for what cannot be read.

    >>> read_cut("6x240*240 , grain length").grain
    'length'
    """
    size, *rest = [piece.strip() for piece in text.strip().split(",")]
    numbers = [_number(n, "a size") for n in re.split(r"\s*[x×*]\s*", size, flags=re.IGNORECASE)]
    if len(numbers) not in (2, 3):
        raise TallyError(f"write count × length, or count × length × width, in millimetres: 12 × 200, not {text[:40]!r}")
    count, length, width = numbers[0], numbers[1], numbers[2] if len(numbers) == 3 else None
    if count != count.to_integral_value() or not 0 < count <= _MOST_COUNT:
        raise TallyError(f"the first number is how many pieces, a whole number from 1, not {size[:40]!r}")
    grain, edges, over = "none", (_ZERO, _ZERO, _ZERO, _ZERO), _ZERO
    for piece in rest:
        word, _, value = piece.partition(" ")
        match word.casefold():
            case "grain" if value.strip() in GRAINS:
                grain = value.strip()
            case "edges":
                given = [_number(n, "an edging") for n in value.split()]
                if len(given) != 4:
                    raise TallyError("edges are four thicknesses: front, back, left and right, 0 where there is none")
                edges = (given[0], given[1], given[2], given[3])
            case "over":
                over = _number(value, "an allowance")
            case _:
                raise TallyError(f"after the size stand grain length or width, edges, or over, not {piece[:40]!r}")
    if width is None and (grain != "none" or any(edges)):
        raise TallyError("grain and edges are said of boards: write count × length × width")
    found = CutPieces(int(count), length, width, grain, edges, over)
    if any(side is not None and side <= 0 for side in (length, width, *found.as_cut())):
        raise TallyError("every side is above 0, with its edging taken off")
    return found


def _number(text: str, what: str) -> Decimal:
    try:
        number = Decimal(text.strip())
    except InvalidOperation:
        raise TallyError(f"{what} is a number in millimetres, not {text.strip()[:40]!r}") from None
    if not number.is_finite() or not 0 <= number <= _MOST_MM or number != round(number, 3):
        raise TallyError(f"{what} is a number in millimetres from 0, of at most three decimals, not {text.strip()[:40]!r}")
    return number


def cut_text(pieces: CutPieces) -> str:
    """Pieces as they are written; read back, they are the same.

    >>> cut_text(read_cut("2*600.50 x 300,over 3, edges 1 1 0 0"))
    '2 × 600.5 × 300, edges 1 1 0 0, over 3'
    """
    sizes = [str(pieces.count), _plain(pieces.length)] + ([] if pieces.width is None else [_plain(pieces.width)])
    said = [" × ".join(sizes)]
    said += [f"grain {pieces.grain}"] * (pieces.grain != "none")
    said += [f"edges {' '.join(map(_plain, pieces.edges))}"] * any(pieces.edges)
    said += [f"over {_plain(pieces.over)}"] * bool(pieces.over)
    return ", ".join(said)


def _plain(number: Decimal) -> str:
    return f"{number.normalize():f}"
