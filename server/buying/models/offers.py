"""On which terms suppliers sell, what they offered, and rates of currencies."""

from typing import Any

from definition.models.parts import Part, amount
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils.timezone import now
from files.models import StoredFile
from partners.models import Partner, named_partner
from simple_history.models import HistoricalRecords

__all__ = ["Asked", "Offer", "PriceList", "Rate", "Terms"]


class Terms(models.Model):
    """On which terms a supplier sells; money in the supplier's own currency."""

    partner = models.OneToOneField(Partner, to_field="name", on_delete=models.CASCADE, primary_key=True, related_name="terms")
    freight = amount(default=0)
    minimum_order = amount(default=0)
    # Of an order under the minimum; None: no such order is taken.
    small_order_charge = amount(null=True)
    # From the day of dispatch until goods are here.
    transit_days = models.IntegerField(default=0)
    payment = models.CharField(max_length=200, blank=True, default="")
    delivery = models.CharField(max_length=200, blank=True, default="")
    # Our name of the service that answers for it (outside.services); empty: it is asked by mail or by hand.
    service = models.CharField(max_length=40, blank=True, default="")
    # Makers they may sell, and makers they may not; the first empty: all.
    only_makers = ArrayField(models.CharField(max_length=200), default=list)
    not_makers = ArrayField(models.CharField(max_length=200), default=list)
    version = models.IntegerField(default=1)
    # Who, for the row of history that the next save writes.
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        verbose_name = "set of terms"
        verbose_name_plural = "sets of terms"


class Offer(models.Model):
    """What a supplier asks for a part; never changed. A later one stands beside it, and one that no longer holds is let go."""

    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="offers")
    supplier = named_partner(db_column="supplier")
    maker = models.CharField(max_length=200, blank=True, default="")
    maker_number = models.CharField(max_length=200, blank=True, default="")
    # How the supplier calls it.
    their_number = models.CharField(max_length=200, blank=True, default="")
    currency = models.CharField(max_length=3)
    # What quantities and prices are per.
    unit = models.CharField(max_length=20)
    # [from, price] as decimal text, by their start.
    breaks = models.JSONField()
    minimum = amount(default=0)
    multiple = amount(null=True)
    available = amount(null=True)
    lead_days = models.IntegerField(default=0)
    valid_from = models.DateField(null=True)
    valid_to = models.DateField(null=True)
    # by hand | list | service | answer, and which file, service or request.
    source = models.CharField(max_length=10, default="by hand")
    source_words = models.CharField(max_length=200, blank=True, default="")
    offered_at = models.DateTimeField(default=now)
    # When a service last said the same again.
    confirmed_at = models.DateTimeField(null=True)
    taken_by = models.CharField(max_length=150)
    let_go_at = models.DateTimeField(null=True)
    let_go_by = models.CharField(max_length=150, blank=True, default="")

    class Meta:
        ordering = ["-offered_at", "-id"]
        indexes = [models.Index(fields=["part", "let_go_at"], name="offer_of_part")]


class PriceList(models.Model):
    """A price list that a supplier sent. ``state``: waiting to be looked at; kept, its offers stand; or let go."""

    supplier = named_partner(db_column="supplier")
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)
    state = models.CharField(max_length=8, default="waiting")
    # Which row holds the titles, from 0, and them; what stands in which column, from 0: ``price_columns``.
    header = models.IntegerField(default=0)
    titles = ArrayField(models.CharField(max_length=200), default=list)
    columns = models.JSONField(default=dict)
    # Somebody said which column holds what; lists of this supplier with the same titles are read so from then on.
    mapped = models.BooleanField(default=False)
    # The first rows beneath the titles, as text.
    sample = models.JSONField(default=list)
    # What came of reading it: the plain values of ``OfferList``; None until a worker has.
    said = models.JSONField(null=True)
    brought_by = models.CharField(max_length=150)
    brought_at = models.DateTimeField(auto_now_add=True)
    version = models.IntegerField(default=1)
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version", "said", "sample"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name


class Asked(models.Model):
    """What the service of a supplier last said of a maker's number: that it has an offer, or none."""

    supplier = named_partner(db_column="supplier")
    # The number after folding, by which it is found again.
    folded = models.CharField(max_length=200)
    asked_at = models.DateTimeField()
    offered = models.BooleanField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["supplier", "folded"], name="asked_once")]


class Rate(models.Model):
    """What one unit of a currency is worth in that of the workspace, from a day on."""

    currency = models.CharField(max_length=3)
    day = models.DateField()
    rate = models.DecimalField(max_digits=22, decimal_places=10)
    source = models.CharField(max_length=100, blank=True, default="by hand")
    stated_by = models.CharField(max_length=150)
    stated_at = models.DateTimeField(auto_now=True)
    _history_user: Any
    history = HistoricalRecords()

    class Meta:
        ordering = ["currency", "-day"]
        constraints = [models.UniqueConstraint(fields=["currency", "day"], name="rate_once")]
