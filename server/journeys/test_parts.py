"""Journeys through the part master: classes and numbers, many parts at once, files, and what a sheet takes of them."""

import csv
import io
import re
import tempfile
from pathlib import Path

from definition.models.parts import Part, PartClass, PartFile, Workspace
from definition.models.sheets import BuildSheet, Line
from demo.load_demo import load_demo
from django.test import override_settings
from PIL import Image
from playwright.sync_api import expect
from testing import Api, load, rod_and_tube

from journeys.browser import Journey, keys


class PartMaster(Journey):
    def test_a_class_gives_its_parts_fields_and_numbers(self) -> None:
        page = self.sign_in(to="/parts/classes")
        page.get_by_role("button", name="Make the first class").click()
        page.get_by_label("Class", exact=True).fill("Bars")
        page.get_by_label("Prefix").fill("BAR-")
        page.get_by_label("Digits").fill("4")
        expect(page.get_by_text("BAR-0001, BAR-0002")).to_be_visible()
        for index, (name, kind, unit, expression) in enumerate(
            (("length_mm", "number", "mm", ""), ("per_metre", "computed", "", "unit_cost / lenght_mm * 1000")), 1
        ):
            page.get_by_role("button", name="Add a field").click()
            page.get_by_label(f"Name of field {index}").fill(name)
            page.get_by_label(f"Kind of field {index}").select_option(kind)
            if unit:
                page.get_by_label(f"Unit of field {index}").fill(unit)
            if expression:
                page.get_by_label(f"Expression of field {index}").fill(expression)
        page.get_by_role("button", name="Make the class").click()
        expect(page.get_by_role("alert")).to_contain_text("lenght_mm is not known here; known are length_mm")
        page.get_by_label("Expression of field 2").fill("unit_cost / length_mm * 1000")
        page.get_by_label("Over the structure of field 2").select_option("adds up")
        page.get_by_role("button", name="Make the class").click()
        expect(page.get_by_role("status")).to_contain_text("Made class Bars")
        self.check_access(page, "classes")
        page.goto(f"{self.live_server_url}/parts?new=1")
        # The list behind the dialog has a field of the same name.
        page.get_by_role("dialog").get_by_label("Class", exact=True).fill("Bars")
        page.get_by_role("button", name="Next").click()
        expect(page.get_by_label("Part number")).to_have_value("BAR-0001")
        page.get_by_label("Unit cost").fill("12")
        page.get_by_label("length, mm").fill("3000")
        page.get_by_role("button", name="Make the part").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        part = Part.objects.get(number="BAR-0001")
        self.assertEqual((part.own_values, part.part_class), ({"length_mm": "3000"}, "Bars"))
        page.goto(f"{self.live_server_url}/parts?part=BAR-0001")
        expect(page.get_by_role("dialog").locator("output")).to_have_text("4")
        self.check_access(page, "a part with fields of its own")
        # In the list of its class they are columns; the search looks through them; a selection changes one.
        Api("engineer").post("/parts", {"number": "BAR-0002", "kind": "bought", "unit": "ea", "part_class": "Bars"})
        page.goto(f"{self.live_server_url}/parts")
        page.get_by_label("Class", exact=True).select_option("Bars")
        options = page.get_by_role("listbox", name="Parts").get_by_role("option")
        expect(options).to_have_count(2)
        expect(options.first).to_contain_text("3\u202f000")
        page.get_by_label("Find by number or description").fill("3000")
        expect(options).to_have_count(1)
        page.get_by_label("Find by number or description").fill("")
        expect(options).to_have_count(2)
        keys(page, "ArrowDown", "Space", "Shift+ArrowDown")
        page.get_by_role("button", name="Change a field").click()
        page.get_by_label("Field", exact=True).select_option(label="length mm, mm")
        page.get_by_label("Becomes").fill("2 500")
        page.get_by_role("button", name="See what it changes").click()
        expect(page.get_by_role("listitem").first).to_contain_text("length mm 3000 → 2500")
        page.get_by_role("button", name="Change 2", exact=True).click()
        expect(page.get_by_role("status").last).to_contain_text("changed 2 parts")
        expect(options.nth(1)).to_contain_text("2\u202f500")
        self.check_access(page, "the parts of a class")
        self.assertEqual(PartClass.objects.get().history.count(), 1)
        self.assertEqual([f["rolls_up"] for f in PartClass.objects.get().fields], ["", "sum"])

    def test_a_selection_is_changed_and_rows_are_pasted(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/parts")
        parts = page.get_by_role("listbox", name="Parts")
        expect(parts.get_by_role("option")).to_have_count(4)
        page.keyboard.press("ArrowDown")
        expect(parts).to_be_focused()
        for key in ("Space", "Shift+ArrowDown"):
            page.keyboard.press(key)
        expect(page.get_by_role("toolbar", name="Chosen parts")).to_contain_text("2 parts chosen")
        page.get_by_role("button", name="Change a field").click()
        page.get_by_label("Field", exact=True).select_option("lead_time_days")
        page.get_by_label("Becomes").fill("soon")
        page.get_by_role("button", name="See what it changes").click()
        expect(page.get_by_text("2 of 2 cannot become this")).to_be_visible()
        page.get_by_label("Becomes").fill("12")
        page.get_by_role("button", name="See what it changes").click()
        expect(page.get_by_role("listitem").first).to_contain_text("Lead time, days 0 → 12")
        page.get_by_role("button", name="Change 2", exact=True).click()
        expect(page.get_by_role("status")).to_contain_text("changed 2 parts")
        self.assertEqual(sorted(Part.objects.filter(lead_time_days=12).values_list("number", flat=True)), ["NUT", "ROD"])
        rows = "Part number\tDescription\tUnit cost\nNUT\tHex nut\t0,12\nPIN\tDowel pin\t0,05\nN O\tx\t1"
        parts.focus()
        page.evaluate(
            """rows => { const data = new DataTransfer(); data.setData("text/plain", rows);
            document.activeElement.dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true})) }""",
            rows,
        )
        dialog = page.get_by_role("dialog", name="Rows for the part list")
        expect(dialog.get_by_role("listitem")).to_have_count(3)
        expect(dialog).to_contain_text("1 cannot be saved as they are")
        expect(dialog).to_contain_text("Description – → Hex nut")
        dialog.get_by_role("button", name="Save 2 of 3").click()
        expect(page.get_by_role("status")).to_contain_text("Made 1 part, changed 1 part")
        self.assertEqual(str(Part.objects.get(number="PIN").unit_cost), "0.050000000")
        page.get_by_role("button", name="List …").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name="As CSV, as found").click()
        self.assertIn("PIN,Dowel pin", Path(download.value.path()).read_text("utf-8-sig"))

    def test_a_tree_gets_numbers_by_position(self) -> None:
        load(rod_and_tube())
        BuildSheet.objects.update(status="draft")
        page = self.sign_in(to="/sheets/RT-1")
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Renumber the parts by position").click()
        dialog = page.get_by_role("dialog", name="New part numbers")
        expect(dialog.get_by_role("row")).to_have_count(2)
        dialog.get_by_label("made parts only").click()
        expect(dialog.get_by_role("row")).to_have_count(4)
        dialog.get_by_label("Before each number").fill("Q")
        expect(dialog.get_by_role("row").nth(2)).to_contain_text("T-1")
        expect(dialog.get_by_role("row").nth(2)).to_contain_text("Q2")
        dialog.get_by_role("button", name="Renumber 3").click()
        expect(page.get_by_role("treegrid")).to_contain_text("Q2")
        self.assertEqual(Part.objects.get(number="Q2").description, "T-1")

    def test_a_picture_stands_beside_a_part(self) -> None:
        load(rod_and_tube())
        out = io.BytesIO()
        Image.new("RGB", (40, 30), "steelblue").save(out, "PNG")
        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            page = self.sign_in(to="/parts")
            page.get_by_role("option").filter(has_text="ROD").first.click()
            page.get_by_text("Pictures and files").click()
            with page.expect_file_chooser() as chooser:
                page.get_by_role("button", name="Add a picture or a file").click()
            chooser.value.set_files([{"name": "view.png", "mimeType": "image/png", "buffer": out.getvalue()}])
            picture = page.get_by_role("img", name="view.png")
            expect(picture).to_be_visible()
            self.assertEqual(picture.evaluate("i => i.naturalWidth"), 40)
            with page.expect_file_chooser() as chooser:
                page.get_by_role("button", name="Add a picture or a file").click()
            chooser.value.set_files([{"name": "run.svg", "mimeType": "image/svg+xml", "buffer": b"<svg/>"}])
            expect(page.get_by_role("alert")).to_contain_text("none of the files kept here")
            page.get_by_role("button", name="let go of view.png").click()
            expect(page.get_by_role("img", name="view.png")).to_have_count(0)
            self.assertEqual(PartFile.objects.count(), 0)

    def test_things_on_no_drawing_and_lines_kept_off_lists(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155")
        # Only rows that are seen exist, and all of them are to be counted here.
        page.set_viewport_size({"width": 1280, "height": 1400})
        page.get_by_label("Revision").select_option(label="alternate A, revision B, draft")
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Add things on no drawing").click()
        page.get_by_label("Amount of CMP-0417").fill("1,5")
        page.get_by_role("button", name="Put 1 on the sheet").click()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        line = Line.objects.get(sheet__part__number="HL-155", sheet__status="draft", part__number="CMP-0417")
        self.assertEqual((line.quantity, line.unit), (line.quantity.__class__("1.5"), ""))
        row = page.get_by_role("row").filter(has_text="CMP-0417")
        row.first.get_by_text("Thermal paste").click()
        page.keyboard.press("Alt+d")
        page.get_by_role("group", name="Not shown, but counted, on").get_by_label("parts only").click()
        page.get_by_role("group", name="Not shown, but counted, on").get_by_label("lines alone").click()
        expect(page.get_by_role("row").filter(has=page.get_by_title("not shown on: lines, parts"))).to_be_visible()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_label("Read as").select_option("lines")
        expect(page.get_by_text("1 line is kept off this list")).to_be_visible()
        expect(page.get_by_role("row").filter(has_text="CMP-0417")).to_have_count(0)
        page.get_by_label("Columns for").select_option("buying")
        page.get_by_role("row").filter(has_text="HL155-22").or_(page.get_by_role("row").filter(has_text="HL155-20")).first.get_by_label(
            "Open in place"
        ).click()
        page.get_by_role("button", name="Sheet …").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name="These rows as CSV").click()
        rows = list(csv.DictReader(io.StringIO(Path(download.value.path()).read_text("utf-8-sig"))))
        self.assertEqual(list(rows[0])[-5:], ["Needed", "Short", "Supplier", "Bought by", "Days"])
        # As it stands: without what is kept off, with what was opened in place.
        self.assertNotIn(("0", "CMP-0417"), [(r["Level"], r["Part"]) for r in rows])
        self.assertIn(("1", "CMP-0417"), [(r["Level"], r["Part"]) for r in rows])
        self.assertEqual(next(r["Supplier"] for r in rows if r["Part"] == "FLS-01"), "Northquay Components")
        page.get_by_role("button", name="show", exact=True).click()
        # The other stands below the light engine, which was opened.
        expect(page.get_by_role("row").filter(has_text="CMP-0417")).to_have_count(2)
        # The light engine takes it, too, and that line is on the list: the part stands there with all of it.
        page.get_by_label("Read as").select_option("parts")
        expect(page.get_by_role("row").filter(has_text="CMP-0417")).to_have_count(1)
        Line.objects.filter(part__number="CMP-0417").update(kept_off=["parts"])
        page.reload()
        expect(page.get_by_text("1 kept off")).to_be_visible()
        expect(page.get_by_role("row").filter(has_text="CMP-0417")).to_have_count(0)
        page.get_by_role("button", name="show", exact=True).click()
        expect(page.get_by_role("row").filter(has_text="CMP-0417")).to_have_count(1)

    def test_the_tree_as_a_picture_and_columns_by_name(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155?read=tree")
        tree = page.get_by_role("tree")
        boxes = tree.get_by_role("treeitem")
        expect(boxes).to_have_count(39)
        engine = boxes.filter(has_text="HL155-20")
        expect(engine).to_have_attribute("aria-expanded", "true")
        engine.click()
        expect(engine).to_have_attribute("aria-expanded", "false")
        expect(boxes.filter(has_text="EMT-4700")).to_have_count(0)
        page.keyboard.press("Tab")
        tree.focus()
        page.keyboard.press("ArrowRight")
        expect(boxes.filter(has_text="EMT-4700")).to_have_count(1)
        self.check_access(page, "the tree")
        with page.expect_download() as download:
            page.get_by_role("button", name="As a picture (SVG)").click()
        self.assertEqual(Path(download.value.path()).read_text().count("<rect"), 39)
        page.get_by_label("Read as").select_option("parts")
        page.get_by_role("button", name="List …").click()
        page.get_by_role("menuitemcheckbox", name="Class").click()
        page.get_by_label("Keep these columns under the name").fill("short")
        page.keyboard.press("Enter")
        expect(page.get_by_role("menuitem", name="Columns “short” ✓")).to_be_visible()
        page.get_by_role("menuitem", name="All columns").click()
        expect(page.get_by_role("columnheader", name="Class")).to_be_visible()
        page.get_by_role("button", name="List …").click()
        page.get_by_role("menuitem", name="Columns “short”").click()
        expect(page.get_by_role("columnheader", name="Class")).to_have_count(0)


class Time(Journey):
    def test_a_product_in_time(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155?read=time&quantity=250&day=2026-11-25")
        table = page.get_by_role("table", name="Operations and orders in time")
        expect(page.get_by_text(re.compile("^lead time"))).to_contain_text("71.6 days")
        page.get_by_label("only the chain that sets it").click()
        rows = table.get_by_role("row")
        expect(rows.first).to_contain_text("DRV-0310")
        expect(rows.last).to_contain_text("HL-155")
        expect(rows.last).to_contain_text("40 Pack")
        self.check_access(page, "in time")
        wanted = page.get_by_label("Wanted on")
        wanted.fill("2 Jan 2020")
        wanted.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("the wanted day 2020-01-02 is past")
        wanted.fill("31 Dec 2099")
        wanted.press("Enter")
        expect(page.get_by_text(re.compile("^lead time"))).to_contain_text("– 1 Jan 2100, 00:00")
        self.assertIn("wanted=2099-12-31", page.url)
        page.get_by_role("button", name="Order days").click()
        row = page.get_by_role("table").get_by_role("row").filter(has_text="DRV-0310")
        expect(row).to_contain_text("sets it")
        expect(row).to_contain_text("2099")

    def test_closed_days_are_chosen_from_public_holidays(self) -> None:
        page = self.sign_in(to="/work-centers")
        page.get_by_role("button", name="Closed days").click()
        page.get_by_label("Public holidays of").fill("xx")
        page.get_by_label("in", exact=True).fill("2027")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("are not known")
        page.get_by_label("Public holidays of").fill("nl")
        page.keyboard.press("Enter")
        page.get_by_label("1 Jan 2027").check()
        page.get_by_label("Add a day").fill("2027-02-12")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Keep these days").click()
        expect(page.get_by_role("status")).to_contain_text("2 closed days are kept")
        self.assertEqual([str(d) for d in Workspace.the().closed_days], ["2027-01-01", "2027-02-12"])

    def test_rates_change_on_a_day_and_the_day_of_the_basis_picks_them(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/work-centers")
        page.get_by_role("cell", name="LATHE", exact=True).click()
        page.get_by_role("button", name="Add a change").click()
        page.get_by_label("labor, change 1", exact=True).fill("50")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("alert")).to_contain_text("first day")
        page.get_by_label("First day of change 1").fill("1 Jan 2027")
        page.keyboard.press("Tab")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("status")).to_contain_text("Saved LATHE")
        for day, told in (("2026-12-31", "test40 EUR per h"), ("2027-01-01", "holds from 2027-01-01 on50 EUR per h")):
            page.goto(f"{self.live_server_url}/sheets/RT-1?day={day}")
            page.get_by_role("row").filter(has_text="Turn").first.get_by_text("Turn").click()
            working = page.get_by_role("region", name="Working")
            expect(working).to_contain_text(told)
