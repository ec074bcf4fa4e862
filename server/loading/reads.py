"""From the database to the core: the columns of one product, or of the whole catalogue.

PostgreSQL packs what is read of a row when it writes it (``table_columns``), puts the rows one behind the other and sends them in one
piece, of which NumPy takes a view. Every value is fixed in width and never null, so no Python object is made per row. The number of queries does not depend on the
product.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date

import numpy as np
from definition.models.parts import Part, Workspace
from definition.models.sheets import BuildSheet, Option
from definition.models.work_centers import WorkCenter
from definition.records import prices_on, work_center_record
from tally_core.basics.errors import MissingError
from tally_core.basics.kinds import TAKES_SHEET
from tally_core.cost.answers import Basis, Question, known_options
from tally_core.stated.definition import WorkCenter as WorkCenterRecord
from tally_core.structure.effectivity import Candidate, choose_sheets
from tally_core.structure.rates import center_on, rates_since
from tally_core.structure.structure import Structure, build_structure
from tally_core.structure.tables import LineTable, OperationTable, PartTable, columns_of

from loading.columns import fetch_columns
from loading.laid_over import laid_over
from loading.loaded import Loaded, PartNumbers, rows_named, rows_of
from loading.standards import fixed_for
from loading.table_columns import LINES, OPERATIONS, PARTS, RATES, as_held, in_list_order

__all__ = [
    "load_catalogue",
    "load_parts",
    "load_product",
    "load_products",
    "load_question",
    "load_users",
    "part_named",
    "question_of",
    "reached",
    "structure_of",
    "with_sheet_read_again",
]


def part_named(number: str) -> Part:
    """A part by its number. Raises TallyError when there is none."""
    part = Part.objects.filter(number=number).first()
    if part is None:
        raise MissingError(f"part {number} is not known")
    return part


def _in_force_sql(drafts: bool) -> str:
    statuses = "('released', 'draft')" if drafts else "('released')"
    return (
        f"s.status IN {statuses} AND (s.effective_from IS NULL OR s.effective_from <= %s) "
        "AND (s.effective_to IS NULL OR %s < s.effective_to)"
    )


def reached(part_ids: list[int], day: date, drafts: bool, sheet_id: int | None = None) -> np.ndarray:
    """The parts met on the way down from some parts through any sheet that may be in force: their keys, ascending."""
    return _walked(
        f"""SELECT unnest(%s::bigint[])
        UNION
        SELECT l.part_id FROM walked w
        JOIN definition_buildsheet s ON s.part_id = w.part_id AND ({_in_force_sql(drafts)} OR s.id = %s)
        JOIN definition_line l ON l.sheet_id = s.id AND l.part_id IS NOT NULL""",
        [np.array(part_ids, dtype=np.int64), day, day, sheet_id or 0],
    )


def _walked(steps: str, params: list) -> np.ndarray:
    """The keys of parts met by a recursive query ``walked(part_id)``, ascending."""
    source = f"FROM (WITH RECURSIVE walked(part_id) AS ({steps}) SELECT part_id FROM walked) AS met"
    return np.sort(fetch_columns({"part": ("part_id", "int8")}, source, params)["part"].astype(np.int64))


def _load(
    part_ids: np.ndarray | None, day: date, drafts: bool, sheet: BuildSheet | None, only_among: bool = False, costs: bool = True
) -> Loaded:
    """``part_ids`` None loads everything; ``only_among`` leaves out lines that take other parts; without ``costs`` what only a cost rests on is left out."""
    everything = part_ids is None
    keys = [] if everything else [part_ids]
    rows = fetch_columns({}, f"FROM definition_part {'' if everything else 'WHERE id = ANY(%s::bigint[])'} ORDER BY id", keys, PARTS)
    ids = rows["id"].astype(np.int64)
    made = ids[TAKES_SHEET[rows["kind"]]]
    # Ascending by sheet, for the lines to find their part.
    sheets, made_by, batches = _sheets_in_force(None if everything else made, day, drafts, sheet)
    part_row = rows_of(ids, made_by)
    batch = np.full(len(ids), np.nan)
    batch[part_row] = batches
    parts = PartTable(numbers=PartNumbers(ids), batch=batch, **as_held(rows, PartTable))
    if costs:
        _lay_prices(parts, ids, rows["dated"], day)

    def part_of(on: np.ndarray) -> np.ndarray:
        return part_row[np.searchsorted(sheets, on)]

    operations, operation_ids, center_ids = _read_operations(sheets, part_of, day, costs)
    lines, line_ids = _read_lines(
        sheets, part_of, ids, parts.unit, operation_ids, *(("AND part_id = ANY(%s::bigint[])", keys) if only_among else ())
    )
    sheet_of = dict(zip(made_by.tolist(), sheets.tolist(), strict=True))
    return Loaded(parts, lines, operations, ids, line_ids, operation_ids, center_ids, sheet_of, day, Workspace.the().currency)


def _lay_prices(parts: PartTable, ids: np.ndarray, dated: np.ndarray, day: date) -> None:
    """Put the prices of a day over those that parts began with, where parts have any."""
    if not dated.any():
        return
    for key, prices in Part.objects.filter(pk__in=ids[dated].tolist()).values_list("id", "prices"):
        price = prices_on(day, prices)
        if price is not None:
            parts.unit_cost[np.searchsorted(ids, key)] = float(price)


def _sheets_in_force(
    part_ids: np.ndarray | None, day: date, drafts: bool, instead: BuildSheet | None
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The sheets that count on a day: their keys, ascending, their parts and their batches.

    Args:
        part_ids: of these parts only; of all when None.
        instead: a sheet that counts for its part, whatever else is in force.
    """
    of = "" if part_ids is None else " AND s.part_id = ANY(%s::bigint[])"
    heads = fetch_columns(
        {"id": ("s.id", "int8"), "part": ("s.part_id", "int8"), "batch": ("s.batch", "float8")},
        f"FROM definition_buildsheet s WHERE {_in_force_sql(drafts)}{of}",
        [day, day, *([] if part_ids is None else [part_ids])],
    )
    sheets, parts, batch = heads["id"].astype(np.int64), heads["part"].astype(np.int64), heads["batch"].astype(float)
    if instead is not None:
        other = parts != instead.part_id
        sheets = np.append(sheets[other], instead.pk)
        parts = np.append(parts[other], instead.part_id)
        batch = np.append(batch[other], float(instead.batch))
    _found, where, count = np.unique(parts, return_inverse=True, return_counts=True)
    if (count > 1).any():
        candidates = BuildSheet.objects.filter(pk__in=sheets[count[where] > 1].tolist()).select_related("part")
        chosen = choose_sheets(
            (
                Candidate(
                    c.pk,
                    c.part_id,
                    c.alternate,
                    c.revision,
                    c.status,
                    c.effective_from,
                    c.effective_to,
                    c.alternate == c.part.default_alternate,
                )
                for c in candidates
            ),
            day,
            drafts,
        )
        kept = (count[where] == 1) | np.isin(sheets, list(chosen.values()))
        sheets, parts, batch = sheets[kept], parts[kept], batch[kept]
    order = np.argsort(sheets)
    return sheets[order], parts[order], batch[order]


