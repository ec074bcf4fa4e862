"""Rule K2: the fewest or cheapest bars for all pieces, a kerf lost per cut, proven by generating patterns and, where that leaves a gap, all of them."""

from collections import Counter, defaultdict
from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction

import numpy as np

from ..basics.errors import TallyError
from .knapsack import most_worthy
from .patterns import Pattern, choose, rounded_up
from .stock import Cutting, Piece, Placed, Stock, Used, cutting_of

__all__ = ["cut_bars"]

#: Places along a bar up to which a table of them finds the most worthy pattern, and how many patterns are written down for a proof.
_MOST_PLACES, _MOST_PATTERNS = 400_000, 60_000
_MOST_PIECES, _MOST_LENGTHS = 1_000_000, 2_000
#: Steps of a search for one pattern.
_MOST_STEPS = 300_000


def cut_bars(stock: Sequence[Stock], pieces: Sequence[Piece], kerf: Decimal, seconds: float = 60.0) -> Cutting:
    """Cut all pieces from the least number of bars, or at the least cost where bars differ in cost.

    n pieces of a bar take n - 1 cuts where they fill it, and one more where something is left; what is left may be less than a kerf.

    Raises TallyError where a piece is longer than every bar, or the bars do not suffice.
    """
    wanted: dict[Decimal, int] = defaultdict(int)
    for piece in pieces:
        wanted[piece.length] += piece.count
    lengths = sorted((x for x, n in wanted.items() if n), reverse=True)
    if not lengths:
        return cutting_of(stock, [], Decimal(0))
    if sum(wanted.values()) > _MOST_PIECES or len(lengths) > _MOST_LENGTHS:
        raise TallyError(f"at most {_MOST_PIECES:,} pieces of {_MOST_LENGTHS:,} lengths are cut at once")
    longest = max((s.length for s in stock if s.available != 0), default=Decimal(0))
    if lengths[0] > longest:
        name = next(p.name for p in pieces if p.length == lengths[0])
        raise TallyError(f"{name} is {lengths[0].normalize():f} mm long, and the longest bar is {longest.normalize():f} mm")
    bars = _Bars([s.length for s in stock], lengths, [wanted[x] for x in lengths], kerf)
    costs = [Fraction(s.cost) for s in stock]
    chosen = choose(
        costs, [s.available for s in stock], bars.wanted, bars.price, bars.first(costs, [s.available for s in stock]), bars.every, seconds
    )
    if chosen.patterns is None:
        if chosen.proven:
            raise TallyError("the bars do not suffice for all pieces")
        raise TallyError("no way to cut all pieces was found in the time given")
    used = _named(chosen.patterns, lengths, pieces, kerf)
    bound = Decimal(repr(chosen.bound))
    if not bars.exact:
        # A pattern that pays may have been missed: then only what all pieces take together proves anything.
        least = min(c / room for c, room in zip(costs, bars.room, strict=True) if room > 0)
        together = rounded_up(float(least * sum(t * n for t, n in zip(bars.takes, bars.wanted, strict=True))), costs)
        bound = Decimal(together.numerator) / Decimal(together.denominator)
    return cutting_of(stock, used, bound)


