"""What inquiries have for somebody today."""

from typing import Any

from django.db.models import Q
from django.utils.timezone import localdate
from readings.heaps import Heap, Row, heap_of, listed

from inquiries.models import STATES, Inquiry
from inquiries.reads import counts_of

__all__ = ["open_inquiries"]


def open_inquiries(user: Any) -> Heap:
    """Inquiries that are in work, those that somebody has first; by the day an answer is wanted."""
    found = Inquiry.objects.filter(state__in=("work", "waiting", "ready"), customer__isnull=False)
    mine = found.filter(Q(held_by=str(user)) | Q(held_by="")).select_related("customer").order_by("wanted_by", "number")
    counts = counts_of(list(mine[:50]))
    today = localdate()

    def row(inquiry: Inquiry) -> Row:
        count = counts.get(inquiry.pk, {"lines": 0, "decided": 0})
        late = inquiry.wanted_by is not None and inquiry.wanted_by < today
        when = f"by {inquiry.wanted_by:%d %b}" if inquiry.wanted_by else ""
        far = f"{count['decided']} of {count['lines']} lines" if count["lines"] else "no list yet"
        return Row(
            inquiry.number,
            listed([inquiry.title, str(inquiry.customer or "")]),
            listed([when, STATES[inquiry.state] if inquiry.state != "work" else far]),
            f"/inquiries/{inquiry.pk}",
            late,
        )

    return heap_of(mine, row, "/inquiries")
