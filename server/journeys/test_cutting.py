"""From a model to cut boards, in a real browser: a STEP file, what is cut stated on lines, a plan, what is left used by the next."""

import io
import tempfile
from pathlib import Path

from cutting.models import Leftover
from cutting.tests.test_cutting import crate
from definition.models.parts import Part
from definition.models.sheets import Line
from formats.tests.test_step import of_cax_if
from geometry.tests.test_take_model import AS1, bracket
from openpyxl import load_workbook
from playwright.sync_api import expect
from substitution.tests.test_substitution import bench as generic_bench
from testing import Api, load

from journeys.browser import Journey, keys


class FromModelToBoards(Journey):
    def test_a_model_is_counted_and_drawn(self) -> None:
        load(bracket())
        page = self.sign_in("engineer", "/part/AS1")
        model = page.get_by_role("region", name="Model")
        expect(model).to_contain_text("None yet")
        file = Path(tempfile.mkdtemp()) / AS1
        file.write_bytes(of_cax_if(AS1))
        model.get_by_label("A STEP file of it").set_input_files(file)
        # Reading and drawing it takes some seconds; in a test nobody else does it.
        expect(model.get_by_role("img", name="AS1 as its model has it")).to_be_visible(timeout=60_000)
        expect(model.get_by_role("row", name="NUT 20 ×")).to_contain_text("8")
        expect(model).to_contain_text("1 part stands in the model otherwise than on the sheets.")
        model.get_by_label("hidden edges").check()
        expect(model.locator("path")).to_have_count(2)
        self.check_access(page, "a part with its model")
        # The row leads to the part, which has its shape, its size and its mass by now.
        model.get_by_role("link", name="ROD", exact=True).click()
        expect(page.get_by_role("region", name="Model")).to_contain_text("200 × 10 × 10 mm")
        expect(page.get_by_role("region", name="Model")).to_contain_text("from the model of AS1")
        # What is no model is said where it was brought in.
        file.with_suffix(".txt").write_bytes(b"part;quantity")
        page.get_by_label("A STEP file of it").set_input_files(file.with_suffix(".txt"))
        expect(page.get_by_role("alert")).to_contain_text("is no STEP file")
        # The pictures stand in a list, and leave with it.
        page.goto(f"{self.live_server_url}/lists?part=AS1&arrangement=summed&column=number=Part&column=picture=Picture")
        expect(page.get_by_role("region", name="The list").get_by_role("img")).to_have_count(8)
        with page.expect_download() as download:
            page.get_by_role("button", name="Take the file").click()
        self.assertEqual(len(load_workbook(io.BytesIO(download.value.path().read_bytes())).active._images), 8)

    def test_what_is_cut_is_planned_and_what_is_left_is_used_first(self) -> None:
        document = crate()
        for line in document["build_sheets"][0]["lines"]:
            line.pop("cut", None)
        document["build_sheets"][0]["status"] = "draft"
        load(document)
        page = self.sign_in("engineer", "/sheets/CRATE")
        page.get_by_label("Columns for").select_option("cutting")
        for item, text in (("20", "2 x 600 x 300, grain length"), ("30", "4 x 990")):
            row = page.get_by_role("row").filter(has_text="PLY" if item == "20" else "BAR")
            row.get_by_role("gridcell").nth(-2).dblclick()
            keys(page, "Control+a", text, "Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        self.assertEqual(Line.objects.get(item=30).cut, "4 x 990")
        page.goto(f"{self.live_server_url}/cutting?drafts=1")
        page.get_by_role("button", name="+ a product").click()
        keys(page, "CRATE")
        page.get_by_role("option", name="CRATE").first.wait_for()
        keys(page, "Enter")
        page.get_by_label("How many CRATE").fill("2")
        keys(page, "Enter")
        page.get_by_role("button", name="Plan the cutting").click()
        materials = page.get_by_role("navigation", name="Materials")
        expect(materials.get_by_role("button", name="BAR")).to_contain_text("3 bars")
        expect(materials.get_by_role("button", name="BAR")).to_contain_text("proven the least")
        self.check_access(page, "a cut plan")
        materials.get_by_role("button", name="PLY").click()
        expect(page.get_by_role("img", name="PLY, pattern 1")).to_be_visible()
        # Another size of board, cheaper by what it takes: the plan is made anew.
        sizes = page.get_by_role("region", name="Sizes it comes in")
        sizes.get_by_label("Length of size 1").fill("1250")
        sizes.get_by_label("Width of size 1").fill("1250")
        sizes.get_by_role("button", name="Keep these sizes").click()
        expect(sizes.get_by_role("button", name="Keep these sizes")).to_be_disabled()
        page.get_by_role("button", name="Plan anew").click()
        expect(page.get_by_text("1250 × 1250 mm").first).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("button", name="Leaves as …").click()
            page.get_by_role("menuitem", name="The patterns as DXF").click()
        self.assertTrue(download.value.suggested_filename.endswith(".dxf"))
        # It was cut: not before there is stock.
        page.get_by_role("button", name="It was cut").click()
        page.get_by_role("button", name="Take it out of stock").click()
        expect(page.get_by_role("status").filter(has_text="on hand")).to_be_visible()
        shop = Api("shop")
        for part in Part.objects.filter(number__in=("BAR", "PLY")):
            shop.post(f"/parts/one/stock?number={part.number}", {"quantity": "50", "reason": "received"})
        page.get_by_role("button", name="It was cut").click()
        page.get_by_role("button", name="Take it out of stock").click()
        expect(page.get_by_text("cut by engineer")).to_be_visible()
        left = Leftover.objects.filter(part__number="BAR").count()
        self.assertEqual(left, 1)
        page.goto(f"{self.live_server_url}/cutting?builds=CRATE:1&drafts=1")
        page.get_by_role("button", name="Plan the cutting").click()
        expect(page.get_by_text("a leftover").first).to_be_visible()

    def test_generic_things_become_real_stock_and_go_back(self) -> None:
        load(generic_bench())
        page = self.sign_in("engineer", "/exchange/tables")
        page.get_by_role("button", name="New table").click()
        page.get_by_label("Name", exact=True).fill("Hardware")
        page.get_by_label("generic: number or description, row 1").fill("Screw, any M5")
        page.get_by_label("our part, row 1").fill("NOPE")
        page.get_by_role("button", name="Keep the table").click()
        expect(page.get_by_role("alert")).to_contain_text("part NOPE is not known")
        page.get_by_label("our part, row 1").fill("SCR-M5")
        page.get_by_role("button", name="Keep the table").click()
        expect(page.get_by_role("form", name="Table Hardware")).to_be_visible()
        applied = page.get_by_role("region", name="Apply it")
        applied.get_by_role("button", name="A product: choose").click()
        keys(page, "BENCH")
        page.get_by_role("option", name="BENCH").first.wait_for()
        keys(page, "Enter")
        expect(applied).to_contain_text("8 ea SCR-M5")
        expect(applied).to_contain_text("No entry for GEN-BOARD, GLUE.")
        self.check_access(page, "substitution")
        applied.get_by_label("Why it is exchanged").fill("stock of the yard")
        applied.get_by_role("button", name="Exchange on 2 sheets").click()
        done = page.get_by_role("region", name="What was exchanged")
        expect(done).to_contain_text("2 lines of BENCH, LEG")
        self.assertEqual(Line.objects.filter(sheet__status="draft", part__number="SCR-M5").count(), 2)
        done.get_by_role("button", name="Take it back").click()
        expect(done).to_contain_text("taken back by engineer")
        self.assertFalse(Line.objects.filter(part__number="SCR-M5").exists())
