"""Products across, parts down: what each build takes of every part, and all of them together."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np
from costing.reads import load_products, part_named, question_of
from parts.models import Part
from tally_core.answers import Basis, tally
from tally_core.errors import Problem, ProblemsError, TallyError
from tally_core.needs import average_needs
from tally_core.tables import BOUGHT, KINDS, PHANTOM
from tally_core.units import SYMBOLS

__all__ = ["Build", "matrix"]

MOST_BUILDS = 40


@dataclass(frozen=True, slots=True)
class Build:
    """So many of a part with some options; a quantity of None only asks what one of it takes."""

    part: str
    options: tuple[str, ...]
    quantity: Decimal | None


def matrix(builds: list[Build], day: date, drafts: bool) -> dict[str, Any]:
    """Rows of parts with a cell for each build, in the part's stock unit.

    ``each`` is what one of the product takes on average at standard lots; ``needs`` is what the build takes as a job of
    its own (rules N1 to N3); ``order`` adds up the needs. Raises ProblemsError placing what is wrong at its build.
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
    count = len(loaded.part_ids)
    each, needs = np.zeros((len(builds), count)), np.zeros((len(builds), count))
    cost = np.zeros(count)
    for index, (build, part) in enumerate(zip(builds, parts, strict=True)):
        basis = Basis(day, build.quantity, build.options, drafts)
        try:
            standard = question_of(loaded, part, Basis(day, None, build.options, drafts))
            costs, _ = tally(standard)
            each[index] = average_needs(standard.structure, standard.top, costs.lots)
            if build.quantity is not None:
                _, job = tally(question_of(loaded, part, basis))
                assert job is not None
                needs[index] = job.gross
            cost = np.maximum(cost, costs.unit.sum(axis=1))
        except TallyError as error:
            problems.append(Problem(f"builds[{index}]", f"{build.part}: {error}"))
    if problems:
        raise ProblemsError(problems)
    tops = [loaded.row(p.id) for p in parts]
    shown = np.flatnonzero((each.sum(axis=0) > 0) & (loaded.parts.kind != PHANTOM))
    described = dict(Part.objects.filter(id__in=loaded.part_ids[shown].tolist()).values_list("id", "description"))
    numbers = loaded.parts.numbers
    order = needs.sum(axis=0)
    return {
        "builds": [
            {"part": b.part, "description": p.description, "options": list(b.options),
             "quantity": None if b.quantity is None else f"{b.quantity.normalize():f}"}
            for b, p in zip(builds, parts, strict=True)
        ],
        "rows": [
            {
                "part": numbers[i],
                "description": described[int(loaded.part_ids[i])],
                "kind": KINDS[loaded.parts.kind[i]],
                "unit": SYMBOLS[loaded.parts.unit[i]],
                "unit_cost": round(float(cost[i]), 9) if loaded.parts.kind[i] == BOUGHT or cost[i] else None,
                "each": np.round(each[:, i], 9).tolist(),
                "needs": np.round(needs[:, i], 9).tolist(),
                "order": round(float(order[i]), 9),
            }
            for i in shown.tolist()
            if i not in tops or (each[:, i] != 0).sum() > 1 or each[:, i].max() != 1.0
        ],
        "currency": loaded.currency,
    }  # fmt: skip
