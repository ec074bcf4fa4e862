"""Journeys through what is read and kept beside the sheet: lists, the matrix, parts, an exchange, options, findings."""

import csv
import io
from pathlib import Path

from definition.models.parts import MakerNumber, Part, StockMove
from definition.models.sheets import BuildSheet, Line, Option
from demo.load_demo import load_demo
from openpyxl import load_workbook
from playwright.sync_api import Page, Route, expect
from testing import load, rod_and_tube

from journeys.browser import Journey, keys
from journeys.by_fractions import by_fractions


class Lists(Journey):
    def leave(self, page: Page, words: str) -> Path:
        page.get_by_role("button", name="List …").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name=words).click()
        return Path(download.value.path())

    def test_parts_only_is_sorted_filtered_grouped_and_leaves_as_it_stands(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155?quantity=250&options=SYNC")
        page.get_by_label("Read as").select_option("parts")
        table = page.get_by_role("table", name="HL-155 parts only")
        rows = table.get_by_role("row")
        # The dearest first, until another heading is chosen.
        expect(rows.nth(1)).to_contain_text("SYN-01")
        self.assertIn("read=parts", page.url)
        table.get_by_role("columnheader", name="Part", exact=True).get_by_role("button").click()
        expect(rows.nth(1)).to_contain_text("BAR-AL65")
        page.get_by_label("Keep rows that hold").fill("resistor")
        expect(page.get_by_text("2 of 37 rows")).to_be_visible()
        page.get_by_label("Keep rows that hold").fill("")
        page.get_by_label("Group by").select_option(label="by kind")
        expect(rows.nth(1)).to_contain_text("bought (")
        page.get_by_label("Group by").select_option("")

        body = list(csv.reader(self.leave(page, "As CSV").read_text("utf-8-sig").splitlines()))
        self.assertEqual(body[0][:4], ["Part", "Description", "Kind", "Class"])
        self.assertEqual([row[0] for row in body[1:]], sorted(row[0] for row in body[1:]))
        self.assertEqual(len(body), 38)
        sheet = load_workbook(io.BytesIO(self.leave(page, "As a workbook").read_bytes())).active
        assert sheet is not None
        total = sheet.cell(sheet.max_row, len(body[0])).value
        self.assertEqual(total, f"=SUM(J2:J{sheet.max_row - 1})")
        # A field of a class is a column when it is asked for, here and in the matrix; it leaves with the list.
        # Words may be typed before what parts say has come.
        slow: list[Route] = []
        page.route("**/api/parts/own-values", lambda route: slow.append(route))
        page.get_by_role("button", name="List …").click()
        page.get_by_role("menuitemcheckbox", name="mounting").click()
        page.keyboard.press("Escape")
        page.get_by_label("Keep rows that hold").fill("surface")
        expect(page.get_by_text("0 of 37 rows")).to_be_visible()
        for held in slow:
            held.continue_()
        page.unroute("**/api/parts/own-values")
        expect(rows.filter(has_text="RES-0472")).to_be_visible()
        page.get_by_label("Group by").select_option(label="by mounting")
        expect(rows.nth(1)).to_contain_text("surface (")
        page.get_by_label("Group by").select_option("")
        page.get_by_label("Keep rows that hold").fill("")
        body = list(csv.reader(self.leave(page, "As CSV").read_text("utf-8-sig").splitlines()))
        at = body[0].index("mounting")
        self.assertEqual({row[0]: row[at] for row in body}["RES-0472"], "surface")
        # A column that is turned off stays off, and leaves no trace in the file.
        page.get_by_role("button", name="List …").click()
        page.get_by_role("menuitemcheckbox", name="Class").click()
        page.keyboard.press("Escape")
        page.reload()
        expect(rows.nth(1)).to_be_visible()
        expect(table.get_by_role("columnheader", name="Class")).to_have_count(0)
        page.get_by_label("Keep rows that hold").fill("surface")
        expect(rows.filter(has_text="RES-0472")).to_be_visible()
        # And on the sheet itself, those in which most of its parts say something.
        page.goto(f"{self.live_server_url}/sheets/HL155-21")
        page.get_by_label("Columns for").select_option("fields")
        expect(page.get_by_role("columnheader", name="mounting")).to_be_visible()
        expect(page.get_by_role("row").filter(has_text="RES-0472")).to_contain_text("surface")

    def test_the_overview_opens_by_levels_and_adds_up(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155?read=overview")
        table = page.get_by_role("table", name="HL-155 overview")
        rows = table.get_by_role("row")
        cell = table.get_by_role("cell")
        expect(rows.filter(has_text="EMT-4700")).to_be_visible()
        expect(page.get_by_text("from stock")).to_be_visible()
        table.focus()
        page.keyboard.press("1")
        expect(rows.filter(has_text="HL155-21")).to_have_count(0)
        page.get_by_role("button", name="open HL155-20").click()
        expect(rows.filter(has_text="HL155-21").first).to_be_visible()
        page.get_by_role("button", name="close HL155-20").click()
        # The rows of the first level, work included, add up to the product.
        body = list(csv.reader(self.leave(page, "As CSV").read_text("utf-8-sig").splitlines()))
        at = {name: body[0].index(name) for name in ("Part", "Cost, EUR", "material", "labor")}
        for name in ("Cost, EUR", "material", "labor"):
            amounts = [float(row[at[name]] or 0) for row in body[1:]]
            self.assertAlmostEqual(sum(amounts[1:]), amounts[0], places=4, msg=name)
        exact = by_fractions("HL-155")
        self.assertAlmostEqual(float(body[1][at["Cost, EUR"]]), float(exact.total("HL-155")), places=4)
        # Mass rolls up, says that it is not all, and opens.
        rows.nth(1).get_by_role("button", name="≥").click()
        working = page.get_by_role("region", name="Working")
        expect(working).to_contain_text("Mass of HL-155")
        expect(working).to_contain_text("at least: something that goes in says nothing")
        working.get_by_role("button", name="Mass of HL155-20").click()
        expect(working).to_contain_text("Mass of HL155-21")
        page.keyboard.press("Escape")
        # The other revision stands beside it, with the difference.
        expect(page.get_by_role("link", name="A, revision B")).to_be_visible()
        expect(cell.first).to_contain_text("HL-155")
        expect(page.get_by_text("from stock 0 ea can be built; one more lacks")).to_be_visible()
        self.check_access(page, "the overview")

    def test_from_a_resistor_up_to_the_lantern_and_down_again(self) -> None:
        load_demo()
        page = self.sign_in(to="/where-used/RES-0472")
        rows = page.get_by_role("table").get_by_role("row")
        taken = float(by_fractions("HL-155").average("HL-155", "RES-0472"))
        expect(rows.filter(has_text="HL-155").filter(has_text="top")).to_contain_text(f"{taken:.6f}")
        page.get_by_label("Read as").select_option("tops")
        expect(rows).to_have_count(4)
        expect(rows.nth(1)).to_contain_text("HL-200")
        page.get_by_label("Read as").select_option("direct")
        rows.filter(has_text="SC40-21").get_by_role("button").first.click()
        expect(page.get_by_role("treegrid")).to_be_focused()
        expect(page.get_by_role("row").filter(has_text="RES-0472")).to_be_visible()

    def test_a_matrix_is_put_together_by_hand(self) -> None:
        load_demo()
        page = self.sign_in(to="/matrix")
        expect(page.get_by_text("No product stands in the matrix yet")).to_be_visible()
        for number in ("HL-155", "SC-40"):
            page.get_by_role("button", name="+ a product").click()
            keys(page, number)
            expect(page.get_by_role("option", name=number).first).to_be_visible()
            page.keyboard.press("Enter")
            expect(page.get_by_label(f"How many {number}")).to_be_visible()
            # Its options come with the figures, and move the button beside them.
            expect(page.get_by_role("columnheader", name=number)).to_be_visible()
        page.get_by_label("How many HL-155").fill("250")
        page.get_by_label("How many HL-155").press("Enter")
        page.get_by_label("How many SC-40").fill("60")
        page.get_by_label("How many SC-40").press("Enter")
        # An option that excludes another lets go of it.
        page.get_by_role("button", name="WIRED", exact=True).click()
        page.get_by_role("button", name="RADIO", exact=True).click()
        expect(page.get_by_role("button", name="WIRED", exact=True)).to_have_attribute("aria-pressed", "false")
        page.get_by_label("Cells hold").select_option("needs")
        page.get_by_label("Keep rows that hold").fill("GLD-20")
        # 250 at a yield of 99 % and two for each of 60 controllers, rounded up once on the total.
        row = page.get_by_role("row").filter(has_text="GLD-20")
        for figure in ("252.5253", "120", "373"):
            expect(row).to_contain_text(figure)
        page.reload()
        expect(page.get_by_label("How many SC-40")).to_have_value("60")


class Master(Journey):
    def test_a_part_gets_its_makers_and_its_stock(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/parts")
        page.get_by_label("Find by number or description").fill("NUT")
        page.get_by_role("option", name="NUT").click()
        panel = page.get_by_role("dialog", name="NUT")
        panel.locator("summary").filter(has_text="Manufacturers' numbers").click()
        for at, (maker, number) in enumerate((("Northgate Fasteners", "NF-M5"), ("Harrow & Pine", "HP-5")), 1):
            panel.get_by_role("button", name="Add one").click()
            panel.get_by_label(f"maker of choice {at}").fill(maker)
            panel.get_by_label(f"number of choice {at}", exact=True).fill(number)
        panel.get_by_role("button", name="Rank choice 2 higher").click()
        panel.get_by_role("button", name="Save the numbers").click()
        expect(panel.get_by_role("button", name="Save the numbers")).to_have_count(0)
        self.assertEqual(list(MakerNumber.objects.order_by("rank").values_list("number", flat=True)), ["HP-5", "NF-M5"])

        panel.locator("summary").filter(has_text="Stock").click()
        amount, reason = panel.get_by_label("Quantity moved"), panel.get_by_label("What moved it")
        amount.fill("-3")
        reason.fill("issued")
        reason.press("Enter")
        expect(panel.get_by_role("alert")).to_contain_text("only 0 ea of NUT are on hand")
        expect(amount).to_have_value("-3")
        amount.fill("40")
        reason.fill("counted")
        reason.press("Enter")
        expect(panel.get_by_text("+40")).to_be_visible()
        self.assertEqual(StockMove.objects.get().made_by, "engineer")

        panel.locator("summary").filter(has_text="Buying and holding").click()
        panel.get_by_label("Buying unit").fill("box")
        panel.get_by_role("button", name="Save", exact=True).click()
        expect(panel.get_by_role("alert").filter(has_text="box is no unit of measure")).to_be_visible()
        panel.get_by_label("One holds, in stock units").fill("200")
        panel.get_by_role("button", name="Save", exact=True).click()
        expect(panel).to_have_count(0)
        part = Part.objects.get(number="NUT")
        self.assertEqual((part.buying_unit, part.stock_per_buying_unit), ("box", 200))
        expect(page.get_by_role("option", name="NUT")).to_contain_text("40")

    def test_a_part_is_exchanged_and_each_draft_is_offered(self) -> None:
        document = rod_and_tube("released")
        document["parts"].append({"number": "BAR", "kind": "bought", "unit": "m", "unit_cost": "4"})
        load(document)
        page = self.sign_in(to="/where-used/ROD")
        page.get_by_role("button", name="Exchange it").click()
        page.get_by_role("button", name="Part that comes: choose").click()
        keys(page, "BAR")
        expect(page.get_by_role("option", name="BAR")).to_be_visible()
        page.keyboard.press("Enter")
        # 2 m with 5 % scrap and half a metre in the tube, one more a metre.
        expect(page.get_by_role("row").filter(has_text="RT-1")).to_contain_text("+2.60")
        # Two for one: five more for each metre.
        page.get_by_label("So many come").fill("2")
        keys(page, "Enter")
        expect(page.get_by_role("row").filter(has_text="RT-1")).to_contain_text("+13.00")
        page.get_by_label("So many come").fill("1")
        keys(page, "Enter")
        expect(page.get_by_role("row").filter(has_text="RT-1")).to_contain_text("+2.60")
        tube = page.get_by_role("checkbox", name="T-1 rev. A", exact=True)
        expect(page.get_by_role("row").filter(has=tube)).to_contain_text("a new revision is opened")
        tube.uncheck()
        page.get_by_role("button", name="Exchange on 1 sheet", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("why the part is exchanged")
        page.get_by_label("Reason").fill("the rod is no longer drawn")
        page.get_by_role("button", name="Exchange on 1 sheet", exact=True).click()
        page.get_by_role("link", name="RT-1 revision B, draft").click()
        expect(page.get_by_role("row").filter(has_text="BAR")).to_be_visible()
        held = Line.objects.filter(part__number="BAR").values_list("sheet__part__number", "sheet__revision")
        self.assertEqual(list(held), [("RT-1", "B")])
        self.assertEqual(BuildSheet.objects.filter(part__number="T-1").count(), 1)

    def test_options_that_exclude_one_another(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155")
        expect(page.get_by_role("treegrid")).to_be_focused()
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Options").click()
        panel = page.get_by_role("dialog", name="Options")
        solar = page.get_by_role("textbox", name="SOLAR", exact=True)
        panel.get_by_role("listitem").filter(has=solar).get_by_label("SYNC").click()
        expect(panel.get_by_role("listitem").filter(has=solar).get_by_label("SYNC")).to_be_checked()
        self.assertEqual(Option.objects.get(code="SYNC").not_with, ["SOLAR"])
        page.keyboard.press("Escape")
        # The sheet is read anew with what excludes what.
        solar_button = page.get_by_role("button", name="SOLAR", exact=True)
        expect(solar_button).to_have_attribute("title", "Solar collar instead of mains (not with SYNC)")
        solar_button.click()
        page.get_by_role("button", name="SYNC", exact=True).click()
        expect(solar_button).to_have_attribute("aria-pressed", "false")
        page.goto(f"{self.live_server_url}/sheets/HL-155?options=SOLAR,SYNC")
        expect(page.get_by_role("alert")).to_contain_text("options SOLAR and SYNC cannot be chosen together")

    def test_everything_is_checked_and_a_finding_is_waived_with_its_reason(self) -> None:
        load_demo()
        page = self.sign_in(to="/findings")
        page.get_by_role("button", name="Check everything now").click()
        row = page.get_by_role("row").filter(has_text="quantity 6, but 5 reference designators")
        expect(row).to_contain_text("SC40-21 rev. A, item 40")
        row.get_by_role("button", name="waive").click()
        keys(page, "the sixth is fitted by hand")
        page.keyboard.press("Enter")
        expect(row).to_have_count(0)
        page.get_by_label("show waived ones").check()
        expect(row).to_contain_text("the sixth is fitted by hand")
        row.get_by_role("link").click()
        expect(page.get_by_role("row").filter(has_text="RES-0472")).to_have_attribute("aria-selected", "true")
