"""Editing a sheet through the API: saved whole or not at all, undone by its reverse, safe for two people."""

import json
import uuid

from api.sheets import LineRow, OperationRow, PartRow, SheetView
from definition.as_shown import line_values
from definition.models.sheets import Line, Operation
from django.test import TestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase
from readings.export_bundle import export_bundle
from testing import Api, load, rod_and_tube, sheet_of


def change(table: str, key, before, after) -> dict:
    return {"table": table, "id": str(key), "before": before, "after": after}


class Editing(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")
        self.sheet = sheet_of("RT-1")
        self.rod = self.sheet.lines.get(item=10)

    def edit(self, *changes: dict, version: int | None = None, api: Api | None = None):
        version = version or sheet_of("RT-1").version
        return (api or self.api).post(f"/sheets/{self.sheet.id}/edits", {"version": version, "changes": list(changes)})

    def test_an_edit_is_saved_with_a_history_row(self) -> None:
        status, head = self.edit(change("line", self.rod.id, {"quantity": "2"}, {"quantity": "2.5"}))
        self.assertEqual((status, head["version"]), (200, 2))
        rows = Line.history.filter(id=self.rod.id).order_by("-history_date")
        self.assertEqual((str(rows[0].quantity), rows[0].history_user.username, rows.count()), ("2.500000000", "engineer", 2))

    def test_bad_input_names_row_and_field_and_saves_nothing(self) -> None:
        for field, value, told in (
            ("unit", "kg", "kg is a mass, and ROD is stocked in m"),
            ("scrap_percent", "-5", "cannot be negative"),
            ("yield_percent", "0", "must be more than 0"),
            ("quantity", "two", "is not a number"),
            ("part", "NO-SUCH", "is not known"),
            ("effective_to", "soon", "a day like"),
        ):
            good = change("line", self.sheet.lines.get(item=30).id, {}, {"quantity": "9"})
            status, said = self.edit(good, change("line", self.rod.id, {}, {field: value}))
            self.assertEqual(status, 422, field)
            self.assertIn(told, said["message"])
            self.assertIn(f"{self.rod.id}.", said["problems"][0]["place"])
        self.assertEqual(sheet_of("RT-1").version, 1)
        self.assertEqual(self.sheet.lines.get(item=30).quantity, 4)

    def test_a_loop_is_refused_with_its_path(self) -> None:
        tube = sheet_of("T-1")
        tube.status = "draft"
        tube.save()
        body = {"version": tube.version, "changes": [change("line", uuid.uuid4(), None, {"part": "RT-1", "quantity": "1", "position": 9})]}
        status, said = self.api.post(f"/sheets/{tube.id}/edits", body)
        self.assertEqual(status, 422)
        self.assertIn("T-1 → RT-1 → T-1", said["message"])
        self.assertEqual(tube.lines.count(), 1)

    def test_the_second_to_save_is_shown_both_versions(self) -> None:
        self.edit(change("line", self.rod.id, {"quantity": "2"}, {"quantity": "3"}))
        status, said = self.edit(change("line", self.rod.id, {"quantity": "2"}, {"quantity": "4"}), version=1)
        self.assertEqual(status, 409)
        self.assertEqual(said["by"], "engineer")
        conflict = said["conflicts"][0]
        self.assertEqual((conflict["found"], conflict["theirs"], conflict["yours"]), ("2", "3", "4"))
        self.assertEqual(self.edit(change("line", self.rod.id, {"quantity": "3"}, {"quantity": "4"}), version=said["version"])[0], 200)

    def test_a_line_that_comes_back_is_the_one_it_was(self) -> None:
        """Copied with a revision, taken away and put back by an undo: what names the line by its lineage finds it again."""
        body = {"version": 1, "first_day": "2026-01-01", "reason": "first issue"}
        self.api.post(f"/sheets/{self.sheet.id}/release", body)
        draft = self.api.post("/sheets", {"part": "RT-1"})[1]
        line = Line.objects.get(sheet_id=draft["id"], part__number="ROD")
        self.assertEqual((line.lineage == self.rod.lineage, line.copied_from == self.rod.pk), (True, True))
        values = line_values(line)
        for version, before, after in ((1, values, None), (2, None, values)):
            edit = {"version": version, "changes": [change("line", line.pk, before, after)]}
            self.assertEqual(self.api.post(f"/sheets/{draft['id']}/edits", edit)[0], 200)
        self.assertEqual(Line.objects.get(pk=line.pk).lineage, self.rod.lineage)

    def test_who_may_write(self) -> None:
        edit = change("line", self.rod.id, {}, {"quantity": "3"})
        for role in ("viewer", "shop", "buyer", "accountant"):
            status, said = self.edit(edit, api=Api(role))
            self.assertEqual(status, 403, role)
            self.assertIn("engineer", said["message"])
        self.assertEqual(Api("viewer").post("/parts", {"number": "A", "kind": "bought", "unit": "ea"})[0], 403)
        self.assertEqual(Api("viewer").post("/work-centers", {"code": "A"})[0], 403)
        self.assertEqual(Api("viewer").upload("a.csv", b"part,quantity\nA,1\n", "/inquiries/1/files")[0], 403)
        self.assertEqual(Api("viewer").get("/parts")[0], 200)
        self.client.logout()
        self.assertEqual(self.client.get("/api/parts").status_code, 401)

    def test_a_released_sheet_is_locked_and_a_new_revision_follows_it(self) -> None:
        body = {"version": 1, "first_day": "2026-01-01", "reason": "first issue"}
        self.assertEqual(self.api.post(f"/sheets/{self.sheet.id}/release", body | {"reason": " "})[0], 422)
        status, head = self.api.post(f"/sheets/{self.sheet.id}/release", body)
        self.assertEqual((status, head["status"]), (200, "released"))
        status, said = self.edit(change("line", self.rod.id, {}, {"quantity": "3"}))
        self.assertEqual(status, 422)
        self.assertIn("locked", said["message"])
        status, draft = self.api.post("/sheets", {"part": "RT-1"})
        self.assertEqual((status, draft["revision"], draft["status"]), (200, "B", "draft"))
        self.assertEqual(Line.objects.filter(sheet_id=draft["id"]).count(), 3)
        self.assertEqual(self.api.post("/sheets", {"part": "RT-1"})[1]["id"], draft["id"])
        fitted = Line.objects.get(sheet_id=draft["id"], item=20)
        self.assertEqual(fitted.operation.sheet_id, draft["id"])
        self.api.post(f"/sheets/{draft['id']}/release", {"version": 1, "first_day": "2026-06-01", "reason": "next"})
        self.assertEqual(str(sheet_of_revision("RT-1", "A").effective_to), "2026-06-01")

    def test_releasing_needs_released_sheets_below(self) -> None:
        tube = sheet_of("T-1")
        tube.status = "draft"
        tube.save()
        status, said = self.api.post(f"/sheets/{self.sheet.id}/release", {"version": 1, "first_day": "2026-01-01", "reason": "x"})
        self.assertEqual(status, 422)
        self.assertIn("T-1", said["message"])

    def test_operations_change_places_and_their_lines_go_along(self) -> None:
        first, second = self.sheet.operations.order_by("sequence")
        status, _ = self.edit(change("operation", first.id, {}, {"sequence": 20}), change("operation", second.id, {}, {"sequence": 10}))
        self.assertEqual(status, 200)
        self.assertEqual(Line.objects.get(pk=self.rod.pk).operation.sequence, 20)
        status, said = self.edit(change("operation", first.id, {}, {"sequence": 10}))
        self.assertEqual(status, 422)
        self.assertIn("twice", said["message"])

    def test_the_view_is_what_its_schema_says(self) -> None:
        for quantity in ("", "250"):
            status, view = self.api.get(f"/sheets/{self.sheet.id}/view", quantity=quantity, drafts="true")
            self.assertEqual(status, 200)
            SheetView.model_validate(self.api.client.get(f"/api/sheets/{self.sheet.id}/view?quantity={quantity}&drafts=true").json())
            for rows, kind in ((view["parts"], PartRow), (view["lines"], LineRow), (view["operations"], OperationRow)):
                for row in rows:
                    kind.model_validate(row)
            top = view["parts"][view["top"]]
            own = [r["cost"] for r in view["lines"] + view["operations"] if r["parent"] == view["top"]]
            self.assertAlmostEqual(sum(own), top["cost"], places=5)
            self.assertAlmostEqual(sum(top["elements"].values()), top["cost"], places=5)
        status, said = self.api.get(f"/sheets/{self.sheet.id}/view", quantity="-1")
        self.assertEqual((status, said["problems"][0]["place"]), (422, "quantity"))

    def test_a_working_says_who_set_its_inputs(self) -> None:
        self.edit(change("line", self.rod.id, {"quantity": "2"}, {"quantity": "2.5"}))
        status, working = self.api.get("/costing/working", sheet=self.sheet.id, figure=f"net:{self.rod.id}", drafts="true")
        self.assertEqual((status, working["value"]), (200, 2.5))
        self.assertEqual(working["operands"][0]["source"]["by"], "engineer")
        for figure in ("net:1", "unit:999999", "secret:1", f"net:{uuid.uuid4()}"):
            self.assertEqual(self.api.get("/costing/working", sheet=self.sheet.id, figure=figure)[0], 422, figure)

    def test_a_line_kept_off_lists_counts_all_the_same(self) -> None:
        before = self.api.get(f"/sheets/{self.sheet.id}/view", drafts="true")[1]
        self.assertEqual(self.edit(change("line", self.rod.id, {"kept_off": []}, {"kept_off": ["parts", "top"]}))[0], 200)
        after = self.api.get(f"/sheets/{self.sheet.id}/view", drafts="true")[1]
        line = next(x for x in after["lines"] if x["id"] == str(self.rod.id))
        self.assertEqual(line["kept_off"], ["parts", "top"])
        self.assertEqual(after["parts"], before["parts"])
        self.assertEqual(export_bundle()["build_sheets"][0]["lines"][0]["kept_off"], ["parts", "top"])
        status, said = self.edit(change("line", self.rod.id, {}, {"kept_off": ["nowhere"]}))
        self.assertEqual((status, said["problems"][0]["place"]), (422, f"{self.rod.id}.kept_off"))

    def test_an_option_that_removes_too_much_leaves_the_rows_on_screen(self) -> None:
        line = {"part": "NUT", "quantity": "9", "option": "BARE", "option_action": "remove", "position": 9, "item": 40}
        self.edit(change("line", uuid.uuid4(), None, line))
        status, view = self.api.get(f"/sheets/{self.sheet.id}/view", options="BARE", drafts="true")
        self.assertEqual(status, 200)
        self.assertIn("5 ea more than is there (items 30)", view["problem"])
        self.assertEqual(len(view["lines"]), 5)


def sheet_of_revision(number: str, revision: str):
    from definition.models.sheets import BuildSheet

    return BuildSheet.objects.get(part__number=number, revision=revision)


STEP = st.tuples(
    st.sampled_from(["set", "add", "remove", "move", "operation", "no operation", "paste", "group"]), st.integers(0, 9), st.integers(1, 99)
)


class Undoing(HypothesisTestCase):
    @given(st.lists(STEP, min_size=1, max_size=12))
    @settings(max_examples=9, deadline=None)
    def test_undoing_every_edit_gives_back_the_same_bytes(self, steps: list[tuple[str, int, int]]) -> None:
        """Random edits, each undone by its reverse in reverse order, some done again between: the exported bundle is the
        same to the byte, and so it is once all are done again."""
        load(rod_and_tube())
        api, sheet = Api("engineer"), sheet_of("RT-1")

        def exported() -> str:
            return json.dumps(export_bundle(), sort_keys=True)

        def send(changes: list[dict]) -> bool:
            body = {"version": sheet_of("RT-1").version, "changes": changes}
            return api.post(f"/sheets/{sheet.id}/edits", body)[0] == 200

        def values(table: str, key: str) -> dict:
            from definition.as_shown import line_values, operation_values

            if table == "line":
                return line_values(Line.objects.select_related("part", "operation", "option").get(pk=key))
            return operation_values(Operation.objects.select_related("work_center", "standard").get(pk=key))

        before, done = exported(), []
        for kind, which, number in steps:
            lines = [str(k) for k in sheet.lines.order_by("position", "id").values_list("id", flat=True)]
            operations = [str(k) for k in sheet.operations.order_by("sequence").values_list("id", flat=True)]
            line = lines[which % len(lines)] if lines else None
            step = operations[which % len(operations)] if operations else None
            changes: list[dict] = []
            if kind == "set" and line:
                changes = [change("line", line, {"quantity": values("line", line)["quantity"]}, {"quantity": str(number)})]
            elif kind == "add":
                new = {"part": "NUT", "quantity": str(number), "position": number / 10, "operation": step, "item": number}
                changes = [change("line", uuid.uuid4(), None, new)]
            elif kind == "remove" and line:
                changes = [change("line", line, values("line", line), None)]
            elif kind == "move" and line:
                changes = [change("line", line, {"position": values("line", line)["position"]}, {"position": number / 7})]
            elif kind == "paste":
                for place in range(which + 1):
                    pasted = {"part": ("ROD", "NUT")[place % 2], "quantity": f"{number}.5", "position": 50 + place}
                    changes.append(change("line", uuid.uuid4(), None, pasted))
            elif kind == "group":
                # Every other line goes behind the rest, and to another operation.
                for place, moved in enumerate(lines[::2]):
                    now = values("line", moved)
                    found = {"position": now["position"], "operation": now["operation"]}
                    changes.append(change("line", moved, found, {"position": 900.0 + place, "operation": step}))
            elif kind == "operation":
                changes = [
                    change("operation", uuid.uuid4(), None, {"sequence": 100 + number, "work_center": "LATHE", "run_minutes": str(number)})
                ]
            elif kind == "no operation" and step:
                held = [k for k in lines if values("line", k)["operation"] == step]
                changes = [change("line", k, {"operation": step}, {"operation": None}) for k in held]
                changes.append(change("operation", step, values("operation", step), None))
            if changes and send(changes):
                done.append(changes)
        reached = exported()
        for index, changes in enumerate(reversed(done)):
            back = [change(c["table"], c["id"], c["after"], c["before"]) for c in reversed(changes)]
            self.assertTrue(send(back))
            if index % 2:
                # Undone, done again, and undone once more.
                self.assertTrue(send(changes) and send(back))
        self.assertEqual(exported(), before)
        for changes in done:
            self.assertTrue(send(changes))
        self.assertEqual(exported(), reached)
