"""A round in a real browser: proposed, tallied, read, refused, accepted; and questions to a cost."""

import re
from datetime import timedelta

from definition.models.parts import Part, PartClass
from django.utils.timezone import localdate
from playwright.sync_api import expect
from rounds.actions.accept_round import ask_to_accept
from rounds.actions.open_round import open_round
from rounds.actions.tally_round import ask_for_tally
from standards.models import Proposal, Revaluation, Round, Standard
from testing import load, person, rod_and_tube
from verbs.parts.move_stock import move_stock

from journeys.browser import Journey


class Rounds(Journey):
    def standards(self) -> None:
        """Rod and tube, classed, with standards accepted a month ago and seven of the product on stock."""
        document = rod_and_tube("released")
        document["parts"].append({"number": "RT-B", "kind": "bought", "unit": "ea", "unit_cost": "12"})
        document["build_sheets"].append(
            {
                "part": "RT-1",
                "alternate": "B",
                "reference": "bought in",
                "status": "released",
                "lines": [{"item": 10, "part": "RT-B", "quantity": "1"}],
            }
        )
        load(document)
        PartClass.objects.create(name="Metal")
        Part.objects.filter(number="ROD").update(part_class="Metal")
        accountant = person("accountant")
        day = localdate() - timedelta(days=30)
        first = open_round(accountant, {"name": "First standards", "first_day": day.isoformat(), "scope": "all"})
        ask_for_tally(accountant, first.pk)
        ask_to_accept(accountant, first.pk, Round.objects.get(pk=first.pk).version)
        move_stock(person("engineer"), "RT-1", "7", "counted")

    def test_metal_rises_by_eight_percent_until_stock_is_valued_anew(self) -> None:
        """The rod is 3.00 a metre, and the product takes 2.1 m with scrap and 0.5 m in its tube: 2.6 × 0.24 = 0.624 more,
        on seven in stock 4.37."""
        self.standards()
        page = self.sign_in("engineer", "/rounds")
        page.get_by_role("button", name="Open a round").click()
        panel = page.get_by_role("dialog")
        panel.get_by_label("Name").fill("Metal up")
        panel.get_by_label("Holds from").fill(localdate().isoformat())
        panel.get_by_role("button", name="Open it").click()
        expect(page.get_by_role("heading", name="Metal up")).to_be_visible()

        # What cannot be is named where it was typed, and stays there.
        page.get_by_role("button", name="Propose …").first.click()
        panel = page.get_by_role("dialog")
        panel.get_by_label("Moves by, %").fill("-120")
        panel.get_by_label("Over the class").select_option("Metal")
        panel.get_by_role("button", name="Propose", exact=True).click()
        expect(panel.get_by_role("alert")).to_contain_text("-120 % makes unit cost of ROD -0.6")
        expect(panel.get_by_label("Moves by, %")).to_have_value("-120")
        panel.get_by_label("Moves by, %").fill("8")
        panel.get_by_role("button", name="Propose", exact=True).click()
        row = page.get_by_role("table", name="Proposed inputs").get_by_role("row").nth(1)
        expect(row).to_contain_text(re.compile("ROD.*3.*3.24.*\\+8"))

        page.get_by_role("button", name="Tally", exact=True).click()
        table = page.get_by_role("table", name="Old and new by part")
        expect(table.get_by_role("row")).to_have_count(4)
        table.get_by_role("button", name="RT-1").click()
        aside = page.get_by_role("complementary", name="The part chosen")
        expect(aside.get_by_role("img").first).to_have_attribute("aria-label", re.compile("price \\+0.62; new"))
        expect(aside).to_contain_text("On hand 7 ea: +4.37")
        expect(aside.get_by_role("region", name="Standards over time").get_by_role("listitem")).to_have_count(1)
        self.check_access(page, "a round")

        # Both workings open together, down to the price and who proposed it.
        aside.get_by_role("button", name="Working, old beside new").click()
        beside = page.get_by_role("dialog")
        old, new = beside.get_by_role("region", name="Old"), beside.get_by_role("region", name="New")
        old.get_by_role("button", name="10 ROD").click()
        old.get_by_role("button", name="unit cost of ROD").first.click()
        expect(old).to_contain_text(re.compile("unit cost.*set on.*test"))
        expect(new).to_contain_text("proposed in Metal up; +8 % over class Metal")
        expect(new).to_contain_text("3.24")
        self.check_access(page, "two workings")
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")

        accept = page.get_by_role("button", name="Accept as standards")
        expect(accept).to_have_attribute("aria-disabled", "true")
        expect(accept).to_have_attribute("title", re.compile("ask somebody who is accountant"))
        accept.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("status")).to_contain_text("ask somebody who is accountant")
        self.assertEqual(Standard.objects.filter(round__name="Metal up").count(), 0)

        # An input changes meanwhile: the round says so, and has to be tallied again.
        other = self.sign_in("accountant", page.url.replace(self.live_server_url, ""))
        part = Part.objects.get(number="T-1")
        part.costing_lot, part.version = 12, part.version + 1
        part.save()
        other.reload()
        expect(other.get_by_role("alert")).to_contain_text("Changed since it was tallied: T-1: costing lot")
        accept = other.get_by_role("button", name="Accept as standards")
        expect(accept).to_have_attribute("title", re.compile("T-1: costing lot. Tally it again, then accept it."))
        accept.focus()
        other.keyboard.press("Enter")
        expect(other.get_by_role("status")).to_contain_text("Tally it again, then accept it")
        expect(other.get_by_role("dialog")).to_have_count(0)
        other.get_by_role("button", name="Tally again").click()
        expect(other.get_by_text("Changed since it was tallied")).to_have_count(0)
        other.get_by_role("button", name="Accept as standards").click()
        asked = other.get_by_role("dialog", name="Accept Metal up as standards?")
        expect(asked).to_contain_text("cannot be taken back")
        self.check_access(other, "accepting")
        asked.get_by_role("button", name="Leave it").click()
        self.assertEqual(Standard.objects.filter(round__name="Metal up").count(), 0)
        other.get_by_role("button", name="Accept as standards").click()
        asked.get_by_role("button", name="Accept as standards").click()
        expect(other.get_by_text("accepted by accountant")).to_be_visible()
        expect(other.get_by_text("Stock was valued anew")).to_be_visible()
        chart = other.get_by_role("region", name="Standards over time")
        other.get_by_role("table", name="Old and new by part").get_by_role("button", name="RT-1").click()
        expect(chart.get_by_role("listitem")).to_have_count(2)
        expect(chart.get_by_role("listitem").first).to_contain_text(re.compile("Metal up.*\\+0.62"))
        stock = Revaluation.objects.get()
        self.assertEqual((stock.part.number, stock.on_hand, stock.after - stock.before), ("RT-1", 7, 624_000))
        # What is proposed is in the standards, and nowhere else.
        self.assertEqual(Part.objects.get(number="ROD").unit_cost, 3)

    def test_questions_to_a_cost_and_what_is_only_tried(self) -> None:
        self.standards()
        page = self.sign_in("engineer", "/sheets/RT-1?read=cost&drafts=0")
        moves = page.get_by_role("region", name="What moves it")
        first = moves.get_by_role("listitem").first
        expect(first).to_contain_text("ROD unit cost")
        expect(first).to_contain_text("+0.078")
        first.get_by_role("button").first.click()
        expect(first).to_contain_text("1 % more of it moves")
        expect(first).to_contain_text("ROD in one RT-1")
        # 8 of set-up over the lot against 12 bought: cheaper from the eighth on.
        curve = page.get_by_role("region", name="Cost over the lot")
        expect(curve).to_contain_text("from 8 ea on, alternate A is cheaper than B: bought in")
        self.check_access(page, "questions to a cost")

        cost = page.get_by_role("button", name="Unit cost 11.67")
        expect(cost).to_be_visible()
        tried = first.get_by_role("textbox", name="Try another unit cost of ROD")
        tried.fill("4")
        tried.press("Enter")
        expect(page.get_by_role("button", name="Unit cost 14.27")).to_be_visible()
        bar = page.get_by_role("region", name="What if")
        expect(bar).to_contain_text("ROD unit cost 4")
        expect(page.get_by_role("region", name="Against another basis").get_by_role("img")).to_have_attribute(
            "aria-label", re.compile("for that 11.67; price \\+2.60; now shown 14.27")
        )
        page.get_by_role("button", name="The rings of both").click()
        expect(page.get_by_role("region", name="Where the money is, for that")).to_contain_text("11.67")
        expect(page.get_by_role("region", name="Where the money is, now shown")).to_contain_text("14.27")
        self.check_access(page, "two rings")
        # The address leads back to it, the data knows nothing of it.
        page.reload()
        expect(page.get_by_role("button", name="Unit cost 14.27")).to_be_visible()
        self.assertEqual(Part.objects.get(number="ROD").unit_cost, 3)

        page.get_by_label("margin").fill("25")
        page.get_by_label("margin").press("Enter")
        expect(page.get_by_label("Selling price")).to_have_value("19.0222")
        expect(page.get_by_label("markup")).to_have_value("33.3")

        the_round = open_round(person("engineer"), {"name": "Tried", "first_day": localdate().isoformat()})
        page.reload()
        page.get_by_role("button", name="Put into a round …").click()
        page.get_by_role("menuitem", name="Tried").click()
        expect(page.get_by_role("status").filter(has_text="Proposed in Tried")).to_be_visible()
        self.assertEqual([(p.part.number, p.value) for p in Proposal.objects.filter(round=the_round)], [("ROD", 4)])
        bar = page.get_by_role("region", name="What if")
        bar.get_by_role("button", name="Stop trying unit cost of ROD").click()
        expect(page.get_by_role("button", name="Unit cost 11.67")).to_be_visible()
        page.get_by_label("Prices", exact=True).select_option(label="round Tried")
        expect(page.get_by_role("button", name="Unit cost 14.27")).to_be_visible()
