"""What the records declare, said a second time: who moves a bound, a cause or a trait moves it here, too, or hears of it."""

import math
import unittest

from tally_core.basics.facts import Facts, facts_of
from tally_core.basics.kinds import LINE_KIND, PART_KIND
from tally_core.stated.definition import Line, Operation, Part, PartClass, RateChange, Sheet, Stop, Subcontract, WorkCenter
from tally_core.structure.overlay import INPUTS
from tally_core.structure.tables import NO_END, NO_START, LineTable, OperationTable, PartTable, columns_of

#: table, field: bound, unit (None: the part's, or money), cause; "clears" for what a round may take away.
_INPUTS = """
part unit_cost: >= 0, ?, price
part given_cost: >= 0, ?, price, clears
part markup_percent: any, %, price
part overhead_percent: >= 0, %, price
part costing_lot: > 0, ?, lot, clears
line quantity: >= 0, ?, usage, tried > 0
line scrap_percent: >= 0, %, usage, clears
line yield_percent: > 0, %, usage, clears
line fixed_loss: >= 0, ?, usage
operation setup_minutes: >= 0, min, time
operation run_minutes: >= 0, min, time
operation crew: >= 0, none, time
operation setup_crew: >= 0, none, time
operation piece_rate: >= 0, ?, rate, clears
operation yield_percent: > 0, %, usage
operation outside_price: >= 0, ?, price
operation outside_minimum: >= 0, ?, price
work_center labor_rate: >= 0, ?, rate
work_center setup_labor_rate: >= 0, ?, rate, clears
work_center machine_rate: >= 0, ?, rate
work_center overhead_per_hour: >= 0, ?, rate
work_center overhead_percent_of_labor: >= 0, %, rate
work_center efficiency_percent: > 0, %, time
"""

#: Characters of texts.
_LENGTHS = {
    "Line.cut": 200, "Line.text": 4000, "Operation.name": 200, "Operation.run_expression": 300, "Part.description": 2000, "Part.given_reason": 500, "Part.second_description": 4000,
    "Part.kept_in": 60, "Part.material": 200, "Part.size_mm": 60, "Part.supplier": 200, "Part.supplier_number": 200, "Sheet.reference": 500,
    "Subcontract.supplier": 200, "WorkCenter.name": 200, "WorkCenter.paces": 500, "WorkCenter.shifts": 500,
}  # fmt: skip
#: Bounds of numbers that are no inputs which a round may move.
_BOUNDS = {
    "> 0": (
        "Operation.sequence Operation.cycle_quantity Operation.stations Operation.transfer_quantity Operation.run_from_orders "
        "Part.stock_per_buying_unit Part.order_multiple Sheet.batch WorkCenter.stations"
    ),
    ">= 0": (
        "Line.item Operation.queue_minutes Operation.wait_minutes Operation.move_minutes Part.selling_price Part.lead_time_days "
        "Part.mass_kg Part.reorder_level Part.order_minimum RateChange.labor_rate RateChange.setup_labor_rate "
        "RateChange.machine_rate RateChange.overhead_per_hour RateChange.overhead_percent_of_labor Subcontract.unit_price "
        "Subcontract.minimum_charge Subcontract.lead_days WorkCenter.crew"
    ),
}
_RECORDS = [
    Line, Operation, Part, PartClass, RateChange, Sheet, Stop, Subcontract, WorkCenter,
]  # fmt: skip


class Declared(unittest.TestCase):
    def test_inputs_of_cost_with_bound_unit_and_cause(self) -> None:
        def words(table: str, name: str, x: Facts) -> str:
            unit = "?" if x.unit is None else x.unit or "none"
            more = (", clears" if x.clears else "") + (f", tried {x.tried_bound}" if x.tried_bound else "")
            return f"{table} {name}: {x.bound or 'any'}, {unit}, {x.cause}{more}"

        found = [words(table, name, x) for table, fields in INPUTS.items() for name, x in fields.items()]
        self.assertEqual(sorted(found), sorted(_INPUTS.split("\n")[1:-1]))

    def test_causes_of_what_no_round_may_move(self) -> None:
        found = {f"{r.__name__}.{n}": x.cause for r in _RECORDS for n, x in facts_of(r).items() if x.cause and not x.tried}
        self.assertEqual(
            found, {"Part.given_as": "price", "Operation.run_basis": "time", "Operation.cycle_quantity": "time", "Sheet.batch": "usage"}
        )

    def test_what_stands_where_nothing_was_stated(self) -> None:
        """Also in what was kept before there was such a column: it reads as what had no such thing."""
        self.assertEqual((NO_START, NO_END), (0, 2**31 - 1))
        absent = {
            PartTable: {"whole_only": 0, "kind": 0, "unit": 0, "given_as": 0, "overhead_percent": 0, "markup_percent": 0},
            LineTable: {
                **dict.fromkeys(("parent", "child", "operation", "option"), -1), "first_day": 0, "last_day": 2**31 - 1,
                **dict.fromkeys(("kind", "unit", "item", "fixed_loss", "per_lot", "removes", "customer_supplied", "not_fitted"), 0),
            },
            OperationTable: {
                "parent": -1, **dict.fromkeys(("crew", "setup_crew"), 1), **dict.fromkeys(("yield_percent", "efficiency_percent"), 100),
                **dict.fromkeys(
                    ("sequence", "resource", "setup_minutes", "run_minutes", "run_basis", "labor_rate", "setup_labor_rate", "machine_rate",
                     "overhead_per_hour", "overhead_percent_of_labor", "outside_minimum"), 0),
            },
        }  # fmt: skip
        for table, stated in absent.items():
            found = {n: c.absent for n, c in columns_of(table).items() if not math.isnan(c.absent)}
            self.assertEqual(found, stated, table.__name__)

    def test_lengths_and_bounds(self) -> None:
        lengths = {f"{r.__name__}.{n}": x.most for r in _RECORDS for n, x in facts_of(r).items() if x.most}
        self.assertEqual(lengths, _LENGTHS)
        tried = {(t.replace("_", ""), n) for t, fields in INPUTS.items() for n in fields}
        for bound, named in _BOUNDS.items():
            found = [
                f"{r.__name__}.{n}"
                for r in _RECORDS
                for n, x in facts_of(r).items()
                if x.bound == bound and (r.__name__.lower(), n) not in tried
            ]
            self.assertEqual(sorted(found), sorted(named.split()), bound)

    def test_a_field_of_which_nothing_is_said_may_neither_be_tried_nor_cleared(self) -> None:
        self.assertEqual(Facts(), Facts("", None, "", 0, (), "", False, "", False, ""))

    def test_kinds_of_parts_and_lines(self) -> None:
        """As the rules C1, C4 and S4 say."""
        traits = ("takes_sheet", "priced_as", "bears_overhead", "itself", "stocked")
        self.assertEqual(
            {n: tuple(getattr(k, t) for t in traits) for n, k in PART_KIND.items()},
            {
                "made": (True, "", False, True, True),
                "bought": (False, "material", True, True, True),
                "phantom": (True, "", False, False, False),
                "charge": (False, "other", False, True, False),
            },
        )
        self.assertEqual(
            {n: (k.names_part, k.gives_back) for n, k in LINE_KIND.items()},
            {"component": (True, False), "byproduct": (True, True), "text": (False, False)},
        )
