"""Measured times: the run time of an operation as the mean of the last orders that finished it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from ..basics.kinds import PER_CYCLE, PER_LOT, RUN_BASES

__all__ = ["Measured", "measured_run"]


@dataclass(frozen=True, slots=True)
class Measured:
    """Run minutes per unit, cycle or lot, as the operation counts them, at 100 % efficiency.

    ``run_minutes`` counts every order once; ``by_quantity`` all units alike, so that a large order weighs more. ``spread`` is the
    standard deviation of the orders (n − 1), None for a single one; ``each`` the value of every order.
    """

    run_minutes: float
    by_quantity: float
    spread: float | None
    each: tuple[float, ...]


def measured_run(
    orders: Sequence[tuple[float, float]], run_basis: str, cycle_quantity: float | None, efficiency_percent: float
) -> Measured:
    """The means of some orders: each counted once, whatever its size, and by what was done.

    Args:
        orders: minutes the shop took for the run of an order, over all stations, and the units it started.
        efficiency_percent: of the work center. What the shop reports is at its own pace, and a run time is stated at
            100 % (rule C3), so that set-up and run of a plan come out as they were measured.

    Raises ValueError for no orders.

    >>> measured_run([(100.0, 50.0), (66.0, 30.0)], "per_unit", None, 90.0).run_minutes
    1.89
    >>> measured_run([(100.0, 50.0), (66.0, 30.0)], "per_unit", None, 90.0).by_quantity
    1.8675
    """
    if not orders:
        raise ValueError("no finished orders")
    basis = RUN_BASES.index(run_basis)

    def times(quantity: float) -> float:
        if basis == PER_CYCLE and cycle_quantity:
            return max(1, math.ceil(quantity / cycle_quantity - 1e-9))
        return 1.0 if basis == PER_LOT else quantity

    each = tuple(round(minutes / times(quantity) * efficiency_percent / 100.0, 9) for minutes, quantity in orders)
    by_quantity = fmean(each, weights=[times(quantity) for _, quantity in orders])
    return Measured(round(fmean(each), 9), round(by_quantity, 9), stdev(each) if len(each) > 1 else None, each)
