"""Build sheets: one versioned definition of how a made part is built, with its lines and operations."""

import uuid
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from simple_history.models import HistoricalRecords

from definition.models.parts import Part, amount
from definition.models.work_centers import FileShown, OperationFields, StandardOperation

__all__ = ["BuildSheet", "Line", "Operation", "OperationFile", "Option"]


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
    # The sheet it was opened as a copy of: who set what it states leads there.
    copied_from = models.BigIntegerField(null=True)
    # The reason that is written into the history with the next save.
    _change_reason: str | None
    history = HistoricalRecords(excluded_fields=["version", "changed_at", "changed_by"])

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "alternate", "revision"], name="sheet_once")]

    def __str__(self) -> str:
        return f"{self.part.number} {self.alternate}/{self.revision}"


class Operation(OperationFields):
    """One step of a sheet's routing, or what works beside one. Field meanings and units: ``tally_core.stated.definition.Operation``."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, related_name="operations")
    sequence = models.IntegerField()
    # What works beside an operation is a row of its own that names it: the n-th resource of its sequence. Its place in the
    # routing and what one cycle holds are those of its operation.
    beside = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="resources")
    resource = models.SmallIntegerField(default=0)
    after = ArrayField(models.IntegerField(), default=list)
    # The entry of the library it follows, and the version of it that it was taken from.
    standard = models.ForeignKey(StandardOperation, on_delete=models.PROTECT, null=True, related_name="operations")
    standard_version = models.IntegerField(null=True)
    run_from_orders = models.IntegerField(null=True)
    run_expression = models.CharField(max_length=300, blank=True, default="", db_default="")
    # What stays the same over the revisions of its part and alternate: who means this operation, and not one row, names this.
    lineage = models.UUIDField(default=uuid.uuid4, db_index=True)
    # The operation of an earlier revision that it was copied from.
    copied_from = models.UUIDField(null=True)
    history = HistoricalRecords()

    class Meta:
        # Checked when the transaction ends, so that two operations may change places.
        constraints = [
            models.UniqueConstraint(fields=["sheet", "sequence", "resource"], name="operation_once", deferrable=models.Deferrable.DEFERRED)
        ]


class OperationFile(FileShown):
    """A file that is shown with an operation of a sheet."""

    operation = models.ForeignKey(Operation, on_delete=models.CASCADE, related_name="shown")
    history = HistoricalRecords()

    class Meta(FileShown.Meta):
        pass

    def __str__(self) -> str:
        return f"operation {self.operation.sequence} of {self.operation.sheet}"


class Line(models.Model):
    """One line of a sheet. Field meanings: ``tally_core.stated.definition.Line``; ``position`` orders the list."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    # What leads down and up is read far more than anything else of a line: both from an index alone.
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, related_name="lines", db_index=False)
    position = models.FloatField()
    item = models.IntegerField(null=True)
    # Renumbering passes it by.
    item_locked = models.BooleanField(default=False, db_default=False)
    kind = models.CharField(max_length=9, default="component")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, null=True, related_name="used_on", db_index=False)
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
    # What is cut out of the part for one unit, as the core reads it.
    cut = models.TextField(blank=True, default="", db_default="")
    # As that of an operation.
    lineage = models.UUIDField(default=uuid.uuid4, db_index=True)
    # The line of an earlier revision that it was copied from.
    copied_from = models.UUIDField(null=True)
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords()

    class Meta:
        ordering = ["position", "id"]
        indexes = [
            models.Index(fields=["sheet"], include=["part"], name="line_down"),
            models.Index(fields=["part"], include=["sheet"], name="line_up"),
        ]
