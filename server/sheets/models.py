"""Build sheets: one versioned definition of how a made part is built, with its lines and operations."""

import uuid
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from parts.models import Part, amount
from simple_history.models import HistoricalRecords
from workcenters.models import WorkCenter

__all__ = ["BuildSheet", "Line", "Operation", "Option"]


class Option(models.Model):
    """What a customer may choose."""

    code = models.CharField(max_length=64, unique=True)
    name = models.TextField(blank=True, default="")
    # Codes that cannot be chosen with this one; stated on both.
    not_with = ArrayField(models.TextField(), default=list)
    history = HistoricalRecords()

    class Meta:
        ordering = ["code"]

    def __str__(self) -> str:
        return self.code


class BuildSheet(models.Model):
    """The head of a sheet. ``version`` counts every saved edit, for whoever saves second."""

    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="sheets")
    alternate = models.CharField(max_length=20, default="A")
    revision = models.CharField(max_length=20, default="A")
    status = models.CharField(max_length=8, default="draft")
    effective_from = models.DateField(null=True)
    effective_to = models.DateField(null=True)
    batch = amount(default=1)
    # What this alternate is for, in words.
    reference = models.TextField(blank=True, default="", db_default="")
    version = models.IntegerField(default=1)
    changed_at = models.DateTimeField(auto_now=True)
    changed_by = models.CharField(max_length=150, blank=True, default="")
    # The reason that is written into the history with the next save.
    _change_reason: str | None
    history = HistoricalRecords(excluded_fields=["version", "changed_at", "changed_by"])

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "alternate", "revision"], name="sheet_once")]

    def __str__(self) -> str:
        return f"{self.part.number} {self.alternate}/{self.revision}"


class Operation(models.Model):
    """One step of a sheet's routing. Field meanings and units: ``tally_core.definition.Operation``."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, related_name="operations")
    sequence = models.IntegerField()
    name = models.TextField(blank=True, default="")
    work_center = models.ForeignKey(WorkCenter, on_delete=models.PROTECT, null=True, related_name="operations")
    setup_minutes = amount(default=0)
    run_minutes = amount(default=0)
    run_basis = models.CharField(max_length=9, default="per_unit")
    cycle_quantity = amount(null=True)
    crew = amount(default=1)
    setup_crew = amount(default=1)
    piece_rate = amount(null=True)
    yield_percent = amount(default=100)
    queue_minutes = amount(default=0)
    wait_minutes = amount(default=0)
    move_minutes = amount(default=0)
    after = ArrayField(models.IntegerField(), default=list)
    outside = models.BooleanField(default=False)
    supplier = models.TextField(blank=True, default="")
    unit_price = amount(default=0)
    minimum_charge = amount(default=0)
    lead_days = models.IntegerField(default=0)
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords()

    class Meta:
        # Checked when the transaction ends, so that two operations may change places.
        constraints = [
            models.UniqueConstraint(
                fields=["sheet", "sequence"], name="operation_once", deferrable=models.Deferrable.DEFERRED
            )
        ]


class Line(models.Model):
    """One line of a sheet. Field meanings: ``tally_core.definition.Line``; ``position`` orders the list."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, related_name="lines")
    position = models.FloatField()
    item = models.IntegerField(null=True)
    # Renumbering passes it by.
    item_locked = models.BooleanField(default=False, db_default=False)
    kind = models.CharField(max_length=9, default="component")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, null=True, related_name="used_on")
    quantity = amount(null=True)
    # Empty: the part's stock unit.
    unit = models.CharField(max_length=8, blank=True, default="")
    quantity_basis = models.CharField(max_length=8, default="per_unit")
    scrap_percent = amount(null=True)
    yield_percent = amount(null=True)
    fixed_loss = amount(default=0)
    operation = models.ForeignKey(Operation, on_delete=models.SET_NULL, null=True, related_name="lines")
    option = models.ForeignKey(Option, on_delete=models.PROTECT, null=True, related_name="lines")
    option_action = models.CharField(max_length=6, default="add")
    customer_supplied = models.BooleanField(default=False)
    not_fitted = models.BooleanField(default=False)
    reference_designators = ArrayField(models.TextField(), default=list)
    effective_from = models.DateField(null=True)
    effective_to = models.DateField(null=True)
    text = models.TextField(blank=True, default="")
    kept_off = ArrayField(models.TextField(), default=list, db_default=models.Value([], ArrayField(models.TextField())))
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords()

    class Meta:
        ordering = ["position", "id"]
