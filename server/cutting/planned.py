"""How the pieces of some builds are cut, material by material; leftovers first. What a plan keeps is in plain values, format 1."""

import re
from collections import defaultdict
from collections.abc import Sequence
from decimal import ROUND_HALF_EVEN, Decimal
from typing import Any

from definition.models.parts import Part
from tally_core.basics.errors import TallyError
from tally_core.basics.units import dimension, factor
from tally_core.cuts.bars import cut_bars
from tally_core.cuts.boards import cut_boards
from tally_core.cuts.stock import Cutting, Panel, Piece, Stock, Used

from cutting.models import Leftover, StockSize
from cutting.pieces import CutLine

__all__ = ["FORMAT", "Sizes", "cut_material", "loss_percent", "sizes_of", "stock_cost"]

FORMAT = 1
#: A leftover is worth so little that it is taken before anything whole; not nothing, so that none is taken needlessly.
_LEFTOVER_WORTH = Decimal("0.01")
_SIX = Decimal("0.000001")


def stock_cost(part: Part, length: Decimal, width: Decimal | None) -> Decimal | None:
    """What a bar or board of a size comes to by the part's own cost; None where that says nothing."""
    if part.unit_cost is None or not part.unit_cost:
        return None
    small = "mm" if width is None else "mm2"
    if dimension(part.unit) != dimension(small):
        return part.unit_cost
    return part.unit_cost * length * (width or 1) * factor(small, part.unit)


class Sizes:
    """What a material is cut from: sizes it comes in, and leftovers that are there."""

    def __init__(self, part: Part, sizes: Sequence[StockSize], leftovers: Sequence[Leftover]) -> None:
        self.part, self.sizes, self.leftovers = part, sizes, leftovers

    def stock(self, boards: bool) -> tuple[list[Stock], list[int | None]]:
        """Stock of the core, leftovers first, and for each the key of the leftover it is."""
        stock: list[Stock] = []
        keys: list[int | None] = []
        whole = [s for s in self.sizes if (s.width_mm is not None) == boards]
        priced = {s.pk: s.cost if s.cost is not None else stock_cost(self.part, s.length_mm, s.width_mm) for s in whole}
        known = all(priced.values())
        rate = min(
            ((c or Decimal(0)) / (s.length_mm * (s.width_mm or 1)) for s, c in zip(whole, priced.values(), strict=True)), default=Decimal(0)
        )
        for left in self.leftovers:
            if (left.width_mm is not None) == boards:
                cost = rate * left.length_mm * (left.width_mm or 1) if known and rate else Decimal(1)
                stock.append(Stock(_label(left), left.length_mm, left.width_mm, max((cost * _LEFTOVER_WORTH).quantize(_SIX), _SIX), 1))
                keys.append(left.pk)
        for size in whole:
            cost = Decimal(1) if not known else Decimal(priced[size.pk] or 0)
            stock.append(Stock(_label(size), size.length_mm, size.width_mm, cost.quantize(_SIX), None))
            keys.append(None)
        return stock, keys


def _label(size: StockSize | Leftover) -> str:
    width = "" if size.width_mm is None else f" × {_plain(size.width_mm)}"
    return f"{_plain(size.length_mm)}{width}"


def sizes_of(parts: Sequence[Part]) -> dict[int, Sizes]:
    """For each material what it is cut from. Two queries. One that nothing is stated of comes in the size on the part, if it has one."""
    stated: dict[int, list[StockSize]] = defaultdict(list)
    for size in StockSize.objects.filter(part__in=parts):
        stated[size.part_id].append(size)
    left: dict[int, list[Leftover]] = defaultdict(list)
    for row in Leftover.objects.filter(part__in=parts, used_by=None, gone_by=""):
        left[row.part_id].append(row)
    return {p.pk: Sizes(p, stated[p.pk] or _by_part(p), left[p.pk]) for p in parts}


def _by_part(part: Part) -> list[StockSize]:
    sides = sorted((Decimal(x) for x in re.findall(r"\d+(?:\.\d+)?", part.size_mm)), reverse=True)
    if len(sides) < 2 or not sides[0]:
        return []
    boards = dimension(part.unit) == dimension("m2")
    return [StockSize(pk=0, part=part, length_mm=sides[0], width_mm=sides[1] if boards else None)]


def cut_material(sizes: Sizes, lines: Sequence[CutLine], kerf: Decimal, keep: Decimal, seconds: float) -> dict[str, Any]:
    """How the pieces of one material are cut, as a plan keeps it: ``stops`` says why they are not."""
    boards = lines[0].pieces.width is not None
    part = sizes.part
    said: dict[str, Any] = {
        "part": part.number,
        "description": part.description,
        "unit": part.unit,
        "boards": boards,
        "pieces": [_piece(line) for line in lines],
        "stops": "",
        "used": [],
        "count": 0,
        "fresh": 0,
        "bound": "0",
        "bound_of": "number",
        "proven": False,
        "waste_percent": "0",
        "cost": None,
        "taken": None,
        "left": [],
    }
    if any((line.pieces.width is not None) != boards for line in lines):
        return said | {"stops": f"{part.number} is cut as bars on one line and as boards on another"}
    stock, keys = sizes.stock(boards)
    if not stock:
        return said | {"stops": f"nothing says in which sizes {part.number} comes"}
    try:
        made = _cut(stock, lines, kerf, boards, seconds)
    except TallyError as error:
        return said | {"stops": str(error)}
    left = [piece for used in made.used for piece in _left(stock[used.stock], used, kerf, keep)]
    fresh = sum(u.count for u in made.used if keys[u.stock] is None)
    amount = _amount(part, stock, made, keys, left)
    priced = part.unit_cost is not None or any(s.cost is not None for s in sizes.sizes)
    cost = sum((stock[u.stock].cost * u.count for u in made.used if keys[u.stock] is None), Decimal(0))
    return said | {
        "used": [_used(stock, keys, u) for u in made.used],
        "count": made.count,
        "fresh": fresh,
        "bound": _bound(made),
        "bound_of": "number" if len({s.cost for s in stock}) == 1 else "cost",
        "proven": made.proven,
        "waste_percent": _text(made.waste_percent),
        "cost": _text(cost) if priced else None,
        "taken": None if amount is None else _text(amount),
        "left": left,
    }


