"""What the checks found when all sheets were last looked through, and what was waived."""

import uuid

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.db import models
from simple_history.models import HistoricalRecords

__all__ = ["WAITING", "Finding", "Survey", "Waiver"]

#: As long as no worker has begun.
WAITING = "waiting for the worker"


class Survey(models.Model):
    """One look through all sheets. The newest finished one is shown."""

    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.CharField(max_length=150, blank=True, default="")
    finished_at = models.DateTimeField(null=True)
    # What it is doing while it runs, in words; why it failed when it did.
    doing = models.TextField(blank=True, default=WAITING)
    failed = models.BooleanField(default=False)
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
