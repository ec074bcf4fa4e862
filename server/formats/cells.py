"""Cells of a table as JSON: text, numbers and flags as they are, a day as ``{"day": "2026-03-31"}``."""

from datetime import date
from typing import Any

from tally_core.lists.cells import Cell

__all__ = ["day_as_json", "rows_as_json", "rows_of_json"]


def day_as_json(day: date) -> dict[str, str]:
    """A day, which JSON has no word for."""
    return {"day": day.isoformat()}


def rows_as_json(rows: list[list[Cell]]) -> list[list[Any]]:
    """Rows of cells as JSON can hold them."""
    return [[day_as_json(c) if isinstance(c, date) else c for c in row] for row in rows]


def rows_of_json(rows: list[list[Any]]) -> list[list[Cell]]:
    """Rows of cells as they were.

    >>> rows_of_json(rows_as_json([["A-1", 3.5, date(2026, 3, 31)]]))
    [['A-1', 3.5, datetime.date(2026, 3, 31)]]
    """
    return [[date.fromisoformat(c["day"]) if isinstance(c, dict) else c for c in row] for row in rows]