def _read_operations(
    sheets: np.ndarray, part_of: Callable[[np.ndarray], np.ndarray], day: date, costs: bool = True
) -> tuple[OperationTable, np.ndarray, np.ndarray]:
    """The operations of some sheets at the rates of a day, with their keys and those of their work centers.

    Without ``costs`` only what a quantity rests on is read: their order and their yields.
    """
    work = fetch_columns({}, "FROM definition_operation WHERE sheet_id = ANY(%s::bigint[])", [sheets], OPERATIONS)
    made_by = part_of(work["sheet"])
    order = np.lexsort((work["resource"], work["sequence"], made_by))
    work = {name: column[order] for name, column in work.items()}
    operations = OperationTable(parent=made_by[order], **as_held(work, OperationTable))
    center_ids = work["center"].astype(np.int64)
    if costs:
        _lay_centers(operations, center_ids, day)
    return operations, work["id"], center_ids


def _lay_centers(operations: OperationTable, center_ids: np.ndarray, day: date) -> None:
    """Put in what operations have from their work centers, at the rates of a day."""
    found = fetch_columns(
        {"id": ("id", "int8"), "dated": ("rates <> '[]'::jsonb", "bool")} | RATES, "FROM definition_workcenter ORDER BY id", []
    )
    inside = np.flatnonzero(center_ids >= 0)
    row = rows_of(found["id"].astype(np.int64), center_ids[inside])
    for name in RATES:
        getattr(operations, name)[inside] = found[name][row]
    if found["dated"].any():
        for center in WorkCenter.objects.exclude(rates=[]):
            _lay_rates(operations, center_ids == center.pk, work_center_record(center), day)


