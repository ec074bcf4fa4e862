"""What a unit costs at other lots, and where one way of making a part becomes cheaper than another."""

from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal

import numpy as np

from ..basics.kinds import MADE
from .answers import Question, tally
from .cost import operation_costs, standard_lots, unit_totals

__all__ = ["cheaper_from", "cost_at", "lots_to_show"]


def lots_to_show(now: float, whole: bool, points: int = 41) -> np.ndarray:
    """Lots to draw a curve over: from one to a hundred times the present one, evenly by ratio, that one among them.

    >>> lots_to_show(10, True, 5).tolist()
    [1.0, 6.0, 10.0, 32.0, 178.0, 1000.0]
    """
    lots = np.geomspace(min(1.0, now), now * 100.0, points)
    if whole:
        lots = np.rint(lots)
    return np.unique(np.append(lots, now))


def cost_at(question: Question) -> Callable[[float], float]:
    """The unit cost of the part asked about as a function of its lot.

    Under standard lots only the part's own lot is another; in a job every lot below follows (C5). A part that is not made
    costs the same in any lot.
    """
    s, top = question.structure, question.top
    parts = s.parts
    if parts.kind[top] != MADE or not np.isnan(parts.given_cost[top]):
        cost = float(tally(question)[0].unit[top].sum())
        return lambda lot: cost
    if question.basis.quantity is not None:
        return lambda lot: _job_cost(question, lot)
    fixed = question.fixed
    lots = standard_lots(s)
    totals = unit_totals(s, lots, fixed)
    usages, operations = s.usages_of(top), s.operations_of(top)
    sign = np.where(s.byproduct[usages], -1.0, 1.0) * ~s.free[usages]
    value = sign * totals[s.child[usages]]
    per_unit, per_lot = float((value * s.gross_per_unit[usages]).sum()), float((value * s.gross_per_lot[usages]).sum())
    own = replace(s.operations, **{n: getattr(s.operations, n)[operations] for n in type(s.operations).__dataclass_fields__})
    share = 1.0 + parts.markup_percent[top] / 100.0

    def at(lot: float) -> float:
        work = operation_costs(own, s.starts[operations], np.full(len(own), lot))
        return (per_unit + (per_lot + float(work.whole().sum())) / lot) * share

    return at


def _job_cost(question: Question, lot: float) -> float:
    """The unit cost in the job of another quantity."""
    basis = replace(question.basis, quantity=Decimal(repr(float(lot))))
    costs, _ = tally(replace(question, basis=basis))
    return float(costs.unit[question.top].sum())


def cheaper_from(one: Callable[[float], float], other: Callable[[float], float], lots: np.ndarray, whole: bool) -> list[tuple[float, bool]]:
    """The lots from which the other way is the cheaper one, or the one is again.

    Args:
        lots: ascending; between two of them at most one change is looked for.
        whole: lots are whole numbers.

    Returns:
        (lot, whether ``one`` is cheaper from there on), ascending.

    >>> made, bought = lambda lot: 2 + 90 / lot, lambda lot: 5.0
    >>> cheaper_from(made, bought, np.array([1.0, 100.0]), True)
    [(31.0, True)]
    """
    found = []
    ahead = [one(lot) < other(lot) for lot in lots]
    for low, high, before, after in zip(lots, lots[1:], ahead, ahead[1:], strict=False):
        if before == after:
            continue
        while high - low > (1.0 if whole else 1e-6 * high):
            middle = (low + high) / 2.0
            middle = float(np.floor(middle)) if whole else middle
            if (one(middle) < other(middle)) == after:
                high = middle
            else:
                low = middle
        found.append((float(high), bool(after)))
    return found
