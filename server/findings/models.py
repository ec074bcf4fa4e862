"""What the checks found when all sheets were last looked through, and what was waived."""

import uuid

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.db import models
from simple_history.models import HistoricalRecords

__all__ = ["Finding", "Survey", "Waiver"]


class Survey(models.Model):
    """One look through all sheets, as it was finished. The newest one is shown."""

    asked_by = models.CharField(max_length=150, blank=True, default="")
    finished_at = models.DateTimeField(auto_now_add=True)
    lines = models.IntegerField(default=0)


class Finding(models.Model):
    """One finding of a survey. ``key`` names its place so that a waiver holds across surveys."""

    survey = models.ForeignKey(Survey, on_delete=models.CASCADE, related_name="findings")
    code = models.CharField(max_length=30)
    severity = models.CharField(max_length=5)
    part = models.ForeignKey(Part, on_delete=models.CASCADE)
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, null=True)
    line = models.UUIDField(null=True)
    item = models.IntegerField(null=True)
    message = models.TextField()
    mend = models.TextField()
    key = models.TextField()

    class Meta:
        indexes = [models.Index(fields=["survey", "severity", "code"])]


class Waiver(models.Model):
    """A finding to look at that was looked at, with the reason why it may stand."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    key = models.TextField(unique=True)
    reason = models.TextField()
    waived_by = models.CharField(max_length=150)
    waived_at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()
