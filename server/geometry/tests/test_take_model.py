"""Models of parts: AS1 of the CAx-IF (ISO 10303) gives shapes, sizes, masses and pictures; a second one keeps what a person said.

Masses are worked out by hand: a rod of 10 by 200 in steel of 7850 kg/m³ weighs π · 25 · 200 · 7850e-9 kg.
"""

import io
import math
from collections import Counter
from decimal import Decimal
from unittest.mock import patch

import ezdxf
import trimesh
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from demo.shapes import _box, _spreader, assembly, part_file
from django.test import TestCase
from files.models import StoredFile
from formats.step import read_step
from formats.tests.test_step import CAX_IF, of_cax_if
from jobs.models import Job
from PIL import Image
from tally_core.basics.errors import TallyError
from testing import Api, load

from geometry.models import ModelFile, PartShape, PartView

AS1 = "as1-oc-214.stp"


def bracket() -> dict:
    made = [
        ("AS1", [("L-BRACKET-ASSEMBLY", 2), ("ROD-ASSEMBLY", 1), ("PLATE", 1)]),
        ("L-BRACKET-ASSEMBLY", [("L-BRACKET", 1), ("NUT-BOLT-ASSEMBLY", 3)]),
        ("NUT-BOLT-ASSEMBLY", [("BOLT", 1), ("NUT", 1)]),
        ("ROD-ASSEMBLY", [("ROD", 1), ("NUT", 1)]),
    ]
    bought = [("BOLT", "steel"), ("NUT", ""), ("ROD", "steel, drawn"), ("PLATE", "EN AW-5083"), ("L-BRACKET", "unobtainium")]
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "parts": [{"number": n, "kind": "made", "unit": "ea"} for n, _ in made]
        + [{"number": n, "kind": "bought", "unit": "ea", "material": m} for n, m in bought],
        "build_sheets": [
            {"part": n, "status": "released", "lines": [{"part": p, "quantity": str(q), "scrap_percent": "10"} for p, q in lines]}
            for n, lines in made
        ],
    }


