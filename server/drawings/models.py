"""Drawings of made parts: what stands where on the paper."""

from definition.models.parts import Part
from django.db import models
from files.models import StoredFile
from simple_history.models import HistoricalRecords

__all__ = ["Drawing", "DrawnPicture"]


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


class DrawnPicture(models.Model):
    """A picture, or a page of a PDF, that was brought onto a drawing, as PNG. A view says where it stands."""

    drawing = models.ForeignKey(Drawing, on_delete=models.CASCADE, related_name="pictures")
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)
    page = models.IntegerField(default=1)
    # On paper at 1:1.
    width_mm = models.FloatField()
    height_mm = models.FloatField()
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
