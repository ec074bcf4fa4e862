"""A drawing in a real browser: balloons at once, a class out, one moved by hand, numbers by position with a group and a lock, a second model."""

import re
import tempfile
from pathlib import Path

from definition.models.sheets import BuildSheet, Line
from demo.shapes import _box, _round, assembly
from drawings.models import Drawing
from formats.tests.test_step import of_cax_if
from geometry.tests.test_take_model import AS1, bracket
from inquiries.models import Inquiry
from openpyxl import load_workbook
from PIL import Image
from playwright.sync_api import FilePayload, expect
from testing import Api, load

from journeys.browser import Journey, keys


class Drawings(Journey):
    def test_balloons_follow_the_sheet_and_the_model(self) -> None:
        document = bracket()
        document["part_classes"] = [{"name": "plates"}]
        next(p for p in document["parts"] if p["number"] == "PLATE")["part_class"] = "plates"
        for at, line in enumerate(document["build_sheets"][0]["lines"], 1):
            line["item"] = 10 * at
        document["parts"].append({"number": "GLUE", "kind": "bought", "unit": "g"})
        document["build_sheets"][0]["lines"].append({"item": 40, "part": "GLUE", "quantity": "3"})
        load(document)
        page = self.sign_in("engineer", "/part/AS1")
        file = Path(tempfile.mkdtemp()) / AS1
        file.write_bytes(of_cax_if(AS1))
        page.get_by_label("A STEP file of it").set_input_files(file)
        # From any side: taken apart it looks otherwise; a row is chosen by key, and what is clicked is its row.
        page.get_by_role("link", name="From any side, and apart").click()
        solid = page.get_by_role("application", name=re.compile("^AS1 as a solid"))
        page.locator("[data-drawn]").wait_for()
        self.check_access(page, "a model from any side")
        whole = solid.screenshot()
        page.get_by_label("Apart").fill("60")
        self.assertNotEqual(solid.screenshot(), whole)
        page.get_by_label("Apart").fill("0")
        parts = page.get_by_role("listbox", name="Parts of the model")
        parts.focus()
        page.keyboard.press("ArrowDown")
        expect(parts.get_by_role("option", selected=True)).to_have_count(1)
        page.keyboard.press("Escape")
        expect(parts.get_by_role("option", selected=True)).to_have_count(0)
        page.get_by_role("button", name="above").click()
        box = solid.bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        expect(parts.get_by_role("option", selected=True)).to_have_count(1)
        page.get_by_role("link", name="open the part").click()
        page.get_by_role("link", name="Where it stands").click()
        expect(parts.get_by_role("option", selected=True)).to_have_count(1)
        page.goto(f"{self.live_server_url}/part/AS1")
        page.get_by_role("link", name="Its drawing").click()
        page.get_by_role("button", name="Begin its drawing").click()
        expect(page.get_by_role("button", name="View isometric")).to_be_visible()
        page.get_by_role("button", name="Put the balloons").click()
        expect(page.get_by_role("button", name="Balloon 30, PLATE")).to_be_visible()
        self.check_access(page, "a drawing")
        # A class goes and comes back.
        page.get_by_label("plates").click()
        expect(page.get_by_role("button", name="Balloon 30, PLATE")).to_have_count(0)
        page.get_by_label("plates").click()
        expect(page.get_by_role("status").filter(has_text="No balloon yet for PLATE")).to_be_visible()
        page.get_by_role("button", name="Bring the balloons up to date").click()
        expect(page.get_by_role("button", name="Balloon 30, PLATE")).to_be_visible()
        # One is moved by the keys, and glue gets one by hand.
        rod = page.get_by_role("button", name="Balloon 20, ROD-ASSEMBLY")
        rod.focus()
        keys(page, "Shift+ArrowLeft")
        expect(rod).to_be_visible()
        page.get_by_role("button", name="A balloon for GLUE").click()
        expect(page.get_by_role("button", name="Balloon 40, GLUE")).to_be_visible()
        # Taken away by its key, and back again.
        page.get_by_role("button", name="Balloon 40, GLUE").focus()
        keys(page, "Delete")
        expect(page.get_by_role("button", name="Balloon 40, GLUE")).to_have_count(0)
        keys(page, "Control+z")
        expect(page.get_by_role("button", name="Balloon 40, GLUE")).to_be_visible()
        expect(page.get_by_role("button", name="Step back")).to_be_enabled()
        by_hand = {b["line"]: b["by_hand"] for b in Drawing.objects.get(part__number="AS1").laid["balloons"]}
        self.assertEqual(sorted(by_hand.values()), [False, False, True, True])
        # A view more, from above, with its hidden edges; it is dragged by the mouse.
        page.get_by_label("Add a view").select_option("top")
        page.get_by_label("hidden edges").click()
        view = page.get_by_role("button", name="View top")
        box = view.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] / 2 + 300, box["y"] + box["height"] / 2, steps=4)
        page.mouse.up()
        expect(page.get_by_role("button", name="Number by position …")).to_be_enabled()
        page.wait_for_function("!document.querySelector('[aria-busy=true]')")
        # Taken apart it is one more view, and goes again.
        page.get_by_label("Add a view").select_option("exploded")
        expect(page.get_by_role("button", name="View exploded")).to_be_visible()
        keys(page, "Control+z")
        expect(page.get_by_role("button", name="View exploded")).to_have_count(0)
        # Cut half way along the rod, a detail of that, and what the detail shows moved by key; a balloon beneath another, with how many.
        page.get_by_label("Add a view").select_option("section")
        section = page.get_by_role("form", name="A section")
        section.get_by_label("Seen from the").select_option("right")
        expect(section.get_by_label("cut")).to_have_value("100")
        keys(page, "Enter")
        expect(page.get_by_text("A–A", exact=True)).to_be_visible(timeout=30_000)
        page.get_by_role("button", name="A detail of it").click()
        frame = page.get_by_role("button", name="What detail B shows")
        frame.focus()
        keys(page, "Shift+ArrowDown")
        page.wait_for_function("!document.querySelector('[aria-busy=true]')")
        expect(page.get_by_role("button", name="View detail B")).to_be_visible()
        self.check_access(page, "a drawing with a section and a detail")
        page.get_by_role("button", name="Take the balloon of GLUE away").click()
        page.get_by_role("button", name="Balloon 30, PLATE").focus()
        page.get_by_role("button", name="The balloon of GLUE beneath the chosen one").click()
        page.get_by_label("how many beside them").click()
        expect(page.get_by_role("button", name="Balloon 30, PLATE; 40, GLUE")).to_contain_text("× 3")
        boxes = {v["letter"]: v["box"] for v in Drawing.objects.get(part__number="AS1").laid["views"] if v["of"]}
        self.assertGreater(boxes["B"][1], boxes["B"][3], "further down than the middle it began with")
        page.get_by_role("button", name="Take the balloon of GLUE away").click()
        expect(page.get_by_role("button", name="A balloon for GLUE")).to_be_visible()
        page.get_by_role("button", name="A balloon for GLUE").click()
        expect(page.get_by_role("button", name="Balloon 40, GLUE")).to_be_visible()
        # Numbers by position: the plate in a range of its own, the rod locked.
        Line.objects.filter(part__number="ROD-ASSEMBLY").update(item_locked=True)
        page.get_by_role("button", name="Number by position …").click()
        numbers = page.get_by_role("region", name="Number by position")
        numbers.get_by_label("A class that counts for itself").select_option("plates")
        expect(numbers).to_contain_text("PLATE 30 → 101")
        expect(numbers).to_contain_text("ROD-ASSEMBLY keeps 20")
        numbers.get_by_role("button", name="Number 1 line").or_(numbers.get_by_role("button", name="Number 2 lines")).click()
        expect(page.get_by_role("button", name="Balloon 101, PLATE")).to_be_visible()
        expect(page.get_by_role("link", name="follows revision B, draft")).to_be_visible()
        self.assertEqual(BuildSheet.objects.get(part__number="AS1", revision="A").lines.get(part__number="PLATE").item, 30)
        # A second model comes, and what was put by hand stays.
        before = {b["line"]: b["to"] for b in Drawing.objects.get(part__number="AS1").laid["balloons"] if b["by_hand"]}
        Api("engineer").upload("as1-tu.stp", of_cax_if("as1-tu-203.stp"), "/parts/one/model?number=AS1")
        page.reload()
        page.get_by_role("button", name="Put the balloons").click()
        expect(page.get_by_role("button", name="Balloon 101, PLATE")).to_be_visible()
        after = {b["line"]: b["to"] for b in Drawing.objects.get(part__number="AS1").laid["balloons"] if b["by_hand"]}
        self.assertEqual(after, before)
        # A part that nobody modelled: a picture, and a balloon that points where it is told to, by mouse and by key.
        page.goto(f"{self.live_server_url}/part/ROD-ASSEMBLY")
        page.get_by_role("link", name="Its drawing").click()
        page.get_by_role("button", name="Begin its drawing").click()
        photo = Path(tempfile.mkdtemp()) / "rod.png"
        Image.new("RGB", (400, 200), "gray").save(photo)
        page.get_by_label("A picture or a PDF").set_input_files(photo)
        expect(page.get_by_role("button", name="View rod.png")).to_be_visible()
        page.get_by_role("button", name="A balloon for ROD").click()
        end = page.get_by_role("button", name=re.compile("^Where the leader of .* ends$"))
        end.focus()
        keys(page, "Shift+ArrowLeft")
        page.wait_for_function("!document.querySelector('[aria-busy=true]')")
        self.check_access(page, "a drawing of a picture")
        expect(page.get_by_role("button", name="Number by position …")).to_be_enabled()
        (held,) = Drawing.objects.get(part__number="ROD-ASSEMBLY").laid["balloons"]
        self.assertEqual(held["at"], [90, 50], "10 mm left of the middle of 200 by 100")
        page.goto(f"{self.live_server_url}/drawings/AS1")
        for words, ending in (("PDF at true scale", ".pdf"), ("DXF", ".dxf")):
            page.get_by_role("button", name="Leaves as …").click()
            with page.expect_download() as download:
                page.get_by_role("menuitem", name=words).click()
            self.assertTrue(download.value.suggested_filename.endswith(ending))


