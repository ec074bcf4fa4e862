"""Whole journeys through the real interface."""

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from definition.models.work_centers import WorkCenter
from demo.load_demo import load_demo
from playwright.sync_api import expect
from readings.export_bundle import export_bundle
from testing import Api, load, rod_and_tube

from journeys.browser import Journey, keys
from journeys.by_fractions import by_fractions


class FromNothing(Journey):
    def test_from_an_empty_database_to_a_costed_product_by_keyboard_alone(self) -> None:
        """The worked example with a made tube in it, typed without touching the mouse."""
        page = self.sign_in()
        expect(page.get_by_text("No build sheets yet")).to_be_visible()

        keys(page, "Control+k", "new work")
        expect(page.get_by_role("option", name="New work center")).to_be_visible()
        keys(page, "Enter")
        expect(page.get_by_role("dialog", name="New work center")).to_be_visible()
        keys(page, "LATHE", "Tab", "Turning", "Tab", "40", "Enter")
        expect(page.get_by_role("cell", name="LATHE")).to_be_visible()

        keys(page, "Control+k", "new part")
        expect(page.get_by_role("option", name="New part command")).to_be_visible()
        keys(page, "Enter")
        expect(page.get_by_role("dialog", name="New part")).to_be_visible()
        keys(page, "ROD", "Tab", "Bar", "Tab", "bought", "Tab", "m", "Tab", "3", "Enter")
        expect(page.get_by_role("option", name="ROD")).to_be_visible()

        keys(page, "Control+k", "new part")
        expect(page.get_by_role("option", name="New part command")).to_be_visible()
        keys(page, "Enter")
        expect(page.get_by_role("dialog", name="New part")).to_be_visible()
        keys(page, "RT-1", "Tab", "Rod, turned", "Tab", "made", "Tab", "Tab", "10", "Enter")
        start = page.get_by_role("button", name="Start its sheet")
        expect(start).to_be_focused()
        keys(page, "Enter")
        grid = page.get_by_role("treegrid")
        expect(grid).to_be_focused()

        # Two operations, and lines at the last of them; the first part is known, the second is made on the spot.
        keys(page, "Control+Shift+Enter", "Turn", "Enter")
        # Where it is done is asked, and not taken from anywhere.
        keys(page, "Enter")
        expect(page.get_by_role("alert")).to_contain_text("Choose a work center")
        keys(page, "lat")
        expect(page.get_by_role("option", name="LATHE")).to_have_attribute("aria-selected", "true")
        keys(page, "Enter")
        expect(page.get_by_role("row").filter(has_text="Turn").first).to_contain_text("Turning")
        keys(page, "12", "Tab", "3", "Enter")
        keys(page, "Control+Enter", "ROD")
        expect(page.get_by_role("listbox", name="Parts that match")).to_contain_text("Bar")
        keys(page, "Enter", "2", "Tab", "ArrowRight", "5", "Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        expect(page.get_by_title("Open its working")).to_contain_text("9.10")

        keys(page, "Control+Enter", "T-1")
        # RT-1 holds these letters too, and stands before what could be made.
        expect(page.get_by_role("option", name="RT-1")).to_be_visible()
        expect(page.get_by_role("option", name="make this made part")).to_be_visible()
        keys(page, "ArrowDown", "ArrowDown", "ArrowDown", "Enter", "4", "Enter")
        expect(page.get_by_text("Without a build sheet in force")).to_contain_text("T-1")

        # Into the sheet of the new part, which takes half a metre of rod, and back.
        keys(page, "ArrowUp")
        row = page.get_by_role("row").filter(has_text="T-1")
        expect(row).to_have_attribute("aria-selected", "true")
        keys(page, "Alt+Enter")
        expect(page.get_by_text("T-1 has no build sheet yet")).to_be_visible()
        keys(page, "Enter")
        expect(grid).to_be_focused()
        keys(page, "Control+Enter", "rod")
        expect(page.get_by_role("listbox", name="Parts that match")).to_contain_text("Bar")
        keys(page, "Enter", "0.5", "Enter")
        expect(page.get_by_title("Open its working")).to_contain_text("1.50")
        page.go_back()
        # 6.00 rod, 0.30 scrap, 0.80 set-up, 2.00 labor, and four tubes of 1.50.
        expect(page.get_by_title("Open its working")).to_contain_text("15.10")

        # Open in place, undo and redo, move, take away.
        expect(grid).to_be_focused()
        keys(page, "Control+Home", "ArrowDown", "ArrowDown", "Space")
        expect(page.get_by_role("row").filter(has_text="ROD")).to_have_count(2)
        keys(page, "Space", "Delete")
        expect(page.get_by_role("row").filter(has_text="T-1")).to_have_count(0)
        expect(page.get_by_title("Open its working")).to_contain_text("9.10")
        keys(page, "Control+z")
        expect(page.get_by_title("Open its working")).to_contain_text("15.10")
        keys(page, "Control+y")
        expect(page.get_by_title("Open its working")).to_contain_text("9.10")
        keys(page, "Control+z")
        expect(page.get_by_title("Open its working")).to_contain_text("15.10")
        keys(page, "Control+Home", "ArrowDown", "Alt+ArrowDown")
        expect(page.get_by_role("row").nth(2)).to_contain_text("T-1")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        self.assertEqual(
            list(Line.objects.filter(sheet__part__number="RT-1").order_by("position").values_list("part__number", flat=True)),
            ["T-1", "ROD"],
        )
        self.assertEqual(Part.objects.get(number="T-1").lifecycle, "draft")

    def test_a_refused_cell_keeps_what_was_typed(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight")
        keys(page, "two", "Enter")
        expect(page.get_by_role("alert")).to_contain_text("is not a number")
        expect(page.get_by_role("textbox", name="Quantity", exact=True)).to_have_value("two")
        keys(page, "Control+a", "2,5", "Enter")
        expect(page.get_by_role("row").filter(has_text="ROD")).to_contain_text("2.5")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        self.assertEqual(Line.objects.get(sheet__part__number="RT-1", item=10).quantity, 2.5)

    def test_a_refused_field_of_the_panel_keeps_what_was_typed(self) -> None:
        """What is refused goes back to the field it came from, never into a cell that holds another."""
        load(rod_and_tube())
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "Alt+d")
        share = page.get_by_label("Yield, %")
        share.fill("-5")
        share.press("Enter")
        expect(page.get_by_role("alert").filter(has_text="must be more than 0")).to_be_visible()
        expect(page.get_by_label("Yield, %")).to_have_value("-5")
        expect(page.get_by_role("textbox", name="Run", exact=True)).to_have_count(0)
        page.get_by_label("Yield, %").fill("80")
        page.get_by_label("Yield, %").press("Enter")
        batch = page.get_by_label("For a batch of")
        batch.fill("0")
        batch.press("Enter")
        expect(batch).to_have_attribute("aria-invalid", "true")
        expect(batch).to_have_value("0")
        batch.fill("4")
        batch.press("Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_label("Any work center of its group may do it").check()
        expect(page.get_by_role("row").filter(has_text="Turn").first).to_contain_text("Lathe or its group")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        sheet = BuildSheet.objects.get(part__number="RT-1")
        operation = sheet.operations.get(sequence=10)
        self.assertEqual((sheet.batch, operation.yield_percent, operation.any_of_group), (4, 80, True))

    def test_a_day_is_read_as_written_and_an_ambiguous_one_is_not_guessed(self) -> None:
        load(rod_and_tube("released"))
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        day = page.get_by_label("Day", exact=True)
        for typed, said in (("5/6/2027", None), ("31 feb 2027", None), ("7.6.2027", "7 Jun 2027"), ("1 jan 2027", "1 Jan 2027")):
            day.fill(typed)
            day.press("Enter")
            if said is None:
                expect(page.get_by_role("alert")).to_contain_text("Write a day like")
            else:
                expect(day).to_have_value(said)
        self.assertIn("day=2027-01-01", page.url)
        day.press("ArrowDown")
        expect(day).to_have_value("31 Dec 2026")

    def test_a_server_out_of_reach_loses_nothing(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight")
        page.context.set_offline(True)
        keys(page, "3", "Enter")
        expect(page.get_by_role("alert")).to_contain_text("One change is not saved yet")
        keys(page, "ArrowDown", "7", "Enter")
        expect(page.get_by_role("alert")).to_contain_text("2 changes are not saved yet")
        self.assertEqual(Line.objects.get(sheet__part__number="RT-1", item=10).quantity, 2)
        page.context.set_offline(False)
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        held = dict(Line.objects.filter(sheet__part__number="RT-1").values_list("item", "quantity"))
        self.assertEqual(held, {10: 3, 20: 7, 30: 4})
        # In order, so that each step can be undone on its own.
        page.get_by_role("treegrid").focus()
        keys(page, "Control+z")
        expect(page.get_by_role("row").filter(has_text="T-1").first).to_contain_text("1")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        self.assertEqual(Line.objects.get(sheet__part__number="RT-1", item=20).quantity, 1)

    def test_the_second_to_save_sees_both_versions(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        line = Line.objects.get(sheet__part__number="RT-1", item=10)
        Line.objects.filter(pk=line.pk).update(quantity=3)
        BuildSheet.objects.filter(part__number="RT-1").update(version=7, changed_by="Ines")
        keys(page, "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight", "4", "Enter")
        dialog = page.get_by_role("dialog", name="Ines saved this sheet before you")
        expect(dialog.get_by_role("row").nth(1)).to_contain_text("ROD")
        for cell in ("2", "3", "4"):
            expect(dialog.get_by_role("cell", name=cell, exact=True)).to_be_visible()
        keys(page, "Enter")
        expect(page.get_by_role("row").filter(has_text="ROD").first).to_contain_text("4")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        line.refresh_from_db()
        self.assertEqual(line.quantity, 4)


class Revisions(Journey):
    def test_a_revision_is_opened_edited_compared_released_and_then_locked(self) -> None:
        load(rod_and_tube("released"))
        before = export_bundle()["build_sheets"]
        page = self.sign_in(to="/sheets/RT-1")
        grid = page.get_by_role("treegrid")
        expect(grid).to_be_focused()
        expect(page.get_by_text("part number of a new line")).to_have_count(0)

        def do(words: str) -> None:
            page.get_by_role("button", name="Sheet …").click()
            page.get_by_role("menuitem", name=words).click()

        do("Open a new revision")
        keys(page, "a longer rod", "Enter")
        expect(page.get_by_role("status")).to_contain_text("Opened revision B of RT-1")
        # The draft stands on screen once there is a row to type into.
        expect(page.get_by_text("part number of a new line")).to_be_visible()
        expect(grid).to_be_focused()
        keys(page, "Control+Home", "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight", "3", "Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        do("Compare revisions")
        expect(page.get_by_role("row").filter(has_text="ROD")).to_contain_text("quantity 2 → 3")
        expect(page.get_by_text("1 row differs").or_(page.get_by_text("2 rows differ"))).to_be_visible()
        # One metre more at 3.00 with 5 % scrap.
        expect(page.get_by_text("Difference")).to_contain_text("+3.15")
        self.check_access(page, "comparing")
        page.go_back()
        do("Release this draft")
        keys(page, "Enter")
        expect(page.get_by_role("alert")).to_contain_text("reason")
        keys(page, "drawing D-7 asks for it", "Enter")
        expect(page.get_by_role("status")).to_contain_text("Released revision B")
        # Locked: no row to type into, and no key that edits; the API refuses too.
        expect(page.get_by_text("part number of a new line")).to_have_count(0)
        grid.focus()
        keys(page, "Control+Home", "ArrowDown", "ArrowRight", "ArrowRight", "9", "Enter", "Delete")
        expect(page.get_by_role("row").filter(has_text="ROD").first).to_contain_text("3")
        sheet = BuildSheet.objects.get(part__number="RT-1", revision="B")
        status, said = Api("engineer").post(
            f"/sheets/{sheet.id}/edits",
            {
                "version": sheet.version,
                "changes": [{"table": "line", "id": str(sheet.lines.get(item=10).id), "before": {}, "after": {"quantity": "9"}}],
            },
        )
        self.assertEqual((status, "is released and locked" in said["message"]), (422, True))
        after = [s for s in export_bundle()["build_sheets"] if (s["part"], s["revision"]) != ("RT-1", "B")]
        self.assertEqual([{**s, "effective_to": None} for s in after], before)
        do("History")
        expect(page.get_by_role("dialog")).to_contain_text("drawing D-7 asks for it")
        expect(page.get_by_role("dialog")).to_contain_text("a longer rod")

    def test_a_finding_leads_to_its_line_and_keeps_a_sheet_from_release(self) -> None:
        load(rod_and_tube())
        Part.objects.filter(number="NUT").update(lifecycle="obsolete")
        page = self.sign_in(to="/sheets/RT-1")
        page.get_by_role("button", name="1 stops").click()
        findings = page.get_by_role("region", name="Findings")
        expect(findings).to_contain_text("NUT is obsolete")
        findings.get_by_role("button", name="RT-1 rev. A, item 30").click()
        expect(page.get_by_role("row").filter(has_text="NUT")).to_have_attribute("aria-selected", "true")
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Release this draft").click()
        keys(page, "first issue", "Enter")
        expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("item 30: NUT is obsolete; exchange it for another part")
        self.assertEqual(BuildSheet.objects.get(part__number="RT-1").status, "draft")

    def test_two_people_on_one_draft(self) -> None:
        """Both in browsers of their own: the second is shown both versions, and what was typed is kept."""
        load(rod_and_tube())
        first, second = self.sign_in(to="/sheets/RT-1"), self.sign_in(to="/sheets/RT-1")
        for page in (first, second):
            expect(page.get_by_role("treegrid")).to_be_focused()
        to_quantity = ("ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight")
        keys(first, *to_quantity, "3", "Enter")
        expect(first.get_by_text("saved", exact=True)).to_be_visible()
        keys(second, *to_quantity, "4", "Enter")
        dialog = second.get_by_role("dialog", name="engineer saved this sheet before you")
        for cell in ("2", "3", "4"):
            expect(dialog.get_by_role("cell", name=cell, exact=True)).to_be_visible()
        dialog.get_by_role("button", name="Lay mine on theirs").click()
        expect(second.get_by_text("saved", exact=True)).to_be_visible()
        self.assertEqual(Line.objects.get(sheet__part__number="RT-1", item=10).quantity, 4)


class EveryScreen(Journey):
    def test_nothing_serious_on_any_screen(self) -> None:
        """axe-core against WCAG 2.2 AA, light and dark; and no screen scrolls sideways at 1280 × 800."""
        load_demo()
        page = self.sign_in(to="/parts")
        for to, shown in (
            ("/parts", "Harbour lantern, 155 mm"),
            ("/parts?part=ROD", "ROD"),
            ("/parts?part=LNS-155", "Lifecycle"),
            ("/parts?new=1", "New part"),
            ("/sheets", "Build sheets"),
            ("/sheets/HL-155?quantity=250&options=SYNC", "Fit light engine"),
            ("/work-centers", "Turning cell"),
            ("/work-centers?code=TURN", "Efficiency, %"),
            ("/inquiries", "Quayside pier lights"),
            ("/inquiries?new=1&own=1", "A list of our own"),
            ("/findings", "Check everything now"),
            ("/sheets/HL-155?read=parts&quantity=250", "Rounded up"),
            ("/where-used/RES-0472", "HL155-21"),
            ("/matrix?builds=HL-155:250:SYNC,SC-40&per=builds", "HL155-21"),
            ("/sheets/HL-155/compare", "nothing differs"),
            ("/rounds", "Autumn standards"),
            ("/rounds?new=1", "Nothing changes before it is accepted"),
            ("/sheets/SC-40?read=cost&drafts=0&quantity=20", "is cheaper than"),
            ("/exchange?old=FLS-01&new=SYN-01", "a new revision is opened"),
        ):
            page.goto(f"{self.live_server_url}{to}")
            expect(page.get_by_text(shown).first).to_be_visible()
            page.wait_for_load_state("networkidle")
            self.check_access(page, to)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 1280, to)
        page.goto(f"{self.live_server_url}/sheets/HL-155")
        expect(page.get_by_text("Fit light engine")).to_be_visible()
        page.get_by_role("button", name="Dark").click()
        page.wait_for_load_state("networkidle")
        self.check_access(page, "the sheet, dark")
        other = self.page()
        other.goto(self.live_server_url)
        expect(other.get_by_role("button", name="Sign in")).to_be_visible()
        self.check_access(other, "signing in")

    def test_the_basis_recomputes_and_the_working_opens_to_its_inputs(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/HL-155")
        total = page.get_by_title("Open its working")
        expect(total).to_contain_text(f"{float(by_fractions('HL-155').total('HL-155')):.2f}")
        page.get_by_label("Quantity of the job").fill("250")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="SYNC", exact=True).click()
        job = f"{float(by_fractions('HL-155', ['SYNC'], 250).total('HL-155')):.2f}"
        expect(total).to_contain_text(job)
        self.assertIn("quantity=250", page.url)
        page.reload()
        expect(total).to_contain_text(job)
        working = page.get_by_role("region", name="Working")
        working.get_by_role("button", name="10 HL155-20").click()
        expect(working).to_contain_text("HL155-20 in one HL-155")
        working.get_by_role("button", name="unit cost of HL155-20").first.click()
        working.get_by_role("button", name="30 CMP-0417").click()
        working.get_by_role("button", name="unit cost of CMP-0417").first.click()
        expect(working).to_contain_text("by engineer")
        expect(working).to_contain_text("0.046")
        # The rings: into the light engine, and out again.
        page.get_by_role("button", name="HL155-20 Light engine").first.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("group", name="Rings of the cost of HL155-20")).to_be_visible()
        page.get_by_role("treegrid").focus()
        page.keyboard.press("Escape")
        expect(page.get_by_role("group", name="Rings of the cost of HL-155")).to_be_visible()

    def test_a_viewer_looks_and_cannot_write(self) -> None:
        load_demo()
        page = self.sign_in("viewer", "/sheets/HL-155")
        expect(page.get_by_text("Fit light engine")).to_be_visible()
        expect(page.get_by_text("part number of a new line")).to_have_count(0)
        page.goto(f"{self.live_server_url}/parts?part=ROD")
        page.goto(f"{self.live_server_url}/work-centers?code=TURN")
        expect(page.get_by_label("Labor rate", exact=True)).to_be_disabled()
        self.assertEqual(WorkCenter.objects.get(code="TURN").history.count(), 1)
        with self.settings(COSTS_HIDDEN=True):
            page.goto(f"{self.live_server_url}/sheets/HL-155")
            expect(page.get_by_text("Fit light engine")).to_be_visible()
            for words in ("Unit cost", "This level", "Working", "EUR"):
                expect(page.get_by_text(words, exact=True)).to_have_count(0)
            expect(page.get_by_label("Columns for").get_by_role("option", name="cost")).to_have_count(0)
            self.check_access(page, "a sheet without its costs")
            page.goto(f"{self.live_server_url}/part/FLS-01")
            expect(page.get_by_label("Description", exact=True)).to_have_value("Flasher module, plain")
            expect(page.get_by_label("Unit cost")).to_have_count(0)
            page.goto(f"{self.live_server_url}/rounds")
            expect(page.get_by_role("alert")).to_contain_text("What things cost is not shown to you here")
