"""Rule W1: what an order is expected to take and to cost, fixed when it is released.

All amounts are exact: fractions of what the job costing said, so that nothing is lost between release and closing.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from ..basics.elements import ELEMENTS, HOURLY
from ..basics.kinds import PER_CYCLE, PER_UNIT, RUN_BASES

__all__ = ["Amounts", "ExpectedLine", "ExpectedOperation", "OrderPlan", "Rates", "added", "expected_cost"]

#: Currency by element; an element that is not there is nothing.
Amounts = Mapping[str, Fraction]
_NONE = Fraction(0)


@dataclass(frozen=True, slots=True)
class Rates:
    """What an hour costs at a work center on a day; currency per hour, ``piece`` per started unit where it is paid so.

    ``by_hour``: what hours cost beside labor, by element.
    """

    labor: Fraction = _NONE
    setup_labor: Fraction = _NONE
    by_hour: Amounts = field(default_factory=dict)
    overhead_percent: Fraction = _NONE
    piece: Fraction | None = None


@dataclass(frozen=True, slots=True)
class ExpectedOperation:
    """An operation, or what works beside one, at the pace of its work center.

    ``starts`` is S_k for one good unit (U1). Hours are those of rule C3, of one set-up and of one cycle. ``resource`` is 0 for the operation itself.
    """

    sequence: int
    resource: int = 0
    starts: Fraction = Fraction(1)
    setup_hours: Fraction = _NONE
    run_hours: Fraction = _NONE
    run_basis: str = "per_unit"
    cycle_quantity: Fraction | None = None
    setup_crew: Fraction = Fraction(1)
    crew: Fraction = Fraction(1)
    rates: Rates = Rates()
    outside_price: Fraction | None = None
    outside_minimum: Fraction = _NONE

    def hours(self, started: Fraction) -> tuple[Fraction, Fraction]:
        """Set-up and run hours for so many started units; none where none is started."""
        if started <= 0 or self.outside_price is not None:
            return _NONE, _NONE
        basis = RUN_BASES.index(self.run_basis)
        cycles = Fraction(1)
        if basis == PER_UNIT:
            cycles = started
        elif basis == PER_CYCLE and self.cycle_quantity:
            # Dust of a share that a yield left is no cycle of its own (N2).
            cycles = Fraction(-(-(started / self.cycle_quantity - Fraction(1, 10**9)) // 1))
        return self.setup_hours, self.run_hours * cycles

    def cost(self, started: Fraction) -> dict[str, Fraction]:
        """Rules C3 and C4 for so many started units."""
        if self.outside_price is not None:
            due = max(started * self.outside_price, self.outside_minimum) if started > 0 else _NONE
            return {"subcontract": due}
        return self.paid(*self.hours(started), started, self.rates)

    def paid(self, setup: Fraction, run: Fraction, started: Fraction, rates: Rates) -> dict[str, Fraction]:
        """What hours cost at some rates, by element (C3)."""
        setup_labor = setup * self.setup_crew * rates.setup_labor
        labor = run * self.crew * rates.labor if rates.piece is None else started * rates.piece
        amounts = {x.element: (setup + run) * rates.by_hour.get(x.element, _NONE) for x in HOURLY}
        amounts["overhead"] += (setup_labor + labor) * rates.overhead_percent / 100
        return {"setup": setup_labor, "labor": labor, **amounts}


@dataclass(frozen=True, slots=True)
class ExpectedLine:
    """What is taken of a part, in its stock unit; phantoms are blown through (U8), so that each line is a part itself.

    ``operation`` is the place, among the operations, at which it is issued. ``per_start``: for one unit started
    there, losses in it; ``net_per_unit``: what stays in a good unit. ``price``: of one, by element; nothing for what the customer supplies.
    """

    part: str
    operation: int
    per_start: Fraction = _NONE
    per_lot: Fraction = _NONE
    net_per_unit: Fraction = _NONE
    net_per_lot: Fraction = _NONE
    price: Amounts = field(default_factory=dict)
    byproduct: bool = False

    @property
    def unit_price(self) -> Fraction:
        """Currency for one, all elements together."""
        return sum(self.price.values(), _NONE)

    def gross(self, started: Fraction) -> Fraction:
        """What so many started units take (U3), or give back (U4)."""
        return self.per_start * started + self.per_lot if started > 0 else _NONE

    def net(self, good: Fraction) -> Fraction:
        """What stays in so many good units (U2)."""
        return self.net_per_unit * good + self.net_per_lot if good > 0 else _NONE

    def cost(self, taken: Fraction, good: Fraction, price: Amounts | None = None) -> dict[str, Fraction]:
        """Rule C2: what stays in good units as its own elements, the rest of what was taken as scrap."""
        each = self.price if price is None else price
        if self.byproduct:
            return {"byproduct": -taken * sum(each.values(), _NONE)}
        stays = min(self.net(good), taken)
        by_element = {name: stays * amount for name, amount in each.items()}
        return added(by_element, {"scrap": (taken - stays) * sum(each.values(), _NONE)})


@dataclass(frozen=True, slots=True)
class OrderPlan:
    """What a released order rests on: so many good units, its operations in their order, its lines."""

    quantity: Fraction
    operations: Sequence[ExpectedOperation]
    lines: Sequence[ExpectedLine]

    def started(self, good: Fraction) -> list[Fraction]:
        """What each operation starts to end with so many good units (U1)."""
        return [good * o.starts for o in self.operations]


def added(*amounts: Amounts) -> dict[str, Fraction]:
    """Amounts added element by element."""
    names = [name for name in ELEMENTS if any(name in a for a in amounts)]
    return {name: sum((a.get(name, _NONE) for a in amounts), _NONE) for name in names}


def expected_cost(plan: OrderPlan, good: Fraction, started: Sequence[Fraction] | None = None) -> dict[str, Fraction]:
    """What so many good units cost by the plan, by element: the job costing of this part's own sheet.

    Args:
        started: over operations; what they start by their yields when it is not given.
    """
    begun = plan.started(good) if started is None else started
    work = [o.cost(units) for o, units in zip(plan.operations, begun, strict=True)]
    taken = [line.cost(line.gross(begun[line.operation]), good) for line in plan.lines]
    return added(*work, *taken)
