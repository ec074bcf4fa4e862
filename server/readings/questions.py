"""Questions to a cost: what moves it, what it would be at another lot, why it differs under another basis."""

from typing import Any
from uuid import UUID

import numpy as np
from definition.models.sheets import BuildSheet
from definition.models.work_centers import WorkCenter
from loading.loaded import Loaded
from loading.reads import load_question
from loading.standards import MILLION
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.basics.facts import facts_of, word_of
from tally_core.basics.rounding import millionths
from tally_core.basics.units import SYMBOLS
from tally_core.cost.answers import Basis, Question, tally
from tally_core.cost.causes import CAUSES, Costing, causes
from tally_core.cost.lot_curve import cheaper_from, cost_at, lots_to_show
from tally_core.cost.sensitivity import sensitivities
from tally_core.stated.definition import Sheet
from tally_core.structure.effectivity import in_force
from tally_core.structure.overlay import INPUTS

__all__ = ["MOST_RANKED", "bridge", "lot_curve", "ranked_inputs"]

MOST_RANKED = 100
#: The rates of a work center but what is paid to people, which stands in two ways.
_RATES = tuple(name for name in INPUTS["work_center"] if not name.endswith("labor_rate"))
#: Where an input does nothing: a yield of all there is, a batch of one.
_IDLE = {"yield_percent": 100.0, "batch": 1.0}


def _facts(table: str, field: str) -> tuple[str, str | None]:
    """The word for an input that is ranked, and its unit where that does not depend on the row."""
    if table == "part" and field == "standard":
        return "standard cost", None
    known = facts_of(Sheet)[field] if table == "sheet" else INPUTS[table][field]
    return word_of(field, known), known.unit


def ranked_inputs(sheet: BuildSheet, basis: Basis, idle: bool = False) -> dict[str, Any]:
    """Rule D2: the inputs of a sheet's cost, those that move it most first. A fixed number of queries.

    Args:
        idle: with inputs that stand where they do nothing (a yield of 100 %, a batch of 1), for what losing 1 % would cost.
    """
    loaded, question = load_question(sheet.part, basis, sheet)
    costs, needs = tally(question)
    swept = sensitivities(question.structure, costs, question.top, needs, question.fixed)
    listed = [found for table in ("part", "sheet", "line", "operation") for found in _of_table(loaded, table, swept.tables[table])]
    listed += _of_centers(loaded, swept.tables["operation"])
    if not idle:
        listed = [f for f in listed if f["field"] not in _IDLE or f["value"] != _IDLE[f["field"]]]
    listed.sort(key=lambda found: -abs(found["moves"]))
    total = float(costs.unit[question.top].sum())
    return {
        "cost": round(total, 6),
        "count": len(listed),
        "items": [found | {"moves": round(found["moves"], 9) + 0.0} for found in listed[:MOST_RANKED]],
    }


def _of_table(loaded: Loaded, table: str, columns: dict[str, np.ndarray]) -> list[dict[str, Any]]:
    found = []
    for field, column in columns.items():
        if table == "operation" and (field in _RATES or field.endswith("labor_rate")):
            continue
        moving = np.flatnonzero(column)
        # More than are shown need not be named.
        for row in moving[np.argsort(-np.abs(column[moving]), kind="stable")][:MOST_RANKED].tolist():
            found.append(_named(loaded, table, field, row) | {"moves": float(column[row])})
    return found


def _named(loaded: Loaded, table: str, field: str, row: int) -> dict[str, Any]:
    """An input in words, with its value, what it is known by, and the figure that opens."""
    numbers, (word, unit) = loaded.parts.numbers, _facts(table, field)
    words = {"table": table, "field": field, "word": word}
    if table in ("part", "sheet"):
        key = str(int(loaded.part_ids[row]))
        money = field in ("unit_cost", "given_cost", "standard")
        stock = SYMBOLS[loaded.parts.unit[row]]
        value = loaded.parts.batch[row] if field == "batch" else None if field == "standard" else getattr(loaded.parts, field)[row]
        return words | {
            "key": key,
            "name": numbers[row],
            "more": "",
            "figure": f"moves:{table}:{key}:{field}",
            "value": None if value is None else float(value),
            "unit": f"{loaded.currency} per {stock}" if money else stock if unit is None else unit,
        }
    if table == "line":
        lines = loaded.lines
        key = str(UUID(bytes=bytes(loaded.line_ids[row])))
        return words | {
            "key": key,
            "name": numbers[lines.child[row]],
            "more": f"in {numbers[lines.parent[row]]}, item {lines.item[row] or '–'}",
            "figure": f"moves:line:{key}:{field}",
            "value": float(getattr(lines, field)[row]),
            "unit": SYMBOLS[lines.unit[row]] if unit is None else unit,
        }
    steps = loaded.operations
    key = str(UUID(bytes=bytes(loaded.operation_ids[row])))
    return words | {
        "key": key,
        "name": numbers[steps.parent[row]],
        "more": steps.named(row),
        "figure": f"moves:operation:{key}:{field}",
        "value": float(getattr(steps, field)[row]),
        "unit": loaded.currency if unit is None else unit,
    }


