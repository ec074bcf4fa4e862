"""Rows on their way to a screen, as columns: what is the same in all of them is said once, figures by their names.

For a product of ten thousand lines the names of thirty fields in every row would be most of what is sent.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from tally_core.basics.elements import ELEMENTS

__all__ = ["LINE_FIGURES", "OPERATION_FIGURES", "PART_FIGURES", "figures_by_name", "table"]

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
