"""An inquiry in a real browser: by keyboard from a customer's files to a released sheet, its next revision, and two people on one."""

import io
import re
from pathlib import Path
from typing import Any

import xlsxwriter
from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from inquiries.models import Inquiry, ListLine
from inquiries.tests.at_work import stock
from openpyxl import load_workbook
from playwright.sync_api import Page, expect
from testing import Api, load

from journeys.browser import Journey, keys

TITLES = ["Pos", "Part No.", "Designation", "Manufacturer / MPN", "Qty", "Ref Des"]
ROWS: list[list[Any]] = [
    [1, "K-100", "Resistor 10k 1% 0603", "Nordry / NR-0603-10K", 3, "R1, R2"],
    [2, "K-101", "Capacitor 100 nF 25 V X7R 0603", "", 1, "C1"],
    [3, "K-102", "Terminal, two screws", "", 1, "J1"],
    [4, "K-103", "Relay", "Nordry / RL-24-2", 1, "K1"],
    [5, "K-104", "Capacitor 10 nF 50 V X7R 0603", "", 1, "C2"],
]
LAYOUT = "Designator;X (mm);Y (mm);Rotation;Side;Footprint\n" + "".join(
    f"{name};{x};10;0;{side};{package}\n"
    for name, x, side, package in (
        ("R1", 5, "top", "RESC1608X55N"),
        ("R2", 10, "top", "RESC1608X55N"),
        ("C1", 15, "top", "CAPC1608X90N"),
        ("J1", 20, "top", "TERM-2"),
        ("K1", 25, "bottom", "RELAY"),
        ("C2", 30, "top", "CAPC2012X90N"),
    )
)


def book(rows: list[list[Any]]) -> bytes:
    buffer = io.BytesIO()
    file = xlsxwriter.Workbook(buffer, {"in_memory": True})
    sheet = file.add_worksheet("List")
    for at, row in enumerate([["Kestrel Piers"], ["Assembly", "QP-7", "Title", "Pier light"], [], TITLES, *rows]):
        sheet.write_row(at, 0, row)
    file.close()
    return buffer.getvalue()


def parts() -> dict[str, Any]:
    bundle = stock()
    bundle["parts"] += [
        {
            "number": "RLY-9",
            "kind": "bought",
            "unit": "ea",
            "description": "Relay 24 V",
            "lifecycle": "last_buy",
            "maker_numbers": [{"maker": "Nordry", "number": "RL-24-2"}],
        },
        {"number": "CAP-3", "kind": "bought", "unit": "ea", "description": "Capacitor 10 nF 50 V X7R 0603"},
        {"number": "TRM-2", "kind": "bought", "unit": "ea", "description": "Terminal block"},
    ]
    return bundle


