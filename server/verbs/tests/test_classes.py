"""Classes, numbers, many parts at once, and files, over the API."""

import io
import tempfile
from pathlib import Path

from definition.models.parts import Part, PartClass, PartFile
from definition.models.sheets import Line
from django.test import TestCase, override_settings
from formats.apart import read_tables
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase
from PIL import Image
from readings.export_bundle import export_bundle
from testing import Api, load, rod_and_tube, sheet_of

BARS = {
    "name": "Bars",
    "prefix": "BAR-",
    "digits": 3,
    "start": 10,
    "step": 10,
    "fields": [
        {"name": "length_mm", "kind": "number", "unit": "mm"},
        {"name": "finish", "kind": "choice", "choices": ["bright", "black"]},
        {"name": "kg_per_m", "kind": "computed", "unit": "kg", "expression": "mass_kg / length_mm * 1000"},
    ],
}


class Classes(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")
        self.assertEqual(self.api.post("/parts/classes", BARS)[0], 200)

    def part(self, number: str, **fields) -> dict:
        status, part = self.api.patch(f"/parts/one?number={number}", fields)
        self.assertEqual(status, 200, part)
        return part

    def test_a_part_has_the_fields_of_its_class(self) -> None:
        part = self.part("ROD", part_class="Bars", mass_kg="2.4", own_values={"length_mm": "3000", "finish": "black"})
        self.assertEqual(part["own_values"], {"length_mm": "3000", "finish": "black"})
        self.assertEqual(part["computed"], {"kg_per_m": "0.8"})
        status, said = self.api.patch("/parts/one?number=ROD", {"own_values": {"finish": "pink"}})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "own_values.finish"))
        self.assertIn("bright, black", said["message"])
        # Of another class it lets go of what that one does not have, and the history keeps it.
        self.assertEqual(self.part("ROD", part_class="")["own_values"], {})
        self.assertEqual(Part.objects.get(number="ROD").history.all()[1].own_values["length_mm"], "3000")

    def test_lists_ask_what_parts_say_in_some_fields(self) -> None:
        """Numbers as numbers, words as words; who says nothing, or is of a class without the field, stands in none."""
        self.part("ROD", part_class="Bars", mass_kg="2.4", own_values={"length_mm": "3000", "finish": "black"})
        self.part("NUT", part_class="Bars")
        body = {"parts": ["ROD", "NUT", "TUBE", "no such part"], "names": ["kg_per_m", "finish", "length_mm", "no such field"]}
        with self.assertNumQueries(4):  # two of them ask who asks
            status, said = self.api.post("/parts/own-values", body)
        self.assertEqual(status, 200, said)
        words = said["kg_per_m"].pop("NUT")
        self.assertTrue(words.startswith("–"), words)  # why it cannot be computed
        self.assertEqual(said, {"kg_per_m": {"ROD": 0.8}, "finish": {"ROD": "black"}, "length_mm": {"ROD": 3000}, "no such field": {}})

    def test_rows_state_some_of_the_own_fields_and_leave_the_others(self) -> None:
        self.part("ROD", part_class="Bars", own_values={"length_mm": "3000", "finish": "black"})
        row = {"number": "ROD", "fields": {"own_values": {"length_mm": "2500"}}}
        planned = self.api.post("/parts/rows/planned", {"rows": [row], "reason": ""})[1]["rows"]
        self.assertEqual(planned[0]["changes"], [{"field": "length mm", "before": "3000", "after": "2500"}])
        version = Part.objects.get(number="ROD").version
        self.assertEqual(self.api.post("/parts/rows", {"rows": [row | {"version": version}], "reason": "x"})[0], 200)
        self.assertEqual(Part.objects.get(number="ROD").own_values, {"length_mm": "2500", "finish": "black"})
        # Sent empty, one goes; into another class nothing comes along that it does not have.
        row = {"number": "ROD", "fields": {"own_values": {"finish": ""}}, "version": version + 1}
        self.assertEqual(self.api.post("/parts/rows", {"rows": [row], "reason": "x"})[0], 200)
        self.assertEqual(Part.objects.get(number="ROD").own_values, {"length_mm": "2500"})
        # Words of the search stand in them, too.
        self.assertEqual([p["number"] for p in self.api.get("/parts", search="ro 2500")[1]["items"]], ["ROD"])

    def test_an_expression_that_cannot_be_names_field_and_place(self) -> None:
        for expression, told in (("lenght_mm * 2", "lenght_mm is not known"), ("(1).real", "no dots"), ("kg_per_m", "need one another")):
            wrong = BARS | {"fields": [*BARS["fields"][:2], BARS["fields"][2] | {"expression": expression}]}
            status, said = self.api.post("/parts/classes?name=Bars", wrong | {"version": 1})
            self.assertEqual((status, said["problems"][0]["place"]), (422, "fields[2].expression"))
            self.assertIn(told, said["message"])

    def test_a_field_that_parts_use_is_not_taken_away(self) -> None:
        self.part("ROD", part_class="Bars", own_values={"finish": "black"})
        status, said = self.api.post("/parts/classes?name=Bars", BARS | {"fields": BARS["fields"][:1], "version": 1})
        self.assertEqual(status, 422)
        self.assertIn("ROD has finish “black”", said["message"])
        self.assertEqual(PartClass.objects.get().version, 1)

    def test_parts_follow_a_class_that_is_called_otherwise(self) -> None:
        self.part("ROD", part_class="Bars", own_values={"finish": "black"})
        self.api.post("/parts", {"number": "TAG", "kind": "bought", "unit": "ea", "part_class": "Labels"})
        status, said = self.api.post("/parts/classes?name=Bars", BARS | {"name": "Bar stock", "version": 1})
        self.assertEqual((status, said["parts"]), (200, 1))
        self.assertEqual(Part.objects.get(number="ROD").part_class, "Bar stock")
        listed = [(c["name"], c["version"], c["parts"]) for c in self.api.get("/parts/classes")[1]]
        self.assertEqual(listed, [("Bar stock", 2, 1), ("Labels", 0, 1)])
        self.assertEqual(Api("viewer").post("/parts/classes", BARS)[0], 403)

    def test_classes_travel_in_the_bundle(self) -> None:
        self.part("ROD", part_class="Bars", own_values={"finish": "black"})
        bundle = export_bundle()
        Line.objects.all().delete()
        for model in (PartClass,):
            model.objects.all().delete()
        load(bundle)
        self.assertEqual(export_bundle(), bundle)

    def test_numbers_of_a_class(self) -> None:
        self.assertEqual(self.api.get("/parts/next-number", part_class="Bars")[1], {"number": "BAR-010"})
        for number in ("bolt_long", "bolt_short", "BAR-040"):
            self.api.post("/parts", {"number": number, "kind": "bought", "unit": "ea", "part_class": "Bars", "description": "bolt"})
        _, rows = self.api.post("/parts/numbers-by-class", {"parts": ["bolt_short", "BAR-040", "bolt_long", "NUT"]})
        self.assertEqual([r["new"] for r in rows], ["BAR-050", "BAR-040", "BAR-060", "NUT"])
        self.assertEqual([bool(r["kept"]) for r in rows], [False, True, False, True])
        changes = [{n: r[n] for n in ("old", "new", "version")} for r in rows if not r["kept"]]
        self.assertEqual(self.api.post("/parts/renumber", {"changes": changes}), (200, {"count": 2}))
        self.assertEqual(Part.objects.get(number="BAR-050").description, "bolt (bolt_short)")
        self.assertEqual(self.api.get("/parts/next-number", part_class="Bars")[1], {"number": "BAR-070"})
        self.assertEqual(self.api.get("/parts/next-number", part_class="None")[0], 422)

    def test_a_tree_is_renumbered_by_position(self) -> None:
        tube = sheet_of("T-1")
        tube.status = "draft"
        tube.save()
        top = sheet_of("RT-1")
        _, rows = self.api.get("/parts/numbers-by-position", sheet=top.pk, prefix="RT-1.")
        self.assertEqual({r["old"]: r["new"] for r in rows}, {"ROD": "RT-1.1", "T-1": "RT-1.2", "NUT": "RT-1.3"})
        changes = [{n: r[n] for n in ("old", "new", "version")} for r in rows]
        before = list(Line.objects.order_by("id").values_list("part_id", "quantity"))
        self.assertEqual(self.api.post("/parts/renumber", {"changes": changes})[0], 200)
        self.assertEqual(list(Line.objects.order_by("id").values_list("part_id", "quantity")), before)
        self.assertEqual(Part.objects.get(number="RT-1.2").description, "T-1")
        # Two may change places; a number that is taken, or a part that changed meanwhile, stops all of it.
        rod, nut = Part.objects.get(number="RT-1.1"), Part.objects.get(number="RT-1.3")
        swap = [{"old": a.number, "new": b.number, "version": a.version} for a, b in ((rod, nut), (nut, rod))]
        self.assertEqual(self.api.post("/parts/renumber", {"changes": swap})[0], 200)
        self.assertEqual(Part.objects.get(pk=rod.pk).number, "RT-1.3")
        for change in ({"old": "RT-1.2", "new": "rt-1.3", "version": 2}, {"old": "RT-1.2", "new": "X", "version": 1}):
            self.assertEqual(self.api.post("/parts/renumber", {"changes": [change]})[0], 422)
        self.assertTrue(Part.objects.filter(number="RT-1.2").exists())

    def test_what_released_papers_name_keeps_its_number(self) -> None:
        _, rows = self.api.get("/parts/numbers-by-position", sheet=sheet_of("RT-1").pk, prefix="X")
        kept = {r["old"]: r["kept"] for r in rows}
        self.assertEqual(kept["T-1"], "has the released revision A")
        self.assertEqual(kept["ROD"], "stands on released T-1 rev. A")
        self.assertEqual(kept["NUT"], "")
        status, said = self.api.post("/parts/renumber", {"changes": [{"old": "ROD", "new": "X1", "version": 1}]})
        self.assertEqual(status, 422)
        self.assertIn("ROD stands on released T-1", said["message"])


