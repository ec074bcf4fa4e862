"""What the page of a part shows beside its fields: where it is used, its sheets with their costs, who changed what. A fixed number
of queries each."""

from dataclasses import replace
from typing import Any

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from definition.records import part_record, plain_decimal
from loading.reads import load_question
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis, Question, tally
from tally_core.stated import definition as core

from readings.part_list import FIELD_TITLES
from readings.sheet_view import counting_sheet, revisions_of
from readings.survey import revision_words

__all__ = ["alternates", "direct_uses", "part_history"]

MOST_USES, MOST_HISTORY, MOST_COSTED = 100, 200, 8


def direct_uses(part: Part) -> dict[str, Any]:
    """The lines that take a part on sheets that are not retired, the newest sheet first; at most a hundred, and how many there are."""
    found = Line.objects.filter(part=part).exclude(sheet__status="retired").select_related("sheet__part", "option")
    first = list(found.order_by("-sheet__changed_at", "position")[:MOST_USES])
    return {
        "total": len(first) if len(first) < MOST_USES else found.count(),
        "items": [
            {
                "part": x.sheet.part.number,
                "description": x.sheet.part.description,
                "sheet": x.sheet_id,
                "line": str(x.pk),
                "revision": revision_words(x.sheet.alternate, x.sheet.revision),
                "status": x.sheet.status,
                "item": x.item,
                "quantity": plain_decimal(x.quantity),
                "unit": x.unit or part.unit,
                "kind": x.kind,
                "option": x.option.code if x.option else "",
            }
            for x in first
        ],
    }


def alternates(part: Part, basis: Basis) -> list[dict[str, Any]]:
    """The sheets of a part that may count, each with what one costs built by it: the one that counts, of other alternates the newest
    released, and drafts. At most eight; what has no answer says why."""
    sheets = [s for s in revisions_of(part.pk) if s.status != "retired"]
    counting = counting_sheet(sheets, basis.as_of, basis.drafts)
    shown: list[BuildSheet] = []
    for sheet in sheets:
        first = not any(s.alternate == sheet.alternate and s.status == sheet.status for s in shown)
        if sheet.pk == counting or sheet.status == "draft" or first:
            shown.append(sheet)
    found = []
    for sheet in shown[:MOST_COSTED]:
        cost, rolled, problem = None, None, ""
        try:
            _, question = load_question(part, basis, sheet)
            cost = float(tally(question)[0].unit[question.top].sum())
            rolled = _rolled(question)
        except TallyError as error:
            problem = str(error)
        found.append(
            {
                "sheet": sheet.pk,
                "alternate": sheet.alternate,
                "revision": sheet.revision,
                "status": sheet.status,
                "reference": sheet.reference,
                "effective_from": sheet.effective_from.isoformat() if sheet.effective_from else None,
                "effective_to": sheet.effective_to.isoformat() if sheet.effective_to else None,
                "counts": sheet.pk == counting,
                "cost": None if cost is None else round(cost, 6),
                "rolled": None if rolled is None else round(rolled, 6),
                "problem": problem,
            }
        )
    return found


def _rolled(question: Question) -> float | None:
    """What a part with a cost or a markup given by hand comes to without it; None where nothing is given, or no sheet says."""
    s, top = question.structure, question.top
    given, markup = s.parts.given_cost.copy(), s.parts.markup_percent.copy()
    if (np.isnan(given[top]) and markup[top] == 0) or np.isnan(s.parts.batch[top]):
        return None
    given[top], markup[top] = np.nan, 0.0
    parts = replace(s.parts, given_cost=given, markup_percent=markup)
    plain = replace(question, structure=replace(s, parts=parts))
    return float(tally(plain)[0].unit[top].sum())


def part_history(part: Part) -> list[dict[str, Any]]:
    """Who changed which field of a part, from what to what, the newest first."""
    rows = list(part.history.select_related("history_user").order_by("-history_date", "-history_id")[: MOST_HISTORY + 1])
    found = []
    for row, before in zip(rows, [*rows[1:], None], strict=True):
        now, then = part_record(row), part_record(before) if before is not None else None
        changes = [
            {"field": title, "before": _words(getattr(then, name)), "after": _words(getattr(now, name))}
            for name, title in FIELD_TITLES.items()
            if then is not None and getattr(then, name) != getattr(now, name)
        ]
        if then is not None and then.prices != now.prices:
            changes.append({"field": "Prices", "before": _prices(then), "after": _prices(now)})
        own = sorted({*now.own_values, *(then.own_values if then else {})})
        changes += [
            {"field": name, "before": then.own_values.get(name, ""), "after": now.own_values.get(name, "")}
            for name in own
            if then is not None and then.own_values.get(name) != now.own_values.get(name)
        ]
        if changes or row.history_type == "+":
            found.append(
                {
                    "at": row.history_date.isoformat(),
                    "by": str(row.history_user or ""),
                    "reason": row.history_change_reason or "",
                    "made": row.history_type == "+",
                    "changes": changes,
                }
            )
    return found[:MOST_HISTORY]


def _prices(record: core.Part) -> str:
    return ", ".join(f"{plain_decimal(c.unit_cost)} from {c.first_day:%d %b %Y}" for c in record.prices)


def _words(value: Any) -> str:
    if value is None or value == "":
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return plain_decimal(value) or "" if hasattr(value, "quantize") else str(value).replace("_", " ")
