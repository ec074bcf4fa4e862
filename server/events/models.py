"""What other programs are told: who listens to what, and each telling with its answers."""

from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils.timezone import now
from simple_history.models import HistoricalRecords

__all__ = ["Hook", "Telling"]


class Hook(models.Model):
    """A place outside that is told when something happens. Where it is, and the key that signs, an administrator keeps (outside.services)."""

    name = models.CharField(max_length=60)
    # Our name of the place.
    place = models.CharField(max_length=40)
    events = ArrayField(models.CharField(max_length=40), default=list)
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(default=now)
    dropped_at = models.DateTimeField(null=True)
    # Who, for the row of history that the next save writes.
    _history_user: Any
    history = HistoricalRecords()


class Telling(models.Model):
    """One event for one hook: told, or tried so often with what was answered."""

    hook = models.ForeignKey(Hook, on_delete=models.CASCADE, related_name="tellings")
    event = models.CharField(max_length=40)
    # With a format number: programs read it.
    body = models.JSONField()
    made_at = models.DateTimeField(default=now)
    state = models.CharField(max_length=8, default="waiting", choices=[(s, s) for s in ("waiting", "told", "given up")])
    tries = models.SmallIntegerField(default=0)
    next_at = models.DateTimeField(null=True)
    answer = models.CharField(max_length=300, blank=True, default="")
    answered_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
