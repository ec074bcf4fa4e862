"""Rows on their way to a screen, as columns: what is the same in all of them is said once, figures by their names.

For a product of ten thousand lines the names of thirty fields in every row would be most of what is sent.
"""

from collections import Counter
from collections.abc import Hashable, Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from tally_core.basics.elements import ELEMENTS

__all__ = ["LINE_FIGURES", "OPERATION_FIGURES", "PART_FIGURES", "figures_by_name", "keys_hex", "shortened", "table"]

#: Fewer rows than this are not worth looking for how else they could be said.
_WORTH_IT = 64
#: A column of so many values or fewer is said by their places.
_FEW = 16

#: What stands in a table of figures, before the cost by element.
PART_FIGURES = ("cost", "this_level", "lot", "need", "routing_days", "lead_days")
LINE_FIGURES = ("net", "gross", "cost")
OPERATION_FIGURES = ("cost", "hours", "lot_setup", "lot_run", "lot_elapsed")


def figures_by_name(values: np.ndarray, names: Sequence[str]) -> dict[str, Any]:
    """A table of figures as columns, the cost by element apart; elements that cost nothing anywhere are left out.

    NaN, where a row does not count, is null on the wire.

    >>> found = figures_by_name(np.array([[2.0, 1.0, 3.0, 3.0, *[0.0] * 8]]), LINE_FIGURES)
    >>> [(n, c.tolist()) for n, c in found["each"].items()], list(found["elements"])
    ([('net', [2.0]), ('gross', [1.0]), ('cost', [3.0])], ['material'])
    """
    costs = values[:, len(names) :]
    # NaN is not 0 and not itself.
    used = ((costs != 0) & (costs == costs)).any(axis=0)
    return {
        "each": {name: np.ascontiguousarray(values[:, i]) for i, name in enumerate(names)},
        "elements": {n: np.ascontiguousarray(costs[:, i]) for i, n in enumerate(ELEMENTS) if used[i]},
    }


def keys_hex(ids: np.ndarray) -> list[str]:
    """Keys as they are written, without hyphens."""
    text = ids.tobytes().hex()
    return [text[at : at + 32] for at in range(0, len(text), 32)]


def table(columns: Mapping[str, Iterable[Any]], figures: dict[str, Any] | None = None) -> dict[str, Any]:
    """Columns of one length as a table: ``same`` holds what is one value in all rows, ``each`` the others.

    >>> table({"unit": ["ea", "ea"], "item": [10, 20]})
    {'count': 2, 'same': {'unit': 'ea'}, 'each': {'item': [10, 20]}, 'elements': {}}
    """
    listed = {name: list(column) for name, column in columns.items()}
    count = len(next(iter(listed.values()), []))
    same = {n: c[0] for n, c in listed.items() if count and c.count(c[0]) == count}
    figures = figures or {"each": {}, "elements": {}}
    each = {n: c for n, c in listed.items() if n not in same}
    return {"count": count, "same": same, "each": each | figures["each"], "elements": figures["elements"]}


def shortened(rows: dict[str, Any]) -> dict[str, Any]:
    """A :func:`table` with its columns in fewer words, where it has many rows: ``same`` as there; ``steps`` holds the first number and
    by how much it grows; ``but`` one value, or the column before it, and the rows in which something else stands; ``few`` a column's few
    values and for each row the place of its own. ``each`` holds what is left.

    >>> found = shortened(table({"kind": ["made", "bought"] * 40, "item": list(range(10, 810, 10)), "lot": [1.0] * 79 + [2.5]}))
    >>> found["few"]["kind"]["words"], found["steps"], found["each"]
    (['made', 'bought'], {'item': [10, 10]}, {})
    >>> found["but"]
    {'lot': {'like': '', 'value': 1.0, 'rows': [79], 'values': [2.5]}}
    """
    count = rows["count"]
    found = rows | {"same": dict(rows["same"]), "few": {}, "steps": {}, "but": {}, "each": {}}
    whole: dict[str, np.ndarray] = {}
    for name, column in rows["each"].items():
        if count < _WORTH_IT:
            found["each"][name] = column
            continue
        if steps := _steps(column):
            found["steps"][name] = steps
        elif but := _but(column, whole):
            if but["rows"] or but["like"]:
                found["but"][name] = but
            else:
                found["same"][name] = but["value"]
        elif few := _few(column):
            found["few"][name] = few
        else:
            found["each"][name] = column
            if isinstance(column, np.ndarray):
                whole[name] = column
    return found


def _steps(column: Sequence[Any] | np.ndarray) -> list[int] | None:
    """The first of evenly growing whole numbers and by how much they grow; none where they do not."""
    first, second = column[0], column[1]
    if not all(isinstance(x, int | float) and not isinstance(x, bool) and x == x // 1 for x in (first, second)) or first == second:
        return None
    grows = second - first
    if any(value != first + at * grows for at, value in enumerate(column)):
        return None
    return [int(first), int(grows)]


def _but(column: Sequence[Any] | np.ndarray, whole: Mapping[str, np.ndarray]) -> dict[str, Any] | None:
    """What stands in nearly all rows, one value or what stands in another column, and the others; none where they are many."""
    most = len(column) // 8
    if isinstance(column, np.ndarray):
        for name, other in whole.items():
            rows = np.flatnonzero((column != other) & ~(np.isnan(column) & np.isnan(other)))
            if len(rows) <= most:
                return {"like": name, "value": None, "rows": rows.tolist(), "values": _plain(column[rows])}
    values = [value for value in _plain(column[:_WORTH_IT]) if isinstance(value, Hashable)]
    usual, times = Counter(values).most_common(1)[0] if values else (None, 0)
    if times * 2 < _WORTH_IT:
        return None
    listed = _plain(column)
    if len(column) - listed.count(usual) > most:
        return None
    others = [at for at, value in enumerate(listed) if value != usual]
    return {"like": "", "value": usual, "rows": others, "values": [listed[at] for at in others]}


def _few(column: Sequence[Any] | np.ndarray) -> dict[str, list[Any]] | None:
    """The values of a column that has few of them, as they come first, and for each row the place of its own; none where there are many."""
    if not all(isinstance(value, Hashable) for value in column[:_WORTH_IT]) or len(set(_plain(column[:_WORTH_IT]))) > _FEW:
        return None
    listed = _plain(column)
    try:
        place = {value: at for at, value in enumerate(dict.fromkeys(listed))}
    except TypeError:
        # A list stands further down.
        return None
    return {"words": list(place), "at": [place[value] for value in listed]} if len(place) <= _FEW else None


def _plain(column: Sequence[Any] | np.ndarray) -> list[Any]:
    """Plain values; NaN goes as none."""
    if isinstance(column, np.ndarray):
        return [None if value != value else value for value in column.tolist()]
    return list(column)