class Inquiries(Journey):
    def row(self, page: Page, number: str) -> Any:
        return page.get_by_role("row").filter(has_text=number)

    def settled(self, page: Page) -> None:
        expect(page.locator("[aria-busy=true]")).to_have_count(0)

    def test_by_keyboard_from_a_file_to_a_released_sheet_and_its_next_revision(self) -> None:
        load(parts())
        engineer = Api("engineer")
        # An earlier inquiry, in which the terminal was paired by hand.
        before = engineer.post("/inquiries", {"title": "Before", "customer": "Kestrel Piers"})[1]["id"]
        engineer.upload("before.xlsx", book([ROWS[2]]), f"/inquiries/{before}/files")
        line = ListLine.objects.get(said__part="K-102")
        engineer.post(f"/inquiries/{before}/decisions", [{"line": line.pk, "seen": line.stamp, "verb": "take", "part": "TRM-2"}])

        page = self.sign_in(to="/inquiries")
        page.get_by_role("button", name="New inquiry").press("Enter")
        expect(page.get_by_label("What is asked")).to_be_focused()
        keys(page, "Pier lights", "Tab", "Kestrel Piers", "Enter")
        expect(page.get_by_text("Bring what they sent")).to_be_visible()
        self.check_access(page, "an empty inquiry")
        page.get_by_label("Files of the inquiry").set_input_files(
            [
                {"name": "list.xlsx", "mimeType": "application/octet-stream", "buffer": book(ROWS)},
                {"name": "places.csv", "mimeType": "text/csv", "buffer": LAYOUT.encode()},
            ]
        )
        expect(page.get_by_role("grid")).to_be_focused()
        expect(self.row(page, "K-104")).to_contain_text("the list says 0603, the layout has 0805")
        self.check_access(page, "an inquiry")

        # What is certain, together: the terminal as remembered, resistor and relay by their makers' numbers; looked at first.
        keys(page, "t")
        expect(page.get_by_label("Certain pairs").get_by_role("listitem")).to_have_count(3)
        keys(page, "Enter")
        expect(self.row(page, "K-102")).to_contain_text("remembered")
        expect(self.row(page, "K-103")).to_contain_text("RLY-9 is at its last buy")
        keys(page, "u")
        expect(page.get_by_text("Taken back: 3 lines.")).to_be_visible()
        expect(page.get_by_role("grid")).to_be_focused()
        keys(page, "t", "Enter")
        expect(self.row(page, "K-103")).to_contain_text("RLY-9 is at its last buy")

        # The relay at its last buy may stand, with a reason.
        keys(page, "Home", "ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown")
        expect(page.get_by_label("Evidence")).to_contain_text("RL-24-2")
        keys(page, "w")
        expect(page.get_by_label("Why it may stand")).to_be_focused()
        keys(page, "the last lot is on our shelf", "Enter")
        expect(self.row(page, "K-103")).not_to_contain_text("last buy")
        # A quantity that does not fit its designators is put to the sender.
        keys(page, "Home", "ArrowDown", "q")
        expect(page.get_by_label("What the sender is asked")).to_have_value("Quantity 3, but 2 designators. Which holds?")
        keys(page, "Enter")
        expect(self.row(page, "K-100")).to_contain_text("asked")
        # By values: a higher voltage meets what is asked.
        expect(page.get_by_role("grid")).to_be_focused()
        keys(page, "ArrowDown")
        expect(page.get_by_label("Who it could be")).to_contain_text("meets")
        keys(page, "1")
        expect(self.row(page, "K-101")).to_contain_text("CAP-1")
        # On to the next: sizes of list and layout disagree; mended here, their own word stays beside it.
        expect(self.row(page, "K-104")).to_have_attribute("aria-selected", "true")
        keys(page, "m")
        expect(page.get_by_label("What it is to say")).to_be_focused()
        page.keyboard.press("Control+a")
        keys(page, "Capacitor 10 nF 50 V X7R 0805", "Enter")
        expect(page.get_by_label("Evidence")).to_contain_text("they wrote: Capacitor 10 nF 50 V X7R 0603")
        expect(self.row(page, "K-104")).not_to_contain_text("the layout has")
        # Nothing of ours has that size: a new part, in one key.
        expect(page.get_by_role("grid")).to_be_focused()
        keys(page, "p")
        expect(page.get_by_label("Number", exact=True)).to_be_focused()
        keys(page, "Enter")
        expect(self.row(page, "K-104")).to_contain_text("new part")
        expect(self.row(page, "the list is for")).to_have_attribute("aria-selected", "true")
        keys(page, "p")
        expect(page.get_by_label("Number", exact=True)).to_be_focused()
        keys(page, "Enter")
        expect(page.get_by_text("6 of 6")).to_be_visible()

        # The questions leave as a workbook in the words of the sender's list, and it is read back.
        keys(page, "e")
        expect(page.get_by_label("The mail")).to_contain_text("list.xlsx, row 5, K-100: Quantity 3")
        with page.expect_download() as download:
            page.get_by_role("button", name="Workbook to fill in").press("Enter")
        answered = load_workbook(io.BytesIO(Path(download.value.path()).read_bytes()))
        sheet = answered.active
        sheet.cell(2, 8).value = 2
        back = io.BytesIO()
        answered.save(back)
        page.get_by_label("Workbook with answers").set_input_files(
            {"name": "answers.xlsx", "mimeType": "application/octet-stream", "buffer": back.getvalue()}
        )
        expect(page.get_by_text("Answers laid on 1 line.")).to_be_visible()
        keys(page, "Escape")
        expect(self.row(page, "K-100")).to_contain_text("answered")

        # What it becomes, seen before it is made; then released.
        keys(page, "s")
        expect(page.get_by_text("new sheet, revision A, a draft")).to_be_visible()
        self.check_access(page, "what an inquiry becomes")
        keys(page, "Enter")
        expect(page.get_by_role("treegrid")).to_be_visible()
        sheet = BuildSheet.objects.get(part__number="QP-7")
        lines = {x.part.number: (x.quantity, x.reference_designators) for x in sheet.lines.all() if x.part}
        self.assertEqual(
            lines, {"RES-1": (2, ["R1", "R2"]), "CAP-1": (1, ["C1"]), "TRM-2": (1, ["J1"]), "RLY-9": (1, ["K1"]), "K-104": (1, ["C2"])}
        )
        inquiry = Inquiry.objects.get(title="Pier lights")
        self.assertEqual((inquiry.state, Part.objects.get(number="K-104").description), ("ready", "Capacitor 10 nF 50 V X7R 0805"))
        page.get_by_role("button", name="Sheet …").press("Enter")
        page.get_by_role("menuitem", name="Release this draft …").press("Enter")
        page.get_by_label("Reason").press_sequentially("as quoted")
        page.get_by_role("button", name="Release", exact=True).press("Enter")
        expect(page.get_by_role("status").last).to_contain_text("Released revision A of QP-7")

        # Their next revision shows only its changes, and changes only those.
        page.goto(f"{self.live_server_url}/inquiries/{inquiry.pk}")
        expect(page.get_by_role("grid")).to_be_focused()
        later = [[1, "K-100", "Resistor 10k 1% 0603", "Nordry / NR-0603-10K", 4, "R1-R4"], *ROWS[1:3], ROWS[4]]
        keys(page, "f")
        page.get_by_label("Files of the inquiry").set_input_files(
            {"name": "list rev B.xlsx", "mimeType": "application/octet-stream", "buffer": book(later)}
        )
        expect(page.get_by_text("replaced by list rev B.xlsx")).to_be_visible()
        keys(page, "Escape")
        expect(page.get_by_text("5 of 5")).to_be_visible()
        page.get_by_role("button", name="changed 1").press("Enter")
        expect(self.row(page, "K-100")).to_contain_text("was: quantity 3")
        keys(page, "s")
        what = page.get_by_role("dialog")
        expect(what).to_contain_text("quantity 2 → 4, designators R1 R2 → R1-R4")
        expect(what.get_by_text("taken away")).to_have_count(1)
        expect(what.get_by_text("as it stands")).to_have_count(3)
        keys(page, "Enter")
        expect(page.get_by_role("treegrid")).to_be_visible()
        self.assertEqual(
            list(BuildSheet.objects.filter(part__number="QP-7").order_by("id").values_list("revision", "status")),
            [("A", "released"), ("B", "draft")],
        )

    def test_two_people_on_one_inquiry_and_the_board(self) -> None:
        load(parts())
        engineer = Api("engineer")
        at = engineer.post("/inquiries", {"title": "Pier lights", "customer": "Kestrel Piers"})[1]["id"]
        engineer.upload("list.xlsx", book(ROWS), f"/inquiries/{at}/files")
        engineer.upload("places.csv", LAYOUT.encode(), f"/inquiries/{at}/files")
        page = self.sign_in("engineer", f"/inquiries/{at}")
        other = self.sign_in("buyer", f"/inquiries/{at}")
        for one in (page, other):
            expect(one.get_by_role("grid")).to_be_focused()
            keys(one, "Home", "ArrowDown", "ArrowDown")
            expect(one.get_by_label("Who it could be")).to_contain_text("CAP-1")
        # What one decides, the other sees within seconds, without doing anything.
        keys(page, "Home", "ArrowDown", "1")
        expect(self.row(other, "K-100")).not_to_contain_text("undecided")
        # Both at once on one line: the second is shown both, and nothing was written over.
        line = ListLine.objects.get(said__part="K-101")
        other.route(re.compile(r"/lines\?since="), lambda route: route.abort())
        keys(page, "Home", "ArrowDown", "ArrowDown", "1")
        expect(self.row(page, "K-101")).to_contain_text("decided")
        expect(self.row(page, "K-101")).not_to_contain_text("undecided")
        keys(other, "x")
        expect(other.get_by_text("Decided twice")).to_be_visible()
        line.refresh_from_db()
        self.assertEqual((line.part.number, line.decided_by), ("CAP-1", "engineer"))
        other.unroute(re.compile(r"/lines\?since="))
        keys(other, "Enter")
        expect(self.row(other, "K-101")).to_contain_text("CAP-1")

        # The board: the line at the cursor is marked where it stands; a place leads to its line.
        keys(page, "b")
        board = page.get_by_label("The board")
        keys(page, "Home", "ArrowDown")
        expect(board).to_contain_text("2 places of this line")
        expect(board.get_by_role("img", name="top side, 5 components")).to_be_visible()
        board.locator("g[transform]").filter(has=page.locator("title", has_text="C2,")).last.click()
        expect(self.row(page, "K-104")).to_have_attribute("aria-selected", "true")
        board.get_by_role("button", name="bottom").click()
        board.locator("g[transform]").filter(has=page.locator("title", has_text="K1,")).last.click()
        expect(self.row(page, "K-103")).to_have_attribute("aria-selected", "true")
        self.check_access(page, "the board")

        # By hand: what is found is held against the line before it is taken.
        page.get_by_role("grid").focus()
        keys(page, "h")
        expect(page.get_by_label("Find a part of ours")).to_be_focused()
        page.keyboard.press("Control+a")
        # Enter waits for what was typed, and takes nothing that was found for other words.
        keys(page, "CAP-3", "Enter")
        expect(self.row(page, "K-103")).to_contain_text("by hand")
        expect(self.row(page, "K-103")).to_contain_text("CAP-3")
        # How the list is read, said anew.
        page.get_by_role("button", name="Files 2").click()
        page.get_by_role("button", name="how it is read").click()
        page.get_by_label("Column 4 holds").select_option("note")
        self.check_access(page, "how a list is read")
        page.get_by_role("button", name="Read it so").click()
        expect(page.get_by_text("lists of Kestrel Piers with these titles are read so from now on")).to_be_visible()
        # Without its maker's number the line says another thing than it was decided on: it is proposed again, and not silently kept.
        expect(self.row(page, "K-103")).to_contain_text("remembered")
