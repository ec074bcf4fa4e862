"""What is to be cut as a file, and how it is cut as one: the contract of ``./tally cut``."""

from decimal import ROUND_HALF_EVEN, Decimal
from typing import Any

from ..basics.errors import ProblemsError
from ..stated.reading import RecordReader, show_value
from .bars import cut_bars
from .boards import cut_boards
from .stock import Cutting, Panel, Piece, Stock

__all__ = ["FORMAT", "VERSION", "Asked", "cut", "cutting_as_json", "read_cuts"]

FORMAT, VERSION = "round-tally-cuts", 1
_MOST, _SIX = Decimal("1e9"), Decimal("0.000001")
_GRAINS = ("length", "width", "none")


class Asked:
    """Bars and pieces, or boards and panels, with a kerf; sizes in millimetres. ``priced``: what a stock costs was stated."""

    def __init__(self, kerf: Decimal, stock: list[Stock], pieces: list[Piece], panels: list[Panel], priced: bool) -> None:
        self.kerf, self.stock, self.pieces, self.panels, self.priced = kerf, stock, pieces, panels, priced


def read_cuts(document: Any) -> Asked:
    """What is to be cut out of plain JSON values. Raises ProblemsError that names all that is wrong, each by its place."""
    r = _Reader()
    if not isinstance(document, dict) or document.get("format") != FORMAT or document.get("version") != VERSION:
        r.wrong("format", f'a list of cuts says "format": "{FORMAT}", "version": {VERSION}')
        raise ProblemsError(r.problems)
    bars = "bars" in document or "pieces" in document
    if bars == ("boards" in document or "panels" in document):
        r.wrong("", "it has either bars and pieces, or boards and panels")
        raise ProblemsError(r.problems)
    known = {"format", "version", "kerf_mm", *(("bars", "pieces") if bars else ("boards", "panels"))}
    for name in document.keys() - known:
        r.wrong(name, f"there is no field of this name; known are {', '.join(sorted(known))}")
    kerf = r.size(document, "kerf_mm", "", least=Decimal(0)) if document.get("kerf_mm") is not None else Decimal(0)
    rows = r.many(document.get("bars" if bars else "boards", []), "bars" if bars else "boards")
    stock = [s for i, row in enumerate(rows) if (s := r.stock(row, f"{'bars' if bars else 'boards'}[{i}]", not bars))]
    priced = {s.cost >= 0 for s in stock}
    if len(priced) > 1:
        r.wrong("bars" if bars else "boards", "either all of them have a cost, or none")
    if not rows:
        r.wrong("bars" if bars else "boards", "there is nothing to cut from")
    pieces, panels = [], []
    for i, row in enumerate(r.many(document.get("pieces", []), "pieces")):
        if place := r.given(row, f"pieces[{i}]", ("name", "length_mm", "count")):
            pieces.append(Piece(r.name(row, "name", place), r.size(row, "length_mm", place), r.number(row, "count", place)))
    for i, row in enumerate(r.many(document.get("panels", []), "panels")):
        if place := r.given(row, f"panels[{i}]", ("name", "length_mm", "width_mm", "count", "grain")):
            grain = row.get("grain") or "none"
            if grain not in _GRAINS:
                r.wrong(f"{place}.grain", f"grain is one of {', '.join(_GRAINS)}, not {show_value(grain)}")
            length, width = r.size(row, "length_mm", place), r.size(row, "width_mm", place)
            panels.append(Panel(r.name(row, "name", place), length, width, r.number(row, "count", place), grain))
    if r.problems:
        raise ProblemsError(r.problems)
    return Asked(kerf, stock, pieces, panels, priced == {True})


def cut(asked: Asked, seconds: float) -> Cutting:
    """Cut it: the least number where all stock costs the same or nothing is said of cost, the least cost otherwise. Raises TallyError."""
    costs = {s.cost for s in asked.stock}
    by_number = len(costs) == 1
    stock = [Stock(s.name, s.length, s.width, Decimal(1) if by_number else s.cost, s.available) for s in asked.stock]
    if asked.panels:
        return cut_boards(stock, asked.panels, asked.kerf, seconds)
    return cut_bars(stock, asked.pieces, asked.kerf, seconds)


