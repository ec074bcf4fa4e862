"""The columns of a definition, as they are once they have been read."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
from django.db import connection
from tally_core.basics.errors import MissingError, TallyError
from tally_core.structure.tables import LineTable, OperationTable, PartTable

from loading.columns import keys_text

__all__ = ["CHANGED", "Loaded", "PartNumbers", "rows_named", "rows_of"]

#: What is said where rows do not fit together: somebody wrote between two looks.
CHANGED = "Sheets were changed while they were read; ask once more."


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
        """The row of a part by its database key. Raises MissingError for one that is not among these: taken away meanwhile."""
        row = int(np.searchsorted(self.part_ids, part_id))
        if row == len(self.part_ids) or self.part_ids[row] != part_id:
            raise MissingError("This part is not there, or no longer.")
        return row


class PartNumbers(Sequence[str]):
    """The numbers of parts, read all at once when the first is asked for: figures are made without them."""

    def __init__(self, ids: np.ndarray) -> None:
        self._ids = ids
        self._numbers: list[str] | None = None

    def __len__(self) -> int:
        return len(self._ids)

    def __getitem__(self, row):
        if self._numbers is None:
            with connection.cursor() as cursor:
                # One array of text comes over faster than as many rows.
                cursor.execute(
                    "SELECT array_agg(number ORDER BY id) FROM definition_part WHERE id = ANY(%s::bigint[])",
                    [keys_text(self._ids.tolist())],
                )
                self._numbers = cursor.fetchone()[0] or []
            if len(self._numbers) != len(self._ids):
                self._numbers = None
                raise TallyError("Parts were changed while they were read; ask once more.")
        return self._numbers[row]


def rows_of(ids: np.ndarray, keys: np.ndarray) -> np.ndarray:
    """The rows of some keys among ids that ascend, -1 for keys below 0. Raises TallyError for a key that is not among them."""
    rows = np.where(keys >= 0, np.searchsorted(ids, keys), -1).astype(np.int32)
    there = keys >= 0
    if there.any() and (not len(ids) or (ids.take(rows[there], mode="clip") != keys[there]).any()):
        raise TallyError(CHANGED)
    return rows


def rows_named(ids: np.ndarray, keys: np.ndarray) -> np.ndarray:
    """The rows of some keys of 16 bytes among ids, -1 for a key that is not among them.

    Fast where many keys follow upon one like them, as lines of a list that are issued at one operation.
    """
    if not len(keys):
        return np.empty(0, dtype=np.int32)
    halves = np.ascontiguousarray(keys).view(np.uint64).reshape(-1, 2)
    begins = np.append(True, (halves[1:] != halves[:-1]).any(axis=1))
    row = dict(zip(ids.tolist(), range(len(ids)), strict=True))
    found = np.array([row.get(key, -1) for key in keys[begins].tolist()], dtype=np.int32)
    return found[np.cumsum(begins) - 1]
