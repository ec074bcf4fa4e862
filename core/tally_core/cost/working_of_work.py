"""The working of what operations take and cost (U1, C3, C4)."""

import numpy as np

from ..basics.elements import AT, HOURLY, Hourly
from ..basics.kinds import PER_CYCLE, PER_LOT, PER_UNIT
from .working_basics import Basics, Working, constant, made

__all__ = ["WorkWorkings"]


class WorkWorkings(Basics):
    """Figures of operations."""

    def starts(self, operation: int) -> Working:
        """What an operation starts for one good unit (U1)."""
        o = self.s.operations
        operation = int(o.leads()[operation])
        last = self.s.operations_of(int(o.parent[operation])).stop
        yields = [
            self._input(f"yield of operation {o.sequence[k]}", o.yield_percent[k] / 100.0, "", "operation", k, "yield_percent")
            for k in range(operation, last)
            if o.resource[k] == 0
        ]
        passed = made("what passes to the end", "", "product", yields)
        return made(f"started at operation {o.sequence[operation]}", "per good unit", "quotient", [constant("one", 1.0), passed])

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
            priced = made(
                "by the unit", currency, "product", [self._started(operation), stated("price outside", "outside_price", f"{currency} each")]
            )
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
            full = made(
                "vessels filled",
                "cycles",
                "quotient",
                [self._started(operation), stated("one cycle holds", "cycle_quantity", self._stock_unit(part))],
            )
            cycles = made("cycles", "cycles", "rounded up", [full], "a part-full cycle takes as long as a full one")
            run_hours = made("run hours", "h", "product", [run, cycles])
        else:
            assert basis == PER_LOT
            run_hours = made("run hours, once per lot", "h", "product", [run])
        per_hour = f"{currency} per h"
        setup = made(
            "set-up",
            currency,
            "product",
            [
                setup_hours,
                stated("set-up crew", "setup_crew", ""),
                stated("set-up labor rate", "setup_labor_rate", per_hour, table="work_center"),
            ],
        )
        if np.isnan(o.piece_rate[operation]):
            labor = made(
                "labor",
                currency,
                "product",
                [run_hours, stated("crew", "crew", ""), stated("labor rate", "labor_rate", per_hour, table="work_center")],
            )
        else:
            labor = made(
                "labor, by the piece",
                currency,
                "product",
                [self._started(operation), stated("piece rate", "piece_rate", f"{currency} each")],
            )
        return {
            "setup_hours": setup_hours,
            "run_hours": run_hours,
            "setup": setup,
            "labor": labor,
            **{
                name: stated(name.replace("_", " "), name, unit.format(currency), table="work_center")
                for x in HOURLY
                for name, unit in x.factors.items()
            },
            "on_labor": stated("overhead on labor", "overhead_percent_of_labor", "", 0.01, "work_center"),
        }

    def _work_parts(self, operation: int) -> dict[int, Working]:
        """The amounts of an operation for the whole lot, by element (C3, C4)."""
        piece, currency = self._work_pieces(operation), self.currency
        if "subcontract" in piece:
            return {AT["subcontract"]: piece["subcontract"]}
        both = made("hours", "h", "sum", [piece["setup_hours"], piece["run_hours"]])
        work = made("set-up and labor", currency, "sum", [piece["setup"], piece["labor"]])
        by_hour = {x.element: self._by_hour(operation, x, both) for x in HOURLY}
        on_labor = made("on labor", currency, "product", [work, piece["on_labor"]])
        overhead = made("overhead", currency, "sum", [by_hour["overhead"], on_labor])
        found = {"setup": piece["setup"], "labor": piece["labor"], **by_hour, "overhead": overhead}
        return {AT[name]: amount for name, amount in found.items() if amount.value != 0.0}

    def _by_hour(self, operation: int, of: Hourly, hours: Working) -> Working:
        """One thing that hours of an operation cost beside labor (C3)."""
        piece = self._work_pieces(operation)
        return made(of.word, self.currency, "product", [hours, *(piece[name] for name in of.factors)])

    def _work(self, operation: int) -> Working:
        o = self.s.operations
        part = int(o.parent[operation])
        value = sum(w.value for w in self._work_parts(operation).values()) / self.costs.lots[part]
        return self._closed(("work", operation), o.named(operation), value, self._each(part))

    def work(self, operation: int) -> Working:
        """Cost of an operation in one good unit (C3, C4)."""
        part = int(self.s.operations.parent[operation])
        label = f"{self.s.operations.named(operation)} in one {self._name(part)}"
        whole = made("for the lot", self.currency, "sum", list(self._work_parts(operation).values()))
        return made(label, self._each(part), "quotient", [whole, self._lot(part)])
