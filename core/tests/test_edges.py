"""Bounds, defaults and rare cases of records, bundles and lists: where a small change of a rule would show."""

import unittest
from datetime import date
from decimal import Decimal as D

from tally_core.basics.errors import Problem, ProblemsError
from tally_core.stated.bundle import read_bundle, write_bundle
from tally_core.stated.definition import ClassField, Part, PartClass, Subcontract

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
        read = read_bundle(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "work_centers": [{"code": "W"}],
                "part_classes": [{"name": "C"}],
                "parts": [{"number": "M", "kind": "made", "unit": "ea"}, {"number": "K", "kind": "bought", "unit": "kg"}],
                "standard_operations": [{"code": "S", "operation": {"work_center": "W"}}],
                "build_sheets": [{"part": "M", "lines": [{"part": "K"}], "operations": [{"sequence": 10, "subcontract": {}}]}],
            }
        )
        self.assertEqual(read.currency, "EUR")
        (center,), (made, bought), (sheet,) = read.work_centers, read.parts, read.sheets
        self.assertEqual(
            (center.efficiency_percent, center.stations, center.crew, center.labor_rate, center.setup_labor_rate), (100, 1, 1, 0, None)
        )
        self.assertEqual(
            (center.overhead_per_hour, center.overhead_percent_of_labor, center.machine_rate, center.rates, center.stops), (0, 0, 0, [], [])
        )
        self.assertEqual((made.whole_only, bought.whole_only, made.lead_time_days, made.overhead_percent), (True, False, 0, 0))
        self.assertEqual((made.sold, made.unmodelled, made.lifecycle, made.costing_lot), (False, False, "active", None))
        self.assertEqual((sheet.alternate, sheet.revision, sheet.status, sheet.batch), ("A", "A", "draft", 1))
        line, operation = sheet.lines[0], sheet.operations[0]
        self.assertEqual((line.kind, line.quantity_basis, line.fixed_loss, line.option_action), ("component", "per_unit", 0, "add"))
        self.assertEqual((line.customer_supplied, line.not_fitted, line.item_locked, line.reference_designators), (False, False, False, []))
        self.assertEqual((operation.crew, operation.setup_crew, operation.yield_percent, operation.stations), (1, 1, 100, 1))
        self.assertEqual(
            (operation.setup_minutes, operation.run_minutes, operation.queue_minutes, operation.wait_minutes, operation.move_minutes),
            (0,) * 5,
        )
        self.assertEqual(operation.subcontract, Subcontract("", D(0), D(0), 0))
        self.assertEqual((read.standard_operations[0].version, read.part_classes[0]), (1, PartClass("C", "", 0, 1, 1, [])))
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
            "build_sheets": [{"part": "M", "operations": [{"sequence": 10, "work_center": "W", "standard": name}]} for name in ("S",)],
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
            (
                {"parts": [made], "build_sheets": [sheet | {"operations": [{"sequence": 10, "work_center": "W"}]}]},
                "operations[0].work_center: work center W is not known",
            ),
            (
                {"parts": [made], "build_sheets": [sheet | {"operations": [{"sequence": 10, "subcontract": {}, "standard": "S"}]}]},
                "operations[0].standard: standard operation S is not known",
            ),
            (
                {"standard_operations": [{"code": "S", "operation": {"work_center": "W"}}]},
                "standard_operations[0].operation.work_center: work center W is not known",
            ),
            (
                {
                    "part_classes": [{"name": "C", "fields": [{"name": "n", "kind": "number"}]}],
                    "parts": [part | {"part_class": "C", "own_values": {"n": "x"}}],
                },
                "parts[0].own_values.n: ",
            ),
            ({"parts": [part | {"part_class": "D", "own_values": {"n": "1"}}]}, "parts[0].own_values.n: D has no field n"),
            ({"parts": [part | {"nonsense": 1}]}, "parts[0].nonsense: there is no field of this name"),
            ({"parts": ["K"]}, "parts[0]: an object is needed"),
            ({"parts": [part | {"lead_time_days": 2**31}]}, "parts[0].lead_time_days: a whole number below"),
            ({"parts": [part | {"lead_time_days": "1.5"}]}, "parts[0].lead_time_days: a whole number"),
            ({"parts": [part | {"description": 5}]}, "parts[0].description: text is needed"),
            ({"parts": [part | {"description": "\ud800"}]}, "parts[0].description: text holds half of a character"),
            ({"parts": [part | {"sold": "yes"}]}, "parts[0].sold: "),
            ({"parts": [made], "build_sheets": [sheet | {"lines": "none"}]}, "build_sheets[0].lines: "),
            (
                {"parts": [made], "build_sheets": [sheet | {"lines": [{"reference_designators": "R1"}]}]},
                "build_sheets[0].lines[0].reference_designators: ",
            ),
            ({"work_centers": [{"code": "W", "rates": [{"labor_rate": "1"}]}]}, "work_centers[0].rates[0].first_day: "),
            ({"work_centers": [{"code": "W", "stops": [{"start": "x", "end": "y"}]}]}, "work_centers[0].stops[0]"),
            ({"currency": "Eur"}, "currency: "),
            ({"extra": 1}, "extra: there is no field"),
        ):
            said = refused(document)
            self.assertTrue(any(told in text for text in said), (told, said))
        self.assertEqual(refused({"parts": [part | {"lead_time_days": 2**31 - 1}]}), [])
        for document in ({}, {"format": "x"}, []):
            with self.assertRaises(ProblemsError):
                read_bundle(document)
        with self.assertRaisesRegex(ProblemsError, "this program reads"):
            read_bundle({"format": "round-tally-bundle", "version": 2})

    def test_the_names_of_options_are_kept(self) -> None:
        document = {"options": [{"code": "LONG", "name": "Long base", "not_with": ["SHORT", "SHORT"]}, {"code": "SHORT"}]}
        read = read_bundle({"format": "round-tally-bundle", "version": 1} | document)
        self.assertEqual((read.options, read.not_together), ({"LONG": "Long base", "SHORT": ""}, {"LONG": ["SHORT"]}))

    def test_a_part_may_be_known_already_and_then_its_class_is_asked_for(self) -> None:
        asked: list[set[str]] = []

        def classes(names: set[str]) -> dict[str, PartClass]:
            asked.append(names)
            return {"C": PartClass("C", fields=[ClassField("n", "number")])}

        part = {"number": "K", "kind": "bought", "unit": "ea", "part_class": "C", "own_values": {"n": "1.50"}}
        plain = {"number": "L", "kind": "bought", "unit": "ea", "part_class": "E"}
        # What the file itself says of a class is not asked for.
        here = {"number": "N", "kind": "bought", "unit": "ea", "part_class": "D", "own_values": {"n": "1.50"}}
        read = read_bundle(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "parts": [part, plain, here],
                "part_classes": [{"name": "D", "fields": [{"name": "n", "kind": "text"}]}],
            },
            known_classes=classes,
        )
        self.assertEqual((asked, [p.own_values for p in read.parts]), ([{"C"}], [{"n": "1.5"}, {}, {"n": "1.50"}]))

    def test_what_stands_with_a_part_and_is_no_field_of_it(self) -> None:
        parts = [
            {"number": "K", "kind": "bought", "unit": "ea", "on_hand": "5", "maker_numbers": [{"number": "N-1", "maker": "Norwick"}]},
            {"number": "L", "kind": "bought", "unit": "ea", "on_hand": None, "maker_numbers": None},
        ]
        read = read_bundle({"format": "round-tally-bundle", "version": 1, "parts": parts})
        self.assertEqual(
            (read.on_hand, {p: [m.number for m in found] for p, found in read.maker_numbers.items()}), ({"K": 5}, {"K": ["N-1"]})
        )

        def parts(numbers: set[str]) -> dict[str, Part]:
            self.assertEqual(numbers, {"OLD"})
            return {"OLD": Part("OLD")}

        sheet = {"part": "M", "lines": [{"part": "OLD"}, {"part": "M2"}]}
        own = [{"number": n, "kind": "made", "unit": "ea"} for n in ("M", "M2")]
        read_bundle({"format": "round-tally-bundle", "version": 1, "parts": own, "build_sheets": [sheet]}, parts)
