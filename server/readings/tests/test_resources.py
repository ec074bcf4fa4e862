"""What works beside an operation: costed, timed, loaded, edited, copied and exported with it."""

import uuid
from datetime import date
from decimal import Decimal

from definition.models.parts import MakerNumber, StockMove
from definition.models.sheets import Operation
from django.test import TestCase
from loading.reads import part_named
from tally_core.basics.errors import ProblemsError
from tally_core.cost.answers import Basis
from testing import Api, load, person, rod_and_tube, sheet_of
from verbs.sheets.open_sheet import open_sheet

from readings.center_load import PlannedBuild, center_load
from readings.comparison import compare
from readings.cost_list import listed
from readings.cost_workbook import cost_list_workbook
from readings.export_bundle import export_bundle

DAY = date(2026, 6, 15)


def with_inspector(status: str = "draft") -> dict:
    """RT-1's turning with an inspector beside it: 6 min set-up, 4 min a unit, half of one person at 60 an hour."""
    document = rod_and_tube(status)
    document["work_centers"].append({"code": "CHECK", "name": "Inspection", "labor_rate": "60"})
    document["build_sheets"][0]["operations"][0]["resources"] = [
        {"work_center": "CHECK", "setup_minutes": "6", "run_minutes": "4", "crew": "0.5"}
    ]
    return document


