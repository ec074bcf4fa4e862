"""Handing over in a real browser: what blocks is mended where it stands, both moved is decided, a line is added for them, half of it goes, then the rest."""

import re
import tempfile
from pathlib import Path

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from handover.models import Agreed, Handover
from handover.tests.beside import a_product, drop_records, emptied_server, records_of
from playwright.sync_api import Page, expect
from testing import Api, load

from journeys.browser import Journey, keys


class HandingOver(Journey):
    def setUp(self) -> None:
        super().setUp()
        product = a_product()
        product["standard_operations"] = [
            {"code": "SAW", "version": 1, "operation": {"name": "Saw to length", "work_center": "LATHE", "run_minutes": "2"}}
        ]
        load(product)
        self.engineer = Api("engineer")
        self.server = emptied_server()
        answering = records_of(self.server, tempfile.mkdtemp())
        answering.__enter__()
        self.addCleanup(answering.__exit__, None, None, None)
        self.server.put("yard", "items", "LUB-1", {"text": "sealant, clear", "supply": "purchased", "measure": "gram"})

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        drop_records()

    def in_step(self) -> None:
        head = self.engineer.post("/handover", {"record": "yard", "top": "RT-1"})[1]
        shown = self.engineer.get(f"/handover/{head['id']}")[1]
        done = self.engineer.post(f"/handover/{head['id']}/hand-over", {"digest": shown["compared"]["digest"]})[1]
        self.assertEqual(done["head"]["state"], "done", done["head"]["log"])

    def put(self, kind: str, key: str, **more: object) -> None:
        (held,) = self.server.things("yard", [(kind, key)])
        self.server.put("yard", kind, key, held["body"] | more, "Ines Albu")

    def both_move(self) -> None:
        """Ours: a pin without a description, a nut. Theirs: the same nut, and the rod."""
        self.engineer.post("/parts", {"number": "PIN"})
        sheet = BuildSheet.objects.get(part__number="T-1")
        sheet.lines.create(part=Part.objects.get(number="PIN"), quantity=2, position=9, item=20)
        BuildSheet.objects.filter(pk=sheet.pk).update(version=sheet.version + 1)
        self.engineer.patch("/parts/one?number=NUT", {"description": "hexagon nut"})
        self.put("items", "NUT", text="nut, hex")
        self.put("items", "ROD", text="rod, drawn")

    def compare(self, page: Page) -> None:
        page.get_by_role("button", name="Hand a product over").click()
        page.get_by_role("button", name="Product: choose").click()
        keys(page, "RT-1")
        page.get_by_role("option", name="RT-1").first.wait_for()
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Compare").click()
        page.wait_for_url(re.compile(r"/handover/\d+"))

    def test_mended_decided_added_and_handed_over_in_two_parts(self) -> None:
        self.in_step()
        self.both_move()
        page = self.sign_in("engineer", "/handover")
        self.check_access(page, "the handovers")
        self.compare(page)
        grid = page.get_by_role("grid", name="What does not agree")
        expect(page.get_by_role("button", name="1 they moved")).to_be_visible()
        self.check_access(page, "the rows of a handover")
        ledger = page.get_by_role("complementary", name="Ledger")
        # What blocks leads to its row, and is mended there.
        page.get_by_role("button", name="2 things stop it").click()
        expect(ledger).to_contain_text("decide whose value is to stand")
        page.get_by_role("button", name="2 things stop it").click()
        expect(ledger).to_contain_text("a text is needed there")
        ledger.get_by_label("Our description").fill("dowel pin")
        ledger.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_role("button", name="1 thing stops it")).to_be_visible()
        self.assertEqual(Part.objects.get(number="PIN").description, "dowel pin")
        # Both moved: the ledger says who, and a key decides.
        page.get_by_role("button", name="1 thing stops it").click()
        expect(ledger).to_contain_text("nut for it")
        expect(ledger).to_contain_text("Ines Albu")
        grid.focus()
        page.keyboard.press("o")
        expect(page.get_by_text("thing stops it")).to_have_count(0)
        expect(grid.get_by_role("row").filter(has_text="both moved")).to_contain_text("ours")
        # Operations of the library, and where a line is issued: a draft, which is released here.
        grid.get_by_role("row", name=re.compile("^T-1")).click()
        ledger.get_by_role("button", name="Operations of the library").click()
        page.get_by_label(re.compile("^SAW")).check()
        page.get_by_label("10 ROD").select_option("10")
        page.get_by_role("button", name="Save in a draft").click()
        page.get_by_role("button", name="1 thing stops it").click()
        expect(ledger).to_contain_text("revision B is a draft")
        ledger.get_by_label("Release it from today").fill("sawn here now")
        ledger.get_by_role("button", name="Release", exact=True).click()
        expect(page.get_by_text("thing stops it")).to_have_count(0)
        # A line that only they need.
        grid.get_by_role("row", name=re.compile("^T-1")).click()
        grid.focus()
        page.keyboard.press("h")
        page.get_by_label("Look among their items").fill("seal")
        page.get_by_label("LUB-1").check()
        page.get_by_label("Quantity").fill("0.5")
        page.get_by_label("Issued at").select_option("10")
        page.get_by_label("Why production needs it").fill("the seat weeps")
        page.get_by_role("button", name="Add it to this handover").click()
        expect(ledger).to_contain_text("written with this handover")
        # The pin and its line wait: the rest of it is whole without them.
        for words in ("^part only here", "^line 20, PIN"):
            row = grid.get_by_role("row", name=re.compile(words))
            row.click()
            grid.focus()
            page.keyboard.press("l")
            expect(row).to_contain_text("left as it is")
        grid.focus()
        page.keyboard.press("c")
        expect(page.get_by_role("heading", name="Change sheet")).to_be_visible()
        expect(page.get_by_role("region", name="Left as it is")).to_contain_text("line 20, PIN")
        expect(page.get_by_text("by hand: the seat weeps")).to_be_visible()
        self.check_access(page, "a change sheet")
        with page.expect_download() as waiting:
            page.get_by_role("link", name="PDF").click()
        self.assertEqual(Path(waiting.value.path()).read_bytes()[:5], b"%PDF-")
        # They move in between: nothing is written, and only that is another thing.
        self.put("plans", "RT-1|A", note="look twice")
        page.get_by_role("button", name="Hand over", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("RT-1 (Ines Albu) moved over there meanwhile")
        self.assertEqual(self.server.things("yard", [("items", "NUT")])[0]["body"]["text"], "nut, hex")
        page.get_by_role("button", name=re.compile("^Change sheet")).click()
        page.get_by_role("button", name="Hand over", exact=True).click()
        expect(page.get_by_text(re.compile("handed over, 5 changes; 2 rows left"))).to_be_visible()
        self.assertEqual(self.server.things("yard", [("items", "NUT")])[0]["body"]["text"], "hexagon nut")
        self.assertEqual(Part.objects.get(number="ROD").description, "rod, drawn")
        self.check_access(page, "a handover that is done")
        # The rest, and the line by hand survives it.
        page.get_by_role("button", name="All handovers").click()
        self.compare(page)
        expect(page.get_by_role("button", name="2 only here")).to_be_visible()
        expect(page.get_by_role("button", name="1 kept by hand")).to_be_visible()
        # They know the pin by a number of their own.
        grid.get_by_role("row", name=re.compile("^part only here")).click()
        ledger.get_by_label("Over there it is called").fill("DP-4")
        ledger.get_by_role("button", name="Keep this number").click()
        expect(ledger.get_by_role("button", name="Keep this number")).to_be_disabled()
        page.get_by_role("button", name=re.compile("^Change sheet")).click()
        expect(page.get_by_text("there DP-4")).to_be_visible()
        page.get_by_role("button", name="Hand over", exact=True).click()
        expect(page.get_by_text("handed over, 2 changes")).to_be_visible()
        rows = self.server.things("yard", [("structures", "T-1|A")])[0]["body"]["rows"]
        self.assertEqual([r["item"] for r in rows], ["ROD", "DP-4", "LUB-1"])
        self.assertEqual(Agreed.objects.filter(number="PIN").count(), 1)
        # Two sheets of the list of parts, and nothing beneath them.
        self.put("items", "NUT", text="nut, once more")
        page.goto(f"{self.live_server_url}/parts")
        for number in ("T-1", "RT-1"):
            page.get_by_role("listbox", name="Parts").get_by_text(number, exact=True).click(modifiers=["Control"])
        page.get_by_role("button", name="Hand sheets over …").click()
        chosen = page.get_by_role("dialog", name="Hand a product over")
        expect(chosen.get_by_label("chosen sheets alone, with the parts on them")).to_be_checked()
        chosen.get_by_role("button", name="leave out").click()
        chosen.get_by_role("button", name="Compare").click()
        expect(page.get_by_text("its own sheet")).to_be_visible()
        self.assertEqual(len(Handover.objects.latest("id").sheets), 1)
        self.check_access(page, "a handover of one sheet")

    def test_broken_off_is_finished_by_a_button_and_a_viewer_only_looks(self) -> None:
        self.in_step()
        self.both_move()
        self.engineer.patch("/parts/one?number=PIN", {"description": "pin"})
        head = self.engineer.post("/handover", {"record": "yard", "top": "RT-1"})[1]
        page = self.sign_in("viewer", f"/handover/{head['id']}")
        grid = page.get_by_role("grid", name="What does not agree")
        grid.get_by_role("row").filter(has_text="both moved").click()
        ours = page.get_by_role("complementary", name="Ledger").get_by_role("button", name=re.compile("^Ours"))
        expect(ours).to_have_attribute("aria-disabled", "true")
        grid.focus()
        page.keyboard.press("o")
        expect(grid.get_by_role("row").filter(has_text="both moved")).to_contain_text("decide")
        page = self.sign_in("engineer", "/programs")
        page.get_by_role("button", name="Have a program told").click()
        page.get_by_label("What it is for").fill("the line")
        page.get_by_label("A product was handed over").check()
        page.get_by_role("button", name="Tell it from now on").click()
        expect(page.get_by_role("region", name="What programs are told")).to_contain_text("the line at line: handover done")
        page.get_by_role("button", name="/handover/{handover_id}", exact=True).click()
        expect(page.get_by_role("region", name="The address")).to_contain_text("proposal")
        self.check_access(page, "what programs read and are told")
        page.goto(f"{self.live_server_url}/handover/{head['id']}")
        grid = page.get_by_role("grid", name="What does not agree")
        grid.get_by_role("row").filter(has_text="both moved").click()
        grid.focus()
        page.keyboard.press("t")
        expect(grid.get_by_role("row").filter(has_text="both moved")).to_contain_text("theirs")
        # It is written there, and the record is down before it can say so.
        self.server.faults = {self.server.writes + 1: "down"}
        page.keyboard.press("c")
        page.get_by_role("button", name="Hand over", exact=True).click()
        expect(page.get_by_role("heading", name="It broke off in the middle of writing")).to_be_visible()
        self.check_access(page, "a handover that broke off")
        self.server.modes["yard"] = "well"
        page.get_by_role("button", name="Finish it").click()
        expect(page.get_by_text(re.compile("handed over, 4 changes")).first).to_be_visible()
        self.assertEqual(Handover.objects.get(pk=head["id"]).state, "done")
        page.goto(f"{self.live_server_url}/programs")
        expect(page.get_by_role("row").filter(has_text="handover done")).to_contain_text("it answered 200")
