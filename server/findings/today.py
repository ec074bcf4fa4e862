"""What the checks have for somebody today, by the last look through all sheets."""

from typing import Any

from definition.models.sheets import BuildSheet
from django.db.models import Count, Q
from readings.heaps import Heap, Row, heap_of, listed, sheet_address
from readings.survey import revision_words

from findings.models import Finding, Survey, Waiver

__all__ = ["found_on_mine", "my_drafts"]


def _open() -> Q:
    return ~Q(key__in=Waiver.objects.values("key"))


def my_drafts(user: Any) -> Heap:
    """Drafts that somebody worked at last, and what stops them."""
    survey = Survey.objects.order_by("-id").first()
    found = Finding.objects.filter(_open(), survey=survey, sheet__status="draft", sheet__changed_by=str(user))
    counts = {
        key: (stops, looks)
        for key, stops, looks in found.values_list("sheet").annotate(
            stops=Count("id", filter=Q(severity="stops")), looks=Count("id", filter=Q(severity="look"))
        )
    }

    def row(sheet: BuildSheet) -> Row:
        stops, looks = counts.get(sheet.pk, (0, 0))
        known = survey is not None and survey.finished_at >= sheet.changed_at
        words = [f"{stops} stop" if stops != 1 else "1 stops"] if stops else []
        words += [f"{looks} to look at"] if looks else []
        words = words or (["nothing stops it"] if known else ["not checked since it was changed"])
        name = f"{sheet.part.number}, {revision_words(sheet.alternate, sheet.revision)}"
        return Row(name, sheet.part.description, listed(words), sheet_address(sheet.part.number, sheet.pk), stops > 0)

    mine = BuildSheet.objects.filter(status="draft", changed_by=str(user)).select_related("part")
    return heap_of(mine.order_by("-changed_at"), row, "/sheets?status=draft")


def found_on_mine(user: Any) -> Heap:
    """Findings on released sheets that somebody worked at last; what stops stands first."""
    survey = Survey.objects.order_by("-id").first()
    found = Finding.objects.filter(_open(), survey=survey, sheet__status="released", sheet__changed_by=str(user))
    return heap_of(
        found.select_related("part", "sheet").order_by("-severity", "part__number", "item"),
        lambda f: Row(
            listed([f.part.number, f"item {f.item}" if f.item else ""]),
            f.message,
            "stops" if f.severity == "stops" else "to look at",
            sheet_address(f.part.number, f.sheet_id, f.line),
            f.severity == "stops",
        ),
        "/findings",
    )
