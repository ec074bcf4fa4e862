"""Bounds, defaults and rare cases of records, bundles and lists: where a small change of a rule would show."""

import unittest
from datetime import date, datetime
from decimal import Decimal as D

from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated.bundle import read_bundle, write_bundle
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
)  # fmt: skip
from tally_core.stated.numbering import next_numbers
from tally_core.stated.reading import RecordReader
from tally_core.stated.records import (
    check_line,
    check_number,
    check_operation,
    check_part,
    check_sheet,
    check_standard_operation,
    check_work_center,
)  # fmt: skip

DAY = date(2026, 6, 15)


def places(found) -> list[str]:
    return [p.place for p in found]


def refused(document: dict) -> list[str]:
    try:
        read_bundle({"format": "round-tally-bundle", "version": 1, "currency": "EUR"} | document)
    except ProblemsError as error:
        return [f"{p.place}: {p.message}" for p in error.problems]
    return []


class Defaults(unittest.TestCase):
    def test_what_is_not_stated_in_a_bundle(self) -> None:
        """The defaults of the contract (docs/arithmetic.md, "The bundle"), and those of the project's own fields."""
        read = read_bundle({
            "format": "round-tally-bundle", "version": 1,
            "work_centers": [{"code": "W"}], "part_classes": [{"name": "C"}],
            "parts": [{"number": "M", "kind": "made", "unit": "ea"}, {"number": "K", "kind": "bought", "unit": "kg"}],
            "standard_operations": [{"code": "S", "operation": {"work_center": "W"}}],
            "build_sheets": [{"part": "M", "lines": [{"part": "K"}], "operations": [{"sequence": 10, "subcontract": {}}]}],
        })  # fmt: skip
        self.assertEqual(read.currency, "EUR")
        (center,), (made, bought), (sheet,) = read.work_centers, read.parts, read.sheets
        self.assertEqual(
            (center.efficiency_percent, center.stations, center.crew, center.labor_rate, center.setup_labor_rate),
            (100, 1, 1, 0, None),
        )
        self.assertEqual(
            (
                center.overhead_per_hour,
                center.overhead_percent_of_labor,
                center.machine_rate,
                center.rates,
                center.stops,
            ),
            (0, 0, 0, [], []),
        )
        self.assertEqual(
            (made.whole_only, bought.whole_only, made.lead_time_days, made.overhead_percent), (True, False, 0, 0)
        )
        self.assertEqual((made.sold, made.unmodelled, made.lifecycle, made.costing_lot), (False, False, "active", None))
        self.assertEqual((sheet.alternate, sheet.revision, sheet.status, sheet.batch), ("A", "A", "draft", 1))
        line, operation = sheet.lines[0], sheet.operations[0]
        self.assertEqual(
            (line.kind, line.quantity_basis, line.fixed_loss, line.option_action), ("component", "per_unit", 0, "add")
        )
        self.assertEqual(
            (line.customer_supplied, line.not_fitted, line.item_locked, line.reference_designators),
            (False, False, False, []),
        )
        self.assertEqual(
            (operation.crew, operation.setup_crew, operation.yield_percent, operation.stations), (1, 1, 100, 1)
        )
        self.assertEqual(
            (
                operation.setup_minutes,
                operation.run_minutes,
                operation.queue_minutes,
                operation.wait_minutes,
                operation.move_minutes,
            ),
            (0,) * 5,
        )
        self.assertEqual(operation.subcontract, Subcontract("", D(0), D(0), 0))
        self.assertEqual(
            (read.standard_operations[0].version, read.part_classes[0]), (1, PartClass("C", "", 0, 1, 1, []))
        )
        self.assertEqual(read_bundle(write_bundle(read)), read)

    def test_several_problems_in_one_message(self) -> None:
        error = ProblemsError([Problem("a", "one"), Problem("", "two")])
        self.assertEqual(str(error), "a: one\ntwo")


