"""A cost list as a workbook, calculated by a spreadsheet program; where none is installed, it is left out and says so."""

import io
import unittest
from datetime import date
from decimal import Decimal

from definition.models.sheets import BuildSheet
from demo.definition import demo_bundle
from django.test import TestCase
from formats.tests.spreadsheet_program import PROGRAM, opened_and_saved
from openpyxl import load_workbook
from tally_core.cost.answers import Basis
from testing import load

from readings.cost_list import listed
from readings.cost_workbook import cost_list_workbook

DAY = date(2026, 11, 24)


@unittest.skipUnless(PROGRAM, "no spreadsheet program is installed")
class InASpreadsheetProgram(TestCase):
    def test_it_calculates_to_the_same_figures(self) -> None:
        load(demo_bundle())
        sheet = BuildSheet.objects.select_related("part").get(part__number="HL-155", revision="A")
        listing = listed(sheet, Basis(DAY, Decimal(250), ("SYNC",), True))
        # Saved by a program that does not calculate, formulas stand there without what they come to.
        bare, buffer = load_workbook(io.BytesIO(cost_list_workbook(listing))), io.BytesIO()
        bare.save(buffer)
        self.assertIsNone(load_workbook(io.BytesIO(buffer.getvalue()), data_only=True)["Parts"]["V2"].value)
        book = opened_and_saved(buffer.getvalue())
        head = {cell.value: cell.column for cell in book["Parts"][1]}
        for row, unit in enumerate(listing.costs.unit.sum(axis=1)):
            there = book["Parts"].cell(row + 2, head["Unit cost"]).value
            self.assertAlmostEqual(float(there or 0), unit, delta=1e-6 * max(1, abs(unit)), msg=book["Parts"].cell(row + 2, 2).value)
        for page in book:
            self.assertNotIn(
                "#", "".join(str(c.value)[:1] for line in page.iter_rows() for c in line if isinstance(c.value, str)), page.title
            )