def stand(name: str, plate: float, screws: int, rod: str = "KL-203") -> FilePayload:
    """A made-up stand by STEP: a plate on two feet, with a rod upon it and screws in a row."""
    parts = [
        ("KL-201", _box(120, 60, plate), [(0.0, 0.0, 40.0)]),
        ("KL-202", _box(10, 60, 40), [(0.0, 0.0, 0.0), (110.0, 0.0, 0.0)]),
        (rod, _round(8, 50, 40 + plate, 60, 30), [(0.0, 0.0, 0.0)]),
        ("SCREW-6", _round(3, 6, 40 + plate), [(20.0 + 16 * at, 10.0, 0.0) for at in range(screws)]),
    ]
    return {"name": name, "mimeType": "application/octet-stream", "buffer": assembly("KL-200", parts)}


class FromAModel(Journey):
    def test_from_a_customers_model_to_an_illustrated_list(self) -> None:
        """Everything by mouse and key: what they sent becomes a sheet and its drawing, and their next model changes both."""
        numbered = [("SCREW-6", "ea", "Screw", "fasteners"), ("GLUE", "g", "Glue", None)]
        load(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "part_classes": [{"name": "fasteners"}],
                "parts": [
                    {"number": n, "kind": "bought", "unit": u, "description": d} | ({"part_class": c} if c else {})
                    for n, u, d, c in numbered
                ],
            }
        )
        page = self.sign_in(to="/inquiries")
        page.get_by_role("button", name="New inquiry").first.click()
        keys(page, "A stand", "Tab", "Kestrel Piers", "Enter")
        files = page.get_by_label("Files of the inquiry")
        files.set_input_files(stand("stand.step", plate=8, screws=4))
        expect(page.get_by_role("grid")).to_be_focused(timeout=60_000)
        # The screw is ours by its number; everything else is new.
        keys(page, "t", "Enter")
        expect(page.get_by_role("row").filter(has_text="SCREW-6")).not_to_contain_text("undecided")
        keys(page, "Shift+P")
        page.get_by_role("button", name="Make 4 parts").click()
        expect(page.get_by_text("5 of 5")).to_be_visible()
        keys(page, "s")
        expect(page.get_by_text("new sheet, revision A, a draft")).to_be_visible()
        keys(page, "Enter")
        expect(page.get_by_role("treegrid")).to_be_visible()
        # What is in no model is added, and the number of the plate is held.
        keys(page, "Control+End", "Control+Enter", "GLUE")
        page.get_by_role("option", name="GLUE").first.wait_for()
        keys(page, "Enter", "3", "Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_role("row").filter(has_text="KL-201").get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+d")
        page.get_by_label("Item number locked").check()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        # Its drawing with four views, and balloons at once; glue, which nobody sees, gets its own by hand.
        page.goto(f"{self.live_server_url}/part/KL-200")
        page.get_by_role("link", name="Its drawing").click()
        page.get_by_role("button", name="Begin its drawing").click()
        expect(page.get_by_role("button", name="View isometric")).to_be_visible()
        for view in ("front", "top", "right"):
            page.get_by_label("Add a view").select_option(view)
            expect(page.get_by_role("button", name=f"View {view}")).to_be_visible()
        page.get_by_role("button", name="Put the balloons").click()
        for item, number in ((10, "KL-201"), (20, "KL-202"), (30, "KL-203"), (40, "SCREW-6")):
            expect(page.get_by_role("button", name=f"Balloon {item}, {number}")).to_be_visible()
        page.get_by_role("button", name="A balloon for GLUE").click()
        expect(page.get_by_role("button", name="Balloon 50, GLUE")).to_be_visible()
        page.get_by_label("fasteners").click()
        expect(page.get_by_role("button", name="Balloon 40, SCREW-6")).to_have_count(0)
        # Numbers by where they stand: fasteners in a range of their own, the plate keeps what it has.
        page.get_by_role("button", name="Number by position …").click()
        numbers = page.get_by_role("region", name="Number by position")
        numbers.get_by_label("A class that counts for itself").select_option("fasteners")
        expect(numbers).to_contain_text("KL-201 keeps 10")
        numbers.get_by_role("button", name="Number 3 lines").click()
        expect(page.get_by_role("button", name="Balloon 20, GLUE")).to_be_visible()
        glue = page.get_by_role("button", name="Balloon 20, GLUE")
        glue.focus()
        keys(page, "Shift+ArrowUp")
        page.wait_for_function("!document.querySelector('[aria-busy=true]')")
        # Their next model: a thicker plate, two screws more, and another rod.
        page.goto(f"{self.live_server_url}/inquiries/{Inquiry.objects.get().pk}")
        expect(page.get_by_role("grid")).to_be_focused()
        keys(page, "f")
        files.set_input_files(stand("stand rev B.step", plate=12, screws=6, rod="KL-204"))
        expect(page.get_by_text("replaced by stand rev B.step")).to_be_visible(timeout=60_000)
        keys(page, "Escape")
        expect(page.get_by_role("row").filter(has_text="SCREW-6")).to_contain_text("was: quantity 4")
        # Another size is another thing until somebody says that it is the same.
        expect(page.get_by_role("row").filter(has_text="KL-201")).to_contain_text("undecided")
        keys(page, "t", "Enter")
        expect(page.get_by_text("4 of 5")).to_be_visible()
        page.get_by_role("row").filter(has_text="KL-204").click()
        keys(page, "p")
        expect(page.get_by_label("Number", exact=True)).to_be_focused()
        keys(page, "Enter")
        expect(page.get_by_text("5 of 5")).to_be_visible()
        keys(page, "s")
        what = page.get_by_role("dialog")
        changes = {"SCREW-6": "quantity 4 → 6", "KL-203": "taken away", "KL-204": "new, 1 ea", "GLUE": "not from a list"}
        for number, words in changes.items():
            expect(what.get_by_role("listitem").filter(has_text=number)).to_contain_text(words)
        keys(page, "Enter")
        expect(page.get_by_role("treegrid")).to_be_visible()
        # The drawing says what it lacks, and one step mends it; what was put by hand stays.
        page.goto(f"{self.live_server_url}/drawings/KL-200")
        expect(glue).to_be_visible()
        by_hand = next(b for b in Drawing.objects.get().laid["balloons"] if b["by_hand"])
        expect(page.get_by_role("status").filter(has_text="No balloon yet for KL-204")).to_be_visible()
        expect(page.get_by_text("120 × 60 × 12 mm")).to_be_visible()
        page.get_by_role("button", name="Bring the balloons up to date").click()
        expect(page.get_by_role("button", name=re.compile("^Balloon .*, KL-204$"))).to_be_visible()
        expect(page.get_by_role("button", name=re.compile("^Balloon .*, KL-203$"))).to_have_count(0)
        laid = Drawing.objects.get().laid["balloons"]
        self.assertEqual([b["to"] for b in laid if b["by_hand"]], [by_hand["to"]])
        # Everything with its picture, to be sent to makers.
        page.goto(f"{self.live_server_url}/lists?part=KL-200&arrangement=summed&drafts=1&column=number=Part&column=picture=Picture")
        expect(page.get_by_role("region", name="The list").get_by_role("img")).to_have_count(4)
        with page.expect_download() as download:
            page.get_by_role("button", name="Take the file").click()
        self.assertEqual(len(load_workbook(download.value.path().open("rb")).active._images), 4)
