"""The neutral reading of a list: rows with what each says, whatever the list's shape, and what is wrong with it.

Nothing is asked of a sender: the header stands on any row, in one row or two, under the words senders use; levels are numbers,
dotted item numbers, indentation or a parent column; a quantity may carry its unit; one column may hold two fields. Words for
columns and marks are common practice, in English, German, French and Spanish.
"""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from fractions import Fraction

from .cells import Cell, is_settled, read_number, reads_two_ways, text_of, uses_decimal_comma
from .intake import designators, read_level, read_unit
from .titles import OWN, ColumnMap, ListTable, own_columns

__all__ = ["ListReading", "ListRow", "OF_PART", "SaidOfPart", "Trouble", "read_list", "read_quantity"]

_YES = {"yes", "y", "true", "1", "x", "ja", "j", "oui", "o", "sí", "si", "s", "✓", "✔", "dnp", "dnf", "dni", "cs", "fi"}
_NO = {"no", "n", "false", "0", "nein", "non", "-", "–", ""}
_NOT_FITTED = re.compile(
    r"\b(dnp|dnf|dni|dnm|not[ -]fitted|not[ -]populated|do[ -]not[ -](?:populate|fit|place|mount|install)|no[ -]fit|nicht[ -]best(?:ü|ue)ckt|non[ -]mont[ée]s?|no[ -]montar)\b",
    re.IGNORECASE,
)
_CUSTOMER = re.compile(
    r"\b(customer[ -](?:supplied|furnished)|supplied by (?:the )?customer|free[ -]issue|consigned|beigestellt|beistellung|fourni par le client|suministrado por (?:el )?cliente)\b",
    re.IGNORECASE,
)


_TEXTS = ("part", "description", "maker", "maker_number", "item", "note", "parent")


@dataclass(frozen=True, slots=True)
class Trouble:
    """What is wrong, or worth a look, at a row as a spreadsheet counts it; row 0 is the list as a whole.

    ``field`` is what could not be read, empty where it is about several; ``designators`` of what was read and does not add up.
    """

    row: int
    message: str
    field: str = ""


@dataclass(slots=True, kw_only=True)
class SaidOfPart:
    """What columns of their own say of a part; empty where there is none."""

    material: str = ""
    supplier: str = ""
    supplier_number: str = ""
    link: str = ""
    case: str = ""
    lifecycle: str = ""
    value: str = ""


#: Their names.
OF_PART = tuple(SaidOfPart.__dataclass_fields__)


@dataclass(slots=True)
class ListRow(SaidOfPart):
    """What one row says; what it does not say is empty or None. ``level`` and ``parent`` are as the list places it."""

    row: int
    level: int | None = None
    parent: str = ""
    item: str = ""
    part: str = ""
    description: str = ""
    quantity: Decimal | None = None
    unit: str = ""
    maker: str = ""
    maker_number: str = ""
    designators: list[str] = field(default_factory=list)
    customer_supplied: bool | None = None
    not_fitted: bool | None = None
    unit_cost: Decimal | None = None
    scrap_percent: Decimal | None = None
    note: str = ""
    # What it says in fields that a workspace has of its own, by their names; a number without its unit, with a decimal point.
    own_fields: dict[str, str] = field(default_factory=dict)


@dataclass(slots=True)
class ListReading:
    """The rows of a table, which fields it has, and what is wrong; and how it was read: by which columns and decimal signs."""

    rows: list[ListRow]
    fields: set[str]
    problems: list[Trouble]
    map: ColumnMap


def _fraction(text: str) -> Decimal | None:
    found = re.fullmatch(r"(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)", text)
    if not found or int(found[3]) == 0:
        return None
    value = Fraction(int(found[1] or 0)) + Fraction(int(found[2]), int(found[3]))
    return round(Decimal(value.numerator) / Decimal(value.denominator), 9).normalize()


