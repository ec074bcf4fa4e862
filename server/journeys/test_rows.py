"""Rows moved, copied, pasted, brought in and taken out, in a real browser."""

import csv
import io
import json
import zipfile
from pathlib import Path

import xlsxwriter
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from playwright.sync_api import Page, expect
from python_calamine import CalamineWorkbook
from readings.export_bundle import export_bundle
from testing import load, rod_and_tube

from journeys.browser import Journey, keys


class Rows(Journey):
    """Several lines at once: chosen, moved, dragged, taken away, copied, pasted; and all of it undone."""

    def order(self, number: str = "RT-1") -> list[tuple]:
        lines = Line.objects.filter(sheet__part__number=number).order_by("operation__sequence", "position")
        return list(lines.values_list("part__number", "operation__sequence"))

    def saved(self, page: Page) -> None:
        expect(page.get_by_text("saved", exact=True)).to_be_visible()

    def test_a_long_sheet_under_the_wheel_and_the_hands(self) -> None:
        """Rows are filled anew while they pass by: what is typed stays with its line, what opens opens there, and sums are of all lines."""
        bundle = rod_and_tube()
        numbers = [f"P-{n:03}" for n in range(1, 251)]
        bundle["parts"] += [{"number": n, "kind": "bought", "unit": "ea", "unit_cost": "2"} for n in numbers]
        rest = [{"item": 100 + i, "part": n, "quantity": "1", "issue_at": 20} for i, n in enumerate(numbers)]
        bundle["build_sheets"][0]["lines"] += rest
        load(bundle)
        page = self.sign_in(to="/sheets/RT-1")
        grid = page.get_by_role("treegrid")
        expect(grid).to_be_focused()
        # Below the cursor, which is typed into, screens of rows go by and come back.
        keys(page, "Control+Home", "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight", "7")
        grid.hover()
        for way in (120, 40, -120, -40):
            page.mouse.wheel(0, way)
        expect(grid.get_by_role("textbox")).to_have_value("7")
        keys(page, "Enter")
        self.saved(page)
        self.assertEqual(Line.objects.get(item=10, sheet__part__number="RT-1").quantity, 7)
        page.mouse.wheel(0, 5_000)
        expect(grid.get_by_role("row").filter(has_text="P-150")).to_be_visible()
        found = grid.get_by_role("row").filter(has_text="P-152")
        found.get_by_text("P-152").click()
        expect(found).to_have_attribute("aria-selected", "true")
        expect(grid.locator("[aria-selected=true]")).to_have_count(1)
        # Space where nothing opens stays where it is.
        keys(page, "Space", "ArrowRight", "ArrowRight", "ArrowRight", "3", "Enter")
        self.saved(page)
        self.assertEqual(Line.objects.get(part__number="P-152").quantity, 3)
        keys(page, "Control+Home", "ArrowDown", "ArrowDown", "ArrowDown", "Space")
        expect(grid.get_by_role("row").filter(has_text="500")).to_be_visible()
        # What the product costs comes of all lines: sixty stand there, the others are told with their sum, and come when they are asked for.
        page.get_by_title("Open its working").click()
        working = page.get_by_role("region", name="Working")
        more = working.get_by_role("listitem").filter(has_text="more: show")
        expect(working.get_by_role("listitem")).to_have_count(61)
        # By hand: 193 lines for 2, of one of them two more, and 40 an hour for 12 / 10 + 3 + 1 minutes.
        expect(more).to_contain_text("195 more: show them")
        expect(more).to_contain_text("393.4667 EUR per ea")
        more.get_by_role("button").click()
        expect(more.get_by_role("button")).to_have_count(0)
        expect(working.get_by_role("listitem").filter(has_text="P-250")).to_be_visible()

    def test_chosen_lines_move_leave_and_come_back(self) -> None:
        load(rod_and_tube())
        before = json.dumps(export_bundle(), sort_keys=True)
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        start = [("ROD", 10), ("T-1", 20), ("NUT", 20)]
        self.assertEqual(self.order(), start)
        # Both lines of operation 20 go to operation 10, before the rod, and away.
        keys(page, "Control+Home", "ArrowDown", "ArrowDown", "ArrowDown", "Shift+ArrowDown", "Alt+ArrowUp")
        self.saved(page)
        self.assertEqual(self.order(), [("ROD", 10), ("T-1", 10), ("NUT", 10)])
        keys(page, "Alt+ArrowUp")
        self.saved(page)
        self.assertEqual(self.order(), [("T-1", 10), ("NUT", 10), ("ROD", 10)])
        keys(page, "Delete")
        self.saved(page)
        self.assertEqual(self.order(), [("ROD", 10)])
        for wanted in ([("T-1", 10), ("NUT", 10), ("ROD", 10)], [("ROD", 10), ("T-1", 10), ("NUT", 10)], start):
            keys(page, "Control+z")
            self.saved(page)
            self.assertEqual(self.order(), wanted)
        self.assertEqual(json.dumps(export_bundle(), sort_keys=True), before)

    def test_items_are_renumbered_by_range_and_locked_ones_passed_by(self) -> None:
        load(rod_and_tube())
        Part.objects.filter(number="NUT").update(part_class="hardware")
        Line.objects.filter(sheet__part__number="RT-1", item=20).update(item=5, item_locked=True)
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Renumber the items").click()
        panel = page.get_by_role("dialog", name="Renumber the items")
        panel.get_by_label("Start").fill("5")
        panel.get_by_label("Step").fill("5")
        panel.get_by_label("Class hardware from").fill("x")
        expect(panel.get_by_role("alert")).to_contain_text("a whole number")
        panel.get_by_label("Class hardware from").fill("500")
        expect(panel.get_by_role("row").filter(has_text="NUT")).to_contain_text("500")
        expect(panel.get_by_role("row").filter(has_text="ROD")).to_contain_text("10")
        expect(panel.get_by_role("row").filter(has_text="T-1")).to_have_count(0)
        self.check_access(page, "renumbering")
        panel.get_by_role("button", name="Renumber 1 line").click()
        self.saved(page)
        held = dict(Line.objects.filter(sheet__part__number="RT-1").values_list("part__number", "item"))
        self.assertEqual(held, {"ROD": 10, "T-1": 5, "NUT": 500})
        page.get_by_role("treegrid").focus()
        keys(page, "Control+z")
        self.saved(page)
        self.assertEqual(Line.objects.get(sheet__part__number="RT-1", part__number="NUT").item, 30)

    def test_a_line_is_dragged_to_another_operation(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/sheets/RT-1")
        rows = page.get_by_role("row")
        expect(rows.filter(has_text="NUT")).to_be_visible()
        rows.filter(has_text="NUT").get_by_title("Drag to move the line").drag_to(rows.filter(has_text="ROD"))
        self.saved(page)
        self.assertEqual(self.order(), [("NUT", 10), ("ROD", 10), ("T-1", 20)])
        rows.filter(has_text="ROD").get_by_title("Drag to move the line").drag_to(rows.filter(has_text="Fit"))
        self.saved(page)
        self.assertEqual(self.order(), [("NUT", 10), ("ROD", 20), ("T-1", 20)])

    def test_lines_are_copied_to_another_sheet_and_rows_come_from_a_spreadsheet(self) -> None:
        document = rod_and_tube()
        document["build_sheets"][1]["status"] = "draft"
        load(document)
        page = self.sign_in(to="/sheets/RT-1")
        page.context.grant_permissions(["clipboard-read", "clipboard-write"])
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "Control+Home", "ArrowDown", "Control+c")
        expect(page.get_by_role("status")).to_contain_text("Copied 1 line")
        self.assertIn("ROD\t\t2\tm\t5", page.evaluate("navigator.clipboard.readText()"))
        page.goto(f"{self.live_server_url}/sheets/T-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "Control+v")
        self.saved(page)
        pasted = Line.objects.filter(sheet__part__number="T-1").latest("position")
        self.assertEqual((pasted.part.number, pasted.quantity, pasted.scrap_percent), ("ROD", 2, 5))

        page.evaluate("text => navigator.clipboard.writeText(text)", "Part\tQty\nNUT\t3\nNEW-9\t1\nbad number\t1\n")
        page.get_by_role("treegrid").focus()
        keys(page, "Control+v")
        region = page.get_by_role("region", name="What was pasted")
        expect(region).to_contain_text("row 4: a part number holds no blanks")
        expect(region).to_contain_text("a new bought part, a draft")
        self.assertEqual(Line.objects.filter(sheet__part__number="T-1").count(), 2)
        region.get_by_role("button", name="Keep 2 lines").click()
        self.saved(page)
        self.assertEqual(
            set(Line.objects.filter(sheet__part__number="T-1").values_list("part__number", "quantity")),
            {("ROD", 500), ("ROD", 2), ("NUT", 3), ("NEW-9", 1)},
        )
        self.check_access(page, "the sheet after pasting")


class InAndOut(Journey):
    def test_a_workbook_with_its_header_on_row_seven_comes_in_and_goes_out(self) -> None:
        load(rod_and_tube("released"))
        path = Path(self.enterContext(__import__("tempfile").TemporaryDirectory())) / "yard list.xlsx"
        book = xlsxwriter.Workbook(str(path), {"strings_to_formulas": False})
        sheet = book.add_worksheet("Parts")
        rows = [
            ["Harbour yard"],
            ["Drawing", "D-204"],
            [],
            ["For quotation"],
            [],
            [],
            ["Level", "Pos", "Article", "Name", "Amount", "UoM"],
            [0, "", "BX-1", "Box", 1, "pcs"],
            [1, 10, "BX-2", "Door", 2, "pcs"],
            [2, 10, "ROD", "", 250, "mm"],
            [1, 20, "NUT", "", "four", "pcs"],
            [1, 30, "=1+1", "odd one", 1, "pcs"],
        ]
        for i, row in enumerate(rows):
            sheet.write_row(i, 0, row)
        book.close()
        page = self.sign_in(to="/sheets")
        page.get_by_role("button", name="Bring in a list").click()
        expect(page.get_by_role("dialog", name="A list of our own")).to_be_visible()
        keys(page, "Yard list", "Enter")
        page.get_by_label("Files of the inquiry").set_input_files(str(path))
        odd = page.get_by_role("row").filter(has_text="NUT")
        expect(odd).to_contain_text("is not a quantity")
        page.get_by_role("button", name="Files 1").click()
        page.get_by_role("button", name="how it is read").click()
        expect(page.get_by_role("button", name="Row 7 holds the titles")).to_have_attribute("aria-pressed", "true")
        page.get_by_role("button", name="Leave it").click()
        # What is ours already is certain; the rest becomes parts as the list writes them.
        page.get_by_role("button", name="Take the 2 certain").click()
        page.get_by_role("button", name="Take them").click()
        page.get_by_role("button", name="New parts of 3 …").click()
        page.get_by_role("button", name="Make 3 parts").click()
        expect(page.get_by_text("5 of 5")).to_be_visible()
        # What cannot be read stops the list, and is set right here.
        page.get_by_role("button", name="Make sheets").click()
        expect(page.get_by_text("row 11, NUT: quantity: “four” is not a quantity")).to_be_visible()
        expect(page.get_by_role("button", name="Make the sheets")).to_be_disabled()
        page.get_by_text("row 11, NUT").click()
        page.get_by_role("button", name="Mend it").click()
        keys(page, "4", "Enter")
        expect(odd).not_to_contain_text("is not a quantity")
        page.get_by_role("button", name="Make sheets").click()
        expect(page.get_by_text("new sheet, revision A, a draft")).to_have_count(2)
        page.get_by_role("button", name="Make the sheets").click()
        # 2 doors of 0.25 m at 3.00, 4 nuts at 0.10, and one part without a cost.
        expect(page.get_by_title("Open its working")).to_contain_text("1.90")
        self.assertEqual(BuildSheet.objects.get(part__number="BX-1").status, "draft")

        self.a_list_for_its_reader(page)

    def a_list_for_its_reader(self, page: Page) -> None:
        """From the sheet to a list: a heading of the reader's, something kept out, kept under a name; and out in three shapes."""
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="A list or a file of it …").click()
        table = page.get_by_role("region", name="The list")
        expect(table.get_by_role("row")).to_have_count(6)
        self.check_access(page, "a list for its reader")
        page.get_by_label("every part once, over all levels").click()
        page.get_by_label("Unit cost", exact=True).click()
        page.get_by_label("Item", exact=True).click()
        table.get_by_role("button", name="Quantity").click()
        page.get_by_role("menuitem", name="Call it …").click()
        keys(page, "Control+a", "Stück", "Enter")
        table.get_by_role("button", name="Stück").click()
        page.get_by_role("menuitem", name="Move it left").click()
        expect(table.get_by_role("columnheader")).to_have_text(["Part", "Stück", "Description", "Unit", "Unit cost"])
        page.get_by_label("made", exact=True).click()
        expect(table).to_contain_text("kept out")
        expect(table.get_by_role("row", name="BX-2")).to_have_count(0)
        page.get_by_role("button", name="Kept lists …").click()
        page.get_by_label("Keep this list under the name").fill("For the store")
        page.get_by_role("button", name="Keep", exact=True).click()
        keys(page, "Escape")
        expect(page.get_by_role("button", name="“For the store”")).to_be_visible()
        page.get_by_label("1,5").click()
        expect(page.get_by_role("button", name="Kept lists …")).to_be_visible()
        for shape in ("CSV", "costs that calculate", "bundle"):
            page.get_by_label(shape, exact=True).check()
        page.get_by_label("workbook", exact=True).uncheck()
        with page.expect_download() as download:
            page.get_by_role("button", name="Take 3 files").click()
        with zipfile.ZipFile(download.value.path()) as held:
            read = {name.partition(".")[2] or name: held.read(name) for name in held.namelist() if name != "manifest.json"}
        rows = list(csv.reader(io.StringIO(read["list.csv"].decode("utf-8-sig")), delimiter=";"))
        self.assertEqual(rows[0], ["Part", "Stück", "Description", "Unit", "Unit cost"])
        self.assertIn("4", [row[1] for row in rows if row[0] == "NUT"])
        self.assertNotIn("BX-2", [row[0] for row in rows])
        cells = CalamineWorkbook.from_filelike(io.BytesIO(read["xlsx"])).get_sheet_by_name("Cost list").to_python()
        self.assertAlmostEqual(cells[1][13], 1.9)
        self.assertIn("=1+1", [row[2] for row in cells])
        self.assertIn("BX-2", [p["number"] for p in json.loads(read["json"])["parts"]])
