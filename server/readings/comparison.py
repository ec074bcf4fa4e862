"""Two sheets of a part side by side, with what the difference does to the cost."""

from typing import Any
from uuid import UUID

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from definition.records import sheet_record
from loading.reads import load_product, question_of
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis, tally
from tally_core.stated.compare import compare_sheets

from readings.sheet_view import line_vectors, options_of, sheet_head

__all__ = ["compare", "sheet_in_force"]


def sheet_in_force(part: Part, basis: Basis) -> BuildSheet:
    """The sheet of a part that counts under a basis. Raises TallyError when there is none."""
    key = load_product(part, basis).sheet_of.get(part.id)
    if key is None:
        raise TallyError(f"no build sheet of {part.number} is in force on {basis.as_of.isoformat()}")
    return BuildSheet.objects.select_related("part").get(pk=key)


class _Side:
    """A sheet's rows and what each costs in one unit, under a basis; no costs where the basis has no answer."""

    def __init__(self, sheet: BuildSheet, basis: Basis) -> None:
        self.sheet, self.basis = sheet, basis
        self.lines = list(sheet.lines.select_related("part", "operation", "option"))
        rows = list(sheet.operations.select_related("work_center", "standard").order_by("sequence", "resource"))
        self.record = sheet_record(sheet, self.lines, rows)
        self.operations = [row for row in rows if row.beside_id is None]
        self.unit: float | None = None
        self.problem = ""
        self.line_cost: dict[Any, float] = {}
        self.operation_cost: dict[Any, float] = {}
        loaded = self.loaded = load_product(sheet.part, basis, sheet)
        try:
            question = question_of(loaded, sheet.part, basis)
            costs, _ = tally(question)
        except TallyError as error:
            self.problem = str(error)
            return
        s = question.structure
        self.unit = float(costs.unit[question.top].sum())
        _, _, vectors = line_vectors(s, costs)
        here = s.usages_of(question.top)
        for at in range(*here.indices(len(s.line))):
            self.line_cost[UUID(bytes=bytes(loaded.line_ids[s.line[at]]))] = float(vectors[at].sum())
        lot = costs.lots[question.top]
        whole = costs.work.whole()
        for at in range(*s.operations_of(question.top).indices(len(s.operations))):
            # With what works beside it.
            lead = UUID(bytes=bytes(loaded.operation_ids[s.operations.leads()[at]]))
            self.operation_cost[lead] = self.operation_cost.get(lead, 0.0) + float(whole[at] / lot)

    def label(self, table: str, index: int | None) -> dict[str, Any] | None:
        """What names a row of this side, and its cost."""
        if index is None or table == "sheet":
            return None
        if table == "operation":
            row = self.operations[index]
            return {
                "key": str(row.id),
                "place": row.sequence,
                "name": row.name,
                "more": row.work_center.code if row.work_center else row.supplier_id or "",
                "cost": self.operation_cost.get(row.id),
            }
        line = self.lines[index]
        return {
            "key": str(line.id),
            "place": line.item,
            "name": line.part.number if line.part else line.text,
            "more": line.part.description if line.part else "",
            "cost": self.line_cost.get(line.id),
        }


def compare(left: BuildSheet, left_basis: Basis, right: BuildSheet, right_basis: Basis) -> dict[str, Any]:
    """Every row of two sheets of the same part, paired, with differing fields and costs in one unit.

    Raises TallyError for sheets of two different parts.
    """
    if left.part_id != right.part_id:
        raise TallyError("Only sheets of one part can be compared.")
    a, b = _Side(left, left_basis), _Side(right, right_basis)
    rows = []
    for difference in compare_sheets(a.record, b.record):
        one, other = a.label(difference.table, difference.left), b.label(difference.table, difference.right)
        rows.append(
            {
                "table": difference.table,
                "state": difference.state,
                "left": one,
                "right": other,
                "fields": [{"name": n, "left": x, "right": y} for n, x, y in difference.fields],
                "effect": ((other or {}).get("cost") or 0.0) - ((one or {}).get("cost") or 0.0),
            }
        )
    return {
        "left": sheet_head(left),
        "right": sheet_head(right),
        "left_basis": left_basis.plain(),
        "right_basis": right_basis.plain(),
        "currency": b.loaded.currency,
        "unit": left.part.unit,
        "options": [*{o["code"]: o for side in (a, b) for o in options_of(side.loaded)}.values()],
        "left_cost": a.unit,
        "right_cost": b.unit,
        "left_problem": a.problem,
        "right_problem": b.problem,
        "rows": rows,
    }