class TakeModel(TestCase):
    def setUp(self) -> None:
        load(bracket())
        self.api = Api("engineer")

    def bring(self, number: str, name: str = AS1, content: bytes | None = None) -> tuple[int, dict]:
        with self.captureOnCommitCallbacks(execute=True):
            self.api.upload(name, of_cax_if(AS1) if content is None else content, f"/parts/one/model?number={number}")
        return self.api.get("/parts/one/model", number=number)

    def test_each_part_gets_its_shape_and_what_it_lacked(self) -> None:
        status, said = self.bring("AS1")
        self.assertEqual((status, said["failed"], said["file"], said["problems"]), (200, "", AS1, []))
        rows = {r["name"]: r for r in said["rows"]}
        self.assertEqual(len(rows), 8)
        # The sheet takes one nut fewer than the model holds: on the rod there are two. Losses stand in no model.
        self.assertEqual((rows["nut"]["count"], rows["nut"]["on_sheet"]), (8, 7))
        self.assertEqual((rows["bolt"]["count"], rows["bolt"]["on_sheet"], rows["bolt"]["number"]), (6, 6, "BOLT"))
        # And it is found, level by level: a nut fewer on the rod, and not the plate that is nowhere on a sheet any more.
        sheet = BuildSheet.objects.get(part__number="AS1")
        Line.objects.filter(sheet=sheet, part__number="PLATE").delete()
        found = self.api.get(f"/findings/product/{sheet.pk}")[1]
        self.assertEqual(
            sorted((f["part"], f["message"]) for f in found if f["code"] == "model-count"),
            [
                ("AS1", "the model holds 1 PLATE, which the sheet does not take"),
                ("ROD-ASSEMBLY", "the model holds 2 of NUT, and the sheet takes 1"),
            ],
        )
        (waived,) = (f for f in found if f["part"] == "AS1" and f["code"] == "model-count")
        self.assertEqual(self.api.post("/findings/waivers", {"key": waived["key"], "reason": "comes with the customer"})[0], 200)
        rod = Part.objects.get(number="ROD")
        self.assertEqual((rod.size_mm, rod.version), ("200 x 10 x 10", 2))
        self.assertAlmostEqual(float(rod.mass_kg), math.pi * 25 * 200 * 7850e-9, places=3)
        self.assertIsNone(Part.objects.get(number="L-BRACKET").mass_kg)
        self.assertEqual(rod.history.latest().history_change_reason, f"model {AS1}")
        self.assertEqual(PartShape.objects.count(), 9)
        # Every one of them has a picture by now, the assembly, too.
        for number in ("ROD", "AS1"):
            (file,) = self.api.get("/parts/one/files", number=number)[1]
            content = b"".join(self.api.client.get(f"/api/parts/files/{file['id']}").streaming_content)
            with Image.open(io.BytesIO(content)) as picture:
                self.assertEqual(picture.format, "PNG")
                self.assertEqual(max(picture.size), 592)
                self.assertLess(picture.getextrema()[0], 60)
        # The whole of it in its place: each as often as the file has it, as large as it was measured, its surface turned outward.
        self.assertEqual(said["look"], "AS1")
        scene = trimesh.load(
            io.BytesIO(b"".join(self.api.client.get("/api/parts/one/look.glb?number=AS1").streaming_content)), file_type="glb"
        )
        self.assertIn("no-cache", self.api.client.get("/api/parts/one/look.glb?number=AS1")["Cache-Control"])
        stands = Counter(scene.graph[node][1] for node in scene.graph.nodes_geometry)
        self.assertEqual(stands, {n: rows[n]["count"] for n in ("nut", "bolt", "rod", "plate", "l-bracket")})
        for name, mesh in scene.geometry.items():
            volume = float(PartShape.objects.get(name=name).volume_mm3)
            self.assertLess(abs(mesh.volume / volume - 1), 0.02, name)
        # Millimetres became metres: the rod is 200 from end to end.
        self.assertAlmostEqual(float(scene.extents[0]), 0.2, places=3)
        # A part of it is looked at in it.
        self.assertEqual(self.api.get("/parts/one/model", number="BOLT")[1]["look"], "AS1")
        shape = self.api.get("/parts/one/shape", number="BOLT")[1]
        self.assertEqual((shape["of"], shape["colour"], shape["name"]), ("AS1", "#0000ff", "bolt"))

    def test_a_later_model_renews_what_a_model_gave_and_nothing_else(self) -> None:
        self.bring("AS1")
        Part.objects.filter(number="PLATE").update(size_mm="as drawn", mass_kg=Decimal("9"))
        # As another system wrote it the same assembly has the same sizes: nothing moves, and no picture is kept that nothing names.
        before = list(Part.objects.order_by("pk").values_list("number", "size_mm", "mass_kg", "version"))
        self.bring("AS1", "as1-tu-203.stp", of_cax_if("as1-tu-203.stp"))
        self.assertEqual(list(Part.objects.order_by("pk").values_list("number", "size_mm", "mass_kg", "version")), before)
        self.assertEqual(ModelFile.objects.count(), 2)
        self.assertEqual(StoredFile.objects.filter(content_type="image/png").count(), 9)
        # A drawing lies within its frame.
        shapes = read_step([(AS1, of_cax_if(AS1))], drawn=True)
        nut = next(p for p in shapes["parts"] if p["name"] == "nut")
        self.assertEqual(len(nut["drawing"]["seen"]), 15)
        self.assertTrue(all(0 <= v <= 1000 for line in nut["drawing"]["seen"] for v in line))

    def test_a_model_of_several_files(self) -> None:
        """S1 of the CAx-IF: one file of the assembly, eight of what it refers to; without these it is an assembly of nothing."""
        folder = CAX_IF / "s1-tu-203"
        files = [(f.name, f.read_bytes()) for f in sorted(folder.glob("*.stp"))]
        with self.captureOnCommitCallbacks(execute=True):
            status, said = self.api.upload_all(files, "/parts/one/model?number=AS1")
        self.assertEqual(status, 200, said)
        said = self.api.get("/parts/one/model", number="AS1")[1]
        self.assertEqual((said["failed"], said["file"], said["pieces"], said["problems"]), ("", "s1-tu-203.stp", 8, []))
        self.assertGreaterEqual(said["as_stated"], 8)
        self.assertEqual({r["name"]: r["count"] for r in said["rows"]}["tailturbine"], 2)
        # Two that do not refer to one another are two models; one name twice, or a list among them, is none.
        for wrong, words in (
            ([("a.stp", of_cax_if(AS1)), ("b.stp", of_cax_if("as1_pe_203.stp"))], "do not refer to one another"),
            ([files[0], files[0]], "Two of the files are called footback.stp"),
            ([*files, ("list.csv", b"part;quantity")], "list.csv is no STEP file"),
        ):
            status, answer = self.api.upload_all(wrong, "/parts/one/model?number=AS1")
            self.assertEqual((status, words in str(answer)), (422, True), answer)
        self.assertEqual(ModelFile.objects.count(), 1)

    def test_a_part_that_stands_in_two_models_keeps_both(self) -> None:
        """AS1 within something larger: its own views and its own count stay, and its shape is the newer one's."""
        self.bring("AS1")
        views = list(PartView.objects.values_list("model", "direction"))
        load({"format": "round-tally-bundle", "version": 1, "parts": [{"number": "RIG", "kind": "made", "unit": "ea"}]})
        larger = assembly("RIG", [("AS1", _box(10, 10, 10), [(0, 0, 0)]), ("ROD", _box(5, 5, 50), [(20, 0, 0), (40, 0, 0)])])
        said = self.bring("RIG", "rig.step", larger)[1]
        self.assertEqual({r["number"]: r["count"] for r in said["rows"]}, {"AS1": 1, "ROD": 2})
        self.assertTrue(set(views) < set(PartView.objects.values_list("model", "direction")))
        again = self.api.get("/parts/one/model", number="AS1")[1]
        self.assertEqual((again["file"], {r["number"]: r["count"] for r in again["rows"]}["ROD"]), (AS1, 1))
        self.assertEqual(self.api.get("/parts/one/shape", number="ROD")[1]["of"], "RIG")

    def test_a_part_bent_from_sheet_has_its_flat_outline(self) -> None:
        """Flat: 60 + 14 and a bend of (3 + 0.44 · 3) · π/2, over 92; see ``formats.tests.test_step_sheet``."""
        with self.captureOnCommitCallbacks(execute=True):
            self.api.upload("bent.step", part_file("whatever", _spreader()), "/parts/one/model?number=PLATE")
        shape = self.api.get("/parts/one/shape", number="PLATE")[1]
        self.assertEqual((shape["name"], shape["sheet"]["why_not"], shape["sheet"]["flat"]), ("whatever", "", [92.0, 80.79]))
        content = self.api.client.get("/api/parts/one/flat.dxf?number=PLATE").content
        rings = [e for e in ezdxf.read(io.StringIO(content.decode())).modelspace()]
        self.assertEqual([e.dxf.layer for e in rings], ["OUTLINE", *["CUTOUTS"] * 4])
        xs, ys = zip(*[(x, y) for x, y, *_ in rings[0].get_points()], strict=True)
        self.assertEqual(sorted(round(max(v) - min(v), 1) for v in (xs, ys)), [80.8, 92.0])
        rows = self.api.get("/lists/look", part="AS1", arrangement="summed", column=["number", "flat", "bends", "thickness"])[1]["rows"]
        self.assertEqual({r["number"]: r["cells"][1:] for r in rows}["PLATE"], ["92 × 80.79", 1, 3])
        self.assertEqual({r["number"]: r["cells"][1:] for r in rows}["ROD"], ["", None, None])
        self.bring("AS1")
        self.assertEqual(self.api.get("/parts/one/flat.dxf", number="ROD")[0], 404)

    def test_a_run_time_computed_from_bends_and_the_length_that_is_cut(self) -> None:
        """The spreader has one bend and four round holes of 4.4 (see ``formats.tests.test_step_sheet``): its outline around 92 by 80.79, and 4 · π · 4.4."""
        document = {
            "format": "round-tally-bundle", "version": 1, "currency": "EUR",
            "work_centers": [{"code": "BRAKE", "labor_rate": "60"}],
            "part_classes": [{"name": "bent", "fields": [{"name": "handling", "kind": "number"}]}],
            "parts": [{"number": "BENT", "kind": "made", "unit": "ea", "part_class": "bent", "own_values": {"handling": "2"}}],
            "build_sheets": [{"part": "BENT", "status": "draft", "lines": [{"part": "ROD", "quantity": "1"}],
                              "operations": [{"sequence": 10, "name": "Cut and bend", "work_center": "BRAKE", "run_minutes": "5"}]}],
        }  # fmt: skip
        load(document)
        with self.captureOnCommitCallbacks(execute=True):
            self.api.upload("bent.step", part_file("whatever", _spreader()), "/parts/one/model?number=BENT")
        expression = "handling + bends * 0.5 + cut_length_mm / 1000"

        def asked(text: str) -> dict:
            return self.api.get("/parts/one/run-time", number="BENT", expression=text)[1]

        said = asked(expression)
        known = {k["name"]: k["value"] for k in said["known"]}
        self.assertEqual((known["bends"], known["cutouts"], known["thickness_mm"], known["handling"]), (1, 4, 3, 2))
        self.assertAlmostEqual(known["cut_length_mm"], 2 * (92 + 80.79) + 4 * math.pi * 4.4, delta=0.5)
        self.assertAlmostEqual(float(said["minutes"]), 2 + 0.5 + known["cut_length_mm"] / 1000, places=6)
        self.assertEqual((asked("bends * speed")["minutes"], asked("bends * speed")["problem"]), (None, "The expression needs speed."))
        self.assertEqual((asked("")["problem"], asked("bends.real")["minutes"]), ("", None))
        # Taken as the run time it costs what it says, and stands in the bundle.
        sheet = BuildSheet.objects.get(part__number="BENT")
        operation = sheet.operations.get()
        change = {
            "table": "operation", "id": str(operation.pk),
            "before": {"run_minutes": "5", "run_expression": ""}, "after": {"run_minutes": said["minutes"], "run_expression": expression},
        }  # fmt: skip
        status, answer = self.api.post(f"/sheets/{sheet.pk}/edits", {"version": sheet.version, "changes": [change]})
        self.assertEqual(status, 200, answer)
        operation.refresh_from_db()
        self.assertEqual((operation.run_expression, operation.run_minutes), (expression, Decimal(said["minutes"])))

        def found() -> list[str]:
            return [f["message"] for f in self.api.get(f"/findings/product/{sheet.pk}")[1] if f["code"] == "run-time"]

        self.assertEqual(found(), [])
        # What it is computed from changes: the run time stays, and that is said.
        Part.objects.filter(number="BENT").update(own_values={"handling": "3"})
        later = asked(expression)["minutes"]
        stated = f"{float(said['minutes']):g}"
        self.assertEqual(len(found()), 1)
        self.assertIn(f"operation 10 states {said['minutes']} min, and its expression gives {later} min", found()[0], stated)
        PartShape.objects.all().delete()
        self.assertIn("needs bends, cut_length_mm", found()[0])

    def test_a_section_that_takes_the_reader_down_leaves_the_rest(self) -> None:
        self.bring("AS1")
        held = ModelFile.objects.get()
        section = {"format": 1, "side": "front", "depth": 5, "width": 1, "height": 1, "parts": []}
        PartView.objects.create(model=held, direction="section, front, 5", said=section)
        tried = []

        def falls_over(files: list, drawn: bool = False, sections: tuple = ()) -> dict:
            tried.append(list(sections))
            if sections:
                raise TallyError("it was not read")
            return read_step(files, drawn=drawn)

        with patch("geometry.actions.take_model.read_step", falls_over):
            said = self.bring("AS1", "again.step")[1]
        self.assertEqual((said["file"], said["failed"], tried), ("again.step", "", [[("front", 5)], []]))
        self.assertEqual(PartView.objects.filter(direction__startswith="section").count(), 0)

    def test_what_is_no_model_and_who_may_not(self) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            status, said = self.api.upload("x.step", b"part;quantity", "/parts/one/model?number=AS1")
        self.assertEqual((status, said["message"]), (422, "x.step is no STEP file, whatever its ending says."))
        self.assertEqual(self.api.upload("x.step", of_cax_if(AS1), "/parts/one/model?number=NONE")[0], 404)
        self.assertEqual(Api("viewer").upload("x.step", of_cax_if(AS1), "/parts/one/model?number=AS1")[0], 403)
        whole = of_cax_if(AS1)
        status, said = self.bring("AS1", "cut.step", whole[: len(whole) // 3])
        self.assertEqual((said["file"], said["shape"], said["rows"]), ("", None, []))
        self.assertIn("cut.step", said["failed"])
        self.assertEqual((PartShape.objects.count(), Job.objects.filter(ended_at=None).count()), (0, 0))
        self.assertEqual(self.api.get("/parts/one/shape", number="ROD")[0], 404)
