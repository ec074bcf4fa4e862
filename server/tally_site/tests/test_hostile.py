"""No request, however wrong, ends in a failure of the server: each is answered, and a refusal changes nothing."""

import random
import uuid
from typing import Any

from definition.models.sheets import Line
from django.test import TestCase
from readings.export_bundle import export_bundle
from testing import Api, load, rod_and_tube, sheet_of

JUNK: list[Any] = [
    None, "", 0, -1, 2.5, 1e300, 10**30, True, [], {}, [1], {"a": 1}, "x" * 70, "\x00", "Л", "=1+1", "1e999", "NaN", "inf", "-5",
    "1,5", "2026-13-01", "0001-01-01", "9999-12-31", "A B", "1e-20", "999999999999999", "\U0001f642", "A" * 21,
    "³", "5²", "٣", "9" * 5000, "\ud800", "1e999999999", "-1e-999999999", float("inf"), [[1]], [{}], {"a": [1]},
]  # fmt: skip
ANSWERED, REFUSED = (200, 400, 404, 422), (400, 404, 422)
LINE = ["item", "kind", "part", "quantity", "unit", "quantity_basis", "scrap_percent", "yield_percent", "fixed_loss", "option",
        "option_action", "customer_supplied", "not_fitted", "reference_designators", "effective_from", "effective_to", "text",
        "operation", "position", "make", "kept_off", "nonsense"]  # fmt: skip
OPERATION = ["sequence", "name", "work_center", "setup_minutes", "run_minutes", "run_basis", "cycle_quantity", "crew", "setup_crew",
             "piece_rate", "yield_percent", "queue_minutes", "wait_minutes", "move_minutes", "after", "subcontract", "stations", "transfer_quantity", "instructions",
             "files", "standard", "standard_version", "run_from_orders", "nonsense"]  # fmt: skip
HEAD = ["batch", "effective_from", "effective_to", "status", "revision", "nonsense"]
PART = ["number", "description", "kind", "unit", "unit_cost", "given_cost", "overhead_percent", "costing_lot", "whole_only",
        "lead_time_days", "lifecycle", "version", "own_values", "supplier", "unmodelled", "sold", "part_class", "markup_percent", "given_reason",
        "selling_price"]  # fmt: skip
CENTER = ["code", "name", "labor_rate", "setup_labor_rate", "machine_rate", "overhead_per_hour", "overhead_percent_of_labor",
          "efficiency_percent", "stations", "version", "group", "crew", "shifts", "rates", "stops"]  # fmt: skip


