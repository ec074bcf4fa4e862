"""Tables from generic materials and hardware to real stock, and what was exchanged by them."""

from typing import Any

from django.db import models
from simple_history.models import HistoricalRecords

__all__ = ["Substituted", "SubstitutionTable"]


class SubstitutionTable(models.Model):
    """A table, known by its name. ``rows``: code, part, goes, comes, note; of a generic thing by its number or its description."""

    name = models.CharField(max_length=80, unique=True)
    rows = models.JSONField(default=list)
    changed_by = models.CharField(max_length=150)
    changed_at = models.DateTimeField(auto_now=True)
    version = models.IntegerField(default=1)
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Substituted(models.Model):
    """What was exchanged in one step, so that one step takes it back. ``said`` (format 1): by sheet, each line before and after."""

    FORMAT = 1

    table = models.CharField(max_length=80)
    reason = models.CharField(max_length=200)
    said = models.JSONField()
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)
    undone_by = models.CharField(max_length=150, blank=True, default="")
    undone_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
