"""The working of a sensitivity (D2): what 1 % of an input moves, from single numbers, beside the sweep over columns."""

from collections.abc import Callable, Sequence

import numpy as np

from ..basics.elements import HOURLY
from ..basics.kinds import HAS_PRICE, PER_UNIT
from .sensitivity import Sensitivities, sensitivities
from .working import FIGURES, Workings
from .working_basics import Figure, Working, constant, made

__all__ = ["ALL_FIGURES", "MovesWorkings"]


class MovesWorkings(Workings):
    """Opens, beside all other figures, ``("use", part)``: how much of a part's cost stands in one of the part asked about,
    and ``("moves", table, field, row, ...)``: what 1 % more of an input moves. Several rows are those of a work center."""

    _swept: Sensitivities | None = None

    def open(self, figure: Figure) -> Working:
        name, *rows = figure
        return ALL_FIGURES[name](self, *rows)

    def _sweep(self) -> Sensitivities:
        if self._swept is None:
            self._swept = sensitivities(self.s, self.costs, self.top, self.needs, self.fixed)
        return self._swept

    def use(self, part: int) -> Working:
        """How much of a part one of the part asked about pays for, all ways together."""
        label, unit = f"{self._name(part)} in one {self._name(self.top)}", self._per_top(part)
        if part == self.top:
            return made(label, unit, "sum", [constant("itself", 1.0)])
        operands = []
        for usage in np.flatnonzero((self.s.child == part) & ~self.s.free).tolist():
            parent, line = int(self.s.parent[usage]), int(self.s.line[usage])
            if not self._is_rolled(parent) or self._sweep().use[parent] == 0.0:
                continue
            factors = [self._amount(line, "gross"), *self._own(parent)]
            if self.s.byproduct[usage]:
                factors.insert(0, constant("given back", -1.0))
            operands.append(made(f"in {self._name(parent)}, item {self.s.lines.item[line]}", unit, "product", factors))
        return made(label, unit, "sum", operands)

    def moves(self, table: str, field: str, *rows: int) -> Working:
        """What 1 % more of an input moves. Raises KeyError for an input that is not there."""
        find = _FOUND.get((table, field)) or (_of_operation if table == "operation" else None)
        if find is None:
            raise KeyError("There is no such input.")
        unit = self._each(self.top)
        direct = made("what hangs on it", unit, "sum", [w for row in rows for w in find(self, field, row)])
        swept = float(sum(self._sweep().tables[table][field][row] for row in rows)) / 0.01
        hangs = direct
        if self.needs is not None and abs(swept - direct.value) > 1e-9 * max(1.0, abs(swept)):
            follow = constant("through the lots that follow it", swept - direct.value, unit, "from the sweep over all levels")
            hangs = made("what hangs on it", unit, "sum", [direct, follow])
        return made("1 % more of it moves", unit, "product", [constant("one percent", 0.01), hangs])

    # -- small helpers

    def _per_top(self, part: int) -> str:
        return f"{self._stock_unit(part)} per {self._stock_unit(self.top)}"

    def _is_rolled(self, part: int) -> bool:
        parts = self.s.parts
        return not HAS_PRICE[parts.kind[part]] and bool(np.isnan(parts.given_cost[part])) and not self._standing[part]

    def _use(self, part: int) -> Working:
        label = f"{self._name(part)} in one {self._name(self.top)}"
        return self._closed(("use", part), label, self._sweep().use[part], self._per_top(part))

    def _own(self, part: int) -> list[Working]:
        """The factors by which what a part's own sheet costs reaches the part asked about."""
        share = self._share(part)
        if share == 0.0:
            return [self._use(part)]
        percent = self._input("markup given by hand", share, "", "part", part, "markup_percent")
        return [self._use(part), made("with its markup", "", "sum", [constant("one", 1.0), percent])]

    def _moved(self, label: str, part: int, factors: Sequence[Working], back: bool = False) -> Working:
        sign = [constant("the other way", -1.0)] if back else []
        return made(label, self._each(self.top), "product", [*sign, *self._own(part), *factors])

    def _fed(self, part: int, operation: int | None) -> list[tuple[int, Working]]:
        """Lines whose quantity grows with what is started (at an operation, or at all), with cost times that quantity."""
        found = []
        for usage in range(*self.s.usages_of(part).indices(len(self.s.line))):
            line = int(self.s.line[usage])
            at = int(self.s.lines.operation[line])
            at = at if at >= 0 else int(self.s.first_operation[part])
            if self.s.free[usage] or (operation is not None and at != operation) or not self.s.gross_per_unit[usage]:
                continue
            child = int(self.s.child[usage])
            per_unit = constant("quantity that grows with the lot", float(self.s.gross_per_unit[usage]), self._stock_unit(child))
            sign = [constant("given back", -1.0)] if self.s.byproduct[usage] else []
            found.append((line, made(self._name(child), self._each(part), "product", [*sign, per_unit, self._unit_cost(child)])))
        return found

    def _amounts(self, operation: int, labor: list[str], hours: list[str]) -> list[Working]:
        """Work paid by the hour or the piece with the overhead on it, and the hours of machines, for the whole lot."""
        piece = self._work_pieces(operation)
        found = [piece[name] for name in labor]
        unit = self.currency
        if found:
            found.append(made("overhead on it", unit, "product", [made("work", unit, "sum", list(found)), piece["on_labor"]]))
        if hours:
            spent = made("hours", "h", "sum", [piece[name] for name in hours])
            found += [self._by_hour(operation, x, spent) for x in HOURLY]
        return [w for w in found if w.value]

    def _spent(self, operation: int, amounts: list[Working], back: bool = False) -> list[Working]:
        """Amounts of a lot as they reach the part asked about."""
        part = int(self.s.operations.parent[operation])
        if not amounts or not self._is_rolled(part):
            return []
        each = made("for each unit", self._each(part), "quotient", [made("for the lot", self.currency, "sum", amounts), self._lot(part)])
        label = f"{self._name(part)}, {self.s.operations.named(operation)}"
        return [self._moved(label, part, [each], back)]

    def _growing(self, operation: int) -> list[Working]:
        """What of an operation grows with what it starts."""
        o = self.s.operations
        if not np.isnan(o.outside_price[operation]):
            return _by_outside(self, operation, True)
        by_piece, per_unit = not np.isnan(o.piece_rate[operation]), o.run_basis[operation] == PER_UNIT
        return self._amounts(operation, ["labor"] if by_piece or per_unit else [], ["run_hours"] if per_unit else [])

    def _lasting(self, operation: int) -> list[Working]:
        """What of an operation is spent once per lot."""
        o = self.s.operations
        if not np.isnan(o.outside_price[operation]):
            return _by_outside(self, operation, False)
        by_piece, per_unit = not np.isnan(o.piece_rate[operation]), o.run_basis[operation] == PER_UNIT
        return self._amounts(
            operation, ["setup", *([] if by_piece or per_unit else ["labor"])], ["setup_hours", *([] if per_unit else ["run_hours"])]
        )


