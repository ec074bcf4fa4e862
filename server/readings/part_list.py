"""The part list as rows: written for a spreadsheet, and read back from one."""

import csv
import io
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from definition.models.parts import Part, PartClass
from definition.records import class_record, part_record
from formats.flat import Column
from formats.safe_text import as_typed
from tally_core.basics.errors import TallyError
from tally_core.lists.cells import Cell, read_number, text_of, uses_decimal_comma

from readings.own_values import NUMERIC, OwnValues
from readings.part_plan import MOST, plan_parts
from readings.renumbering import free_numbers

__all__ = ["FIELD_TITLES", "fields_of_classes", "money_fields", "part_rows", "preview", "read_rows", "split_pasted"]

#: The fields of a part in the order of the list, with their titles.
FIELD_TITLES = {
    "number": "Part number",
    "description": "Description",
    "second_description": "Second description",
    "part_class": "Class",
    "kind": "Kind",
    "unit": "Unit",
    "unit_cost": "Unit cost",
    "given_cost": "Cost given by hand",
    "given_as": "Its elements",
    "markup_percent": "Markup by hand, %",
    "given_reason": "Why given by hand",
    "selling_price": "Selling price",
    "overhead_percent": "Material overhead, %",
    "costing_lot": "Costing lot",
    "lead_time_days": "Lead time, days",
    "lifecycle": "Lifecycle",
    "material": "Material",
    "mass_kg": "Mass, kg",
    "size_mm": "Overall size, mm",
    "buying_unit": "Buying unit",
    "stock_per_buying_unit": "Stock units per buying unit",
    "reorder_level": "Reorder level",
    "order_minimum": "Order minimum",
    "order_multiple": "Order multiple",
    "kept_in": "Kept in",
    "sold": "Sold",
    "unmodelled": "Unmodelled",
    "supplier": "Supplier",
    "supplier_number": "Supplier's number",
    "supplier_link": "Where it is bought",
}
_MONEY = ("unit_cost", "given_cost", "given_as", "markup_percent", "given_reason", "selling_price", "overhead_percent")
#: Kinds of own fields that are money, or are computed from what may be.
_MONEY_KINDS = ("money", "computed")
_NUMBERS = (
    "unit_cost",
    "given_cost",
    "markup_percent",
    "selling_price",
    "overhead_percent",
    "costing_lot",
    "lead_time_days",
    "mass_kg",
    "stock_per_buying_unit",
    "reorder_level",
    "order_minimum",
    "order_multiple",
)


def part_rows(parts: list[Part], part_class: str, costs: bool = True) -> tuple[list[Column], list[list[Any]]]:
    """Columns and rows of some parts; with a class its own and computed fields stand behind the others. Without ``costs`` none of money."""
    row = PartClass.objects.filter(name=part_class).first()
    own_fields = class_record(row).fields if row is not None else []
    if not costs:
        own_fields = [f for f in own_fields if f.kind not in _MONEY_KINDS]
    titles = {n: title for n, title in FIELD_TITLES.items() if costs or n not in _MONEY}
    values = OwnValues()
    columns = [Column(title, name in _NUMBERS) for name, title in titles.items()]
    columns += [Column(f.name, f.kind in NUMERIC) for f in own_fields]
    return columns, [
        [*map(_cell, (getattr(record, n) for n in titles)), *(_said(values.of(p, f.name)) for f in own_fields)]
        for p, record in ((p, part_record(p)) for p in parts)
    ]


def _said(value: str | float) -> str | float | None:
    return None if value == "" else value


def _cell(value: Any) -> Any:
    if isinstance(value, bool):
        return "yes" if value else ""
    return float(value) if isinstance(value, Decimal | int) else value


def fields_of_classes() -> list[tuple[str, str]]:
    """The fields that classes have of their own, each name once with the classes that have it, in words."""
    found: dict[str, list[str]] = {}
    for row in PartClass.objects.all():
        for own in row.fields:
            found.setdefault(own["name"], []).append(row.name)
    return [(name, ", ".join(classes)) for name, classes in sorted(found.items())]


def money_fields() -> set[str]:
    """Names of the fields of classes that are money, or are computed, from whatever that may be. One query."""
    return {own["name"] for row in PartClass.objects.only("fields") for own in row.fields if own["kind"] in _MONEY_KINDS}


def split_pasted(text: str) -> list[list[str]]:
    """Rows as a spreadsheet copies them. Raises TallyError when there are none."""
    if "\x00" in text or len(text) > 20_000_000:
        raise TallyError("What was pasted is not text, or too much of it.")
    limit = csv.field_size_limit(1_000_000)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter="\t"))
    except csv.Error:
        raise TallyError("What was pasted cannot be read as rows.") from None
    finally:
        csv.field_size_limit(limit)
    return rows


