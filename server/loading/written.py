"""What was written to the definition since some moment: one reading for all that rests on what it held then.

Every write leaves a row of history, so nothing is missed. Histories count upwards, but who counted first may be done last: a
mark says whether anybody was about to write when it was taken, and who.
"""

from dataclasses import dataclass, field
from typing import Any

from django.db import connection
from psycopg import Cursor
from psycopg.types.numeric import Int8

__all__ = ["Mark", "Written", "mark_now", "written_since"]

#: So many rows of one kind are named; where more were written, all counts as written.
_MOST = 2000
#: Rows numbered so far below a mark may have been written by somebody who was not done when it was taken.
_SLACK = 100_000
#: The number of the oldest other writer that is not done, whether there is none, and how far the histories are. Rows carry the
#: lower half of the number of the transaction that wrote them. All databases of a server share these numbers: who is seen to
#: write to another one is not waited for.
_MARK_SQL = """
    WITH writers AS (
        SELECT min(writer::text::bigint) AS oldest FROM pg_snapshot_xip(pg_current_snapshot()) AS writer
        WHERE writer IS DISTINCT FROM pg_current_xact_id_if_assigned()
            AND writer::text::bigint %% 4294967296 NOT IN (
                SELECT backend_xid::text::bigint FROM pg_stat_activity
                WHERE backend_xid IS NOT NULL AND datname <> current_database()))
    SELECT coalesce(oldest, pg_snapshot_xmax(pg_current_snapshot())::text::bigint) %% 4294967296, oldest IS NULL,
        (SELECT coalesce(max(history_id), 0) FROM definition_historicalpart),
        (SELECT coalesce(max(history_id), 0) FROM definition_historicalbuildsheet),
        (SELECT coalesce(max(history_id), 0) FROM definition_historicalworkcenter),
        (SELECT coalesce(max(history_id), 0) FROM definition_historicaloption)
"""
_WRITTEN_SQL = ", ".join(
    f"ARRAY(SELECT DISTINCT {key} FROM definition_historical{table} WHERE history_id > %({mark})s"
    f" AND (%(certain)s OR xmin::text::bigint >= %(oldest)s){but} LIMIT {_MOST})"
    for table, key, mark, but in (
        ("part", "id", "part", ""),
        ("buildsheet", "part_id", "sheet", " AND id <> %(but)s"),
        ("workcenter", "id", "center", ""),
        ("option", "id", "option", ""),
    )
)


@dataclass(frozen=True, slots=True)
class Mark:
    """How far the histories of parts, sheets, work centers and options had come; ``certain``: nobody was about to write
    beneath it, else ``oldest`` is the first transaction that was not done."""

    oldest: int
    certain: bool
    part: int
    sheet: int
    center: int
    option: int


@dataclass(slots=True)
class Written:
    """What was written to, by its keys: ``parts`` in themselves or in a sheet of theirs. ``whole``: more than is named."""

    parts: set[int] = field(default_factory=set)
    centers: set[int] = field(default_factory=set)
    options: set[int] = field(default_factory=set)
    whole: bool = False

    def __bool__(self) -> bool:
        return bool(self.parts or self.centers or self.options)


def mark_now() -> Mark:
    """A mark to ask from later; taken before what rests on it is read. One query."""
    return written_since(None)[0]


def written_since(since: Mark | None, but: int = 0) -> tuple[Mark, Written]:
    """A fresh mark, and what was written since an earlier one, leaving out one sheet by its key. One query."""
    asked: dict[str, Any] = {"but": Int8(but)}
    if since is not None:
        slack = 0 if since.certain else _SLACK
        asked |= {n: Int8(getattr(since, n) - slack) for n in ("part", "sheet", "center", "option")}
        asked |= {"certain": since.certain, "oldest": Int8(since.oldest)}
    connection.ensure_connection()
    # Asked before every edit and every reading: to plan it takes four times as long as to answer it.
    with Cursor(connection.connection) as cursor:
        cursor.execute(f"{_MARK_SQL}{f', {_WRITTEN_SQL}' if since is not None else ''} FROM writers", asked, prepare=True)
        row = cursor.fetchone()
    assert row is not None
    found = [set(keys) for keys in row[6:]] or [set()] * 4
    whole = any(len(keys) >= _MOST for keys in found)
    return Mark(*row[:6]), Written(found[0] | found[1], found[2], found[3], whole)
