"""Reading a bill of materials out of a table made elsewhere: the header, the columns, the levels.

Rows are lists of cells (:data:`tally_core.lists.cells.Cell`), as they stand in the file; row numbers count from 1, as a spreadsheet
shows them.
"""

import re
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from ..basics.units import SYMBOLS
from ..stated.records import check_number
from .cells import Cell, is_settled, read_number, reads_two_ways, text_of

__all__ = [
    "FIELDS", "NUMBERS", "Reading", "designators", "find_header", "propose_columns", "propose_without_header", "read_level", "read_rows", "read_unit",
    "sole_root",
]  # fmt: skip

#: The fields a column may hold, with words that senders use for them (common practice).
FIELDS: dict[str, tuple[str, ...]] = {
    "level": ("level", "lvl", "bom level", "depth", "indent", "ebene", "stufe", "niveau", "nivel"),
    "parent": ("parent", "parent part", "parent number", "assembly", "used on", "goes into", "belongs to", "next higher assembly", "baugruppe", "gehört zu", "ensemble", "conjunto"),
    "item": ("item", "item no", "item number", "pos", "position", "line", "line no", "find no", "find number", "no", "repère", "posición", "lfd nr"),
    "part": ("part", "part number", "part no", "partno", "number", "component", "article", "article number", "material number", "pn", "p/n", "sku", "teilenummer", "artikelnummer", "artikel", "artikel nr", "sachnummer", "teil", "numéro", "numéro d article", "code article", "código", "número de pieza", "número de parte"),
    "description": ("description", "desc", "name", "designation", "title", "part name", "material description", "materialkurztext", "bezeichnung", "text", "benennung", "beschreibung", "désignation", "libellé", "descripción", "denominación"),
    "quantity": ("quantity", "qty", "quantity per", "qty per", "amount", "count", "menge", "pieces", "anzahl", "stück", "stückzahl", "quantité", "qté", "cantidad", "cant", "quantity required"),
    "unit": ("unit", "uom", "unit of measure", "um", "units", "einheit", "me", "mengeneinheit", "unité", "unidad", "u m"),
    "unit_cost": ("unit cost", "cost", "price", "unit price", "cost each", "price each", "preis", "stückpreis", "einzelpreis", "prix", "prix unitaire", "precio", "precio unitario"),
    "scrap_percent": ("scrap", "scrap %", "scrap percent", "waste", "waste %", "attrition"),
    "reference_designators": ("reference designators", "reference designator", "designators", "designator", "ref des", "refdes", "references", "reference", "bauteilbezeichner", "bezeichner", "repères", "designadores", "designator s"),
}  # fmt: skip

_MOST_PLACES = 20_000
#: The fields that are numbers.
NUMBERS = ("quantity", "unit_cost", "scrap_percent")

_UNIT_WORDS = {
    "ea": "each pc pcs pce piece pieces nos no st stk stck unit units h87 c62",
    "pair": "pairs pr", "dozen": "doz dz dzn", "kg": "kgs kilo kilogram kilograms kgm", "g": "gr gram grams grm",
    "mg": "milligram milligrams", "t": "tonne tonnes tne", "lb": "lbs pound pounds lbr", "m": "mtr meter meters metre metres",
    "mm": "millimeter millimeters millimetre millimetres mmt", "cm": "centimeter centimetre cmt", "in": "inch inches inh",
    "ft": "foot feet fot", "m2": "m² sqm mtk", "mm2": "mm²", "m3": "m³ cbm mtq", "L": "l ltr liter liters litre litres",
    "mL": "ml mlt milliliter millilitre", "gal": "gallon gallons gll", "h": "hr hrs hour hours hur", "min": "minute minutes",
}  # fmt: skip
_UNITS = {s.lower(): s for s in SYMBOLS} | {word: unit for unit, words in _UNIT_WORDS.items() for word in words.split()}


def _plain(text: str) -> str:
    return re.sub(r"[\s_.\-:#*]+", " ", text.casefold()).strip()


_MEANS = {_plain(word): name for name, words in FIELDS.items() for word in words}