class Resources(TestCase):
    def setUp(self) -> None:
        load(with_inspector())
        self.api = Api("engineer")
        self.sheet = sheet_of("RT-1")
        self.turn, self.check = Operation.objects.filter(sequence=10).order_by("resource")

    def edit(self, *changes: tuple) -> tuple[int, dict]:
        version = sheet_of("RT-1").version
        sent = [{"table": "operation", "id": str(key), "before": before, "after": after} for key, before, after in changes]
        return self.api.post(f"/sheets/{self.sheet.pk}/edits", {"version": version, "changes": sent})

    def view(self) -> dict:
        return self.api.get(f"/sheets/{self.sheet.pk}/view", drafts="true")[1]

    def test_it_costs_and_takes_time_by_the_rule_of_operations(self) -> None:
        turn, check, fit = self.view()["operations"]
        self.assertEqual((check["beside"], check["resource"], check["sequence"]), (turn["id"], 1, 10))
        # By hand, in a lot of 10: 6/60 h × 60 / 10, and 4/60 h × 0.5 × 60 a unit.
        self.assertEqual((check["elements"]["setup"], check["elements"]["labor"]), (0.6, 2.0))
        self.assertEqual((turn["elements"]["setup"], turn["elements"]["labor"]), (0.8, 2.0))
        # The slowest sets the time: 6 + 40 min against 12 + 30; nobody else waits for it.
        self.assertEqual([round(o["lot_elapsed"] * 40 / 168, 6) for o in (turn, check, fit)], [46.0, 0.0, 10.0])

    def test_its_work_center_is_loaded_from_the_same_start(self) -> None:
        found = center_load([PlannedBuild("RT-1", Basis(DAY, Decimal(10), drafts=True), None)])
        hours = {c["code"]: sum(c["load"]) for c in found["centers"]}
        self.assertAlmostEqual(hours["CHECK"], 46 / 60, places=6)
        self.assertAlmostEqual(hours["LATHE"], (12 + 30 + 10) / 60, places=6)
        self.assertEqual({s["sequence"] for s in found["sources"] if s["center"] == "CHECK"}, {10})

    def test_it_is_added_changed_and_follows_its_operation(self) -> None:
        key = uuid.uuid4()
        status, said = self.edit((key, None, {"beside": str(self.turn.pk), "work_center": "LATHE", "run_minutes": "1"}))
        self.assertEqual(status, 200, said)
        status, said = self.edit((self.check.pk, {"crew": "0.5"}, {"crew": "2"}), (self.turn.pk, {"sequence": 10}, {"sequence": 15}))
        self.assertEqual(status, 200, said)
        rows = list(Operation.objects.filter(sequence=15).order_by("resource").values_list("resource", "crew"))
        self.assertEqual(rows, [(0, 1), (1, 2), (2, 1)])
        self.assertEqual(Operation.history.filter(id=self.check.pk).count(), 2)

    def test_it_goes_with_its_operation_and_comes_back_with_it(self) -> None:
        before = {o["id"]: o for o in self.view()["operations"]}
        lineage = self.check.lineage
        status, said = self.edit((self.turn.pk, {}, None))
        self.assertEqual((status, Operation.objects.count()), (200, 1), said)
        names = ("sequence", "work_center", "setup_minutes", "run_minutes", "crew", "beside", "resource")
        back = [
            (key, None, {n: before[str(key)][n] for n in names if n != "sequence" or key == self.turn.pk})
            for key in (self.check.pk, self.turn.pk)
        ]
        status, said = self.edit(*back)
        self.assertEqual(status, 200, said)
        again = Operation.objects.get(pk=self.check.pk)
        self.assertEqual((again.beside_id, again.resource, again.lineage, again.sequence), (self.turn.pk, 1, lineage, 10))

    def test_what_makes_no_sense_is_refused_at_its_place(self) -> None:
        new = uuid.uuid4()
        for changes, place, told in (
            ([(new, None, {"beside": str(self.turn.pk)})], f"{new}.work_center", "needed"),
            ([(new, None, {"beside": str(self.turn.pk), "work_center": "NONE"})], f"{new}.work_center", "not known"),
            ([(new, None, {"beside": str(self.check.pk), "work_center": "CHECK"})], f"{new}.beside", "not on this"),
            ([(new, None, {"beside": "x", "work_center": "CHECK"})], f"{new}.beside", "not on this sheet"),
            ([(self.check.pk, {}, {"run_basis": "per_cycle"})], f"{self.check.pk}.run_basis", "how many one cycle"),
            ([(self.check.pk, {}, {"beside": None})], f"{self.check.pk}.beside", "not on this sheet"),
            (
                [(self.turn.pk, {}, {"work_center": None, "subcontract": {"unit_price": "1"}})],
                f"{self.check.pk}.work_center",
                "done outside",
            ),
        ):
            status, said = self.edit(*changes)
            self.assertEqual((status, said["problems"][0]["place"]), (422, place), said)
            self.assertIn(told, said["message"])
        line = self.sheet.lines.get(item=10)
        sent = {"table": "line", "id": str(line.pk), "before": {}, "after": {"operation": str(self.check.pk)}}
        status, said = self.api.post(f"/sheets/{self.sheet.pk}/edits", {"version": 1, "changes": [sent]})
        self.assertEqual((status, said["problems"][0]["place"]), (422, f"{line.pk}.operation"))

    def test_the_next_revision_has_its_own_and_a_comparison_names_it(self) -> None:
        self.sheet.status = "released"
        self.sheet.save()
        draft = open_sheet(person("engineer"), "RT-1")
        turn, check = draft.operations.filter(sequence=10).order_by("resource")
        self.assertEqual((check.beside_id, check.lineage), (turn.pk, self.check.lineage))
        check.crew = 3
        check.save()
        rows = compare(self.sheet, Basis(DAY, drafts=True), draft, Basis(DAY, drafts=True))["rows"]
        (row,) = [r for r in rows if r["state"] == "changed" and r["table"] == "operation"]
        (field,) = row["fields"]
        self.assertEqual(field["name"], "resources")
        self.assertIn("crew 0.5", field["left"])
        self.assertIn("crew 3", field["right"])
        self.assertAlmostEqual(row["effect"], 4 / 60 * 60 * 2.5, places=6)

    def test_it_leaves_with_the_bundle_and_the_workbook(self) -> None:
        bundle = export_bundle()
        (sheet,) = [s for s in bundle["build_sheets"] if s["part"] == "RT-1"]
        (beside,) = sheet["operations"][0]["resources"]
        self.assertEqual((beside["work_center"], beside["run_minutes"], beside["setup_crew"]), ("CHECK", "4", "1"))
        load(bundle)
        self.assertEqual((export_bundle(), sheet_of("RT-1").version), (bundle, 1))
        self.assertGreater(len(cost_list_workbook(listed(self.sheet, Basis(DAY, drafts=True)))), 1000)

    def test_a_sensitivity_opens_to_the_same_number(self) -> None:
        status, said = self.api.get("/questions/inputs", sheet=str(self.sheet.pk), drafts="true")
        (row,) = [r for r in said["items"] if r["key"] == str(self.check.pk) and r["field"] == "crew"]
        self.assertEqual(row["more"], "operation 10, resource 1")
        status, working = self.api.get("/costing/working", sheet=str(self.sheet.pk), drafts="true", figure=row["figure"])
        self.assertEqual(status, 200, working)
        self.assertAlmostEqual(working["value"], row["moves"], places=9)


