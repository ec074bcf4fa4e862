"""What pasted rows will become on a sheet, before anything is kept."""

import csv
import io
from typing import Any

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.db.models.functions import Upper
from tally_core.basics.errors import TallyError
from tally_core.basics.units import dimension
from tally_core.lists.cells import uses_decimal_comma
from tally_core.lists.intake import find_header, propose_columns, propose_without_header, read_rows

__all__ = ["read_paste"]

MOST_ROWS, MOST_COLUMNS = 2000, 60


def read_paste(sheet: BuildSheet, text: str) -> dict[str, Any]:
    """Rows of text as a spreadsheet copies them, read as lines of a sheet. Saves nothing.

    Returns the columns that were recognised and, for each row, the values of a line and what is to be seen about it.
    Raises TallyError when there is nothing to read.
    """
    if "\x00" in text:
        raise TallyError("What was pasted is not text.")
    limit = csv.field_size_limit(100_000)
    try:
        rows = [row[:MOST_COLUMNS] for row in csv.reader(io.StringIO(text, newline=""), delimiter="\t")]
    except csv.Error:
        raise TallyError("What was pasted cannot be read as rows.") from None
    finally:
        csv.field_size_limit(limit)
    while rows and not any(cell.strip() for cell in rows[-1]):
        rows.pop()
    if not any(any(cell.strip() for cell in row) for row in rows):
        raise TallyError("There is nothing to paste.")
    if len(rows) > MOST_ROWS:
        raise TallyError(f"{len(rows):,} rows are too many to paste; bring them in as a file.")
    # Words above the titles are what the list is called; below them they are notes.
    titles = find_header(rows)
    notes = [_note(at, row) if titles is None or at > titles + 1 else None for at, row in enumerate(rows, 1)]
    listed = [row if note is None else [] for row, note in zip(rows, notes, strict=True)]
    found_notes = [note for note in notes if note is not None]
    if not any(listed):
        return {"columns": ["text"], "rows": found_notes}
    rows = listed
    header = find_header(rows)
    cells = {cell.strip().upper() for row in rows for cell in row if cell.strip() and len(cell) <= 64}
    held = {p.number.upper(): p for p in Part.objects.annotate(any_case=Upper("number")).filter(any_case__in=cells)}
    columns = propose_columns(rows, header) if header is not None else propose_without_header(rows, held.keys())
    for name in ("level", "parent"):
        columns.pop(name, None)
    if "part" not in columns:
        raise TallyError("No column of what was pasted holds part numbers.")
    body = rows if header is not None else [[], *rows]
    quantities = [row[columns["quantity"]] for row in rows if columns.get("quantity", MOST_COLUMNS) < len(row)]
    found = read_rows(body, header if header is not None else 0, columns, sheet.part.number, uses_decimal_comma(quantities))
    shift = 0 if header is not None else 1
    lines = [_row(reading, held.get(reading.part.upper()), shift) for reading in found]
    return {"columns": sorted(columns, key=columns.__getitem__), "rows": sorted([*lines, *found_notes], key=lambda row: row["row"])}


def _note(number: int, row: list[str]) -> dict[str, Any] | None:
    """A row that holds words alone, as a note; None for any other."""
    filled = [cell.strip() for cell in row if cell.strip()]
    if len(filled) != 1 or " " not in filled[0]:
        return None
    return {
        "row": number,
        "part": "",
        "known": True,
        "becomes": f"a note: {filled[0][:200]}",
        "values": {"kind": "text", "text": filled[0][:4000]},
        "problems": [],
        "looks": [],
    }


def _row(reading: Any, part: Part | None, shift: int) -> dict[str, Any]:
    problems = list(reading.problems)
    if part is None:
        becomes = "a new bought part, a draft"
    else:
        becomes = part.description
        if reading.unit and dimension(reading.unit) != dimension(part.unit):
            problems.append(
                f"{reading.unit} is {dimension(reading.unit)}, and {part.number} is stocked in {part.unit}, {dimension(part.unit)}"
            )
    return {
        "row": reading.row - shift,
        "part": part.number if part else reading.part,
        "known": part is not None,
        "becomes": becomes,
        "values": {
            "part": part.number if part else reading.part,
            "item": reading.item,
            "quantity": f"{reading.quantity.normalize():f}" if reading.quantity is not None else None,
            "unit": reading.unit if part and reading.unit != part.unit else None,
            "scrap_percent": f"{reading.scrap_percent.normalize():f}" if reading.scrap_percent is not None else None,
            "reference_designators": reading.reference_designators,
        },
        "problems": problems,
        "looks": reading.looks,
    }
