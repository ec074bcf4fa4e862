"""What exchanging one part for another would do: to which sheets, to which lines, to which costs."""

from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import Line
from django.db.models import Q
from loading.loaded import Loaded
from loading.reads import load_products
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.basics.kinds import LINE_KIND, TAKES_SHEET
from tally_core.basics.units import dimension
from tally_core.cost.answers import Basis
from tally_core.cost.cost import roll_up, standard_lots
from tally_core.stated.reading import RecordReader
from tally_core.structure.structure import build_structure

from readings.survey import below, revision_words

__all__ = ["read_ratio", "refuse_exchange", "replacement", "times"]


def read_ratio(goes: str, comes: str) -> Fraction:
    """How many of the part that comes stand for one of the part that goes: ``2 : 3`` is three for two.

    Raises ProblemsError for what is no number above 0.
    """
    reader = RecordReader()
    numbers = [reader.decimal(text.strip() or "1", place) for text, place in ((goes, "goes"), (comes, "comes"))]
    problems = list(reader.problems)
    for number, place in zip(numbers, ("goes", "comes"), strict=True):
        if number is not None and not 0 < number < 10**6:
            problems.append(Problem(place, "so many for so many: numbers above 0"))
    if problems:
        raise ProblemsError(problems)
    return Fraction(numbers[1] or 1) / Fraction(numbers[0] or 1)


def times(value: Decimal | None, ratio: Fraction) -> Decimal | None:
    """A quantity by a ratio, to the nine decimals that are kept."""
    if value is None:
        return None
    exact = Fraction(value) * ratio
    return round(Decimal(exact.numerator) / Decimal(exact.denominator), 9)


def refuse_exchange(old: Part, new: Part) -> None:
    """Raise ProblemsError when ``new`` can stand nowhere for ``old``: itself, another dimension, obsolete."""
    problems = []
    if old.pk == new.pk:
        problems.append(Problem("new", "a part cannot be exchanged for itself"))
    if dimension(old.unit) != dimension(new.unit):
        problems.append(
            Problem(
                "new", f"{new.number} is stocked in {new.unit}, {dimension(new.unit)}; {old.number} in {old.unit}, {dimension(old.unit)}"
            )
        )
    if new.lifecycle == "obsolete":
        problems.append(Problem("new", f"{new.number} is obsolete"))
    if problems:
        raise ProblemsError(problems)


def replacement(old: Part, new: Part, day: date, ratio: Fraction = Fraction(1)) -> dict[str, Any]:
    """Every sheet that takes ``old`` and is a draft or in force on the day or later, with the effect on its unit cost.

    With a ratio, so many of the new stand for one of the old. A cost is that at standard lots with no option; None where the basis has no answer. Options count in no cost here.
    Raises ProblemsError as in :func:`refuse_exchange`.
    """
    refuse_exchange(old, new)
    lines = list(
        Line.objects.filter(part=old, kind__in=[k for k, kind in LINE_KIND.items() if kind.names_part])
        .filter(Q(sheet__status="draft") | Q(sheet__status="released"))
        .exclude(sheet__status="released", sheet__effective_to__lte=day)
        .select_related("sheet__part")
        .order_by("sheet__part__number", "sheet__alternate", "sheet__id", "position")
    )
    sheets: dict[int, list[Line]] = {}
    for line in lines:
        sheets.setdefault(line.sheet_id, []).append(line)
    users = list({line.sheet.part_id: line.sheet.part for line in lines}.values())
    costs = {drafts: _effects(users, old, new, day, drafts, float(ratio)) for drafts in (False, True)} if users else {}
    contains = set(below(new.id))
    rows = []
    for found in sheets.values():
        sheet = found[0].sheet
        before, after, in_force = costs[sheet.status == "draft"].get(sheet.part_id, (None, None, None))
        counted = in_force == sheet.id
        rows.append(
            {
                "sheet": sheet.id,
                "version": sheet.version,
                "part": sheet.part.number,
                "description": sheet.part.description,
                "revision": revision_words(sheet.alternate, sheet.revision),
                "status": sheet.status,
                "items": [line.item for line in found if line.item is not None],
                "lines": len(found),
                "before": before if counted else None,
                "after": after if counted else None,
                "stops": f"{new.number} contains {sheet.part.number}" if sheet.part_id in contains else "",
            }
        )
    return {"rows": rows}


def _effects(
    users: list[Part], old: Part, new: Part, day: date, drafts: bool, ratio: float
) -> dict[int, tuple[float | None, float | None, int | None]]:
    """Part id → unit cost before and after at standard lots, and the sheet that both hold for. Two roll-ups for all."""
    loaded = load_products([*users, old, new], Basis(day, None, (), drafts))
    a, b = loaded.row(old.id), loaded.row(new.id)
    before = _unit_costs(loaded, day)
    exchanged = loaded.lines.child == a
    loaded.lines.quantity = np.where(exchanged, loaded.lines.quantity * ratio, loaded.lines.quantity)
    loaded.lines.fixed_loss = np.where(exchanged, loaded.lines.fixed_loss * ratio, loaded.lines.fixed_loss)
    loaded.lines.child = np.where(exchanged, b, loaded.lines.child).astype(np.int32)
    after = _unit_costs(loaded, day)
    lacking = TAKES_SHEET[loaded.parts.kind] & np.isnan(loaded.parts.batch)
    found: dict[int, tuple[float | None, float | None, int | None]] = {}
    for user in users:
        row = loaded.row(user.id)
        known = before is not None and after is not None and not lacking[row]
        found[user.id] = (
            float(before[row]) if known and before is not None else None,
            float(after[row]) if known and after is not None else None,
            loaded.sheet_of.get(user.id),
        )
    return found


def _unit_costs(loaded: Loaded, day: date) -> np.ndarray | None:
    try:
        s = build_structure(loaded.parts, loaded.lines, loaded.operations, day)
    except TallyError:
        return None
    return roll_up(s, standard_lots(s)).unit.sum(axis=1)