def _of_centers(loaded: Loaded, columns: dict[str, np.ndarray]) -> list[dict[str, Any]]:
    """The rates of work centers, over all their operations."""
    found = []
    centers, first, row = np.unique(loaded.center_ids, return_index=True, return_inverse=True)
    held = {c.pk: c for c in WorkCenter.objects.filter(pk__in=centers.tolist())}
    sums = {n: np.bincount(row, weights=c, minlength=len(centers)) for n, c in columns.items()} if len(centers) else {}
    for at, key in enumerate(centers.tolist()):
        center = held.get(key)
        if center is None:
            continue
        apart = center.setup_labor_rate is not None
        for field in (*_RATES, *(("labor_rate", "setup_labor_rate") if apart else ("every_labor_rate",))):
            moves = float(sums[field][at])
            own = field.removeprefix("every_")
            word, unit = _facts("work_center", own)
            if moves:
                found.append(
                    {
                        "table": "work_center",
                        "field": own,
                        "word": word,
                        "key": str(key),
                        "name": center.code,
                        "more": center.name,
                        "figure": f"moves:work_center:{key}:{field}",
                        "value": float(getattr(loaded.operations, own)[first[at]]),
                        "unit": f"{loaded.currency} per h" if unit is None else unit,
                        "moves": moves,
                    }
                )
    return found


def lot_curve(sheet: BuildSheet, basis: Basis) -> dict[str, Any]:
    """The unit cost of a part at other lots, for each of its ways of being made that are in force, and where one becomes
    cheaper than another."""
    ways = _ways(sheet, basis)
    asked: list[tuple[BuildSheet, Question]] = []
    for way in ways:
        _, question = load_question(sheet.part, basis, way)
        asked.append((way, question))
    own = asked[0][1]
    costs, _ = tally(own)
    now = float(costs.lots[own.top])
    whole = bool(own.structure.parts.whole_only[own.top])
    size = sum(len(q.structure.line) for _, q in asked) if basis.quantity is not None else 0
    lots = lots_to_show(now, whole, int(np.clip(400_000 // (size + 1), 9, 41)))
    functions = [cost_at(q) for _, q in asked]
    return {
        "now": now,
        "unit": SYMBOLS[own.structure.parts.unit[own.top]],
        "job": basis.quantity is not None,
        "lots": lots.tolist(),
        "curves": [
            {"sheet": way.pk, "name": _way_words(way), "costs": [round(at(lot), 6) for lot in lots.tolist()]}
            for (way, _), at in zip(asked, functions, strict=True)
        ],
        "crossings": [
            {
                "lot": lot,
                "cheaper": _way_words(ways[0] if ahead else ways[i]),
                "than": _way_words(ways[i] if ahead else ways[0]),
                "cost": round(functions[0](lot), 6),
            }
            for i in range(1, len(ways))
            for lot, ahead in cheaper_from(functions[0], functions[i], lots, whole)
        ],
    }


def _ways(sheet: BuildSheet, basis: Basis) -> list[BuildSheet]:
    """The sheet asked about, then the sheet in force of every other alternate of its part."""
    found = {sheet.alternate: sheet}
    statuses = ("released", "draft") if basis.drafts else ("released",)
    for other in BuildSheet.objects.filter(part_id=sheet.part_id, status__in=statuses).select_related("part").order_by("-id"):
        holds = in_force(basis.as_of, other.effective_from, other.effective_to)
        if holds and other.alternate not in found:
            found[other.alternate] = other
    return list(found.values())


def _way_words(sheet: BuildSheet) -> str:
    return f"{sheet.alternate}: {sheet.reference}" if sheet.reference else f"alternate {sheet.alternate}"


def bridge(sheet: BuildSheet, basis: Basis, other: Basis, other_sheet: BuildSheet | None = None) -> dict[str, Any]:
    """Rule D1: why a sheet's unit cost under another basis (or on another sheet of the part) differs from that under one."""
    if other_sheet is not None and other_sheet.part_id != sheet.part_id:
        raise TallyError("The two sheets of a bridge are of one part; these are of two.")
    one = _costing(sheet, basis)
    two = _costing(other_sheet or sheet, other)
    found, _, _ = causes(one[0], two[0])
    row = int(np.flatnonzero(two[0].keys == sheet.part_id)[0])
    units = [costs.unit[question.top] for _, question, costs in (one, two)]
    old, old_total = millionths(units[0][None], units[0].sum(keepdims=True))
    new, new_total = millionths(units[1][None], units[1].sum(keepdims=True))
    moved = (new_total - old_total) / MILLION
    caused, _ = millionths(found[row][None], moved)
    return {
        "before": int(old_total[0]) / MILLION,
        "after": int(new_total[0]) / MILLION,
        "before_elements": dict(zip(ELEMENTS, (old[0] / MILLION).tolist(), strict=True)),
        "after_elements": dict(zip(ELEMENTS, (new[0] / MILLION).tolist(), strict=True)),
        "caused": dict(zip(CAUSES, (caused[0] / MILLION).tolist(), strict=True)),
    }


def _costing(sheet: BuildSheet, basis: Basis) -> tuple[Costing, Question, Any]:
    loaded, question = load_question(sheet.part, basis, sheet)
    costs, _ = tally(question)
    return Costing(question.structure, costs.lots, loaded.part_ids, question.fixed), question, costs
