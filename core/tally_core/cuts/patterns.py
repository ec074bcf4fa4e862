"""Which patterns, and how often each: the least cost that covers all pieces, by generating patterns as they pay (Gilmore and Gomory, 1961)."""

import random
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import ceil, gcd, lcm
from typing import Any

import highspy
import numpy as np

from ..basics.solver import Solver

__all__ = ["Chosen", "Pattern", "choose", "rounded_up"]

_DUST = 1e-7
#: Seconds that one search over whole numbers takes at most.
_WHOLE, _FIRST = 15.0, 1.0
#: How often a choice in whole numbers is looked for by fixing what the fractions suggest.
_DIVES = 8


@dataclass(frozen=True, slots=True)
class Pattern:
    """A way to cut one piece of a stock: how many of each piece come out of it. ``how`` is for who makes and draws it."""

    stock: int
    counts: tuple[int, ...]
    how: Any = None


@dataclass(frozen=True, slots=True)
class Chosen:
    """Patterns with how often each is cut; None where the stock does not suffice. ``bound``: no choice of any patterns costs less."""

    patterns: tuple[tuple[Pattern, int], ...] | None
    bound: float
    proven: bool


#: Given what a piece is worth, a stock, and how many of each piece are wanted at most: patterns worth more than an amount.
Price = Callable[[np.ndarray, int, Sequence[int], float], list[Pattern]]
#: Given what a piece is worth, for a stock all patterns worth at least an amount that no other contains; None where there are too many.
Enumerate = Callable[[np.ndarray, int, float], list[Pattern] | None]


def rounded_up(value: float, costs: Sequence[Fraction]) -> Fraction:
    """The least sum of some of the costs that is not under a value, as far as their common measure tells.

    >>> rounded_up(2.0000001, [Fraction(1)]), rounded_up(7.2, [Fraction(2), Fraction(3, 2)])
    (Fraction(2, 1), Fraction(15, 2))
    """
    step = _step(costs)
    # What is float dust of the solver lifts no bound.
    return ceil(Fraction(value) * (1 - Fraction(1, 10**9)) / step - Fraction(1, 100_000)) * step


def _step(costs: Sequence[Fraction]) -> Fraction:
    """The common measure of some costs: no two sums of them are nearer to one another."""
    scale = lcm(*(c.denominator for c in costs))
    return Fraction(gcd(*(int(c * scale) for c in costs)), scale)


def choose(
    costs: Sequence[Fraction],
    available: Sequence[int | None],
    wanted: Sequence[int],
    price: Price,
    first: Sequence[Pattern],
    every: Enumerate | None = None,
    seconds: float = 60.0,
    enough: Fraction = Fraction(0),
) -> Chosen:
    """The least cost of stock for all pieces.

    Args:
        wanted: how many of each piece.
        first: patterns to begin with; with some of them all is covered, where they suffice.
        every: proves the choice where generated patterns alone leave a gap.
        seconds: after them the best found stands.
        enough: nothing that costs so little is searched any further.

    ``bound`` holds for all patterns that ``price`` can find.
    """
    ends = time.monotonic() + seconds
    master = _Master(costs, available, wanted)
    for pattern in first:
        master.add(pattern)
    value, finished = master.generate(price, ends)
    if finished and master.lacking > _DUST:
        return Chosen(None, value, True)
    bound = max(rounded_up(value, costs) if finished else Fraction(0), enough)
    best = master.whole(bound, min(ends, time.monotonic() + _FIRST))
    duals, asks = master.duals, master.asks
    dice = random.Random(1)
    for attempt in range(_DIVES):
        if (best is not None and master.cost_of(best) <= bound) or time.monotonic() > ends:
            break
        found = _dive(master, price, dice if attempt else None, ends)
        if found is not None and (best is None or master.cost_of(found) < master.cost_of(best)):
            best = found
    if best is None or master.cost_of(best) > bound:
        best = master.whole(bound, ends, best)
    if best is None:
        return Chosen(None, float(bound), False)
    cost = master.cost_of(best)
    if cost > bound and finished and every and time.monotonic() < ends:
        # A cheaper choice holds only patterns that miss their price by less than the gap: if those are all known, the best of them is the best.
        gap = float(cost - _step(costs)) - value
        if master.add_every(every, duals, asks, gap):
            better = master.whole(bound, ends, best)
            if better is not None:
                best = better
            if master.ended:
                bound = max(bound, master.cost_of(best))
    cost = master.cost_of(best)
    return Chosen(tuple(best), float(bound), cost <= bound)


def _dive(master: "_Master", price: Price, dice: random.Random | None, ends: float) -> list[tuple[Pattern, int]] | None:
    """A choice in whole numbers: what the fractions hold of whole patterns is taken, then one more of the largest, and the rest is solved anew.

    New patterns are generated for each rest: that is what the patterns of the whole lack. ``dice``: not always the largest is taken.
    """
    left, there = list(master.wanted), list(master.available)
    taken: dict[int, int] = {}
    known: list[Pattern] = master.patterns
    rest = master
    while any(left):
        values = rest.values
        order = sorted(range(len(values)), key=lambda i: -(values[i] % 1.0))
        whole = {i: int(v + _DUST) for i, v in enumerate(values) if v >= 1 - _DUST}
        if not whole:
            order = [i for i in order if values[i] > _DUST]
            if not order:
                return None
            whole = {order[dice.randrange(min(3, len(order))) if dice else 0]: 1}
        for i, times in whole.items():
            pattern = rest.patterns[i]
            at = known.index(pattern) if pattern in known else -1
            if at < 0:
                master.add(pattern)
                at = len(master.patterns) - 1
            taken[at] = taken.get(at, 0) + times
            left = [max(n - times * c, 0) for n, c in zip(left, pattern.counts, strict=True)]
            held = there[pattern.stock]
            if held is not None:
                there[pattern.stock] = held - times
        if not any(left):
            break
        if time.monotonic() > ends or any(n is not None and n < 0 for n in there):
            return None
        before, rest = rest, _Master(master.costs, there, left)
        for pattern in before.patterns:
            # No more than is left; one that is drawn already stays as it is.
            cut_down = Pattern(pattern.stock, tuple(map(min, pattern.counts, left)))
            rest.add(cut_down if pattern.how is None else pattern)
        _, finished = rest.generate(price, ends)
        if not finished or rest.lacking > _DUST:
            return None
    return [(master.patterns[at], times) for at, times in taken.items()]


