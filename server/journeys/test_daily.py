"""What everyone does on some day: coming in and leaving, the life of a sheet to its end, the keys beside the sheet."""

import httpx
from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from playwright.sync_api import Page, expect
from testing import PASSWORD, load, person, rod_and_tube, sheet_of

from journeys.browser import Journey, keys


class Sessions(Journey):
    def test_a_wrong_password_signing_out_and_a_session_that_ended(self) -> None:
        load(rod_and_tube())
        person("engineer")
        page = self.page()
        page.goto(f"{self.live_server_url}/sheets/RT-1")
        expect(page.get_by_label("Name")).to_be_focused()
        keys(page, "engineer", "Tab", "harbor", "Enter")
        expect(page.get_by_role("alert")).to_contain_text("do not go together")
        expect(page.get_by_label("Name")).to_have_value("engineer")
        page.get_by_label("Password").fill(PASSWORD)
        page.keyboard.press("Enter")
        expect(page.get_by_role("treegrid")).to_be_visible()
        # It ends by itself while somebody types: the password is asked for over the screen, and what was typed is saved then.
        keys(page, "Control+Home", "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight", "7")
        page.context.clear_cookies()
        keys(page, "Enter")
        again = page.get_by_role("dialog", name="Your session has ended")
        expect(again).to_contain_text("engineer")
        self.check_access(page, "signing in again")
        keys(page, "not it", "Enter")
        expect(again.get_by_role("alert")).to_contain_text("do not go together")
        again.get_by_label("Password").fill(PASSWORD)
        keys(page, "Enter")
        expect(again).to_have_count(0)
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        self.assertEqual(sheet_of("RT-1").lines.get(item=10).quantity, 7)
        page.get_by_role("button", name="Define").click()
        page.get_by_role("menuitem", name="Parts", exact=True).click()
        expect(page.get_by_role("option").filter(has_text="T-1").first).to_be_visible()
        # A token for a program: shown once, it reads what it was given, and no more once it is revoked.
        page.get_by_role("button", name="Account", exact=True).click()
        panel = page.get_by_role("dialog", name="Your account")
        panel.get_by_label("What it is for").fill("nightly list")
        panel.get_by_label("parts", exact=True).check()
        panel.get_by_role("button", name="Make the token").click()
        token = panel.get_by_label("The token").inner_text()
        self.check_access(page, "tokens")

        def read(path: str) -> int:
            return httpx.get(f"{self.live_server_url}/api/{path}", headers={"Authorization": f"Bearer {token}"}).status_code

        self.assertEqual([read("parts"), read("sheets")], [200, 403])
        panel.get_by_role("button", name="Revoke").click()
        expect(panel.get_by_text("no longer taken")).to_be_visible()
        self.assertEqual(read("parts"), 401)
        keys(page, "Escape")
        page.get_by_title("Sign out").click()
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()
        page.reload()
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()


