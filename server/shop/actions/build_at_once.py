"""Build without a paper: opened, released, reported and closed in one transaction, at the times and quantities of the sheet."""

from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

from verbs.contract import writing

from shop.actions.close_order import close_order
from shop.actions.open_order import open_order
from shop.actions.release_order import release_order
from shop.actions.report_work import Report, report_work
from shop.actions.work_outside import send_outside
from shop.models import Entry, WorkOrder

__all__ = ["build_at_once"]


def build_at_once(user: Any, part_number: str, quantity: Any, key: UUID, options: Any = (), at: datetime | None = None) -> WorkOrder:
    """So many of a part are made: components go, the product comes, each operation in the time that it is planned with; once for a key.

    Raises as opening, releasing and reporting do; where a component is short, nothing is done.
    """
    with writing(user, "work orders"):
        told = Entry.objects.select_related("order").filter(key=uuid5(key, "0")).first()
        if told is not None:
            return told.order
        day = at.date() if at else None
        order = open_order(user, part_number, quantity, None, options, "", False, "built at once", day)
        order = release_order(user, order.pk, order.version, at)
        for n, o in enumerate(order.operations.filter(resource=0).order_by("row")):
            if o.outside:
                send_outside(user, order.pk, uuid5(key, f"sent {n}"), o.sequence, str(o.planned), "", at)
            lost = _lost(order, o.row)
            report = Report(
                o.sequence, str(o.planned - lost), str(lost), str(o.setup_minutes), str(o.run_minutes), "as planned" if lost else ""
            )
            report_work(user, order.pk, uuid5(key, str(n)), report, at)
        order.refresh_from_db()
        return close_order(user, order.pk, order.version, "", at)


def _lost(order: WorkOrder, row: int) -> Decimal:
    """What the yield of an operation is planned to lose: what it starts more than those that follow it."""
    following = order.operations.filter(resource=0, follows__contains=[row]).order_by("row").first()
    here = order.operations.get(row=row).planned
    return max(here - (following.planned if following else order.quantity), Decimal(0))
