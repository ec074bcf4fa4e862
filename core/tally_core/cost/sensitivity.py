"""Rule D2: how far one part's unit cost moves for a 1 % move in each input, for all inputs in one sweep."""

from dataclasses import dataclass

import numpy as np

from ..basics.elements import HOURLY
from ..basics.kinds import BEARS_OVERHEAD, HAS_PRICE, IS_ITSELF, PER_UNIT
from ..structure.needs import Needs, taken_in_one
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


def sensitivities(structure: Structure, costs: Costs, top: int, needs: Needs | None = None, fixed: Fixed | None = None) -> Sensitivities:
    """Rule D2: the sensitivities of the unit cost of the part in row ``top`` to everything that was stated.

    Args:
        costs: the roll-up whose figures are asked about.
        needs: those of the job whose lots ``costs`` were made with; None for standard lots.

    They are derivatives: a step (a vessel that fills, a need that is rounded up, a minimum charge that is reached) is met
    only when the input comes to it. What a line takes away by an option is not among them.

    >>> from datetime import date
    >>> from tally_core.cost.cost import roll_up, standard_lots
    >>> from tally_core.stated.definition import Definition, Line, Part, Sheet
    >>> from tally_core.structure.structure import build_structure
    >>> from tally_core.structure.tabulate import tabulate
    >>> rod, tube, lines = Part("ROD", unit_cost=3), Part("T-1", kind="made"), [Line(part="ROD", quantity=2)]
    >>> held = Definition(parts=[rod, tube], sheets=[Sheet("T-1", status="released", lines=lines)])
    >>> s = build_structure(*tabulate(held, date(2026, 1, 1))[:3], date(2026, 1, 1))
    >>> found = sensitivities(s, roll_up(s, standard_lots(s)), 1).tables
    >>> [round(float(found[table][field][0]), 6) for table, field in (("part", "unit_cost"), ("line", "quantity"))]
    [0.06, 0.06]
    """
    s, parts = structure, structure.parts
    total = costs.unit.sum(axis=1)
    share = np.where(np.isnan(parts.given_cost), parts.markup_percent / 100.0, 0.0)
    standing = np.zeros(len(parts), dtype=bool)
    if fixed is not None:
        standing[fixed.rows] = True
    share[standing] = 0.0
    rolled = rolls(s, fixed)
    lot = costs.lots[s.parent]
    paid = np.where(~s.free & rolled[s.parent], np.where(s.byproduct, -1.0, 1.0), 0.0)
    # ∂(unit cost of the top) / ∂(unit cost of a part): the adjoint of the roll-up.
    use = taken_in_one(s, top, paid * s.gross(costs.lots) * (1.0 + share)[s.parent])
    # What one currency of a part's own sheet moves.
    own = use * (1.0 + share)
    priced = paid * own[s.parent] * total[s.child]
    work = _work(s, costs, own * rolled)

    # What a part costs less of when its own lot grows and all others stay.
    by_lot = np.zeros(len(parts))
    np.subtract.at(by_lot, s.parent, priced * s.gross_per_lot / lot)
    np.subtract.at(by_lot, s.operations.parent, work.whole - work.growing)
    if needs is not None:
        moves = _needs_adjoint(s, needs, np.divide(by_lot, costs.lots, where=needs.lot > 0, out=np.zeros(len(parts))))
        # A line's quantity also sets the lot of what it takes.
        priced = priced + np.where(s.byproduct | (needs.lot[s.parent] <= 0), 0.0, moves[s.child] * lot)

    tables = {
        "part": _of_parts(s, use, own, total, share, standing),
        "line": _of_lines(s, priced, lot),
        "operation": _of_operations(s, costs, work, priced * s.gross_per_unit),
        "sheet": {"batch": -np.bincount(s.parent, weights=priced * s.gross_per_unit, minlength=len(parts))},
    }
    if needs is None:
        tables["part"]["costing_lot"] = np.where(np.isnan(parts.costing_lot), 0.0, by_lot)
    percent = {table: {name: c * _PERCENT for name, c in columns.items()} for table, columns in tables.items()}
    return Sensitivities(percent, use)


@dataclass(slots=True)
class _Work:
    """What the work of each operation moves: over operations, in currency of the part asked about."""

    to_top: np.ndarray  # by one currency of its cost
    on_labor: np.ndarray  # labor with what it bears
    setup: np.ndarray  # by set-up: its labor, and its hours of the machine
    run: np.ndarray  # by run time, where labor is paid by it,
    timed_labor: np.ndarray  # of which labor
    by_piece: np.ndarray  # by labor that is paid by the piece
    by_unit: np.ndarray  # by outside work that is paid by the unit,
    least: np.ndarray  # and by that which is paid its least charge
    per_unit: np.ndarray  # by run time that is stated per unit

    @property
    def growing(self) -> np.ndarray:
        """What grows with what an operation starts: time per unit, pieces, units sent outside."""
        return self.per_unit + self.by_piece + self.by_unit

    @property
    def whole(self) -> np.ndarray:
        """All that an operation costs."""
        return self.setup + self.run + self.by_piece + self.by_unit + self.least


