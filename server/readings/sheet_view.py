"""What the sheet screen shows: every sheet a product takes, once, with its figures under a basis.

Rows come as columns of plain values, ready for JSON: for a product of ten thousand lines, objects in between would cost
more than the figures. ``SheetView`` in ``api.sheets`` describes them, and a test holds them against it.
"""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any, get_args, get_type_hints

import numpy as np
from definition.given import GIVEN_WORDS
from definition.models.parts import Workspace
from definition.models.sheets import BuildSheet, Option
from definition.records import plain_decimal
from definition.sheet_states import SHEET_ACTIONS
from definition.stock_levels import spoken_for
from django.db import connection
from loading.columns import keys_text
from loading.loaded import Loaded
from loading.reads import load_parts, question_of, reached
from loading.standards import MILLION
from loading.times_read import load_times
from loading.written import mark_now
from standards.models import Standard
from tally_core.basics.elements import AT, ELEMENTS
from tally_core.basics.errors import MissingError, TallyError
from tally_core.basics.kinds import TAKES_SHEET
from tally_core.cost.answers import Basis, Question, tally
from tally_core.cost.cost import Costs
from tally_core.stated import definition as core
from tally_core.structure.effectivity import Candidate, choose_sheets
from tally_core.structure.needs import average_needs
from tally_core.structure.structure import Structure
from tally_core.time.leadtime import DAY, TimeTable, elapsed, lead_times, routing_times

from readings.held import Figures, Held, held_for, hold, state_around, unchanged_around
from readings.wire import LINE_FIGURES, OPERATION_FIGURES, PART_FIGURES, figures_by_name, shortened, table

__all__ = [
    "counting_sheet",
    "figures_of",
    "line_columns",
    "operation_columns",
    "line_vectors",
    "options_of",
    "revisions_of",
    "sheet_head",
    "sheet_view",
    "with_figures",
]


def _shown(record: type, alias: str, instead: dict[str, str], without: tuple[str, ...] = ()) -> dict[str, str]:
    """The fields of a record as they are shown: column → SQL. ``instead`` are those that stand elsewhere, and more."""
    hints = get_type_hints(record)
    found = {n: f"{alias}.{n}" for n in hints if n not in without and n not in instead}
    for name in found:
        if Decimal in (hints[name], *get_args(hints[name])):
            found[name] = f"trim_scale({found[name]})::text"
        elif date in (hints[name], *get_args(hints[name])):
            found[name] = f"{found[name]}::text"
    return found | instead


_LINE_SHOWN = _shown(
    core.Line,
    "l",
    {
        "id": "l.id::text",
        "parent": "s.part_id",
        "child": "l.part_id",
        "position": "l.position",
        "operation": "l.operation_id::text",
        "option": "o.code",
    },
    ("part", "issue_at"),
)
_LINE_SQL = f"""
    SELECT {", ".join(_LINE_SHOWN.values())}
    FROM definition_line l JOIN definition_buildsheet s ON s.id = l.sheet_id LEFT JOIN definition_option o ON o.id = l.option_id
    WHERE l.sheet_id = ANY(%s) ORDER BY l.sheet_id, l.position, l.id
"""
_OUTSIDE_SHOWN = _shown(core.Subcontract, "o", {"supplier": "coalesce(o.supplier, '')"})
_OPERATION_SHOWN = _shown(
    core.Operation,
    "o",
    {
        "id": "o.id::text",
        "parent": "s.part_id",
        "work_center": "w.code",
        "work_center_name": "w.name",
        "files": "ARRAY(SELECT f.file_id FROM definition_operationfile f WHERE f.operation_id = o.id ORDER BY f.position)",
        "beside": "o.beside_id::text",
        "resource": "o.resource",
        "standard": "x.code",
        "standard_now": "x.version",
        "outside": "o.outside",
    }
    | _OUTSIDE_SHOWN,
    ("subcontract", "resources"),
)
_OPERATION_SQL = f"""
    SELECT {", ".join(_OPERATION_SHOWN.values())}
    FROM definition_operation o JOIN definition_buildsheet s ON s.id = o.sheet_id
    LEFT JOIN definition_workcenter w ON w.id = o.work_center_id
    LEFT JOIN definition_standardoperation x ON x.id = o.standard_id
    WHERE o.sheet_id = ANY(%s) ORDER BY s.part_id, o.sequence, o.resource
"""
_PART_SQL = f"""
    SELECT id, number, description, kind, unit, trim_scale(unit_cost)::text, {GIVEN_WORDS}, lifecycle, part_class,
        material, coalesce(supplier, ''), supplier_number, supplier_link, size_mm, buying_unit, lead_time_days
    FROM definition_part WHERE id = ANY(%s) ORDER BY id
"""
_PART_NAMES = (
    "id",
    "number",
    "description",
    "kind",
    "unit",
    "unit_cost",
    "given",
    "lifecycle",
    "part_class",
    "material",
    "supplier",
    "supplier_number",
    "supplier_link",
    "size_mm",
    "buying_unit",
    "lead_time_days",
)