def read_unit(text: str) -> str | None:
    """A unit of ours for what a sender writes, or None. Codes are those of UN/CEFACT Recommendation 20.

    >>> read_unit("PCS"), read_unit("KGM"), read_unit("bushel")
    ('ea', 'kg', None)
    """
    return _UNITS.get(text.strip().rstrip(".").lower())


def designators(text: str) -> list[str]:
    """Reference designators with their ranges expanded, as long as there are not more than anyone could place.

    >>> designators("R1, R3-R5; C2")
    ['R1', 'R3', 'R4', 'R5', 'C2']
    """
    if "-" not in text and "–" not in text and ".." not in text:
        return text.replace(",", " ").replace(";", " ").split()
    found: list[str] = []
    for word in re.split(r"[\s,;]+", re.sub(r"\s*(-|–|\.\.)\s*", "-", text.strip())):
        span = re.fullmatch(r"([A-Za-z_]+)(\d+)-([A-Za-z_]*)(\d+)", word)
        last = int(span[4]) if span and len(span[4]) < 8 else 0
        if span and span[3] in ("", span[1]) and len(found) < _MOST_PLACES and 0 <= last - int(span[2]) < 5000:
            found += [f"{span[1]}{n}" for n in range(int(span[2]), last + 1)]
        elif word:
            found.append(word)
    return found


def find_header(rows: Sequence[Sequence[Cell]]) -> int | None:
    """The index of the row that names the columns, among the first hundred: the one with most known words.

    >>> find_header([["Lantern list"], [], ["Pos", "Part No.", "Qty"], ["1", "A-1", "2"]])
    2
    """
    best, most = None, 1
    for index, row in enumerate(rows[:100]):
        known = {_MEANS[_plain(cell)] for cell in row if isinstance(cell, str) and _plain(cell) in _MEANS}
        if len(known) > most:
            best, most = index, len(known)
    return best


def propose_columns(rows: Sequence[Sequence[Cell]], header: int) -> dict[str, int]:
    """Which column holds which field: by the header's words, and where they say nothing by what stands beneath.

    >>> propose_columns([["Pos", "Article", "x"], ["1", "A-1", "2"], ["2", "A-2", "1"]], 0)
    {'item': 0, 'part': 1, 'quantity': 2}
    """
    found: dict[str, int] = {}
    for column, cell in enumerate(rows[header]):
        name = _MEANS.get(_plain(text_of(cell)))
        if name is not None and name not in found:
            found[name] = column
    below = rows[header + 1 : header + 201]
    width = max((len(row) for row in below), default=0)
    for column in range(width):
        if column in found.values():
            continue
        cells = [text for row in below if (text := _text(row, column))]
        if not cells:
            continue
        if "quantity" not in found and all(re.fullmatch(r"\d+([.,]\d+)?", c) for c in cells):
            found["quantity"] = column
        elif "reference_designators" not in found and sum(bool(re.match(r"[A-Z]{1,3}\d+([,;\s–-]|$)", c)) for c in cells) > len(cells) / 2:
            if "part" in found:
                found["reference_designators"] = column
        elif "unit" not in found and all(read_unit(c) for c in cells):
            found["unit"] = column
    return found


@dataclass(slots=True)
class Reading:
    """What one row says. ``problems`` keep the whole list from being saved; ``looks`` are worth a look."""

    row: int
    level: int = 0
    parent: str = ""
    part: str = ""
    description: str = ""
    item: int | None = None
    quantity: Decimal | None = None
    unit: str | None = None
    unit_cost: Decimal | None = None
    scrap_percent: Decimal | None = None
    reference_designators: list[str] = field(default_factory=list)
    is_top: bool = False
    problems: list[str] = field(default_factory=list)
    looks: list[str] = field(default_factory=list)


_NO_LEVEL = -1


def _text(row: Sequence[Cell], column: int | None) -> str:
    """The text of a cell; empty where there is none."""
    return text_of(row[column]).strip() if column is not None and 0 <= column < len(row) else ""


def _is_filled(cell: Cell) -> bool:
    return not isinstance(cell, str) or bool(cell.strip())


