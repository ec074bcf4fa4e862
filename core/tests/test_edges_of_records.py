"""Bounds of records, values of classes and numbers: where a small change of a rule would show."""

import unittest
from datetime import date, datetime
from decimal import Decimal as D

from tally_core.stated.classes import check_class, read_values
from tally_core.stated.definition import (
    ClassField,
    Line,
    Operation,
    Part,
    PartClass,
    RateChange,
    Sheet,
    StandardOperation,
    Stop,
    Subcontract,
    WorkCenter,
)
from tally_core.stated.numbering import next_numbers
from tally_core.stated.reading import RecordReader, show_value
from tally_core.stated.records import (
    check_line,
    check_number,
    check_operation,
    check_part,
    check_sheet,
    check_standard_operation,
    check_work_center,
)

DAY = date(2026, 6, 15)


def places(found) -> list[str]:
    return [p.place for p in found]


class Reading(unittest.TestCase):
    def test_a_price_of_a_day_needs_its_amount(self) -> None:
        for price in ({"from": "2027-01-01"}, {"from": "2027-01-01", "unit_cost": ""}, {"from": "2027-01-01", "unit_cost": None}):
            reader = RecordReader()
            reader.record(Part, {"number": "A", "kind": "bought", "unit": "ea", "prices": [price]}, "parts[0]")
            self.assertEqual([(p.place, p.message) for p in reader.problems], [("parts[0].prices[0].unit_cost", "the price is needed")])

    def test_a_value_in_a_message_is_short(self) -> None:
        self.assertEqual(show_value("x" * 38), '"' + "x" * 38 + '"')
        self.assertEqual(show_value("x" * 39), '"' + "x" * 36 + "...")


