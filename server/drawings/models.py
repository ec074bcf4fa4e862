"""Drawings of made parts: what stands where on the paper."""

from definition.models.parts import Part
from django.db import models
from simple_history.models import HistoricalRecords

__all__ = ["Drawing"]


class Drawing(models.Model):
    """The drawing of a part. ``laid`` is the plain form of ``drawings.laid.Laid``, with its format number."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, related_name="drawing")
    laid = models.JSONField()
    version = models.IntegerField(default=1)
    changed_by = models.CharField(max_length=150)
    changed_at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords(excluded_fields=["version", "changed_at"])

    def __str__(self) -> str:
        return f"drawing of {self.part.number}"
