"""A made list as a file: workbook, CSV, JSON or PDF, each with what the others say."""

from typing import Any

import orjson
from files.store import opened
from formats.answers import CSV, PDF, WORKBOOK
from formats.apart import picture_for_list
from formats.document import Table, pdf
from formats.flat import Cell, Column, Picture, list_csv, list_workbook
from tally_core.basics.errors import TallyError

from lists.making import MadeList, MadeRow

__all__ = ["FORMAT", "LIST_SHAPES", "VERSION", "list_file"]

FORMAT, VERSION = "round-tally-list", 1
#: What a list leaves as: its media type.
LIST_SHAPES = {"xlsx": WORKBOOK, "csv": CSV, "json": "application/json", "pdf": PDF}
#: Of which lists are printed, or carry their pictures.
_MOST_PRINTED, _MOST_PICTURES = 3_000, 400
#: A sum says something only where no row stands within another.
_FLAT = ("one level", "products")


def list_file(made: MadeList, shape: str) -> bytes:
    """The content. Raises TallyError for more rows than anybody prints, or more pictures than a file carries."""
    title = f"{made.sheet.part.number} {made.sheet.part.description}".strip()
    columns = [
        Column(
            c.title,
            c.holds in ("number", "money"),
            c.holds == "money" and key == "cost" and made.wanted.arrangement in _FLAT,
            key == "number",
        )
        for c, (key, _) in zip(made.columns, made.wanted.columns, strict=True)
    ]
    if shape == "json":
        return _json(made, title)
    if shape == "csv":
        return list_csv(columns, [list(row.cells) for row in made.rows], made.wanted.decimal).encode("utf-8-sig")
    drawn = _drawn(made)
    if shape == "xlsx":
        levels = [row.level for row in made.rows]
        return list_workbook(made.sheet.part.number, columns, [_cells(made, row, drawn) for row in made.rows], levels)
    if len(made.rows) > _MOST_PRINTED:
        raise TallyError(f"The list has more than {_MOST_PRINTED:,} rows, too many to print; take the workbook.")
    kinds = {"number": "n", "money": "n", "part": "pn", "tick": "tick"}
    heads = [(c.title, kinds.get(c.holds, "")) for c in made.columns]
    rows = [
        [_printed(made, c.holds, row, cell) for c, cell in zip(made.columns, _cells(made, row, drawn), strict=True)] for row in made.rows
    ]
    facts = [f"{label}: {value}" for label, value in made.basis if label != "Part"]
    if made.kept_out:
        facts.append(f"Kept out of this list: {made.kept_out}")
    return pdf(title, facts, [Table("", heads, rows)])


def _json(made: MadeList, title: str) -> bytes:
    return orjson.dumps(
        {
            "format": FORMAT,
            "version": VERSION,
            "title": title,
            "part": made.sheet.part.number,
            "revision": made.sheet.revision,
            "basis": {label: value for label, value in made.basis},
            "arrangement": made.wanted.arrangement,
            "columns": [
                {"key": k, "title": c.title, "holds": c.holds} for c, (k, _) in zip(made.columns, made.wanted.columns, strict=True)
            ],
            "kept_out": made.kept_out,
            "rows": [{"level": r.level, "kind": r.kind, "cells": r.cells} for r in made.rows],
        },
        option=orjson.OPT_INDENT_2,
    )


def _drawn(made: MadeList) -> dict[int, Picture]:
    """The pictures that some row shows, small; one that cannot be drawn is left away."""
    shown = {row.picture for row in made.rows if row.picture is not None}
    if len(shown) > _MOST_PICTURES:
        raise TallyError(
            f"A list carries at most {_MOST_PICTURES} pictures, and this one has {len(shown)}; leave out the pictures, or some rows."
        )
    found = {}
    for file in made.pictures.values():
        if file.pk in shown:
            try:
                with opened(file.file, file.name) as content:
                    found[file.pk] = picture_for_list(file.name, content.read())
            except TallyError:
                continue
    return found


def _cells(made: MadeList, row: MadeRow, drawn: dict[int, Picture]) -> list[Cell]:
    return [
        (drawn.get(row.picture or 0) if column.holds == "picture" else cell) for column, cell in zip(made.columns, row.cells, strict=True)
    ]


def _printed(made: MadeList, holds: str, row: MadeRow, cell: Cell) -> str | Picture:
    if isinstance(cell, Picture):
        return cell
    if holds == "part":
        indented = made.wanted.arrangement in ("indented", "operations")
        return "\u2003" * (row.level if indented else 0) + str(cell or "")
    if isinstance(cell, int | float):
        return _number(cell, holds, made.wanted.decimal)
    return cell or ""


def _number(value: Any, holds: str, decimal: str) -> str:
    if holds == "money":
        text = f"{value:,.2f}" if value == 0 or abs(value) >= 0.1 else f"{value:,.4f}"
    else:
        text = f"{value:,.6f}".rstrip("0").rstrip(".")
    return text.replace(",", "\u202f").replace(".", decimal)