class LifeOfASheet(Journey):
    def do(self, page: Page, words: str) -> None:
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name=words).click()

    def test_days_an_alternate_the_one_that_counts_dropping_and_retiring(self) -> None:
        load(rod_and_tube("released"))
        page = self.sign_in(to="/sheets/RT-1")
        said = page.get_by_role("status")
        expect(page.get_by_role("treegrid")).to_be_focused()
        self.do(page, "Days in force")
        keys(page, "from the new year", "Tab", "1 Jan 2026", "Tab")
        page.get_by_label("Up to, not on").fill("1 Jan 2099")
        keys(page, "Enter", "Enter")
        expect(said).to_contain_text("Changed the days of revision A")
        sheet = sheet_of("RT-1")
        self.assertEqual((str(sheet.effective_from), str(sheet.effective_to)), ("2026-01-01", "2099-01-01"))

        self.do(page, "New alternate")
        page.get_by_role("dialog").get_by_label("Reason").fill("a second way")
        keys(page, "Enter")
        expect(said).to_contain_text("Opened alternate B of RT-1")
        self.do(page, "Make this alternate the one that counts")
        keys(page, "Enter")
        expect(said).to_contain_text("RT-1 is counted by alternate B")
        self.assertEqual(Part.objects.get(number="RT-1").default_alternate, "B")
        self.do(page, "Drop this draft")
        page.get_by_role("button", name="Keep it").click()
        self.assertEqual(BuildSheet.objects.filter(part__number="RT-1").count(), 2)
        self.do(page, "Drop this draft")
        keys(page, "Enter")
        expect(said).to_contain_text("Dropped the draft")
        self.assertEqual(BuildSheet.objects.filter(part__number="RT-1").count(), 1)

        page.goto(f"{self.live_server_url}/sheets/RT-1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        self.do(page, "Retire this revision")
        keys(page, "the tube is no longer made", "Enter")
        expect(said).to_contain_text("Retired revision A of RT-1")
        expect(page.get_by_text("is retired and counts on no day")).to_be_visible()
        self.assertEqual(sheet_of("RT-1").status, "retired")

    def test_drafts_are_released_together(self) -> None:
        document = rod_and_tube()
        document["build_sheets"][1]["status"] = "draft"
        load(document)
        page = self.sign_in(to="/sheets")
        page.get_by_role("button", name="Release drafts …").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("RT-1 A revision A").check()
        dialog.get_by_label("Reason").fill("first of its kind")
        keys(page, "Enter")
        expect(dialog.get_by_role("alert")).to_contain_text("T-1")
        dialog.get_by_label("T-1 A revision A", exact=True).check()
        self.check_access(page, "releasing drafts together")
        dialog.get_by_role("button", name="Release 2 drafts").click()
        expect(page.get_by_role("status").last).to_contain_text("Released 2 sheets")
        self.assertEqual(set(BuildSheet.objects.values_list("status", flat=True)), {"released"})

    def test_keys_beside_the_sheet(self) -> None:
        load(rod_and_tube())
        page = self.sign_in(to="/sheets/RT-1?drafts=1")
        grid = page.get_by_role("treegrid")
        expect(grid).to_be_focused()
        keys(page, "?")
        shown = page.get_by_role("dialog", name="Keys of this screen")
        expect(shown).to_contain_text("new note below")
        keys(page, "Escape")
        expect(grid).to_be_focused()
        columns = page.get_by_label("Columns for")
        first = columns.input_value()
        keys(page, "Alt+c")
        expect(columns).not_to_have_value(first)
        keys(page, "Alt+v")
        expect(page.get_by_role("row").filter(has_text="Turn")).to_have_count(0)
        keys(page, "Alt+v")
        expect(page.get_by_role("row").filter(has_text="Turn").first).to_be_visible()
        keys(page, "Alt+f")
        expect(page.get_by_role("region", name="Findings").locator(":focus")).to_have_count(1)
        keys(page, "Escape")
        expect(grid).to_be_focused()
        keys(page, "Alt+w")
        expect(page.get_by_role("region", name="Working").locator(":focus")).to_have_count(1)
        # F2 opens the cell with what is in it; Escape leaves it as it was.
        grid.focus()
        keys(page, "Control+Home", "ArrowDown", "ArrowRight", "ArrowRight", "ArrowRight")
        page.keyboard.press("F2")
        editor = grid.get_by_role("textbox")
        expect(editor).to_have_value("2")
        keys(page, "Escape")
        expect(editor).to_have_count(0)

    def test_a_part_that_nothing_names_is_taken_away(self) -> None:
        load(rod_and_tube())
        Part.objects.create(number="SLIP", kind="bought", unit="ea")
        page = self.sign_in(to="/parts")
        expect(page.get_by_role("option").filter(has_text="SLIP")).to_be_visible()
        page.get_by_role("listbox", name="Parts").focus()
        keys(page, "n")
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("New part")
        expect(dialog.get_by_role("button", name="Take the part away")).to_have_count(0)
        keys(page, "Escape")
        for number, says in (("ROD", "ROD cannot be taken away: it is named by a line"), ("SLIP", "SLIP is gone")):
            page.get_by_role("option").filter(has_text=number).first.click()
            dialog.get_by_role("button", name="Take the part away").click()
            page.get_by_role("dialog", name=f"Take {number} away?").get_by_role("button", name="Take away").click()
            expect(page.get_by_text(says)).to_be_visible()
            if number == "ROD":
                keys(page, "Escape")
                expect(dialog).to_have_count(0)
        expect(page.get_by_role("option").filter(has_text="SLIP")).to_have_count(0)
        self.assertEqual(set(Part.objects.values_list("number", flat=True)), {"ROD", "NUT", "T-1", "RT-1"})
        self.assertEqual(Part.history.filter(number="SLIP", history_type="-").count(), 1)
