"""From a job costing to what an order is held against (W1)."""

import math
from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from ..basics.elements import ELEMENTS, HOURLY
from ..basics.kinds import IS_ITSELF, RUN_BASES
from ..cost.cost import Costs
from ..structure.structure import Structure
from .expected import Amounts, ExpectedLine, ExpectedOperation, OrderPlan, Rates

__all__ = ["order_plan"]


def _exact(value: float) -> Fraction:
    # repr gives the shortest decimal that is this float: the number that somebody typed, where somebody typed it.
    return Fraction(repr(float(value)))


def order_plan(structure: Structure, top: int, costs: Costs, quantity: Fraction) -> tuple[OrderPlan, list[int], list[int]]:
    """What an order of the part in row ``top`` takes on its own sheet, components at their cost in this job.

    Returns the plan, the operation rows of the structure in its order, and the usage of each of its lines. A part without operations has one
    that takes no time, since somebody must report it. What was given by hand for the part,
    or for a phantom in it, is no cost of the shop and is left out; what the customer supplies is taken and costs nothing (U5).
    """
    s = structure
    at = s.operations_of(top)
    rows = list(range(at.start, at.stop))
    place = {row: i for i, row in enumerate(rows)}
    operations = [_operation(s, row) for row in rows] or [ExpectedOperation(0)]
    lines, usages = [], []
    for usage, operation, taken in _usages(s, top):
        where = place.get(operation, 0)
        starts = operations[where].starts
        price = {} if s.free[usage] else _amounts(costs.unit[s.child[usage]])
        gross, lot, stays, stays_lot = (_exact(x) for x in taken)
        number = s.parts.numbers[s.child[usage]]
        lines.append(ExpectedLine(number, where, gross / starts, lot, stays, stays_lot, price, bool(s.byproduct[usage])))
        usages.append(usage)
    return OrderPlan(quantity, operations, lines), rows, usages


def _amounts(row: np.ndarray) -> Amounts:
    return {name: _exact(value) for name, value in zip(ELEMENTS, row, strict=True) if value}


def _usages(s: Structure, top: int) -> Iterator[tuple[int, int, np.ndarray]]:
    """Each usage of a part itself, with the operation of the top it is issued at, and what is taken: gross for a good unit and for a lot, net
    for a good unit and for a lot.

    Phantoms are blown through (U8): what they take comes to the operation at which they are.
    """
    waiting = [(top, -1, np.array([1.0, 0.0, 1.0, 0.0]))]
    while waiting:
        part, operation, of = waiting.pop(0)
        for usage in range(*s.usages_of(part).indices(len(s.line))):
            line = s.lines.operation[s.line[usage]]
            where = operation if part != top else int(line if line >= 0 else s.first_operation[top])
            gross, net = s.gross_per_unit[usage], s.net_per_unit[usage]
            taken = of * np.array([gross, gross, net, net])
            if part == top:  # only the part itself has a lot
                taken += np.array([0.0, s.gross_per_lot[usage], 0.0, s.net_per_lot[usage]])
            if IS_ITSELF[s.parts.kind[s.child[usage]]]:
                yield usage, where, taken
            else:
                waiting.append((int(s.child[usage]), where, taken))


def _operation(s: Structure, row: int) -> ExpectedOperation:
    o = s.operations
    pace = float(o.efficiency_percent[row]) / 100.0
    outside = float(o.outside_price[row])
    cycle, piece = float(o.cycle_quantity[row]), float(o.piece_rate[row])
    rates = Rates(
        _exact(o.labor_rate[row]),
        _exact(o.setup_labor_rate[row]),
        {x.element: math.prod((_exact(getattr(o, name)[row]) for name in x.factors), start=Fraction(1)) for x in HOURLY},
        _exact(o.overhead_percent_of_labor[row]),
        None if np.isnan(piece) else _exact(piece),
    )
    return ExpectedOperation(
        sequence=int(o.sequence[row]),
        resource=int(o.resource[row]),
        starts=_exact(s.starts[row]),
        setup_hours=_exact(o.setup_minutes[row] / 60.0 / pace),
        run_hours=_exact(o.run_minutes[row] / 60.0 / pace),
        run_basis=RUN_BASES[o.run_basis[row]],
        cycle_quantity=None if np.isnan(cycle) else _exact(cycle),
        setup_crew=_exact(o.setup_crew[row]),
        crew=_exact(o.crew[row]),
        rates=rates,
        outside_price=None if np.isnan(outside) else _exact(outside),
        outside_minimum=_exact(o.outside_minimum[row]),
    )
