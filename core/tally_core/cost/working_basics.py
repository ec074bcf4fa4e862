"""What a working is, and what every working is made with."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from ..basics.rounding import round_up
from ..basics.units import SYMBOLS
from ..structure.needs import Needs
from ..structure.structure import Structure
from .cost import Costs, Fixed

__all__ = ["OPERATORS", "Basics", "Figure", "Working", "constant", "made"]

#: A figure is (name, row) or, for an element of a part's cost, (name, row, element).
Figure = tuple

OPERATORS: dict[str, Callable[[list[float]], float]] = {
    "sum": sum,
    "product": math.prod,
    "quotient": lambda v: v[0] / v[1],
    "difference": lambda v: v[0] - v[1],
    "larger of": max,
    "rounded up": lambda v: round_up(v[0]).item(),
}


@dataclass(slots=True)
class Working:
    """A figure and what it was made of.

    ``operator`` is a key of OPERATORS, or ``input`` for what somebody stated, or ``figure`` for one that opens by
    asking :meth:`Workings.open` for ``figure``. ``source`` says where an input stands: (table, row, field).
    """

    label: str
    value: float
    unit: str
    operator: str
    operands: list["Working"] = field(default_factory=list)
    figure: Figure | None = None
    source: tuple[str, int, str] | None = None
    note: str = ""


def made(label: str, unit: str, operator: str, operands: list[Working], note: str = "") -> Working:
    return Working(label, OPERATORS[operator]([o.value for o in operands]), unit, operator, operands, note=note)


def constant(label: str, value: float, unit: str = "", note: str = "") -> Working:
    return Working(label, value, unit, "input", note=note)


class Basics:
    """What every working of one structure under one set of lots is made with.

    Args:
        needs: those of the job whose lots the costs were made with; None for standard lots.
        currency: the unit of every cost.
        fixed: the parts that stand at their standard, as the costs were made with them.
    """

    def __init__(
        self, structure: Structure, costs: Costs, needs: Needs | None, currency: str, top: int, fixed: Fixed | None = None
    ) -> None:
        self.s, self.costs, self.needs, self.currency, self.top = structure, costs, needs, currency, top
        self.fixed = fixed
        self._standing = np.zeros(len(structure.parts), dtype=bool)
        if fixed is not None:
            self._standing[fixed.rows] = True
        self._usage = np.full(len(structure.lines), -1, dtype=np.int64)
        self._usage[structure.line] = np.arange(len(structure.line))

    def _closed(self, figure: Figure, label: str, value: float, unit: str, note: str = "") -> Working:
        return Working(label, float(value), unit, "figure", figure=figure, note=note)

    def _input(self, label: str, value: float, unit: str, table: str, row: int, name: str, note: str = "") -> Working:
        return Working(label, float(value), unit, "input", source=(table, row, name), note=note)

    def _name(self, part: int) -> str:
        return self.s.parts.numbers[part]

    def _stock_unit(self, part: int) -> str:
        return SYMBOLS[self.s.parts.unit[part]]

    def _each(self, part: int) -> str:
        return f"{self.currency} per {self._stock_unit(part)}"

    def _at(self, line: int) -> int:
        usage = int(self._usage[line])
        if usage < 0:
            raise KeyError(f"item {self.s.lines.item[line]} does not count under this basis")
        return usage

    def _unit_cost(self, part: int) -> Working:
        return self._closed(("unit", part), f"unit cost of {self._name(part)}", self.costs.unit[part].sum(), self._each(part))

    def _lot(self, part: int) -> Working:
        return self._closed(("lot", part), f"lot of {self._name(part)}", self.costs.lots[part], self._stock_unit(part))

    def _per_good_unit(self, usage: int, which: str) -> float:
        lot = self.costs.lots[self.s.parent[usage]]
        per_unit, per_lot = getattr(self.s, f"{which}_per_unit"), getattr(self.s, f"{which}_per_lot")
        return float(per_unit[usage] + per_lot[usage] / lot)

    def _amount(self, line: int, which: str) -> Working:
        usage = self._at(line)
        parent, child = int(self.s.parent[usage]), int(self.s.child[usage])
        label = {"net": "net quantity", "gross": "quantity with losses"}[which]
        if self.s.byproduct[usage]:
            label = "quantity returned"
        unit = f"{self._stock_unit(child)} per {self._stock_unit(parent)}"
        return self._closed((which, line), label, self._per_good_unit(usage, which), unit)

    def _wasted(self, line: int) -> Working:
        child = int(self.s.child[self._at(line)])
        return made("lost", self._stock_unit(child), "difference", [self._amount(line, "gross"), self._amount(line, "net")])