class BesideParts(TestCase):
    """Makers' numbers and counts of stock that a bundle brings with its parts."""

    def setUp(self) -> None:
        document = rod_and_tube()
        document["parts"][1] |= {
            "on_hand": "120",
            "maker_numbers": [{"maker": "Fettle & Co", "number": "N-4", "rank": 2}, {"number": "n 4-b", "rank": 1}],
        }
        load(document)
        self.document = document

    def listed(self) -> list[tuple]:
        rows = MakerNumber.objects.filter(part__number="NUT")
        return [(m.rank, m.maker_id, m.number) for m in rows]

    def test_they_are_kept_by_rank_and_counted_as_a_move(self) -> None:
        self.assertEqual(self.listed(), [(1, None, "n 4-b"), (2, "Fettle & Co", "N-4")])
        self.assertEqual(list(StockMove.objects.values_list("quantity", "reason")), [(Decimal(120), "counted: test")])
        (nut,) = [p for p in export_bundle([part_named("NUT").pk])["parts"]]
        self.assertEqual([m["number"] for m in nut["maker_numbers"]], ["n 4-b", "N-4"])
        self.assertNotIn("on_hand", nut)

    def test_the_same_file_again_changes_nothing_and_another_count_moves_the_difference(self) -> None:
        keys = list(MakerNumber.objects.values_list("pk", flat=True))
        load(self.document)
        self.assertEqual((list(MakerNumber.objects.values_list("pk", flat=True)), StockMove.objects.count()), (keys, 1))
        nut = self.document["parts"][1]
        del nut["maker_numbers"]
        load(self.document | {"parts": [nut | {"on_hand": "100"}]})
        self.assertEqual(sorted(StockMove.objects.values_list("quantity", flat=True)), [Decimal(-20), Decimal(120)])
        self.assertEqual(len(self.listed()), 2)
        load(self.document | {"parts": [nut | {"on_hand": None, "maker_numbers": []}]})
        self.assertEqual((self.listed(), StockMove.objects.count()), ([], 2))

    def test_what_cannot_be_is_named_at_its_place(self) -> None:
        nut = self.document["parts"][1]
        for more, place in (
            ({"on_hand": "-1"}, "parts[0].on_hand"),
            ({"on_hand": "1.5"}, "parts[0].on_hand"),
            ({"on_hand": "1", "kind": "charge"}, "parts[0].on_hand"),
            ({"maker_numbers": [{"maker": "A"}]}, "parts[0].maker_numbers[0].number"),
            ({"maker_numbers": [{"number": "A"}, {"number": "a"}]}, "parts[0].maker_numbers[1].number"),
            ({"maker_numbers": [{"number": "A\u0007"}]}, "parts[0].maker_numbers[0].number"),
            ({"maker_numbers": [{"number": "A", "rank": 0}]}, "parts[0].maker_numbers[0].rank"),
        ):
            with self.assertRaises(ProblemsError) as caught:
                load(self.document | {"parts": [nut | more], "build_sheets": []})
            self.assertEqual(caught.exception.problems[0].place, place, more)
