"""The number of the next purchase order: no order list and no order of ours has it."""

from definition.models.parts import OpenOrder
from django.db import connection
from jobs.locks import BUYING

from buying.models import PurchaseOrder

__all__ = ["next_order_number"]


def next_order_number() -> str:
    """The next running one, within the caller's transaction; those that came with lists are stepped over."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s, 1)", [BUYING])
    known = [*PurchaseOrder.objects.order_by("-id").values_list("number", flat=True)[:50]]
    known += OpenOrder.objects.filter(order__regex=r"^PO-[0-9]{1,9}$").values_list("order", flat=True).distinct()
    return f"PO-{max((int(n[3:]) for n in known), default=1000) + 1}"
