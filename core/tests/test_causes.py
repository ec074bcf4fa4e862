"""Rule D1: causes of generated pairs of costings, and against the variances of a textbook."""

import copy
import random
import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal as D

import numpy as np
from tally_core.basics.facts import facts_of
from tally_core.basics.kinds import BOUGHT
from tally_core.basics.rounding import millionths
from tally_core.cost.answers import Basis, ask
from tally_core.cost.causes import CAUSES, Costing, causes
from tally_core.cost.cost import Fixed, roll_up, standard_lots
from tally_core.stated.bundle import read_bundle
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet, Subcontract, WorkCenter
from tally_core.structure.structure import build_structure
from tally_core.structure.tables import columns_of
from tally_core.structure.tabulate import tabulate

from .generate import DAY, FAMILIES, bundle

TODAY = date.fromisoformat(DAY)


def costing(document: dict, options: list[str]) -> Costing:
    parts, lines, operations, rows, codes = tabulate(read_bundle(document), TODAY)
    structure = build_structure(parts, lines, operations, TODAY, [codes[o] for o in options if o in codes])
    # Parts are known to both sides by their number.
    return Costing(structure, standard_lots(structure), np.array([int(number[1:]) for number in rows]))


def times(value: str, r: random.Random) -> str:
    return f"{D(value) * D(r.randint(50, 150)) / 100:.6f}"


def change(document: dict, cause: str, r: random.Random) -> None:
    """Change inputs of one cause only, all over a bundle."""
    for part in document["parts"]:
        if cause == "price" and r.random() < 0.5:
            part |= {n: times(part[n], r) for n in ("unit_cost", "given_cost", "markup_percent") if n in part}
        if cause == "lot" and part["kind"] == "made":
            part["costing_lot"] = str(r.choice([3, 7, 40]))
    for center in document["work_centers"] if cause == "rate" else ():
        center |= {"labor_rate": times(center["labor_rate"], r), "machine_rate": times(center["machine_rate"], r)}
    for sheet in document["build_sheets"]:
        # Where an option takes a line away whole, more of it would leave a line that was not there.
        takes_away = any(line.get("option_action") == "remove" for line in sheet["lines"])
        for line in sheet["lines"] if cause == "usage" else ():
            if not takes_away and "quantity" in line and r.random() < 0.5:
                line["quantity"] = f"{D(line['quantity']) * D(r.randint(100, 150)) / 100:.6f}"
            if "scrap_percent" in line:
                line["scrap_percent"] = times(line["scrap_percent"], r)
        for operation in sheet["operations"]:
            if cause == "time" and "run_minutes" in operation:
                operation |= {n: times(operation[n], r) for n in ("run_minutes", "setup_minutes")}
            if cause == "price" and "subcontract" in operation:
                operation["subcontract"]["unit_price"] = times(operation["subcontract"]["unit_price"], r)
        last = document["parts"][-1]
        # A second line with the same part would be matched by the order of the list: usage.
        if cause == "structure" and all(line.get("part") != last["number"] for line in sheet["lines"]):
            sheet["lines"].insert(
                0,
                {
                    "item": 5,
                    "kind": "component",
                    "part": last["number"],
                    "quantity": "0.25",
                    "unit": FAMILIES[last["unit"]][0],
                    "quantity_basis": "per_unit",
                },
            )


