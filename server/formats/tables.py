"""Tables out of files from anywhere: CSV, XLSX, ODS and quotations in UBL, each of which may be wrong or hostile.

What reads here may die of a file; so it is called by ``formats.apart`` alone, in a process of its own.
"""

import csv
import io
import math
import re
import zipfile
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from xml.parsers import expat

from python_calamine import CalamineError, CalamineWorkbook
from tally_core.basics.errors import TallyError
from tally_core.lists.cells import Cell

from formats.ubl_quoting import is_quotation, quotation_rows

__all__ = ["Table", "parse_tables"]

MOST_ROWS, MOST_COLUMNS = 120_000, 200
#: A workbook is a compressed archive; these bound what it may grow to.
MOST_UNPACKED, MOST_ENTRIES = 250 * 1024 * 1024, 2000
_MOST_EMPTY = 1_100_000
_CHUNK = 1024 * 1024
#: A filled cell in the XML of a workbook's sheet: not ``<c r="A1" s="2"/>``, which only has a look.
_FILLED = re.compile(rb"""<(?:\w+:)?c\s[^<>]*?\br=["']([A-Za-z]+)([0-9]+)["'][^<>]*(?<!/)>""")


@dataclass(slots=True)
class Table:
    """One sheet of a file: its name and its cells, each of its own type; rows as long as their last filled cell."""

    name: str
    rows: list[list[Cell]]


def parse_tables(name: str, content: bytes) -> list[Table]:
    """The tables of a file by its ending. Raises TallyError, in the user's words, for what cannot be read."""
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    if not content:
        raise TallyError(f"{name} is empty.")
    if ending in ("csv", "tsv", "txt"):
        return [Table("", _read_text(name, content))]
    if ending in ("xlsx", "xlsm", "ods"):
        _check_archive(name, ending, content)
        return _read_workbook(name, content)
    if ending == "xml" and is_quotation(content):
        return [Table("", quotation_rows(name, content))]
    raise TallyError(f"{name} is neither CSV nor XLSX nor ODS; save the list as one of these and bring it in again.")


def _read_text(name: str, content: bytes) -> list[list[Cell]]:
    if content[:2] == b"PK" or content[:4] == b"%PDF" or content[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        raise TallyError(f"{name} is not text, whatever its ending says; it looks like a workbook or a document.")
    text = None
    encodings = ("utf-16",) if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig", "cp1252")
    for encoding in encodings:
        try:
            text = content.decode(encoding)
            break
        except UnicodeDecodeError:
            continue
    if text is None or "\x00" in text:
        raise TallyError(f"{name} is not text, whatever its ending says.")
    sample = text[:200_000].splitlines()[:50]
    delimiter = max(";\t|,", key=lambda d: (sum(d in line for line in sample), sum(line.count(d) for line in sample)))
    limit = csv.field_size_limit(1_000_000)
    try:
        return _bounded(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter))
    except csv.Error as error:
        raise TallyError(f"{name} cannot be read as CSV: {error}.") from None
    finally:
        csv.field_size_limit(limit)


