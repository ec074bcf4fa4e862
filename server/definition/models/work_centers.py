"""Work centers, the library of standard operations, and what the shop reports of finished orders."""

from typing import Any

from django.db import models
from django.db.models.functions import Upper
from partners.models import named_partner
from simple_history.models import HistoricalRecords

from definition.models.parts import Part, PartFile, amount

__all__ = ["FileShown", "FinishedWork", "OperationFields", "StandardFile", "StandardOperation", "WorkCenter"]


class WorkCenter(models.Model):
    """A place where work is done. Field meanings and units: ``tally_core.stated.definition.WorkCenter``."""

    code = models.CharField(max_length=64, unique=True)
    name = models.TextField(blank=True, default="")
    group = models.CharField(max_length=60, blank=True, default="", db_default="")
    labor_rate = amount(default=0)
    setup_labor_rate = amount(null=True)
    machine_rate = amount(default=0)
    overhead_per_hour = amount(default=0)
    overhead_percent_of_labor = amount(default=0)
    efficiency_percent = amount(default=100)
    stations = models.IntegerField(default=1)
    paces = models.TextField(blank=True, default="", db_default="")
    crew = amount(default=1, db_default=1)
    shifts = models.TextField(blank=True, default="", db_default="")
    # Rates that change on a day and planned stops, as the plain values of the core's RateChange and Stop.
    rates = models.JSONField(default=list, db_default=models.Value([], models.JSONField()))
    stops = models.JSONField(default=list, db_default=models.Value([], models.JSONField()))
    version = models.IntegerField(default=1)
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["code"]
        constraints = [models.UniqueConstraint(Upper("code"), name="work_center_code_any_case")]

    def __str__(self) -> str:
        return self.code


class OperationFields(models.Model):
    """What an operation states wherever it stands. Field meanings and units: ``tally_core.stated.definition.Operation``."""

    name = models.TextField(blank=True, default="")
    work_center = models.ForeignKey(WorkCenter, on_delete=models.PROTECT, null=True, related_name="%(class)ss")
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
    stations = models.IntegerField(default=1, db_default=1)
    any_of_group = models.BooleanField(default=False, db_default=False)
    transfer_quantity = amount(null=True)
    outside = models.BooleanField(default=False)
    supplier = named_partner(db_column="supplier")
    unit_price = amount(default=0)
    minimum_charge = amount(default=0)
    lead_days = models.IntegerField(default=0)
    instructions = models.TextField(blank=True, default="", db_default="")
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str

    class Meta:
        abstract = True

    @property
    def files(self) -> list[int]:
        """Keys of the pictures, PDF and video shown with the instructions, in their order. Read ``shown`` with the rows."""
        shown: models.Manager[Any] = getattr(self, "shown")  # noqa: B009  what shows files names its operation
        return [x.file_id for x in shown.all()]


class FileShown(models.Model):
    """A file that is shown with an operation, and stays as long as it is."""

    file = models.ForeignKey(PartFile, on_delete=models.PROTECT, related_name="%(class)ss")
    position = models.SmallIntegerField()

    class Meta:
        abstract = True
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["operation", "file"], name="%(class)s_once")]


class StandardOperation(OperationFields):
    """An entry of the library. ``version`` counts every change, for the routings that follow it."""

    code = models.CharField(max_length=64, unique=True)
    version = models.IntegerField(default=1)
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["code"]
        constraints = [models.UniqueConstraint(Upper("code"), name="standard_operation_code_any_case")]

    def __str__(self) -> str:
        return self.code


class StandardFile(FileShown):
    """A file that is shown with an entry of the library."""

    operation = models.ForeignKey(StandardOperation, on_delete=models.CASCADE, related_name="shown")
    history = HistoricalRecords()

    class Meta(FileShown.Meta):
        pass

    def __str__(self) -> str:
        return f"{self.operation.code} of the library"


class FinishedWork(models.Model):
    """One operation of a finished order, as the shop reports it; never changed, but reversed with a reason when it was wrong."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="finished_work")
    order = models.CharField(max_length=64)
    sequence = models.IntegerField()
    finished_on = models.DateField()
    quantity = amount()
    # Minutes of the whole order; ``run_minutes`` without its set-up.
    run_minutes = amount()
    setup_minutes = amount(null=True)
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now_add=True)
    reversed_by = models.CharField(max_length=150, blank=True, default="", db_default="")
    reversed_at = models.DateTimeField(null=True)
    reversed_reason = models.CharField(max_length=200, blank=True, default="", db_default="")

    class Meta:
        ordering = ["-finished_on", "-id"]
        constraints = [
            # What was reversed may be reported again, as it really was.
            models.UniqueConstraint(fields=["part", "order", "sequence"], condition=models.Q(reversed_at=None), name="finished_work_once")
        ]
