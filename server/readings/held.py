"""The products tallied last, kept in memory, so that an edit need not read all of a product again.

What is kept is only ever a shortcut: it counts as long as the database says that nothing around the edited sheet has
changed, and whoever finds it outdated or gone reads everything.
"""

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock

import numpy as np
from definition.models.sheets import BuildSheet
from loading.columns import wire_cursor
from loading.loaded import Loaded
from loading.written import Mark, written_since
from tally_core.cost.answers import Basis
from tally_core.time.leadtime import TimeTable

__all__ = ["Figures", "Held", "held_for", "hold", "state_around", "unchanged_around"]

#: What is held per process: so many products of so many lines together. Ten thousand lines take about five megabytes.
MOST_HELD, MOST_LINES = 16, 400_000
_STATE_SQL = """
    SELECT concat_ws('.',
        (SELECT coalesce(sum(hashint8extended(id, version)), 0) FROM definition_part WHERE id = ANY(%(parts)s::bigint[])),
        (SELECT coalesce(sum(hashint8extended(id, version)), 0) FROM definition_buildsheet
            WHERE part_id = ANY(%(parts)s::bigint[]) AND id <> %(sheet)s),
        (SELECT coalesce(sum(hashint8extended(id, version)), 0) FROM definition_workcenter),
        (SELECT coalesce(sum(hashtextextended(code || not_with::text, id)), 0) FROM definition_option),
        (SELECT string_agg(currency, '') FROM definition_workspace))
"""


@dataclass(slots=True)
class Figures:
    """What the sheet screen shows in figures, rounded to six decimals; NaN where a row does not count."""

    parts: np.ndarray  # rows of PART_FIGURES (``wire``), then the cost by element
    lines: np.ndarray  # rows of LINE_FIGURES, then the cost by element
    operations: np.ndarray  # rows of OPERATION_FIGURES, then the cost by element
    missing: list[str]  # numbers of parts that have no sheet and no given cost


@dataclass(slots=True)
class Held:
    """One sheet's product under one basis. Never changed: an edit leaves another in its place."""

    mark: Mark
    around: str  # the state of all but the sheet itself
    version: int  # of the sheet
    loaded: Loaded
    times: TimeTable
    figures: Figures

    @property
    def stamp(self) -> str:
        return f"{self.around}.{self.version}"


_held: OrderedDict[tuple[int, Basis], Held] = OrderedDict()
_lock = Lock()


def state_around(part_ids: np.ndarray, sheet: BuildSheet) -> str:
    """What a product's figures rest on besides one sheet of it: which parts they are, the versions of these, of their
    other sheets and of the work centers, as one word. Every action that changes one of them raises its version."""
    with wire_cursor() as cursor:
        cursor.execute(_STATE_SQL, {"parts": part_ids, "sheet": sheet.id})
        row = cursor.fetchone()
    assert row is not None
    return row[0]


def unchanged_around(held: Held, sheet: BuildSheet) -> Mark | None:
    """A fresh mark when all around the sheet is as it was when the product was held, else None.

    Mostly the histories tell: what was written since has nothing to do with this product. Where they leave a doubt,
    the state itself is asked for.
    """
    mark, written = written_since(held.mark, sheet.id)
    if not written.centers and not written.options and not written.whole:
        keys = np.fromiter(written.parts, dtype=np.int64)
        if not np.isin(keys, held.loaded.part_ids).any():
            return mark
    return mark if state_around(held.loaded.part_ids, sheet) == held.around else None


def hold(sheet: BuildSheet, basis: Basis, held: Held) -> str:
    """Keep a product, let go of the one longest unused, and answer with the stamp. Kept is only what rests on plain inputs."""
    if not basis.plain_inputs:
        return held.stamp
    with _lock:
        _held[sheet.id, basis] = held
        _held.move_to_end((sheet.id, basis))
        while len(_held) > MOST_HELD or sum(len(h.loaded.lines) for h in _held.values()) > MOST_LINES:
            _held.popitem(last=False)
    return held.stamp


def held_for(sheet: BuildSheet, basis: Basis) -> Held | None:
    """The product as it was last tallied in this process."""
    with _lock:
        return _held.get((sheet.id, basis))