def _work(s: Structure, costs: Costs, own: np.ndarray) -> _Work:
    """``own`` is over parts: what one currency of a part's routing moves."""
    o, work = s.operations, costs.work
    to_top = own[o.parent] / costs.lots[o.parent]
    by_piece = ~np.isnan(o.piece_rate)
    on_labor = 1.0 + o.overhead_percent_of_labor / 100.0
    by_hour = sum(o.by_hour(x) for x in HOURLY)
    labor = to_top * work.labor * on_labor
    timed_labor = np.where(by_piece, 0.0, labor)
    run = timed_labor + to_top * work.run_hours * by_hour
    outside = ~np.isnan(o.outside_price)
    by_unit = outside & (np.nan_to_num(work.started * o.outside_price) >= o.outside_minimum)
    subcontract = to_top * work.subcontract
    return _Work(
        to_top=to_top,
        on_labor=on_labor,
        setup=to_top * (work.setup * on_labor + work.setup_hours * by_hour),
        run=run,
        timed_labor=timed_labor,
        by_piece=np.where(by_piece, labor, 0.0),
        by_unit=np.where(by_unit, subcontract, 0.0),
        least=np.where(by_unit, 0.0, subcontract),
        per_unit=np.where(o.run_basis == PER_UNIT, run, 0.0),
    )


def _of_parts(
    s: Structure, use: np.ndarray, own: np.ndarray, total: np.ndarray, share: np.ndarray, standing: np.ndarray
) -> dict[str, np.ndarray]:
    """Field → over parts. ``total`` is their unit cost, ``share`` what is put upon it, ``standing`` whether a standard is taken instead."""
    parts = s.parts
    given = ~np.isnan(parts.given_cost)
    free = ~given & ~standing
    price = np.nan_to_num(parts.unit_cost)
    on_material = np.where(BEARS_OVERHEAD[parts.kind], parts.overhead_percent / 100.0, 0.0)
    return {
        "unit_cost": np.where(free & HAS_PRICE[parts.kind], own * price * (1.0 + on_material), 0.0),
        "overhead_percent": np.where(free, own * price * on_material, 0.0),
        "given_cost": np.where(given & ~standing, use * np.nan_to_num(parts.given_cost), 0.0),
        "markup_percent": np.where(free, use * total * share / (1.0 + share), 0.0),
        "standard": np.where(standing, use * total, 0.0),
    }


def _of_lines(s: Structure, priced: np.ndarray, lot: np.ndarray) -> dict[str, np.ndarray]:
    """Field → over lines. ``priced`` is over usages: what one more of the component in one parent moves; ``lot`` the parent's."""
    fixed_loss = np.where(s.byproduct, 0.0, s.lines.fixed_loss[s.line] * s.factor)
    taken = s.gross_per_unit + (s.gross_per_lot - fixed_loss) / lot
    scrap, passed = s.lines.scrap_percent[s.line], s.lines.yield_percent[s.line]
    loses = ~s.byproduct
    by_scrap = np.where(loses & np.isnan(passed), np.nan_to_num(scrap) / (100.0 + np.nan_to_num(scrap)), 0.0)
    # Of a line from which an option takes, 1 % of what is stated is more than 1 % of what is left.
    stated = np.divide(s.lines.quantity[s.line], s.quantity, where=s.quantity != 0, out=np.zeros(len(lot)))

    def over_lines(values: np.ndarray) -> np.ndarray:
        column = np.zeros(len(s.lines))
        column[s.line] = values
        return column

    return {
        "quantity": over_lines(priced * taken * stated),
        "scrap_percent": over_lines(priced * taken * by_scrap),
        "yield_percent": over_lines(np.where(loses & ~np.isnan(passed), -priced * taken, 0.0)),
        "fixed_loss": over_lines(priced * fixed_loss / lot),
    }


def _of_operations(s: Structure, costs: Costs, work: _Work, per_unit: np.ndarray) -> dict[str, np.ndarray]:
    """Field → over operations. ``per_unit`` is over usages: what what they take for each unit started moves."""
    o, hours = s.operations, costs.work.setup_hours + costs.work.run_hours
    at = s.lines.operation[s.line]
    at = np.where(at >= 0, at, s.first_operation[s.parent])
    fed = np.flatnonzero(at >= 0)
    started = work.growing + np.bincount(at[fed], weights=per_unit[fed], minlength=len(o))
    # A yield acts on its operation, on what works beside that, and on all before it on the same sheet.
    passed_on = np.cumsum(np.bincount(o.leads(), weights=started, minlength=len(o)))
    first = np.searchsorted(o.parent, o.parent, "left")
    before = np.where(first > 0, passed_on[first - 1], 0.0)
    setup_labor = work.to_top * costs.work.setup * work.on_labor
    return {
        "setup_minutes": work.setup,
        "run_minutes": work.run,
        "crew": work.timed_labor,
        "setup_crew": setup_labor,
        "piece_rate": work.by_piece,
        "yield_percent": np.where(o.resource == 0, before - passed_on, 0.0),
        "outside_price": work.by_unit,
        "outside_minimum": work.least,
        "labor_rate": work.timed_labor,
        # Where a work center states no rate for set-up, its labor rate pays both.
        "every_labor_rate": work.timed_labor + setup_labor,
        "setup_labor_rate": setup_labor,
        **{name: work.to_top * hours * o.by_hour(x) for x in HOURLY for name in x.factors},
        "overhead_percent_of_labor": work.to_top * (costs.work.setup + costs.work.labor) * (work.on_labor - 1.0),
        "efficiency_percent": -(work.setup + work.run),
    }