_QUANTITY = re.compile(
    r"(?:[x×]\s*)?(?P<number>[+-]?[\d.,'’\u00a0\u2009\u202f ]*\d(?:\s*/\s*\d+)?)\s*[x×]?\s*(?P<unit>[A-Za-zµ²³.]+\d?)?\.?", re.IGNORECASE
)


def read_quantity(cell: Cell, comma: bool) -> tuple[Decimal, str]:
    """A quantity and the unit that stands behind it, empty where none does. Raises ValueError.

    >>> read_quantity("2 pcs", False), read_quantity("1,5 m", True), read_quantity("1/2", False), read_quantity("6x", False)
    ((Decimal('2'), 'ea'), (Decimal('1.5'), 'm'), (Decimal('0.5'), ''), (Decimal('6'), ''))
    >>> read_quantity("2 bushels", False)
    Traceback (most recent call last):
    ValueError: unit “bushels” is not known
    """
    if not isinstance(cell, str):
        return read_number(cell, comma), ""
    found = _QUANTITY.fullmatch(cell.strip())
    if not found:
        raise ValueError(f"“{cell.strip()[:40]}” is not a quantity")
    number = found["number"].strip()
    value = _fraction(number)
    if value is None:
        value = read_number(number, comma)
    unit = ""
    if found["unit"]:
        known = read_unit(found["unit"])
        if known is None:
            raise ValueError(f"unit “{found['unit'][:20]}” is not known")
        unit = known
    return value, unit


def _number_of(cell: Cell) -> Cell:
    """What decides on the decimal sign: the number of a quantity without its unit."""
    if isinstance(cell, str) and (found := _QUANTITY.fullmatch(cell.strip())) and "/" not in found["number"]:
        return found["number"].strip()
    return "" if isinstance(cell, str) else cell


def _flag(text: str) -> bool | None:
    word = text.strip().casefold()
    return True if word in _YES else False if word in _NO else bool(word) or None


def read_list(rows: Sequence[Sequence[Cell]], given: ColumnMap | None = None, own: Mapping[str, bool] | None = None) -> ListReading:
    """What a table says, row by row; by a column map where one is given.

    ``own``: fields that a workspace has of its own, each with whether it holds numbers.

    The decimal sign of text is found for each column from what can be true; a cell that the file calls a number is that number.
    """
    own = own or {}
    table = ListTable(rows, given)
    if given is None and table.columns:
        table.take(own_columns(table.titles, (column for column, _ in table.columns.values()), own))
    problems: list[Trouble] = []
    body = list(table.body()) if table.columns else []
    fields = set(table.columns)
    commas: dict[str, bool] = {}
    for name in ("quantity", "unit_cost", "scrap_percent", *(OWN + n for n, number in own.items() if number)):
        if name.startswith(OWN) and name not in table.columns:
            continue
        if given is not None and name in given.commas:
            commas[name] = given.commas[name]
            continue
        texts = [_number_of(table.cell(row, name)) for _, row in body]
        texts = [t for t in texts if t != ""]
        commas[name] = uses_decimal_comma(texts)
        doubtful = [t for t in texts if isinstance(t, str) and reads_two_ways(t)]
        if doubtful and not is_settled(texts):
            sign = "comma" if commas[name] else "point"
            problems.append(
                Trouble(
                    0,
                    f"{name.removeprefix(OWN).replace('_', ' ')}: nothing settles the decimal sign; “{doubtful[0]}” is read with a decimal {sign}",
                )
            )
    found = [_read_row(table, number, row, commas, problems) for number, row in body]
    _place(table, found, {n: r for n, r in body}, fields, problems)
    _check_places(found, problems)
    if any(r.unit for r in found):
        fields.add("unit")
    if any(r.description for r in found):
        fields.add("description")
    used = {name: commas[name] for name in commas if name in table.columns}
    return ListReading(found, fields, problems, ColumnMap(table.header, table.columns, used, tuple(table.titles)))