class _Bars:
    """Patterns of bars, in whole units of length: a piece takes its length and a kerf, and a bar is a kerf longer than it is."""

    def __init__(self, stock: Sequence[Decimal], lengths: Sequence[Decimal], wanted: Sequence[int], kerf: Decimal) -> None:
        takes = [Fraction(x + kerf) for x in lengths]
        room = [Fraction(x + kerf) for x in stock]
        scale = np.lcm.reduce([x.denominator for x in (*takes, *room)])
        whole = [int(x * int(scale)) for x in takes]
        step = int(np.gcd.reduce(whole))
        self.takes = [x // step for x in whole]
        # What is no multiple of it cannot be used.
        self.room = [int(x * int(scale)) // step for x in room]
        self.wanted = list(wanted)
        #: Whether every pattern that was asked for was the most worthy one.
        self.exact = True

    def most(self, stock: int, wanted: Sequence[int]) -> list[int]:
        """How many of each piece one bar can hold, and are wanted."""
        return [min(self.room[stock] // t, n) for t, n in zip(self.takes, wanted, strict=True)]

    def first(self, costs: Sequence[Fraction], available: Sequence[int | None]) -> list[Pattern]:
        """Patterns by which all pieces are cut, longest first into the first bar with room; of each stock by itself and together."""
        found: dict[tuple[int, tuple[int, ...]], Pattern] = {}
        order = sorted(range(len(self.room)), key=lambda s: costs[s] / max(self.room[s], 1))
        for stocks in (order, *([s] for s in order)):
            for stock, counts in self._filled(stocks, available):
                found.setdefault((stock, counts), Pattern(stock, counts))
        return list(found.values())

    def _filled(self, order: Sequence[int], available: Sequence[int | None]) -> set[tuple[int, tuple[int, ...]]]:
        left = list(self.wanted)
        made: set[tuple[int, tuple[int, ...]]] = set()
        there = {s: available[s] for s in order}
        while any(left):
            stock = next(
                (s for s in order if there[s] != 0 and any(n and t <= self.room[s] for n, t in zip(left, self.takes, strict=True))), None
            )
            if stock is None:
                break
            room, counts = self.room[stock], [0] * len(left)
            for at, takes in enumerate(self.takes):
                counts[at] = min(left[at], room // takes)
                room -= counts[at] * takes
            # The same again, as long as there is enough for it.
            times = min(n // c for n, c in zip(left, counts, strict=True) if c)
            held = there[stock]
            if held is not None:
                times = min(times, held)
                there[stock] = held - times
            left = [n - c * times for n, c in zip(left, counts, strict=True)]
            made.add((stock, tuple(counts)))
        return made

    def price(self, duals: np.ndarray, stock: int, wanted: Sequence[int], over: float) -> list[Pattern]:
        """The pattern of a stock that is worth most, where that is more than it asks."""
        room = self.room[stock]
        worth = [(at, float(duals[at]), most) for at, most in enumerate(self.most(stock, wanted)) if most and duals[at] > 0]
        if not worth or room <= 0:
            return []
        counts = most_worthy(worth, self.takes, room) if room <= _MOST_PLACES else self._by_search(worth, room)
        value = sum(duals[at] * n for at, n in counts.items())
        if value <= over:
            return []
        return [Pattern(stock, tuple(counts.get(at, 0) for at in range(len(self.takes))))]

    def _by_search(self, worth: Sequence[tuple[int, float, int]], room: int) -> dict[int, int]:
        """The same by branch and bound, where a table would be too long."""
        items = sorted(worth, key=lambda w: -w[1] / self.takes[w[0]])
        best, found = -1.0, {}
        stack: list[tuple[int, int, float, tuple[tuple[int, int], ...]]] = [(0, room, 0.0, ())]
        steps = 0
        while stack:
            depth, left, value, counts = stack.pop()
            steps += 1
            if value > best:
                best, found = value, dict(counts)
            if steps > _MOST_STEPS:
                self.exact = False
                break
            if depth == len(items):
                continue
            at, each, most = items[depth]
            if value + left * each / self.takes[at] <= best + 1e-12:
                continue
            for n in range(min(most, left // self.takes[at]) + 1):
                stack.append((depth + 1, left - n * self.takes[at], value + n * each, (*counts, (at, n)) if n else counts))
        return found

    def every(self, duals: np.ndarray, stock: int, least: float) -> list[Pattern] | None:
        """All patterns of a stock worth at least so much, that have no room for one more wanted piece; None where there are too many."""
        most = self.most(stock, self.wanted)
        items = sorted((at for at, n in enumerate(most) if n), key=lambda at: -duals[at] / self.takes[at])
        # The best that what follows an item can still add for each unit of room.
        density = [duals[at] / self.takes[at] for at in items] + [0.0]
        found: list[Pattern] = []
        stack: list[tuple[int, int, float, tuple[tuple[int, int], ...]]] = [(0, self.room[stock], 0.0, ())]
        steps = 0
        while stack:
            depth, left, value, counts = stack.pop()
            steps += 1
            if steps > 60 * _MOST_PATTERNS:
                return None
            if value + left * density[depth] < least:
                continue
            if depth == len(items):
                held = dict(counts)
                if any(held.get(at, 0) < most[at] and self.takes[at] <= left for at in items):
                    continue
                found.append(Pattern(stock, tuple(held.get(at, 0) for at in range(len(self.takes)))))
                if len(found) > _MOST_PATTERNS:
                    return None
                continue
            at = items[depth]
            for n in range(min(most[at], left // self.takes[at]) + 1):
                stack.append((depth + 1, left - n * self.takes[at], value + n * float(duals[at]), (*counts, (at, n)) if n else counts))
        return found


def _named(chosen: Sequence[tuple[Pattern, int]], lengths: Sequence[Decimal], pieces: Sequence[Piece], kerf: Decimal) -> list[Used]:
    """Bars with the pieces by their names, none more than is wanted; bars that are cut the same stand together."""
    waiting: dict[Decimal, list[list]] = defaultdict(list)
    for piece in pieces:
        if piece.count:
            waiting[piece.length].append([piece.name, piece.count])
    bars: Counter[tuple[int, tuple[tuple[str, Decimal], ...]]] = Counter()
    for pattern, times in chosen:
        while times:
            # As often as the names at the head suffice.
            held: list[tuple[str, Decimal]] = []
            for length, n in zip(lengths, pattern.counts, strict=True):
                names = waiting[length]
                while n and names:
                    name, count = names[0]
                    take = min(n, count)
                    held += [(name, length)] * take
                    n -= take
                    names[0][1] -= take
                    if not names[0][1]:
                        names.pop(0)
            if held:
                bars[pattern.stock, tuple(held)] += 1
            times -= 1
    used = []
    for (stock, held_by), times in bars.items():
        at, placed = Decimal(0), []
        for name, length in held_by:
            placed.append(Placed(name, at, Decimal(0), length, Decimal(0)))
            at += length + kerf
        used.append(Used(stock, times, tuple(placed)))
    return sorted(used, key=lambda u: (u.stock, -u.count))
