"""Parts."""

from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models.functions import Cast, Concat, Upper
from django.utils.timezone import now
from files.models import StoredFile
from partners.models import named_partner
from simple_history.models import HistoricalRecords

__all__ = ["MakerNumber", "OpenOrder", "Part", "PartClass", "PartFile", "StockMove", "StockWorth", "Workspace", "amount"]


def amount(**options) -> models.DecimalField:
    """A quantity or an amount of money: exact, nine decimals."""
    return models.DecimalField(max_digits=22, decimal_places=9, **options)


class Part(models.Model):
    """A part number and what is stated of it. Field meanings: ``tally_core.stated.definition.Part``."""

    number = models.CharField(max_length=64, unique=True)
    description = models.TextField(blank=True, default="")
    kind = models.CharField(max_length=8, default="bought")
    unit = models.CharField(max_length=8, default="ea")
    unit_cost = amount(null=True)
    given_cost = amount(null=True)
    given_as = models.CharField(max_length=11, default="one_element", db_default="one_element")
    markup_percent = amount(null=True)
    given_reason = models.TextField(blank=True, default="", db_default="")
    selling_price = amount(null=True)
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
    kept_in = models.CharField(max_length=60, blank=True, default="", db_default="")
    sold = models.BooleanField(default=False, db_default=False)
    supplier = named_partner(db_column="supplier")
    supplier_number = models.TextField(blank=True, default="", db_default="")
    unmodelled = models.BooleanField(default=False, db_default=False)
    supplier_link = models.TextField(blank=True, default="", db_default="")
    # Values of the fields of its class, by name; text, as typed.
    own_values = models.JSONField(default=dict, db_default=models.Value({}, models.JSONField()))
    # Prices from days on, as the plain values of ``tally_core.stated.definition.PriceChange``, by their day.
    prices = models.JSONField(default=list, db_default=models.Value([], models.JSONField()))
    version = models.IntegerField(default=1)
    # What the search looks through, ready for a trigram index.
    search = models.GeneratedField(
        expression=Upper(
            Concat(
                "number",
                models.Value(" "),
                "description",
                models.Value(" "),
                Cast("own_values", models.TextField()),
                output_field=models.TextField(),
            )
        ),
        output_field=models.TextField(),
        db_persist=True,
    )
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords(excluded_fields=["search", "version"])

    class Meta:
        constraints = [models.UniqueConstraint(Upper("number"), name="part_number_any_case")]
        indexes = [
            models.Index(fields=["id"], condition=~models.Q(prices=[]), name="part_with_prices"),
            GinIndex(fields=["search"], name="part_search", opclasses=["gin_trgm_ops"], fastupdate=False),
        ]

    def __str__(self) -> str:
        return self.number


class PartClass(models.Model):
    """A class of parts, known to them by its name. Field meanings: ``tally_core.stated.definition.PartClass``."""

    name = models.CharField(max_length=60, unique=True)
    prefix = models.CharField(max_length=30, blank=True, default="")
    digits = models.IntegerField(default=0)
    start = models.IntegerField(default=1)
    step = models.IntegerField(default=1)
    # Its fields as the plain values of ``tally_core.stated.definition.ClassField``.
    fields = models.JSONField(default=list)
    version = models.IntegerField(default=1)
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(Upper("name"), name="part_class_any_case")]

    def __str__(self) -> str:
        return self.name


class MakerNumber(models.Model):
    """An approved manufacturer's part number; the lower its rank, the sooner it is taken."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="maker_numbers")
    rank = models.IntegerField()
    maker = named_partner(db_column="maker")
    number = models.TextField()
    # The package or case size: part of what makes a part the right one.
    package = models.TextField(blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["rank", "id"]
        constraints = [models.UniqueConstraint("maker", Upper("number"), "part", name="maker_number_once")]


class PartFile(models.Model):
    """A picture or a file of a part."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="files")
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["added_at", "id"]


class StockMove(models.Model):
    """One move of stock, never changed: what is on hand is the sum of all moves, and so is what it is worth."""

    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="moves")
    # In the part's stock unit; negative when it leaves. Nothing where only what is there is worth more or less.
    quantity = amount()
    # What it adds to the worth of what is there, in the currency of the workspace, and by element as decimal text.
    value = amount(default=0, db_default=0)
    elements = models.JSONField(default=dict, db_default=models.Value({}, models.JSONField()))
    # What it cost beyond that, where stock stands at standard.
    beyond = amount(default=0, db_default=0)
    reason = models.TextField()
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["-made_at", "-id"]


class StockWorth(models.Model):
    """The sums of the moves of a part, kept so that a posting need not add them up: how many, and what they are worth by element."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, primary_key=True, related_name="worth")
    quantity = amount(default=0)
    elements = models.JSONField(default=dict)


class Tracing(models.Model):
    """A part whose stock is told apart: by lot, or each unit by its serial number."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, primary_key=True, related_name="tracing")
    by = models.CharField(max_length=6)  # lot | serial
    since = models.DateTimeField(default=now)
    stated_by = models.CharField(max_length=150)
    history = HistoricalRecords()


class Lot(models.Model):
    """A lot of a part, or one unit by its serial number, and how much of it is there: the sum of its moves."""

    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="lots")
    code = models.CharField(max_length=64)
    quantity = amount(default=0)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["part", "code"], name="lot_once")]


class LotMove(models.Model):
    """How much of a move of stock was of a lot; never changed."""

    move = models.ForeignKey(StockMove, on_delete=models.PROTECT, related_name="lots")
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, related_name="moves")
    quantity = amount()

    class Meta:
        ordering = ["id"]


class OpenOrder(models.Model):
    """What is still to come of an order, bought or made; a list that is brought in replaces what was there of its orders."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="open_orders")
    order = models.CharField(max_length=64)
    # Still to come, in the part's stock unit.
    quantity = amount()
    due_on = models.DateField(null=True)
    # Kept by the purchase order of this number: no list changes it.
    kept = models.BooleanField(default=False, db_default=False)
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["due_on", "order"]
        constraints = [models.UniqueConstraint(fields=["part", "order"], name="open_order_once")]


class Workspace(models.Model):
    """What holds for everything: one row."""

    currency = models.CharField(max_length=3, default="EUR")
    # Who we are, on papers that leave; the address in lines.
    firm = models.CharField(max_length=200, blank=True, default="", db_default="")
    firm_address = models.TextField(blank=True, default="", db_default="")
    firm_mail = models.CharField(max_length=254, blank=True, default="", db_default="")
    # What stock is worth: mean, what it came to cost; or standard, where a part has one.
    stock_at = models.CharField(max_length=8, default="mean", db_default="mean")
    # Days on which no work center works.
    closed_days = ArrayField(models.DateField(), default=list, db_default=models.Value([], ArrayField(models.DateField())))
    history = HistoricalRecords()

    @classmethod
    def the(cls) -> "Workspace":
        """The row, or what holds as long as nothing was stated; looking never writes."""
        return cls.objects.filter(pk=1).first() or cls(pk=1)
