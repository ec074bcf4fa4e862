"""What the sheet screen shows: every sheet a product takes, once, with its figures under a basis.

Rows come as plain dictionaries, ready for JSON: for a product of ten thousand lines, objects in between would cost
more than the figures. ``SheetView`` in ``api.py`` describes them, and a test holds them against it.
"""

from decimal import Decimal
from typing import Any

import numpy as np
from costing.reads import Loaded, load_product, question_of
from django.db import connection
from tally_core.answers import Basis, Question, tally
from tally_core.cost import ELEMENTS, SCRAP, Costs, operation_costs
from tally_core.errors import TallyError
from tally_core.needs import Needs, average_needs
from tally_core.structure import Structure
from tally_core.tables import MADE, PHANTOM

from .models import BuildSheet, Option
from .records import plain_decimal

__all__ = ["line_vectors", "options_of", "revisions_of", "sheet_head", "sheet_view"]

_LINE_SQL = """
    SELECT l.id::text, s.part_id, l.part_id, l.position, l.item, l.item_locked, l.kind, trim_scale(l.quantity)::text, l.unit,
        l.quantity_basis, trim_scale(l.scrap_percent)::text, trim_scale(l.yield_percent)::text,
        trim_scale(l.fixed_loss)::text, l.operation_id::text, o.code, l.option_action, l.customer_supplied,
        l.not_fitted, l.reference_designators, l.effective_from::text, l.effective_to::text, l.text
    FROM sheets_line l JOIN sheets_buildsheet s ON s.id = l.sheet_id LEFT JOIN sheets_option o ON o.id = l.option_id
    WHERE l.sheet_id = ANY(%s) ORDER BY s.part_id, l.position, l.id
"""
_LINE_NAMES = (
    "id", "parent", "child", "position", "item", "item_locked", "kind", "quantity", "unit", "quantity_basis", "scrap_percent",
    "yield_percent", "fixed_loss", "operation", "option", "option_action", "customer_supplied", "not_fitted",
    "reference_designators", "effective_from", "effective_to", "text",
)  # fmt: skip
_OPERATION_SQL = """
    SELECT o.id::text, s.part_id, o.sequence, o.name, w.code, w.name, trim_scale(o.setup_minutes)::text,
        trim_scale(o.run_minutes)::text, o.run_basis, trim_scale(o.cycle_quantity)::text, trim_scale(o.crew)::text,
        trim_scale(o.setup_crew)::text, trim_scale(o.piece_rate)::text, trim_scale(o.yield_percent)::text,
        trim_scale(o.queue_minutes)::text, trim_scale(o.wait_minutes)::text, trim_scale(o.move_minutes)::text, o.after,
        o.outside, o.supplier, trim_scale(o.unit_price)::text, trim_scale(o.minimum_charge)::text, o.lead_days
    FROM sheets_operation o JOIN sheets_buildsheet s ON s.id = o.sheet_id
    LEFT JOIN workcenters_workcenter w ON w.id = o.work_center_id
    WHERE o.sheet_id = ANY(%s) ORDER BY s.part_id, o.sequence
"""
_OPERATION_NAMES = (
    "id", "parent", "sequence", "name", "work_center", "work_center_name", "setup_minutes", "run_minutes", "run_basis",
    "cycle_quantity", "crew", "setup_crew", "piece_rate", "yield_percent", "queue_minutes", "wait_minutes",
    "move_minutes", "after", "outside", "supplier", "unit_price", "minimum_charge", "lead_days",
)  # fmt: skip
_PART_SQL = """
    SELECT id, number, description, kind, unit, trim_scale(unit_cost)::text, given_cost IS NOT NULL, lifecycle, part_class
    FROM parts_part WHERE id = ANY(%s) ORDER BY id
"""
_PART_NAMES = ("id", "number", "description", "kind", "unit", "unit_cost", "given", "lifecycle", "part_class")


def _rows(sql: str, names: tuple[str, ...], keys: list[int]) -> list[dict[str, Any]]:
    with connection.cursor() as cursor:
        cursor.execute(sql, [keys])
        return [dict(zip(names, row, strict=True)) for row in cursor.fetchall()]


def _rounded(values: np.ndarray) -> list:
    # + 0.0 turns a negative zero into a plain one.
    return (np.round(values, 6) + 0.0).tolist()


def sheet_head(sheet: BuildSheet) -> dict[str, Any]:
    """The head of a sheet as plain values."""
    return {
        "id": sheet.id,
        "part": sheet.part.number,
        "description": sheet.part.description,
        "alternate": sheet.alternate,
        "revision": sheet.revision,
        "status": sheet.status,
        "effective_from": sheet.effective_from.isoformat() if sheet.effective_from else None,
        "effective_to": sheet.effective_to.isoformat() if sheet.effective_to else None,
        "batch": plain_decimal(Decimal(sheet.batch)),
        "reference": sheet.reference,
        "default": sheet.alternate == sheet.part.default_alternate,
        "version": sheet.version,
        "changed_by": sheet.changed_by,
        "changed_at": sheet.changed_at.isoformat(),
    }


def revisions_of(part_id: int) -> list[BuildSheet]:
    """All sheets of a part, the newest first."""
    return list(BuildSheet.objects.filter(part_id=part_id).select_related("part").order_by("alternate", "-id"))