def cutting_as_json(asked: Asked, made: Cutting) -> dict[str, Any]:
    """How it is cut, as the contract prints it; ``bound`` is of the cost where stock differs in cost, of the number otherwise."""
    by_number = len({s.cost for s in asked.stock}) == 1
    used = []
    for at, stock in enumerate(asked.stock):
        mine = [u for u in made.used if u.stock == at]
        if mine:
            used.append(
                {
                    "stock": stock.name,
                    "count": sum(u.count for u in mine),
                    "patterns": [{"count": u.count, **_pattern(stock, u, asked.kerf)} for u in mine],
                }
            )
    cost = sum((asked.stock[u.stock].cost * u.count for u in made.used), Decimal(0))
    return {
        "used": used,
        "cost": _text(cost) if asked.priced else None,
        "count": made.count,
        "bound": f"{made.bound.normalize():f}" if by_number else _text(made.bound),
        "proven": made.proven,
        "waste_percent": _text(made.waste_percent),
    }


def _pattern(stock: Stock, used: Any, kerf: Decimal) -> dict[str, Any]:
    if stock.width is None:
        end = max(p.x + p.along for p in used.placed)
        pieces = [{"name": p.name, "x_mm": _size(p.x), "length_mm": _size(p.along)} for p in used.placed]
        return {"pieces": pieces, "left_mm": _size(max(stock.length - end - kerf, Decimal(0)))}
    return {
        "panels": [
            {
                "name": p.name,
                "x_mm": _size(p.x),
                "y_mm": _size(p.y),
                "length_mm": _size(p.along),
                "width_mm": _size(p.across),
                "turned": p.turned,
            }
            for p in used.placed
        ]
    }


def _text(number: Decimal) -> str:
    return f"{number.quantize(_SIX, ROUND_HALF_EVEN):f}"


def _size(number: Decimal) -> str:
    return f"{number.normalize():f}"


class _Reader(RecordReader):
    def given(self, row: Any, place: str, known: tuple[str, ...]) -> str:
        """The place of a record that is an object of known fields; empty where it is none."""
        if not isinstance(row, dict):
            self.wrong(place, f"an object is needed, not {show_value(row)}")
            return ""
        for name in row.keys() - set(known):
            self.wrong(f"{place}.{name}", f"there is no field of this name; known are {', '.join(known)}")
        return place

    def name(self, row: dict[str, Any], field: str, place: str) -> str:
        if row.get(field) in (None, ""):
            self.wrong(f"{place}.{field}", "this is needed")
            return ""
        return self.text(row[field], f"{place}.{field}") or ""

    def size(self, row: dict[str, Any], field: str, place: str, least: Decimal = _SIX) -> Decimal:
        where = f"{place}.{field}" if place else field
        if row.get(field) is None:
            self.wrong(where, "this is needed")
            return Decimal(1)
        number = self.decimal(row[field], where)
        if number is None:
            return Decimal(1)
        if not least <= number < _MOST:
            self.wrong(where, f"a size in millimetres {'above' if least else 'from'} 0, not {show_value(row[field])}")
            return Decimal(1)
        if number != number.quantize(_SIX):
            self.wrong(where, "at most six decimals")
        return number

    def number(self, row: dict[str, Any], field: str, place: str) -> int:
        where = f"{place}.{field}"
        if row.get(field) is None:
            self.wrong(where, "this is needed")
            return 0
        number = self.integer(row[field], where)
        if number is not None and number < 0:
            self.wrong(where, f"a number from 0, not {show_value(row[field])}")
        return max(number or 0, 0)

    def stock(self, row: Any, place: str, board: bool) -> Stock | None:
        fields = ("stock", "length_mm", *(("width_mm",) if board else ()), "cost", "available")
        if not self.given(row, place, fields):
            return None
        available = None if row.get("available") is None else self.number(row, "available", place)
        # Without a cost: below any that is stated.
        cost = Decimal(-1)
        if row.get("cost") is not None:
            cost = self.decimal(row["cost"], f"{place}.cost") or Decimal(0)
            if not 0 < cost < _MOST:
                self.wrong(f"{place}.cost", f"a cost above 0, not {show_value(row['cost'])}")
        width = self.size(row, "width_mm", place) if board else None
        return Stock(self.name(row, "stock", place), self.size(row, "length_mm", place), width, cost, available)