def _check_archive(name: str, ending: str, content: bytes) -> None:
    """Unpack every entry once, counting, before any other reader sees it: sizes stated in an archive can lie, and XML can break off."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(content))
        entries = archive.infolist()
        wanted = "content.xml" if ending == "ods" else "xl/workbook.xml"
        if wanted not in archive.namelist():
            raise TallyError(f"{name} is not a workbook, whatever its ending says.")
        if len(entries) > MOST_ENTRIES or sum(e.file_size for e in entries) > MOST_UNPACKED:
            raise TallyError(_too_large(name))
        unpacked = 0
        for entry in entries:
            with archive.open(entry) as part:
                start = b""
                # The reader of workbooks never ends where an element of an ODS does not; so whether all end is looked at first.
                whole = expat.ParserCreate() if entry.filename == "content.xml" else None
                is_sheet = entry.filename.startswith("xl/worksheets/")
                while chunk := part.read(_CHUNK):
                    unpacked += len(chunk)
                    if unpacked > MOST_UNPACKED:
                        raise TallyError(_too_large(name))
                    # A workbook has no use for a document type; one that has it wants its entities expanded.
                    plain = (start[-16:] + chunk).replace(b"\x00", b"").upper()
                    if entry.filename.endswith((".xml", ".rels")) and (b"<!DOCTYPE" in plain or b"<!ENTITY" in plain):
                        raise TallyError(f"{name} holds XML with entities of its own, which no workbook needs; it was not read.")
                    if is_sheet:
                        _check_reach(name, start[-200:] + chunk)
                    if whole:
                        whole.Parse(chunk)
                    start = chunk
                if whole:
                    whole.Parse(b"", True)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError, zlib.error, expat.ExpatError):
        raise TallyError(f"{name} is not a workbook, whatever its ending says, or it is damaged or locked.") from None


def _check_reach(name: str, xml: bytes) -> None:
    """Refuse a cell so far out that the table up to it, which is what a reader makes room for, could be no list."""
    for letters, digits in _FILLED.findall(xml):
        if len(letters) > 2 or len(digits) > 9 or int(digits) > MOST_ROWS:
            raise TallyError(
                f"{name} has a filled cell at {(letters + digits).decode()[:20]}, far outside any list; at most {MOST_ROWS:,} rows "
                "and some 700 columns are read. Clear that cell and try again."
            )


def _too_large(name: str) -> str:
    return f"{name} unpacks to more than {MOST_UNPACKED // 1024 // 1024} MB; it was not read. Save only the list itself and try again."


def _read_workbook(name: str, content: bytes) -> list[Table]:
    try:
        workbook = CalamineWorkbook.from_filelike(io.BytesIO(content))
        tables = [
            Table(sheet, _bounded(map(_typed, workbook.get_sheet_by_name(sheet).to_python(skip_empty_area=False))))
            for sheet in workbook.sheet_names[:30]
        ]
    except (CalamineError, OSError, ValueError, KeyError) as error:
        raise TallyError(f"{name} cannot be read as a workbook: {str(error)[:200]}.") from None
    found = [table for table in tables if table.rows]
    if not found:
        raise TallyError(f"{name} holds no filled cells.")
    return found


def _typed(row: Sequence[Any]) -> list[Cell]:
    return [_cell(cell) for cell in row]


def _cell(cell: Any) -> Cell:
    """A cell in its own type; whole numbers and numbers come as one type from a workbook."""
    if isinstance(cell, str | bool | int):
        return cell
    if isinstance(cell, float) and math.isfinite(cell):
        return int(cell) if cell.is_integer() and abs(cell) < 1e15 else cell
    if isinstance(cell, datetime):
        return cell.date()
    return cell if isinstance(cell, date) else str(cell)


def _bounded(rows: Iterable[Sequence[Cell]]) -> list[list[Cell]]:
    """Rows without what is empty at their ends and beneath the last of them; of no more than can be brought in."""
    found: list[list[Cell]] = []
    empty = 0
    for row in rows:
        # PostgreSQL keeps no null characters, and no reader means them.
        cells = [c.replace("\x00", "") if isinstance(c, str) else c for c in row[:MOST_COLUMNS]]
        while cells and isinstance(cells[-1], str) and not cells[-1].strip():
            cells.pop()
        if not cells:
            empty += 1
            if empty > _MOST_EMPTY:
                raise TallyError("The list has more than a million empty rows in a row; save only the list itself and try again.")
            continue
        if len(found) + empty >= MOST_ROWS:
            raise TallyError(f"The list has more than {MOST_ROWS:,} rows, which is as many as can be brought in at once.")
        found += [[] for _ in range(empty)]
        empty = 0
        found.append(cells)
    return found