Columns = dict[str, list[Any]]


def _columns(sql: str, names: Sequence[str], keys: list[int]) -> Columns:
    with connection.cursor() as cursor:
        cursor.execute(sql, [keys])
        rows = cursor.fetchall()
    return {name: list(column) for name, column in zip(names, zip(*rows, strict=True), strict=True)} if rows else {n: [] for n in names}


def _rounded(values: np.ndarray) -> np.ndarray:
    # + 0.0 turns a negative zero into a plain one.
    return np.round(values, 6) + 0.0


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
        "why_not": SHEET_ACTIONS.answers(sheet.status, f"Revision {sheet.revision}"),
    }


def counting_sheet(sheets: list[BuildSheet], day: date, drafts: bool) -> int | None:
    """The key of the one among the sheets of a part that counts on a day, as everything above it is costed."""
    candidates = [
        Candidate(
            s.pk, s.part_id, s.alternate, s.revision, s.status, s.effective_from, s.effective_to, s.alternate == s.part.default_alternate
        )
        for s in sheets
    ]
    return next(iter(choose_sheets(candidates, day, drafts).values()), None)


def revisions_of(part_id: int) -> list[BuildSheet]:
    """All sheets of a part, the newest first."""
    return list(BuildSheet.objects.filter(part_id=part_id).select_related("part").order_by("alternate", "-id"))


def sheet_view(sheet: BuildSheet, basis: Basis, own: bool = False) -> dict[str, Any]:
    """A sheet, all it takes, and what that costs. A fixed number of queries, whatever its size.

    Args:
        own: only the rows of the sheet itself, to be shown while the others are on their way.

    Where the basis has no answer (an option removes too much), ``problem`` says why, and the rows stand there
    without figures. ``stamp`` names this state of the product: see ``after_edit``.
    """
    loaded, held, problem = _product(sheet, basis)
    top = loaded.row(sheet.part_id)
    own_lines, own_operations = (np.flatnonzero(t.parent == top) for t in (loaded.lines, loaded.operations))
    taken = loaded.lines.child[own_lines]
    rows = np.unique(np.append(taken[taken >= 0], top)) if own else np.arange(len(loaded.part_ids))
    parts = _columns(_PART_SQL, _PART_NAMES, loaded.part_ids[rows].tolist())
    row_of = {key: row for row, key in enumerate(parts["id"])}
    if sheet.part_id not in row_of:
        raise MissingError("This sheet is not there, or no longer.")
    shown = [sheet.id] if own else list(loaded.sheet_of.values())
    lines, operations = line_columns(shown, row_of), operation_columns(shown, row_of)
    view: dict[str, Any] = {
        "sheet": sheet_head(sheet),
        "currency": loaded.currency,
        "basis": basis.plain(),
        "stamp": None,
        "whole": not own,
        "top": row_of[sheet.part_id],
        "problem": problem,
        "missing": held.figures.missing if held else [],
        "standard": _standard(sheet.part_id, basis),
        "selling_price": plain_decimal(sheet.part.selling_price),
        "options": options_of(loaded),
    }
    parts["sheet"] = [loaded.sheet_of.get(key) for key in parts["id"]]
    parts["on_hand"], parts["on_order"] = _there(parts["id"])
    promised = spoken_for(parts["id"])
    parts["spoken_for"] = [float(promised.get(key, 0)) for key in parts["id"]]
    if held is None:
        return view | {name: shortened(table(rows)) for name, rows in (("parts", parts), ("lines", lines), ("operations", operations))}
    figures = held.figures
    at_line = own_lines if own else slice(None)
    at_operation = own_operations if own else slice(None)
    view["parts"] = shortened(table(parts, figures_by_name(figures.parts[rows], PART_FIGURES)))
    view["lines"] = with_figures(lines, loaded.line_ids[at_line], figures.lines[at_line], LINE_FIGURES)
    view["operations"] = with_figures(operations, loaded.operation_ids[at_operation], figures.operations[at_operation], OPERATION_FIGURES)
    view["stamp"] = hold(sheet, basis, held)
    return view


