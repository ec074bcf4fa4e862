"""Typing on a sheet: where lines and notes go, whose crew it is, what two people do at once, and what a locked sheet says."""

import re

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation
from playwright.sync_api import Page, expect
from testing import Api, load, rod_and_tube, sheet_of

from journeys.browser import Journey, keys


def with_mill() -> dict:
    document = rod_and_tube()
    document["work_centers"] += [{"code": "MILL", "name": "Machining cell", "labor_rate": "50", "crew": "2"}]
    return document


#: Edits leave the browser a moment later, one after another as they were made.
_SLOW = """
const real = window.fetch;
window.fetch = async (request, ...more) => {
  if (String(request.url ?? request).includes("/edits")) await new Promise((done) => setTimeout(done, 400));
  return real(request, ...more);
};
"""


class Editing(Journey):
    def opened(self, to: str = "/sheets/RT-1?drafts=1") -> Page:
        page = self.sign_in(to=to)
        expect(page.get_by_role("treegrid")).to_be_focused()
        return page

    def saved(self, page: Page) -> None:
        expect(page.get_by_text("saved", exact=True)).to_be_visible()

    def test_crews_follow_the_work_center_unless_set_by_hand(self) -> None:
        load(with_mill())
        page = self.opened()

        def crews(name: str) -> tuple[float, float]:
            self.saved(page)
            operation = Operation.objects.get(name=name)
            return float(operation.crew), float(operation.setup_crew)

        keys(page, "Control+Shift+Enter", "Bore", "Enter")
        expect(page.get_by_role("combobox", name="Work center")).to_have_value("")
        keys(page, "mach", "Enter", "6", "Enter")
        expect(page.get_by_role("row").filter(has_text="Bore")).to_contain_text("Machining cell")
        self.assertEqual(crews("Bore"), (2, 2))
        # The first letter typed on the cell is the first letter of what is looked for.
        row = page.get_by_role("row").filter(has_text="Bore")
        row.get_by_role("gridcell").nth(2).click()
        keys(page, "lat")
        expect(page.get_by_role("combobox", name="Work center")).to_have_value("lat")
        keys(page, "Enter")
        expect(row).to_contain_text("Lathe")
        self.assertEqual(crews("Bore"), (1, 1))
        keys(page, "ArrowUp", "Alt+d")
        page.get_by_label("Crew", exact=True).fill("3")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Crew", exact=True)).to_have_value("3")
        page.get_by_label("Done at").select_option("MILL")
        expect(row).to_contain_text("Machining cell")
        self.assertEqual(crews("Bore"), (3, 2))
        page.get_by_role("treegrid").focus()
        keys(page, "Control+z")
        expect(row).to_contain_text("Lathe")
        self.assertEqual(crews("Bore"), (3, 1))

    def test_lines_and_notes_go_where_the_cursor_is(self) -> None:
        load(rod_and_tube())
        page = self.opened()
        page.get_by_role("row").filter(has_text="Fit").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Control+Enter", "NUT", "Enter", "7", "Enter")
        self.saved(page)
        keys(page, "Alt+t", "Wipe the thread dry", "Enter")
        expect(page.get_by_text("Wipe the thread dry")).to_be_visible()
        page.get_by_role("row").filter(has_text="Turn").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+t", "Deburr", "Enter")
        expect(page.get_by_text("Deburr")).to_be_visible()
        # Left without a word, an empty line goes again.
        keys(page, "Control+Enter", "Escape", "Escape")
        expect(page.get_by_text("+ part number of a new line")).to_have_count(1)
        page.get_by_role("row").filter(has_text="T-1").get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+d")
        page.get_by_label("This line is").select_option("a note")
        self.saved(page)
        expect(page.get_by_role("row").filter(has_text="T-1")).to_have_count(1)
        lines = Line.objects.filter(sheet=sheet_of("RT-1")).order_by("position")
        self.assertEqual(
            [(x.operation.sequence, x.kind, x.part.number if x.part else x.text) for x in lines if x.operation],
            [
                (10, "text", "Deburr"),
                (10, "component", "ROD"),
                (20, "component", "NUT"),
                (20, "text", "T-1"),
                (20, "text", "Wipe the thread dry"),
                (20, "component", "NUT"),
            ],
        )
        self.check_access(page, "notes")

    def test_a_part_made_by_a_slip_is_taken_away_after_undo(self) -> None:
        load(rod_and_tube())
        page = self.opened()
        keys(page, "Control+End", "Control+Enter", "NTU")
        expect(page.get_by_role("option", name="make this bought part")).to_be_visible()
        keys(page, "ArrowDown", "Enter")
        expect(page.get_by_role("status")).to_contain_text("Made NTU")
        page.keyboard.press("Escape")
        keys(page, "Control+z")
        expect(page.get_by_role("status")).to_contain_text("NTU was made as a draft part and is still there")
        page.get_by_role("button", name="Take away", exact=True).click()
        expect(page.get_by_role("status")).to_contain_text("NTU is gone")
        self.assertFalse(Part.objects.filter(number="NTU").exists())

    def test_a_part_that_is_still_a_draft_is_described_where_it_stands(self) -> None:
        """Its description, kind and cost are typed on its line, and come back with the reason where they are refused."""
        load(rod_and_tube())
        page = self.opened()
        keys(page, "Control+End", "Control+Enter", "PIN-7")
        expect(page.get_by_role("option", name="make this bought part")).to_be_visible()
        keys(page, "ArrowDown", "Enter", "3", "Enter")
        expect(page.get_by_role("status")).to_contain_text("can be typed on its line")
        self.saved(page)
        row = page.get_by_role("row").filter(has_text="PIN-7")
        row.get_by_role("gridcell").nth(2).click()
        keys(page, "Locking pin", "Enter")
        expect(row).to_contain_text("Locking pin")
        self.saved(page)
        cost = row.get_by_role("gridcell").nth(8)
        cost.click()
        keys(page, "a lot", "Enter")
        editor = page.get_by_role("textbox", name="Unit cost")
        expect(editor).to_have_value("a lot")
        expect(row).to_contain_text("not a number")
        editor.fill("1,20")
        keys(page, "Enter")
        expect(row.get_by_role("gridcell").nth(9)).to_have_text("3.60")
        row.get_by_role("gridcell").nth(3).click()
        keys(page, "Enter")
        page.get_by_label("Kind", exact=True).select_option("charge")
        keys(page, "Enter")
        expect(page.get_by_label("Kind", exact=True)).to_have_count(0)
        expect(row).to_contain_text("charge")
        part = Part.objects.get(number="PIN-7")
        self.assertEqual((part.description, float(part.unit_cost or 0), part.kind), ("Locking pin", 1.2, "charge"))
        # A part that counts is changed on its own page.
        page.get_by_role("row").filter(has_text="NUT").get_by_role("gridcell").nth(2).click()
        keys(page, "x")
        expect(page.get_by_role("textbox", name="Description")).to_have_count(0)

    def quantity(self, page: Page, number: str, text: str) -> None:
        page.get_by_role("row").filter(has_text=number).get_by_role("gridcell").nth(4).click()
        keys(page, text, "Enter")

    def test_several_edits_behind_somebody_elses_save(self) -> None:
        """All that was on its way is shown, and laid on theirs in its order, or let go; what cannot be is kept and said."""
        load(rod_and_tube())
        page = self.opened()
        other = Api("engineer")

        def behind(item: int, after: dict | None) -> None:
            line = sheet_of("RT-1").lines.get(item=item)
            body = {"version": sheet_of("RT-1").version, "changes": [{"table": "line", "id": str(line.pk), "before": {}, "after": after}]}
            self.assertEqual(other.post(f"/sheets/{sheet_of('RT-1').pk}/edits", body)[0], 200)

        def held(item: int) -> float:
            quantity = sheet_of("RT-1").lines.get(item=item).quantity
            assert quantity is not None
            return float(quantity)

        # Answers are slow, so that both edits are on their way when the first of them is refused.
        page.add_init_script(_SLOW)
        page.reload()
        expect(page.get_by_role("treegrid")).to_be_focused()
        # The rest of the sheet comes behind its own rows, and must not bring what is written next.
        page.wait_for_load_state("networkidle")
        behind(10, {"quantity": "9"})
        self.quantity(page, "ROD", "3")
        self.quantity(page, "NUT", "6")
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("saved this sheet before you")
        expect(dialog.get_by_role("row").filter(has_text="ROD")).to_contain_text(re.compile("2.*9.*3"))
        self.assertEqual((held(10), held(30)), (9, 4))
        dialog.get_by_role("button", name="Lay mine on theirs").click()
        self.saved(page)
        self.assertEqual((held(10), held(30)), (3, 6))

        behind(10, {"quantity": "8"})
        self.quantity(page, "ROD", "5")
        self.quantity(page, "NUT", "7")
        expect(dialog).to_contain_text("saved this sheet before you")
        dialog.get_by_role("button", name="Keep theirs, drop mine").click()
        expect(page.get_by_role("row").filter(has_text="ROD")).to_contain_text("8")
        self.saved(page)
        self.assertEqual((held(10), held(30)), (8, 6))

        # The line of the first one is gone: it cannot be laid on theirs, and the second one is.
        behind(20, None)
        self.quantity(page, "T-1", "2")
        self.quantity(page, "NUT", "5")
        expect(dialog).to_contain_text("saved this sheet before you")
        dialog.get_by_role("button", name="Lay mine on theirs").click()
        expect(page.get_by_text("this line is no longer on the sheet").first).to_be_visible()
        expect(page.get_by_text("One change is not saved yet")).to_be_visible()
        expect(page.get_by_role("row").filter(has_text="NUT").get_by_role("gridcell").nth(4)).to_have_text("5")
        page.get_by_role("button", name="Let them go").click()
        self.saved(page)
        self.assertEqual(held(30), 5)

    def test_a_locked_sheet_says_so_and_another_revision_says_when_it_holds(self) -> None:
        document = rod_and_tube("released")
        top = document["build_sheets"][0]
        top |= {"effective_to": "2030-01-01"}
        document["build_sheets"].append(top | {"revision": "B", "effective_from": "2030-01-01", "effective_to": None})
        load(document)
        page = self.opened("/sheets/RT-1")
        expect(page.get_by_label("Revision")).to_have_value(str(BuildSheet.objects.get(part__number="RT-1", revision="A").pk))
        page.get_by_role("row").filter(has_text="ROD").get_by_role("gridcell").nth(4).click()
        keys(page, "5")
        expect(page.get_by_role("status")).to_contain_text("Revision A is released and locked")
        page.get_by_label("Revision").select_option(label="alternate A, revision B, released 1 Jan 2030")
        expect(page.get_by_text("Revision B of alternate A holds from 1 Jan 2030 on.")).to_contain_text("revision A counts")
        page.get_by_role("button", name="Show revision A").click()
        expect(page.get_by_text("of alternate A holds")).to_have_count(0)
        page.goto(f"{self.live_server_url}/sheets/RT-1?day=2030-02-01")
        expect(page.get_by_label("Revision")).to_have_value(str(BuildSheet.objects.get(part__number="RT-1", revision="B").pk))
        # A working that stands open follows a price that changes beside it.
        expect(page.get_by_role("treegrid")).to_be_focused()
        page.get_by_role("row").filter(has_text="ROD").get_by_role("gridcell", name=re.compile("^3.00")).click()
        working = page.get_by_label("Working")
        expect(working).to_contain_text("3 EUR per m")
        keys(page, "Alt+Enter")
        panel = page.get_by_role("dialog", name="ROD")
        panel.get_by_label("Unit cost").fill("3.5")
        panel.get_by_role("button", name="Save").click()
        expect(working).to_contain_text("3.5 EUR per m")
        page.keyboard.press("5")
        page.get_by_role("button", name="Open a new revision").click()
        expect(page.get_by_role("dialog", name="New revision of RT-1")).to_be_visible()

    def test_a_viewer_finds_what_may_not_be_done_with_the_reason(self) -> None:
        load(rod_and_tube("released"))
        page = self.sign_in("viewer", to="/parts")
        new = page.get_by_role("button", name="New part").first
        expect(new).to_have_attribute("aria-disabled", "true")
        expect(new).to_have_attribute("title", re.compile("^You may look at parts but not change them; ask somebody who is"))
        new.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("status")).to_contain_text("You may look at parts")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.goto(f"{self.live_server_url}/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        page.get_by_role("row").filter(has_text="ROD").get_by_role("gridcell").nth(4).click()
        keys(page, "5")
        expect(page.get_by_role("status")).to_contain_text("You may look at sheets but not change them")
        page.get_by_role("button", name="Sheet …").click()
        revise = page.get_by_role("menuitem", name="Open a new revision")
        expect(revise).to_have_attribute("aria-disabled", "true")
        page.keyboard.press("Escape")
        self.check_access(page, "disabled with a reason")
        page.get_by_role("button", name=re.compile("sign out")).click()
        expect(page.get_by_label("Password")).to_be_visible()
