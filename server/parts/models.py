"""Parts."""

from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models.functions import Concat, Upper
from simple_history.models import HistoricalRecords

__all__ = ["Part", "Workspace", "amount"]


def amount(**options) -> models.DecimalField:
    """A quantity or an amount of money: exact, nine decimals."""
    return models.DecimalField(max_digits=22, decimal_places=9, **options)


class Part(models.Model):
    """A part number and what is stated of it. Field meanings: ``tally_core.definition.Part``."""

    number = models.CharField(max_length=64, unique=True)
    description = models.TextField(blank=True, default="")
    kind = models.CharField(max_length=8, default="bought")
    unit = models.CharField(max_length=8, default="ea")
    unit_cost = amount(null=True)
    given_cost = amount(null=True)
    overhead_percent = amount(default=0)
    costing_lot = amount(null=True)
    whole_only = models.BooleanField(default=True)
    lead_time_days = models.IntegerField(default=0)
    lifecycle = models.CharField(max_length=10, default="active")
    # Empty: the first alternate of its sheets counts.
    default_alternate = models.CharField(max_length=20, null=True)
    version = models.IntegerField(default=1)
    # What the search looks through, ready for a trigram index.
    search = models.GeneratedField(
        expression=Upper(Concat("number", models.Value(" "), "description", output_field=models.TextField())),
        output_field=models.TextField(),
        db_persist=True,
    )
    history = HistoricalRecords(excluded_fields=["search", "version"])

    class Meta:
        constraints = [models.UniqueConstraint(Upper("number"), name="part_number_any_case")]
        indexes = [GinIndex(fields=["search"], name="part_search", opclasses=["gin_trgm_ops"])]

    def __str__(self) -> str:
        return self.number


class Workspace(models.Model):
    """What holds for everything: one row."""

    currency = models.CharField(max_length=3, default="EUR")

    @classmethod
    def the(cls) -> "Workspace":
        return cls.objects.get_or_create(pk=1)[0]
