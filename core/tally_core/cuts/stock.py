"""What is cut, out of what, and how it came out. Sizes are millimetres, money is in whatever currency it was stated."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

__all__ = ["Cutting", "Panel", "Piece", "Placed", "Stock", "Used", "cutting_of"]


@dataclass(frozen=True, slots=True)
class Stock:
    """A bar, or a board where it has a width; the grain of a board runs along its length. ``available``: None where there is no end of it."""

    name: str
    length: Decimal
    width: Decimal | None
    cost: Decimal
    available: int | None = None


@dataclass(frozen=True, slots=True)
class Piece:
    """So many pieces of a length, out of bars."""

    name: str
    length: Decimal
    count: int


@dataclass(frozen=True, slots=True)
class Panel:
    """So many pieces of a board. ``grain`` is the side of the piece along which it runs; ``none``: it may be turned."""

    name: str
    length: Decimal
    width: Decimal
    count: int
    grain: str = "none"


@dataclass(frozen=True, slots=True)
class Placed:
    """A piece on its bar or board: where its corner lies, and how much it takes along the length and the width of the stock."""

    name: str
    x: Decimal
    y: Decimal
    along: Decimal
    across: Decimal
    turned: bool = False


@dataclass(frozen=True, slots=True)
class Used:
    """So many of a stock cut the same way."""

    stock: int
    count: int
    placed: tuple[Placed, ...]


@dataclass(frozen=True, slots=True)
class Cutting:
    """How all pieces are cut.

    Attributes:
        bound: no way of cutting takes less: of the number where all stock costs the same, of the cost otherwise.
        proven: this takes just as much as the bound.
        waste_percent: of what is used, how much goes into no piece.
    """

    used: tuple[Used, ...]
    count: int
    cost: Decimal
    bound: Decimal
    proven: bool
    waste_percent: Decimal


def cutting_of(stock: Sequence[Stock], used: Sequence[Used], bound: Decimal) -> Cutting:
    """What some ways to cut come to."""
    whole = sum((stock[u.stock].length * (stock[u.stock].width or 1) * u.count for u in used), Decimal(0))
    in_pieces = sum((p.along * (p.across or 1) * u.count for u in used for p in u.placed), Decimal(0))
    cost = sum((stock[u.stock].cost * u.count for u in used), Decimal(0))
    waste = (whole - in_pieces) / whole * 100 if whole else Decimal(0)
    return Cutting(tuple(used), sum(u.count for u in used), cost, bound, cost <= bound, waste)
