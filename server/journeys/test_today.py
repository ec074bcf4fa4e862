"""The start page of each role, and the way from an empty workspace to a first cost."""

from definition.models.parts import Part, Workspace
from demo.load_demo import load_demo
from partners.models import Partner
from playwright.sync_api import Page, expect

from journeys.browser import Journey, keys


class Hands:
    """Presses and clicks, counted: every key is one, and so is every character typed."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def press(self, *names: str) -> None:
        for name in names:
            self.count += 1
            self.page.keyboard.press(name)

    def type(self, text: str) -> None:
        self.count += len(text)
        keys(self.page, text)

    def click(self, role: str, name: str) -> None:
        self.count += 1
        self.page.get_by_role(role, name=name).first.click()


class Today(Journey):
    def test_each_role_lands_on_its_own_and_goes_on_from_there(self) -> None:
        load_demo()
        for role, heap, row, place in (
            ("engineer", "My drafts", "HL-155, rev. B", "Build sheet of HL-155"),
            ("accountant", "Rounds that wait", "Standards 2027", "Standards 2027"),
            ("buyer", "Without a price", "TOR-M5", "TOR-M5"),
            ("shop", "Products", "SC-40", "Build sheet of SC-40"),
            ("viewer", "Changed last", "SC40-21", "Build sheet of SC40-21"),
        ):
            page = self.sign_in(role, to="/")
            expect(page.get_by_role("heading", name="Today")).to_be_visible()
            self.check_access(page, f"today of {role}")
            page.get_by_role("region", name=heap).get_by_role("link", name=row).first.click()
            if place.startswith("Build sheet"):
                expect(page.get_by_role("treegrid", name=place)).to_be_visible()
            else:
                expect(page.get_by_role("heading", level=1)).to_contain_text(place)
            expect(page.get_by_role("navigation", name="Screens")).to_contain_text(
                "Rounds" if role == "accountant" else "Parts" if role == "buyer" else "Sheets"
            )
            page.context.close()

    def test_a_part_whole_and_the_partners_it_names(self) -> None:
        load_demo()
        page = self.sign_in(to="/sheets/SC-40")
        # From the heading of a sheet, and by key from a line.
        page.get_by_role("link", name="SC-40", exact=True).click()
        sheets = page.get_by_role("region", name="Its sheets")
        expect(sheets.get_by_role("row")).to_have_count(3)
        expect(sheets).to_contain_text("released, counts")
        self.check_access(page, "a part")
        sheets.get_by_role("link", name="A").click()
        expect(page.get_by_role("treegrid")).to_be_focused()
        page.get_by_role("gridcell", name="GLD-20").click()
        page.keyboard.press("Alt+p")
        expect(page.get_by_role("heading", level=1)).to_contain_text("GLD-20")
        expect(page.get_by_role("region", name="Used in").get_by_role("link")).not_to_have_count(0)
        # What is changed stands in the history with old and new, and a new supplier is a partner from then on.
        page.get_by_text("Buying and holding").click()
        page.get_by_label("Supplier", exact=True).fill("Gland and Grommet")
        page.get_by_label("Where it is bought").fill("https://gland.example/m20")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Saved GLD-20.")).to_be_visible()
        expect(page.get_by_role("region", name="History")).to_contain_text("Gland and Grommet")
        bought = page.get_by_role("link", name="Gland and Grommet")
        expect(bought).to_have_attribute("rel", "noopener noreferrer")
        expect(bought).to_have_attribute("target", "_blank")
        page.get_by_role("button", name="Receive").click()
        page.get_by_role("menuitem", name="Partners").click()
        self.check_access(page, "partners")
        code = Partner.objects.get(name="Gland and Grommet").code
        page.get_by_role("button", name=code).click()
        page.get_by_label("Name", exact=True).fill("Gland & Grommet")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("cell", name="Gland & Grommet")).to_be_visible()
        self.assertEqual(Part.objects.get(number="GLD-20").supplier_id, "Gland & Grommet")
        # And who we are ourselves, once for all papers.
        page.get_by_role("button", name="Who we are").click()
        self.check_access(page, "who we are")
        page.get_by_label("Address").fill("Slipway Lane 4\n\n Larkhaven")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("Saved who we are.")).to_be_visible()
        self.assertEqual(Workspace.the().firm_address, "Slipway Lane 4\nLarkhaven")


class FirstSteps(Journey):
    def test_from_nothing_by_the_guide_to_a_costed_product_of_two_levels(self) -> None:
        page = self.sign_in(to="/")
        hands = Hands(page)
        guide = page.get_by_role("region", name="First steps")
        expect(guide.get_by_role("link")).to_be_focused()
        hands.press("Enter")
        expect(page.get_by_role("dialog", name="New work center")).to_be_visible()
        hands.type("W")
        hands.press("Tab", "Tab")
        hands.type("60")
        hands.press("Enter")
        expect(page.get_by_role("cell", name="W", exact=True)).to_be_visible()
        hands.click("link", "Round Tally")
        expect(guide.get_by_role("link", name="Make a made part")).to_be_focused()
        hands.press("Enter")
        expect(page.get_by_role("dialog", name="New part")).to_be_visible()
        hands.type("P")
        hands.press("Enter")
        expect(page.get_by_role("button", name="Start its sheet")).to_be_focused()
        hands.press("Enter")
        grid = page.get_by_role("treegrid")
        expect(grid).to_be_focused()
        # A made part beneath it, and an operation of two minutes.
        hands.press("Control+Enter")
        hands.type("S")
        expect(page.get_by_role("option", name="made part")).to_be_visible()
        hands.press("ArrowDown", "ArrowDown", "Enter")
        expect(grid.get_by_role("gridcell", name="S", exact=True)).to_be_visible()
        hands.press("Control+Shift+Enter")
        hands.type("F")
        hands.press("Enter")
        hands.type("W")
        expect(page.get_by_role("option", name="W", exact=True)).to_be_visible()
        hands.press("Enter", "ArrowRight")
        hands.type("2")
        hands.press("Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        # The sheet of the part beneath: four of a bought part.
        page.get_by_role("gridcell", name="S", exact=True).click()
        hands.count += 1
        hands.press("Alt+Enter")
        expect(page.get_by_role("button", name="Start its sheet")).to_be_focused()
        hands.press("Enter")
        expect(grid).to_be_focused()
        hands.press("Control+Enter")
        hands.type("B")
        expect(page.get_by_role("option", name="bought part")).to_be_visible()
        hands.press("Enter")
        hands.type("4")
        hands.press("Enter")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_role("gridcell", name="B", exact=True).click()
        hands.count += 1
        hands.press("Alt+p")
        page.get_by_label("Unit cost").click()
        hands.count += 1
        hands.type("3")
        hands.press("Enter")
        expect(page.get_by_text("Saved B.")).to_be_visible()
        page.goto(f"{self.live_server_url}/sheets/P?drafts=1")
        hands.count += 1
        # Two minutes at 60 an hour, and four at 3.
        expect(page.get_by_title("Open its working")).to_contain_text("14.00")
        self.assertLess(hands.count, 60)
        page.goto(f"{self.live_server_url}/today")
        expect(page.get_by_role("heading", name="Today")).to_be_visible()
        expect(guide).to_have_count(0)
