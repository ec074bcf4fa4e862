"""Plans that cover what builds take."""

from typing import Any

from definition.models.parts import Part, amount
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils.timezone import now
from inquiries.models import Inquiry
from partners.models import named_partner
from simple_history.models import HistoricalRecords

from .offers import Offer

__all__ = ["BarredSupplier", "BuyPlan", "HeldChoice", "PlanAlternate", "PlanBuild", "PlanNeed"]


class BuyPlan(models.Model):
    """How what some builds take is to be bought. ``result`` is what was last planned, with a format number."""

    number = models.CharField(max_length=20, unique=True)
    title = models.CharField(max_length=200)
    inquiry = models.ForeignKey(Inquiry, on_delete=models.PROTECT, null=True, related_name="plans")
    # What ``limits.Limits`` keeps with it.
    limits = models.JSONField(default=dict)
    note = models.TextField(blank=True, default="")
    opened_by = models.CharField(max_length=150)
    opened_at = models.DateTimeField(auto_now_add=True)
    version = models.IntegerField(default=1)
    result = models.JSONField(null=True)
    planned_at = models.DateTimeField(null=True)
    # The version that was planned; another one now means that the result is of before.
    planned_version = models.IntegerField(null=True)
    # What whoever asked called it, so that asking again after a lost answer opens no second one.
    asked_as = models.UUIDField(null=True, unique=True)
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version", "result", "planned_at", "planned_version", "asked_as"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number


class BarredSupplier(models.Model):
    """A supplier that a plan does not use, whatever they are called by now."""

    plan = models.ForeignKey(BuyPlan, on_delete=models.CASCADE, related_name="barred")
    supplier = named_partner(db_column="supplier")
    barred_by = models.CharField(max_length=150)
    _history_user: Any
    history = HistoricalRecords()

    class Meta:
        verbose_name, verbose_name_plural = "buy plan without it", "buy plans without it"
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["plan", "supplier"], name="barred_once")]


class PlanAlternate(models.Model):
    """A part that may be bought in the place of another, for one plan."""

    plan = models.ForeignKey(BuyPlan, on_delete=models.CASCADE, related_name="alternates")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    instead_of = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    allowed_by = models.CharField(max_length=150)
    _history_user: Any
    history = HistoricalRecords()

    class Meta:
        ordering = ["id"]
        # Its offers serve one need: their breaks and what is available are not shared out.
        constraints = [models.UniqueConstraint(fields=["plan", "part"], name="alternate_once")]


class PlanBuild(models.Model):
    """So many of a product with some options; ``by`` is the day on which its material must be there."""

    plan = models.ForeignKey(BuyPlan, on_delete=models.CASCADE, related_name="builds")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    options = ArrayField(models.CharField(max_length=20), default=list)
    quantity = amount()
    by = models.DateField(null=True)

    class Meta:
        ordering = ["id"]


class HeldChoice(models.Model):
    """An offer and a quantity chosen by hand; the rest is planned around it. In the part's buying unit."""

    plan = models.ForeignKey(BuyPlan, on_delete=models.CASCADE, related_name="held")
    offer = models.ForeignKey(Offer, on_delete=models.PROTECT, related_name="+")
    quantity = amount()
    chosen_by = models.CharField(max_length=150)
    chosen_at = models.DateTimeField(default=now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["plan", "offer"], name="held_once")]


class PlanNeed(models.Model):
    """A need of a plan as it was planned: how it came to it, what covers it, and every offer that was looked at."""

    plan = models.ForeignKey(BuyPlan, on_delete=models.CASCADE, related_name="needs")
    position = models.IntegerField()
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    # The plain values of ``needs.NeedOf``.
    said = models.JSONField()
    # What is bought for it: offer, supplier, quantity, price, cost, surplus; money in the plan's currency.
    bought = models.JSONField(default=list)
    reason = models.CharField(max_length=30, blank=True, default="")
    detail = models.TextField(blank=True, default="")
    # The offers that were looked at, as they were then.
    offers = models.JSONField(default=list)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["plan", "part"], name="plan_need_once")]