class Causes(unittest.TestCase):
    def added_up(self, old: Costing, new: Costing) -> tuple[np.ndarray, np.ndarray]:
        """Causes and difference in millionths; they must agree to the last one."""
        found, before, after = causes(old, new)
        np.testing.assert_allclose(before, old.totals(), rtol=1e-12)
        np.testing.assert_array_equal(after, new.totals())
        whole = np.rint(after * 1e6) - np.rint(before * 1e6)
        rounded, total = millionths(found, whole / 1e6)
        self.assertTrue((rounded.sum(axis=1) == whole).all())
        self.assertTrue((total == whole).all())
        return rounded, whole

    def test_one_cause_changed_is_the_only_cause_found(self) -> None:
        moved = dict.fromkeys(CAUSES, 0)
        for seed in range(40):
            document, _, options = bundle(seed)
            old = costing(document, options)
            self.assertFalse(self.added_up(old, costing(copy.deepcopy(document), options))[0].any())
            for index, cause in enumerate(CAUSES):
                other = copy.deepcopy(document)
                change(other, cause, random.Random(seed))
                rounded, whole = self.added_up(old, costing(other, options))
                self.assertFalse(np.delete(rounded, index, axis=1).any(), (seed, cause))
                moved[cause] += int((whole != 0).sum())
        for cause, parts in moved.items():
            self.assertGreater(parts, 20, cause)

    def test_all_causes_at_once_add_up_and_untouched_parts_have_none(self) -> None:
        for seed in range(40):
            document, _, options = bundle(seed)
            other = copy.deepcopy(document)
            r = random.Random(seed)
            for cause in r.sample(CAUSES, 4):
                change(other, cause, r)
            old, new = costing(document, options), costing(other, options)
            rounded, whole = self.added_up(old, new)
            # What is bought moves by its own price or not at all.
            ours, theirs = old.structure.parts, new.structure.parts
            still = ours.kind == BOUGHT
            for name in ("unit_cost", "given_cost", "markup_percent", "overhead_percent"):
                still &= np.equal(np.nan_to_num(getattr(ours, name)), np.nan_to_num(getattr(theirs, name)))
            self.assertFalse(rounded[still].any(), seed)
            # Taken the other way round, the causes add up to the opposite.
            _, back = self.added_up(new, old)
            np.testing.assert_array_equal(back, -whole)

    def test_every_input_belongs_to_the_cause_that_is_declared_of_it(self) -> None:
        """Whatever column moves a cost must say which cause it is: one that is forgotten would be called structure."""
        declared = {
            facts.column or name: facts.cause
            for record in (Part, Sheet, Line, Operation, Subcontract, WorkCenter)
            for name, facts in facts_of(record).items()
            if facts.cause
        }
        moving: dict[str, set[str]] = {}
        for seed in range(12):
            document, _, options = bundle(seed)
            tables = tabulate(read_bundle(document), TODAY)
            chosen = [tables[4][o] for o in options if o in tables[4]]

            def made(parts, lines, operations, chosen=chosen) -> Costing:
                structure = build_structure(parts, lines, operations, TODAY, chosen)
                return Costing(structure, standard_lots(structure), np.arange(len(parts)))

            old = made(*tables[:3])
            for at, table in enumerate(tables[:3]):
                for name, column in columns_of(type(table)).items():
                    values = getattr(table, name)
                    if column.type != "float64" or (name == "quantity" and table.removes.any()):
                        continue
                    moved = list(tables[:3])
                    moved[at] = replace(table, **{name: np.where(values == 1.0, 2.0, values * 0.75)})
                    found = self.added_up(old, made(*moved))[0]
                    moving.setdefault(f"{at} {name}", set()).update(CAUSES[i] for i in np.flatnonzero(found.any(axis=0)))
        for place, causes_found in moving.items():
            name = place.split()[1]
            self.assertEqual(causes_found, {declared.get(name, "one that is declared")}, name)

    def test_a_part_only_one_side_knows(self) -> None:
        document, _, options = bundle(3)
        new = costing(document, options)
        for sheet in document["build_sheets"]:
            sheet["lines"] = [x for x in sheet["lines"] if x.get("part") != "P13"]
        document["parts"] = document["parts"][:-1]
        old = costing(document, options)
        found, before, _ = causes(old, new)
        self.assertTrue(np.isnan(found[-1]).all() and np.isnan(before[-1]))
        np.testing.assert_allclose(found[:-1].sum(axis=1), (new.totals() - np.append(old.totals(), 0))[:-1], atol=1e-9)

    def test_a_component_that_stands_at_its_standard_counts_as_a_price(self) -> None:
        document, _, options = bundle(5)
        old = costing(document, options)
        vectors = roll_up(old.structure, old.lots).unit
        rows = np.flatnonzero(vectors.sum(axis=1) > 0)[3:5]
        new = costing(document, options)
        new.fixed = Fixed(rows, vectors[rows] * 1.25, vectors[rows])
        rounded, whole = self.added_up(old, new)
        self.assertTrue(whole[rows].all())
        self.assertFalse(rounded[:, 1:].any())

    def test_the_variances_of_the_jackets(self) -> None:
        """C. Horngren et al., Cost Accounting, chapter 7 (from memory): output 10,000 jackets. From what was spent to what
        is standard, the causes per jacket are the variances of the book: of material 44,400 for the price and -66,000 for
        the usage, of labor -18,000 for the rate and -20,000 for the time."""

        def jackets(yards: str, price: str, hours: str, rate: str) -> Costing:
            definition = Definition(
                parts=[Part("CLOTH", unit="m", unit_cost=D(price)), Part("JACKET", kind="made")],
                work_centers=[WorkCenter("SEW", labor_rate=D(rate))],
                sheets=[
                    Sheet(
                        "JACKET",
                        status="released",
                        lines=[Line(part="CLOTH", quantity=D(yards))],
                        operations=[Operation(work_center="SEW", run_minutes=D(hours) * 60)],
                    )
                ],
            )
            question = ask(definition, "JACKET", Basis(TODAY))
            return Costing(question.structure, standard_lots(question.structure), np.arange(2))

        found, *_ = causes(jackets("2.22", "28", "0.9", "22"), jackets("2.00", "30", "0.8", "20"))
        np.testing.assert_allclose(found[1] * 10_000, [44_400, -66_000, -18_000, -20_000, 0, 0], atol=1e-6)
