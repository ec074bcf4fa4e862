"""Can it be built: what several parts take, who gets what, and how many more there could be (rule W7)."""

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.records import plain_decimal
from django.utils.timezone import localdate
from loading.reads import load_products, structure_of
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from tally_core.basics.kinds import IS_ITSELF
from tally_core.cost.answers import Basis
from tally_core.structure.buildable import buildable
from tally_core.structure.net_needs import net_needs

from shop.actions.open_order import typed_quantity
from shop.stock import free_of

__all__ = ["can_build"]

_MOST_PARTS = 40


def can_build(wanted: Sequence[tuple[str, str]]) -> list[dict[str, Any]]:
    """For each of some parts, in their order: what it takes of what is left by those before it, and the most that could be built.

    Free is what is on hand and not spoken for by released orders. A part without a quantity is asked for the most alone and takes nothing from
    those after it. A fixed number of queries. Raises ProblemsError placing each problem, and TallyError.
    """
    if not 0 < len(wanted) <= _MOST_PARTS:
        raise ProblemsError([Problem("", f"name 1 to {_MOST_PARTS} parts")])
    parts = {p.number: p for p in Part.objects.filter(number__in=[number for number, _ in wanted])}
    missing = [number for number, _ in wanted if number not in parts]
    if missing:
        raise MissingError(f"Part {missing[0]} is not known.")
    loaded = load_products(list(parts.values()), Basis(localdate()))
    s = structure_of(loaded, ())
    keys = loaded.part_ids.tolist()
    there = free_of(keys)
    free = np.array([float(max(on_hand - taken, Decimal(0))) for on_hand, taken in (there[key] for key in keys)])
    held = Part.objects.in_bulk(keys)
    said = []
    for number, text in wanted:
        part = parts[number]
        top = loaded.row(part.pk)
        quantity = typed_quantity(text, part) if text else None
        most = buildable(s, top, free)
        wants = np.zeros(len(keys))
        wants[top] = float(quantity or 1)
        net = net_needs(s, wants, free)
        rows = [r for r in np.flatnonzero(net.gross).tolist() if r != top and IS_ITSELF[s.parts.kind[r]]]
        said.append(
            {
                "part": number,
                "description": part.description,
                "unit": part.unit,
                "wanted": plain_decimal(quantity) or "",
                "most": None if np.isinf(most.quantity) else _text(most.quantity),
                "limited_by": [held[keys[r]].number for r in np.flatnonzero(most.short).tolist()],
                "rows": [
                    {
                        "part": held[keys[r]].number,
                        "description": held[keys[r]].description,
                        "unit": held[keys[r]].unit,
                        "kind": held[keys[r]].kind,
                        "needed": _text(net.gross[r]),
                        "on_hand": plain_decimal(there[keys[r]][0]) or "0",
                        "free": _text(free[r]),
                        "short": _text(net.lacks[r]),
                    }
                    for r in sorted(rows, key=lambda r: (-net.lacks[r] / max(net.gross[r], 1e-9), held[keys[r]].number))
                ],
            }
        )
        if quantity is not None:
            free = np.maximum(free - net.taken, 0.0)
    return said


def _text(value: float) -> str:
    return plain_decimal(round(Decimal(repr(float(value) + 0.0)), 6)) or "0"
