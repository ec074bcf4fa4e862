"""Files in and out: what was written is read back, whatever the encoding, and text stays text."""

import csv
import io
import unittest
import zipfile
from datetime import date, datetime
from unittest.mock import patch

import openpyxl
import xlsxwriter
from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.errors import TallyError

from formats import tables
from formats.apart import read_tables
from formats.cells import rows_as_json, rows_of_json
from formats.flat import Column, list_csv, list_workbook
from formats.safe_text import inert
from formats.tables import parse_tables

CELL = st.text(alphabet=st.characters(min_codepoint=32, max_codepoint=0x24F, exclude_characters="\x7f"), max_size=8).map(str.strip)
GRID = st.lists(st.lists(CELL, min_size=2, max_size=5), min_size=1, max_size=8)
NASTY = st.sampled_from(["=", "+", "-", "@", "\t=", " =", "\r", "\n"]).flatmap(lambda s: CELL.map(lambda t: s + t))


def trimmed(rows: list[list[str]]) -> list[list[str]]:
    """Rows as long as their last filled cell, and as many as up to the last filled row."""
    out = []
    for row in rows:
        cells = list(row)
        while cells and not cells[-1].strip():
            cells.pop()
        out.append(cells)
    while out and not out[-1]:
        out.pop()
    return out


class Reading(unittest.TestCase):
    @given(GRID, st.sampled_from(";\t,|"), st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]))
    @settings(max_examples=150, deadline=None)
    def test_delimited_text_in_any_encoding(self, rows: list[list[str]], delimiter: str, encoding: str) -> None:
        # The delimiter must be told by how often it stands; so none of the others stands in a cell.
        rows = [[c.translate(str.maketrans("", "", ";\t,|\x85\xa0\xad")) or "x" for c in row] for row in rows]
        out = io.StringIO(newline="")
        csv.writer(out, delimiter=delimiter).writerows(rows)
        (table,) = read_tables("list.csv", out.getvalue().encode(encoding))
        self.assertEqual(table.rows, trimmed(rows))

    @given(st.lists(GRID, min_size=1, max_size=3))
    @settings(max_examples=40, deadline=None)
    def test_workbooks_of_several_sheets(self, grids: list[list[list[str]]]) -> None:
        buffer = io.BytesIO()
        book = xlsxwriter.Workbook(buffer, {"in_memory": True})
        for at, rows in enumerate(grids):
            sheet = book.add_worksheet(f"S{at}")
            for y, row in enumerate(rows):
                for x, cell in enumerate(row):
                    sheet.write_string(y, x, cell)
        book.close()
        wanted = {f"S{at}": trimmed(rows) for at, rows in enumerate(grids) if trimmed(rows)}
        if not wanted:
            with self.assertRaises(TallyError):
                read_tables("list.xlsx", buffer.getvalue())
            return
        self.assertEqual({t.name: t.rows for t in read_tables("list.xlsx", buffer.getvalue())}, wanted)

    @given(st.binary(max_size=400), st.sampled_from(["csv", "xlsx", "ods", "tsv", "exe", ""]))
    @settings(max_examples=200, deadline=None)
    def test_any_bytes_under_any_ending_are_read_or_turned_away_with_a_word(self, content: bytes, ending: str) -> None:
        try:
            for table in read_tables(f"list.{ending}" if ending else "list", content):
                self.assertTrue(all("\x00" not in str(cell) for row in table.rows for cell in row))
        except TallyError as error:
            self.assertIn("list", str(error))

    def test_an_archive_that_lies_about_its_size_is_counted_while_it_unpacks(self) -> None:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("xl/workbook.xml", "<workbook/>")
            archive.writestr("xl/worksheets/sheet1.xml", b"0" * 3_000_000)
        honest = buffer.getvalue()
        # The stated size stands in the directory at the end, four bytes before which the packed one stands.
        lying = honest.replace((3_000_000).to_bytes(4, "little"), (10).to_bytes(4, "little"))
        self.assertNotEqual(lying, honest)
        with patch.object(tables, "MOST_UNPACKED", 1_000_000):
            for content in (honest, lying):
                with self.assertRaisesRegex(TallyError, "unpacks to more than|damaged"):
                    parse_tables("list.xlsx", content)

    def test_numbers_days_and_flags_keep_their_type(self) -> None:
        book = openpyxl.Workbook()
        sheet = book.active
        assert sheet is not None
        sheet.append([1, 2.5, 0.1, True, datetime(2026, 3, 31, 14), "007", "3.5"])
        buffer = io.BytesIO()
        book.save(buffer)
        (table,) = read_tables("list.xlsx", buffer.getvalue())
        wanted = [1, 2.5, 0.1, True, date(2026, 3, 31), "007", "3.5"]
        self.assertEqual([*zip(table.rows[0], map(type, table.rows[0]), strict=True)], [*zip(wanted, map(type, wanted), strict=True)])
        self.assertEqual(rows_of_json(rows_as_json(table.rows)), table.rows)


class Writing(unittest.TestCase):
    @given(st.lists(st.tuples(CELL | NASTY, st.floats(-1e9, 1e9) | st.none()), min_size=1, max_size=12))
    @settings(max_examples=80, deadline=None)
    def test_text_leaves_as_text_and_numbers_as_numbers(self, rows: list[tuple]) -> None:
        columns = [Column("what"), Column("how much", number=True, total=True)]
        sheet = openpyxl.load_workbook(io.BytesIO(list_workbook("A [list]: 1/2", columns, [list(r) for r in rows]))).active
        assert sheet is not None
        for at, (text, number) in enumerate(rows, 2):
            self.assertNotEqual(sheet.cell(at, 1).data_type, "f")
            if text.isprintable():
                self.assertEqual(sheet.cell(at, 1).value or "", text)
            if number is not None:
                self.assertAlmostEqual(sheet.cell(at, 2).value, number, places=6)
        self.assertEqual(sheet.cell(len(rows) + 2, 2).value, f"=SUM(B2:B{len(rows) + 1})")

    @given(st.lists(CELL | NASTY, min_size=1, max_size=6))
    @settings(max_examples=150, deadline=None)
    def test_no_cell_of_a_csv_file_starts_a_formula(self, cells: list[str]) -> None:
        text = list_csv([Column("c")] * len(cells), [list(cells)])
        _, row = csv.reader(io.StringIO(text, newline=""))
        for cell, said in zip(cells, row, strict=True):
            self.assertFalse(said.lstrip(" ").startswith(("=", "+", "-", "@", "\t", "\r")), said)
            # Nothing is added but apostrophes, and those only before what another program may take for a formula.
            self.assertEqual(said.replace("'", ""), cell.replace("'", ""))
            self.assertEqual(inert(cell), said)