def _by_outside(w: MovesWorkings, operation: int, by_unit: bool) -> list[Working]:
    whole = w._work_pieces(operation)["subcontract"]
    priced, least = whole.operands
    at = priced if priced.value >= least.value else least
    return [at] if (at is priced) == by_unit else []


def _of_operation(w: MovesWorkings, field: str, row: int) -> list[Working]:
    o = w.s.operations
    if not np.isnan(o.outside_price[row]) or field.startswith("outside"):
        if field not in ("outside_price", "outside_minimum") or np.isnan(o.outside_price[row]):
            return []
        return w._spent(row, _by_outside(w, row, field == "outside_price"))
    by_piece = not np.isnan(o.piece_rate[row])
    timed = [] if by_piece else ["labor"]
    piece = w._work_pieces(row)
    both = made("hours", "h", "sum", [piece["setup_hours"], piece["run_hours"]])
    work = made("set-up and labor", w.currency, "sum", [piece["setup"], piece["labor"]])
    by_hour = [x for x in HOURLY if field in x.factors]
    if by_hour:
        return w._spent(row, [w._by_hour(row, x, both) for x in by_hour])
    match field:
        case "setup_minutes":
            return w._spent(row, w._amounts(row, ["setup"], ["setup_hours"]))
        case "run_minutes":
            return w._spent(row, w._amounts(row, timed, ["run_hours"]))
        case "crew" | "labor_rate":
            return w._spent(row, w._amounts(row, timed, []))
        case "every_labor_rate":
            return w._spent(row, w._amounts(row, ["setup", *timed], []))
        case "setup_crew" | "setup_labor_rate":
            return w._spent(row, w._amounts(row, ["setup"], []))
        case "piece_rate":
            return w._spent(row, w._amounts(row, ["labor"], [])) if by_piece else []
        case "overhead_percent_of_labor":
            return w._spent(row, [made("on labor", w.currency, "product", [work, piece["on_labor"]])])
        case "efficiency_percent":
            return w._spent(row, w._amounts(row, ["setup", *timed], ["setup_hours", "run_hours"]), back=True)
    raise KeyError("There is no such input.")


def _price(w: MovesWorkings, field: str, row: int) -> list[Working]:
    if w._standing[row] or not np.isnan(w.s.parts.given_cost[row]):
        return []
    rolled = w._rolled(row, "its price")
    overhead = [o for o in rolled.operands if o.label == "overhead"]
    factor = rolled if field == "unit_cost" else made("overhead", w._each(row), "sum", overhead)
    return [w._moved(w._name(row), row, [factor])]