class Bundles(unittest.TestCase):
    def test_an_operation_names_an_entry_that_is_there(self) -> None:
        document = {
            "parts": [{"number": "M", "kind": "made", "unit": "ea"}],
            "work_centers": [{"code": "W"}],
            "standard_operations": [{"code": "S", "operation": {"work_center": "W"}}],
            "build_sheets": [
                {"part": "M", "operations": [{"sequence": 10, "work_center": "W", "standard": name}]} for name in ("S",)
            ],
        }
        self.assertEqual(refused(document), [])
        document["build_sheets"][0]["operations"][0]["standard"] = "T"  # type: ignore[index]
        self.assertEqual(len(refused(document)), 1)

    def test_each_fault_is_named_by_its_place(self) -> None:
        part, made = {"number": "K", "kind": "bought", "unit": "ea"}, {"number": "M", "kind": "made", "unit": "ea"}
        sheet = {"part": "M"}
        for document, told in (
            ({"options": [{"code": "A B"}]}, "options[0].code: a option code holds no blanks"),
            ({"options": [{"name": "x"}]}, "options[0]: an object with a code"),
            ({"options": [{"code": "A", "name": 5}]}, "options[0].name: text is needed"),
            ({"options": [{"code": "A", "not_with": ["A"]}]}, "options: option A cannot exclude itself"),
            ({"options": [{"code": "A", "not_with": ["B"]}]}, "options: option A excludes B"),
            ({"parts": [part, part | {"number": "k"}]}, "parts[1].number: k stands twice in this file; first at parts[0]"),
            ({"work_centers": [{"code": "W"}, {"code": "w"}]}, "work_centers[1].code: w stands twice"),
            ({"part_classes": [{"name": "C"}, {"name": "c"}]}, "part_classes[1].name: c stands twice"),
            ({"standard_operations": [{"code": "S", "operation": {"subcontract": {}}}] * 2}, "standard_operations[1].code: S stands twice"),
            ({"parts": [made], "build_sheets": [sheet, sheet]}, "build_sheets[1].revision: M / A / A stands twice"),
            ({"build_sheets": [sheet]}, "build_sheets[0].part: part M is not known"),
            ({"parts": [made], "build_sheets": [sheet | {"lines": [{"part": "X"}]}]}, "build_sheets[0].lines[0].part: part X is not known"),
            ({"parts": [made], "build_sheets": [sheet | {"operations": [{"sequence": 10, "work_center": "W"}]}]}, "operations[0].work_center: work center W is not known"),
            ({"parts": [made], "build_sheets": [sheet | {"operations": [{"sequence": 10, "subcontract": {}, "standard": "S"}]}]}, "operations[0].standard: standard operation S is not known"),
            ({"standard_operations": [{"code": "S", "operation": {"work_center": "W"}}]}, "standard_operations[0].operation.work_center: work center W is not known"),
            ({"part_classes": [{"name": "C", "fields": [{"name": "n", "kind": "number"}]}], "parts": [part | {"part_class": "C", "own_values": {"n": "x"}}]}, "parts[0].own_values.n: "),
            ({"parts": [part | {"part_class": "D", "own_values": {"n": "1"}}]}, "parts[0].own_values.n: D has no field n"),
            ({"parts": [part | {"nonsense": 1}]}, "parts[0].nonsense: there is no field of this name"),
            ({"parts": ["K"]}, "parts[0]: an object is needed"),
            ({"parts": [part | {"lead_time_days": 2**31}]}, "parts[0].lead_time_days: a whole number below"),
            ({"parts": [part | {"lead_time_days": "1.5"}]}, "parts[0].lead_time_days: a whole number"),
            ({"parts": [part | {"description": 5}]}, "parts[0].description: text is needed"),
            ({"parts": [part | {"description": "\ud800"}]}, "parts[0].description: text holds half of a character"),
            ({"parts": [part | {"sold": "yes"}]}, "parts[0].sold: "),
            ({"parts": [made], "build_sheets": [sheet | {"lines": "none"}]}, "build_sheets[0].lines: "),
            ({"parts": [made], "build_sheets": [sheet | {"lines": [{"reference_designators": "R1"}]}]}, "build_sheets[0].lines[0].reference_designators: "),
            ({"work_centers": [{"code": "W", "rates": [{"labor_rate": "1"}]}]}, "work_centers[0].rates[0].first_day: "),
            ({"work_centers": [{"code": "W", "stops": [{"start": "x", "end": "y"}]}]}, "work_centers[0].stops[0]"),
            ({"currency": "Eur"}, "currency: "), ({"extra": 1}, "extra: there is no field"),
        ):  # fmt: skip
            said = refused(document)
            self.assertTrue(any(told in text for text in said), (told, said))
        self.assertEqual(refused({"parts": [part | {"lead_time_days": 2**31 - 1}]}), [])
        for document in ({}, {"format": "x"}, []):
            with self.assertRaises(ProblemsError):
                read_bundle(document)
        with self.assertRaisesRegex(ProblemsError, "this program reads"):
            read_bundle({"format": "round-tally-bundle", "version": 2})

    def test_the_names_of_options_are_kept(self) -> None:
        document = {
            "options": [{"code": "LONG", "name": "Long base", "not_with": ["SHORT", "SHORT"]}, {"code": "SHORT"}]
        }
        read = read_bundle({"format": "round-tally-bundle", "version": 1} | document)
        self.assertEqual((read.options, read.not_together), ({"LONG": "Long base", "SHORT": ""}, {"LONG": ["SHORT"]}))

    def test_a_part_may_be_known_already_and_then_its_class_is_asked_for(self) -> None:
        asked: list[set[str]] = []

        def classes(names: set[str]) -> dict[str, PartClass]:
            asked.append(names)
            return {"C": PartClass("C", fields=[ClassField("n", "number")])}

        part = {"number": "K", "kind": "bought", "unit": "ea", "part_class": "C", "own_values": {"n": "1.50"}}
        plain = {"number": "L", "kind": "bought", "unit": "ea", "part_class": "E"}
        read = read_bundle(
            {"format": "round-tally-bundle", "version": 1, "parts": [part, plain], "part_classes": [{"name": "D"}]},
            known_classes=classes,
        )
        self.assertEqual((asked, read.parts[0].own_values), ([{"C"}], {"n": "1.5"}))

        def parts(numbers: set[str]) -> dict[str, Part]:
            self.assertEqual(numbers, {"OLD"})
            return {"OLD": Part("OLD")}

        sheet = {"part": "M", "lines": [{"part": "OLD"}, {"part": "M2"}]}
        own = [{"number": n, "kind": "made", "unit": "ea"} for n in ("M", "M2")]
        read_bundle({"format": "round-tally-bundle", "version": 1, "parts": own, "build_sheets": [sheet]}, parts)


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
            ({"buying_unit": "roll"}, ["stock_per_buying_unit"]), ({"buying_unit": "mm"}, []), ({"buying_unit": "kg"}, ["buying_unit"]),
            ({"buying_unit": " ", "stock_per_buying_unit": D(50)}, ["buying_unit"]),
            ({"buying_unit": "x" * 20, "stock_per_buying_unit": D(50)}, []),
            ({"buying_unit": "x" * 21, "stock_per_buying_unit": D(50)}, ["buying_unit"]),
        ):  # fmt: skip
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
        self.assertEqual(places(check_operation(Operation(10, "x"))), ["work_center"])
        self.assertEqual(places(check_operation(Operation(10, "x", "W", subcontract=Subcontract()))), ["work_center"])
        outside = Operation(10, "x" * 201, subcontract=Subcontract("y" * 201, D(-1), D(0), -1), transfer_quantity=D(1))
        self.assertEqual(
            places(check_operation(outside)),
            ["name", "transfer_quantity", "subcontract.supplier", "subcontract.unit_price", "subcontract.lead_days"],
        )
        self.assertEqual(
            places(check_standard_operation(StandardOperation("A B", 1, Operation()))),
            ["code", "operation.work_center"],
        )

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
        self.assertEqual(
            sheet(operations=steps, lines=[Line(10, part="K"), Line(20, part="K", issue_at=30)]), ["lines[1].issue_at"]
        )
        self.assertEqual(sheet(operations=[steps[0], Operation(10, "b", "W")])[0], "operations[1].sequence")
        self.assertEqual(sheet(operations=[steps[0], Operation(20, "b", "W", after=[30])]), ["operations[1].after"])
        self.assertEqual(
            sheet(operations=[steps[0], Operation(20, "b", "W", after=[20])]),
            ["operations[1].after", "operations[1].after"],
        )
        self.assertEqual(
            sheet(operations=[Operation(10, "a", "W", after=[20]), Operation(20, "b", "W")]), ["operations[0].after"]
        )
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
            ({"name": "x" * 61}, "name"), ({"name": " "}, "name"), ({"prefix": "x" * 31}, "prefix"), ({"prefix": "a b"}, "prefix"),
            ({"digits": 13}, "digits"), ({"digits": -1}, "digits"), ({"start": -1}, "start"), ({"step": 0}, "step"), ({"step": 10**9}, "step"),
        ):  # fmt: skip
            self.assertEqual(wrong(**fields), [place], fields)
        self.assertEqual(wrong(fields=[ClassField(f"f{n}") for n in range(40)]), [])
        self.assertEqual(wrong(fields=[ClassField(f"f{n}") for n in range(41)]), ["fields"])
        self.assertEqual(wrong(fields=[ClassField("c", "choice", choices=["red", ""])]), [])
        self.assertEqual(wrong(fields=[ClassField("c", "choice", choices=[" "])]), ["fields[0].choices"])
        long = "n" + " + n" * 59
        self.assertEqual(
            wrong(fields=[ClassField("n", "number"), ClassField("o", "computed", expression=long[:9])]), []
        )
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
