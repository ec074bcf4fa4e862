"""What handing over has for somebody today."""

from typing import Any

from readings.heaps import Heap, Row, heap_of, listed

from handover.models import Drift, Handover

__all__ = ["out_of_step"]


def out_of_step(user: Any) -> Heap:
    """Handovers that broke off, then products that were not in step last night, those first that could not be looked at."""
    broken = [
        Row(h.number, f"{h.top.number} and {h.record}", "broke off: finish it or take it back", f"/handover/{h.pk}", True)
        for h in Handover.objects.filter(state="writing").select_related("top")
    ]
    drifted = Drift.objects.exclude(counts={}, failed="").select_related("top").order_by("-failed", "top__number")

    def row(drift: Drift) -> Row:
        counts = listed(f"{n} {verdict}" for verdict, n in drift.counts.items())
        return Row(drift.top.number, drift.record, drift.failed or counts, f"/handover?top={drift.top.number}&record={drift.record}")

    found = heap_of(drifted, row, "/handover")
    return Heap([*broken, *found.rows], found.total + len(broken), "/handover")
