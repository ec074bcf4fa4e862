"""A product as a workbook that calculates, against writing the same cells bare."""

import io
import math
from typing import Any

from bench.measure import DAY, medians, report

__all__ = ["workbook_against_bare_cells"]


def workbook_against_bare_cells(number: str) -> bool:
    """The cost list of a product with its formulas, from what was read and rolled up; against XlsxWriter writing its cells."""
    import xlsxwriter
    from definition.models.sheets import BuildSheet
    from loading.reads import part_named
    from readings.cost_list import listed
    from readings.cost_workbook import cost_list_workbook
    from tally_core.cost.answers import Basis

    sheet = BuildSheet.objects.get(part=part_named(number), status="released")
    listing = listed(sheet, Basis(DAY))
    cells = _cells(cost_list_workbook(listing))

    def bare() -> bytes:
        buffer = io.BytesIO()
        book = xlsxwriter.Workbook(buffer, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
        for name, rows in cells:
            there = book.add_worksheet(name)
            for at, row in enumerate(rows):
                for column, (said, value) in enumerate(row):
                    if said is None:
                        continue
                    if isinstance(said, str) and said.startswith("=") and value is not None:
                        there.write_formula(at, column, said, None, value)
                    elif isinstance(said, str):
                        there.write_string(at, column, said)
                    else:
                        there.write_number(at, column, said)
        book.close()
        return buffer.getvalue()

    ours, theirs = medians(lambda: cost_list_workbook(listing), bare, 3)
    count = sum(said is not None for _, rows in cells for row in rows for said, _ in row)
    formulas = sum(isinstance(said, str) and said.startswith("=") for _, rows in cells for row in rows for said, _ in row)
    words = (
        f"a product of {len(listing.loaded.lines):,} lines as a workbook with {formulas:,} live formulas / writing its {count:,} cells bare"
    )
    return report(words, ours / theirs, "at most 2", ours / theirs <= 2, f"{ours:.2f} s and {theirs:.2f} s")


def _cells(content: bytes) -> list[tuple[str, list[list[tuple[Any, Any]]]]]:
    """Every sheet with what its cells say and, of formulas, what they come to."""
    import openpyxl

    said, come_to = (openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=only) for only in (False, True))
    found = []
    for sheet in said.worksheets:
        values = come_to[sheet.title].iter_rows(values_only=True)
        rows = [list(zip(a, b, strict=True)) for a, b in zip(sheet.iter_rows(values_only=True), values, strict=True)]
        found.append(
            (sheet.title, [[(x, y) if not isinstance(x, float) or math.isfinite(x) else (None, None) for x, y in row] for row in rows])
        )
    return found
