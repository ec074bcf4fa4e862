"""Rule D2 against differences of the exact arithmetic over the bundle's own JSON, and lots against plain costing."""

import copy
import random
import unittest
from collections.abc import Iterator
from datetime import date
from fractions import Fraction as F

import numpy as np
from tally_core.cost.answers import Basis, ask, tally
from tally_core.cost.lot_curve import cheaper_from, cost_at, lots_to_show
from tally_core.cost.sensitivity import sensitivities
from tally_core.cost.working_of_moves import MovesWorkings
from tally_core.stated.bundle import read_bundle

from .exact import Exact
from .generate import DAY, bundle

TODAY = date.fromisoformat(DAY)
STEP = F(1, 10**7)
_OF_CENTER = ("labor_rate", "setup_labor_rate", "machine_rate", "overhead_per_hour", "overhead_percent_of_labor", "efficiency_percent")
_OF_OPERATION = ("setup_minutes", "run_minutes", "crew", "setup_crew", "piece_rate", "yield_percent")
_OF_PART = ("unit_cost", "given_cost", "markup_percent", "overhead_percent", "costing_lot")


def inputs(document: dict, job: bool) -> Iterator[tuple[dict, str, str, tuple]]:
    """Every stated number of a bundle: its record, its field, and where the core keeps it (table, field, place)."""
    for part in document["parts"]:
        for name in _OF_PART if not job else _OF_PART[:-1]:
            if name in part:
                yield part, name, "part", (name, part["number"])
    for sheet in document["build_sheets"]:
        if "batch" in sheet:
            yield sheet, "batch", "sheet", ("batch", sheet["part"])
        for line in sheet["lines"]:
            if line.get("option_action") == "remove" or line["kind"] == "text":
                continue
            # Where an option takes a line away whole, a little less of it would be more than is there.
            takes_away = any(x.get("option_action") == "remove" and x["part"] == line["part"] for x in sheet["lines"] if "part" in x)
            for name in ("quantity", "scrap_percent", "yield_percent", "fixed_loss"):
                if name in line and not (takes_away and name == "quantity"):
                    yield line, name, "line", (name, sheet["part"], line["item"])
        for operation in sheet["operations"]:
            for name in _OF_OPERATION:
                if name in operation:
                    yield operation, name, "operation", (name, sheet["part"], operation["sequence"])
            for nth, resource in enumerate(operation.get("resources", ()), 1):
                for name in _OF_OPERATION:
                    if name in resource:
                        yield resource, name, "operation", (name, sheet["part"], operation["sequence"], nth)
            if "subcontract" in operation:
                yield (operation["subcontract"], "unit_price", "operation", ("outside_price", sheet["part"], operation["sequence"]))
                yield (operation["subcontract"], "minimum_charge", "operation", ("outside_minimum", sheet["part"], operation["sequence"]))
    for center in document["work_centers"]:
        for name in _OF_CENTER:
            if name in center:
                yield center, name, "work_center", (name, center["code"])


class AgainstDifferences(unittest.TestCase):
    def compare(self, seed: int, quantity: int | None) -> tuple[int, int]:
        document, top, options = bundle(seed)
        for center in document["work_centers"]:
            # Rates that change on a day are inputs of that day; here those a work center begins with are asked for.
            center["rates"] = []
        for part in document["parts"]:
            part.pop("prices", None)
        question = ask(read_bundle(document), top, Basis(TODAY, quantity, tuple(options)))  # type: ignore[arg-type]
        costs, needs = tally(question)
        s = question.structure
        found = sensitivities(s, costs, question.top, needs).tables
        numbers = list(s.parts.numbers)

        def ours(table: str, place: tuple) -> float:
            name, *where = place
            if table in ("part", "sheet"):
                return found[table][name][numbers.index(where[0])]
            if table == "line":
                at = (s.lines.parent == numbers.index(where[0])) & (s.lines.item == where[1])
            elif table == "operation":
                o, nth = s.operations, where[2] if len(where) > 2 else 0
                at = (o.parent == numbers.index(where[0])) & (o.sequence == where[1]) & (o.resource == nth)
            else:
                o = s.operations
                at = np.array([centers[k] == where[0] for k in zip(o.parent, o.sequence, o.resource, strict=True)])
                table = "operation"
                if name == "labor_rate" and where[0] in shared:
                    return found[table][name][at].sum() + found[table]["setup_labor_rate"][at].sum()
            return found[table][name][at].sum()

        centers = {
            (numbers.index(sheet["part"]), o["sequence"], nth): x.get("work_center")
            for sheet in document["build_sheets"]
            for o in sheet["operations"]
            for nth, x in enumerate((o, *o.get("resources", ())))
        }
        shared = {c["code"] for c in document["work_centers"] if "setup_labor_rate" not in c}
        asked = F(quantity) if quantity else None
        compared = steps = 0
        listed = list(inputs(document, quantity is not None))
        for record, name, table, place in random.Random(seed).sample(listed, min(45, len(listed))):
            kept, totals = record[name], []
            for move in (-STEP, F(0), STEP):
                record[name] = str(F(kept) * (1 + move))
                totals.append(Exact(document, top, DAY, options, asked).total(top))
            record[name] = kept
            down, up = (totals[1] - totals[0]) / STEP / 100, (totals[2] - totals[1]) / STEP / 100
            if abs(up - down) > F(1, 10**4) * (abs(up) + abs(down)):
                steps += 1
                continue
            wanted = float((up + down) / 2)
            self.assertLessEqual(
                abs(ours(table, place) - wanted), 1e-6 * max(abs(wanted), 1e-3 * float(abs(totals[1]))), (seed, table, place)
            )
            compared += 1
        return compared, steps

    def test_standard_lots(self) -> None:
        told = [self.compare(seed, None) for seed in range(16)]
        self.assertGreater(sum(n for n, _ in told), 500)
        self.assertLess(sum(n for _, n in told), 10)

    def test_a_job_whose_lots_follow_its_quantities(self) -> None:
        told = [self.compare(seed, 37) for seed in range(16)]
        self.assertGreater(sum(n for n, _ in told), 450)
        # A need that is whole by itself, a vessel that is just full: there a step lies, and no derivative.
        self.assertLess(sum(n for _, n in told), 60)