def read_rows(rows: Sequence[Sequence[Cell]]) -> tuple[list[str], list[dict[str, Any]]]:
    """Rows under a header of titles, as what to save: the titles that were understood, and a row per part, whose
    ``unread`` says what could not be read of it.

    A column is known by a title of :data:`FIELD_TITLES`, by a field's own name, or by the name of a field of some class.
    Rows that name a class and no number take the next numbers of their class.
    Raises TallyError when there is no header with part numbers, when a class has no numbering, or for too many rows.
    """
    by_title = {_plain(t): n for n, t in FIELD_TITLES.items()} | {_plain(n): n for n in FIELD_TITLES} | {"part": "number"}
    of_classes = {_plain(f["name"]): f["name"] for c in PartClass.objects.all() for f in c.fields if f["kind"] != "computed"}

    def titles(row: Sequence[Cell]) -> list[tuple[int, str]]:
        return [(x, by_title[_plain(cell)]) for x, cell in enumerate(map(text_of, row)) if _plain(cell) in by_title]

    start = next((at for at, row in enumerate(rows[:40]) if {"number", "part_class"} & {name for _, name in titles(row)}), None)
    if start is None:
        raise TallyError("No row is a header with part numbers. Name the columns in the first row: Part number, Description, Unit cost …")
    known = titles(rows[start])
    header = [text_of(c) for c in rows[start]]
    own = [(x, of_classes[_plain(c)]) for x, c in enumerate(header) if _plain(c) in of_classes and _plain(c) not in by_title]
    # A title that stands twice is read where it stands first.
    columns = {x: name for name, x in reversed({name: x for x, name in reversed(known)}.items())}
    body = [row for row in rows[start + 1 :] if any(text_of(cell).strip() for cell in row)]
    if len(body) > MOST:
        raise TallyError(f"A list of parts has at most {MOST:,} rows; this one has {len(body):,}.")
    comma = {x: uses_decimal_comma(row[x] for row in body if x < len(row)) for x, n in columns.items() if n in _NUMBERS}

    def cell(row: Sequence[Cell], x: int) -> str:
        return as_typed(text_of(row[x]).strip()) if x < len(row) else ""

    read: list[dict[str, Any]] = []
    unnumbered: dict[str, list[dict[str, Any]]] = {}
    for row in body:
        fields: dict[str, Any] = {}
        unread: list[str] = []
        for x, name in columns.items():
            text = cell(row, x)
            if name in _NUMBERS and text:
                try:
                    fields[name] = f"{read_number(row[x], comma[x]).normalize():f}"
                except ValueError as error:
                    unread.append(f"{FIELD_TITLES[name]}: {error}")
            else:
                fields[name] = _value(name, text)
        values = {name: cell(row, x) for x, name in own if cell(row, x)}
        if values:
            fields["own_values"] = values
        number = fields.pop("number", "")
        if number.lower() == "total" or not (number or fields.get("part_class")):
            continue
        read.append({"number": number, "fields": fields, "version": None, "unread": unread})
        if not number:
            unnumbered.setdefault(fields["part_class"], []).append(read[-1])
    for name, waiting in unnumbered.items():
        for waits, number in zip(waiting, free_numbers(name, len(waiting)), strict=True):
            waits["number"] = number
    if not read:
        raise TallyError("No row beneath the header holds a part number or a class that gives one.")
    return [FIELD_TITLES[n] for n in columns.values()] + [name for _, name in own], read


def _plain(text: str) -> str:
    return " ".join(text.replace("_", " ").casefold().split())


def _value(name: str, text: str) -> Any:
    if name in ("sold", "unmodelled"):
        return text.casefold() in ("yes", "y", "true", "1", "x")
    if name in ("kind", "lifecycle"):
        return text.casefold().replace(" ", "_")
    return text


def preview(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What saving rows would do, part by part. Saves nothing."""
    return [
        {
            "number": plan.row.number if plan.row else plan.record.number,
            "known": plan.row is not None,
            "version": plan.row.version if plan.row else None,
            "changes": [
                {"field": FIELD_TITLES.get(name, name.replace("_", " ")), "before": _words(before), "after": _words(after)}
                for name, before, after in plan.changes()
            ],
            "problems": [
                *row.get("unread", ()),
                *(f"{p.place.replace('_', ' ')}: {p.message}" if p.place else p.message for p in plan.problems),
            ],
            "fields": row["fields"],
        }
        for row, plan in zip(rows, plan_parts(rows), strict=True)
    ]


def _words(value: Any) -> str:
    if value is None or value == "":
        return ""
    return f"{value.normalize():f}" if isinstance(value, Decimal) else str(value)
