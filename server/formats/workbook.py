"""Writing workbooks: tables with a header, cells named by their column's title, text that stays text."""

import io
import math
from dataclasses import dataclass
from typing import Any

import xlsxwriter
from xlsxwriter.utility import xl_col_to_name

__all__ = ["Formula", "Sheet", "Workbook"]


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula and the value it has now, for readers that do not calculate."""

    text: str
    value: float


class Sheet:
    """One table of a workbook. Rows are counted from 0 below the header."""

    def __init__(self, book: "Workbook", name: str, columns: list[str]) -> None:
        self.name, self.columns, self._book = name, {title: i for i, title in enumerate(columns)}, book
        self._sheet = book.file.add_worksheet(name)
        self._next = 0
        for title, column in self.columns.items():
            self._sheet.write_string(0, column, title, book.head)
            width = (
                34
                if title in ("Description", "Name", "What the figures hold for")
                else 18
                if title in ("Part", "On", "Where", "Of")
                else 12
            )
            self._sheet.set_column(column, column, width)
        self._sheet.freeze_panes(1, 0)

    def cell(self, title: str, row: int, sheet: bool = True) -> str:
        """The address of a cell, with the sheet's name before it unless ``sheet`` is False."""
        address = f"{xl_col_to_name(self.columns[title])}{row + 2}"
        return f"'{self.name}'!{address}" if sheet and " " in self.name else f"{self.name}!{address}" if sheet else address

    def cells(self) -> dict[str, str]:
        """The addresses of the row that is written next, by column title, for formulas on the same sheet."""
        return {title: self.cell(title, self._next, sheet=False) for title in self.columns}

    def block(self, title: str, first: int, stop: int) -> str:
        """The range of a column over rows ``first`` up to, not including, ``stop``."""
        return f"{self.cell(title, first)}:{self.cell(title, stop - 1, sheet=False)}"

    def formula(self, text: str, value: float) -> Formula:
        return Formula(text, float(value))

    def row(self, values: list[Any], indent: int = 0, strong: bool = False) -> None:
        """Write the next row: text as text, numbers as numbers, NaN and None as nothing."""
        at = self._next + 1
        for column, value in enumerate(values):
            if value is None or (isinstance(value, float) and math.isnan(value)):
                continue
            style = self._book.strong if strong else None
            if isinstance(value, Formula):
                self._sheet.write_formula(at, column, value.text, style, round(value.value, 9))
            elif isinstance(value, str):
                shift = self._book.indented(indent) if indent and column in (2, 3) else style
                self._sheet.write_string(at, column, value[:32000], shift)
            else:
                self._sheet.write_number(at, column, float(value), style)
        self._next += 1


class Workbook:
    """An XLSX workbook in memory."""

    def __init__(self) -> None:
        self._buffer = io.BytesIO()
        self.file = xlsxwriter.Workbook(self._buffer, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
        self.head = self.file.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
        self.strong = self.file.add_format({"bold": True})
        self._indents: dict[int, Any] = {}

    def indented(self, level: int) -> Any:
        level = min(level, 15)
        if level not in self._indents:
            self._indents[level] = self.file.add_format({"indent": level - 1})
        return self._indents[level]

    def sheet(self, name: str, columns: list[str]) -> Sheet:
        return Sheet(self, name, columns)

    def bytes(self) -> bytes:
        self.file.close()
        return self._buffer.getvalue()