class ManyParts(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")

    def test_pasted_rows_are_shown_and_then_saved(self) -> None:
        text = "Part number\tDescription\tUnit cost\tLifecycle\nnut\tHex nut\t0,15\tlast buy\nWASHER\tWasher\t0,02\t\nBAD NO\tx\t1,00\t"
        status, said = self.api.post("/parts/rows/pasted", {"text": text})
        self.assertEqual((status, said["columns"]), (200, ["Part number", "Description", "Unit cost", "Lifecycle"]))
        nut, washer, bad = said["rows"]
        self.assertEqual((nut["number"], nut["known"]), ("NUT", True))
        self.assertIn({"field": "Unit cost", "before": "0.1", "after": "0.15"}, nut["changes"])
        self.assertEqual((washer["known"], washer["problems"]), (False, []))
        self.assertIn("holds no blanks", bad["problems"][0])
        rows = [{n: r[n] for n in ("number", "fields", "version")} for r in said["rows"]]
        status, refused = self.api.post("/parts/rows", {"rows": rows})
        self.assertEqual((status, refused["problems"][0]["place"]), (422, "BAD NO.number"))
        self.assertFalse(Part.objects.filter(number="WASHER").exists())
        self.assertEqual(self.api.post("/parts/rows", {"rows": rows[:2], "reason": "pasted"}), (200, {"made": 1, "changed": 1}))
        row = Part.objects.get(number="NUT").history.first()
        self.assertEqual((str(row.unit_cost), row.history_user.username, row.history_change_reason), ("0.150000000", "engineer", "pasted"))
        # Again they change nothing, and the versions that were looked at are outdated.
        self.assertEqual(self.api.post("/parts/rows", {"rows": rows[:1]})[0], 422)
        self.assertEqual(self.api.post("/parts/rows", {"rows": [rows[0] | {"version": 2}]})[1], {"made": 0, "changed": 0})

    def test_a_selection_is_changed_whole_or_not_at_all(self) -> None:
        rows = [{"number": n, "fields": {"lead_time_days": "9", "unit": "kg"}, "version": 1} for n in ("NUT", "ROD")]
        status, said = self.api.post("/parts/rows", {"rows": rows})
        self.assertEqual(status, 422)
        self.assertIn("ROD: kg is a mass", said["message"])
        self.assertEqual(Part.objects.get(number="NUT").lead_time_days, 0)
        rows = [{"number": n, "fields": {"lead_time_days": "9"}, "version": 1} for n in ("NUT", "ROD")]
        self.assertEqual(self.api.post("/parts/rows", {"rows": rows})[1], {"made": 0, "changed": 2})
        self.assertEqual(Api("viewer").post("/parts/rows", {"rows": rows})[0], 403)
        self.assertEqual(Api("viewer").upload("a.csv", b"Part number\nA\n", "/parts/rows/file")[0], 403)

    def test_the_list_leaves_and_comes_back(self) -> None:
        self.api.post("/parts/classes", BARS)
        formula = {
            "number": "EQ",
            "kind": "bought",
            "unit": "ea",
            "description": "=1+1",
            "part_class": "Bars",
            "sold": True,
            "own_values": {"length_mm": "2500"},
        }
        self.assertEqual(self.api.post("/parts", formula)[0], 200)
        before = export_bundle()
        for shape in ("csv", "xlsx"):
            status, content = self.api.get(f"/parts/list/{shape}", part_class="Bars" if shape == "csv" else "")
            self.assertEqual(status, 200)
            status, said = self.api.upload(f"parts.{shape}", content, "/parts/rows/file")
            self.assertEqual(status, 200, said)
            self.assertEqual([r for r in said["rows"] if r["changes"] or r["problems"] or not r["known"]], [], shape)
            rows = [{n: r[n] for n in ("number", "fields", "version")} for r in said["rows"]]
            self.assertEqual(self.api.post("/parts/rows", {"rows": rows})[1], {"made": 0, "changed": 0})
        self.assertEqual(export_bundle(), before)
        self.assertIn("length_mm", read_tables("a.csv", self.api.get("/parts/list/csv", part_class="Bars")[1])[0].rows[0])

    def test_rows_without_a_number_take_the_next_of_their_class(self) -> None:
        self.api.post("/parts/classes", BARS)
        self.api.post("/parts", {"number": "BAR-030", "kind": "bought", "unit": "m", "part_class": "Bars"})
        text = "Part number\tDescription\tClass\n\tFlat bar\tBars\nOWN-1\tOwn\tBars\n\tRound bar\tBars\n\tnothing\t"
        _, said = self.api.post("/parts/rows/pasted", {"text": text})
        self.assertEqual([r["number"] for r in said["rows"]], ["BAR-040", "OWN-1", "BAR-050"])
        _, said = self.api.post("/parts/rows/pasted", {"text": "Class\tDescription\nBars\tAngle"})
        self.assertEqual([r["number"] for r in said["rows"]], ["BAR-040"])
        status, said = self.api.post("/parts/rows/pasted", {"text": "Class\tDescription\nUnheard\tAngle"})
        self.assertEqual((status, "Unheard has no numbering" in said["message"]), (422, True))

    def test_no_header_no_parts(self) -> None:
        for text in ("", "a\tb", "Description\nx", "Part number\n\n", "Part number\n\x00"):
            self.assertEqual(self.api.post("/parts/rows/pasted", {"text": text})[0], 422, text)


class SameList(HypothesisTestCase):
    @given(
        st.lists(
            st.tuples(st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), max_size=12), st.decimals(0, 9999, places=4)),
            min_size=1,
            max_size=6,
        )
    )
    @settings(max_examples=12, deadline=None)
    def test_any_descriptions_and_costs_survive_a_round_trip(self, cells: list) -> None:
        for index, (description, cost) in enumerate(cells):
            Part.objects.create(number=f"P-{index}", description=description, unit_cost=cost, whole_only=True)
        api = Api("engineer")
        for shape in ("csv", "xlsx"):
            _, said = api.upload(f"p.{shape}", api.get(f"/parts/list/{shape}")[1], "/parts/rows/file")
            self.assertEqual([r["changes"] for r in said["rows"]], [[]] * len(cells))