def read_level(text: str) -> int:
    """A level as senders write it: 2, ..2, or 1.2.1 by its parts. Raises ValueError."""
    clean = text.strip()
    if re.fullmatch(r"\d{1,2}(\.0)?", clean):
        return int(clean.split(".")[0])
    if re.fullmatch(r"[.\s>+*\-–]*\d{1,2}", clean):
        return int(re.sub(r"\D", "", clean))
    if re.fullmatch(r"\d+(\.\d+)+\.?", clean):
        return len(clean.rstrip(".").split("."))
    raise ValueError(f"“{clean[:40]}” is not a level")


def read_rows(rows: Sequence[Sequence[Cell]], header: int, columns: Mapping[str, int], top: str, comma: bool) -> list[Reading]:
    """Every row below the header that holds anything, with the part it stands under.

    Args:
        columns: field → column; at most one of ``level`` and ``parent`` places a row, else all stand under ``top``.
        top: the part the list is for; a first row of the lowest level that nothing stands beside is that part itself.
        comma: whether numbers that are text have a decimal comma.
    """

    def cell(row: Sequence[Cell], name: str) -> str:
        return _text(row, columns.get(name))

    body = [(n, row) for n, row in enumerate(rows[header + 1 :], header + 2) if any(map(_is_filled, row))]
    amounts = {n: columns[n] for n in NUMBERS if columns.get(n, -1) >= 0}
    texts = (row[at] for _, row in body for at in amounts.values() if at < len(row))
    unsettled = not is_settled(texts)
    found: list[Reading] = []
    lacking = set() if "quantity" in amounts else {number for number, _ in body}
    for number, row in body:
        reading = Reading(number, part=cell(row, "part"), description=cell(row, "description")[:500])
        wrong = check_number(reading.part)
        if wrong and sum(map(_is_filled, row)) == 1:
            # A lone remark beneath the table is no row of it.
            continue
        found.append(reading)
        if wrong:
            reading.problems.append(wrong)
        for name, at in amounts.items():
            if at < len(row) and _is_filled(row[at]):
                _amount(reading, name, row[at], comma, unsettled)
            elif name == "quantity":
                lacking.add(number)
        _words(reading, {name: cell(row, name) for name in ("unit", "item", "reference_designators")})
        if "level" in columns:
            try:
                reading.level = read_level(cell(row, "level"))
            except ValueError as error:
                reading.level = _NO_LEVEL
                reading.problems.append(str(error) if cell(row, "level") else "the level is missing")
        elif "parent" in columns:
            reading.parent = cell(row, "parent") or top
    if "level" in columns:
        _place_by_level(found, top)
    elif "parent" not in columns:
        for reading in found:
            reading.parent = top
    else:
        known = {top, *(r.part for r in found)}
        for reading in found:
            if reading.part == top and not cell(rows[reading.row - 1], "parent"):
                reading.is_top, reading.parent = True, ""
            elif reading.parent not in known:
                reading.problems.append(f"its parent {reading.parent} stands nowhere in the list")
    first_at: dict[str, dict[str, int]] = {}
    for reading in found:
        if "level" in columns:
            # A sub-assembly that is named again brings its list again; that is no second line.
            first_at.pop(reading.part, None)
        twice = first_at.setdefault(reading.parent, {}).setdefault(reading.part, reading.row)
        if twice != reading.row and reading.part and not reading.is_top:
            reading.looks.append(f"{reading.part} stands at row {twice} too; both lines are kept")
    for reading in found:
        if reading.row in lacking and not reading.is_top:
            reading.problems.append("the quantity is missing")
        if reading.part and reading.part == reading.parent:
            reading.problems.append(f"{reading.part} would contain itself")
    return found


def sole_root(rows: Sequence[Sequence[Cell]], header: int, columns: Mapping[str, int]) -> str:
    """With a parent column: the one parent that stands nowhere as a part, and so is what the list is for; else empty.

    >>> sole_root([["parent", "part"], ["A", "B"], ["B", "C"]], 0, {"parent": 0, "part": 1})
    'A'
    """
    cells = [{name: _text(row, at) for name, at in columns.items() if name in ("parent", "part")} for row in rows[header + 1 :]]
    roots = {c.get("parent", "") for c in cells} - {c.get("part", "") for c in cells} - {""}
    return roots.pop() if len(roots) == 1 else ""


