"""The rows of a list, as they stand by its arrangement, each with what the columns are filled from."""

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from definition.models.sheets import BuildSheet, Line
from readings.cost_list import CostList, listed, loss_words
from readings.sheet_view import line_vectors
from tally_core.basics.kinds import GIVES_BACK, IS_ITSELF, LINE_KINDS, NAMES_PART, PART_KINDS
from tally_core.basics.units import SYMBOLS
from tally_core.cost.answers import Basis
from tally_core.structure.needs import average_needs

__all__ = ["ListRow", "gathered"]

#: Which list a line can be kept off stands for which arrangement.
_KEPT_OFF = {"indented": "lines", "one level": "lines", "operations": "lines", "summed": "parts", "top": "top"}
_DEPTH = {"indented": None, "one level": 1, "operations": 1, "summed": 0, "top": 1, "products": 0}


@dataclass(slots=True)
class ListRow:
    """One row. ``part`` is a row of the tables, -1 for what names none; ``kind`` a kind of part or line, or ``operation``.

    ``cost`` is what stands in one of the product; ``needed`` what the whole takes, in the stock unit.
    """

    level: int
    kind: str
    part: int = -1
    line: bytes = b""
    item: int | None = None
    text: str = ""
    # Why it takes nothing; empty for what counts.
    silent: str = ""
    quantity: float | None = None
    unit: str = ""
    loss: str = ""
    needed: float | None = None
    cost: float | None = None
    beneath: list["ListRow"] = field(default_factory=list)


def gathered(sheet: BuildSheet, basis: Basis, arrangement: str) -> tuple[CostList, list[ListRow]]:
    """What a sheet holds under a basis, and the rows that stand side by side at the top, each with those beneath it."""
    listing = listed(sheet, basis, _DEPTH[arrangement])
    s, top = listing.question.structure, listing.question.top
    whole = float(basis.quantity or 1)
    product = ListRow(
        0,
        PART_KINDS[s.parts.kind[top]],
        top,
        quantity=1.0,
        unit=SYMBOLS[s.parts.unit[top]],
        needed=whole,
        cost=float(listing.costs.unit[top].sum()),
    )
    if arrangement == "products":
        return listing, [product]
    off = _kept_off(listing, _KEPT_OFF[arrangement])
    if arrangement in ("summed", "top"):
        return listing, _once(listing, off, arrangement == "top", whole)
    _lines(listing, off, product, whole)
    if arrangement == "indented":
        return listing, [product]
    return listing, _under_operations(listing, product.beneath) if arrangement == "operations" else product.beneath


def _kept_off(listing: CostList, name: str) -> set[bytes]:
    rows = Line.objects.filter(sheet_id__in=listing.loaded.sheet_of.values(), kept_off__contains=[name])
    return {key.bytes for key in rows.values_list("id", flat=True)}


def _lines(listing: CostList, off: set[bytes], product: ListRow, whole: float) -> None:
    """Hang every line beneath the row of what takes it."""
    s, lines, costs = listing.question.structure, listing.loaded.lines, listing.costs
    ids = listing.loaded.line_ids.tolist()
    net, gross, vectors = line_vectors(s, costs)
    worth = vectors.sum(axis=1)
    usage = {line: at for at, line in enumerate(s.line.tolist())}
    # For each row of the listing: ours, how many of its part stand in one of the product, and how many the whole takes.
    made: list[ListRow | None] = [product]
    inside, taken = [1.0], [whole]
    for row in listing.rows[1:]:
        above = made[row.above]
        inside.append(inside[row.above])
        taken.append(taken[row.above])
        made.append(None)
        if row.line < 0 or above is None or ids[row.line] in off:
            continue
        kind, at = int(lines.kind[row.line]), usage.get(row.line)
        ours = ListRow(row.level, LINE_KINDS[kind], line=ids[row.line], item=int(lines.item[row.line]) or None)
        if not NAMES_PART[kind]:
            ours.text = listing.texts.get(row.line, "")
        else:
            ours.part = row.part
            if not GIVES_BACK[kind]:
                ours.kind = PART_KINDS[s.parts.kind[row.part]]
            stated = float(lines.quantity[row.line] if at is None else s.quantity[at])
            ours.quantity = None if np.isnan(stated) else stated
            ours.unit, ours.loss = SYMBOLS[lines.unit[row.line]], loss_words(listing, row.line)
            if at is None:
                ours.silent = "not fitted" if lines.not_fitted[row.line] else "as needed"
            else:
                ours.cost = float(worth[at]) * inside[row.above]
                ours.needed = float(gross[at]) * taken[row.above]
                inside[-1] *= float(net[at])
                taken[-1] = ours.needed
        made[-1] = ours
        above.beneath.append(ours)


def _under_operations(listing: CostList, rows: Iterable[ListRow]) -> list[ListRow]:
    """The operations of the sheet as rows, each with the lines that are taken there; a line without one is taken at the first."""
    o, top = listing.loaded.operations, listing.question.top
    heads: dict[int, ListRow] = {}
    for at in range(*listing.question.structure.operations_of(top).indices(len(o))):
        name, place = listing.names[at]
        heads[at] = ListRow(1, "operation", item=int(o.sequence[at]), text=" · ".join(filter(None, (name, place))))
    if not heads:
        return list(rows)
    first = min(heads)
    taken_at = dict(zip(listing.loaded.line_ids.tolist(), listing.loaded.lines.operation.tolist(), strict=True))
    for row in rows:
        row.level = 2
        heads.get(taken_at[row.line], heads[first]).beneath.append(row)
    return list(heads.values())


def _once(listing: CostList, off: set[bytes], top_only: bool, whole: float) -> list[ListRow]:
    """Every part once: what is taken of it over all levels, or on the sheet itself; by-products take nothing."""
    s, top, costs, lots = listing.question.structure, listing.question.top, listing.costs, listing.costs.lots
    on_list = np.array([key not in off for key in listing.loaded.line_ids.tolist()], dtype=bool)[s.line]
    on_list &= ~s.byproduct
    if top_only:
        on_list &= s.parent == top
        gross = s.gross(lots)
        need = np.bincount(s.child[on_list], weights=gross[on_list], minlength=len(s.parts)) * whole
    elif listing.needs is not None:
        need = listing.needs.lot
    else:
        need = average_needs(s, top, lots)
    shown = np.zeros(len(s.parts), dtype=bool)
    shown[s.child[on_list]] = True
    shown &= (need > 0) & IS_ITSELF[s.parts.kind]
    shown[top] = False
    unit = costs.unit.sum(axis=1)
    return [
        ListRow(
            1,
            PART_KINDS[s.parts.kind[part]],
            part,
            quantity=float(need[part]) / whole,
            unit=SYMBOLS[s.parts.unit[part]],
            needed=float(need[part]),
            cost=float(unit[part] * need[part]) / whole,
        )
        for part in sorted(np.flatnonzero(shown).tolist(), key=lambda p: s.parts.numbers[p])
    ]