class Opened(unittest.TestCase):
    def test_every_sensitivity_opens_into_a_working_of_the_same_value(self) -> None:
        """By another way: single numbers that are multiplied and added, not a sweep over columns."""
        opened, kinds = 0, set()
        for seed in range(24):
            for quantity in (None, 37):
                document, top, options = bundle(seed)
                question = ask(read_bundle(document), top, Basis(TODAY, quantity, tuple(options)))  # type: ignore[arg-type]
                costs, needs = tally(question)
                w = MovesWorkings(question.structure, costs, needs, "EUR", question.top)
                swept = sensitivities(question.structure, costs, question.top, needs)
                for table, fields in swept.tables.items():
                    for name, column in fields.items():
                        for row in np.flatnonzero(column).tolist():
                            working = w.open(("moves", table, name, row))
                            self.assertAlmostEqual(
                                working.value, column[row], delta=1e-9 * max(1, abs(column[row])), msg=str((seed, quantity, table, name))
                            )
                            follows = any("sweep" in o.note for o in working.operands[1].operands)
                            self.assertFalse(follows and quantity is None)
                            opened += 1
                            kinds.add((table, name))
                for part in np.flatnonzero(swept.use).tolist():
                    self.assertAlmostEqual(w.open(("use", part)).value, swept.use[part], places=9)
        self.assertGreater(opened, 1500)
        self.assertGreaterEqual(len(kinds), 24)

    def test_what_moves_nothing_opens_into_nothing(self) -> None:
        """Every other input that is stated and counts: of what is free, given by hand, done outside, beside an operation."""
        opened = 0
        for seed in range(24):
            for quantity in (None, 37):
                document, top, options = bundle(seed)
                question = ask(read_bundle(document), top, Basis(TODAY, quantity, tuple(options)))  # type: ignore[arg-type]
                costs, needs = tally(question)
                s = question.structure
                w = MovesWorkings(s, costs, needs, "EUR", question.top)
                for table, fields in sensitivities(s, costs, question.top, needs).tables.items():
                    for name, column in fields.items():
                        stated = np.ones(len(column), dtype=bool)
                        if table == "line":
                            stated = np.isin(np.arange(len(column)), s.line)
                        elif table == "part":
                            stated = ~np.isnan(getattr(s.parts, name, np.full(len(column), np.nan)))
                        for row in np.flatnonzero(stated & (column == 0)).tolist():
                            self.assertAlmostEqual(w.open(("moves", table, name, row)).value, 0, places=9, msg=str((seed, table, name)))
                            opened += 1
        self.assertGreater(opened, 5000)


class Lots(unittest.TestCase):
    def test_a_curve_is_what_plain_costing_gives_at_each_lot(self) -> None:
        for seed in range(12):
            document, top, options = bundle(seed)
            for quantity in (None, 37):
                question = ask(read_bundle(document), top, Basis(TODAY, quantity, tuple(options)))  # type: ignore[arg-type]
                at = cost_at(question)
                for lot in lots_to_show(20, True, 9):
                    other = copy.deepcopy(document)
                    other["parts"][0]["costing_lot"] = f"{lot:g}"
                    asked = None if quantity is None else F(int(lot))
                    wanted = Exact(other, top, DAY, options, asked).total(top)
                    self.assertAlmostEqual(at(float(lot)), float(wanted), delta=1e-9 * max(1, float(wanted)), msg=str(seed))

    def test_make_or_buy_crosses_where_fixed_cost_over_the_difference_says(self) -> None:
        """The break-even of any text on make or buy: set-up / (price - cost of a unit) = 90 / (5 - 2) = 30 (common practice);
        at 30 both cost the same, and making is cheaper from 31 on."""
        lots = lots_to_show(10, True)
        self.assertEqual(cheaper_from(lambda n: 2 + 90 / n, lambda n: 5.0, lots, True), [(31.0, True)])
        [(lot, ahead)] = cheaper_from(lambda n: 2 + 90 / n, lambda n: 5.0, lots, False)
        self.assertAlmostEqual(lot, 30.0, delta=1e-4)
        self.assertTrue(ahead)
