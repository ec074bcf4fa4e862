"""Placement files: where each component of a board stands, from a table of designators and coordinates.

Columns and sides go by words that senders use (common practice); lengths are in millimetres, whatever the file's unit: 1 inch is
25.4 mm exactly and 1 mil a thousandth of it (NIST SP 811).
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from .cells import Cell, read_number, text_of
from .neutral import Trouble
from .titles import plain

__all__ = ["MILLIMETRES", "PlaceRow", "read_places"]

#: Millimetres in one of each unit of length that placement files use.
MILLIMETRES = {
    "mm": Decimal(1),
    "millimeter": Decimal(1),
    "millimeters": Decimal(1),
    "millimetre": Decimal(1),
    "millimetres": Decimal(1),
    "mil": Decimal("0.0254"),
    "mils": Decimal("0.0254"),
    "thou": Decimal("0.0254"),
    "in": Decimal("25.4"),
    "inch": Decimal("25.4"),
    "inches": Decimal("25.4"),
    "micron": Decimal("0.001"),
    "um": Decimal("0.001"),
}

_WORDS = {
    "designator": ("designator", "refdes", "ref des", "reference designator", "ref", "reference", "component", "part reference", "name"),
    "x": ("x", "mid x", "center x", "centre x", "pos x", "posx", "x location", "location x", "ref x", "x coord", "x pos"),
    "y": ("y", "mid y", "center y", "centre y", "pos y", "posy", "y location", "location y", "ref y", "y coord", "y pos"),
    "rotation": ("rotation", "rot", "angle", "orientation", "theta"),
    "side": ("side", "layer", "tb", "board side", "mount side", "mirror"),
    "package": ("package", "footprint", "case", "pattern", "shape", "geometry"),
    "fitted": ("fitted", "populate", "populated", "mount", "mounted"),
    "not_fitted": ("dnp", "dnf", "dni", "not fitted"),
}
_MEANS = {word: name for name, words in _WORDS.items() for word in words}
_LENGTH = re.compile(r"(?P<number>[+-]?[\d.,]+(?:[eE][+-]?\d+)?)\s*(?P<unit>[A-Za-z]+)?")
_STATED = re.compile(r"\b(?:units?|einheit(?:en)?)\b[^A-Za-z]*(?:used)?[^A-Za-z]*\b(" + "|".join(MILLIMETRES) + r")\b", re.IGNORECASE)


@dataclass(slots=True)
class PlaceRow:
    """One component on a board: millimetres, degrees; ``side`` is top or bottom, empty where the file does not say."""

    row: int
    designator: str
    package: str = ""
    x_mm: Decimal = Decimal(0)
    y_mm: Decimal = Decimal(0)
    rotation: Decimal = Decimal(0)
    side: str = ""
    fitted: bool = True


def _split(rows: Sequence[Sequence[Cell]]) -> list[list[str]]:
    """Rows as texts; a file of fixed columns, which came as one cell a row, by its blanks."""
    texts = [[text_of(cell).strip() for cell in row] for row in rows]
    if all(sum(bool(t) for t in row) <= 1 for row in texts):
        return [
            re.split(r"\s{2,}|\t", row[0].strip()) if row and len(re.split(r"\s{2,}", row[0].strip())) > 3 else "".join(row).split()
            for row in texts
        ]
    return texts


def _titles(row: Sequence[str]) -> tuple[dict[str, int], str]:
    """The columns that a row names, and the unit that its titles state."""
    found: dict[str, int] = {}
    unit = ""
    for column, title in enumerate(row):
        name = _MEANS.get(plain(re.sub(r"(?i)[-_ ]?\b(mm|mils?|inch|inches|in)\b", " ", title)) or plain(title))
        if name is not None:
            found.setdefault(name, column)
        stated = re.search(r"(?i)\b(" + "|".join(MILLIMETRES) + r")\b", title)
        if stated and name in ("x", "y"):
            unit = stated[1].lower()
    return found, unit


def read_places(rows: Sequence[Sequence[Cell]]) -> tuple[list[PlaceRow], list[Trouble]] | None:
    """The places of a placement file, or None for a table that is none: no row names designators with both coordinates."""
    texts = _split(rows)
    titled = ((at, *_titles(row)) for at, row in enumerate(texts[:100]))
    none: tuple[int, dict[str, int], str] = (-1, {}, "")
    header, columns, unit = next((t for t in titled if {"designator", "x", "y"} <= t[1].keys()), none)
    if header < 0:
        return None
    problems: list[Trouble] = []
    for above in texts[:header]:
        stated = _STATED.search(" ".join(above))
        if stated and not unit:
            unit = stated[1].lower()
    found: list[PlaceRow] = []
    doubtful = not unit

    def cell(row: list[str], name: str) -> str:
        at = columns.get(name, -1)
        return row[at] if 0 <= at < len(row) else ""

    for number, row in enumerate(texts[header + 1 :], header + 2):
        designator = cell(row, "designator")
        if not designator or not re.search(r"\d", cell(row, "x")):
            if any(row) and designator and not designator.startswith(("#", "-", "=", "*")):
                problems.append(Trouble(number, f"{designator[:40]} has no coordinates"))
            continue
        place = PlaceRow(number, designator, cell(row, "package"))
        try:
            (place.x_mm, own_x), (place.y_mm, own_y) = (_length(cell(row, n), unit) for n in ("x", "y"))
            turned = cell(row, "rotation").rstrip("°")
            place.rotation = (read_number(turned, "," in turned) % 360 + 360) % 360 if turned else Decimal(0)
        except ValueError as error:
            problems.append(Trouble(number, str(error)))
            continue
        doubtful = doubtful and not (own_x and own_y)
        place.side = _side(cell(row, "side"))
        if "not_fitted" in columns:
            place.fitted = cell(row, "not_fitted").casefold() not in ("x", "yes", "y", "true", "1", "dnp", "dnf", "dni")
        elif "fitted" in columns:
            place.fitted = cell(row, "fitted").casefold() in ("x", "yes", "y", "true", "1")
        found.append(place)
    if doubtful and found:
        problems.append(Trouble(0, "no unit of length is stated; coordinates are read as millimetres"))
    first: dict[str, int] = {}
    for place in found:
        at = first.setdefault(place.designator, place.row)
        if at != place.row:
            problems.append(Trouble(place.row, f"{place.designator} stands at row {at} too"))
    return found, problems


def _length(text: str, unit: str) -> tuple[Decimal, bool]:
    """Millimetres, and whether the cell states its own unit. Raises ValueError."""
    found = _LENGTH.fullmatch(text.strip())
    own = (found["unit"] or "").lower() if found else ""
    if not found or (own and own not in MILLIMETRES):
        raise ValueError(f"“{text[:40]}” is not a length")
    value = read_number(found["number"], "," in found["number"] and "." not in found["number"])
    return (value * MILLIMETRES[own or unit or "mm"]).normalize() + 0, bool(own)


def _side(text: str) -> str:
    word = text.strip().casefold()
    if re.match(r"b(ot|$)|solder|back|bottom|unten|dessous|yes|true", word):
        return "bottom"
    return "top" if re.match(r"t(op|$)|component|front|oben|dessus|no|false", word) else ""