class _Master:
    """The choice among the patterns known so far."""

    def __init__(self, costs: Sequence[Fraction], available: Sequence[int | None], wanted: Sequence[int]) -> None:
        self.costs, self.available, self.wanted = costs, available, wanted
        self.patterns: list[Pattern] = []
        self._known: set[tuple[int, tuple[int, ...]]] = set()
        self.duals = np.zeros(len(wanted))
        # What a stock costs with what it is worth where there is not enough of it.
        self.asks = [float(c) for c in costs]
        self.lacking = 0.0
        self.ended = True
        #: How often each pattern is cut, in fractions.
        self.values: list[float] = []
        self._solver = h = Solver()
        nowhere, nothing, endless = np.array([], dtype=np.int32), np.array([]), highspy.kHighsInf
        for least in wanted:
            h.addRow(float(least), endless, 0, nowhere, nothing)
        for most in available:
            h.addRow(-endless, endless if most is None else float(most), 0, nowhere, nothing)
        # A piece that is not cut costs more than any way to cut it.
        self._missing = float(max(costs)) * (sum(wanted) + 1)
        for row in range(len(wanted)):
            h.addCol(self._missing, 0.0, highspy.kHighsInf, 1, np.array([row], dtype=np.int32), np.array([1.0]))

    def add(self, pattern: Pattern) -> bool:
        key = (pattern.stock, pattern.counts)
        if key in self._known or not any(pattern.counts):
            return False
        self._known.add(key)
        self.patterns.append(pattern)
        rows = [r for r, n in enumerate(pattern.counts) if n]
        entries = [float(pattern.counts[r]) for r in rows]
        self._solver.addCol(
            float(self.costs[pattern.stock]),
            0.0,
            highspy.kHighsInf,
            len(rows) + 1,
            np.array([*rows, len(self.wanted) + pattern.stock], dtype=np.int32),
            np.array([*entries, 1.0]),
        )
        return True

    def generate(self, price: Price, ends: float) -> tuple[float, bool]:
        """Add patterns as long as one pays. Answers the least cost in fractions, and whether no further pattern pays."""
        h, n = self._solver, len(self.wanted)
        value = 0.0
        while True:
            h.run()
            value = h.getInfo().objective_function_value
            solution = h.getSolution()
            duals = np.array(solution.row_dual)
            self.duals = np.maximum(duals[:n], 0.0)
            self.asks = [float(c) - min(d, 0.0) for c, d in zip(self.costs, duals[n:], strict=True)]
            self.values = solution.col_value[n:]
            self.lacking = sum(solution.col_value[:n])
            if time.monotonic() > ends:
                return value, False
            added = False
            for stock, asks in enumerate(self.asks):
                if self.available[stock] == 0:
                    continue
                for pattern in price(self.duals, stock, self.wanted, asks + _DUST * max(1.0, asks)):
                    added |= self.add(pattern)
            if not added:
                return value, True

    def add_every(self, every: Enumerate, duals: np.ndarray, asks: Sequence[float], gap: float) -> bool:
        """Add every pattern that costs at most ``gap`` more than its pieces are worth; False where there are too many."""
        for stock, cost in enumerate(asks):
            found = every(duals, stock, cost - gap - _DUST)
            if found is None:
                return False
            for pattern in found:
                self.add(pattern)
        return True

    def cost_of(self, choice: Sequence[tuple[Pattern, int]]) -> Fraction:
        return sum((self.costs[p.stock] * n for p, n in choice), Fraction(0))

    def whole(self, bound: Fraction, ends: float, best: list[tuple[Pattern, int]] | None = None) -> list[tuple[Pattern, int]] | None:
        """The best choice in whole numbers of the patterns known, or the one given where none is better; ``ended``: it is known to be the best of them."""
        h = Solver()
        model = self._solver.getLp()
        h.passModel(model)
        n = len(self.wanted)
        for column in range(n + len(self.patterns)):
            h.changeColIntegrality(column, highspy.HighsVarType.kInteger)
            if column < n:
                h.changeColBounds(column, 0.0, 0.0)
        h.setOptionValue("time_limit", max(0.5, min(_WHOLE, ends - time.monotonic())))
        h.setOptionValue("mip_rel_gap", 0.0)
        h.setOptionValue("mip_abs_gap", 1e-6)
        # As good as the bound is good enough.
        h.setOptionValue("objective_target", float(bound) + 1e-6)
        h.run()
        status = h.getModelStatus()
        self.ended = status in (highspy.HighsModelStatus.kOptimal, highspy.HighsModelStatus.kInfeasible)
        values = np.array(h.getSolution().col_value)
        if h.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible or not len(values):
            return best
        found = [(p, round(x)) for p, x in zip(self.patterns, values[n:], strict=True) if round(x)]
        return found if best is None or self.cost_of(found) < self.cost_of(best) else best
