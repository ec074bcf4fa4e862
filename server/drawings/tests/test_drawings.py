"""Drawings: AS1 of the CAx-IF on paper, balloons that follow the sheet, numbers by position, and the paper at true scale.

That no leader crosses another is asked of plain geometry in ``core.tests.test_drawings``, and here of a whole drawing. SVG is read back as XML, DXF by
ezdxf, PDF by pypdf: a page of A3 has 420 by 297 mm, and AS1, 200 by 150 mm seen from
above, is 100 by 75 at 1:2.
"""

import io
from typing import Any
from xml.etree import ElementTree

import ezdxf
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from django.test import TestCase
from formats.tests.test_step import of_cax_if
from geometry.models import PartView
from geometry.tests.test_take_model import AS1, bracket
from jobs.models import Job
from PIL import Image
from pypdf import PdfReader, PdfWriter
from tally_core.drawings.balloons import crossings
from testing import Api, load

from drawings.models import Drawing, DrawnPicture


class Drawings(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        document = bracket()
        document["parts"].append({"number": "GLUE", "kind": "bought", "unit": "g"})
        for part in document["parts"]:
            if part["number"] in ("PLATE", "GLUE"):
                part["part_class"] = "bought goods"
        document["part_classes"] = [{"name": "bought goods"}]
        lines = document["build_sheets"][0]["lines"]
        for at, line in enumerate(lines, 1):
            line["item"] = 10 * at
        lines.append({"item": 40, "part": "GLUE", "quantity": "3"})
        load(document)
        with cls.captureOnCommitCallbacks(execute=True):
            Api("engineer").upload(AS1, of_cax_if(AS1), "/parts/one/model?number=AS1")

    def setUp(self) -> None:
        self.api = Api("engineer")
        self.drawing = self.api.post("/drawings/one?number=AS1", {})[1]

    def balloons(self) -> dict[str, Any]:
        status, self.drawing = self.api.post("/drawings/one/balloons?number=AS1", {"version": self.drawing["version"]})
        self.assertEqual(status, 200, self.drawing)
        return {b["circles"][0]["number"]: b | b["circles"][0] for b in self.drawing["balloons"]}

    def keep(self, **change: Any) -> tuple[int, Any]:
        laid = self.drawing["laid"] | change
        laid.pop("format", None)
        status, answer = self.api.send("PUT", "/drawings/one?number=AS1", {"version": self.drawing["version"], "laid": laid})
        if status == 200:
            self.drawing = answer
        return status, answer

    def test_a_further_view_stands_where_there_is_room(self) -> None:
        """The first stands in the left half of A3; the others beside it, at the same scale or a smaller one, and none covers another."""
        for direction in ("front", "top", "exploded"):
            body = {"version": self.drawing["version"], "direction": direction}
            status, self.drawing = self.api.post("/drawings/one/views?number=AS1", body)
            self.assertEqual(status, 200, self.drawing)
        sides = {v["key"]: (v["width"], v["height"]) for v in self.drawing["views"]}
        laid = self.drawing["laid"]["views"]
        boxes = [(v["x"], v["y"], v["x"] + sides[v["key"]][0] * v["scale"], v["y"] + sides[v["key"]][1] * v["scale"]) for v in laid]
        self.assertEqual([v["direction"] for v in laid], ["isometric", "front", "top", "exploded"])
        for at, (left, top, right, low) in enumerate(boxes):
            self.assertTrue(left >= 20 and top >= 10 and right <= 410 and low <= 287, boxes[at])
            for other in boxes[:at]:
                self.assertTrue(left >= other[2] or right <= other[0] or top >= other[3] or low <= other[1], (boxes[at], other))
        scales = [v["scale"] for v in laid]
        self.assertEqual(scales, sorted(scales, reverse=True))
        status, refused = self.api.post("/drawings/one/views?number=AS1", {"version": self.drawing["version"], "direction": "askew"})
        self.assertIn("The model has no view “askew”", refused["message"])
        self.assertGreaterEqual(status, 400)

    def test_every_line_gets_a_balloon_where_it_is_seen(self) -> None:
        self.assertEqual(PartView.objects.count(), 9)
        view = self.drawing["views"][0]
        self.assertEqual([p["number"] for p in view["parts"]], ["ROD-ASSEMBLY", "L-BRACKET-ASSEMBLY", "PLATE", "L-BRACKET-ASSEMBLY"])
        found = self.balloons()
        # The same part once, however often it stands; nothing for what no model has.
        self.assertEqual({n: b["item"] for n, b in found.items()}, {"L-BRACKET-ASSEMBLY": 10, "ROD-ASSEMBLY": 20, "PLATE": 30})
        leaders = [(tuple(b["to"]), tuple(b["ends"])) for b in found.values()]
        self.assertEqual(crossings(leaders), [])
        laid = self.drawing["laid"]["views"][0]
        for (x, y), (u, v) in leaders:
            self.assertTrue(25 <= x <= 405 and 15 <= y <= 282)
            self.assertTrue(
                laid["x"] <= u <= laid["x"] + view["width"] * laid["scale"] and laid["y"] <= v <= laid["y"] + view["height"] * laid["scale"]
            )
        self.assertEqual(self.drawing["troubles"], [])

    def test_balloons_follow_the_sheet_and_what_is_untrue_is_said(self) -> None:
        found = self.balloons()
        mine = [
            b | {"to": [200.0, 40.0], "by_hand": True} if b["line"] == found["PLATE"]["line"] else b
            for b in self.drawing["laid"]["balloons"]
        ]
        self.assertEqual(self.keep(balloons=mine)[0], 200)
        draft = BuildSheet.objects.get(pk=self.api.post("/sheets", {"part": "AS1"})[1]["id"])
        Line.objects.filter(sheet=draft, part__number="PLATE").update(item=77, quantity=2)
        Line.objects.filter(sheet=draft, part__number="ROD-ASSEMBLY").delete()
        now = self.api.get("/drawings/one", number="AS1")[1]
        self.assertEqual(
            {c["number"]: (c["item"], c["gone"]) for b in now["balloons"] for c in b["circles"]},
            {"PLATE": (77, False), "L-BRACKET-ASSEMBLY": (10, False), "": (None, True)},
        )
        self.assertEqual(
            now["troubles"],
            ["1 of its balloons means a line that is no longer on the sheet.", "PLATE: the sheet says 2, and the model holds 1."],
        )
        found = self.balloons()
        self.assertEqual({n: b["by_hand"] for n, b in found.items()}, {"PLATE": True, "L-BRACKET-ASSEMBLY": False})
        self.assertEqual(found["PLATE"]["to"], [200.0, 40.0], "what was put by hand stays")
        # A class is left out, and comes back.
        self.assertEqual(self.keep(off=["bought goods"], balloons=[])[0], 200)
        self.assertEqual(set(self.balloons()), {"L-BRACKET-ASSEMBLY"})
        self.keep(off=[])
        self.assertEqual(set(self.balloons()), {"L-BRACKET-ASSEMBLY", "PLATE"})

    def test_a_view_more_and_a_part_left_out(self) -> None:
        first = self.drawing["laid"]["views"][0]
        above = first | {"key": "v2", "direction": "top", "scale": 0.5, "x": 200.0, "y": 20.0}
        self.assertEqual(self.keep(views=[first | {"left_out": ["plate"]}, above])[0], 200)
        found = self.balloons()
        self.assertEqual(found["PLATE"]["view"], "v2", "where it is drawn")
        self.assertEqual(
            [round(x * 0.5, 1) for x in (self.drawing["views"][1]["width"], self.drawing["views"][1]["height"])], [100.0, 75.0]
        )
        for wrong in (
            {"size": "A9"},
            {"views": [first, first]},
            {"views": [first | {"scale": 0}]},
            {"views": [first | {"direction": "askew"}]},
            {"owner": "x" * 99},
            {"balloons": [{"line": "x", "view": "none", "to": [1, 1]}]},
            {"balloons": [{"line": "x", "view": "v1", "to": [1]}]},
            {"views": [first | {"x": 1e9}]},
        ):
            self.assertEqual(self.keep(**wrong)[0], 422, wrong)

    def more(self, **asked: Any) -> dict[str, Any]:
        with self.captureOnCommitCallbacks(execute=True):
            status, answer = self.api.post("/drawings/one/views?number=AS1", {"version": self.drawing["version"], **asked})
        self.assertEqual(status, 200, answer)
        self.drawing = self.api.get("/drawings/one", number="AS1")[1]
        return self.drawing["laid"]["views"][-1]

    def texts(self) -> list[str]:
        return [m["text"] for m in self.drawing["marks"] if m["kind"] == "text"]

    def test_a_section_is_cut_drawn_and_cut_anew_when_the_model_comes_again(self) -> None:
        """AS1 half way along its rod: the plate is hatched, the rod otherwise; on the view from the front the plane is a line at half its 200 mm."""
        front = self.more(direction="front")
        section = self.more(direction="right", depth=100)
        self.assertEqual((section["letter"], section["depth"], self.drawing["troubles"], self.drawing["failed"]), ("A", 100, [], ""))
        said = next(v for v in self.drawing["views"] if v["key"] == section["key"])
        hatched = {p["number"]: p["hatch"] for p in said["parts"] if p["hatch"]}
        self.assertEqual(set(hatched), {"PLATE", "ROD-ASSEMBLY"})
        slopes = {n: {round((w[3] - w[1]) / (w[2] - w[0])) for w in lines} for n, lines in hatched.items()}
        self.assertEqual(sorted(slopes.values(), key=min), [{-1}, {1}], "neighbours differ")
        self.assertIn("A–A", self.texts())
        letters = [m for m in self.drawing["marks"] if m["kind"] == "text" and m["text"] == "A" and m["size"] == 5.0]
        self.assertEqual(len(letters), 2, "at both ends of the cutting line")
        (chain,) = (m["points"] for m in self.drawing["marks"] if m.get("dash") == "chain")
        self.assertAlmostEqual(chain[0], front["x"] + 100 * front["scale"], places=1)
        self.assertEqual(chain[0], chain[2])
        # A detail of it is hatched as closely on paper: at twice the scale, half as far apart on the model.
        detail = self.more(of=section["key"])
        self.assertEqual((detail["letter"], detail["depth"], detail["scale"]), ("B", None, 2 * section["scale"]))
        self.keep(
            views=[v | {"box": [0, 0, said["width"], said["height"]]} if v["key"] == "v4" else v for v in self.drawing["laid"]["views"]]
        )
        again = {p["number"]: p["hatch"] for v in self.drawing["views"] if v["key"] == "v4" for p in v["parts"] if p["hatch"]}
        self.assertAlmostEqual(len(again["PLATE"]) / len(hatched["PLATE"]), 2, delta=0.1)
        self.keep(views=self.drawing["laid"]["views"][:3])
        # The same section again is not cut again; a second place is another letter.
        jobs = Job.objects.filter(kind="section").count()
        self.assertEqual((self.more(direction="right", depth=100)["letter"], Job.objects.filter(kind="section").count()), ("B", jobs))
        # It is made of what the model says today.
        with self.captureOnCommitCallbacks(execute=True):
            self.api.upload(AS1, of_cax_if(AS1), "/parts/one/model?number=AS1")
        self.assertEqual(PartView.objects.filter(direction="section, right, 100").count(), 1)
        self.assertEqual(self.api.get("/drawings/one", number="AS1")[1]["troubles"], [])
        # What lies in front of everything is said, and a drawing that shows it no more lets it go.
        self.more(direction="top", depth=9999)
        self.assertIn("Nothing of the model lies behind 9999 mm from the top", self.drawing["failed"])
        self.assertEqual(self.drawing["troubles"], ["Section C is not cut yet, or lies in front of the model."])
        with_them = self.drawing["laid"]["views"]
        self.keep(views=[v for v in with_them if v["key"] == front["key"]])
        self.more(direction="top", depth=5)
        self.assertEqual([v.direction for v in PartView.objects.filter(direction__startswith="section")], ["section, top, 5"])
        # One that comes back by a step back is cut again.
        with self.captureOnCommitCallbacks(execute=True):
            self.keep(views=[v for v in with_them if v["depth"] != 9999])
        self.drawing = self.api.get("/drawings/one", number="AS1")[1]
        self.assertEqual((self.drawing["troubles"], self.drawing["failed"]), ([], ""))
        # Seen from the corner alone, nobody could tell where it is taken.
        self.keep(views=[v for v in with_them if v["key"] != front["key"] and v["depth"] != 9999])
        words = "Where section {} is taken shows on no view: add one on which its plane is a line."
        self.assertEqual(self.drawing["troubles"], [words.format("A"), words.format("B")])
        for wrong in ({"direction": "isometric", "depth": 5}, {"direction": "front", "depth": -1}, {"of": "v99"}):
            body = {"version": self.drawing["version"], **wrong}
            self.assertEqual(self.api.post("/drawings/one/views?number=AS1", body)[0], 422, wrong)

    def test_a_detail_shows_a_box_of_another_view(self) -> None:
        """The corner of the plate from above, 200 by 150: 40 by 30 of it, at the next scale of ISO 5455 above that of the view it is of."""
        above = self.more(direction="top")
        self.assertEqual(above["scale"], 0.5)
        detail = self.more(of=above["key"])
        self.assertEqual((detail["letter"], detail["scale"], detail["box"]), ("A", 1.0, [75.0, 56.2, 50.0, 37.5]))
        self.keep(
            views=[v | {"box": [0, 0, 40, 30], "scale": 2.0} if v["key"] == detail["key"] else v for v in self.drawing["laid"]["views"]]
        )
        shown = next(v for v in self.drawing["views"] if v["key"] == detail["key"])
        self.assertEqual((shown["width"], shown["height"]), (40, 30))
        points = [p for part in shown["parts"] for line in part["seen"] for p in zip(line[::2], line[1::2], strict=True)]
        self.assertTrue(points and all(0 <= x <= 40 and 0 <= y <= 30 for x, y in points))
        self.assertIn("A (2:1)", self.texts())
        answer = self.api.client.get("/api/drawings/one/paper/svg?number=AS1").content.decode()
        self.assertEqual(answer.count(">A</text>"), 2, "its letter beside what it is of, and the revision in the title")
        for wrong in ({"box": None}, {"box": [0, 0, 0, 5]}, {"of": detail["key"]}, {"letter": "AB"}):
            views = [v | wrong if v["key"] == detail["key"] else v for v in self.drawing["laid"]["views"]]
            self.assertEqual(self.keep(views=views)[0], 422, wrong)

    def test_balloons_that_stand_together_and_how_many(self) -> None:
        found = self.balloons()
        plate, rod = found["PLATE"]["line"], found["ROD-ASSEMBLY"]["line"]
        glue = next(x["line"] for x in self.drawing["lines"] if x["number"] == "GLUE")
        held = self.drawing["laid"]["balloons"]
        together = [b | {"more": [rod, glue]} if b["line"] == plate else b for b in held if b["line"] != rod]
        self.assertEqual(self.keep(balloons=together, quantities=True)[0], 200)
        shown = next(b for b in self.drawing["balloons"] if b["line"] == plate)
        self.assertEqual([(c["item"], c["quantity"]) for c in shown["circles"]], [(30, "1"), (20, "1"), (40, "3")])
        # They are put together wherever they go, and none of them gets a second one.
        found = self.balloons()
        self.assertEqual({n: [c["number"] for c in b["circles"]] for n, b in found.items()}["PLATE"], ["PLATE", "ROD-ASSEMBLY", "GLUE"])
        self.assertEqual(set(found), {"PLATE", "L-BRACKET-ASSEMBLY"})
        paper = self.api.client.get("/api/drawings/one/paper/svg?number=AS1").content.decode()
        self.assertEqual((paper.count("<circle"), paper.count(">× 3<")), (4 + 2, 1))
        self.assertEqual(self.keep(balloons=[*self.drawing["laid"]["balloons"], {"line": rod, "view": "v1", "to": [50, 50]}])[0], 422)
        # What the sheet takes no more is gone from among them.
        draft = BuildSheet.objects.get(pk=self.api.post("/sheets", {"part": "AS1"})[1]["id"])
        Line.objects.filter(sheet=draft, part__number="PLATE").delete()
        self.drawing = self.api.get("/drawings/one", number="AS1")[1]
        self.assertEqual(
            [c["gone"] for c in next(b for b in self.drawing["balloons"] if b["line"] == plate)["circles"]], [True, False, False]
        )
        self.assertEqual([c["number"] for c in self.balloons()["ROD-ASSEMBLY"]["circles"]], ["ROD-ASSEMBLY", "GLUE"])

    def test_what_a_revision_changed_is_marked(self) -> None:
        self.balloons()
        self.assertEqual(self.keep(revisions=True)[0], 200)
        before = self.texts()
        self.assertEqual(before.count("Valid from"), 1)
        # Of the first revision nothing is a change: its letter stands in the table and in the title.
        self.assertEqual(before.count("A"), 2)
        draft = BuildSheet.objects.get(pk=self.api.post("/sheets", {"part": "AS1"})[1]["id"])
        Line.objects.filter(sheet=draft, part__number="PLATE").update(quantity=2)
        Line.objects.filter(sheet=draft, part__number="ROD-ASSEMBLY").update(item=21)
        self.drawing = self.api.get("/drawings/one", number="AS1")[1]
        # The plate's row and its balloon; another number is no change of what is built.
        self.assertEqual((self.texts().count("B"), self.texts().count("A")), (2 + 2, 1))

    def test_a_picture_or_a_page_without_any_model(self) -> None:
        """A part that nobody modelled: an empty paper, on which a picture stands with its longer side at 200 mm, and the second page of a PDF as
        large as it is (A5, ISO 216: 148 by 210 mm), smaller where there is no room at 1:1."""
        self.drawing = self.api.post("/drawings/one?number=ROD-ASSEMBLY", {})[1]
        self.assertEqual((self.drawing["views"], self.drawing["depths"], self.drawing["troubles"]), ([], {}, []))
        photo = io.BytesIO()
        Image.new("RGB", (600, 300), "red").save(photo, "JPEG")
        writer = PdfWriter()
        for width, height in ((100, 100), (148 / 25.4 * 72, 210 / 25.4 * 72)):
            writer.add_blank_page(width, height)
        document = io.BytesIO()
        writer.write(document)

        def bring(name: str, content: bytes, page: int = 1, api: Api = self.api) -> tuple[int, Any]:
            at = f"/drawings/one/pictures?number=ROD-ASSEMBLY&version={self.drawing['version']}&page={page}"
            return api.upload(name, content, at)

        for name, content, page in (("rod.jpg", photo.getvalue(), 1), ("rod.pdf", document.getvalue(), 2)):
            status, self.drawing = bring(name, content, page)
            self.assertEqual(status, 200, self.drawing)
        said = [(v["name"], v["width"], v["height"]) for v in self.drawing["views"]]
        self.assertEqual(said, [("rod.jpg", 200, 100), ("rod.pdf, page 2", 148, 210)])
        first, second = self.drawing["laid"]["views"]
        self.assertEqual((first["scale"], first["direction"], second["scale"]), (1, "picture", 0.5))
        answer = self.api.client.get(f"/api/drawings/one/pictures/{first['picture']}?number=ROD-ASSEMBLY")
        with Image.open(io.BytesIO(b"".join(answer.streaming_content))) as shown:
            self.assertEqual((shown.format, shown.size), ("PNG", (600, 300)))
        self.assertEqual(self.api.get(f"/drawings/one/pictures/{first['picture']}", number="AS1")[0], 404)
        # A balloon on it points where somebody said, 50 mm in and 20 down.
        rod = next(x["line"] for x in self.drawing["lines"] if x["number"] == "ROD")
        laid = self.drawing["laid"] | {"balloons": [{"line": rod, "view": first["key"], "to": [30, 30], "at": [50, 20], "by_hand": True}]}
        laid.pop("format", None)
        body = {"version": self.drawing["version"], "laid": laid}
        status, self.drawing = self.api.send("PUT", "/drawings/one?number=ROD-ASSEMBLY", body)
        self.assertEqual(self.drawing["balloons"][0]["ends"], [first["x"] + 50, first["y"] + 20])
        for shape, held in (("svg", b"data:image/png;base64,"), ("pdf", b"/Subtype /Image"), ("dxf", b"rod.jpg")):
            paper = self.api.client.get(f"/api/drawings/one/paper/{shape}?number=ROD-ASSEMBLY").content
            if shape == "pdf":
                self.assertEqual(len(PdfReader(io.BytesIO(paper)).pages[0].images), 2)
            else:
                self.assertIn(held, paper, shape)
        # What cannot be drawn is said, and nothing of it is kept; a picture has no detail, and no other drawing's stands here.
        for name, content, page, words in (
            ("rod.pdf", document.getvalue(), 3, "has 2 pages; there is no page 3"),
            ("rod.pdf", document.getvalue()[:200], 1, "is no PDF that can be drawn"),
            ("rod.txt", b"part;quantity", 1, "neither a picture nor a PDF"),
            ("rod.png", b"\x89PNG\r\n\x1a\n" + b"0" * 99, 1, "neither a picture nor a PDF"),
        ):
            status, refused = bring(name, content, page)
            self.assertEqual((status, words in refused["message"]), (422, True), refused)
        self.assertEqual(bring("rod.jpg", photo.getvalue(), api=Api("viewer"))[0], 403)
        # No picture of another drawing stands here, whatever somebody sends.
        self.drawing = self.api.post("/drawings/one?number=AS1", {})[1]
        self.assertEqual(self.keep(views=[first | {"key": "v9"}])[0], 200)
        self.assertEqual((self.drawing["views"], self.drawing["troubles"]), ([], ["A picture that stood on it is no longer there."]))
        self.drawing = self.api.get("/drawings/one", number="ROD-ASSEMBLY")[1]
        self.assertEqual(DrawnPicture.objects.count(), 2)
        views = {"version": self.drawing["version"], "of": first["key"]}
        self.assertEqual(self.api.post("/drawings/one/views?number=ROD-ASSEMBLY", views)[0], 422)

    def test_numbers_by_position_with_groups_and_a_lock(self) -> None:
        self.balloons()
        Line.objects.filter(part__number="ROD-ASSEMBLY").update(item_locked=True)
        asked = {"groups": [{"part_class": "bought goods", "start": 500, "step": 5}, {"start": 1, "step": 1}], "tolerance_mm": 10}
        planned = {c["number"]: (c["before"], c["after"]) for c in self.api.post("/drawings/one/numbers/planned?number=AS1", asked)[1]}
        # The plate is alone in its group, and glue, which is seen nowhere, comes behind it.
        self.assertEqual(planned, {"L-BRACKET-ASSEMBLY": (10, 1), "ROD-ASSEMBLY": (20, 20), "PLATE": (30, 500), "GLUE": (40, 505)})
        self.assertEqual(Line.objects.filter(item=505).count(), 0)
        status, now = self.api.post("/drawings/one/numbers?number=AS1", asked)
        self.assertEqual((status, now["revision"], now["status"]), (200, "B", "draft"))
        shown = {c["number"]: c["item"] for b in now["balloons"] for c in b["circles"]}
        self.assertEqual(shown, {n: after for n, (_, after) in planned.items() if n != "GLUE"})
        released = BuildSheet.objects.get(part__number="AS1", revision="A")
        self.assertEqual(sorted(released.lines.values_list("item", flat=True)), [10, 20, 30, 40])
        self.assertEqual(self.api.post("/drawings/one/numbers?number=AS1", {"groups": [{"start": 0}]})[0], 422)

    def test_two_people_and_who_may_not(self) -> None:
        stale = dict(self.drawing)
        self.assertEqual(self.keep(owner="Larkhaven")[0], 200)
        self.drawing = stale
        self.assertEqual(self.keep(owner="Other")[0], 422)
        self.assertEqual(Drawing.objects.get().laid["owner"], "Larkhaven")
        self.assertEqual(Api("viewer").send("PUT", "/drawings/one?number=AS1", {"version": 2, "laid": {}})[0], 403)
        self.assertEqual(Api("viewer").get("/drawings/one", number="AS1")[0], 200)
        self.assertEqual(self.api.post("/drawings/one?number=ROD", {})[0], 422)
        self.assertEqual(self.api.get("/drawings/one", number="ROD")[0], 404)
        Part.objects.filter(number="GLUE").update(description="<b>&")
        self.assertEqual(self.api.get("/drawings/one", number="AS1")[0], 200)

    def test_it_leaves_at_true_scale(self) -> None:
        first = self.drawing["laid"]["views"][0]
        Part.objects.filter(number="AS1").update(description="<Bracket & plate>")
        self.keep(views=[first | {"direction": "top", "scale": 0.5, "x": 100.0, "y": 50.0}], owner="Larkhaven & Sons")
        self.balloons()

        def paper(shape: str) -> bytes:
            answer = self.api.client.get(f"/api/drawings/one/paper/{shape}?number=AS1")
            self.assertEqual(answer.status_code, 200)
            return answer.content

        root = ElementTree.fromstring(paper("svg"))
        space = "{http://www.w3.org/2000/svg}"
        self.assertEqual((root.get("width"), root.get("viewBox")), ("420mm", "0 0 420 297"))
        texts = [t.text for t in root.iter(f"{space}text")]
        for words in ("<Bracket & plate>", "Larkhaven & Sons", "1:2", "L-BRACKET-ASSEMBLY", "30", "Identification number"):
            self.assertIn(words, texts)
        points = [
            tuple(map(float, p.split(",")))
            for line in root.iter(f"{space}polyline")
            if line.get("stroke-width") == "0.35"
            for p in line.get("points", "").split()
        ]
        model = [(x, y) for x, y in points if x < 225]
        # From the left edge of one bracket to the right edge of the other there are 200 mm, and the plate is 150 deep.
        self.assertEqual((min(x for x, _ in model), max(x for x, _ in model)), (100.0, 200.0))
        self.assertEqual((min(y for _, y in model), max(y for _, y in model)), (50.0, 125.0))
        page = PdfReader(io.BytesIO(paper("pdf"))).pages[0]
        self.assertEqual([round(float(x) / 72 * 25.4) for x in (page.mediabox.width, page.mediabox.height)], [420, 297])
        self.assertIn("Assemblydrawing", page.extract_text().replace(" ", ""))
        drawn = ezdxf.read(io.StringIO(paper("dxf").decode()))
        layers = [e.dxf.layer for e in drawn.modelspace()]
        self.assertEqual(layers.count("BALLOONS"), 2 * len(self.drawing["balloons"]))
        self.assertGreater(layers.count("LINES"), 20)
