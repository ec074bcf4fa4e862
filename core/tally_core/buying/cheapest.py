"""Rule B5: the cheapest plan over all needs at once, with a bound that proves how good it is."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal, localcontext

import highspy
import numpy as np

from ..basics.solver import Solver
from .covering import Ask, Uncovered, asks
from .line_by_line import line_by_line
from .model import Candidate, Model, Program, modelled
from .offers import EXACT, Purchase
from .orders import Bought, Choice, Plan, add_up

__all__ = ["cheapest_plan"]

#: How often a plan is made again where float dust let an order pass under a minimum.
_TRIES = 4
#: Relative error that is the solver's own and not a gap.
_DUST = Decimal("1e-7")
_FINEST = Decimal("0.000001")
#: By how much a row may be missed: shares of a minimum are small numbers.
_TOLERANCE = 1e-9

#: Is told the best total and the bound so far, and answers whether to stop.
Watch = Callable[[float, float], bool]


@dataclass(slots=True)
class _Best:
    """The best plan found, if any, the bound, and whether the search ended by itself."""

    bought: Bought | None
    bound: Decimal
    finished: bool


@dataclass(slots=True)
class _Solved:
    values: np.ndarray | None
    bound: float
    finished: bool


def cheapest_plan(purchase: Purchase, *, gap: float = 0.0, seconds: float = 60.0, watch: Watch | None = None) -> Plan:
    """Rule B5: the least total of goods, freight and charges, less the credit for surplus, over the whole plan.

    Args:
        gap: the search ends where the total is within this share of the bound.
        seconds: after them the best plan found stands, with its bound.
        watch: told of progress; stops the search where it answers True, and keeps the best.

    As many parts are covered as can be; those that cannot stand in ``uncovered`` with their reason. Totals are exact: the solver only
    chooses.
    """
    with localcontext(EXACT):
        asked, uncovered = asks(purchase)
        best = _searched(purchase, asked, gap, seconds, watch)
        if best is None:
            asked, missed = _coverable(purchase, asked, seconds)
            uncovered += missed
            best = _searched(purchase, asked, gap, seconds, watch) or _Best(None, Decimal(0), False)
        by_line = line_by_line(purchase, asked)
        bought, finished = best.bought, best.finished
        if by_line is not None and (bought is None or by_line.total < bought.total):
            # Time ran out before the search came as far.
            bought, finished = by_line, False
        if bought is None:
            return Plan(Bought(Decimal(0), Decimal(0), ()), Decimal(0), None, (*uncovered, *_given_up(asked)), False)
        bound = min(best.bound, bought.total)
        if finished and gap == 0 and bought.total - bound <= _DUST * max(Decimal(1), bought.total):
            bound = bought.total
        return Plan(bought, bound, by_line.total if by_line else None, tuple(uncovered), finished)


def _given_up(asked: list[Ask]) -> list[Uncovered]:
    return [Uncovered(a.part, "under the order minimum", "Time ran out before any plan was found.") for a in asked]


def _searched(purchase: Purchase, asked: list[Ask], gap: float, seconds: float, watch: Watch | None) -> _Best | None:
    """The best plan that can be found; None where no plan covers all that is asked."""
    if not asked:
        return _Best(Bought(Decimal(0), Decimal(0), ()), Decimal(0), True)
    needed = {ask.part: ask.quantity for ask in asked}
    raised: dict[str, Decimal] = {}
    for _ in range(_TRIES):
        model = modelled(purchase, asked, raised)
        solved = _solve(model.program, gap, seconds, watch)
        if solved is None:
            return None
        if solved.values is None:
            return _Best(None, _decimal(solved.bound), False)
        bought = add_up(purchase, _choices(purchase, asked, model, solved.values), needed)
        under = [
            order
            for order in bought.orders
            if order.missing > 0
            and (order.supplier not in purchase.by_hand if order.refused else solved.values[model.charged[order.supplier]] < 0.5)
        ]
        if not under:
            return _Best(bought, _decimal(solved.bound), solved.finished)
        for order in under:
            dust = purchase.suppliers[order.supplier].minimum_order * _DUST
            raised[order.supplier] = raised.get(order.supplier, Decimal(0)) + max(order.missing, dust) * 2
    return None


def _decimal(value: float) -> Decimal:
    return Decimal(repr(value)) if np.isfinite(value) else Decimal(0)


def _choices(purchase: Purchase, asked: list[Ask], model: Model, values: np.ndarray) -> list[Choice]:
    """What was chosen, in exact quantities; each amount without a multiple rounded up to six decimals."""
    needed = {ask.part: ask for ask in asked}
    chosen = []
    for c in model.candidates:
        if values[c.used] > 0.5:
            chosen.append((c, _bought(c, values)))
    found: list[Choice] = []
    short = {part: ask.quantity for part, ask in needed.items()}
    for c, quantity in chosen:
        short[purchase.offers[c.offer].part] -= quantity
    for c, quantity in chosen:
        part = purchase.offers[c.offer].part
        if short[part] > 0 and c.step is None and quantity < c.low + c.more:
            # Float dust of amounts that are not counted.
            quantity += short[part]
            short[part] = Decimal(0)
        found.append(Choice(c.offer, quantity))
    return found


def _bought(c: Candidate, values: np.ndarray) -> Decimal:
    if c.above < 0:
        return c.low
    above = float(values[c.above])
    if c.step is not None:
        return c.low + c.step * round(above)
    return c.low + min(Decimal(repr(max(above - 1e-9, 0.0))).quantize(_FINEST, ROUND_CEILING), c.more)


def _coverable(purchase: Purchase, asked: list[Ask], seconds: float) -> tuple[list[Ask], list[Uncovered]]:
    """As many parts as can be covered together, and the others with their reason."""
    model = modelled(purchase, asked, {}, may_miss=True)
    solved = _solve(model.program, 0.0, seconds, None)
    if solved is None or solved.values is None:
        return [], _given_up(asked)
    covered = [a for a in asked if solved.values[model.missed[a.part]] < 0.5]
    missed = []
    for ask in asked:
        if solved.values[model.missed[ask.part]] < 0.5:
            continue
        by_itself = _solve(modelled(purchase, [ask], {}, minimums=False).program, 0.0, seconds, None)
        if by_itself is None:
            missed.append(Uncovered(ask.part, "over the surplus", "No quantities that can be bought come close enough to the need."))
        else:
            detail = "The order would stay under the minimum of a supplier who takes none such."
            missed.append(Uncovered(ask.part, "under the order minimum", detail))
    return covered, missed


def _solve(program: Program, gap: float, seconds: float, watch: Watch | None) -> _Solved | None:
    """Values of the columns and the bound; None where nothing fulfils the rows, as where there are no columns."""
    if not program.cost:
        return None
    solver = Solver()
    solver.setOptionValue("mip_rel_gap", gap)
    solver.setOptionValue("mip_abs_gap", 0.0 if gap == 0 else 1e-6)
    solver.setOptionValue("time_limit", seconds)
    solver.setOptionValue("mip_feasibility_tolerance", _TOLERANCE)
    solver.setOptionValue("primal_feasibility_tolerance", _TOLERANCE)
    solver.passModel(_as_lp(program))
    if watch is not None:
        solver.cbMipInterrupt += lambda event: event.interrupt(watch(event.data_out.mip_primal_bound, event.data_out.mip_dual_bound))
    solver.run()
    status, info = solver.getModelStatus(), solver.getInfo()
    if status in (highspy.HighsModelStatus.kInfeasible, highspy.HighsModelStatus.kUnboundedOrInfeasible):
        return None
    found = info.primal_solution_status == 2
    values = np.array(solver.getSolution().col_value) if found else None
    return _Solved(values, info.mip_dual_bound, status == highspy.HighsModelStatus.kOptimal)


def _as_lp(program: Program) -> highspy.HighsLp:
    lp = highspy.HighsLp()
    lp.num_col_, lp.num_row_ = len(program.cost), len(program.row_lower)
    lp.col_cost_ = np.array(program.cost)
    lp.col_lower_, lp.col_upper_ = np.array(program.lower), np.array(program.upper)
    lp.row_lower_, lp.row_upper_ = np.array(program.row_lower), np.array(program.row_upper)
    lp.a_matrix_.format_ = highspy.MatrixFormat.kRowwise
    lp.a_matrix_.start_ = np.array(program.starts, dtype=np.int32)
    lp.a_matrix_.index_ = np.array(program.index, dtype=np.int32)
    lp.a_matrix_.value_ = np.array(program.value)
    lp.integrality_ = [highspy.HighsVarType.kInteger if w else highspy.HighsVarType.kContinuous for w in program.whole]
    return lp
