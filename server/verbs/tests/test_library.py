"""The library of standard operations: linked, fallen behind, brought up, detached; nothing done by halves."""

import io

from definition.models.sheets import BuildSheet, Operation
from definition.models.work_centers import StandardOperation
from django.test import TestCase
from PIL import Image
from testing import Api, load, rod_and_tube, sheet_of

DEBURR = {"name": "Deburr", "work_center": "LATHE", "run_minutes": "0.8", "crew": "2", "instructions": "All **edges**."}


class Library(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")
        self.sheet = sheet_of("RT-1")

    def make(self) -> dict:
        status, entry = self.api.post("/library", {"code": "DEBURR", "values": DEBURR})
        self.assertEqual(status, 200, entry)
        return entry

    def put_on(self, entry: dict, sequence: int = 30) -> Operation:
        after = {"sequence": sequence, "standard": entry["code"], "standard_version": entry["version"], **entry["values"]}
        change = {"table": "operation", "id": "0b8f6a4e-0000-4000-8000-00000000001e", "before": None, "after": after}
        version = sheet_of("RT-1").version
        status, said = self.api.post(f"/sheets/{self.sheet.pk}/edits", {"version": version, "changes": [change]})
        self.assertEqual(status, 200, said)
        return Operation.objects.get(sheet=self.sheet, sequence=sequence)

    def test_an_operation_that_follows_one_falls_behind_and_is_brought_up(self) -> None:
        entry = self.make()
        operation = self.put_on(entry)
        self.assertEqual((str(operation.run_minutes.normalize()), operation.crew, operation.instructions), ("0.8", 2, "All **edges**."))
        status, changed = self.api.patch("/library/one?code=DEBURR", {"code": "DEBURR", "values": {"run_minutes": "0.6"}, "version": 1})
        self.assertEqual((status, changed["version"], changed["uses"], changed["behind"]), (200, 2, 1, 1))
        _, uses = self.api.get("/library/one/uses", code="DEBURR")
        self.assertEqual([(u["part"], u["behind"], u["differs"]) for u in uses], [("RT-1", True, ["run_minutes"])])
        status, said = self.api.post("/library/one/refresh?code=DEBURR", {"sheets": {str(self.sheet.pk): uses[0]["sheet_version"]}})
        self.assertEqual((status, said), (200, {"count": 1}))
        operation.refresh_from_db()
        self.assertEqual((str(operation.run_minutes.normalize()), operation.standard_version), ("0.6", 2))
        reasons = operation.history.order_by("history_id").values_list("history_change_reason", flat=True)
        self.assertEqual(list(reasons)[-1], "brought up to DEBURR, version 2")
        _, listed = self.api.get("/library")
        self.assertEqual(listed[0]["behind"], 0)

    def test_files_go_with_the_entry_and_stay_while_they_are_shown(self) -> None:
        picture = io.BytesIO()
        Image.new("RGB", (8, 8), "red").save(picture, "PNG")
        jig, edge, spare = (
            self.api.upload(f"{n}.png", picture.getvalue(), "/parts/one/files?number=ROD")[1]["id"] for n in ("jig", "edge", "spare")
        )
        entry = self.api.post("/library", {"code": "DEBURR", "values": DEBURR | {"files": [jig, edge]}})[1]
        self.assertEqual(entry["values"]["files"], [jig, edge])
        operation = self.put_on(entry)
        self.assertEqual(Operation.objects.get(pk=operation.pk).files, [jig, edge])
        # In another order, one less and one more: brought up like any other field, and said in the history of the sheet.
        entry = self.api.patch("/library/one?code=DEBURR", {"code": "DEBURR", "values": {"files": [edge, spare]}, "version": 1})[1]
        self.assertEqual((entry["version"], entry["values"]["files"]), (2, [edge, spare]))
        (use,) = self.api.get("/library/one/uses", code="DEBURR")[1]
        self.assertEqual(use["differs"], ["files"])
        self.api.post("/library/one/refresh?code=DEBURR", {"sheets": {str(self.sheet.pk): use["sheet_version"]}})
        shown = self.api.get(f"/sheets/{self.sheet.pk}/view")[1]["operations"]
        self.assertEqual([o["files"] for o in shown if o["id"] == str(operation.pk)], [[edge, spare]])
        (saved, *_) = self.api.get(f"/sheets/{self.sheet.pk}/history")[1]
        self.assertEqual(saved["reason"], "brought up to DEBURR, version 2")
        said = {(c["field"], c["before"], c["after"]) for c in saved["changes"]}
        self.assertTrue({("file", "jig.png", ""), ("file", "", "spare.png")} <= said, said)
        # The next revision shows them, too; what is shown anywhere is not let go of, and what is no longer shown is.
        body = {"version": sheet_of("RT-1").version, "first_day": "2026-01-01", "reason": "first issue"}
        self.api.post(f"/sheets/{self.sheet.pk}/release", body)
        status, draft = self.api.post("/sheets", {"part": "RT-1"})
        self.assertEqual((status, draft["revision"]), (200, "B"))
        self.assertEqual(Operation.objects.get(sheet=draft["id"], sequence=30).files, [edge, spare])
        status, refused = self.api.post(f"/parts/files/{edge}/drop", {})
        self.assertEqual(status, 422)
        self.assertIn("edge.png is shown with ", refused["message"])
        self.assertEqual(self.api.post(f"/parts/files/{jig}/drop", {})[0], 200)

    def test_a_released_sheet_stays_as_it_is(self) -> None:
        self.put_on(self.make())
        BuildSheet.objects.filter(pk=self.sheet.pk).update(status="released")
        self.api.patch("/library/one?code=DEBURR", {"code": "DEBURR", "values": {"run_minutes": "9"}, "version": 1})
        version = sheet_of("RT-1").version
        status, said = self.api.post("/library/one/refresh?code=DEBURR", {"sheets": {str(self.sheet.pk): version}})
        self.assertEqual(status, 422)
        self.assertIn("released and locked", said["message"])
        self.assertEqual(Operation.objects.get(sheet=self.sheet, sequence=30).standard_version, 1)

    def test_who_saves_second_is_told(self) -> None:
        self.make()
        status, said = self.api.patch("/library/one?code=DEBURR", {"code": "DEBURR", "values": {}, "version": 0})
        self.assertEqual(status, 422)
        self.assertIn("changed by somebody else", said["message"])

    def test_one_that_is_followed_stays_in_the_library(self) -> None:
        entry = self.make()
        operation = self.put_on(entry)
        status, said = self.api.post("/library/one/drop?code=DEBURR", {})
        self.assertEqual(status, 422)
        self.assertIn("RT-1 A/A, operation 30, follows DEBURR", said["message"])
        change = {"table": "operation", "id": str(operation.pk), "before": {}, "after": {"standard": None, "standard_version": None}}
        self.api.post(f"/sheets/{self.sheet.pk}/edits", {"version": sheet_of("RT-1").version, "changes": [change]})
        self.assertEqual(self.api.post("/library/one/drop?code=DEBURR", {}), (200, {"count": 0}))
        # The operation is as it was; only what it followed is gone.
        self.assertEqual(str(Operation.objects.get(pk=operation.pk).run_minutes.normalize()), "0.8")

    def test_what_cannot_be_kept_is_named(self) -> None:
        for code, values, told in (
            ("DE BURR", DEBURR, "holds no blanks"),
            ("X", {"name": "x"}, "give either a work center or a subcontract"),
            ("X", DEBURR | {"work_center": "SAW"}, "work center SAW is not known"),
            ("X", DEBURR | {"run_basis": "per_cycle", "cycle_quantity": "0"}, "cycle quantity must be more than 0"),
            ("X", DEBURR | {"files": [77]}, "no longer there"),
            ("X", DEBURR | {"run_minutes": "soon"}, "not a number"),
            ("X", DEBURR | {"instructions": "x" * 20_001}, "at most 20,000 characters"),
        ):
            status, said = self.api.post("/library", {"code": code, "values": values})
            self.assertEqual(status, 422, (code, values))
            self.assertIn(told, said["message"])
        self.assertEqual(StandardOperation.objects.count(), 0)
        self.make()
        self.assertIn("in the library already", self.api.post("/library", {"code": "deburr", "values": DEBURR})[1]["message"])
        self.assertEqual(Api("viewer").post("/library", {"code": "Y", "values": DEBURR})[0], 403)

    def test_a_new_operation_has_the_crew_of_its_work_center(self) -> None:
        status, said = self.api.patch("/work-centers/one?code=LATHE", {"crew": "3"})
        self.assertEqual(status, 200, said)
        for sequence, more, crew in ((30, {}, 3), (40, {"crew": "1"}, 1)):
            change = {
                "table": "operation",
                "id": f"0b8f6a4e-0000-4000-8000-0000000000{sequence}",
                "before": None,
                "after": {"sequence": sequence, "work_center": "LATHE"} | more,
            }
            self.api.post(f"/sheets/{self.sheet.pk}/edits", {"version": sheet_of("RT-1").version, "changes": [change]})
            self.assertEqual(Operation.objects.get(sheet=self.sheet, sequence=sequence).crew, crew)

    def test_routings_are_offered_for_copying(self) -> None:
        self.put_on(self.make())
        status, routings = self.api.get("/library/routings", part="RT-1")
        self.assertEqual(status, 200)
        self.assertEqual([o["values"]["name"] for o in routings[0]["operations"]], ["Turn", "Fit", "Deburr"])
        self.assertEqual(routings[0]["operations"][2]["values"]["standard"], "DEBURR")
