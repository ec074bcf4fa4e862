"""The working of a figure: the arithmetic that made it, down to the inputs, built when asked for.

A working is made from the inputs by plain arithmetic on single numbers, by another way than the roll-up over
columns, so that the two check one another.
"""

from collections.abc import Callable

import numpy as np

from ..basics.elements import AT, ELEMENTS
from ..basics.kinds import BEARS_OVERHEAD, HAS_PRICE, IN_PROPORTION, IS_ITSELF, PART_KIND, PART_KINDS
from ..basics.units import SYMBOLS
from .other_charges import other_charges
from .working_basics import Figure, Working, constant, made
from .working_of_work import WorkWorkings

__all__ = ["FIGURES", "Workings"]


class Workings(WorkWorkings):
    """Opens figures of one structure under one set of lots."""

    def open(self, figure: Figure) -> Working:
        """The working of a figure, its operands closed where they are figures of their own.

        Raises KeyError for a name that is not in :data:`FIGURES`, and for a line that does not count.
        """
        name, *rows = figure
        return FIGURES[name](self, *rows)

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
        if not np.isnan(parts.given_cost[part]) or HAS_PRICE[parts.kind[part]]:
            return made(label, unit, "sum", list(self._stated(part).values()))
        return self._from_sheet(part, label)

    def _from_sheet(self, part: int, label: str) -> Working:
        """What its lines and operations bring, whether or not something stands in its place."""
        parts = self.s.parts
        operands = [self._line(int(self.s.line[u])) for u in range(*self.s.usages_of(part).indices(len(self.s.line)))]
        operands += [self._work(o) for o in range(*self.s.operations_of(part).indices(len(self.s.operations)))]
        note = "no build sheet in force" if np.isnan(parts.batch[part]) else ""
        return made(label, self._each(part), "sum", operands, note)

    def _splits(self, part: int) -> bool:
        """Whether a cost given by hand stands in the proportion of a roll-up; where nothing is rolled up there is none."""
        parts = self.s.parts
        if np.isnan(parts.given_cost[part]) or HAS_PRICE[parts.kind[part]] or parts.given_as[part] != IN_PROPORTION:
            return False
        return self._from_sheet(part, "").value > 0.0

    def _stated(self, part: int) -> dict[int, Working]:
        """By element, what a part costs that is not put together here: given by hand, or its price and the overhead on it."""
        parts, unit = self.s.parts, self._each(part)
        paid_as = AT[PART_KIND[PART_KINDS[parts.kind[part]]].priced_as or "material"]
        if not np.isnan(parts.given_cost[part]):
            return {paid_as: self._input("cost given by hand", parts.given_cost[part], unit, "part", part, "given_cost")}
        missing = bool(np.isnan(parts.unit_cost[part]))
        price = self._input(
            "unit cost",
            0.0 if missing else parts.unit_cost[part],
            unit,
            "part",
            part,
            "unit_cost",
            "no cost is entered; it counts as nothing" if missing else "",
        )
        share = parts.overhead_percent[part] / 100.0
        if not BEARS_OVERHEAD[parts.kind[part]] or share == 0:
            return {paid_as: price}
        percent = self._input("material overhead", share, "", "part", part, "overhead_percent")
        return {paid_as: price, AT["overhead"]: made("overhead", unit, "product", [price, percent])}

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
            ("line", line),
            label,
            self._line_value(usage),
            self._each(int(self.s.parent[usage])),
            "by-product, given back" if self.s.byproduct[usage] else "",
        )

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
            "quantity",
            s.quantity[usage],
            own,
            "line",
            line,
            "quantity",
            f"{s.lines.quantity[line]:g} {own}, less what an option removes" if taken else "",
        )
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
        fixed = self._input(
            "fixed loss per lot", s.lines.fixed_loss[line] * s.factor[usage], self._stock_unit(child), "line", line, "fixed_loss"
        )
        return made(label, unit, "sum", [grown, made("fixed loss", unit, "quotient", [fixed, self._lot(parent)])])

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
        return made(label, unit, "sum", [self._input("costing lot", parts.costing_lot[part], unit, "part", part, "costing_lot")])

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
                    asked.append(
                        made(
                            f"for {self._name(parent)}, item {self.s.lines.item[line]}",
                            unit,
                            "product",
                            [self._amount(line, "gross"), self._lot(parent)],
                        )
                    )
        return made(label, unit, "sum", asked)

    def element(self, part: int, element: int) -> Working:
        """One element of a part's unit cost, through all levels (C2)."""
        s, name, unit = self.s, ELEMENTS[element], self._each(part)
        label = f"{name} in one {self._name(part)}"
        parts = s.parts
        if self._standing[part]:
            value = self.costs.unit[part, element]
            return made(
                label,
                unit,
                "sum",
                [self._input(f"{name} in the standard cost", value, unit, "standard", part, "elements")] if value else [],
            )
        marked = []
        if element == AT["other"] and self._share(part):
            marked = [self._markup(part, self._rolled(part, f"unit cost of {self._name(part)} before the markup"))]
        splits = self._splits(part)
        if not splits and (not np.isnan(parts.given_cost[part]) or HAS_PRICE[parts.kind[part]]):
            # What such a part costs is stated: its price is one element, the overhead on it another.
            stated = [amount for at, amount in self._stated(part).items() if at == element]
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
                inside = self._closed(("element", child, element), f"{name} in one {self._name(child)}", below, self._each(child))
                operands.append(made(item, unit, "product", [self._amount(line, "net"), inside]))
            if element == AT["scrap"] and self._per_good_unit(usage, "gross") != self._per_good_unit(usage, "net"):
                operands.append(made(f"{item}, lost here", unit, "product", [self._wasted(line), self._unit_cost(child)]))
        for operation in range(*s.operations_of(part).indices(len(s.operations))):
            amount = self._work_parts(operation).get(element)
            if amount is not None:
                operands.append(made(s.operations.named(operation), unit, "quotient", [amount, self._lot(part)]))
        if not splits:
            return made(label, unit, "sum", operands)
        (given,) = self._stated(part).values()
        share = [given, self._from_sheet(part, f"roll-up of {self._name(part)}")]
        return made(
            label,
            unit,
            "product",
            [made(f"{name} in its roll-up", unit, "sum", operands), made("by hand over the roll-up", "", "quotient", share)],
        )

    def charges(self, part: int) -> Working:
        """The element *other* of a part's unit cost, told by the charge or markup that it comes from, whatever the level."""
        taken, each = other_charges(self.s, self.costs, part, self.fixed)
        amounts = taken * each
        operands = []
        for p in sorted(np.flatnonzero(amounts).tolist(), key=lambda p: (-amounts[p], self._name(p))):
            value, unit = float(each[p]), self._each(p)
            marked = float(self._share(p)) != 0.0 and not HAS_PRICE[self.s.parts.kind[p]]
            if marked:
                own = self._markup(p, self._rolled(p, f"unit cost of {self._name(p)} before the markup"))
            else:
                own = self._closed(("element", p, AT["other"]), f"other in one {self._name(p)}", value, unit)
            count = constant(f"of it in one {self._name(part)}", float(taken[p]), self._stock_unit(p))
            operands.append(made(self._name(p), self._each(part), "product", [count, own]))
        return made(f"other charges in one {self._name(part)}, all levels", self._each(part), "sum", operands)


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
    "charges": Workings.charges,
}