def _amount(reading: Reading, name: str, cell: Cell, comma: bool, unsettled: bool) -> None:
    """A number of a row into its field, or what is wrong with it."""
    word, shown = name.replace("_", " "), text_of(cell).strip()
    try:
        value = read_number(shown.rstrip("%") if name == "scrap_percent" and isinstance(cell, str) else cell, comma)
    except ValueError as error:
        reading.problems.append(f"{word}: {error}")
        return
    if value < 0 or (name == "quantity" and value == 0):
        wanted = "must be more than 0" if name == "quantity" else "cannot be negative"
        reading.problems.append(f"{word} {wanted} ({shown})")
        return
    setattr(reading, name, value)
    if unsettled and isinstance(cell, str) and reads_two_ways(cell):
        reading.looks.append(f"{word} “{shown}” is read as {value.normalize():f}; with the other decimal sign it is another number")


def _words(reading: Reading, texts: Mapping[str, str]) -> None:
    """Unit, item and designators of a row."""
    if texts["unit"]:
        reading.unit = read_unit(texts["unit"])
        if reading.unit is None:
            reading.problems.append(f"unit “{texts['unit'][:20]}” is not known")
    if re.fullmatch(r"\d{1,8}(\.0)?", texts["item"]):
        reading.item = int(texts["item"].split(".")[0])
    if texts["reference_designators"]:
        places = designators(texts["reference_designators"])
        reading.reference_designators = places
        twice = sorted(p for p, times in Counter(places).items() if times > 1)
        if twice:
            reading.looks.append(f"{', '.join(twice[:5])} named twice")
        if reading.quantity is not None and reading.quantity != len(places):
            reading.looks.append(f"quantity {reading.quantity.normalize():f}, but {len(places)} designators")


def _place_by_level(found: list[Reading], top: str) -> None:
    # A row without a level is named for that; it must not make its neighbours look wrong.
    found = [r for r in found if r.level != _NO_LEVEL]
    if not found:
        return
    lowest = min(r.level for r in found)
    first = found[0]
    alone = first.level == lowest and sum(r.level == lowest for r in found) == 1 and len(found) > 1
    # A list that starts at level 1 may simply hold one sub-assembly; who names another part for it means that.
    if alone and (first.level == 0 or not top or first.part == top):
        first.is_top = True
        top = first.part or top
    above: dict[int, str] = {lowest - 1: top}
    if first.is_top:
        above = {lowest: top}
    previous = lowest - 1
    for reading in found:
        if reading.is_top:
            previous = reading.level
            continue
        if reading.level > previous + 1:
            reading.problems.append(f"level {reading.level} follows level {previous}: a level is missing between them")
        reading.parent = above.get(reading.level - 1, top)
        above[reading.level] = reading.part
        previous = reading.level


def propose_without_header(rows: Sequence[Sequence[Cell]], known: Collection[str]) -> dict[str, int]:
    """Which column holds which field where no row names them: the part where most known numbers stand, the rest by contents.

    Args:
        known: part numbers that exist, in capital letters.

    >>> propose_without_header([["2", "A-1", "kg"], ["0.5", "A-2", "kg"]], {"A-1"})
    {'part': 1, 'quantity': 0, 'unit': 2}
    """
    width = max((len(row) for row in rows), default=0)
    columns = [[text for row in rows if (text := _text(row, at))] for at in range(width)]
    found: dict[str, int] = {}

    def take(name: str, fits) -> None:
        # Of columns that fit as well, the one further left.
        best = max((at for at in range(width) if at not in found.values() and columns[at]), key=fits, default=None)
        if best is not None and fits(best) > 0:
            found[name] = best

    def share(at: int, test) -> float:
        return sum(bool(test(cell)) for cell in columns[at]) / len(columns[at])

    def number(cell: str) -> bool:
        return bool(re.fullmatch(r"\d+([.,]\d+)?", cell))

    take("part", lambda at: share(at, lambda c: c.upper() in known))
    if "part" not in found:
        take("part", lambda at: share(at, lambda c: check_number(c) is None and not number(c)))
    take("quantity", lambda at: share(at, number))
    take("unit", lambda at: share(at, lambda c: read_unit(c) and not number(c)) - 0.5)
    take("description", lambda at: sum(map(len, columns[at])) / len(columns[at]) - 6)
    return found
