"""The working of a figure: the arithmetic that made it, down to the inputs, built when asked for.

A working is made from the inputs by plain arithmetic on single numbers, by another way than the roll-up over
columns, so that the two check one another.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from .cost import Costs, Fixed
from .elements import AT, ELEMENTS
from .kinds import BEARS_OVERHEAD, HAS_PRICE, IS_ITSELF, PART_KIND, PART_KINDS, PER_CYCLE, PER_LOT, PER_UNIT
from .needs import Needs
from .rounding import round_up
from .structure import Structure
from .units import SYMBOLS

__all__ = ["FIGURES", "Figure", "Working", "Workings", "constant", "made"]

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


class Workings:
    """Opens figures of one structure under one set of lots.

    Args:
        needs: those of the job whose lots the costs were made with; None for standard lots.
        currency: the unit of every cost.
        fixed: the parts that stand at their standard, as the costs were made with them.
    """

    def __init__(
        self,
        structure: Structure,
        costs: Costs,
        needs: Needs | None,
        currency: str,
        top: int,
        fixed: Fixed | None = None,
    ) -> None:
        self.s, self.costs, self.needs, self.currency, self.top = structure, costs, needs, currency, top
        self.fixed = fixed
        self._standing = np.zeros(len(structure.parts), dtype=bool)
        if fixed is not None:
            self._standing[fixed.rows] = True
        self._usage = np.full(len(structure.lines), -1, dtype=np.int64)
        self._usage[structure.line] = np.arange(len(structure.line))

    def open(self, figure: Figure) -> Working:
        """The working of a figure, its operands closed where they are figures of their own.

        Raises KeyError for a name that is not in :data:`FIGURES`, and for a line that does not count.
        """
        name, *rows = figure
        return FIGURES[name](self, *rows)

    # -- small helpers

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
        return self._closed(
            ("unit", part), f"unit cost of {self._name(part)}", self.costs.unit[part].sum(), self._each(part)
        )

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
        return made(
            "lost", self._stock_unit(child), "difference", [self._amount(line, "gross"), self._amount(line, "net")]
        )

    # -- the figures

    def unit(self, part: int) -> Working:
        """Cost of one stock unit of a part (C1, C2, C5)."""
        label, unit = f"unit cost of {self._name(part)}", self._each(part)
        if self._standing[part]:
            return made(label, unit, "sum", [self._standard(part)])
        share = self._share(part)
        if share == 0.0:
            return self._rolled(part, label)
        rolled = self._rolled(part, f"{label} before the markup")
        return made(label, unit, "sum", [rolled, self._markup(part, rolled)])

    def _standard(self, part: int) -> Working:
        return self._input("standard cost", self.costs.unit[part].sum(), self._each(part), "standard", part, "unit")

    def _share(self, part: int) -> float:
        """The markup of a part as a share of its roll-up; none on a given cost or a standard."""
        parts = self.s.parts
        if self._standing[part] or not np.isnan(parts.given_cost[part]):
            return 0.0
        return float(parts.markup_percent[part]) / 100.0

    def _markup(self, part: int, rolled: Working) -> Working:
        share = self._input("markup given by hand", self._share(part), "", "part", part, "markup_percent")
        return made("markup", self._each(part), "product", [rolled, share])

    def _rolled(self, part: int, label: str) -> Working:
        """What a part costs before any markup."""
        parts, unit = self.s.parts, self._each(part)
        if not np.isnan(parts.given_cost[part]):
            return made(label, unit, "sum", [
                self._input("cost given by hand", parts.given_cost[part], unit, "part", part, "given_cost")
            ])  # fmt: skip
        if HAS_PRICE[parts.kind[part]]:
            missing = bool(np.isnan(parts.unit_cost[part]))
            price = self._input(
                "unit cost", 0.0 if missing else parts.unit_cost[part], unit, "part", part, "unit_cost",
                "no cost is entered; it counts as nothing" if missing else "",
            )  # fmt: skip
            share = parts.overhead_percent[part] / 100.0
            if not BEARS_OVERHEAD[parts.kind[part]] or share == 0:
                return made(label, unit, "sum", [price])
            percent = self._input("material overhead", share, "", "part", part, "overhead_percent")
            return made(label, unit, "sum", [price, made("overhead", unit, "product", [price, percent])])
        operands = [self._line(int(self.s.line[u])) for u in range(*self.s.usages_of(part).indices(len(self.s.line)))]
        operands += [self._work(o) for o in range(*self.s.operations_of(part).indices(len(self.s.operations)))]
        note = "no build sheet in force" if np.isnan(parts.batch[part]) else ""
        return made(label, unit, "sum", operands, note)

    def _line_value(self, usage: int) -> float:
        if self.s.free[usage]:
            return 0.0
        sign = -1.0 if self.s.byproduct[usage] else 1.0
        return sign * self._per_good_unit(usage, "gross") * float(self.costs.unit[self.s.child[usage]].sum())

    def _line(self, line: int) -> Working:
        usage = self._at(line)
        item = int(self.s.lines.item[line])
        label = f"{item or ''} {self._name(int(self.s.child[usage]))}".strip()
        return self._closed(
            ("line", line), label, self._line_value(usage), self._each(int(self.s.parent[usage])),
            "by-product, given back" if self.s.byproduct[usage] else "",
        )  # fmt: skip

    def line(self, line: int) -> Working:
        """What a line adds to one unit of its sheet's part: N · v, and (G − N) · |v| as scrap (C2)."""
        usage = self._at(line)
        child, unit = int(self.s.child[usage]), self._each(int(self.s.parent[usage]))
        label = f"{self._name(child)} in one {self._name(int(self.s.parent[usage]))}"
        if self.s.free[usage]:
            free = self._input("customer-supplied", 0.0, unit, "line", line, "customer_supplied", "costs nothing")
            return made(label, unit, "sum", [free])
        cost = self._unit_cost(child)
        if self.s.byproduct[usage]:
            back = [constant("given back", -1.0), self._amount(line, "gross"), cost]
            return made(label, unit, "product", back)
        net = made("what goes in", unit, "product", [self._amount(line, "net"), cost])
        if self._per_good_unit(usage, "gross") == self._per_good_unit(usage, "net"):
            return made(label, unit, "sum", [net])
        return made(label, unit, "sum", [net, made("scrap", unit, "product", [self._wasted(line), cost])])

    def net(self, line: int) -> Working:
        """Net quantity for one good unit (U2), in the component's stock unit."""
        s, usage = self.s, self._at(line)
        parent, child = int(s.parent[usage]), int(s.child[usage])
        own, stock = SYMBOLS[s.lines.unit[line]], self._stock_unit(child)
        taken = s.quantity[usage] != s.lines.quantity[line]
        amount = self._input(
            "quantity", s.quantity[usage], own, "line", line, "quantity",
            f"{s.lines.quantity[line]:g} {own}, less what an option removes" if taken else "",
        )  # fmt: skip
        if s.factor[usage] != 1.0:
            converted = constant(f"{stock} in one {own}", float(s.factor[usage]), f"{stock} per {own}")
            amount = made("quantity in stock units", stock, "product", [amount, converted])
        unit = f"{stock} per {self._stock_unit(parent)}"
        if s.lines.per_lot[line]:
            return made("net quantity, once per lot", unit, "quotient", [amount, self._lot(parent)])
        batch = self._input("for a batch of", s.parts.batch[parent], self._stock_unit(parent), "sheet", parent, "batch")
        if s.parts.batch[parent] == 1.0:
            return made("net quantity", unit, "product", [amount])
        return made("net quantity", unit, "quotient", [amount, batch])

    def gross(self, line: int) -> Working:
        """Quantity with losses for one good unit (U3), or what a by-product returns (U4)."""
        s, usage = self.s, self._at(line)
        parent, child = int(s.parent[usage]), int(s.child[usage])
        unit = f"{self._stock_unit(child)} per {self._stock_unit(parent)}"
        back = bool(s.byproduct[usage])
        base = self.net(line) if back else self._amount(line, "net")
        factors = [base]
        at = int(s.lines.operation[line])
        at = at if at >= 0 else int(s.first_operation[parent])
        if at >= 0 and not s.lines.per_lot[line] and s.starts[at] != 1.0:
            name = f"started at operation {s.operations.sequence[at]}"
            factors.append(self._closed(("starts", at), name, s.starts[at], "per good unit"))
        scrap, passed = s.lines.scrap_percent[line], s.lines.yield_percent[line]
        if not back and not np.isnan(passed):
            percent = self._input("yield of the line", passed / 100.0, "", "line", line, "yield_percent")
            factors.append(made("for its yield", "", "quotient", [constant("one", 1.0), percent]))
        elif not back and scrap > 0:
            percent = self._input("scrap of the line", scrap / 100.0, "", "line", line, "scrap_percent")
            factors.append(made("for its scrap", "", "sum", [constant("one", 1.0), percent]))
        label = "quantity returned" if back else "quantity with losses"
        grown = made(label, unit, "product", factors)
        if back or s.lines.fixed_loss[line] == 0:
            return grown
        fixed = self._input("fixed loss per lot", s.lines.fixed_loss[line] * s.factor[usage], self._stock_unit(child),
                            "line", line, "fixed_loss")  # fmt: skip
        return made(label, unit, "sum", [grown, made("fixed loss", unit, "quotient", [fixed, self._lot(parent)])])

    def starts(self, operation: int) -> Working:
        """What an operation starts for one good unit (U1)."""
        o = self.s.operations
        last = self.s.operations_of(int(o.parent[operation])).stop
        yields = [
            self._input(
                f"yield of operation {o.sequence[k]}", o.yield_percent[k] / 100.0, "", "operation", k, "yield_percent"
            )
            for k in range(operation, last)
        ]
        passed = made("what passes to the end", "", "product", yields)
        return made(
            f"started at operation {o.sequence[operation]}",
            "per good unit",
            "quotient",
            [constant("one", 1.0), passed],
        )

    def _started(self, operation: int) -> Working:
        part = int(self.s.operations.parent[operation])
        lot = self._lot(part)
        if self.s.starts[operation] == 1.0:
            return made("units started", self._stock_unit(part), "product", [lot])
        starts = self._closed(("starts", operation), "started per good unit", self.s.starts[operation], "per good unit")
        return made("units started", self._stock_unit(part), "product", [lot, starts])

    def _work_pieces(self, operation: int) -> dict[str, Working]:
        """What an operation takes and costs for the whole lot, by name (C3, C4); "subcontract" alone when done outside."""
        o, currency = self.s.operations, self.currency
        part = int(o.parent[operation])

        def stated(label: str, name: str, unit: str, scale: float = 1.0, table: str = "operation") -> Working:
            return self._input(label, getattr(o, name)[operation] * scale, unit, table, operation, name)

        if not np.isnan(o.outside_price[operation]):
            priced = made("by the unit", currency, "product",
                           [self._started(operation), stated("price outside", "outside_price", f"{currency} each")])  # fmt: skip
            least = stated("minimum charge", "outside_minimum", currency)
            return {"subcontract": made("subcontract", currency, "larger of", [priced, least])}

        pace = stated("efficiency", "efficiency_percent", "", 0.01, "work_center")
        sixty = constant("minutes in an hour", 60.0, "min per h")

        def hours(label: str, minutes: Working) -> Working:
            clock = made(label, "h", "quotient", [minutes, sixty])
            return clock if pace.value == 1.0 else made(label, "h", "quotient", [clock, pace])

        setup_hours = hours("set-up hours", stated("set-up", "setup_minutes", "min"))
        run = hours("hours per unit", stated("run", "run_minutes", "min"))
        basis = o.run_basis[operation]
        if basis == PER_UNIT:
            run_hours = made("run hours", "h", "product", [run, self._started(operation)])
        elif basis == PER_CYCLE:
            full = made("vessels filled", "cycles", "quotient",
                         [self._started(operation), stated("one cycle holds", "cycle_quantity", self._stock_unit(part))])  # fmt: skip
            cycles = made("cycles", "cycles", "rounded up", [full], "a part-full cycle takes as long as a full one")
            run_hours = made("run hours", "h", "product", [run, cycles])
        else:
            assert basis == PER_LOT
            run_hours = made("run hours, once per lot", "h", "product", [run])
        per_hour = f"{currency} per h"
        setup = made("set-up", currency, "product", [
            setup_hours, stated("set-up crew", "setup_crew", ""),
            stated("set-up labor rate", "setup_labor_rate", per_hour, table="work_center"),
        ])  # fmt: skip
        if np.isnan(o.piece_rate[operation]):
            labor = made("labor", currency, "product", [
                run_hours, stated("crew", "crew", ""), stated("labor rate", "labor_rate", per_hour, table="work_center"),
            ])  # fmt: skip
        else:
            labor = made("labor, by the piece", currency, "product",
                          [self._started(operation), stated("piece rate", "piece_rate", f"{currency} each")])  # fmt: skip
        return {
            "setup_hours": setup_hours,
            "run_hours": run_hours,
            "setup": setup,
            "labor": labor,
            "machine_rate": stated("machine rate", "machine_rate", per_hour, table="work_center"),
            "overhead_per_hour": stated("overhead per hour", "overhead_per_hour", per_hour, table="work_center"),
            "on_labor": stated("overhead on labor", "overhead_percent_of_labor", "", 0.01, "work_center"),
        }

    def _work_parts(self, operation: int) -> dict[int, Working]:
        """The amounts of an operation for the whole lot, by element (C3, C4)."""
        piece, currency = self._work_pieces(operation), self.currency
        if "subcontract" in piece:
            return {AT["subcontract"]: piece["subcontract"]}
        both = made("hours", "h", "sum", [piece["setup_hours"], piece["run_hours"]])
        work = made("set-up and labor", currency, "sum", [piece["setup"], piece["labor"]])
        found = {
            "setup": piece["setup"],
            "labor": piece["labor"],
            "machine": made("machine", currency, "product", [both, piece["machine_rate"]]),
            "overhead": made("overhead", currency, "sum", [
                made("by the hour", currency, "product", [both, piece["overhead_per_hour"]]),
                made("on labor", currency, "product", [work, piece["on_labor"]]),
            ]),
        }  # fmt: skip
        return {AT[name]: amount for name, amount in found.items() if amount.value != 0.0}

    def _work(self, operation: int) -> Working:
        o = self.s.operations
        part = int(o.parent[operation])
        value = sum(w.value for w in self._work_parts(operation).values()) / self.costs.lots[part]
        return self._closed(("work", operation), f"operation {o.sequence[operation]}", value, self._each(part))

    def work(self, operation: int) -> Working:
        """Cost of an operation in one good unit (C3, C4)."""
        part = int(self.s.operations.parent[operation])
        label = f"operation {self.s.operations.sequence[operation]} in one {self._name(part)}"
        whole = made("for the lot", self.currency, "sum", list(self._work_parts(operation).values()))
        return made(label, self._each(part), "quotient", [whole, self._lot(part)])

    def lot(self, part: int) -> Working:
        """The lot a part is made in (C5, N1, N2)."""
        parts, label, unit = self.s.parts, f"lot of {self._name(part)}", self._stock_unit(part)
        if self.needs is not None and self.needs.lot[part] > 0:
            need = self._closed(("need", part), f"need of {self._name(part)}", self.needs.gross[part], unit)
            if parts.whole_only[part] and IS_ITSELF[parts.kind[part]]:
                return made(label, unit, "rounded up", [need], "counted in whole units, rounded once")
            return made(label, unit, "sum", [need])
        if np.isnan(parts.costing_lot[part]):
            return made(label, unit, "sum", [constant("one", 1.0, unit, "no costing lot is set")])
        return made(label, unit, "sum",
                     [self._input("costing lot", parts.costing_lot[part], unit, "part", part, "costing_lot")])  # fmt: skip

    def need(self, part: int) -> Working:
        """What the job takes of a part (N1). Raises KeyError without a job."""
        if self.needs is None:
            raise KeyError("standard lots have no needs")
        label, unit, asked = f"need of {self._name(part)}", self._stock_unit(part), []
        if part == self.top:
            asked.append(constant("quantity of the job", float(self.needs.gross[part]), unit))
        else:
            for usage in np.flatnonzero((self.s.child == part) & ~self.s.byproduct):
                parent, line = int(self.s.parent[usage]), int(self.s.line[usage])
                if self.needs.lot[parent] > 0:
                    asked.append(made(f"for {self._name(parent)}, item {self.s.lines.item[line]}", unit, "product",
                                       [self._amount(line, "gross"), self._lot(parent)]))  # fmt: skip
        return made(label, unit, "sum", asked)

    def element(self, part: int, element: int) -> Working:
        """One element of a part's unit cost, through all levels (C2)."""
        s, name, unit = self.s, ELEMENTS[element], self._each(part)
        label = f"{name} in one {self._name(part)}"
        parts = s.parts
        if self._standing[part]:
            value = self.costs.unit[part, element]
            return made(label, unit, "sum", [
                self._input(f"{name} in the standard cost", value, unit, "standard", part, "elements")
            ] if value else [])  # fmt: skip
        marked = []
        if element == AT["other"] and self._share(part):
            marked = [self._markup(part, self._rolled(part, f"unit cost of {self._name(part)} before the markup"))]
        if not np.isnan(parts.given_cost[part]) or HAS_PRICE[parts.kind[part]]:
            # What such a part costs is stated: its price is one element, the overhead on it another.
            at = AT[PART_KIND[PART_KINDS[parts.kind[part]]].priced_as or "material"]
            stated = [
                o
                for o in self._rolled(part, label).operands
                if element == (AT["overhead"] if o.label == "overhead" else at)
            ]
            return made(label, unit, "sum", [*stated, *marked])
        operands: list[Working] = marked
        for usage in range(*s.usages_of(part).indices(len(s.line))):
            if s.free[usage]:
                continue
            line, child = int(s.line[usage]), int(s.child[usage])
            item = f"{s.lines.item[line] or ''} {self._name(child)}".strip()
            if s.byproduct[usage]:
                if name == "byproduct":
                    operands.append(self._line(line))
                continue
            below = float(self.costs.unit[child, element])
            if below != 0.0:
                inside = self._closed(
                    ("element", child, element), f"{name} in one {self._name(child)}", below, self._each(child)
                )
                operands.append(made(item, unit, "product", [self._amount(line, "net"), inside]))
            if element == AT["scrap"] and self._per_good_unit(usage, "gross") != self._per_good_unit(usage, "net"):
                operands.append(
                    made(f"{item}, lost here", unit, "product", [self._wasted(line), self._unit_cost(child)])
                )
        for operation in range(*s.operations_of(part).indices(len(s.operations))):
            amount = self._work_parts(operation).get(element)
            if amount is not None:
                operands.append(
                    made(f"operation {s.operations.sequence[operation]}", unit, "quotient", [amount, self._lot(part)])
                )
        return made(label, unit, "sum", operands)


#: The figures that open, by name.
FIGURES: dict[str, Callable[..., Working]] = {
    "unit": Workings.unit,
    "line": Workings.line,
    "net": Workings.net,
    "gross": Workings.gross,
    "starts": Workings.starts,
    "work": Workings.work,
    "lot": Workings.lot,
    "need": Workings.need,
    "element": Workings.element,
}