def _product(sheet: BuildSheet, basis: Basis) -> tuple[Loaded, Held | None, str | None]:
    """A product with its figures: what is held of it in memory, where it still is what the database says. Without an answer, why."""
    held = held_for(sheet, basis) if basis.plain_inputs else None
    if held is not None and held.version == sheet.version and held.loaded.currency == Workspace.the().currency:
        mark = unchanged_around(held, sheet)
        if mark is not None:
            return held.loaded, replace(held, mark=mark), None
    # Before the rows are read: what changes meanwhile must not pass for what was read.
    mark = mark_now()
    part_ids = reached([sheet.part_id], basis.as_of, basis.drafts, sheet.id)
    around = state_around(part_ids, sheet)
    loaded = load_parts(part_ids, basis, sheet)
    try:
        times = load_times(loaded)
        figures = figures_of(loaded, question_of(loaded, sheet.part, basis), times)
    except TallyError as error:
        return loaded, None, str(error)
    return loaded, Held(mark, around, sheet.version, loaded, times, figures), None


def _there(part_ids: list[int]) -> tuple[list[float], list[float]]:
    """On hand and still to come of parts, in their stock units. Two queries."""
    sums = []
    for moves in ("definition_stockmove", "definition_openorder"):
        with connection.cursor() as cursor:
            cursor.execute(
                f"SELECT part_id, sum(quantity)::float8 FROM {moves} WHERE part_id = ANY(%s::bigint[]) GROUP BY part_id",
                [keys_text(part_ids)],
            )
            found = dict(cursor.fetchall())
        sums.append([found.get(key, 0.0) for key in part_ids])
    return sums[0], sums[1]


def _standard(part_id: int, basis: Basis) -> dict[str, Any] | None:
    """The standard of a part on the day of a basis."""
    held = Standard.objects.filter(part_id=part_id, first_day__lte=basis.as_of).select_related("round")
    found = held.order_by("-first_day").first()
    if found is None:
        return None
    return {"unit": found.unit / MILLION, "first_day": found.first_day.isoformat(), "round": found.round_id, "name": found.round.name}


def line_columns(sheet_ids: list[int], row_of: dict[int, int]) -> Columns:
    """The lines of some sheets, as columns; parts by their row."""
    lines = _columns(_LINE_SQL, tuple(_LINE_SHOWN), sheet_ids)
    lines["parent"] = [row_of[key] for key in lines["parent"]]
    lines["child"] = [row_of.get(key, -1) for key in lines["child"]]
    return lines


