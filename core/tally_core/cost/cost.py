"""Rules C1 to C5: the cost of a unit, over all elements, this level and lower levels."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_array

from ..basics.elements import AT, ELEMENTS, HOURLY, OF_OPERATIONS
from ..basics.kinds import BEARS_OVERHEAD, HAS_PRICE, IN_PROPORTION, PART_KIND, PER_CYCLE, PER_UNIT
from ..basics.rounding import round_up
from ..structure.needs import Needs
from ..structure.structure import Structure
from ..structure.tables import OperationTable

__all__ = [
    "Costs",
    "Fixed",
    "OperationCosts",
    "job_lots",
    "operation_costs",
    "roll_up",
    "rolls",
    "splits_given",
    "standard_lots",
    "unit_totals",
]

#: The element of what is paid for a part, over the codes of its kinds; a made part's cost given by hand is material.
_PAID_AS = np.array([AT[kind.priced_as or "material"] for kind in PART_KIND.values()])


@dataclass(slots=True)
class Costs:
    """Currency per stock unit, float64 of shape (P, E) over parts and elements."""

    this_level: np.ndarray  # what a part's own sheet adds: operations, the scrap of its lines, by-products
    lower_levels: np.ndarray  # what its lines bring with them, net
    unit: np.ndarray  # the sum of both
    lots: np.ndarray  # over parts: the lot each was costed at
    work: "OperationCosts"  # what operations take and cost for those lots


@dataclass(slots=True)
class Fixed:
    """Parts that are not rolled up because they carry a standard: its elements, this level and all."""

    rows: np.ndarray  # part rows
    unit: np.ndarray  # shape (N, E), currency per stock unit
    this_level: np.ndarray  # shape (N, E)


@dataclass(slots=True)
class OperationCosts:
    """Arrays over operations, for one lot: hours and currency."""

    started: np.ndarray  # S_k
    cycles: np.ndarray  # what run time is multiplied by
    setup_hours: np.ndarray
    run_hours: np.ndarray
    setup: np.ndarray
    labor: np.ndarray
    machine: np.ndarray
    overhead: np.ndarray
    subcontract: np.ndarray

    def amounts(self) -> dict[str, np.ndarray]:
        """Currency by element, over operations."""
        return {name: getattr(self, name) for name in OF_OPERATIONS}

    def whole(self) -> np.ndarray:
        """Currency, all elements together."""
        return sum(self.amounts().values(), np.zeros(len(self.started)))


def standard_lots(structure: Structure) -> np.ndarray:
    """Rule C5: every made part at its own costing lot, 1 when none is set."""
    lots = structure.parts.costing_lot
    return np.where(np.isnan(lots), 1.0, lots)


def job_lots(structure: Structure, needs: Needs) -> np.ndarray:
    """Rule C5: every made part at its need; at its costing lot where the job takes none of it."""
    return np.where(needs.lot > 0, needs.lot, standard_lots(structure))


def operation_costs(operations: OperationTable, starts: np.ndarray, lot: np.ndarray) -> OperationCosts:
    """Rules C3 and C4 for one lot.

    Args:
        starts: over operations, S_k for one good unit.
        lot: over operations, the lot of the part each belongs to.
    """
    o = operations
    started = lot * starts
    outside = ~np.isnan(o.outside_price)
    pace = o.efficiency_percent / 100.0
    cycles = np.ones(len(o))
    unit, cycle = o.run_basis == PER_UNIT, o.run_basis == PER_CYCLE
    cycles[unit] = started[unit]
    cycles[cycle] = round_up(started[cycle] / o.cycle_quantity[cycle])
    setup_hours = np.where(outside, 0.0, o.setup_minutes / 60.0 / pace)
    run_hours = np.where(outside, 0.0, o.run_minutes / 60.0 / pace * cycles)
    setup = setup_hours * o.setup_crew * o.setup_labor_rate
    by_time = run_hours * o.crew * o.labor_rate
    labor = np.where(outside, 0.0, np.where(np.isnan(o.piece_rate), by_time, started * o.piece_rate))
    by_hour = {x.element: (setup_hours + run_hours) * o.by_hour(x) for x in HOURLY}
    by_hour["overhead"] = by_hour["overhead"] + (setup + labor) * o.overhead_percent_of_labor / 100.0
    return OperationCosts(
        started=started,
        cycles=cycles,
        setup_hours=setup_hours,
        run_hours=run_hours,
        setup=setup,
        labor=labor,
        subcontract=np.where(outside, np.maximum(started * o.outside_price, o.outside_minimum), 0.0),
        **by_hour,
    )


def _own_costs(structure: Structure, lots: np.ndarray, in_proportion: np.ndarray | None = None) -> tuple[np.ndarray, OperationCosts]:
    """Shape (P, E): bought parts and charges (C1), given costs, and the operations of made parts (C3, C4), which come with it.

    ``in_proportion``: bool over parts, those whose given cost is split by their roll-up, so that it is left out here.
    """
    s, parts = structure, structure.parts
    own = np.zeros((len(parts), len(ELEMENTS)))
    price = np.nan_to_num(parts.unit_cost)
    paid_as = _PAID_AS[parts.kind]
    priced, burdened = np.flatnonzero(HAS_PRICE[parts.kind]), BEARS_OVERHEAD[parts.kind]
    own[priced, paid_as[priced]] = price[priced]
    own[burdened, AT["overhead"]] = price[burdened] * parts.overhead_percent[burdened] / 100.0
    made_by = s.operations.parent
    work = operation_costs(s.operations, s.starts, lots[made_by])
    if len(s.operations):
        for name, amount in work.amounts().items():
            if amount.any():
                per_lot = np.bincount(made_by, weights=amount, minlength=len(parts))
                rows = np.flatnonzero(per_lot != 0.0)
                own[rows, AT[name]] += per_lot[rows] / lots[rows]
    given = np.flatnonzero(~np.isnan(parts.given_cost) if in_proportion is None else ~np.isnan(parts.given_cost) & ~in_proportion)
    own[given] = 0.0
    own[given, paid_as[given]] = parts.given_cost[given]
    return own, work


def rolls(structure: Structure, fixed: Fixed | None = None) -> np.ndarray:
    """Bool over parts: those whose cost comes from their sheet, not from a price, a given cost or a standard."""
    parts = structure.parts
    found = np.isnan(parts.given_cost) & ~HAS_PRICE[parts.kind]
    if fixed is not None:
        found[fixed.rows] = False
    return found


def splits_given(structure: Structure, fixed: Fixed | None = None) -> np.ndarray:
    """Bool over parts: those whose cost given by hand stands in the proportion of their roll-up (C1)."""
    parts = structure.parts
    found = ~np.isnan(parts.given_cost) & ~HAS_PRICE[parts.kind] & (parts.given_as == IN_PROPORTION)
    if fixed is not None:
        found[fixed.rows] = False
    return found


def _markup(structure: Structure, fixed: Fixed | None) -> np.ndarray:
    """Over parts: the share that is added by hand to a roll-up (C1); none on a given cost or a standard."""
    share = np.where(np.isnan(structure.parts.given_cost), structure.parts.markup_percent / 100.0, 0.0)
    if fixed is not None:
        share[fixed.rows] = 0.0
    return share


def unit_totals(structure: Structure, lots: np.ndarray, fixed: Fixed | None = None) -> np.ndarray:
    """The unit cost of every part without its elements: what :func:`roll_up` gives, summed, in a third of the time.

    A total needs no split between what goes in and what is lost: every line adds G · |v|, a by-product takes R · |v|.
    """
    s = structure
    own = _own_costs(s, lots)[0].sum(axis=1)
    if fixed is not None:
        own[fixed.rows] = fixed.unit.sum(axis=1)
    gross = np.where(~s.free & rolls(s, fixed)[s.parent], s.gross(lots), 0.0)
    gross[s.byproduct] *= -1.0
    at, column = s.place[s.parent], s.place[s.child]
    share = _markup(s, fixed)[s.order]
    total = own[s.order]
    for a, b in zip(s.level_start[-2::-1], s.level_start[:0:-1], strict=True):
        first, last = s.usage_start[a], s.usage_start[b]
        if first != last:
            weights = gross[first:last] * total[column[first:last]]
            total[a:b] += np.bincount(at[first:last] - a, weights=weights, minlength=b - a)
        total[a:b] *= 1.0 + share[a:b]
    return total[s.place]


def roll_up(structure: Structure, lots: np.ndarray, fixed: Fixed | None = None) -> Costs:
    """Rules C1 to C4 for every part of the structure, each made part in the lot given for it.

    Args:
        lots: over parts, in the part's unit.
        fixed: parts that stand at their standard instead of being rolled up.

    All elements travel up together: one sparse product per level, deepest first.
    """
    s = structure
    count = len(s.parts)
    split = splits_given(s, fixed)
    own, work = _own_costs(s, lots, split)
    if fixed is not None:
        own[fixed.rows] = fixed.unit

    counts = ~s.free & (rolls(s, fixed) | split)[s.parent]
    net, gross = s.net(lots), s.gross(lots)
    net[~counts | s.byproduct] = gross[~counts] = 0.0
    # Of each usage what stands in an element of its own: what is wasted, or given back.
    aside = gross - net
    aside[s.byproduct] *= -1.0
    some_aside = [(AT[name], np.flatnonzero((aside != 0.0) & of)) for name, of in (("scrap", ~s.byproduct), ("byproduct", s.byproduct))]

    # In level order, so that each level is a run of rows and everything below it a run of columns.
    column = s.place[s.child]
    this_level = own.take(s.order, axis=0)
    lower = np.zeros((count, len(ELEMENTS)))
    unit = this_level.copy()
    total = np.zeros(count)
    usage_start = s.usage_start
    share = _markup(s, fixed)[s.order]
    some_markup = bool(share.any())
    some_split = np.flatnonzero(split[s.order])
    for a, b in zip(s.level_start[-2::-1], s.level_start[:0:-1], strict=True):
        first, last = usage_start[a], usage_start[b]
        if first != last:
            taken = csr_array((net[first:last], column[first:last], usage_start[a : b + 1] - first), shape=(b - a, count))
            lower[a:b] = taken @ unit
            for element, rows in some_aside:
                here = rows[np.searchsorted(rows, first) : np.searchsorted(rows, last)]
                if here.size:
                    worth = aside[here] * total[column[here]]
                    this_level[a:b, element] += np.bincount(s.place[s.parent[here]] - a, weights=worth, minlength=b - a)
            unit[a:b] = this_level[a:b] + lower[a:b]
        total[a:b] = unit[a:b].sum(axis=1)
        if some_markup:
            added = total[a:b] * share[a:b]
            this_level[a:b, AT["other"]] += added
            unit[a:b, AT["other"]] += added
            total[a:b] += added
        here = some_split[np.searchsorted(some_split, a) : np.searchsorted(some_split, b)]
        if here.size:
            given, rolled = s.parts.given_cost[s.order[here]], total[here]
            # Where nothing is rolled up there is no proportion: it stands in one element.
            factor = np.where(rolled > 0.0, given / np.where(rolled > 0.0, rolled, 1.0), 0.0)
            for column_of in (this_level, lower, unit):
                column_of[here] *= factor[:, None]
            alone = np.where(rolled > 0.0, 0.0, given)
            this_level[here, AT["material"]] += alone
            unit[here, AT["material"]] += alone
            total[here] = given
    this_level, lower, unit = (x.take(s.place, axis=0) for x in (this_level, lower, unit))
    costs = Costs(this_level=this_level, lower_levels=lower, unit=unit, lots=lots, work=work)
    if fixed is not None:
        costs.this_level[fixed.rows] = fixed.this_level
        costs.lower_levels[fixed.rows] = fixed.unit - fixed.this_level
    return costs