def sheet_view(sheet: BuildSheet, basis: Basis) -> dict[str, Any]:
    """A sheet, all it takes, and what that costs. A fixed number of queries, whatever its size.

    Where the basis has no answer (an option removes too much), ``problem`` says why, and the rows stand there
    without figures.
    """
    loaded = load_product(sheet.part, basis, sheet)
    keys = list(loaded.sheet_of.values())
    parts = _rows(_PART_SQL, _PART_NAMES, loaded.part_ids.tolist())
    lines = _rows(_LINE_SQL, _LINE_NAMES, keys)
    operations = _rows(_OPERATION_SQL, _OPERATION_NAMES, keys)
    row_of = {part["id"]: row for row, part in enumerate(parts)}
    for row in (*lines, *operations):
        row["parent"] = row_of[row["parent"]]
    for line in lines:
        line["child"] = row_of.get(line["child"], -1)
    for operation in operations:
        outside = {n: operation.pop(n) for n in ("supplier", "unit_price", "minimum_charge", "lead_days")}
        operation["subcontract"] = outside if operation.pop("outside") else None
    view: dict[str, Any] = {
        "sheet": sheet_head(sheet),
        "currency": loaded.currency,
        "basis": basis.plain(),
        "top": row_of[sheet.part_id],
        "problem": None,
        "missing": [],
        "options": options_of(loaded),
        "elements": ELEMENTS,
        "parts": parts,
        "lines": lines,
        "operations": operations,
    }
    for part in parts:
        part["sheet"] = loaded.sheet_of.get(part["id"])
    try:
        question = question_of(loaded, sheet.part, basis)
        costs, needs = tally(question)
    except TallyError as error:
        view["problem"] = str(error)
        return view
    _figures(view, loaded, question, costs, needs)
    return view


def options_of(loaded: Loaded) -> list[dict[str, Any]]:
    """The options that stand on any sheet of a product."""
    used = np.unique(loaded.lines.option[loaded.lines.option >= 0]).tolist()
    found = Option.objects.filter(id__in=used) if used else []
    return [{"code": o.code, "name": o.name, "not_with": o.not_with} for o in found]


def _figures(view: dict[str, Any], loaded: Loaded, question: Question, costs: Costs, needs: Needs | None) -> None:
    s = question.structure
    elements, this_level = _rounded(costs.unit), _rounded(costs.this_level.sum(axis=1))
    total, lots = _rounded(costs.unit.sum(axis=1)), _rounded(costs.lots)
    need = _rounded(needs.gross if needs is not None else average_needs(s, question.top, costs.lots))
    met = np.zeros(len(s.parts), dtype=bool)
    met[[question.top, *np.unique(s.child).tolist()]] = True
    lacking = met & np.isin(s.parts.kind, (MADE, PHANTOM)) & np.isnan(s.parts.batch) & np.isnan(s.parts.given_cost)
    view["missing"] = [s.parts.numbers[i] for i in np.flatnonzero(lacking).tolist()]
    for row, part in enumerate(view["parts"]):
        part["cost"], part["elements"], part["this_level"], part["lot"] = (
            total[row],
            elements[row],
            this_level[row],
            lots[row],
        )
        part["need"] = need[row]

    net, gross, vectors = line_vectors(s, costs)
    at = dict(zip(loaded.line_ids[s.line].tolist(), range(len(s.line)), strict=True))
    net_list, gross_list, vector_list, sums = (
        _rounded(net),
        _rounded(gross),
        _rounded(vectors),
        _rounded(vectors.sum(axis=1)),
    )
    for line in view["lines"]:
        usage = at.get(bytes.fromhex(line["id"].replace("-", "")))
        if usage is not None:
            line["net"], line["gross"] = net_list[usage], gross_list[usage]
            line["cost"], line["elements"] = sums[usage], vector_list[usage]

    lot = costs.lots[s.operations.parent]
    work = operation_costs(s.operations, s.starts, lot)
    stacked = np.zeros((len(lot), len(ELEMENTS)))
    for name in ("setup", "labor", "machine", "overhead", "subcontract"):
        stacked[:, ELEMENTS.index(name)] = getattr(work, name) / lot
    at = dict(zip(loaded.operation_ids.tolist(), range(len(lot)), strict=True))
    vector_list, sums, hours = (
        _rounded(stacked),
        _rounded(stacked.sum(axis=1)),
        _rounded((work.setup_hours + work.run_hours) / lot),
    )
    for operation in view["operations"]:
        step = at.get(bytes.fromhex(operation["id"].replace("-", "")))
        if step is not None:
            operation["cost"], operation["elements"], operation["hours"] = sums[step], vector_list[step], hours[step]


def line_vectors(s: Structure, costs: Costs) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Over usages, for one unit of the parent: net, gross, and the cost by element (rule C2)."""
    lot = costs.lots[s.parent]
    net = s.net_per_unit + s.net_per_lot / lot
    gross = s.gross_per_unit + s.gross_per_lot / lot
    total = costs.unit.sum(axis=1)[s.child]
    charged = ~s.free & ~s.byproduct
    vectors = np.where(charged, net, 0.0)[:, None] * costs.unit[s.child]
    vectors[:, SCRAP] += np.where(charged, gross - net, 0.0) * total
    vectors[:, ELEMENTS.index("byproduct")] -= np.where(s.byproduct & ~s.free, gross, 0.0) * total
    return net, gross, vectors
