"""What an edit changed in the figures: computed in memory from the product held since it was last tallied."""

from typing import Any

import numpy as np
from definition.models.sheets import BuildSheet
from loading.reads import load_parts, question_of, reached, with_sheet_read_again
from loading.times_read import load_times, with_times_read_again
from loading.written import mark_now
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis

from readings.held import Held, held_for, hold, state_around, unchanged_around
from readings.sheet_view import figures_of, line_columns, operation_columns, options_of, with_figures
from readings.wire import LINE_FIGURES, OPERATION_FIGURES, PART_FIGURES, figures_by_name, keys_hex

__all__ = ["changed_by_edit"]

_NEED = PART_FIGURES.index("need")
_NOT_NEED = np.delete(np.arange(len(PART_FIGURES) + len(ELEMENTS)), _NEED)


def changed_by_edit(sheet: BuildSheet, basis: Basis, stamp: str, only_lines: bool = False) -> dict[str, Any] | None:
    """The rows of an edited sheet, and the figures of other rows that its edit changed. Operations of the sheet that are as they were are
    among the other rows.

    Args:
        stamp: of the view the edit was made on. Where another process answered last the figures of that view are not
            known here, and those of all rows are given.
        only_lines: the edit changed nothing but lines.

    Returns None when the view has to be read again: something around the sheet has changed since, the sheet takes
    other parts than before, or the basis has no answer any more.
    """
    around, _, _ = stamp.rpartition(".")
    # Standards and proposals may change without a trace in the histories that are looked at.
    held = held_for(sheet, basis) if basis.plain_inputs else None
    try:
        if held is not None and held.around == around:
            mark = unchanged_around(held, sheet)
            if mark is None:
                return None
            # No other edit came between the product that is held and this one.
            only_lines = only_lines and held.version == sheet.version - 1
            loaded = with_sheet_read_again(held.loaded, sheet, only_lines)
            top = loaded.row(sheet.part_id)
            if _takes(loaded.lines, top) != _takes(held.loaded.lines, top):
                return None
            times = held.times if only_lines else with_times_read_again(held.times, held.loaded, loaded, sheet)
        else:
            mark = mark_now()
            part_ids = reached([sheet.part_id], basis.as_of, basis.drafts, sheet.id)
            if state_around(part_ids, sheet) != around:
                return None
            loaded = load_parts(part_ids, basis, sheet)
            top = loaded.row(sheet.part_id)
            times = load_times(loaded)
        figures = figures_of(loaded, question_of(loaded, sheet.part, basis), times)
    except TallyError:
        return None
    row_of = {key: row for row, key in enumerate(loaded.part_ids.tolist())}
    lines = np.flatnonzero(loaded.lines.parent == top)
    parts, line = np.arange(len(loaded.part_ids)), np.flatnonzero(loaded.lines.parent != top)
    needs = parts
    operation, own_operations = np.flatnonzero(loaded.operations.parent != top), None
    known = held if held is not None and held.stamp == stamp else None
    if known is not None:
        # All rows but the sheet's own stand in the same order as before.
        # Whatever stands below a line is needed more often when more of it is, and mostly nothing else of it is another.
        needs, parts = (_differing(known.figures.parts[:, of], figures.parts[:, of]) for of in ([_NEED], _NOT_NEED))
        line = line[_differing(known.figures.lines[known.loaded.lines.parent != top], figures.lines[line])]
    if known is not None and only_lines:
        operation = _differing(known.figures.operations, figures.operations)
    else:
        own = np.flatnonzero(loaded.operations.parent == top)
        rows = operation_columns([sheet.id], row_of)
        own_operations = with_figures(rows, loaded.operation_ids[own], figures.operations[own], OPERATION_FIGURES)
        if known is not None:
            old = known.figures.operations[known.loaded.operations.parent != top]
            operation = operation[_differing(old, figures.operations[operation])]
    return {
        "stamp": hold(sheet, basis, Held(mark, around, sheet.version, loaded, times, figures)),
        "missing": figures.missing,
        "options": options_of(loaded),
        "own_lines": with_figures(line_columns([sheet.id], row_of), loaded.line_ids[lines], figures.lines[lines], LINE_FIGURES),
        "own_operations": own_operations,
        "needs": {"rows": needs, "need": np.ascontiguousarray(figures.parts[needs, _NEED])},
        "parts": {"rows": parts} | figures_by_name(figures.parts[parts][:, _NOT_NEED], tuple(n for n in PART_FIGURES if n != "need")),
        "lines": {"keys": keys_hex(loaded.line_ids[line])} | figures_by_name(figures.lines[line], LINE_FIGURES),
        "operations": {"keys": keys_hex(loaded.operation_ids[operation])}
        | figures_by_name(figures.operations[operation], OPERATION_FIGURES),
    }


def _takes(lines: Any, top: int) -> set[int]:
    return set(lines.child[lines.parent == top].tolist())


def _differing(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """The rows in which two tables differ; NaN is as NaN."""
    same = (before == after) | (np.isnan(before) & np.isnan(after))
    return np.flatnonzero(~same.all(axis=1))
