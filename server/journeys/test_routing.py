"""Journeys through routings: work put in order, taken from the library, written for the shop, measured, and loaded."""

import re
import tempfile
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path
from unittest.mock import patch

from definition.models.parts import Part
from definition.models.sheets import Line, Operation
from demo.load_demo import load_demo
from django.test import override_settings
from django.utils.timezone import localdate
from PIL import Image
from playwright.sync_api import Locator, Page, expect
from testing import Api, load

from journeys.browser import Journey, keys

TODAY = date(2026, 11, 25)  # a Wednesday


def welded_box() -> dict:
    """A part without a sheet, three things to buy for it, and a library of two operations."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "work_centers": [{"code": code, "labor_rate": "36"} for code in ("BAND", "JIG", "OUT")],
        "parts": [
            {"number": "BOX-9", "kind": "made", "unit": "ea", "costing_lot": "10", "description": "Welded box"},
            {"number": "BODY", "kind": "bought", "unit": "ea", "unit_cost": "4", "lead_time_days": 5, "description": "Body blank"},
            {"number": "LID", "kind": "bought", "unit": "ea", "unit_cost": "2", "lead_time_days": 9, "description": "Lid blank"},
            {"number": "SEAL", "kind": "bought", "unit": "ea", "unit_cost": "1", "lead_time_days": 2, "description": "Seal blank"},
        ],
        "standard_operations": [
            {
                "code": "CURE",
                "operation": {
                    "sequence": 10,
                    "name": "Glue and cure",
                    "work_center": "JIG",
                    "run_minutes": "30",
                    "run_basis": "per_lot",
                    "wait_minutes": "1440",
                },
            },
            {"code": "PACK-STD", "operation": {"sequence": 10, "name": "Pack", "work_center": "OUT", "run_minutes": "1"}},
        ],
    }


class Routing(Journey):
    def node(self, page: Page, name: str) -> Locator:
        return page.get_by_label("Order of work").get_by_role("button", name=name)

    def test_five_operations_with_a_fork_and_a_join_until_the_order_days(self) -> None:
        """Worked by hand. Forward from Wednesday 25 November: bodies on Monday 30, sawn 8:00 to 9:00; outside for four days,
        to Friday 4 December 9:00; glued by 9:30 and cured on Saturday 9:30; packed on Monday 7, 8:00 to 8:10.
        For Friday 18 December: packed from 15:50, glued on Thursday at 15:20, sent out on Sunday 13, so sawn on Friday 11 from
        15:00: bodies are ordered on the 6th, lids on the 8th, seals on the 16th.
        """
        load(welded_box())
        Api("engineer").post("/sheets", {"part": "BOX-9"})
        now = patch("loading.times.localdate", return_value=TODAY)
        now.start()
        self.addCleanup(now.stop)
        page = self.sign_in(to="/sheets/BOX-9?day=2026-11-25&drafts=1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "Control+Shift+Enter", "Saw", "Enter", "BAND", "Enter")
        expect(page.get_by_role("row").filter(has_text="Saw").first).to_contain_text("BAND")
        keys(page, "30", "Tab", "3", "Enter")
        keys(page, "Control+Shift+Enter", "Weld", "Enter", "BAND", "Enter", "0", "Tab", "6", "Enter")
        keys(page, "Control+Shift+Enter", "Paint", "Enter", "outside", "Enter")
        expect(page.get_by_role("row").filter(has_text="Paint").first).to_contain_text("least 0.00")
        keys(page, "Alt+d")
        page.get_by_label("Days away").fill("4")
        page.keyboard.press("Enter")
        page.get_by_label("Supplier").fill("Saltmarsh Coatings")
        page.keyboard.press("Enter")
        expect(page.get_by_role("row").filter(has_text="Paint").first).to_contain_text("outside: Saltmarsh Coatings")

        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Add operations from elsewhere").click()
        dialog = page.get_by_role("dialog")
        for code in ("CURE", "PACK-STD"):
            dialog.get_by_role("checkbox", name=code).check()
        self.check_access(page, "operations from elsewhere")
        dialog.get_by_role("button", name="Put 2 on the routing").click()
        expect(page.get_by_role("row").filter(has_text="Glue and cure").first).to_be_visible()
        expect(page.get_by_role("treegrid")).to_be_focused()

        # A line comes in at the operation where the cursor is; Alt and the arrow take it to the one before.
        for number, beside, steps in (("BODY", "Weld", 1), ("LID", "Glue and cure", 0), ("SEAL", "Pack", 0)):
            page.get_by_role("row").filter(has_text=beside).first.get_by_role("gridcell").nth(1).click()
            keys(page, "Control+Enter", number)
            expect(page.get_by_role("listbox", name="Parts that match")).to_contain_text("blank")
            keys(page, "Enter", "1", "Enter")
            line = page.get_by_role("row").filter(has_text=number)
            expect(line).to_be_visible()
            line.get_by_role("gridcell").nth(1).click()
            for _ in range(steps):
                keys(page, "Alt+ArrowUp")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        at = Line.objects.order_by("operation__sequence").values_list("part__number", "operation__sequence")
        self.assertEqual(list(at), [("BODY", 10), ("LID", 40), ("SEAL", 50)])

        # Somebody checks the cut while it is sawn; by key the operation is copied with that, and taken back.
        page.get_by_role("row").filter(has_text="Saw").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+b", "BAND", "Enter", "0", "Tab", "0.5", "Enter")
        beside = page.get_by_role("row").filter(has_text="beside it, at the same time")
        expect(beside).to_contain_text("run 0.5 min")
        keys(page, "ArrowUp", "Alt+d")
        expect(page.get_by_role("heading", name="Beside operation 10")).to_be_visible()
        page.get_by_label("Crew", exact=True).fill("0.5")
        page.keyboard.press("Enter")
        page.get_by_role("row").filter(has_text="Saw").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Control+c", "Control+v")
        expect(beside).to_have_count(2)
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_role("treegrid").focus()
        keys(page, "Control+z")
        expect(beside).to_have_count(1)
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        (checking,) = Operation.objects.filter(resource=1)
        self.assertEqual((checking.sequence, checking.beside.name, checking.crew), (10, "Saw", Decimal("0.5")))

        # The order of work: painted beside the welding, glued when both are done; by key, and once with the mouse.
        keys(page, "Alt+o")
        expect(self.node(page, "30 Paint")).to_have_accessible_name(re.compile("follows 20$"))
        for first, then in (("10 Saw", "30 Paint"), ("20 Weld", "30 Paint")):
            self.node(page, first).focus()
            keys(page, "Enter")
            self.node(page, then).focus()
            keys(page, "Enter")
        expect(self.node(page, "30 Paint")).to_have_accessible_name(re.compile("follows 10$"))
        self.node(page, "20 Weld").drag_to(self.node(page, "40 Glue"))
        expect(self.node(page, "40 Glue")).to_have_accessible_name(re.compile("follows 20 and 30$"))
        self.check_access(page, "order of work")
        # What would wait for itself is refused with its path, and nothing is lost.
        self.node(page, "40 Glue").focus()
        keys(page, "Enter")
        self.node(page, "20 Weld").focus()
        keys(page, "Enter")
        expect(page.get_by_role("status")).to_contain_text("operations wait for one another: 20 → 40 → 20")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        held = dict(Operation.objects.values_list("sequence", "after"))
        self.assertEqual(held, {10: [], 20: [], 30: [10], 40: [20, 30], 50: []})
        self.assertEqual(Operation.objects.filter(standard__isnull=False).count(), 2)

        page.get_by_label("Read as").select_option("time")
        expect(page.get_by_text("lead time 12.3 days")).to_be_visible()
        expect(page.get_by_text("25 Nov 2026, 00:00 – 7 Dec 2026, 08:10")).to_be_visible()
        page.get_by_label("Wanted on").fill("18 Dec 2026")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Order days").click()
        rows = page.get_by_role("table", name="Order days").get_by_role("row")
        for index, (number, day) in enumerate((("BODY", "6 Dec 2026"), ("LID", "8 Dec 2026"), ("SEAL", "16 Dec 2026")), 1):
            expect(rows.nth(index)).to_contain_text(number)
            expect(rows.nth(index)).to_contain_text(day)

    def test_operations_are_copied_from_another_routing(self) -> None:
        """Linked, as they stand there: the deburring keeps following the library, the turning follows nothing."""
        load_demo()
        Api("engineer").post("/sheets", {"part": "GSK-155"})
        page = self.sign_in(to="/sheets/GSK-155?drafts=1")
        page.get_by_label("Revision").select_option(label="alternate A, revision B, draft")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_role("button", name="Sheet …").click()
        page.get_by_role("menuitem", name="Add operations from elsewhere").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Where they come from").select_option("routing")
        expect(dialog.get_by_role("combobox", name="Part number")).to_be_focused()
        keys(page, "HL155-11")
        expect(dialog.get_by_role("option", name="Retaining ring")).to_be_visible()
        keys(page, "Enter")
        for name in ("Turn and part off", "Deburr"):
            dialog.get_by_role("checkbox", name=name).check()
        dialog.get_by_role("button", name="Put 2 on the routing").click()
        expect(page.get_by_role("row").filter(has_text="Deburr").first).to_be_visible()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        copied = Operation.objects.filter(sheet__part__number="GSK-155", sheet__status="draft").order_by("sequence")
        told = [(o.sequence, o.name, o.standard.code if o.standard else None, o.standard_version) for o in copied]
        self.assertEqual(told, [(10, "Cut", None, None), (20, "Turn and part off", None, None), (30, "Deburr", "DEBURR", 1)])

    def test_instructions_are_written_and_shown_in_place(self) -> None:
        load(welded_box())
        api = Api("engineer")
        api.post("/sheets", {"part": "BOX-9"})
        page = self.sign_in(to="/sheets/BOX-9?drafts=1")
        expect(page.get_by_role("treegrid")).to_be_focused()
        keys(page, "Control+Shift+Enter", "Saw", "Enter", "BAND", "Enter")
        expect(page.get_by_role("row").filter(has_text="Saw").first).to_be_visible()
        with tempfile.TemporaryDirectory() as folder, override_settings(MEDIA_ROOT=folder):
            box = Path(folder)
            picture, record, film = box / "clamp.png", box / "record.pdf", box / "film.mp4"
            Image.new("RGB", (40, 30), "navy").save(picture)
            Image.new("RGB", (60, 80), "white").save(record)
            film.write_bytes(b"RIFF\x24\x00\x00\x00AVI LIST")
            keys(page, "Alt+i")
            aside = page.get_by_label("Instructions", exact=True)
            aside.get_by_role("button", name="Write").click()
            aside.get_by_label("Text of the instructions").fill("## Clamp\n\n- both jaws, **2 Nm**\n\n<script>alert(1)</script>")
            aside.get_by_role("button", name="Keep").click()
            expect(aside.get_by_role("heading", name="Clamp")).to_be_visible()
            expect(aside.locator("strong")).to_have_text("2 Nm")
            self.assertEqual(aside.locator("script").count(), 0)
            aside.get_by_label("Add a picture, a PDF or a video").set_input_files([film])
            expect(aside.get_by_role("alert")).to_contain_text("film.mp4")
            aside.get_by_label("Add a picture, a PDF or a video").set_input_files([picture, record])
            expect(aside.get_by_role("img", name="clamp.png")).to_be_visible()
            expect(aside.get_by_role("img", name="record.pdf, page 1 of 1")).to_be_visible()
            self.check_access(page, "instructions")
            operation = Operation.objects.get()
            self.assertEqual(len(operation.files), 2)
            self.assertTrue(operation.instructions.startswith("## Clamp"))
            # A picture that is shown is not let go of in the part master; taken away here, and undone, it is there again.
            status, said = api.post(f"/parts/files/{operation.files[0]}/drop", {})
            self.assertEqual(status, 422)
            self.assertIn("shown with operation 10 of BOX-9 A/A", said["message"])
            aside.get_by_role("button", name="take away clamp.png").click()
            expect(aside.get_by_role("img", name="clamp.png")).to_have_count(0)
            page.get_by_role("row").filter(has_text="Saw").first.get_by_role("gridcell").nth(1).click()
            keys(page, "Control+z")
            expect(aside.get_by_role("img", name="clamp.png")).to_be_visible()
            expect(page.get_by_text("saved", exact=True)).to_be_visible()

    def test_a_measured_time_is_taken_and_a_library_entry_is_caught_up_with(self) -> None:
        load_demo()
        page = self.sign_in(to="/work-centers")
        page.get_by_role("button", name="Finished orders").click()
        for n, minutes in enumerate((250, 230, 240)):
            day = (localdate() - timedelta(days=n)).isoformat()
            for label, value in (
                ("Order", f"WO-9{n}"),
                ("Part", "HL-200"),
                ("Operation", "10"),
                ("Units it started", "20"),
                ("Run, min in all", str(minutes)),
                ("Finished", day),
            ):
                page.get_by_role("dialog").get_by_label(label, exact=True).fill(value)
            page.keyboard.press("Tab")
            page.get_by_role("button", name="Keep").click()
            expect(page.get_by_role("status").last).to_contain_text("Kept 1 row")
            expect(page.get_by_role("dialog").get_by_label("Order", exact=True)).to_have_value("")
        # Another was typed wrong: it is found, reversed with a reason, and counts no longer.
        reported = page.get_by_role("region", name="Reported")
        wrong = reported.get_by_role("listitem").filter(has_text="WO-92")
        expect(wrong).to_contain_text("20 in 240 min")
        wrong.get_by_role("button", name="reverse").click()
        keys(page, "reported for the wrong order")
        page.keyboard.press("Enter")
        expect(wrong).to_contain_text("reported for the wrong order")
        reported.get_by_label("Order or part").fill("wo-91")
        expect(reported.get_by_role("listitem")).to_have_count(1)
        for label, value in (("Order", "WO-92"), ("Units it started", "40"), ("Run, min in all", "480")):
            page.get_by_role("dialog").get_by_label(label, exact=True).fill(value)
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_role("status").last).to_contain_text("Kept 1 row")
        self.check_access(page, "finished orders")
        Api("engineer").post("/sheets", {"part": "HL-200"})
        page.goto(f"{self.live_server_url}/sheets/HL-200?drafts=1")
        page.get_by_label("Revision").select_option(label="alternate A, revision B, draft")
        page.get_by_role("row").filter(has_text="Assemble").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+m")
        aside = page.get_by_label("Measured times")
        # 12.5, 11.5 and 12 minutes each: a mean of 12, and a standard deviation of 0.5.
        expect(aside).to_contain_text("12 min per unit ± 0.5, each of 3 of 3 orders counted once")
        self.check_access(page, "measured times")
        aside.get_by_role("button", name="Take 12 min as the run time").click()
        expect(aside).to_contain_text("the mean of 3 finished orders")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        operation = Operation.objects.get(sheet__part__number="HL-200", sheet__status="draft", sequence=10)
        self.assertEqual((operation.run_minutes, operation.run_from_orders), (Decimal(12), 3))
        # Computed from what is known of the part: 2 minutes, and 10 for each of its 0.15 kg.
        Part.objects.filter(number="HL-200").update(mass_kg=Decimal("0.15"))
        page.get_by_role("row").filter(has_text="Assemble").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+x")
        aside = page.get_by_label("Run time from fields")
        typed = aside.get_by_role("textbox")
        typed.fill("2 + mass * 10")
        expect(aside.get_by_role("alert")).to_have_text("The expression needs mass.")
        typed.fill("2 +")
        aside.get_by_role("button", name="mass_kg").click()
        typed.press_sequentially(" * 10")
        expect(aside).to_contain_text("comes to 3.5 min")
        self.check_access(page, "a run time from fields")
        aside.get_by_role("button", name="Take it as the run time").click()
        expect(aside).to_contain_text("Run time now 3.5 min")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        operation.refresh_from_db()
        held = (operation.run_minutes, operation.run_expression, operation.run_from_orders)
        self.assertEqual(held, (Decimal("3.5"), "2 + mass_kg * 10", None))

        # Kept in the library, changed there, and caught up with from there.
        page.get_by_role("row").filter(has_text="Assemble").first.get_by_role("gridcell").nth(1).click()
        keys(page, "Alt+d")
        page.get_by_role("button", name="Keep it in the library").click()
        page.get_by_label("Code in the library").fill("FIT-200")
        page.keyboard.press("Enter")
        expect(page.get_by_label("All fields")).to_contain_text("Follows FIT-200 of the library")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.goto(f"{self.live_server_url}/library?code=FIT-200")
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Run, min", exact=True).fill("10")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Save").click()
        expect(dialog).to_contain_text("version 2")
        self.check_access(page, "an operation of the library")
        dialog.get_by_role("button", name="Bring 1 draft up to it").click()
        expect(page.get_by_role("status").last).to_contain_text("1 draft is brought up to FIT-200, version 2")
        operation.refresh_from_db()
        self.assertEqual((operation.run_minutes, operation.standard_version, operation.run_from_orders), (Decimal(10), 2, None))

    def test_a_load_that_is_too_much_opens_to_its_operations(self) -> None:
        load_demo()
        wanted = (localdate() + timedelta(days=150)).isoformat()
        page = self.sign_in(to=f"/work-centers/load?builds=HL-155:3000::{wanted},HL-155:3000::{wanted}")
        expect(page.get_by_text("for more than there is")).to_be_visible()
        page.get_by_role("button", name="+ a build").click()
        keys(page, "SC-40")
        expect(page.get_by_role("option", name="SC-40")).to_be_visible()
        keys(page, "Enter")
        expect(page.get_by_label("How many SC-40")).to_be_visible()
        cell = page.get_by_role("button", name=re.compile(r"TEST, week of .*: [1-9]")).first
        cell.click()
        expect(page.get_by_label("Where the hours come from")).to_contain_text("Light test")
        self.check_access(page, "load")
        page.get_by_label("SC-40 wanted on").fill("1 Jan 2020")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("is past")
