"""A round as a file: a workbook that calculates, CSV, PDF; and a cost list at standards and with a markup."""

import csv
import io
from datetime import timedelta
from decimal import Decimal

from definition.models.parts import Part
from django.test import TestCase
from django.utils.timezone import localdate
from pypdf import PdfReader
from readings.cost_list import cost_list_csv, cost_list_pdf, listed
from readings.cost_workbook import cost_list_workbook
from readings.tests.test_export import recalculated
from standards.models import Round
from tally_core.cost.answers import Basis, tally
from testing import Api, load, rod_and_tube, sheet_of


class RoundFiles(TestCase):
    def setUp(self) -> None:
        document = rod_and_tube("released")
        document["parts"][1]["description"] = "=1+1 nut"
        load(document)
        self.api = Api("accountant")
        self.api.post("/parts/open-orders", {"rows": [["Order", "Part", "Open"], ["PO-1", "ROD", "50"]]})
        self.key = self.opened("Spring", localdate())

    def opened(self, name: str, day) -> int:
        _, the_round = self.api.post("/rounds", {"name": name, "first_day": day.isoformat(), "scope": "all"})
        self.api.post(
            f"/rounds/{the_round['id']}/proposals",
            {
                "items": [
                    {"table": "part", "key": "ROD", "field": "unit_cost", "value": "3.3", "reason": "quoted"},
                    {"table": "work_center", "key": "LATHE", "field": "labor_rate", "value": "44"},
                ]
            },
        )
        self.api.post(f"/rounds/{the_round['id']}/tally", {})
        return the_round["id"]

    def get(self, shape: str) -> bytes:
        status, body = self.api.get(f"/rounds/{self.key}/export/{shape}")
        self.assertEqual(status, 200, body)
        return body

    def test_the_workbook_calculates_what_the_screen_shows(self) -> None:
        """Recalculated by the package formulas, and again with another price typed into it."""
        rows = self.api.get(f"/rounds/{self.key}/rows", sort="stock")[1]["items"]
        book = self.get("xlsx")
        found = recalculated(book, {})
        columns = self.columns(book)
        for at, row in enumerate(rows, 2):
            for title, wanted in (
                ("Old", row["before"]),
                ("New", row["after"]),
                ("Moves by", row["after"] - row["before"]),
                ("By all causes", row["after"] - row["before"]),
                ("Moves orders", row["orders_moved"]),
            ):
                self.assertAlmostEqual(float(found[f"PARTS!{columns[title]}{at}"]), wanted, places=6, msg=title)
        rod = 2 + next(i for i, row in enumerate(rows) if row["number"] == "ROD")
        changed = recalculated(book, {f"Parts!{columns['New Material']}{rod}": 4.0})
        # 1.00 more on each of fifty metres on order.
        self.assertAlmostEqual(float(changed[f"PARTS!{columns['Moves orders']}{rod}"]), 50.0, places=6)

    @staticmethod
    def columns(book: bytes) -> dict[str, str]:
        from openpyxl import load_workbook

        return {cell.value: cell.column_letter for cell in load_workbook(io.BytesIO(book))["Parts"][1]}

    def test_csv_holds_every_part_and_no_formula(self) -> None:
        rows = list(csv.DictReader(io.StringIO(self.get("csv").decode("utf-8-sig"))))
        top = next(row for row in rows if row["part"] == "RT-1")
        causes = sum(Decimal(top[f"by {c}"]) for c in ("price", "usage", "rate", "time", "lot", "structure"))
        self.assertEqual(causes, Decimal(top["moves by"]))
        self.assertEqual(Decimal(top["moves by"]), Decimal(top["new"]) - Decimal(top["old"]))
        self.assertEqual(next(row for row in rows if row["part"] == "NUT")["description"], "'=1+1 nut")

    def test_pdf_says_what_is_proposed_what_moves_and_why(self) -> None:
        text = self.text(self.get("pdf"))
        for words in ("Round Spring", "What it proposes", "labor rate", "ROD", "by hand", "3.30", "What moves", "By element, new"):
            self.assertIn(words, text)
        self.assertRegex(text, r"RT-1\s+Rod and tube\s+11\.67\s+12\.\d\d\s+\+\d\.\d\d")

    @staticmethod
    def text(pdf: bytes) -> str:
        """The text of a document, in the order in which it stands on its pages."""
        return "\n".join(page.extract_text(extraction_mode="layout") for page in PdfReader(io.BytesIO(pdf)).pages)

    def test_what_was_not_tallied_is_no_file(self) -> None:
        Round.objects.get(pk=self.key).tally.delete()
        for shape in ("xlsx", "csv", "pdf"):
            status, said = self.api.get(f"/rounds/{self.key}/export/{shape}")
            self.assertEqual(status, 422)
            self.assertIn("has not been tallied yet", said["message"])

    def test_a_cost_list_at_standards_and_with_a_markup_still_calculates(self) -> None:
        self.api.post(f"/rounds/{self.key}/accept", {"version": Round.objects.get(pk=self.key).version})
        Part.objects.filter(number="T-1").update(markup_percent=12)
        day = localdate() + timedelta(days=1)
        words = {"inputs": "inputs as they stand", "standards": "standards, all levels", "level": "standards, one level"}
        for prices, said in words.items():
            listing = listed(sheet_of("RT-1"), Basis(day, None, (), False, prices))
            wanted = tally(listing.question)[0].unit[listing.question.top].sum()
            found = recalculated(cost_list_workbook(listing), {})
            self.assertAlmostEqual(float(found["COST LIST!N2"]), wanted, places=6, msg=prices)
            text = self.text(cost_list_pdf(listing))
            self.assertIn("RT-1 Rod and tube", text)
            self.assertRegex(text, rf"RT-1\s+Rod and tube\s+made\s+1\.00 ea\s+{wanted:.2f}")
            first = next(csv.DictReader(io.StringIO(cost_list_csv(listing))))
            self.assertAlmostEqual(float(first["unit cost"]), wanted, places=6)
            self.assertIn(f"Prices: {said}", text)
