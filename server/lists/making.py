"""A list made: the rows by its arrangement, kept out what is kept out, put in order, and its columns filled."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from definition.models.parts import MakerNumber, Part, PartFile
from definition.models.sheets import BuildSheet, Line
from definition.stock_levels import stock_levels
from files.store import PICTURES
from geometry.models import PartShape
from readings.cost_list import CostList, basis_words
from readings.own_values import OwnValues
from readings.sheet_view import options_of
from tally_core.basics.kinds import LINE_KIND, PART_KIND
from tally_core.cost.answers import Basis

from lists.columns import COLUMNS, FLAT_COLUMNS, OWN, PART_COLUMNS, ListColumn
from lists.gathering import ListRow, gathered
from lists.wanted import Wanted

__all__ = ["MadeList", "MadeRow", "make_list"]

_KIND_WORDS = {
    **{kind: words.word for kind, words in LINE_KIND.items()},
    **{kind: words.word for kind, words in PART_KIND.items()},
    "operation": "operation",
}

Value = str | float | int | None


@dataclass(slots=True)
class MadeRow:
    """A row as it is read: how far in it stands, its kind, its part, a cell for each column; ``picture`` is a file of the part."""

    level: int
    kind: str
    number: str
    cells: list[Value]
    picture: int | None = None


@dataclass(slots=True)
class MadeList:
    """A list with all that a file of it needs."""

    sheet: BuildSheet
    wanted: Wanted
    basis: list[tuple[str, Any]]
    columns: list[ListColumn]
    rows: list[MadeRow]
    kept_out: int
    #: Every kind and class that some row is of, for whoever chooses what to keep out.
    kinds: list[str]
    classes: list[str]
    currency: str
    options: list[dict[str, Any]]
    pictures: dict[int, PartFile] = field(default_factory=dict)


def make_list(sheet: BuildSheet, basis: Basis, wanted: Wanted) -> MadeList:
    """The list of a sheet under a basis, as its reader wants it. Queries do not grow with the list.

    Raises TallyError when the basis has no answer, and for a list longer than files carry.
    """
    listing, tops = gathered(sheet, basis, wanted.arrangement)
    parts = Part.objects.in_bulk(listing.loaded.part_ids.tolist())
    part_of = [parts[key] for key in listing.loaded.part_ids.tolist()]
    out = set(wanted.keep_out)
    kinds: set[str] = set()
    classes: set[str] = set()

    def kept(rows: list[ListRow]) -> tuple[list[ListRow], int]:
        found, gone = [], 0
        for row in rows:
            part = part_of[row.part] if row.part >= 0 else None
            kinds.add(row.kind)
            classes.update({part.part_class} - {""} if part else ())
            row.beneath, inner = kept(row.beneath)
            if f"kind:{row.kind}" in out or (part and {f"class:{part.part_class}", f"part:{part.number}"} & out):
                gone += 1 + inner + _count(row.beneath)
                continue
            found.append(row)
            gone += inner
        return found, gone

    tops, gone = kept(tops)
    shown = {key for key, _ in wanted.columns}
    fill = _Filling(listing, part_of, shown)
    made = MadeList(
        sheet,
        wanted,
        basis_words(listing),
        [ListColumn(heading, fill.holds(key)) for key, heading in wanted.columns],
        [],
        gone,
        sorted(kinds),
        sorted(classes),
        listing.question.currency,
        options_of(listing.loaded),
        fill.pictures,
    )
    by = wanted.sort if wanted.sort in shown else ""

    def write(rows: list[ListRow]) -> None:
        if by:
            rows = sorted(rows, key=lambda r: _order(fill.cell(by, r)), reverse=wanted.down)
            # What says nothing there stands last, whichever way.
            rows = sorted(rows, key=lambda r: fill.cell(by, r) in (None, ""))
        for row in rows:
            part = part_of[row.part] if row.part >= 0 else None
            picture = fill.pictures.get(part.pk) if part else None
            made.rows.append(
                MadeRow(
                    row.level,
                    row.kind,
                    part.number if part else "",
                    [fill.cell(key, row) for key, _ in wanted.columns],
                    picture.pk if picture else None,
                )
            )
            write(row.beneath)

    write(tops)
    return made


def _count(rows: Sequence[ListRow]) -> int:
    return sum(1 + _count(row.beneath) for row in rows)


def _order(value: Value) -> Any:
    """Numbers by size; text with the numbers in it by size, however it is spelled.

    >>> sorted(["a10", "a9", "²", "10²"], key=_order)
    ['10²', 'a9', 'a10', '²']
    """
    if isinstance(value, int | float):
        return (0, value, [])
    pieces = re.split(r"(\d+)", str(value or "").casefold())
    return (1, 0, [(int(p), "") if p.isdecimal() and len(p) < 19 else (-1, p) for p in pieces])


class _Filling:
    """What the columns of one list are filled from; only what they show is read."""

    def __init__(self, listing: CostList, part_of: list[Part], shown: set[str]) -> None:
        self._listing, self._parts = listing, part_of
        self._unit_cost = listing.costs.unit.sum(axis=1)
        keys = [p.pk for p in part_of]
        self._own = OwnValues() if any(key.startswith(OWN) for key in shown) else None
        self._revisions = {}
        if "revision" in shown:
            found = dict(BuildSheet.objects.filter(pk__in=listing.loaded.sheet_of.values()).values_list("pk", "revision"))
            self._revisions = {part: found[pk] for part, pk in listing.loaded.sheet_of.items()}
        self._levels = stock_levels(part_of) if "on_hand" in shown else {}
        self._makers: dict[int, tuple[str, str]] = {}
        if {"maker", "maker_number"} & shown:
            rows = MakerNumber.objects.filter(part__in=keys).order_by("rank", "id")
            for key, maker, number in rows.values_list("part", "maker", "number"):
                self._makers.setdefault(key, (str(maker or ""), number))
        self._designators: dict[bytes, list[str]] = {}
        self._operations: dict[bytes, str] = {}
        if {"designators", "operation"} & shown:
            lines = Line.objects.filter(sheet_id__in=listing.loaded.sheet_of.values())
            for line, designators, sequence, name in lines.values_list(
                "id", "reference_designators", "operation__sequence", "operation__name"
            ):
                self._designators[line.bytes] = designators
                self._operations[line.bytes] = f"{sequence} {name}".strip() if sequence is not None else ""
        self._flat: dict[int, dict[str, Any]] = {}
        if shown & set(FLAT_COLUMNS):
            shapes = PartShape.objects.filter(part__in=keys, sheet__has_key="flat")
            self._flat = {part: sheet for part, sheet in shapes.values_list("part", "sheet") if sheet}
        self.pictures: dict[int, PartFile] = {}
        if "picture" in shown:
            files = PartFile.objects.filter(part__in=keys, file__content_type__in=PICTURES).select_related("file")
            for file in files.order_by("added_at", "id"):
                self.pictures.setdefault(file.part_id, file)

    def holds(self, key: str) -> str:
        if key in COLUMNS:
            return COLUMNS[key].holds
        return "number" if self._own and self._own.is_number(key.removeprefix(OWN)) else "text"

    def cell(self, key: str, row: ListRow) -> Value:
        """What a row says in a column."""
        if key in _OF_ROW:
            return _OF_ROW[key](row)
        if row.part < 0:
            return row.text if key == "description" else None
        part = self._parts[row.part]
        if key in PART_COLUMNS:
            # A partner is known by its name, which stands on the part itself.
            value = part.supplier_id if key == "supplier" else getattr(part, key)
            return str(value or "") if COLUMNS[key].holds == "text" else None if value is None else float(value)
        match key:
            case "number" | "description":
                return str(getattr(part, key))
            case "revision":
                return self._revisions.get(part.pk, "")
            case "stock_unit":
                return part.unit
            case "each":
                return float(self._unit_cost[row.part])
            case "operation":
                return self._operations.get(row.line, "")
            case "designators":
                return ", ".join(self._designators.get(row.line, ()))
            case "maker" | "maker_number":
                return self._makers.get(part.pk, ("", ""))[key == "maker_number"]
            case "on_hand":
                return float(self._levels[part.pk].on_hand) if PART_KIND[part.kind].stocked else None
            case "thickness" | "cut_length" | "cutouts":
                return self._flat[part.pk][key] if part.pk in self._flat else None
            case "bends":
                return len(self._flat[part.pk]["bends"]) if part.pk in self._flat else None
            case "flat":
                return " × ".join(f"{x:g}" for x in self._flat[part.pk]["flat"]) if part.pk in self._flat else ""
            case "picture":
                return self.pictures[part.pk].name if part.pk in self.pictures else ""
        return self._own.of(part, key.removeprefix(OWN)) if self._own and key.startswith(OWN) else ""


_OF_ROW: dict[str, Callable[[ListRow], Value]] = {
    "level": lambda row: row.level,
    "item": lambda row: row.item,
    "kind": lambda row: ", ".join(filter(None, (_KIND_WORDS[row.kind], row.silent))),
    "quantity": lambda row: row.quantity,
    "unit": lambda row: row.unit,
    "loss": lambda row: row.loss,
    "needed": lambda row: row.needed,
    "cost": lambda row: row.cost,
}
