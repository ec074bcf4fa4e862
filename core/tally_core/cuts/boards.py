"""Rule K3: panels out of boards by guillotine cuts with kerf and grain, against the bound by area.

Patterns are strips from edge to edge, along the board or across it; a strip holds columns of one panel each, stacked as often as it is high
enough (three stages of cuts). Which strips are worth cutting is decided as for bars, by what each panel is worth (Gilmore and Gomory, 1965).
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from math import ceil, floor

import highspy
import numpy as np

from ..basics.errors import TallyError
from ..basics.solver import Solver
from .knapsack import most_worthy
from .patterns import Pattern, choose
from .stock import Cutting, Panel, Placed, Stock, Used, cutting_of

__all__ = ["cut_boards"]

#: Places along a side of a board for which patterns are looked up; sizes are rounded up to them.
_PLACES = 4_000
_MOST_PANELS, _MOST_KINDS = 100_000, 1_000


@dataclass(frozen=True, slots=True)
class _Laid:
    """A panel as it may lie on a board: what it takes along and across it, in places of the tables."""

    panel: int
    turned: bool
    along: Decimal
    across: Decimal


@dataclass(frozen=True, slots=True)
class _Column:
    """So many of a panel over one another within a strip."""

    laid: _Laid
    times: int


@dataclass(frozen=True, slots=True)
class _Strips:
    """Strips of a board, each with its columns; ``across``: they run across the board instead of along it."""

    across: bool
    strips: tuple[tuple[_Column, ...], ...]


def cut_boards(stock: Sequence[Stock], panels: Sequence[Panel], kerf: Decimal, seconds: float = 30.0) -> Cutting:
    """Cut all panels from the least number of boards, or at the least cost where boards differ in cost, as far as it is found.

    Raises TallyError where a panel fits on no board, or none was found for some.
    """
    panels = [p for p in panels if p.count]
    if sum(p.count for p in panels) > _MOST_PANELS or len(panels) > _MOST_KINDS:
        raise TallyError(f"at most {_MOST_PANELS:,} panels of {_MOST_KINDS:,} kinds are cut at once")
    boards = _Boards(stock, panels, kerf)
    for at, panel in enumerate(panels):
        if not any(boards.fits(at, s) for s in range(len(stock))):
            raise TallyError(
                f"{panel.name} ({panel.length.normalize():f} × {panel.width.normalize():f} mm, grain {panel.grain}) fits on no board"
            )
    costs = [Fraction(s.cost) for s in stock]
    available = [s.available for s in stock]
    bound = _by_area(stock, panels, kerf) if panels else Decimal(0)
    if bound is None:
        raise TallyError("the boards do not suffice for all panels: their area is too small")
    if not panels:
        return cutting_of(stock, [], bound)
    wanted = [p.count for p in panels]
    chosen = choose(costs, available, wanted, boards.price, list(boards.first(costs, available)), None, seconds, enough=Fraction(bound))
    if chosen.patterns is None:
        raise TallyError("no way was found to cut all panels out of the boards that there are")
    return cutting_of(stock, boards.placed(chosen.patterns), bound)


class _Boards:
    def __init__(self, stock: Sequence[Stock], panels: Sequence[Panel], kerf: Decimal) -> None:
        self.stock, self.panels, self.kerf = stock, panels, kerf
        self.wanted = [p.count for p in panels]
        self.laid = [list(_ways(at, p)) for at, p in enumerate(panels)]
        longest = max(max(s.length, s.width or s.length) for s in stock) + kerf
        # Whole millimetres where they suffice; sizes are rounded up and room down, so whatever is found does fit.
        self.unit = max(Decimal(1), longest / _PLACES)
        if all(x % 1 == 0 for p in panels for x in (p.length, p.width)) and kerf % 1 == 0 and longest <= _PLACES:
            self.unit = Decimal(1)
        elif longest <= _PLACES / 10:
            self.unit = Decimal("0.1")

    def fits(self, panel: int, stock: int) -> bool:
        board = self.stock[stock]
        assert board.width is not None
        return any(w.along <= board.length and w.across <= board.width for w in self.laid[panel])

    def _takes(self, size: Decimal) -> int:
        return ceil((size + self.kerf) / self.unit)

    def _room(self, size: Decimal) -> int:
        return floor((size + self.kerf) / self.unit)

    def first(self, costs: Sequence[Fraction], available: Sequence[int | None]) -> Iterator[Pattern]:
        """Patterns by which all panels are cut, the largest area first; of the stocks together, and of each by itself."""
        worth = np.array([float(p.length * p.width) for p in self.panels])
        order = sorted(range(len(self.stock)), key=lambda s: costs[s] / Fraction(self.stock[s].length * (self.stock[s].width or 1)))
        for stocks in (order, *([s] for s in order)):
            left, there = list(self.wanted), list(available)
            while any(left):
                found = None
                for stock in stocks:
                    found = next(iter(self.price(worth, stock, left, 0.0)), None) if there[stock] != 0 else None
                    if found:
                        break
                if found is None:
                    break
                yield found
                times = min(n // c for n, c in zip(left, found.counts, strict=True) if c)
                held = there[found.stock]
                if held is not None:
                    times = min(times, held)
                    there[found.stock] = held - times
                left = [n - times * c for n, c in zip(left, found.counts, strict=True)]

    def price(self, duals: np.ndarray, stock: int, wanted: Sequence[int], over: float) -> list[Pattern]:
        """Of a board the most worthy strips along it, and across it, where they are worth more than it asks; the better ones first."""
        found = []
        for across in (False, True):
            strips = self._strips(duals, self.stock[stock], wanted, across)
            counts = [0] * len(self.panels)
            for column in (c for strip in strips for c in strip):
                counts[column.laid.panel] += column.times
            value = sum(float(duals[at]) * n for at, n in enumerate(counts))
            if value > over:
                found.append((value, Pattern(stock, tuple(counts), _Strips(across, tuple(strips)))))
        return [pattern for _, pattern in sorted(found, key=lambda f: -f[0])]

    def _strips(self, duals: np.ndarray, board: Stock, wanted: Sequence[int], across: bool) -> list[tuple[_Column, ...]]:
        assert board.width is not None
        run, rise = (board.width, board.length) if across else (board.length, board.width)
        room, high = self._room(run), self._room(rise)
        ways = [
            (way, self._takes(way.across if across else way.along), self._takes(way.along if across else way.across))
            for at, n in enumerate(wanted)
            if n and duals[at] > 0
            for way in self.laid[at]
        ]
        ways = [w for w in ways if w[1] <= room and w[2] <= high]
        heights = sorted({h for _, _, h in ways})
        filled = {h: self._filled(duals, ways, wanted, h, room) for h in heights}
        worth = [(n, sum(float(duals[c.laid.panel]) * c.times for c in filled[h]), high) for n, h in enumerate(heights)]
        chosen = most_worthy([w for w in worth if w[1] > 0], heights, high)
        left, strips = list(wanted), []
        for n in sorted(chosen, key=lambda n: -heights[n]):
            for _ in range(chosen[n]):
                # What the strips before took is not wanted any more.
                strip = self._filled(duals, ways, left, heights[n], room)
                for column in strip:
                    left[column.laid.panel] -= column.times
                if strip:
                    strips.append(strip)
        return strips

    def _filled(
        self, duals: np.ndarray, ways: Sequence[tuple[_Laid, int, int]], wanted: Sequence[int], height: int, room: int
    ) -> tuple[_Column, ...]:
        """The most worthy columns of a strip of a height, no more of a panel than is wanted."""
        fitting = [(way, takes, min(height // h, wanted[way.panel])) for way, takes, h in ways if h <= height and wanted[way.panel] > 0]
        things = [(n, float(duals[way.panel]) * times, wanted[way.panel] // times) for n, (way, _, times) in enumerate(fitting)]
        chosen = most_worthy(things, [takes for _, takes, _ in fitting], room)
        columns: list[_Column] = []
        left: dict[int, int] = {}
        for n, count in chosen.items():
            way, _, times = fitting[n]
            # Both ways to lay a panel draw on the same number of it.
            for _ in range(count):
                rest = left.setdefault(way.panel, wanted[way.panel])
                take = min(times, rest)
                if take:
                    left[way.panel] = rest - take
                    columns.append(_Column(way, take))
        return tuple(columns)

    def placed(self, chosen: Sequence[tuple[Pattern, int]]) -> list[Used]:
        """Every board with its panels in their places, none more than is wanted; boards that are cut the same stand together."""
        left = list(self.wanted)
        made: dict[tuple[int, tuple[Placed, ...]], int] = {}
        for pattern, times in sorted(chosen, key=lambda c: -sum(c[0].counts)):
            for _ in range(times):
                lie = tuple(self._lie(pattern.how, left))
                if lie:
                    made[pattern.stock, lie] = made.get((pattern.stock, lie), 0) + 1
        return [Used(stock, n, lie) for (stock, lie), n in made.items()]

    def _lie(self, strips: _Strips, left: list[int]) -> Iterator[Placed]:
        y = Decimal(0)
        for strip in strips.strips:
            x, top = Decimal(0), Decimal(0)
            for column in strip:
                way = column.laid
                run, rise = (way.across, way.along) if strips.across else (way.along, way.across)
                n = min(column.times, left[way.panel])
                left[way.panel] -= n
                for at in range(n):
                    here = y + at * (rise + self.kerf)
                    corner = (here, x) if strips.across else (x, here)
                    yield Placed(self.panels[way.panel].name, *corner, way.along, way.across, way.turned)
                if n:
                    x += run + self.kerf
                    top = max(top, n * (rise + self.kerf))
            y += top


def _ways(at: int, panel: Panel) -> Iterator[_Laid]:
    """How a panel may lie: its grain runs with that of the board, which runs along its length."""
    if panel.grain in ("length", "none"):
        yield _Laid(at, False, panel.length, panel.width)
    if panel.grain == "width" or (panel.grain == "none" and panel.length != panel.width):
        yield _Laid(at, True, panel.width, panel.length)


def _by_area(stock: Sequence[Stock], panels: Sequence[Panel], kerf: Decimal) -> Decimal | None:
    """The least cost of boards whose area is not less than that of all panels, each with a kerf along two sides; None where there are not enough."""
    needed = sum(((p.length + kerf) * (p.width + kerf) * p.count for p in panels), Decimal(0))
    h = Solver()
    areas = []
    for s in stock:
        assert s.width is not None
        areas.append((s.length + kerf) * (s.width + kerf))
        h.addCol(
            float(s.cost),
            0.0,
            highspy.kHighsInf if s.available is None else float(s.available),
            0,
            np.array([], dtype=np.int32),
            np.array([]),
        )
        h.changeColIntegrality(len(areas) - 1, highspy.HighsVarType.kInteger)
    shares = np.array([float(a / needed) for a in areas])
    h.addRow(1.0 - 1e-9, highspy.kHighsInf, len(areas), np.arange(len(areas), dtype=np.int32), shares)
    h.run()
    if h.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        return None
    numbers = [round(x) for x in h.getSolution().col_value]
    return sum((s.cost * n for s, n in zip(stock, numbers, strict=True)), Decimal(0))