def _cut(stock: list[Stock], lines: Sequence[CutLine], kerf: Decimal, boards: bool, seconds: float) -> Cutting:
    same = {s.cost for s in stock}
    # Where all cost the same, the fewest are the cheapest, and the bound is one of a number.
    asked = [Stock(s.name, s.length, s.width, Decimal(1), s.available) for s in stock] if len(same) == 1 else stock
    if not boards:
        return cut_bars(asked, [Piece(x.name, x.pieces.as_cut()[0], x.count) for x in lines], kerf, seconds)
    panels = []
    for line in lines:
        length, width = line.pieces.as_cut()
        panels.append(Panel(line.name, length, width or Decimal(0), line.count, line.pieces.grain))
    return cut_boards(asked, panels, kerf, seconds)


def _piece(line: CutLine) -> dict[str, Any]:
    length, width = line.pieces.as_cut()
    return {
        "name": line.name,
        "parent": line.parent,
        "sheet": line.sheet,
        "line": line.line,
        "item": line.item,
        "words": line.words,
        "count": line.count,
        "each": line.pieces.count,
        "length": _plain(line.pieces.length),
        "width": None if line.pieces.width is None else _plain(line.pieces.width),
        "cut_length": _plain(length),
        "cut_width": None if width is None else _plain(width),
        "grain": line.pieces.grain,
        "edges": [_plain(e) for e in line.pieces.edges],
        "over": _plain(line.pieces.over),
        "stated": _text(line.stated),
        "finished": None if line.finished is None else _text(line.finished),
        "scrap_percent": None if line.scrap_percent is None else _plain(line.scrap_percent),
    }


def _used(stock: list[Stock], keys: list[int | None], used: Used) -> dict[str, Any]:
    of = stock[used.stock]
    return {
        "stock": of.name,
        "length": _plain(of.length),
        "width": None if of.width is None else _plain(of.width),
        "leftover": keys[used.stock],
        "count": used.count,
        "placed": [
            {"name": p.name, "x": _plain(p.x), "y": _plain(p.y), "along": _plain(p.along), "across": _plain(p.across), "turned": p.turned}
            for p in used.placed
        ],
    }


def _left(of: Stock, used: Used, kerf: Decimal, keep: Decimal) -> list[dict[str, Any]]:
    """What is worth keeping of each: the rest of a bar; of a board the larger whole strip beyond its pieces, along it or across."""
    ends = max(p.x + p.along for p in used.placed)
    if of.width is None:
        rest = of.length - ends - kerf
        return [{"length": _plain(rest), "width": None, "count": used.count}] if rest >= keep and rest > 0 else []
    top = max(p.y + p.across for p in used.placed)
    strips = [(of.length - ends - kerf, of.width), (of.length, of.width - top - kerf)]
    length, width = max(strips, key=lambda s: s[0] * s[1] if min(s) > 0 else Decimal(0))
    if min(length, width) < keep or min(length, width) <= 0:
        return []
    return [{"length": _plain(length), "width": _plain(width), "count": used.count}]


def _amount(part: Part, stock: list[Stock], made: Cutting, keys: list[int | None], left: list[dict[str, Any]]) -> Decimal | None:
    """What goes out of stock in its unit: whole ones, less what comes back; None for a part that is counted in pieces."""
    boards = stock[0].width is not None
    small = "mm2" if boards else "mm"
    if dimension(part.unit) != dimension(small):
        return None
    out = sum((stock[u.stock].length * (stock[u.stock].width or 1) * u.count for u in made.used), Decimal(0))
    back = sum((Decimal(x["length"]) * Decimal(x["width"] or 1) * x["count"] for x in left), Decimal(0))
    return (out - back) * factor(small, part.unit)


def _bound(made: Cutting) -> str:
    return _plain(made.bound) if made.bound == made.bound.to_integral_value() else _text(made.bound)


def _text(number: Decimal) -> str:
    return f"{number.quantize(_SIX, ROUND_HALF_EVEN).normalize():f}"


def _plain(number: Decimal) -> str:
    return f"{number.normalize():f}"


def loss_percent(material: dict[str, Any]) -> str | None:
    """What more than the finished pieces is taken, in percent of them: what a line of this material may state as its scrap."""
    if material["taken"] is None or any(p["finished"] is None for p in material["pieces"]):
        return None
    finished = sum((Decimal(p["finished"]) / p["each"] * p["count"] for p in material["pieces"]), Decimal(0))
    return f"{(Decimal(material['taken']) / finished - 1) * 100:.1f}" if finished else None
