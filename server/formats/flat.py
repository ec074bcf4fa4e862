"""A list as it stands on a screen, as CSV or as a workbook with live totals."""

import csv
import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import xlsxwriter
from xlsxwriter.utility import xl_col_to_name

from formats.safe_text import inert

__all__ = ["Column", "Picture", "list_csv", "list_workbook"]


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture that stands in a cell: what it is called, its content as PNG, its points."""

    name: str
    png: bytes
    width: int
    height: int


Cell = str | float | int | Picture | None
#: Height of a row with a picture in points of print, and of its picture in points of a screen.
_ROW_OF_PICTURE, _PICTURE = 62.0, 76


@dataclass(frozen=True, slots=True)
class Column:
    """A column's title; whether it holds numbers, whether they are added up beneath, and whether what stands deeper stands further in."""

    title: str
    number: bool = False
    total: bool = False
    deep: bool = False


def list_csv(columns: list[Column], rows: Sequence[Sequence[Cell]], decimal: str = ".") -> str:
    """The rows as CSV, with semicolons where the decimal sign is a comma; text from users can become no formula.

    >>> list_csv([Column("part"), Column("each", number=True)], [["=A1", 2.5]])
    "part,each\\r\\n'=A1,2.5\\r\\n"
    """
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";" if decimal == "," else ",")

    def text(value: Cell) -> str:
        if value is None or isinstance(value, str):
            return inert(value or "")
        return inert(value.name) if isinstance(value, Picture) else f"{value:.9g}".replace(".", decimal)

    writer.writerow([inert(c.title) for c in columns])
    for row in rows:
        writer.writerow(map(text, row))
    return out.getvalue()


def list_workbook(title: str, columns: list[Column], rows: Sequence[Sequence[Cell]], levels: Sequence[int] = ()) -> bytes:
    """The rows as a workbook: text as text, numbers as numbers, pictures in their cells, and sums beneath that follow them.

    ``levels`` says of each row how far in it stands, in columns that are deep.
    """
    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    # A sheet's name holds none of these, and at most 31 characters.
    sheet = book.add_worksheet("".join(c for c in title if c not in "[]:*?/\\'")[:31] or "List")
    head, strong = (book.add_format({"bold": True, "bottom": 1, "text_wrap": True}), book.add_format({"bold": True, "top": 1}))
    for at, column in enumerate(columns):
        sheet.write_string(0, at, column.title, head)
        widest = max((_wide(row[at]) for row in rows[:200]), default=6)
        sheet.set_column(at, at, min(46, max(9, widest + 2, len(column.title) // 2)))
    indents: dict[int, Any] = {}
    for y, row in enumerate(rows, 1):
        for x, value in enumerate(row):
            if value is None or (isinstance(value, float) and math.isnan(value)):
                continue
            if isinstance(value, Picture):
                sheet.set_row(y, _ROW_OF_PICTURE)
                scale = min(_PICTURE / value.height, 1.3 * _PICTURE / value.width)
                place = {"image_data": io.BytesIO(value.png), "x_scale": scale, "y_scale": scale, "x_offset": 3, "y_offset": 3}
                # Moved with its cell, so that it stays beside its row when rows are sorted or hidden.
                sheet.insert_image(y, x, f"{y}-{x}.png", place | {"object_position": 1, "description": value.name})
            elif isinstance(value, str):
                depth = min(levels[y - 1], 15) if levels and columns[x].deep else 0
                if depth and depth not in indents:
                    indents[depth] = book.add_format({"indent": depth})
                sheet.write_string(y, x, value[:32000], indents.get(depth))
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


def _wide(value: Cell) -> int:
    return 12 if isinstance(value, Picture) else 0 if value is None else len(str(value))