def _lay_rates(operations: OperationTable, at: np.ndarray, center: WorkCenterRecord, day: date) -> None:
    """Put the rates of a day over those a work center began with."""
    since = rates_since(center, day)
    if not since or not at.any():
        return
    now = center_on(center, day)
    for name in since:
        getattr(operations, name)[at] = float(getattr(now, name))
    if now.setup_labor_rate is None:
        operations.setup_labor_rate[at] = float(now.labor_rate)


def _read_lines(
    sheets: np.ndarray,
    part_of: Callable[[np.ndarray], np.ndarray],
    part_ids: np.ndarray,
    stock_unit: np.ndarray,
    operation_ids: np.ndarray,
    only: str = "",
    more: Sequence[np.ndarray] = (),
) -> tuple[LineTable, np.ndarray]:
    """The lines of some sheets in list order, with their keys. Raises TallyError for a part not in ``part_ids``."""
    rows = fetch_columns({}, f"FROM definition_line WHERE sheet_id = ANY(%s::bigint[]) {only}", [sheets, *more], LINES)
    order = in_list_order(rows)
    rows = {name: column[order] for name, column in rows.items()}
    child = rows_of(part_ids, rows["child"].astype(np.int64))
    unit = rows["unit"].astype(np.int16)
    lines = LineTable(
        parent=part_of(rows["sheet"]),
        child=child,
        unit=np.where(unit >= 0, unit, stock_unit[child]) if len(part_ids) else unit,
        operation=rows_named(operation_ids, rows["operation"]),
        **{n: rows[n].astype(columns_of(LineTable)[n].type) for n in ("option", "first_day", "last_day", "per_lot", "removes")},
        **as_held(rows, LineTable),
    )
    return lines, rows["id"]


def with_sheet_read_again(loaded: Loaded, sheet: BuildSheet, only_lines: bool = False) -> Loaded:
    """What was loaded, with one sheet's batch, lines and operations as they stand in the database now.

    Args:
        only_lines: nothing but its lines was changed since, so that its operations are not read.

    Raises TallyError when the sheet takes a part that was not loaded.
    """
    row = loaded.row(sheet.part_id)
    keys = np.array([sheet.id])

    def part_of(sheets: np.ndarray) -> np.ndarray:
        return np.full(len(sheets), row, dtype=np.int32)

    first, last = np.searchsorted(loaded.operations.parent, [row, row + 1])
    if only_lines:
        operation_ids = loaded.operation_ids[first:last]
    else:
        operations, operation_ids, center_ids = _read_operations(keys, part_of, loaded.day)
    lines, line_ids = _read_lines(keys, part_of, loaded.part_ids, loaded.parts.unit, operation_ids)

    def spliced(held: np.ndarray, fresh: np.ndarray, start: int, stop: int) -> np.ndarray:
        return np.concatenate((held[:start], fresh, held[stop:]))

    # Lines name operations by their place: those behind the sheet's own move.
    at = loaded.lines.operation
    at = np.where(at >= last, at + len(operation_ids) - (last - first), at).astype(np.int32)
    held = replace(loaded.lines, operation=at)
    lines = replace(lines, operation=np.where(lines.operation >= 0, lines.operation + first, -1).astype(np.int32))
    own = np.flatnonzero(held.parent == row)
    start, stop = (int(own[0]), int(own[-1]) + 1) if len(own) else (len(held), len(held))
    found = replace(
        loaded,
        lines=LineTable(**{n: spliced(getattr(held, n), getattr(lines, n), start, stop) for n in LineTable.__dataclass_fields__}),
        line_ids=spliced(loaded.line_ids, line_ids, start, stop),
    )
    if only_lines:
        return found
    batch = loaded.parts.batch.copy()
    batch[row] = float(sheet.batch)
    return replace(
        found,
        parts=replace(loaded.parts, batch=batch),
        operations=OperationTable(
            **{n: spliced(getattr(loaded.operations, n), getattr(operations, n), first, last) for n in OperationTable.__dataclass_fields__}
        ),
        operation_ids=spliced(loaded.operation_ids, operation_ids, first, last),
        center_ids=spliced(loaded.center_ids, center_ids, first, last),
    )