class Records(unittest.TestCase):
    def test_numbers_of_parts(self) -> None:
        self.assertIsNone(check_number("x" * 64))
        self.assertIn("this one has 65", check_number("x" * 65) or "")
        self.assertIsNone(check_number("Ä-1"))
        for number in ("", " A", "A\u200bB", "\uff21-1", "\u00aa1", "\u0661"):
            self.assertIsNotNone(check_number(number), repr(number))

    def test_bounds_hold_where_they_are(self) -> None:
        def wrong(**fields: object) -> list[str]:
            return places(check_part(Part("K", **fields)))  # type: ignore[arg-type]

        self.assertEqual(wrong(unit_cost=D(0), costing_lot=D("0.000000001")), [])
        self.assertEqual(wrong(unit_cost=D("-0.1")), ["unit_cost"])
        self.assertEqual(wrong(costing_lot=D(0)), ["costing_lot"])
        self.assertEqual(wrong(unit_cost=D("999999999999")), [])
        self.assertEqual(wrong(unit_cost=D("1000000000000")), ["unit_cost"])
        self.assertEqual(wrong(unit_cost=D("1e-10")), ["unit_cost"])
        self.assertEqual(wrong(unit_cost=D("NaN")), ["unit_cost"])
        self.assertEqual(wrong(default_alternate="x" * 20), [])
        self.assertEqual(wrong(default_alternate="x" * 21), ["default_alternate"])
        self.assertEqual(wrong(default_alternate=" "), ["default_alternate"])
        for name, most in (
            ("description", 2000),
            ("second_description", 4000),
            ("material", 200),
            ("supplier", 200),
            ("supplier_number", 200),
            ("given_reason", 500),
        ):
            self.assertEqual(wrong(**{name: "x" * most}), [], name)
            self.assertEqual(wrong(**{name: "x" * (most + 1)}), [name])
        self.assertEqual(wrong(part_class="x" * 60), [])
        self.assertEqual(wrong(part_class="x" * 61), ["part_class"])
        self.assertEqual(wrong(kind="made", unmodelled=True), ["unmodelled"])
        self.assertEqual(wrong(size_mm="10 x 20.5 x 3"), [])
        for size in ("10x20", "10 x 20 x 3 x 4", "x"):
            self.assertEqual(wrong(size_mm=size), ["size_mm"])
        self.assertEqual(wrong(supplier_link="ftp://x.y"), ["supplier_link"])
        self.assertEqual(wrong(supplier_link="https://x.y/z"), [])
        self.assertEqual(wrong(kind="nut"), ["kind"])
        self.assertEqual(wrong(lifecycle="new"), ["lifecycle"])

    def test_markups_and_buying_units(self) -> None:
        def wrong(**fields: object) -> list[str]:
            return places(check_part(Part("K", kind="made", **fields)))  # type: ignore[arg-type]

        self.assertEqual(wrong(markup_percent=D("-99.9")), [])
        self.assertEqual(wrong(markup_percent=D(-100)), ["markup_percent"])
        self.assertEqual(wrong(markup_percent=D(1_000_000)), ["markup_percent"])
        self.assertEqual(wrong(markup_percent=D(1), given_cost=D(1)), ["markup_percent"])
        self.assertEqual(places(check_part(Part("K", kind="phantom", markup_percent=D(1)))), ["markup_percent"])
        bought = {"unit": "m"}
        for fields, found in (
            ({"buying_unit": "roll", "stock_per_buying_unit": D(50)}, []),
            ({"buying_unit": "roll"}, ["stock_per_buying_unit"]),
            ({"buying_unit": "mm"}, []),
            ({"buying_unit": "kg"}, ["buying_unit"]),
            ({"buying_unit": " ", "stock_per_buying_unit": D(50)}, ["buying_unit"]),
            ({"buying_unit": "x" * 20, "stock_per_buying_unit": D(50)}, []),
            ({"buying_unit": "x" * 21, "stock_per_buying_unit": D(50)}, ["buying_unit"]),
        ):
            self.assertEqual(places(check_part(Part("K", **bought, **fields))), found, fields)  # type: ignore[arg-type]

    def test_operations_lines_centers_and_sheets(self) -> None:
        def operation(**fields: object) -> list[str]:
            return places(check_operation(Operation(10, "x", "W", **fields)))  # type: ignore[arg-type]

        self.assertEqual(operation(yield_percent=D(100)), [])
        self.assertEqual(operation(yield_percent=D("100.5")), ["yield_percent"])
        self.assertEqual(operation(yield_percent=D(0)), ["yield_percent"])
        self.assertEqual(operation(run_basis="per_cycle"), ["cycle_quantity"])
        self.assertEqual(operation(run_basis="per_hour"), ["run_basis"])
        self.assertEqual(operation(cycle_quantity=D(0)), ["cycle_quantity"])
        self.assertEqual(operation(instructions="x" * 20_000), [])
        self.assertEqual(operation(instructions="x" * 20_001), ["instructions"])
        self.assertEqual(operation(stations=0), ["stations"])
        self.assertEqual(operation(any_of_group=True), [])
        away = Operation(10, "x", subcontract=Subcontract(), any_of_group=True)
        self.assertEqual(places(check_operation(away)), ["any_of_group"])
        self.assertEqual(places(check_operation(Operation(10, "x"))), ["work_center"])
        self.assertEqual(places(check_operation(Operation(10, "x", "W", subcontract=Subcontract()))), ["work_center"])
        outside = Operation(10, "x" * 201, subcontract=Subcontract("y" * 201, D(-1), D(0), -1), transfer_quantity=D(1))
        self.assertEqual(
            places(check_operation(outside)),
            ["name", "transfer_quantity", "subcontract.supplier", "subcontract.unit_price", "subcontract.lead_days"],
        )
        self.assertEqual(places(check_standard_operation(StandardOperation("A B", 1, Operation()))), ["code", "operation.work_center"])

        def line(**fields: object) -> list[str]:
            return places(check_line(Line(10, part="K", **fields), "kg"))  # type: ignore[arg-type]

        self.assertEqual(line(yield_percent=D(100)), [])
        self.assertEqual(line(yield_percent=D(101)), ["yield_percent"])
        self.assertEqual(line(yield_percent=D(50), scrap_percent=D(1)), ["yield_percent"])
        self.assertEqual(line(yield_percent=D(50), scrap_percent=D(0)), [])
        self.assertEqual(line(unit="m"), ["unit"])
        self.assertEqual(line(unit="g"), [])
        self.assertEqual(line(unit="furlong"), ["unit"])
        self.assertEqual(line(kept_off=["parts", "all"]), ["kept_off"])
        self.assertEqual(line(option="A B"), ["option"])
        self.assertEqual(line(reference_designators=["R" * 61]), ["reference_designators"])
        self.assertEqual(line(reference_designators=["R1"] * 5001), ["reference_designators"])
        self.assertEqual(line(reference_designators=["R1"] * 5000), [])
        self.assertEqual(line(effective_from=DAY, effective_to=DAY), ["effective_to"])
        for extra in ({"scrap_percent": D(1)}, {"fixed_loss": D(1)}, {"yield_percent": D(50)}):
            self.assertEqual(places(check_line(Line(10, kind="byproduct", part="K", **extra), "kg")), ["scrap_percent"])  # type: ignore[arg-type]
        self.assertEqual(places(check_line(Line(10, kind="text", part="K"), None)), ["part"])
        self.assertEqual(places(check_line(Line(10, kind="text", text="x" * 4001), None)), ["text"])
        self.assertEqual(places(check_line(Line(10), None)), ["part"])
        self.assertEqual(
            places(check_line(Line(10, part="K", quantity_basis="per_lot", fixed_loss=D(1)), "kg", "phantom")),
            ["quantity_basis", "fixed_loss"],
        )

        def center(**fields: object) -> list[str]:
            return places(check_work_center(WorkCenter("W", **fields)))  # type: ignore[arg-type]

        self.assertEqual(places(check_work_center(WorkCenter(""))), ["code"])
        self.assertEqual(center(group="x" * 61), ["group"])
        self.assertEqual(center(name="x" * 201), ["name"])
        self.assertEqual(center(shifts="always"), ["shifts"])
        change = RateChange(DAY, D(-1))
        self.assertEqual(center(rates=[change, RateChange(DAY)]), ["rates[0].labor_rate", "rates[1].first_day"])
        stop = Stop(datetime(2026, 1, 1, 8), datetime(2026, 1, 1, 8))
        self.assertEqual(center(stops=[stop]), ["stops[0].end"])
        fine = Stop(datetime(2026, 1, 1, 8), datetime(2026, 1, 1, 9))
        self.assertEqual(center(stops=[fine] * 500), [])
        self.assertEqual(center(stops=[fine] * 501), ["stops"])

        def sheet(kind: str = "made", **fields: object) -> list[str]:
            return places(check_sheet(Sheet("M", **fields), kind))  # type: ignore[arg-type]

        steps = [Operation(10, "a", "W"), Operation(20, "b", "W")]
        self.assertEqual(sheet(operations=steps, lines=[Line(10, part="K", issue_at=20)]), [])
        self.assertEqual(sheet(operations=steps, lines=[Line(10, part="K"), Line(20, part="K", issue_at=30)]), ["lines[1].issue_at"])
        self.assertEqual(sheet(operations=[steps[0], Operation(10, "b", "W")])[0], "operations[1].sequence")
        self.assertEqual(sheet(operations=[steps[0], Operation(20, "b", "W", after=[30])]), ["operations[1].after"])
        self.assertEqual(sheet(operations=[steps[0], Operation(20, "b", "W", after=[20])]), ["operations[1].after", "operations[1].after"])
        self.assertEqual(sheet(operations=[Operation(10, "a", "W", after=[20]), Operation(20, "b", "W")]), ["operations[0].after"])
        self.assertEqual(sheet(batch=D(0)), ["batch"])
        self.assertEqual(sheet(status="open"), ["status"])
        self.assertEqual(sheet(reference="x" * 501), ["reference"])
        self.assertEqual(sheet("bought"), ["part"])
        self.assertEqual(sheet("phantom", operations=steps[:1]), ["operations"])
        for name in ("alternate", "revision"):
            self.assertEqual(sheet(**{name: "x" * 20}), [])
            for value in ("", " A", "x" * 21):
                self.assertEqual(sheet(**{name: value}), [name])

    def test_values_of_classes(self) -> None:
        kinds = [ClassField("t"), ClassField("n", "number"), ClassField("d", "date")]
        own = PartClass("C", fields=kinds)
        self.assertEqual(read_values(own, {"t": "x" * 2000, "n": "999999999999"})[1], [])
        for name, value in (("t", "x" * 2001), ("n", "1e12"), ("n", "x"), ("t", 5), ("q", "1"), ("d", "2026-02-30")):
            self.assertEqual(places(read_values(own, {name: value})[1]), [name], value)
        self.assertEqual(read_values(own, {"t": "", "n": None}), ({}, []))

        def wrong(**fields: object) -> list[str]:
            return places(check_class(PartClass(**({"name": "C"} | fields))))  # type: ignore[arg-type]

        self.assertEqual(wrong(name="x" * 60, prefix="x" * 30, digits=12, start=0, step=1), [])
        for fields, place in (
            ({"name": "x" * 61}, "name"),
            ({"name": " "}, "name"),
            ({"prefix": "x" * 31}, "prefix"),
            ({"prefix": "a b"}, "prefix"),
            ({"digits": 13}, "digits"),
            ({"digits": -1}, "digits"),
            ({"start": -1}, "start"),
            ({"step": 0}, "step"),
            ({"step": 10**9}, "step"),
        ):
            self.assertEqual(wrong(**fields), [place], fields)
        self.assertEqual(wrong(fields=[ClassField(f"f{n}") for n in range(40)]), [])
        self.assertEqual(wrong(fields=[ClassField(f"f{n}") for n in range(41)]), ["fields"])
        self.assertEqual(wrong(fields=[ClassField("c", "choice", choices=["red", ""])]), [])
        self.assertEqual(wrong(fields=[ClassField("c", "choice", choices=[" "])]), ["fields[0].choices"])
        long = "n" + " + n" * 59
        self.assertEqual(wrong(fields=[ClassField("n", "number"), ClassField("o", "computed", expression=long[:9])]), [])
        self.assertEqual(
            wrong(fields=[ClassField("n", "number"), ClassField("o", "computed", expression="n +" + " " * 297 + "n")]),
            ["fields[1].expression"],
        )

    def test_the_next_number_is_behind_the_highest(self) -> None:
        own = PartClass("C", "X-", 3, start=10, step=5)
        for taken, first in (
            ([], "X-010"),
            (["X-009"], "X-010"),
            (["X-010"], "X-015"),
            (["X-012"], "X-015"),
            (["X-014", "X-020"], "X-025"),
        ):
            self.assertEqual(next_numbers(own, taken, 1), [first], taken)

    def test_a_reader_names_what_is_no_number(self) -> None:
        reader = RecordReader()
        for value in (True, 1.5, None, "x", "1e101", "NaN", []):
            self.assertIsNone(reader.decimal(value, "n"), value)
        self.assertEqual(len(reader.problems), 7)
        self.assertEqual(reader.decimal("1e100", "n"), D("1e100"))
