"""Products across, parts down: what each build takes of every part, and all of them together."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import Option
from definition.stock_levels import stock_levels
from loading.loaded import Loaded
from loading.reads import load_products, part_named, question_of
from tally_core.basics.errors import Problem, ProblemsError, TallyError
from tally_core.basics.kinds import BOUGHT, IS_ITSELF, PART_KINDS
from tally_core.basics.ordering import reachable
from tally_core.basics.rounding import round_up
from tally_core.basics.units import SYMBOLS
from tally_core.cost.answers import Basis, tally
from tally_core.structure.needs import average_needs, job_needs
from tally_core.structure.to_order import to_order

from readings.sheet_view import options_of

__all__ = ["Build", "matrix"]

MOST_BUILDS = 40
#: Lines of all products together times builds: some seconds of work.
MOST_WORK = 1_000_000


@dataclass(frozen=True, slots=True)
class Build:
    """So many of a part with some options; a quantity of None only asks what one of it takes."""

    part: str
    options: tuple[str, ...]
    quantity: Decimal | None


def matrix(builds: list[Build], day: date, drafts: bool, stock: bool = True) -> dict[str, Any]:
    """Rows of parts with a cell for each build, in the part's stock unit.

    ``each`` is what one of the product takes on average at standard lots; ``needs`` is what the build takes as a job of
    its own (rules N1 to N3); ``total`` adds up the needs and rounds up once what is counted in whole units (N2); ``order`` is
    what is short of it, in the amounts that can be bought (B1, B2). With ``stock``, what is on hand and on order counts.
    Raises ProblemsError placing what is wrong at its build.
    """
    if not 0 < len(builds) <= MOST_BUILDS:
        raise TallyError(f"A matrix holds 1 to {MOST_BUILDS} products.")
    problems: list[Problem] = []
    parts: list[Part] = []
    for index, build in enumerate(builds):
        try:
            parts.append(part_named(build.part))
        except TallyError as error:
            problems.append(Problem(f"builds[{index}].part", str(error)))
    if problems:
        raise ProblemsError(problems)
    loaded = load_products(parts, Basis(day, None, (), drafts))
    if len(loaded.lines) * len(builds) > MOST_WORK:
        raise TallyError(f"These products have {len(loaded.lines):,} lines together; put fewer of them beside one another.")
    count = len(loaded.part_ids)
    each, needs = np.zeros((len(builds), count)), np.zeros((len(builds), count))
    cost = np.zeros(count)
    for index, (build, part) in enumerate(zip(builds, parts, strict=True)):
        try:
            standard = question_of(loaded, part, Basis(day, None, build.options, drafts))
            costs, _ = tally(standard)
            each[index] = average_needs(standard.structure, standard.top, costs.lots)
            if build.quantity is not None:
                needs[index] = job_needs(standard.structure, standard.top, float(build.quantity)).gross
            cost = np.maximum(cost, costs.unit.sum(axis=1))
        except TallyError as error:
            problems.append(Problem(f"builds[{index}]", f"{build.part}: {error}"))
    if problems:
        raise ProblemsError(problems)
    tops = [loaded.row(p.id) for p in parts]
    for index, top in enumerate(tops):
        # A product is no part of itself.
        each[index, top] = needs[index, top] = 0.0
    options = {o["code"]: o for o in options_of(loaded)}
    known = [_options_below(loaded, top) for top in tops]
    shown = np.flatnonzero((each.sum(axis=0) > 0) & (IS_ITSELF[loaded.parts.kind]))
    held = Part.objects.in_bulk(loaded.part_ids[shown].tolist())
    levels = stock_levels(held.values())
    numbers = loaded.parts.numbers
    total = needs.sum(axis=0)
    total = np.where(loaded.parts.whole_only, round_up(total), total)

    def row(i: int) -> dict[str, Any]:
        key = int(loaded.part_ids[i])
        level = levels[key]
        there = level.to_be_had() if stock else Decimal(0)
        wanted = Decimal(repr(round(float(total[i]), 9)))
        return {
            "part": numbers[i],
            "description": held[key].description,
            "kind": PART_KINDS[loaded.parts.kind[i]],
            "unit": SYMBOLS[loaded.parts.unit[i]],
            "unit_cost": round(float(cost[i]), 9) if loaded.parts.kind[i] == BOUGHT or cost[i] else None,
            "each": np.round(each[:, i], 9).tolist(),
            "needs": np.round(needs[:, i], 9).tolist(),
            "total": float(wanted),
            "supplier": held[key].supplier_id or "",
            "supplier_link": held[key].supplier_link,
            "size_mm": held[key].size_mm,
            "lead_time_days": held[key].lead_time_days,
            "on_hand": float(level.on_hand),
            "spoken_for": float(level.spoken_for),
            "on_order": float(level.on_order),
            "order": float(to_order(wanted, there, level.minimum, level.step)),
        }

    return {
        "builds": [
            {
                "part": b.part,
                "description": p.description,
                "options": list(b.options),
                "quantity": None if b.quantity is None else f"{b.quantity.normalize():f}",
                "known": [o for o in options.values() if o["code"] in codes],
            }
            for b, p, codes in zip(builds, parts, known, strict=True)
        ],
        "rows": [row(i) for i in shown.tolist() if int(loaded.part_ids[i]) in held],
        "stock": stock,
        "currency": loaded.currency,
        "as_of": day.isoformat(),
    }


def _options_below(loaded: Loaded, top: int) -> set[str]:
    """The codes of the options that stand on a product's own sheets."""
    lines = loaded.lines
    named = np.flatnonzero(lines.child >= 0)
    seen = reachable(len(loaded.parts), lines.parent[named], lines.child[named], top)
    used = np.unique(lines.option[seen[lines.parent] & (lines.option >= 0)]).tolist()
    return set(Option.objects.filter(id__in=used).values_list("code", flat=True)) if used else set()
