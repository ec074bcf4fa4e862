"""From the database to the core: the columns of one product, or of the whole catalogue.

Rows travel in PostgreSQL's binary copy format. Every column is made fixed in width and never null, so that the answer
is one array of records and no Python object is made per row. The number of queries does not depend on the product.
"""

from dataclasses import dataclass
from datetime import date

import numpy as np
from django.db import connection
from parts.models import Part, Workspace
from sheets.models import BuildSheet, Option
from tally_core.answers import Basis, Question, known_options
from tally_core.effectivity import Candidate, choose_sheets
from tally_core.errors import TallyError
from tally_core.structure import build_structure
from tally_core.tables import KINDS, LINE_KINDS, NO_END, NO_START, RUN_BASES, LineTable, OperationTable, PartTable
from tally_core.units import SYMBOLS

__all__ = ["Loaded", "copy_rows", "load_catalogue", "load_product", "load_question", "part_named", "question_of", "reached"]

_WIDTH = {"int8": (">i8", 8), "int4": (">i4", 4), "float8": (">f8", 8), "bool": ("?", 1), "uuid": ("V16", 16)}


def copy_rows(columns: dict[str, tuple[str, str]], source: str, params: list) -> np.ndarray:
    """Rows of ``SELECT columns source`` as a record array, in the byte order of the wire.

    Args:
        columns: name → (SQL expression that is never null, one of int8, int4, float8, bool, uuid).
        source: what follows the columns, from FROM on.
    """
    picked = ", ".join(f"({expression})::{kind}" for expression, kind in columns.values())
    fields: list[tuple[str, str]] = [("_fields", ">i2")]
    for name, (_, kind) in columns.items():
        fields += [(f"_width_{name}", ">i4"), (name, _WIDTH[kind][0])]
    record = np.dtype(fields)
    with connection.cursor() as cursor, cursor.cursor.copy(  # type: ignore[attr-defined]
        f"COPY (SELECT {picked} {source}) TO STDOUT (FORMAT BINARY)", params
    ) as copy:
        data = b"".join(copy)
    # 11 bytes of signature, flags, the length of an extension; two bytes close the stream.
    body = memoryview(data)[19:-2]
    if len(body) % record.itemsize:
        raise AssertionError("a column of a copied row was null")
    return np.frombuffer(body, dtype=record)


def _coded(expression: str, words: tuple[str, ...]) -> tuple[str, str]:
    listed = ", ".join(f"'{word}'" for word in words)
    return f"array_position(ARRAY[{listed}]::text[], ({expression})::text) - 1", "int4"


def _number(expression: str) -> tuple[str, str]:
    return f"coalesce({expression}, 'NaN')", "float8"


def _day(expression: str, otherwise: int) -> tuple[str, str]:
    # date.toordinal counts days from 1 January of year 1.
    return f"coalesce({expression} - date '0001-01-01' + 1, {otherwise})", "int4"


_PART_COLUMNS = {
    "id": ("p.id", "int8"),
    "kind": _coded("p.kind", KINDS),
    "unit": _coded("p.unit", SYMBOLS),
    "unit_cost": _number("p.unit_cost"),
    "given_cost": _number("p.given_cost"),
    "overhead_percent": _number("p.overhead_percent"),
    "costing_lot": _number("p.costing_lot"),
    "whole_only": ("p.whole_only", "bool"),
}
_LINE_COLUMNS = {
    "id": ("l.id", "uuid"),
    "parent": ("s.part_id", "int8"),
    "child": ("coalesce(l.part_id, -1)", "int8"),
    "kind": _coded("l.kind", LINE_KINDS),
    "quantity": _number("l.quantity"),
    "unit": _coded("coalesce(nullif(l.unit, ''), c.unit, 'ea')", SYMBOLS),
    "per_lot": ("l.quantity_basis = 'per_lot'", "bool"),
    "scrap_percent": _number("l.scrap_percent"),
    "yield_percent": _number("l.yield_percent"),
    "fixed_loss": _number("l.fixed_loss"),
    "sequence": ("coalesce(o.sequence, -1)", "int4"),
    "option": ("coalesce(l.option_id, -1)", "int4"),
    "removes": ("l.option_id IS NOT NULL AND l.option_action = 'remove'", "bool"),
    "customer_supplied": ("l.customer_supplied", "bool"),
    "not_fitted": ("l.not_fitted", "bool"),
    "first_day": _day("l.effective_from", NO_START),
    "last_day": _day("l.effective_to", NO_END),
    "item": ("coalesce(l.item, 0)", "int4"),
}
_RATES = ("labor_rate", "machine_rate", "overhead_per_hour", "overhead_percent_of_labor", "efficiency_percent")
_OPERATION_COLUMNS = {
    "id": ("o.id", "uuid"),
    "center": ("coalesce(o.work_center_id, -1)", "int8"),
    "parent": ("s.part_id", "int8"),
    "sequence": ("o.sequence", "int4"),
    "run_basis": _coded("o.run_basis", RUN_BASES),
    "outside_price": _number("CASE WHEN o.outside THEN o.unit_price END"),
    "outside_minimum": ("o.minimum_charge", "float8"),
    "setup_labor_rate": ("coalesce(w.setup_labor_rate, w.labor_rate, 0)", "float8"),
} | {
    name: _number(f"o.{name}")
    for name in ("setup_minutes", "run_minutes", "cycle_quantity", "crew", "setup_crew", "piece_rate", "yield_percent")
} | {name: (f"coalesce(w.{name}, {100 if 'efficiency' in name else 0})", "float8") for name in _RATES}  # fmt: skip