def _given(w: MovesWorkings, field: str, row: int) -> list[Working]:
    return [w._moved(w._name(row), row, [w._unit_cost(row)])]


def _marked(w: MovesWorkings, field: str, row: int) -> list[Working]:
    markup = w._markup(row, w._rolled(row, f"unit cost of {w._name(row)} before the markup"))
    return [made(w._name(row), w._each(w.top), "product", [w._use(row), markup])]


def _costing_lot(w: MovesWorkings, field: str, row: int) -> list[Working]:
    s, found = w.s, []
    for usage in range(*s.usages_of(row).indices(len(s.line))):
        if s.free[usage] or not s.gross_per_lot[usage] or not w._is_rolled(row):
            continue
        child = int(s.child[usage])
        once = constant("taken once per lot", float(s.gross_per_lot[usage]), w._stock_unit(child))
        each = made("for each unit", w._stock_unit(child), "quotient", [once, w._lot(row)])
        sign = [constant("given back", -1.0)] if s.byproduct[usage] else []
        found.append(w._moved(w._name(child), row, [*sign, each, w._unit_cost(child)], back=True))
    for operation in range(*s.operations_of(row).indices(len(s.operations))):
        found += w._spent(operation, w._lasting(operation), back=True)
    return found


def _yield(w: MovesWorkings, field: str, row: int) -> list[Working]:
    o, found = w.s.operations, []
    part = int(o.parent[row])
    if not w._is_rolled(part) or o.resource[row]:
        return []
    # It acts on its operation, on what works beside that, and on all before.
    own = w.s.operations_of(part)
    for operation in (k for k in range(own.start, own.stop) if o.sequence[k] <= o.sequence[row]):
        found += w._spent(operation, w._growing(operation), back=True)
        found += [w._moved("material started", part, [value], back=True) for _, value in w._fed(part, operation)]
    return found


def _batch(w: MovesWorkings, field: str, row: int) -> list[Working]:
    if not w._is_rolled(row):
        return []
    return [w._moved("material for the batch", row, [value], back=True) for _, value in w._fed(row, None)]


def _of_line(w: MovesWorkings, field: str, row: int) -> list[Working]:
    usage = w._at(row)
    s, parent, child = w.s, int(w.s.parent[usage]), int(w.s.child[usage])
    if s.free[usage] or not w._is_rolled(parent):
        return []
    back = bool(s.byproduct[usage])
    cost, unit = w._unit_cost(child), w._stock_unit(child)
    lost = 0.0 if back else float(s.lines.fixed_loss[row] * s.factor[usage])
    loss = made(
        "fixed loss for each unit",
        unit,
        "quotient",
        [w._input("fixed loss per lot", lost, unit, "line", row, "fixed_loss"), w._lot(parent)],
    )
    label = f"{w._name(child)} in {w._name(parent)}"
    if field == "fixed_loss":
        return [w._moved(label, parent, [loss, cost])] if lost else []
    taken = w._amount(row, "gross")
    if lost:
        taken = made("without the fixed loss", unit, "difference", [taken, loss])
    factors = [taken, cost]
    scrap, passed = s.lines.scrap_percent[row], s.lines.yield_percent[row]
    if field == "scrap_percent":
        if back or not scrap > 0 or not np.isnan(passed):
            return []
        share = w._input("scrap of the line", scrap / 100.0, "", "line", row, "scrap_percent")
        grown = made("with its scrap", "", "sum", [constant("one", 1.0), share])
        factors.append(made("scrap in what is taken", "", "quotient", [share, grown]))
    elif field == "yield_percent":
        if back or np.isnan(passed):
            return []
    elif s.quantity[usage] != s.lines.quantity[row]:
        stated = w._input("quantity on the line", s.lines.quantity[row], unit, "line", row, "quantity")
        left = constant("what options leave of it", float(s.quantity[usage]), unit)
        factors.append(made("stated for each that is left", "", "quotient", [stated, left]))
    return [w._moved(label, parent, factors, back=back != (field == "yield_percent"))]


_Find = Callable[[MovesWorkings, str, int], list[Working]]
_FOUND: dict[tuple[str, str], _Find] = {
    ("part", "unit_cost"): _price,
    ("part", "overhead_percent"): _price,
    ("part", "given_cost"): _given,
    ("part", "standard"): _given,
    ("part", "markup_percent"): _marked,
    ("part", "costing_lot"): _costing_lot,
    ("operation", "yield_percent"): _yield,
    ("sheet", "batch"): _batch,
    ("line", "quantity"): _of_line,
    ("line", "scrap_percent"): _of_line,
    ("line", "yield_percent"): _of_line,
    ("line", "fixed_loss"): _of_line,
}

#: All figures that open.
ALL_FIGURES: dict[str, Callable[..., Working]] = {**FIGURES, "use": MovesWorkings.use, "moves": MovesWorkings.moves}