def load_catalogue(day: date, drafts: bool = False) -> Loaded:
    """Everything, with the sheets in force on a day."""
    return _load(None, day, drafts, None)


def load_product(part: Part, basis: Basis, sheet: BuildSheet | None = None, costs: bool = True) -> Loaded:
    """What one part may take under a basis; ``sheet`` stands for the part's own instead of the one in force.

    Without ``costs`` only what quantities rest on is read; prices and rates are as where none was stated.
    """
    return load_parts(reached([part.id], basis.as_of, basis.drafts, sheet.id if sheet else None), basis, sheet, costs)


def load_parts(part_ids: np.ndarray, basis: Basis, sheet: BuildSheet | None = None, costs: bool = True) -> Loaded:
    """Parts that were :func:`reached`, with their sheets under a basis; ``sheet`` and ``costs`` as for :func:`load_product`."""
    return laid_over(_load(part_ids, basis.as_of, basis.drafts, sheet, costs=costs), basis)


def load_products(parts: list[Part], basis: Basis) -> Loaded:
    """What several parts may take under a basis, each row once."""
    return load_parts(reached([p.id for p in parts], basis.as_of, basis.drafts), basis)


def load_users(part: Part, basis: Basis) -> Loaded:
    """A part and every part met on the way up from it, with only the lines that lead down to it."""
    ids = _walked(
        f"""SELECT %s::bigint
        UNION
        SELECT s.part_id FROM walked w JOIN definition_line l ON l.part_id = w.part_id
        JOIN definition_buildsheet s ON s.id = l.sheet_id AND {_in_force_sql(basis.drafts)}""",
        [part.id, basis.as_of, basis.as_of],
    )
    return _load(ids, basis.as_of, basis.drafts, None, only_among=True, costs=False)


def question_of(loaded: Loaded, part: Part, basis: Basis) -> Question:
    """A question about a loaded part.

    Raises TallyError for an unknown option, a loop, units that do not convert or an option that removes too much.
    """
    top = loaded.row(part.id)
    structure = structure_of(loaded, basis.options, top)
    fixed = fixed_for(loaded.part_ids, loaded.parts.kind, basis, top)
    return Question(structure, top, basis, loaded.currency, fixed)


def structure_of(loaded: Loaded, chosen: Sequence[str], top: int | None = None) -> Structure:
    """What was loaded with some options chosen, for what one part takes or for all of it. Raises as :func:`question_of`."""
    options = {option.code: option for option in Option.objects.all()} if chosen else {}
    excludes = {code: option.not_with for code, option in options.items()}
    ids = [options[code].id for code in known_options(chosen, options, excludes)]
    return build_structure(loaded.parts, loaded.lines, loaded.operations, loaded.day, ids, top)


def load_question(part: Part, basis: Basis, sheet: BuildSheet | None = None, costs: bool = True) -> tuple[Loaded, Question]:
    """:func:`load_product` and :func:`question_of` in one."""
    loaded = load_product(part, basis, sheet, costs)
    return loaded, question_of(loaded, part, basis)