def picture(kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (4, 3), "navy").save(out, kind)
    return out.getvalue()


class Files(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        changed = override_settings(MEDIA_ROOT=folder.name)
        changed.enable()
        self.addCleanup(changed.disable)
        load(rod_and_tube())
        self.api = Api("engineer")

    def keep(self, name: str, content: bytes) -> tuple[int, dict]:
        return self.api.upload(name, content, "/parts/one/files?number=ROD")

    def test_a_picture_is_kept_shown_and_let_go(self) -> None:
        status, kept = self.keep("../../etc/front view.png", picture())
        self.assertEqual((status, kept["name"], kept["picture"], kept["by"]), (200, "front view.png", True, "engineer"))
        self.assertTrue(next(self.folder.rglob("*.*"), None) is None, "kept under a name of our own, without an ending")
        answer = self.api.client.get(f"/api/parts/files/{kept['id']}")
        self.assertEqual((answer["Content-Type"], answer["X-Content-Type-Options"]), ("image/png", "nosniff"))
        self.assertIn("sandbox", answer["Content-Security-Policy"])
        self.assertEqual(b"".join(answer.streaming_content), picture())
        self.assertEqual([f["name"] for f in self.api.get("/parts/one/files", number="ROD")[1]], ["front view.png"])
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(self.api.post(f"/parts/files/{kept['id']}/drop", {})[0], 200)
        self.assertEqual([p for p in self.folder.rglob("*") if p.is_file()], [])
        self.assertEqual(PartFile.history.filter(history_type="-").count(), 1)
        self.assertEqual(self.api.get(f"/parts/files/{kept['id']}")[0], 404)

    def test_other_files_are_handed_down_as_plain_as_they_are(self) -> None:
        for name, content, kind in (
            ("d.pdf", b"%PDF-1.7\n%\xe2\xe3\n", "application/pdf"),
            ("m.step", b"ISO-10303-21;\nHEADER;", "text/plain"),
            ("n.txt", b"<script>alert(1)</script>", "text/plain"),
        ):
            status, kept = self.keep(name, content)
            self.assertEqual(status, 200, name)
            answer = self.api.client.get(f"/api/parts/files/{kept['id']}")
            self.assertEqual(answer["Content-Type"].split(";")[0], kind)
            self.assertTrue(answer["Content-Disposition"].startswith("attachment"))

    def test_what_is_not_kept(self) -> None:
        for name, content, told in (
            ("a.png", b"", "is empty"),
            ("a.png", picture()[:40], "damaged"),
            ("a.html", b"<html></html>", "none of the files"),
            ("a.svg", b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>", "none of the files"),
            ("a.png", b"MZ\x90\x00" + b"\x00" * 300, "none of the files"),
            ("a.step", b"hello", "none of the files"),
            ("a.txt", b"a\x00b", "none of the files"),
            ("a.exe", b"\x7fELF" + b"\x00" * 300, "none of the files"),
        ):
            status, said = self.keep(name, content)
            self.assertEqual(status, 422, name)
            self.assertIn(told, said["message"])
        self.assertEqual(PartFile.objects.count(), 0)
        self.assertEqual([p for p in self.folder.rglob("*") if p.is_file()], [])
        self.assertEqual(Api("viewer").upload("a.png", picture(), "/parts/one/files?number=ROD")[0], 403)