@dataclass(slots=True)
class Loaded:
    """The columns of a definition and the database keys of their rows."""

    parts: PartTable
    lines: LineTable
    operations: OperationTable
    part_ids: np.ndarray  # int64 over part rows, ascending
    line_ids: np.ndarray  # 16 bytes each
    operation_ids: np.ndarray
    center_ids: np.ndarray  # int64 over operations, -1 outside
    sheet_of: dict[int, int]  # part id → id of the sheet in force
    day: date
    currency: str

    def row(self, part_id: int) -> int:
        """The row of a part by its database key."""
        return int(np.searchsorted(self.part_ids, part_id))


def part_named(number: str) -> Part:
    """A part by its number. Raises TallyError when there is none."""
    part = Part.objects.filter(number=number).first()
    if part is None:
        raise TallyError(f"part {number} is not known")
    return part


def _in_force_sql(drafts: bool) -> str:
    statuses = "('released', 'draft')" if drafts else "('released')"
    return (
        f"s.status IN {statuses} AND (s.effective_from IS NULL OR s.effective_from <= %s) "
        "AND (s.effective_to IS NULL OR %s < s.effective_to)"
    )


def reached(part_ids: list[int], day: date, drafts: bool, sheet_id: int | None = None) -> list[int]:
    """The parts met on the way down from some parts through any sheet that may be in force; they come first in none
    of the orders."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"""
            WITH RECURSIVE reach(part_id) AS (
                SELECT unnest(%s::bigint[])
                UNION
                SELECT l.part_id FROM reach r
                JOIN sheets_buildsheet s ON s.part_id = r.part_id AND ({_in_force_sql(drafts)} OR s.id = %s)
                JOIN sheets_line l ON l.sheet_id = s.id AND l.part_id IS NOT NULL
            )
            SELECT part_id FROM reach ORDER BY part_id
            """,
            [part_ids, day, day, sheet_id or 0],
        )
        return [row[0] for row in cursor.fetchall()]


def _load(part_ids: list[int] | None, day: date, drafts: bool, sheet: BuildSheet | None) -> Loaded:
    """``part_ids`` None loads everything."""
    everything = part_ids is None
    narrow = "" if everything else "WHERE p.id = ANY(%s)"
    rows = copy_rows(
        _PART_COLUMNS, f"FROM parts_part p {narrow} ORDER BY p.id", [] if everything else [part_ids]
    )
    ids = rows["id"].astype(np.int64)
    numbers = Part.objects.order_by("id")
    candidates = BuildSheet.objects.exclude(status="retired")
    if not everything:
        numbers = numbers.filter(id__in=part_ids)
        candidates = candidates.filter(part_id__in=part_ids)
    sheet_of = choose_sheets(
        (
            Candidate(*row)
            for row in candidates.values_list(
                "id", "part_id", "alternate", "revision", "status", "effective_from", "effective_to"
            )
        ),
        day,
        drafts,
    )
    if sheet is not None:
        sheet_of[sheet.part_id] = sheet.id
    sheet_ids = list(sheet_of.values())
    batches = dict(BuildSheet.objects.filter(id__in=sheet_ids).values_list("part_id", "batch"))
    batch = np.full(len(ids), np.nan)
    batch[np.searchsorted(ids, list(batches))] = [float(b) for b in batches.values()]
    parts = PartTable(
        numbers=list(numbers.values_list("number", flat=True)),
        kind=rows["kind"].astype(np.int8),
        unit=rows["unit"].astype(np.int16),
        batch=batch,
        whole_only=rows["whole_only"].copy(),
        **{n: rows[n].astype(float) for n in ("unit_cost", "given_cost", "overhead_percent", "costing_lot")},
    )

    work = copy_rows(
        _OPERATION_COLUMNS,
        """FROM sheets_operation o JOIN sheets_buildsheet s ON s.id = o.sheet_id
        LEFT JOIN workcenters_workcenter w ON w.id = o.work_center_id
        WHERE o.sheet_id = ANY(%s) ORDER BY s.part_id, o.sequence""",
        [sheet_ids],
    )
    operations = OperationTable(
        parent=np.searchsorted(ids, work["parent"]).astype(np.int32),
        sequence=work["sequence"].astype(np.int32),
        run_basis=work["run_basis"].astype(np.int8),
        **{
            n: work[n].astype(float)
            for n in OperationTable.__dataclass_fields__
            if n not in ("parent", "sequence", "run_basis")
        },
    )

    rows = copy_rows(
        _LINE_COLUMNS,
        """FROM sheets_line l JOIN sheets_buildsheet s ON s.id = l.sheet_id
        LEFT JOIN parts_part c ON c.id = l.part_id LEFT JOIN sheets_operation o ON o.id = l.operation_id
        WHERE l.sheet_id = ANY(%s) ORDER BY s.part_id, l.position, l.id""",
        [sheet_ids],
    )
    parent = np.searchsorted(ids, rows["parent"]).astype(np.int32)
    child_ids = rows["child"].astype(np.int64)
    child = np.where(child_ids >= 0, np.searchsorted(ids, child_ids), -1).astype(np.int32)
    issued = rows["sequence"].astype(np.int64)
    # An operation is found by its part row and sequence, both sorted in the operation table.
    key = operations.parent.astype(np.int64) << 32 | operations.sequence
    at = np.searchsorted(key, parent.astype(np.int64) << 32 | np.maximum(issued, 0))
    lines = LineTable(
        parent=parent,
        child=child,
        kind=rows["kind"].astype(np.int8),
        unit=rows["unit"].astype(np.int16),
        operation=np.where(issued >= 0, at, -1).astype(np.int32),
        **{n: rows[n].astype(np.int32) for n in ("option", "first_day", "last_day", "item")},
        **{n: rows[n].astype(float) for n in ("quantity", "scrap_percent", "yield_percent", "fixed_loss")},
        **{n: rows[n].copy() for n in ("per_lot", "removes", "customer_supplied", "not_fitted")},
    )
    return Loaded(
        parts, lines, operations, ids, rows["id"].copy(), work["id"].copy(), work["center"].astype(np.int64),
        sheet_of, day, Workspace.the().currency,
    )  # fmt: skip


def load_catalogue(day: date, drafts: bool = False) -> Loaded:
    """Everything, with the sheets in force on a day."""
    return _load(None, day, drafts, None)


def load_product(part: Part, basis: Basis, sheet: BuildSheet | None = None) -> Loaded:
    """What one part may take under a basis; ``sheet`` stands for the part's own instead of the one in force."""
    ids = reached([part.id], basis.as_of, basis.drafts, sheet.id if sheet else None)
    return _load(ids, basis.as_of, basis.drafts, sheet)


def question_of(loaded: Loaded, part: Part, basis: Basis) -> Question:
    """A question about a loaded part.

    Raises TallyError for an unknown option, a loop, units that do not convert or an option that removes too much.
    """
    codes = dict(Option.objects.values_list("code", "id"))
    chosen = [codes[code] for code in known_options(basis.options, codes)]
    top = loaded.row(part.id)
    structure = build_structure(loaded.parts, loaded.lines, loaded.operations, basis.as_of, chosen, top)
    return Question(structure, top, basis, loaded.currency)


def load_question(part: Part, basis: Basis, sheet: BuildSheet | None = None) -> tuple[Loaded, Question]:
    """:func:`load_product` and :func:`question_of` in one."""
    loaded = load_product(part, basis, sheet)
    return loaded, question_of(loaded, part, basis)
