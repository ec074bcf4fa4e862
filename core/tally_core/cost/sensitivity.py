"""Rule D2: how far one part's unit cost moves for a 1 % move in each input, for all inputs in one sweep."""

from dataclasses import dataclass

import numpy as np

from ..basics.kinds import BEARS_OVERHEAD, HAS_PRICE, IS_ITSELF, PER_UNIT
from ..structure.needs import Needs
from ..structure.structure import Structure
from .cost import Costs, Fixed, rolls

__all__ = ["Sensitivities", "sensitivities"]

_PERCENT = 0.01


@dataclass(slots=True)
class Sensitivities:
    """Currency per stock unit of the part asked about, for an input that is 1 % higher and all others as they are.

    ``tables`` maps "part", "line", "operation" and "sheet" to field → float64 over the rows of that table (a sheet's row
    is its part's). Fields of an operation that are rates stand on every operation of the work center: add them up.
    ``use`` is over parts: what one unit of the part asked about takes of each, as far as it costs.
    """

    tables: dict[str, dict[str, np.ndarray]]
    use: np.ndarray


def _uses(s: Structure, top: int, gross: np.ndarray, markup: np.ndarray) -> np.ndarray:
    """Over parts: ∂(unit cost of ``top``) / ∂(unit cost of the part), the adjoint of the roll-up, by levels from the top."""
    use = np.zeros(len(s.parts))
    use[top] = 1.0
    for a, b in zip(s.level_start[:-1], s.level_start[1:], strict=True):
        usages = slice(s.usage_start[a], s.usage_start[b])
        parent = s.parent[usages]
        if parent.size:
            weights = gross[usages] * use[parent] * markup[parent]
            use += np.bincount(s.child[usages], weights=weights, minlength=len(use))
    return use


def _needs_adjoint(s: Structure, needs: Needs, by_lot: np.ndarray) -> np.ndarray:
    """Over parts: what one more unit of need moves, by levels from the bottom (N1 backwards).

    Where a need is rounded up to whole units, a small move of it moves nothing (N2).
    """
    moves = by_lot.copy()
    still = (s.parts.whole_only & IS_ITSELF[s.parts.kind]) | (needs.lot <= 0)
    asks = np.where(s.byproduct, 0.0, s.gross_per_unit)
    for a, b in zip(s.level_start[-2::-1], s.level_start[:0:-1], strict=True):
        usages = slice(s.usage_start[a], s.usage_start[b])
        rows = s.order[a:b]
        if s.parent[usages].size:
            weights = asks[usages] * moves[s.child[usages]]
            moves[rows] += np.bincount(s.place[s.parent[usages]] - a, weights=weights, minlength=b - a)
        moves[rows[still[rows]]] = 0.0
    return moves


