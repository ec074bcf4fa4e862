"""Definitions that say the same in two ways cost the same; changes whose effect is known have that effect."""

import copy
import unittest
from collections.abc import Callable
from datetime import date
from decimal import Decimal

import numpy as np
from tally_core.basics.elements import ELEMENTS
from tally_core.cost.answers import Basis, ask, cost_answer, needs_answer, tally
from tally_core.stated.bundle import read_bundle

from .generate import DAY, bundle

SEEDS = range(300, 360)


def figures(document: dict, top: str, options: list[str], quantity: int | None = 20) -> np.ndarray:
    """The nine elements of the top part."""
    basis = Basis(date.fromisoformat(DAY), None if quantity is None else Decimal(quantity), tuple(options))
    asked = ask(read_bundle(document), top, basis)
    return tally(asked)[0].unit[asked.top]


class Sameness(unittest.TestCase):
    def each(self, change: Callable[[dict], object], effect: Callable[[np.ndarray], np.ndarray] = lambda v: v) -> None:
        changed = 0
        for seed in SEEDS:
            document, top, options = bundle(seed)
            other = copy.deepcopy(document)
            change(other)
            changed += other != document
            for quantity in (None, 20):
                wanted = effect(figures(document, top, options, quantity))
                found = figures(other, top, options, quantity)
                np.testing.assert_allclose(found, wanted, rtol=1e-11, atol=1e-11 * np.abs(wanted).sum(), err_msg=f"seed {seed}")
        self.assertGreater(changed, len(SEEDS) // 3)

    def test_the_order_of_everything_is_of_no_account(self) -> None:
        """Parts, sheets and operations may stand in any order; lines too, but for what an option takes first."""

        def turn(document: dict) -> None:
            document["parts"].reverse()
            document["build_sheets"].reverse()
            for sheet in document["build_sheets"]:
                sheet["operations"].reverse()
                if not any(line.get("option_action") == "remove" for line in sheet["lines"]):
                    sheet["lines"].reverse()

        self.each(turn)

    def test_a_scrap_is_a_yield(self) -> None:
        """Rule U3: a scrap s is the same loss as a yield 1 / (1 + s)."""

        def turn(document: dict) -> None:
            for sheet in document["build_sheets"]:
                for line in sheet["lines"]:
                    if "scrap_percent" in line:
                        scrap = Decimal(line.pop("scrap_percent"))
                        line["yield_percent"] = str(round(100 / (1 + scrap / 100), 9))

        for seed in SEEDS:
            document, top, options = bundle(seed)
            other = copy.deepcopy(document)
            turn(other)
            first, second = figures(document, top, options), figures(other, top, options)
            # Nine decimals of a percentage are all that a yield may be stated in.
            np.testing.assert_allclose(second, first, rtol=1e-8, atol=1e-8 * np.abs(first).sum())

    def test_a_batch_only_scales_its_lines(self) -> None:
        """Rule U2: for a batch of five times as much, five times the quantities."""

        def turn(document: dict) -> None:
            for sheet in document["build_sheets"]:
                sheet["batch"] = str(Decimal(sheet.get("batch", "1")) * 5)
                for line in sheet["lines"]:
                    if "quantity" in line and line["quantity_basis"] == "per_unit":
                        line["quantity"] = str(Decimal(line["quantity"]) * 5)

        self.each(turn)

    def test_what_counts_nothing_can_be_left_out(self) -> None:
        """Rules U5 and U7: text, not fitted, as-needed, and lines that are not in force on the day."""

        def counts(line: dict) -> bool:
            dated = line.get("effective_from", "0") <= DAY < line.get("effective_to", "9")
            return line["kind"] != "text" and "quantity" in line and not line.get("not_fitted") and dated

        def turn(document: dict) -> None:
            for sheet in document["build_sheets"]:
                sheet["lines"] = [line for line in sheet["lines"] if counts(line)]

        self.each(turn)

    def test_money_in_other_coin(self) -> None:
        """Every price and rate a hundredfold: every element a hundredfold."""
        money = {
            "unit_cost",
            "given_cost",
            "labor_rate",
            "setup_labor_rate",
            "machine_rate",
            "overhead_per_hour",
            "piece_rate",
            "unit_price",
            "minimum_charge",
        }

        def turn(value: object) -> None:
            if isinstance(value, list):
                for item in value:
                    turn(item)
            elif isinstance(value, dict):
                for name, content in value.items():
                    if name in money:
                        value[name] = str(Decimal(str(content)) * 100)
                    else:
                        turn(content)

        self.each(turn, lambda vector: vector * 100)

    def test_efficiency_is_time(self) -> None:
        """Rule C3: half the efficiency and half the minutes come to the same."""

        def turn(document: dict) -> None:
            for center in document["work_centers"]:
                center["efficiency_percent"] = str(Decimal(center["efficiency_percent"]) / 2)
            operations = [o for sheet in document["build_sheets"] for o in sheet["operations"]]
            for worked in [r for o in operations for r in (o, *o.get("resources", []))]:
                for name in ("setup_minutes", "run_minutes"):
                    if name in worked:
                        worked[name] = str(Decimal(worked[name]) / 2)

        self.each(turn)

    def test_a_phantom_is_its_lines(self) -> None:
        """Rule U8: a phantom's lines written out in its place take and cost the same."""
        seen = 0
        for seed in range(300, 3000):
            if seen == 6:
                break
            document, top, options = bundle(seed)
            sheets = {s["part"]: s for s in document["build_sheets"]}
            units = {p["number"]: p["unit"] for p in document["parts"]}
            kinds = {p["number"]: p["kind"] for p in document["parts"]}
            given = {p["number"] for p in document["parts"] if "given_cost" in p}
            place = next(
                (
                    (sheet, line)
                    for sheet in document["build_sheets"]
                    for line in sheet["lines"]
                    if kinds.get(line.get("part")) == "phantom"
                    and line["part"] in sheets
                    and line["part"] not in given
                    and line["kind"] == "component"
                    and set(line) <= {"item", "kind", "part", "unit", "quantity", "quantity_basis"}
                    and line["unit"] == units[line["part"]]
                    and line["quantity_basis"] == "per_unit"
                    and not any(x.get("option_action") == "remove" for x in [*sheet["lines"], *sheets[line["part"]]["lines"]])
                    and not sheet["operations"]
                    and all(x["kind"] == "component" for x in sheets[line["part"]]["lines"])
                ),
                None,
            )
            if place is None:
                continue
            seen += 1
            other = copy.deepcopy(document)
            home = next(s for s in other["build_sheets"] if s["part"] == place[0]["part"])
            inside = sheets[place[1]["part"]]
            home["lines"] = [x for x in home["lines"] if x != place[1]]
            for line in copy.deepcopy(inside["lines"]):
                if "quantity" in line:
                    share = Decimal(line["quantity"]) * Decimal(place[1]["quantity"]) / Decimal(inside.get("batch", "1"))
                    line["quantity"] = str(round(share, 9))
                home["lines"].append(line)
            for quantity in (None, 20):
                first, second = (figures(d, top, options, quantity) for d in (document, other))
                np.testing.assert_allclose(second, first, rtol=1e-5, atol=1e-5 * np.abs(first).sum(), err_msg=str(seed))
        self.assertGreater(seen, 3)


def rack(**changes: object) -> dict:
    """R takes 4 posts; 12 min set-up, 6 min a unit at 50 an hour, then coating outside."""
    inside = {"sequence": 10, "work_center": "W", "setup_minutes": "12", "run_minutes": "6"} | changes
    outside = {"sequence": 20, "subcontract": {"unit_price": "2", "minimum_charge": "100"}}
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "work_centers": [{"code": "W", "labor_rate": "50", "machine_rate": "20"}],
        "parts": [{"number": "R", "kind": "made", "unit": "ea"}, {"number": "POST", "kind": "bought", "unit": "ea", "unit_cost": "1"}],
        "build_sheets": [
            {
                "part": "R",
                "status": "released",
                "operations": [inside, outside],
                "lines": [{"item": 10, "part": "POST", "quantity": "4", "issue_at": 20}],
            }
        ],
    }


