"""Reading tables out of files from anywhere: CSV, XLSX and ODS, each of which may be wrong or hostile."""

import csv
import io
import zipfile
from dataclasses import dataclass
from datetime import date, datetime

from python_calamine import CalamineError, CalamineWorkbook
from tally_core.errors import TallyError

__all__ = ["Table", "read_tables"]

MOST_ROWS, MOST_COLUMNS = 60_000, 200
#: A workbook is a compressed archive; these bound what it may grow to.
MOST_UNPACKED, MOST_ENTRIES = 250 * 1024 * 1024, 2000
_CHUNK = 1024 * 1024


@dataclass(slots=True)
class Table:
    """One sheet of a file: its name and its cells as text, rows as long as their last filled cell."""

    name: str
    rows: list[list[str]]


def read_tables(name: str, content: bytes) -> list[Table]:
    """The tables of a file by its ending. Raises TallyError, in the user's words, for what cannot be read."""
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    if not content:
        raise TallyError(f"{name} is empty.")
    if ending in ("csv", "tsv", "txt"):
        return [Table("", _bounded(_read_text(name, content)))]
    if ending in ("xlsx", "xlsm", "ods"):
        _check_archive(name, ending, content)
        return _read_workbook(name, content)
    raise TallyError(f"{name} is neither CSV nor XLSX nor ODS; save the list as one of these and bring it in again.")


def _read_text(name: str, content: bytes) -> list[list[str]]:
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
    sample = "\n".join(text.splitlines()[:50])
    delimiter = max(";\t|,", key=lambda d: (sum(line.count(d) > 0 for line in sample.splitlines()), sample.count(d)))
    limit = csv.field_size_limit(1_000_000)
    try:
        return list(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter))
    except csv.Error as error:
        raise TallyError(f"{name} cannot be read as CSV: {error}.") from None
    finally:
        csv.field_size_limit(limit)


def _check_archive(name: str, ending: str, content: bytes) -> None:
    """Unpack every entry once, counting, before any other reader sees it: sizes stated in an archive can lie."""
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
                while chunk := part.read(_CHUNK):
                    unpacked += len(chunk)
                    if unpacked > MOST_UNPACKED:
                        raise TallyError(_too_large(name))
                    # A workbook has no use for a document type; one that has it wants its entities expanded.
                    plain = (start[-16:] + chunk).replace(b"\x00", b"").upper()
                    if entry.filename.endswith((".xml", ".rels")) and (b"<!DOCTYPE" in plain or b"<!ENTITY" in plain):
                        raise TallyError(
                            f"{name} holds XML with entities of its own, which no workbook needs; it was not read."
                        )
                    start = chunk
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError):
        raise TallyError(f"{name} is not a workbook, whatever its ending says, or it is damaged or locked.") from None


def _too_large(name: str) -> str:
    return f"{name} unpacks to more than {MOST_UNPACKED // 1024 // 1024} MB; it was not read. Save only the list itself and try again."


def _read_workbook(name: str, content: bytes) -> list[Table]:
    try:
        workbook = CalamineWorkbook.from_filelike(io.BytesIO(content))
        tables = [
            Table(
                sheet,
                _bounded(
                    [
                        [_text(c) for c in row]
                        for row in workbook.get_sheet_by_name(sheet).to_python(skip_empty_area=False)
                    ]
                ),
            )
            for sheet in workbook.sheet_names[:30]
        ]
    except (CalamineError, OSError, ValueError, KeyError) as error:
        raise TallyError(f"{name} cannot be read as a workbook: {str(error)[:200]}.") from None
    found = [table for table in tables if table.rows]
    if not found:
        raise TallyError(f"{name} holds no filled cells.")
    return found


def _text(cell: object) -> str:
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return str(int(cell)) if cell.is_integer() and abs(cell) < 1e15 else repr(cell)
    if isinstance(cell, date | datetime):
        return cell.isoformat()
    return str(cell)


def _bounded(rows: list[list[str]]) -> list[list[str]]:
    trimmed = []
    for row in rows:
        # PostgreSQL keeps no null characters, and no reader means them.
        cells = [cell.replace("\x00", "") for cell in row[:MOST_COLUMNS]]
        while cells and not cells[-1].strip():
            cells.pop()
        trimmed.append(cells)
    while trimmed and not trimmed[-1]:
        trimmed.pop()
    if len(trimmed) > MOST_ROWS:
        raise TallyError(f"The list has {len(trimmed):,} rows; at most {MOST_ROWS:,} can be brought in at once.")
    return trimmed
