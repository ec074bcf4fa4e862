"""What files from outside say, in one neutral reading: rows, places, parts and problems, whatever kind each file is."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from tally_core.basics.errors import TallyError
from tally_core.lists.cells import Cell
from tally_core.lists.neutral import OF_PART, ListReading, ListRow, Trouble, read_list
from tally_core.lists.placements import PlaceRow, read_places
from tally_core.lists.titles import ColumnMap

from formats.apart import read_layout, read_tables
from formats.layouts import is_layout
from formats.step import is_step, read_step

__all__ = ["TableSays", "read_files", "read_table"]


def read_files(files: list[tuple[str, bytes]]) -> dict[str, Any]:
    """What some files say together, as ``./tally read`` answers; only what they have stands in it.

    With several files each row, place and problem names its own under ``file``. Raises TallyError for a file that cannot be read,
    and for one that holds neither a list nor places.
    """
    answer: dict[str, list[dict[str, Any]]] = {"rows": [], "places": [], "problems": []}
    assemblies = [(name, content) for name, content in files if is_step(content)]
    if assemblies:
        # Together: one may refer to another.
        answer |= read_step(assemblies)
    for name, content in files:
        if is_step(content):
            continue
        found = _read_one(name, content)
        if not found["rows"] and not found["places"]:
            raise TallyError(f"{name} holds neither a list with part numbers nor places of components.")
        for kind in ("rows", "places", "problems"):
            answer[kind] += [({"file": name} if len(files) > 1 else {}) | entry for entry in found[kind]]
    return {kind: entries for kind, entries in answer.items() if entries or kind == "problems"}


def _read_one(name: str, content: bytes) -> dict[str, list[dict[str, Any]]]:
    if is_layout(content):
        return read_layout(name, content)
    found: dict[str, list[dict[str, Any]]] = {"rows": [], "places": [], "problems": []}
    tables = [t for t in read_tables(name, content) if t.rows]
    for table in tables:
        sheet = {"sheet": table.name} if len(tables) > 1 and table.name else {}
        said = read_table(table.rows)
        found["places"] += [sheet | place for place in said.places]
        found["rows"] += [sheet | row for row in said.rows]
        found["problems"] += [sheet | {"row": t.row, "message": t.message} for t in said.troubles]
    return found


@dataclass(slots=True)
class TableSays:
    """What one table says, in the plain values of a neutral reading; ``map`` is how it was read, where it is a list."""

    rows: list[dict[str, Any]] = field(default_factory=list)
    places: list[dict[str, Any]] = field(default_factory=list)
    troubles: list[Trouble] = field(default_factory=list)
    map: ColumnMap | None = None


def read_table(rows: list[list[Cell]], given: ColumnMap | None = None, own: Mapping[str, bool] | None = None) -> TableSays:
    """A table as a placement file or a list, whichever it is; by a column map where one is given. ``own`` as in :func:`read_list`."""
    placed = read_places(rows) if given is None else None
    if placed is not None and placed[0]:
        return TableSays(places=[_place(place) for place in placed[0]], troubles=placed[1])
    reading = read_list(rows, given, own)
    if not reading.rows:
        return TableSays(map=reading.map)
    return TableSays([_row(row, reading) for row in reading.rows], troubles=reading.problems, map=reading.map)


def _row(row: ListRow, reading: ListReading) -> dict[str, Any]:
    said: dict[str, Any] = {
        "row": row.row,
        "level": row.level,
        "parent": row.parent or None,
        "item": int(row.item) if row.item.isdecimal() and len(row.item) < 9 else row.item or None,
        "part": row.part or None,
        "description": row.description or None,
        "quantity": None if row.quantity is None else f"{row.quantity.normalize() + 0:f}",
        "unit": row.unit or None,
        "maker": row.maker or None,
        "maker_number": row.maker_number or None,
        "designators": row.designators if "reference_designators" in reading.fields else None,
        "customer_supplied": row.customer_supplied,
        "not_fitted": row.not_fitted,
        "unit_cost": None if row.unit_cost is None else f"{row.unit_cost.normalize() + 0:f}",
        "scrap_percent": None if row.scrap_percent is None else f"{row.scrap_percent.normalize() + 0:f}",
        "note": row.note or None,
        **{name: getattr(row, name) or None for name in OF_PART},
        "own_fields": row.own_fields or None,
    }
    return {name: value for name, value in said.items() if value is not None}


def _place(place: PlaceRow) -> dict[str, Any]:
    return {
        "designator": place.designator,
        "package": place.package,
        "x_mm": f"{round(place.x_mm, 6).normalize() + 0:f}",
        "y_mm": f"{round(place.y_mm, 6).normalize() + 0:f}",
        "rotation": f"{place.rotation.normalize() + 0:f}",
        **({"side": place.side} if place.side else {}),
        "fitted": place.fitted,
    }