def _read_row(table: ListTable, number: int, row: Sequence[Cell], commas: dict[str, bool], problems: list[Trouble]) -> ListRow:
    read = ListRow(number)
    for name in (*_TEXTS, *OF_PART):
        if name in table.columns:
            setattr(read, name, table.text(row, name)[:500])
    for name in (n for n in table.columns if n.startswith(OWN)):
        _read_own(table, read, row, name, commas, problems)
    if read.value and not read.description:
        # Where a list says no more of a part than its value, that is what it is called.
        read.description, read.value = read.value, ""
    words = table.text(row, "unit")
    if words:
        read.unit = read_unit(words) or ""
        if not read.unit:
            problems.append(Trouble(number, f"unit “{words[:20]}” is not known", "unit"))
    places = table.text(row, "reference_designators")
    marked = " ".join((read.description, read.note, read.maker, table.text(row, "quantity"), places))
    if "not_fitted" in table.columns:
        read.not_fitted = bool(_flag(table.text(row, "not_fitted")))
    elif "fitted" in table.columns:
        read.not_fitted = _flag(table.text(row, "fitted")) is not True and table.text(row, "fitted") != ""
    if _NOT_FITTED.search(marked):
        read.not_fitted = True
        places = _NOT_FITTED.sub("", places)
    if "customer_supplied" in table.columns:
        read.customer_supplied = bool(_flag(table.text(row, "customer_supplied")))
    if _CUSTOMER.search(marked):
        read.customer_supplied = True
    read.designators = designators(places) if places else []
    _read_numbers(table, read, row, commas, problems)
    if read.quantity is None and "quantity" not in table.columns and read.designators:
        read.quantity = Decimal(len(read.designators))
    return read


def _read_own(table: ListTable, read: ListRow, row: Sequence[Cell], name: str, commas: dict[str, bool], problems: list[Trouble]) -> None:
    text = table.text(row, name)[:500]
    if text and name in commas:
        cell = table.cell(row, name)
        try:
            text = f"{read_number(_bare(cell), commas[name]).normalize() + 0:f}"
        except ValueError as error:
            problems.append(Trouble(read.row, f"{name.removeprefix(OWN).replace('_', ' ')}: {error}", "own_fields"))
            return
    if text:
        read.own_fields[name.removeprefix(OWN)] = text


def _bare(cell: Cell) -> Cell:
    """A number without the currency, unit or sign that stands around it."""
    return re.sub(r"^[^\d+-]+|[^\d]+$", "", cell) if isinstance(cell, str) else cell


def _read_numbers(table: ListTable, read: ListRow, row: Sequence[Cell], commas: dict[str, bool], problems: list[Trouble]) -> None:
    cell = table.cell(row, "quantity")
    text = text_of(cell).strip()
    if text and not (isinstance(cell, str) and (_NOT_FITTED.fullmatch(text) or _CUSTOMER.fullmatch(text))):
        if isinstance(cell, str):
            cell = _CUSTOMER.sub("", _NOT_FITTED.sub("", cell)).strip()
        try:
            read.quantity, unit = read_quantity(cell, commas["quantity"])
            if read.quantity < 0:
                problems.append(Trouble(read.row, f"quantity {text} is below nothing", "quantity"))
            read.unit = read.unit or unit
        except ValueError as error:
            problems.append(Trouble(read.row, f"quantity: {error}", "quantity"))
    elif not text and "quantity" in table.columns and not read.designators and not read.not_fitted:
        problems.append(Trouble(read.row, "the quantity is missing", "quantity"))
    for name, words in (("unit_cost", "unit cost"), ("scrap_percent", "scrap")):
        cell = table.cell(row, name)
        if text_of(cell).strip():
            try:
                setattr(read, name, read_number(_bare(cell), commas[name]))
            except ValueError as error:
                problems.append(Trouble(read.row, f"{words}: {error}", name))


# -- placing the rows


