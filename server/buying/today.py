"""What buying has for somebody today."""

from typing import Any

from django.db.models import Count, F
from django.utils.timezone import localdate
from readings.heaps import Heap, Row, heap_of, listed

from buying.models import Request

__all__ = ["open_requests"]


def open_requests(user: Any) -> Heap:
    """Requests for quotation that are not answered: those that wait to be looked at, and those a supplier has; the most overdue first."""
    found = Request.objects.filter(state__in=("draft", "sent")).annotate(parts=Count("lines"))
    today = localdate()

    def row(request: Request) -> Row:
        late = request.state == "sent" and request.wanted_by is not None and request.wanted_by < today
        when = f"wanted by {request.wanted_by:%d %b}" if request.wanted_by else "no day"
        count = request.parts  # type: ignore[attr-defined]
        return Row(
            request.number,
            listed([str(request.supplier_id or ""), f"{count} {'part' if count == 1 else 'parts'}"]),
            "not sent yet" if request.state == "draft" else when,
            f"/buying/{request.plan_id}?open=requests" if request.plan_id else "/requests",
            late,
        )

    return heap_of(found.order_by(F("wanted_by").asc(nulls_last=True), "id"), row, "/requests")
