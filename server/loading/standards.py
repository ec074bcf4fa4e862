"""Standards, from the database to the core."""

from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
from standards.by_name import amounts_sql, places_sql
from tally_core.basics.elements import ELEMENTS
from tally_core.basics.kinds import HAS_PRICE
from tally_core.cost.answers import Basis
from tally_core.cost.cost import Fixed

from loading.columns import day_number, fetch_columns

__all__ = ["MILLION", "Standards", "fixed_for", "read_standards"]

MILLION = 1e6


@dataclass(slots=True)
class Standards:
    """The standards of some parts, ascending by part; money in whole millionths."""

    key: np.ndarray  # int64: of the standard
    part: np.ndarray  # int64: of the part
    round: np.ndarray  # int64
    first_day: np.ndarray  # int64: ordinal days
    unit: np.ndarray  # int64
    elements: np.ndarray  # int64 of shape (N, E)
    this_level: np.ndarray

    def fixed(self, rows: np.ndarray, at: np.ndarray) -> Fixed:
        """Part rows that stand at the standards in rows ``at``."""
        return Fixed(rows, self.elements[at] / MILLION, self.this_level[at] / MILLION)


def read_standards(day: date | None, part_ids: np.ndarray | None = None) -> Standards:
    """The standard of each part that holds on a day; the newest one when ``day`` is None.

    Args:
        part_ids: keys; of all parts when None.
    """
    conditions: list[str] = []
    params: list[Any] = []
    if day is not None:
        conditions.append("first_day <= %s")
        params.append(day)
    if part_ids is not None:
        conditions.append("part_id = ANY(%s::bigint[])")
        params.append(part_ids)
    where = f"WHERE {' AND '.join(conditions)}" if conditions else ""
    listed = {
        f"{name}_{i}": (amount, "int8")
        for name in ("elements", "this_level")
        for i, amount in enumerate(amounts_sql(f"t.{name}", "n", ELEMENTS))
    }
    rows = fetch_columns(
        {n: (f"t.{c}", "int8") for n, c in {"key": "id", "part": "part_id", "round": "round_id", "unit": "unit"}.items()}
        | {"first_day": day_number("t.first_day", 0)}
        | listed,
        f"FROM (SELECT DISTINCT ON (part_id) * FROM standards_standard {where} ORDER BY part_id, first_day DESC) AS t "
        f"JOIN {places_sql('elements', ELEMENTS)} AS n ON n.round_id = t.round_id ORDER BY t.part_id",
        params,
    )

    def stacked(name: str) -> np.ndarray:
        return np.column_stack([rows[f"{name}_{i}"] for i in range(len(ELEMENTS))]).astype(np.int64)

    plain = {n: rows[n].astype(np.int64) for n in ("key", "part", "round", "unit", "first_day")}
    return Standards(**plain, elements=stacked("elements"), this_level=stacked("this_level"))


def fixed_for(part_ids: np.ndarray, kind: np.ndarray, basis: Basis, top: int) -> Fixed | None:
    """The parts that stand at their standard under the prices of a basis.

    ``standards``: what is bought stands at its standard, and all levels are rolled up. ``level``: everything but the part
    asked about does, so that one level is rolled up. A part without a standard is rolled up or priced as it stands.
    """
    if basis.prices not in ("standards", "level"):
        return None
    found = read_standards(basis.as_of, part_ids)
    rows = np.searchsorted(part_ids, found.part)
    stands = rows != top
    if basis.prices == "standards":
        stands &= HAS_PRICE[kind[rows]]
    return found.fixed(rows[stands], np.flatnonzero(stands))
