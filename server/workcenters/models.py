"""Work centers."""

from django.db import models
from django.db.models.functions import Upper
from parts.models import amount
from simple_history.models import HistoricalRecords

__all__ = ["WorkCenter"]


class WorkCenter(models.Model):
    """A place where work is done. Field meanings and units: ``tally_core.definition.WorkCenter``."""

    code = models.CharField(max_length=64, unique=True)
    name = models.TextField(blank=True, default="")
    labor_rate = amount(default=0)
    setup_labor_rate = amount(null=True)
    machine_rate = amount(default=0)
    overhead_per_hour = amount(default=0)
    overhead_percent_of_labor = amount(default=0)
    efficiency_percent = amount(default=100)
    stations = models.IntegerField(default=1)
    shifts = models.TextField(blank=True, default="", db_default="")
    # Rates that change on a day, as the plain values of ``tally_core.definition.RateChange``.
    rates = models.JSONField(default=list, db_default=models.Value([], models.JSONField()))
    version = models.IntegerField(default=1)
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["code"]
        constraints = [models.UniqueConstraint(Upper("code"), name="work_center_code_any_case")]

    def __str__(self) -> str:
        return self.code
