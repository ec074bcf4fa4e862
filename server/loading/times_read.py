"""What only time needs, from the database to the core."""

import numpy as np
from definition.models.sheets import BuildSheet
from tally_core.basics.errors import TallyError
from tally_core.calendar.calendars import PLAIN_WEEK, parse_shifts
from tally_core.calendar.paces import parse_paces, work_together
from tally_core.structure.tables import OperationTable
from tally_core.time.leadtime import TimeTable, order_of_work

from loading.columns import fetch_columns, number_or_nan, wire_cursor
from loading.loaded import CHANGED, Loaded

__all__ = ["load_times", "with_times_read_again"]

_TIME_COLUMNS = {"id": ("o.id", "uuid"), "stations": ("least(o.stations, coalesce(w.stations, 1))", "int4")} | {
    name: number_or_nan(expression)
    for name, expression in {
        "queue_minutes": "o.queue_minutes",
        "wait_minutes": "o.wait_minutes",
        "move_minutes": "o.move_minutes",
        "transfer_quantity": "o.transfer_quantity",
        "outside_days": "(CASE WHEN o.outside THEN o.lead_days ELSE 0 END)::float8",
    }.items()
}


def load_times(loaded: Loaded) -> TimeTable:
    """What the time rules read of parts and operations that were loaded. Four queries, whatever their number.

    Raises TallyError when parts or operations were taken away or changed since.
    """
    lead = fetch_columns(
        {"days": ("p.lead_time_days", "int4")}, "FROM definition_part p WHERE p.id = ANY(%s::bigint[]) ORDER BY p.id", [loaded.part_ids]
    )
    if len(lead["days"]) != len(loaded.part_ids):
        raise TallyError(CHANGED)
    keys = np.array(list(loaded.sheet_of.values()), dtype=np.int64)
    return _read_times(keys, loaded.operations, loaded.operation_ids, loaded.center_ids, lead["days"].astype(float))


def _read_times(
    sheets: np.ndarray, operations: OperationTable, operation_ids: np.ndarray, center_ids: np.ndarray, lead: np.ndarray
) -> TimeTable:
    """The columns of the operations of some sheets, in the order in which they were loaded."""
    rows = fetch_columns(
        _TIME_COLUMNS,
        """FROM definition_operation o LEFT JOIN definition_workcenter w ON w.id = o.work_center_id
        WHERE o.sheet_id = ANY(%s::bigint[])""",
        [sheets],
    )
    order, wanted = np.argsort(rows["id"]), np.argsort(operation_ids)
    if len(order) != len(wanted) or (rows["id"][order] != operation_ids[wanted]).any():
        raise TallyError(CHANGED)
    at = np.empty_like(order)
    at[wanted] = order
    with wire_cursor() as cursor:
        cursor.execute("SELECT id, after FROM definition_operation WHERE sheet_id = ANY(%s::bigint[]) AND cardinality(after) > 0", [sheets])
        named = {key.bytes: after for key, after in cursor.fetchall()}
        cursor.execute("SELECT id, shifts, paces, stations FROM definition_workcenter")
        of_center = {key: stated for key, *stated in cursor.fetchall()}
    row_of = dict(zip(operation_ids.tolist(), range(len(at)), strict=True)) if named else {}
    before, after = order_of_work(operations, {row_of[key]: others for key, others in named.items()})
    share, stations = np.ones(len(at)), rows["stations"][at].astype(float)
    for center in np.unique(center_ids[center_ids >= 0]).tolist():
        shifts, paces, there = of_center.get(center, ("", "", 1))
        here = center_ids == center
        share[here] = (parse_shifts(shifts) if shifts else PLAIN_WEEK).share()
        if paces:
            each = parse_paces(paces, there)
            stations[here] = np.array([work_together(each, used) for used in range(there + 1)])[stations[here].astype(int)]
    return TimeTable(
        stations=stations,
        share=share,
        before=before,
        after=after,
        lead_days=lead,
        **{name: rows[name][at].astype(float) for name in _TIME_COLUMNS if name not in ("id", "stations")},
    )


def with_times_read_again(times: TimeTable, held: Loaded, loaded: Loaded, sheet: BuildSheet) -> TimeTable:
    """What was read for ``held``, with one sheet's operations as they stand in ``loaded`` (:func:`with_sheet_read_again`)."""
    row = loaded.row(sheet.part_id)
    first, stop = np.searchsorted(held.operations.parent, [row, row + 1])
    _, last = np.searchsorted(loaded.operations.parent, [row, row + 1])
    own = slice(first, last)
    operations = OperationTable(**{n: getattr(loaded.operations, n)[own] for n in OperationTable.__dataclass_fields__})
    fresh = _read_times(np.array([sheet.id]), operations, loaded.operation_ids[own], loaded.center_ids[own], times.lead_days)
    elsewhere = (times.after < first) | (times.after >= stop)
    moved = {n: getattr(times, n)[elsewhere] for n in ("before", "after")}
    return TimeTable(
        lead_days=times.lead_days,
        **{n: np.concatenate((np.where(x >= stop, x + last - stop, x), getattr(fresh, n) + first)) for n, x in moved.items()},
        **{
            n: np.concatenate((getattr(times, n)[:first], getattr(fresh, n), getattr(times, n)[stop:]))
            for n in TimeTable.__dataclass_fields__
            if n not in ("before", "after", "lead_days")
        },
    )