def _place(table: ListTable, found: list[ListRow], raw: dict[int, Sequence[Cell]], fields: set[str], problems: list[Trouble]) -> None:
    """Level of each row, from whatever places it; none in a flat list."""
    if "level" in table.columns:
        for read in found:
            text = table.text(raw[read.row], "level")
            try:
                read.level = read_level(text)
            except ValueError as error:
                problems.append(Trouble(read.row, str(error) if text else "the level is missing", "level"))
    elif "parent" in table.columns:
        _place_by_parent(found, problems)
    elif dotted := _dotted(found):
        for read in found:
            read.level = dotted.get(read.row)
    elif indents := _indents(table, found, raw):
        for read in found:
            read.level = indents[read.row]
    else:
        return
    fields.add("level")
    previous: int | None = None
    for read in found:
        if read.level is None or "parent" in table.columns:
            continue
        if previous is not None and read.level > previous + 1:
            problems.append(Trouble(read.row, f"level {read.level} follows level {previous}: a level is missing between them", "level"))
        previous = read.level


def _place_by_parent(found: list[ListRow], problems: list[Trouble]) -> None:
    parents: dict[str, set[str]] = {}
    for read in found:
        parents.setdefault(read.part, set()).add(read.parent)
    known: dict[str, int] = {}

    def depth(part: str, seen: tuple[str, ...]) -> int:
        if part in seen or part not in parents:
            return 0
        if part not in known:
            above = {p for p in parents[part] if p}
            known[part] = 1 + max(depth(p, (*seen, part)) for p in above) if above else 0
        return known[part]

    for read in found:
        read.level = depth(read.parent, (read.part,)) + 1 if read.parent else 0
        if read.parent and read.parent == read.part:
            problems.append(Trouble(read.row, f"{read.part} would contain itself"))


def _dotted(found: list[ListRow]) -> dict[int, int]:
    """Row → level, where item numbers are dotted and each stands below its beginning: 1, 1.1, 1.1.2."""
    items = {r.item.rstrip(".") for r in found if re.fullmatch(r"\d+(\.\d+)*\.?", r.item)}
    below = [i for i in items if "." in i]
    if not below or len(items) < len(found) / 2:
        return {}
    standing = sum(i.rsplit(".", 1)[0] in items for i in below)
    if standing < len(below) / 2:
        return {}
    return {r.row: r.item.rstrip(".").count(".") + 1 for r in found if r.item.rstrip(".") in items}


_INDENTS = set(" \t.-–>·\u00a0\u2003")


def _indents(table: ListTable, found: list[ListRow], raw: dict[int, Sequence[Cell]]) -> dict[int, int]:
    """Row → level, where numbers or descriptions are moved to the right by blanks, dots or dashes."""
    for name in ("part", "description"):
        texts = {r.row: text_of(table.cell(raw[r.row], name)) for r in found}
        if not any(text[:1] in _INDENTS for text in texts.values() if text):
            continue
        leads = {row: len(re.match(r"[\s.\-–>·]*", text.replace("\t", "    "))[0]) for row, text in texts.items()}  # type: ignore[index]
        if len(set(leads.values())) > 1 and min(leads.values()) == 0:
            steps = {lead: level for level, lead in enumerate(sorted(set(leads.values())))}
            for read in found:
                setattr(read, name, re.sub(r"^[\s.\-–>·]+", "", getattr(read, name)))
            return {row: steps[lead] for row, lead in leads.items()}
    return {}


def _check_places(found: list[ListRow], problems: list[Trouble]) -> None:
    """Designators against quantities, and against one another (common practice)."""
    first: dict[str, int] = {}
    for read in found:
        twice = sorted(p for p, times in Counter(read.designators).items() if times > 1)
        if twice:
            problems.append(Trouble(read.row, f"{', '.join(twice[:5])} named twice", "designators"))
        counted = read.quantity is not None and read.unit in ("", "ea") and not (read.not_fitted and read.quantity == 0)
        if read.designators and counted and read.quantity != len(read.designators):
            problems.append(Trouble(read.row, f"quantity {read.quantity:f}, but {len(read.designators)} designators", "designators"))
        for place in dict.fromkeys(read.designators):
            at = first.setdefault(place, read.row)
            if at != read.row:
                problems.append(Trouble(read.row, f"{place} stands at row {at} too", "designators"))
