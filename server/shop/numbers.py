"""The number of the next work order, and what open orders still bring, as plans and lead times read it."""

from typing import Any

from definition.models.parts import OpenOrder
from definition.models.work_centers import FinishedWork
from django.db import connection
from jobs.locks import SHOP

from shop.models import WorkOrder

__all__ = ["keep_open_quantity", "next_number"]


def next_number() -> str:
    """The next running one, within the caller's transaction; those that came with lists are stepped over."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s, 1)", [SHOP])
        cursor.execute(
            'SELECT coalesce(max(substr(n, 4)::bigint), 5000) FROM (SELECT number AS n FROM {} UNION ALL SELECT "order" FROM {} '
            "UNION ALL SELECT \"order\" FROM {}) AS known WHERE n ~ '^WO-[0-9]{{1,9}}$'".format(
                *(m._meta.db_table for m in (WorkOrder, OpenOrder, FinishedWork))
            )
        )
        return f"WO-{cursor.fetchone()[0] + 1}"


def keep_open_quantity(order: WorkOrder, user: Any) -> None:
    """Bring the open order that stands with the part up to date, within the caller's transaction."""
    left = order.quantity - order.good if order.state in ("released", "running") else 0
    row = OpenOrder.objects.select_for_update().filter(part=order.part, order=order.number).first()
    if left <= 0:
        if row is not None:
            row.delete()
        return
    if row is None:
        row = OpenOrder(part=order.part, order=order.number, kept=True)
    elif (row.quantity, row.due_on) == (left, order.wanted):
        return
    row.quantity, row.due_on, row.added_by = left, order.wanted, str(user)
    row._history_user = user  # type: ignore[attr-defined]
    row.save()