def operation_columns(sheet_ids: list[int], row_of: dict[int, int]) -> Columns:
    """The operations of some sheets, as columns; parts by their row."""
    operations = _columns(_OPERATION_SQL, tuple(_OPERATION_SHOWN), sheet_ids)
    operations["parent"] = [row_of[key] for key in operations["parent"]]
    told = zip(*(operations.pop(n) for n in _OUTSIDE_SHOWN), strict=True)
    operations["subcontract"] = [
        dict(zip(_OUTSIDE_SHOWN, values, strict=True)) if outside else None
        for outside, values in zip(operations.pop("outside"), told, strict=True)
    ]
    return operations


def with_figures(columns: Columns, ids: np.ndarray, values: np.ndarray, names: Sequence[str]) -> dict[str, Any]:
    """A table of rows with the figures of their keys; none for a row that was not tallied."""
    keys = np.array([bytes.fromhex(key.replace("-", "")) for key in columns["id"]], dtype="V16")
    if not np.array_equal(keys, ids):
        # Somebody wrote between the two readings: by key then, and what is not known stays without.
        at = {key: row for row, key in enumerate(ids.tolist())}
        rows = np.array([at.get(key, -1) for key in keys.tolist()], dtype=np.int64)
        values = np.where(rows[:, None] >= 0, values[rows], np.nan) if len(values) else np.full((len(rows), values.shape[1]), np.nan)
    return shortened(table(columns, figures_by_name(values, names)))


def options_of(loaded: Loaded) -> list[dict[str, Any]]:
    """The options that stand on any sheet of a product."""
    used = np.unique(loaded.lines.option[loaded.lines.option >= 0]).tolist()
    found = Option.objects.filter(id__in=used) if used else []
    return [{"code": o.code, "name": o.name, "not_with": o.not_with} for o in found]


def figures_of(loaded: Loaded, question: Question, times: TimeTable) -> Figures:
    """All figures of a product. Raises TallyError where the basis has no answer."""
    s = question.structure
    costs, needs = tally(question)
    met = np.zeros(len(s.parts), dtype=bool)
    met[s.child] = met[question.top] = True
    lacking = met & TAKES_SHEET[s.parts.kind] & np.isnan(s.parts.batch) & np.isnan(s.parts.given_cost)
    net, gross, vectors = line_vectors(s, costs)
    lines = np.full((len(loaded.lines), 3 + len(ELEMENTS)), np.nan)
    lines[s.line] = np.column_stack((net, gross, vectors.sum(axis=1), vectors))
    lot = costs.lots[s.operations.parent]
    work = costs.work
    stacked = np.zeros((len(lot), len(ELEMENTS)))
    for name, amount in work.amounts().items():
        stacked[:, AT[name]] = amount / lot
    spent = elapsed(s, times, costs.lots, work)
    elapsed_days, routing_days = routing_times(s, times, spent)
    return Figures(
        parts=_rounded(
            np.column_stack(
                (
                    costs.unit.sum(axis=1),
                    costs.this_level.sum(axis=1),
                    costs.lots,
                    needs.gross if needs is not None else average_needs(s, question.top, costs.lots),
                    routing_days,
                    lead_times(s, times, costs.lots, spent),
                    costs.unit,
                )
            )
        ),
        lines=_rounded(lines),
        operations=_rounded(
            np.column_stack(
                (stacked.sum(axis=1), (work.setup_hours + work.run_hours) / lot, spent.setup, spent.run, elapsed_days * DAY, stacked)
            )
        ),
        missing=[s.parts.numbers[i] for i in np.flatnonzero(lacking).tolist()],
    )


def line_vectors(s: Structure, costs: Costs) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Over usages, for one unit of the parent: net, gross, and the cost by element (rule C2)."""
    net, gross = s.net(costs.lots), s.gross(costs.lots)
    total = costs.unit.sum(axis=1)[s.child]
    charged = ~s.free & ~s.byproduct
    vectors = np.where(charged, net, 0.0)[:, None] * costs.unit[s.child]
    vectors[:, AT["scrap"]] += np.where(charged, gross - net, 0.0) * total
    vectors[:, AT["byproduct"]] -= np.where(s.byproduct & ~s.free, gross, 0.0) * total
    return net, gross, vectors
