"""The rules once more, in exact fractions and plain recursion over the bundle's own JSON: slow, and easy to read.

Shares no code with the package. Conversion factors are those of NIST SP 811 and NIST Handbook 44, written out here.
"""

from collections import defaultdict
from fractions import Fraction as F
from math import ceil

BASE = {
    "ea": ("n", F(1)),
    "dozen": ("n", F(12)),
    "pair": ("n", F(2)),
    "kg": ("m", F(1)),
    "g": ("m", F(1, 1000)),
    "lb": ("m", F("0.45359237")),
    "m": ("l", F(1)),
    "mm": ("l", F(1, 1000)),
    "in": ("l", F("0.0254")),
    "L": ("v", F(1)),
    "m2": ("a", F(1)),
    "mm2": ("a", F(1, 10**6)),
    "mL": ("v", F(1, 1000)),
    "gal": ("v", F("3.785411784")),
}
ELEMENTS = ["material", "scrap", "setup", "labor", "machine", "overhead", "subcontract", "other", "byproduct"]


class Exact:
    """Answers for one bundle under one basis; ``quantity`` None for standard lots."""

    def __init__(self, document: dict, top: str, day: str, options: list[str], quantity: F | None) -> None:
        self.parts = {}
        for part in document["parts"]:
            held = [c for c in part.get("prices", ()) if c["from"] <= day]
            now = {"unit_cost": max(held, key=lambda c: c["from"])["unit_cost"]} if held else {}
            self.parts[part["number"]] = part | now
        self.centers = {}
        for center in document["work_centers"]:
            now = dict(center)
            for change in sorted(center.get("rates", ()), key=lambda c: c["first_day"]):
                if change["first_day"] <= day:
                    now |= change
            self.centers[center["code"]] = now
        self.sheets = {s["part"]: s for s in document["build_sheets"]}
        self.day, self.options, self.top, self.quantity = day, options, top, quantity
        self.vectors: dict[str, tuple[dict, dict]] = {}
        self.lots: dict[str, F] = {}
        self.gross: dict[str, F] = defaultdict(F)
        self.returns: dict[str, F] = defaultdict(F)
        if quantity is not None:
            self._requirements()

    def lines(self, part: str) -> list[dict]:
        """The lines that count, options applied (U5, U6, U7)."""
        found = []
        for line in self.sheets.get(part, {"lines": []})["lines"]:
            out = line.get("kind") == "text" or "quantity" not in line or line.get("not_fitted")
            early = line.get("effective_from", "0") > self.day or line.get("effective_to", "9") <= self.day
            if not out and not early and line.get("option", self.options[0] if self.options else None) in [*self.options, None]:
                found.append(dict(line, q=F(line["quantity"])))
        keep = [x for x in found if x.get("option_action", "add") == "add"]
        for taker in (x for x in found if x.get("option_action", "add") == "remove"):
            left = taker["q"] * BASE[taker["unit"]][1]
            for line in keep:
                if all(line.get(k) == taker.get(k) for k in ("part", "kind", "quantity_basis")):
                    size = BASE[line["unit"]][1]
                    taken = min(left, line["q"] * size)
                    line["q"] -= taken / size
                    left -= taken
                    line["touched"] = True
            assert left <= 0, "generated options never remove too much"
        return [x for x in keep if x["q"] > 0 or not x.get("touched")]

    def operations(self, part: str) -> list[dict]:
        return sorted(self.sheets.get(part, {}).get("operations", []), key=lambda o: o["sequence"])

    def started(self, part: str, lot: F, sequence: int | None) -> F:
        """U1."""
        operations = self.operations(part)
        if not operations:
            return lot
        if sequence is None:
            sequence = operations[0]["sequence"]
        for o in operations:
            if o["sequence"] >= sequence:
                lot = lot / (F(o["yield_percent"]) / 100)
        return lot

    def usage(self, part: str, line: dict, lot: F) -> tuple[F, F]:
        """Net and gross of a line for a lot (U2 to U4), in the component's stock unit."""
        c = BASE[line["unit"]][1] / BASE[self.parts[line["part"]]["unit"]][1]
        batch = F(self.sheets[part].get("batch", "1"))
        if line["quantity_basis"] == "per_lot":
            net = gross = line["q"] * c
        else:
            net = line["q"] / batch * c * lot
            gross = line["q"] / batch * c * self.started(part, lot, line.get("issue_at"))
        if line["kind"] == "byproduct":
            return F(0), gross
        if "yield_percent" in line:
            gross /= F(line["yield_percent"]) / 100
        else:
            gross *= 1 + F(line.get("scrap_percent", "0")) / 100
        return net, gross + F(line.get("fixed_loss", "0")) * c

    def average(self, number: str, other: str) -> F:
        """How much of another part stands in one of a part, lots as they are, with all losses."""
        return F(number == other) + sum(
            (
                self.usage(number, line, self.lot(number))[1] / self.lot(number) * self.average(line["part"], other)
                for line in self.lines(number)
                if line["kind"] != "byproduct" and not line.get("customer_supplied")
            ),
            F(0),
        )

    def field(self, number: str, how: str, stated: dict[str, F]) -> tuple[F | None, bool]:
        """C6: a field for one unit of a part, and whether something that goes in says nothing."""
        if number in stated:
            return stated[number], False
        lot = self.lot(number)
        below = []
        for line in self.lines(number):
            net = self.usage(number, line, lot)[0] / lot
            if line["kind"] != "byproduct" and net > 0 and self.parts[line["part"]]["kind"] != "charge":
                below.append((net, *self.field(line["part"], how, stated)))
        known = [(net, value) for net, value, _ in below if value is not None]
        lacking = not below or any(partial for *_, partial in below)
        if not known:
            return None, lacking
        if how == "sum":
            return sum((net * value for net, value in known), F(0)), lacking
        return max(value for _, value in known), lacking

    def _requirements(self) -> None:
        """N1 to N3, by taking each part once nothing more can ask for it."""
        assert self.quantity is not None
        self.gross[self.top] = self.quantity
        below: list[str] = []
        seen: set[str] = set()

        def go_down(number: str) -> None:
            if number not in seen:
                seen.add(number)
                for line in self.lines(number):
                    go_down(line["part"])
                below.append(number)

        for number in self.parts:
            go_down(number)
        for number in reversed(below):
            part, need = self.parts[number], self.gross[number]
            whole = part.get("whole_only", part["unit"] == "ea") and part["kind"] != "phantom"
            self.lots[number] = F(ceil(need)) if whole else need
            if self.lots[number] > 0:
                for line in self.lines(number):
                    _, gross = self.usage(number, line, self.lots[number])
                    (self.returns if line["kind"] == "byproduct" else self.gross)[line["part"]] += gross

    def shortages(self, quantity: F, free: dict[str, F]) -> dict[str, F]:
        """W7: what a job lacks, sub-assemblies taken from stock first; what the customer supplies is not looked for."""
        need: dict[str, F] = defaultdict(F, {self.top: quantity})
        lacks = {}
        order: list[str] = []

        def go_down(number: str) -> None:
            if number not in order:
                for line in self.lines(number):
                    go_down(line["part"])
                order.append(number)

        go_down(self.top)
        for number in reversed(order):
            part = self.parts[number]
            stocked = part["kind"] in ("made", "bought") and number != self.top
            left = max(F(0), need[number] - (free.get(number, F(0)) if stocked else 0))
            if part.get("whole_only", part["unit"] == "ea") and part["kind"] != "phantom":
                left = F(ceil(left))
            if number not in self.sheets:
                if left and part["kind"] != "charge":
                    lacks[number] = left
            elif left > 0:
                for line in self.lines(number):
                    if line["kind"] != "byproduct" and not line.get("customer_supplied"):
                        need[line["part"]] += self.usage(number, line, left)[1]
        return lacks

    def lot(self, number: str) -> F:
        """C5."""
        return self.lots.get(number) or F(str(self.parts[number].get("costing_lot", 1)))

    def vector(self, number: str) -> tuple[dict, dict]:
        """C1 to C4: this level and lower levels."""
        if number not in self.vectors:
            self.vectors[number] = self._vector(number)
        return self.vectors[number]

    def total(self, number: str) -> F:
        this, lower = self.vector(number)
        return sum(this.values()) + sum(lower.values())

    def _vector(self, number: str, given: bool = True) -> tuple[dict, dict]:
        part, this, lower = self.parts[number], defaultdict(F), defaultdict(F)
        price = F(part.get("unit_cost", "0"))
        if given and "given_cost" in part and part.get("given_as") == "proportion" and part["kind"] in ("made", "phantom"):
            rolled_this, rolled_lower = self._vector(number, given=False)
            rolled = sum(rolled_this.values()) + sum(rolled_lower.values())
            if rolled > 0:
                factor = F(part["given_cost"]) / rolled
                return (
                    defaultdict(F, {e: amount * factor for e, amount in rolled_this.items()}),
                    defaultdict(F, {e: amount * factor for e, amount in rolled_lower.items()}),
                )
        if given and "given_cost" in part:
            this["other" if part["kind"] == "charge" else "material"] = F(part["given_cost"])
        elif part["kind"] == "bought":
            this["material"], this["overhead"] = price, price * F(part.get("overhead_percent", "0")) / 100
        elif part["kind"] == "charge":
            this["other"] = price
        else:
            lot = self.lot(number)
            for line in self.lines(number):
                if line.get("customer_supplied"):
                    continue
                net, gross = self.usage(number, line, lot)
                if line["kind"] == "byproduct":
                    this["byproduct"] -= gross / lot * self.total(line["part"])
                    continue
                for vector in self.vector(line["part"]):
                    for element, amount in vector.items():
                        lower[element] += net / lot * amount
                this["scrap"] += (gross - net) / lot * self.total(line["part"])
            for o in self.operations(number):
                self._work(number, o, lot, this)
        if "given_cost" not in part:
            this["other"] += (sum(this.values()) + sum(lower.values())) * F(part.get("markup_percent", "0")) / 100
        return this, lower

    def _work(self, number: str, o: dict, lot: F, this: dict) -> None:
        """C3 and C4."""
        started = self.started(number, lot, o["sequence"])
        if "subcontract" in o:
            price, least = F(o["subcontract"]["unit_price"]), F(o["subcontract"]["minimum_charge"])
            this["subcontract"] += max(started * price, least) / lot
            return
        # What works beside an operation costs by the same rule: what it does not state is as if nobody had stated it.
        for beside in o.get("resources", ()):
            idle = {"setup_minutes": "0", "run_minutes": "0", "run_basis": "per_unit", "crew": "1", "setup_crew": "1"}
            also = {n: o[n] for n in ("sequence", "cycle_quantity") if n in o}
            self._work(number, idle | beside | also, lot, this)
        center = self.centers[o["work_center"]]
        pace = F(center["efficiency_percent"]) / 100
        times = {"per_unit": started, "per_lot": F(1)}.get(o["run_basis"])
        if times is None:
            times = F(ceil(started / F(o["cycle_quantity"])))
        hs, hr = F(o["setup_minutes"]) / 60 / pace, F(o["run_minutes"]) / 60 / pace * times
        setup = hs * F(o["setup_crew"]) * F(center.get("setup_labor_rate", center["labor_rate"]))
        labor = started * F(o["piece_rate"]) if "piece_rate" in o else hr * F(o["crew"]) * F(center["labor_rate"])
        this["setup"] += setup / lot
        this["labor"] += labor / lot
        this["machine"] += (hs + hr) * F(center["machine_rate"]) / lot
        this["overhead"] += (hs + hr) * F(center["overhead_per_hour"]) / lot
        this["overhead"] += (setup + labor) * F(center["overhead_percent_of_labor"]) / 100 / lot