class Hostile(TestCase):
    """The test client raises whatever a view does not answer, so that each call here is a check."""

    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")
        self.sheet = sheet_of("RT-1")

    def test_edits_of_all_kinds(self) -> None:
        r = random.Random(5)
        own = [str(k) for k in self.sheet.lines.values_list("id", flat=True)]
        own += [str(k) for k in self.sheet.operations.values_list("id", flat=True)]
        strange = [None, str(uuid.uuid4()), str(sheet_of("T-1").lines.get().id)]
        refused = kept = 0
        for _ in range(200):
            table, fields = r.choice([("line", LINE), ("operation", OPERATION), ("sheet", HEAD)])
            after = {r.choice(fields): r.choice(JUNK) for _ in range(r.choice([1, 1, 2]))}
            if r.random() < 0.3:
                after = {"part": "NUT", "quantity": "1", "sequence": 77, "work_center": "LATHE"} | after
                after = {n: v for n, v in after.items() if n in fields}
            change = {
                "table": table,
                "id": r.choice(own + strange),
                "before": r.choice([None, {}]),
                "after": None if r.random() < 0.05 else after,
            }
            before = export_bundle()
            version = sheet_of("RT-1").version
            status, _ = self.api.post(f"/sheets/{self.sheet.id}/edits", {"version": version, "changes": [change]})
            if status == 200:
                kept += 1
                self.assertEqual(self.api.get(f"/sheets/{self.sheet.id}/view", drafts="true", quantity="3")[0], 200)
            else:
                refused += 1
                self.assertIn(status, (400, 409, 422), change)
                self.assertEqual(export_bundle(), before, change)
        self.assertGreater(min(refused, kept), 10)

    def test_records_and_addresses(self) -> None:
        for junk in JUNK:
            for path, key, fields in (("/parts", "number", PART), ("/work-centers", "code", CENTER)):
                for field in fields:
                    whole = {key: f"F{uuid.uuid4().hex[:8]}", "kind": "bought", "unit": "ea"}
                    self.assertIn(self.api.post(path, whole | {field: junk})[0], ANSWERED)
                    self.assertIn(self.api.send("PATCH", f"{path}/one?{key}=NONE", {field: junk})[0], REFUSED)
            for field in ("version", "first_day"):
                body = {"version": 1, "first_day": "2026-12-01", "reason": ""} | {field: junk}
                self.assertIn(self.api.post(f"/sheets/{self.sheet.id}/release", body)[0], REFUSED)
            self.assertIn(self.api.post("/sheets", {"part": junk})[0], REFUSED)
            self.assertIn(self.api.post("/sheets", {"part": "RT-1", "alternate": junk})[0], ANSWERED)
            if isinstance(junk, str | int | float) and junk != "\ud800":
                for path, name in (
                    (f"/sheets/{self.sheet.id}/view", "quantity"),
                    (f"/sheets/{self.sheet.id}/view", "day"),
                    (f"/sheets/{self.sheet.id}/view", "options"),
                    (f"/sheets/{self.sheet.id}/view", "prices"),
                    (f"/sheets/{self.sheet.id}/view", "what_if"),
                    ("/lists/file", "quantity"),
                    ("/lists/file", "shape"),
                    ("/lists/file", "sheet"),
                    ("/lists/look", "column"),
                    ("/lists/look", "keep_out"),
                    ("/lists/look", "kept"),
                    ("/parts", "search"),
                    ("/parts", "offset"),
                    ("/parts/one", "number"),
                    ("/sheets", "part"),
                ):
                    asked = {"part": "RT-1", "shape": "list-csv"} if path.startswith("/lists") else {}
                    self.assertIn(self.api.get(path, **asked | {name: junk})[0], ANSWERED, (path, name, junk))
                for figure in (junk, f"field:{junk}:mass", f"unit:{junk}", f"element:{junk}:material", f"net:{junk}"):
                    self.assertIn(self.api.get("/costing/working", sheet=self.sheet.id, figure=figure)[0], REFUSED)

    def test_many_parts_classes_and_numbers(self) -> None:
        before = export_bundle()
        for junk in JUNK:
            row = {"number": "NUT", "fields": {"unit_cost": "1"}, "version": None}
            for name in row:
                for path in ("/parts/rows/planned", "/parts/rows"):
                    body = {"rows": [row | {name: junk}], "reason": "x"}
                    self.assertIn(self.api.post(path, body)[0], ANSWERED, (path, name, junk))
            for name in PART:
                body = {"rows": [row | {"fields": {name: junk}}]}
                self.assertIn(self.api.post("/parts/rows/planned", body)[0], ANSWERED, (name, junk))
            self.assertIn(self.api.post("/parts/rows/pasted", {"text": junk})[0], REFUSED)
            self.assertIn(self.api.post("/parts/rows/pasted", {"text": f"part number\tunit cost\n{junk}\t{junk}"})[0], ANSWERED)
            own = {"name": "Bars", "prefix": "B-", "digits": 3, "start": 1, "step": 1, "fields": []}
            for name in own:
                self.assertIn(self.api.post("/parts/classes", own | {name: junk})[0], ANSWERED, (name, junk))
            for name in ("name", "kind", "unit", "choices", "expression"):
                field = {"name": "f", "kind": "computed", "expression": "mass_kg"} | {name: junk}
                self.assertIn(self.api.post("/parts/classes", own | {"name": "C", "fields": [field]})[0], ANSWERED)
            change = {"old": "NUT", "new": "NUT", "version": 1}
            for name in change:
                self.assertIn(self.api.post("/parts/renumber", {"changes": [change | {name: junk}]})[0], ANSWERED)
            if isinstance(junk, str | int | float) and junk != "\ud800":
                for path, name in (
                    ("/parts/next-number", "part_class"),
                    ("/parts/numbers-by-position", "sheet"),
                    ("/parts/one/files", "number"),
                    ("/parts/list/csv", "search"),
                ):
                    self.assertIn(self.api.get(path, **{name: junk})[0], ANSWERED, (path, junk))
        kept = export_bundle()
        self.assertEqual(before["build_sheets"], kept["build_sheets"])

    def test_the_library_finished_orders_and_loads(self) -> None:
        self.api.post("/library", {"code": "STD", "values": {"work_center": "LATHE"}})
        for junk in JUNK:
            for name in OPERATION:
                values = {"name": "x", "work_center": "LATHE"} | {name: junk}
                self.assertIn(self.api.post("/library", {"code": f"S{uuid.uuid4().hex[:8]}", "values": values})[0], ANSWERED)
            body = {"code": "STD", "values": {"work_center": "LATHE"}, "version": 1}
            for name in body:
                path = "/library/one?code=STD"
                self.assertIn(self.api.send("PATCH", path, body | {name: junk})[0], ANSWERED, (name, junk))
            self.assertIn(self.api.post("/library/one/refresh?code=STD", {"sheets": junk})[0], REFUSED)
            row = {"order": "W", "part": "RT-1", "sequence": "10", "quantity": "5", "run_minutes": "9", "finished_on": "2026-11-01"}
            for name in row:
                order = {"order": f"W{uuid.uuid4().hex[:8]}"}
                self.assertIn(self.api.post("/finished-orders", row | order | {name: junk})[0], ANSWERED, (name, junk))
            build = {"part": "RT-1", "quantity": "5", "options": [], "wanted": ""}
            for name in build:
                self.assertIn(self.api.post("/work-centers/load", {"builds": [build | {name: junk}]})[0], ANSWERED)
            self.assertIn(self.api.post("/parts/files/named", {"ids": junk})[0], ANSWERED)
            if isinstance(junk, str | int | float) and junk != "\ud800":
                self.assertIn(self.api.get("/finished-orders/measured", operation=junk, last=junk)[0], REFUSED)
                self.assertIn(self.api.get("/library/one/uses", code=junk)[0], ANSWERED)
                self.assertIn(self.api.get("/library/routings", part=junk)[0], ANSWERED)

    def test_what_is_not_there(self) -> None:
        for key in (999_999, 2**31, 2**63, -1):
            for method, path, body in (
                ("POST", f"/sheets/{key}/edits", {"version": 1, "changes": []}),
                ("POST", f"/sheets/{key}/release", {"version": 1, "first_day": "2026-12-01", "reason": "x"}),
                ("POST", f"/inquiries/{key}/decisions", []),
                ("POST", f"/inquiries/{key}/result", {}),
                ("POST", f"/inquiries/{key}/pair", {}),
            ):
                self.assertEqual(self.api.send(method, path, body)[0], 404, path)
            self.assertEqual(self.api.get(f"/sheets/{key}/view")[0], 404)
            self.assertEqual(self.api.get(f"/inquiries/{key}")[0], 404)

    def test_a_line_of_another_sheet_is_out_of_reach(self) -> None:
        tube = sheet_of("T-1").lines.get()
        for before in (None, {"quantity": "500"}):
            body = {"version": 1, "changes": [{"table": "line", "id": str(tube.id), "before": before, "after": {"quantity": "1"}}]}
            status, said = self.api.post(f"/sheets/{self.sheet.id}/edits", body)
            self.assertEqual(
                (status, "no line of this sheet" in said["message"] or "no longer on the sheet" in said["message"]), (422, True)
            )
        self.assertEqual(Line.objects.get(pk=tube.id).quantity, 500)

    def test_rounds_and_questions(self) -> None:
        sheet_of("RT-1").__class__.objects.update(status="released")
        line, step = self.sheet.lines.first(), self.sheet.operations.first()
        assert line is not None and step is not None
        status, the_round = self.api.post("/rounds", {"name": "Own", "first_day": "2026-12-01"})
        self.assertEqual(status, 200, the_round)
        at = f"/rounds/{the_round['id']}"
        before = export_bundle()
        for junk in JUNK:
            for name in ("name", "first_day", "note", "scope", "chosen"):
                body = {"name": uuid.uuid4().hex[:8], "first_day": "2026-12-01", "scope": "all"} | {name: junk}
                self.assertIn(self.api.post("/rounds", body)[0], ANSWERED, (name, junk))
                self.assertIn(self.api.post(f"{at}/change", {name: junk})[0], ANSWERED, (name, junk))
            self.api.post(f"{at}/change", {"name": "Own", "scope": "all", "first_day": "2026-12-01"})
            whole = {"table": "part", "key": "ROD", "field": "unit_cost", "value": "4", "reason": ""}
            for name in whole:
                for start in (whole, whole | {"table": "line", "key": str(line.pk), "field": "quantity"}):
                    body = {"items": [start | {name: junk}]}
                    self.assertIn(self.api.post(f"{at}/proposals", body)[0], ANSWERED, (name, junk))
            for name in ("table", "field", "percent", "part_class", "search", "work_center", "group"):
                body = {"table": "part", "field": "unit_cost", "percent": "1"} | {name: junk}
                self.assertIn(self.api.post(f"{at}/proposals/percent", body)[0], ANSWERED, (name, junk))
            self.assertIn(self.api.post(f"{at}/proposals/list", {"text": f"part\tunit cost\n{junk}\t{junk}"})[0], REFUSED)
            self.assertIn(self.api.post(f"{at}/proposals/withdraw", {"ids": junk})[0], ANSWERED)
            self.assertIn(self.api.post(f"{at}/accept", {"version": junk})[0], (403, *REFUSED))
            rows = [["order", "part", "open", "due"], ["O-1", "ROD", junk, junk], [junk, "ROD", "1", ""]]
            self.assertIn(self.api.post("/parts/open-orders", {"rows": rows})[0], ANSWERED, junk)
            for body in ({"sheet": junk}, {"basis": {"quantity": junk}}, {"other": {"what_if": junk}}, {"other_sheet": junk}):
                asked = {"sheet": self.sheet.pk, "basis": {}, "other": {}} | body
                self.assertIn(self.api.post("/questions/bridge", asked)[0], ANSWERED, body)
            if isinstance(junk, str | int | float) and junk != "\ud800":
                for path, name in (
                    (f"{at}/rows", "sort"), (f"{at}/rows", "search"), (f"{at}/rows", "offset"), (f"{at}/rows", "part_class"),
                    (f"{at}/proposals", "limit"), (f"{at}/working", "figure"), ("/questions/inputs", "quantity"),
                    ("/questions/lots", "day"), ("/questions/lots", "sheet"), ("/costing/standards", "number"),
                ):  # fmt: skip
                    query = {"sheet": self.sheet.pk, "part_id": line.part_id, "side": "new"} | {name: junk}
                    self.assertIn(self.api.get(path, **query)[0], ANSWERED, (path, name, junk))
                tried = f"line,{line.pk},quantity,{junk};operation,{step.pk},run_minutes,{junk}"
                self.assertIn(self.api.get(f"/sheets/{self.sheet.id}/view", what_if=tried)[0], ANSWERED, junk)
                for figure in (f"moves:{junk}", f"moves:part:{junk}:unit_cost", f"moves:line:{line.pk}:{junk}", f"use:{junk}"):
                    self.assertIn(self.api.get("/costing/working", sheet=self.sheet.id, figure=figure)[0], REFUSED)
        # Whatever of it was kept is a proposal; nothing that it is about has changed.
        self.assertEqual(export_bundle(), before)
        self.assertIn(self.api.post(f"{at}/tally", {})[0], ANSWERED)