def sensitivities(
    structure: Structure, costs: Costs, top: int, needs: Needs | None = None, fixed: Fixed | None = None
) -> Sensitivities:
    """Rule D2: the sensitivities of the unit cost of the part in row ``top`` to everything that was stated.

    Args:
        costs: the roll-up whose figures are asked about.
        needs: those of the job whose lots ``costs`` were made with; None for standard lots.

    They are derivatives: a step (a vessel that fills, a need that is rounded up, a minimum charge that is reached) is met
    only when the input comes to it. What a line takes away by an option is not among them.
    """
    s, parts, o = structure, structure.parts, structure.operations
    total = costs.unit.sum(axis=1)
    share = np.where(np.isnan(parts.given_cost), parts.markup_percent / 100.0, 0.0)
    if fixed is not None:
        share[fixed.rows] = 0.0
    rolled = rolls(s, fixed)
    lot = costs.lots[s.parent]
    sign = np.where(s.byproduct, -1.0, 1.0)
    paid = np.where(~s.free & rolled[s.parent], sign, 0.0)
    use = _uses(s, top, paid * (s.gross_per_unit + s.gross_per_lot / lot), 1.0 + share)
    # What one currency of a part's own sheet moves.
    own = use * (1.0 + share)
    priced = paid * own[s.parent] * total[s.child]

    work_own = own[o.parent] * rolled[o.parent]
    lots = costs.lots[o.parent]
    work = costs.work
    to_top = work_own / lots
    by_piece = ~np.isnan(o.piece_rate)
    on_labor = 1.0 + o.overhead_percent_of_labor / 100.0
    by_hour = o.machine_rate + o.overhead_per_hour
    setup = to_top * (work.setup * on_labor + work.setup_hours * by_hour)
    labor = to_top * work.labor * on_labor
    timed_labor = np.where(by_piece, 0.0, labor)
    run = timed_labor + to_top * work.run_hours * by_hour
    outside = ~np.isnan(o.outside_price)
    by_unit = outside & (np.nan_to_num(work.started * o.outside_price) >= o.outside_minimum)
    subcontract = to_top * work.subcontract
    # What grows with what an operation starts: time per unit, pieces, units sent outside.
    growing = (
        np.where(o.run_basis == PER_UNIT, run, 0.0)
        + np.where(by_piece, labor, 0.0)
        + np.where(by_unit, subcontract, 0.0)
    )
    whole = setup + run + np.where(by_piece, labor, 0.0) + subcontract

    # What a part costs less of when its own lot grows and all others stay.
    by_lot = np.zeros(len(parts))
    np.subtract.at(by_lot, s.parent, priced * s.gross_per_lot / lot)
    np.subtract.at(by_lot, o.parent, whole - growing)
    if needs is not None:
        moves = _needs_adjoint(s, needs, np.divide(by_lot, costs.lots, where=needs.lot > 0, out=np.zeros(len(parts))))
        # A line's quantity also sets the lot of what it takes.
        priced = priced + np.where(s.byproduct | (needs.lot[s.parent] <= 0), 0.0, moves[s.child] * lot)

    fixed_loss = np.where(s.byproduct, 0.0, s.lines.fixed_loss[s.line] * s.factor)
    taken = s.gross_per_unit + (s.gross_per_lot - fixed_loss) / lot
    scrap, passed = s.lines.scrap_percent[s.line], s.lines.yield_percent[s.line]
    loses = ~s.byproduct
    by_scrap = np.where(loses & np.isnan(passed), np.nan_to_num(scrap) / (100.0 + np.nan_to_num(scrap)), 0.0)
    # Of a line from which an option takes, 1 % of what is stated is more than 1 % of what is left.
    stated = np.divide(s.lines.quantity[s.line], s.quantity, where=s.quantity != 0, out=np.zeros(len(lot)))

    per_unit = priced * s.gross_per_unit
    batch = -np.bincount(s.parent, weights=per_unit, minlength=len(parts))
    at = s.lines.operation[s.line]
    at = np.where(at >= 0, at, s.first_operation[s.parent])
    fed = np.flatnonzero(at >= 0)
    started = growing + np.bincount(at[fed], weights=per_unit[fed], minlength=len(o))
    # A yield acts on its operation, on what works beside that, and on all before it on the same sheet.
    started = np.bincount(o.leads(), weights=started, minlength=len(o))
    passed_on = np.cumsum(started)
    first = np.searchsorted(o.parent, o.parent, "left")
    before = np.where(first > 0, passed_on[first - 1], 0.0)

    def over_lines(values: np.ndarray) -> np.ndarray:
        column = np.zeros(len(s.lines))
        column[s.line] = values * _PERCENT
        return column

    given = ~np.isnan(parts.given_cost)
    standing = np.zeros(len(parts), dtype=bool)
    if fixed is not None:
        standing[fixed.rows] = True
    free = ~given & ~standing
    price = np.nan_to_num(parts.unit_cost)
    on_material = np.where(BEARS_OVERHEAD[parts.kind], parts.overhead_percent / 100.0, 0.0)
    found: dict[str, dict[str, np.ndarray]] = {
        "part": {
            "unit_cost": np.where(free & HAS_PRICE[parts.kind], own * price * (1.0 + on_material), 0.0),
            "overhead_percent": np.where(free, own * price * on_material, 0.0),
            "given_cost": np.where(given & ~standing, use * np.nan_to_num(parts.given_cost), 0.0),
            "markup_percent": np.where(free, use * total * share / (1.0 + share), 0.0),
            "standard": np.where(standing, use * total, 0.0),
        },
        "line": {},
        "operation": {
            "setup_minutes": setup,
            "run_minutes": run,
            "crew": timed_labor,
            "setup_crew": to_top * work.setup * on_labor,
            "piece_rate": np.where(by_piece, labor, 0.0),
            "yield_percent": np.where(o.resource == 0, before - passed_on, 0.0),
            "outside_price": np.where(by_unit, subcontract, 0.0),
            "outside_minimum": np.where(by_unit, 0.0, subcontract),
            "labor_rate": timed_labor,
            # Where a work center states no rate for set-up, its labor rate pays both.
            "every_labor_rate": timed_labor + to_top * work.setup * on_labor,
            "setup_labor_rate": to_top * work.setup * on_labor,
            "machine_rate": to_top * (work.setup_hours + work.run_hours) * o.machine_rate,
            "overhead_per_hour": to_top * (work.setup_hours + work.run_hours) * o.overhead_per_hour,
            "overhead_percent_of_labor": to_top * (work.setup + work.labor) * (on_labor - 1.0),
            "efficiency_percent": -(setup + run),
        },
        "sheet": {"batch": batch},
    }
    if needs is None:
        found["part"]["costing_lot"] = np.where(np.isnan(parts.costing_lot), 0.0, by_lot)
    for columns in found.values():
        for name, column in columns.items():
            columns[name] = column * _PERCENT
    found["line"] = {
        "quantity": over_lines(priced * taken * stated),
        "scrap_percent": over_lines(priced * taken * by_scrap),
        "yield_percent": over_lines(np.where(loses & ~np.isnan(passed), -priced * taken, 0.0)),
        "fixed_loss": over_lines(priced * fixed_loss / lot),
    }
    return Sensitivities(found, use)
