"""Parts."""

from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models.functions import Concat, Upper
from simple_history.models import HistoricalRecords

__all__ = ["MakerNumber", "Part", "StockMove", "Workspace", "amount"]


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
    second_description = models.TextField(blank=True, default="", db_default="")
    part_class = models.CharField(max_length=60, blank=True, default="", db_default="", db_index=True)
    material = models.TextField(blank=True, default="", db_default="")
    mass_kg = amount(null=True)
    size_mm = models.CharField(max_length=60, blank=True, default="", db_default="")
    buying_unit = models.CharField(max_length=20, null=True)
    stock_per_buying_unit = amount(null=True)
    reorder_level = amount(null=True)
    order_minimum = amount(null=True)
    order_multiple = amount(null=True)
    sold = models.BooleanField(default=False, db_default=False)
    supplier_link = models.TextField(blank=True, default="", db_default="")
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


class MakerNumber(models.Model):
    """An approved manufacturer's part number; the lower its rank, the sooner it is taken."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="maker_numbers")
    rank = models.IntegerField()
    maker = models.TextField()
    number = models.TextField()
    # The package or case size: part of what makes a part the right one.
    package = models.TextField(blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["rank", "id"]
        constraints = [
            models.UniqueConstraint(Upper("maker"), Upper("number"), "part", name="maker_number_once"),
        ]


class StockMove(models.Model):
    """One move of stock, never changed: what is on hand is the sum of all moves."""

    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="moves")
    # In the part's stock unit; negative when it leaves.
    quantity = amount()
    reason = models.TextField()
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class Workspace(models.Model):
    """What holds for everything: one row."""

    currency = models.CharField(max_length=3, default="EUR")

    @classmethod
    def the(cls) -> "Workspace":
        return cls.objects.get_or_create(pk=1)[0]