class ByHand(unittest.TestCase):
    """Small sums worked out on paper; common practice throughout."""

    def elements(self, document: dict, quantity: int) -> dict[str, float]:
        vector = figures(document, "R", [], quantity)
        return {name: round(float(v), 9) for name, v in zip(ELEMENTS, vector, strict=True) if v}

    def test_set_up_is_spread_over_the_lot_and_a_minimum_charge_until_it_is_reached(self) -> None:
        # 12 min at 50 = 10.00 a lot; 6 min at 50 = 5.00 a unit; machine 18 min and 6 min at 20; outside 100 or 2 each.
        self.assertEqual(self.elements(rack(), 1), {"material": 4, "setup": 10, "labor": 5, "machine": 6, "subcontract": 100})
        self.assertEqual(self.elements(rack(), 10), {"material": 4, "setup": 1, "labor": 5, "machine": 2.4, "subcontract": 10})
        self.assertEqual(self.elements(rack(), 100)["subcontract"], 2)

    def test_crews_and_piece_rates(self) -> None:
        self.assertEqual(self.elements(rack(crew="2", setup_crew="3"), 10)["labor"], 10)
        self.assertEqual(self.elements(rack(crew="2", setup_crew="3"), 10)["setup"], 3)
        paid = self.elements(rack(piece_rate="0.7"), 10)
        self.assertEqual((paid["labor"], paid["machine"]), (0.7, 2.4))

    def test_what_is_lost_before_an_operation_does_not_reach_it(self) -> None:
        """Rule U1: at a yield of 80 % the first operation starts 12.5 for 10; posts issued after it are 40, not 50."""
        document = rack(yield_percent="80")
        answer = needs_answer(ask(read_bundle(document), "R", Basis(date(2026, 1, 1), Decimal(10))))
        self.assertEqual(answer["needs"][0]["gross"], "40.000000")
        self.assertEqual(self.elements(document, 10)["labor"], 6.25)
        document["build_sheets"][0]["lines"][0]["issue_at"] = 10
        answer = needs_answer(ask(read_bundle(document), "R", Basis(date(2026, 1, 1), Decimal(10))))
        self.assertEqual(answer["needs"][0]["gross"], "50.000000")

    def test_options_take_from_the_first_line_first(self) -> None:
        """Rule U6: a dozen less takes the ten of the first line whole, and two of the second."""
        document = rack()
        sheet = document["build_sheets"][0]
        sheet["operations"] = []
        sheet["lines"] = [
            {"item": 10, "part": "POST", "quantity": "10", "scrap_percent": "50", "fixed_loss": "1"},
            {"item": 20, "part": "POST", "quantity": "10", "scrap_percent": "10"},
            {"item": 30, "part": "POST", "quantity": "1", "unit": "dozen", "option": "BARE", "option_action": "remove"},
        ]
        for options, wanted in (((), "27.000000"), (("BARE",), "8.800000")):
            answer = needs_answer(ask(read_bundle(document), "R", Basis(date(2026, 1, 1), Decimal(1), options)))
            self.assertEqual(answer["needs"][0]["gross"], wanted)

    def test_customer_supplied_is_needed_and_free(self) -> None:
        """Rule U5."""
        document = rack()
        document["build_sheets"][0]["lines"][0]["customer_supplied"] = True
        asked = ask(read_bundle(document), "R", Basis(date(2026, 1, 1), Decimal(10)))
        self.assertEqual(needs_answer(asked)["needs"][0]["gross"], "40.000000")
        self.assertEqual(cost_answer(asked)["elements"]["material"], "0.000000")

    def test_a_phantom_adds_no_level_and_is_not_listed(self) -> None:
        """Rule U8."""
        document = rack()
        document["parts"].append({"number": "KIT", "kind": "phantom", "unit": "ea"})
        document["build_sheets"].append({"part": "KIT", "status": "released", "lines": [{"part": "POST", "quantity": "3"}]})
        document["build_sheets"][0]["lines"] = [{"part": "KIT", "quantity": "2"}]
        answer = needs_answer(ask(read_bundle(document), "R", Basis(date(2026, 1, 1), Decimal(5))))
        self.assertEqual(answer["needs"], [{"part": "POST", "level": 1, "unit": "ea", "gross": "30.000000", "lot": "30.000000"}])

    def test_a_shared_part_is_rounded_once_on_its_total(self) -> None:
        """Rules N1 and N2: two asks of 2.5 make a lot of 5, not 6; and it is made when both have asked."""
        document = rack()
        document["parts"] += [{"number": n, "kind": "made", "unit": "ea"} for n in ("A", "B")]
        document["build_sheets"] = [
            {"part": "R", "status": "released", "lines": [{"part": "A", "quantity": "1"}, {"part": "B", "quantity": "2.5"}]},
            {"part": "A", "status": "released", "lines": [{"part": "B", "quantity": "2.5"}]},
            {"part": "B", "status": "released", "lines": [{"part": "POST", "quantity": "1"}]},
        ]
        answer = needs_answer(ask(read_bundle(document), "R", Basis(date(2026, 1, 1), Decimal(1))))
        rows = {n["part"]: (n["level"], n["lot"]) for n in answer["needs"]}
        self.assertEqual(rows, {"A": (1, "1.000000"), "B": (2, "5.000000"), "POST": (3, "5.000000")})
