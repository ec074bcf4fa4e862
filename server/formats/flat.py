"""A list as it stands on a screen, as CSV or as a workbook with live totals."""

import csv
import io
import math
from dataclasses import dataclass

import xlsxwriter
from xlsxwriter.utility import xl_col_to_name

from formats.safe_text import inert

__all__ = ["Column", "list_csv", "list_workbook"]

Cell = str | float | int | None


@dataclass(frozen=True, slots=True)
class Column:
    """A column's title; whether it holds numbers, and whether they are added up beneath."""

    title: str
    number: bool = False
    total: bool = False


def list_csv(columns: list[Column], rows: list[list[Cell]]) -> str:
    """The rows as CSV; text from users can become no formula.

    >>> list_csv([Column("part"), Column("each", number=True)], [["=A1", 2.5]])
    "part,each\\r\\n'=A1,2.5\\r\\n"
    """
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([inert(c.title) for c in columns])
    for row in rows:
        writer.writerow(["" if v is None else inert(v) if isinstance(v, str) else f"{v:.9g}" for v in row])
    return out.getvalue()


def list_workbook(title: str, columns: list[Column], rows: list[list[Cell]]) -> bytes:
    """The rows as a workbook: text as text, numbers as numbers, and sums beneath that follow them."""
    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    # A sheet's name holds none of these, and at most 31 characters.
    sheet = book.add_worksheet("".join(c for c in title if c not in "[]:*?/\\'")[:31] or "List")
    head, strong = (
        book.add_format({"bold": True, "bottom": 1, "text_wrap": True}),
        book.add_format({"bold": True, "top": 1}),
    )
    for at, column in enumerate(columns):
        sheet.write_string(0, at, column.title, head)
        widest = max((len(str(row[at])) for row in rows[:200] if row[at] is not None), default=6)
        sheet.set_column(at, at, min(46, max(9, widest + 2, len(column.title) // 2)))
    for y, row in enumerate(rows, 1):
        for x, value in enumerate(row):
            if value is None or (isinstance(value, float) and math.isnan(value)):
                continue
            if isinstance(value, str):
                sheet.write_string(y, x, value[:32000])
            else:
                sheet.write_number(y, x, value)
    if rows and any(column.total for column in columns):
        for x, column in enumerate(columns):
            if column.total:
                letter = xl_col_to_name(x)
                value = sum(v for row in rows if isinstance(v := row[x], int | float))
                sheet.write_formula(len(rows) + 1, x, f"=SUM({letter}2:{letter}{len(rows) + 1})", strong, value)
            elif x == 0:
                sheet.write_string(len(rows) + 1, 0, "total", strong)
            else:
                sheet.write_blank(len(rows) + 1, x, None, strong)
    sheet.freeze_panes(1, 0)
    sheet.autofilter(0, 0, max(1, len(rows)), len(columns) - 1)
    book.close()
    return buffer.getvalue()
