"""What a table would exchange on the sheets of some products: line by line, what has no entry, and what it does to the cost."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from definition.records import plain_decimal
from loading.loaded import Loaded
from loading.reads import load_products, structure_of
from readings.replacing import read_ratio, refuse_exchange, times
from readings.survey import revision_words
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.cost.answers import Basis
from tally_core.cost.cost import roll_up, standard_lots

__all__ = ["Exchange", "exchanges_of", "folded", "preview"]

_MOST_PRODUCTS = 20


@dataclass(frozen=True, slots=True)
class Exchange:
    """A line that an entry of a table names, and what it becomes. ``stops``: why it cannot."""

    line: Line
    new: Part
    quantity: Decimal | None
    fixed_loss: Decimal
    unit: str
    ratio: Fraction
    stops: str


def folded(text: str) -> str:
    """A code or a description as it is compared: letters in either size, blanks as one."""
    return " ".join(text.split()).casefold()


def exchanges_of(rows: Sequence[dict[str, str]], lines: Sequence[Line]) -> list[Exchange]:
    """What a table makes of some lines (with their parts at hand): an entry names a part by its number, else by its description. One query."""
    entries = {folded(row["code"]): row for row in rows}
    parts = {p.number: p for p in Part.objects.filter(number__in={row["part"] for row in rows})}
    found = []
    for line in lines:
        old = line.part
        row = (entries.get(folded(old.number)) or entries.get(folded(old.description))) if old is not None else None
        new = parts.get(row["part"]) if row else None
        if old is None or row is None or (new is not None and new.pk == old.pk):
            continue
        if new is None:
            raise MissingError(f"Part {row['part']} of this table is no longer there.")
        ratio = read_ratio(row["goes"], row["comes"])
        stops = ""
        try:
            refuse_exchange(old, new)
        except ProblemsError as error:
            stops = error.problems[0].message
        # A quantity in the old part's unit stays what it was.
        unit = line.unit or (old.unit if old.unit != new.unit else "")
        found.append(Exchange(line, new, times(line.quantity, ratio), times(line.fixed_loss, ratio) or Decimal(0), unit, ratio, stops))
    return found


def preview(rows: Sequence[dict[str, str]], products: Sequence[str], day: date) -> dict[str, Any]:
    """For every sheet of some products, drafts first: the lines that are exchanged and the unit cost before and after, at costing lots without options;
    and the bought parts on them that no entry names and no entry brings.

    Raises ProblemsError and MissingError. A fixed number of queries.
    """
    if not 0 < len(products) <= _MOST_PRODUCTS:
        raise ProblemsError([Problem("products", f"name 1 to {_MOST_PRODUCTS} products")])
    tops = {p.number: p for p in Part.objects.filter(number__in=products)}
    missing = [number for number in products if number not in tops]
    if missing:
        raise MissingError(f"Part {missing[0]} is not known.")
    basis = Basis(day, None, (), True)
    loaded = load_products([*tops.values(), *Part.objects.filter(number__in={row["part"] for row in rows})], basis)
    sheets = {s.pk: s for s in BuildSheet.objects.filter(pk__in=list(loaded.sheet_of.values())).select_related("part")}
    lines = list(
        Line.objects.filter(sheet__in=list(sheets), part__isnull=False).select_related("part").order_by("sheet__part__number", "position")
    )
    exchanges = exchanges_of(rows, lines)
    before, after = _costs(loaded, []), _costs(loaded, [x for x in exchanges if not x.stops])
    by_sheet: dict[int, list[Exchange]] = {}
    for x in exchanges:
        by_sheet.setdefault(x.line.sheet_id, []).append(x)
    named, brought = {x.line.pk for x in exchanges}, {row["part"] for row in rows}
    none: dict[str, dict[str, Any]] = {}
    for line in lines:
        part = line.part
        if part is not None and part.kind == "bought" and line.pk not in named and part.number not in brought:
            row = none.setdefault(part.number, {"part": part.number, "description": part.description, "lines": 0})
            row["lines"] += 1
    return {
        "sheets": [
            {
                "sheet": key,
                "version": sheets[key].version,
                "part": sheets[key].part.number,
                "description": sheets[key].part.description,
                "revision": revision_words(sheets[key].alternate, sheets[key].revision),
                "status": sheets[key].status,
                "before": _cost_of(loaded, before, sheets[key]),
                "after": _cost_of(loaded, after, sheets[key]),
                "lines": [_line(x) for x in found],
            }
            for key, found in by_sheet.items()
        ],
        "none": sorted(none.values(), key=lambda row: row["part"]),
    }


def _line(x: Exchange) -> dict[str, Any]:
    old = x.line.part
    assert old is not None
    return {
        "item": x.line.item,
        "old": old.number,
        "old_description": old.description,
        "new": x.new.number,
        "new_description": x.new.description,
        "quantity": plain_decimal(x.line.quantity),
        "unit": x.line.unit or old.unit,
        "new_quantity": plain_decimal(x.quantity),
        "new_unit": x.unit or x.new.unit,
        "stops": x.stops,
    }


def _costs(loaded: Loaded, exchanges: Sequence[Exchange]) -> np.ndarray | None:
    """The unit cost of every part, with some lines exchanged; None where it does not add up."""
    at = {bytes(key): i for i, key in enumerate(loaded.line_ids)} if exchanges else {}
    child, quantity, loss = loaded.lines.child.copy(), loaded.lines.quantity.copy(), loaded.lines.fixed_loss.copy()
    kept = loaded.lines.child, loaded.lines.quantity, loaded.lines.fixed_loss
    for x in exchanges:
        row = at.get(x.line.pk.bytes)
        if row is not None:
            child[row] = loaded.row(x.new.pk)
            quantity[row] *= float(x.ratio)
            loss[row] *= float(x.ratio)
    loaded.lines.child, loaded.lines.quantity, loaded.lines.fixed_loss = child, quantity, loss
    try:
        s = structure_of(loaded, ())
        return roll_up(s, standard_lots(s)).unit.sum(axis=1)
    except TallyError:
        return None
    finally:
        loaded.lines.child, loaded.lines.quantity, loaded.lines.fixed_loss = kept


def _cost_of(loaded: Loaded, costs: np.ndarray | None, sheet: BuildSheet) -> float | None:
    return None if costs is None else float(costs[loaded.row(sheet.part_id)])
