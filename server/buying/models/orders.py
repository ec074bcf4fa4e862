"""What leaves the house: requests for quotation, quotes, orders; and what comes in."""

from typing import Any

from definition.models.parts import Part, StockMove, amount
from django.db import models
from django.utils.timezone import now
from inquiries.models import Inquiry
from partners.models import named_partner
from simple_history.models import HistoricalRecords

from .offers import Offer
from .plans import BuyPlan

__all__ = ["OrderLine", "PurchaseOrder", "Quote", "Receipt", "Request", "RequestLine"]


class Request(models.Model):
    """A request for quotation to one supplier. ``state``: draft, to be looked at; sent; answered."""

    number = models.CharField(max_length=20, unique=True)
    supplier = named_partner(db_column="supplier")
    plan = models.ForeignKey(BuyPlan, on_delete=models.SET_NULL, null=True, related_name="requests")
    state = models.CharField(max_length=8, default="draft")
    wanted_by = models.DateField(null=True)
    # The mail as it will leave, or as it left.
    words = models.TextField()
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)
    mail_to = models.CharField(max_length=254, blank=True, default="")
    sent_by = models.CharField(max_length=150, blank=True, default="")
    sent_at = models.DateTimeField(null=True)
    # The last reminder, and how many there were.
    reminded_at = models.DateTimeField(null=True)
    reminders = models.IntegerField(default=0)
    answered_at = models.DateTimeField(null=True)
    version = models.IntegerField(default=1)
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number


class RequestLine(models.Model):
    """A part that is asked for, in the unit it is bought in."""

    request = models.ForeignKey(Request, on_delete=models.CASCADE, related_name="lines")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    quantity = amount()
    unit = models.CharField(max_length=20)
    # Approved makers' numbers, as they are told.
    makers = models.TextField(blank=True, default="")

    class Meta:
        ordering = ["id"]


class Quote(models.Model):
    """What a customer is offered for an inquiry. ``costs`` is what it rests on, with a format number; once sent it is never changed."""

    FORMAT = 1

    number = models.CharField(max_length=20, unique=True)
    inquiry = models.ForeignKey(Inquiry, on_delete=models.PROTECT, related_name="quotes")
    # draft | sent
    state = models.CharField(max_length=6, default="draft")
    currency = models.CharField(max_length=3)
    format = models.IntegerField(default=FORMAT)
    # For each quantity: part, what it costs by element, and every part with its price and where it comes from.
    costs = models.JSONField()
    # Element → percent, as text, and percent over all.
    markups = models.JSONField(default=dict)
    overall_percent = amount(default=0)
    # Words, amount, and whether it is spread over the quantity.
    once = models.JSONField(default=list)
    decimals = models.IntegerField(default=2)
    valid_days = models.IntegerField(default=30)
    words = models.TextField(blank=True, default="")
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)
    sent_by = models.CharField(max_length=150, blank=True, default="")
    sent_at = models.DateTimeField(null=True)
    version = models.IntegerField(default=1)
    # What whoever asked called it, so that asking again after a lost answer opens no second one.
    asked_as = models.UUIDField(null=True, unique=True)
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version", "costs", "asked_as"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number


class PurchaseOrder(models.Model):
    """What we order of a supplier. ``state``: draft, to be looked at; placed; done, all of it received; cancelled."""

    number = models.CharField(max_length=20, unique=True)
    supplier = named_partner(db_column="supplier")
    currency = models.CharField(max_length=3)
    plan = models.ForeignKey(BuyPlan, on_delete=models.SET_NULL, null=True, related_name="orders")
    state = models.CharField(max_length=10, default="draft")
    # In the currency of the order.
    freight = amount(default=0)
    charge = amount(default=0)
    note = models.TextField(blank=True, default="")
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)
    placed_by = models.CharField(max_length=150, blank=True, default="")
    placed_at = models.DateTimeField(null=True)
    cancelled_by = models.CharField(max_length=150, blank=True, default="")
    reason = models.TextField(blank=True, default="")
    version = models.IntegerField(default=1)
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number


class OrderLine(models.Model):
    """A line of an order; quantities in ``unit``, the unit the part was bought in when it was ordered, of which one is ``stock_each``."""

    order = models.ForeignKey(PurchaseOrder, on_delete=models.CASCADE, related_name="lines")
    position = models.IntegerField()
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="order_lines")
    offer = models.ForeignKey(Offer, on_delete=models.PROTECT, null=True, related_name="+")
    maker = models.CharField(max_length=200, blank=True, default="")
    maker_number = models.CharField(max_length=200, blank=True, default="")
    their_number = models.CharField(max_length=200, blank=True, default="")
    unit = models.CharField(max_length=20)
    stock_each = amount(default=1)
    quantity = amount()
    # Of one, in the currency of the order.
    price = models.DecimalField(max_digits=24, decimal_places=12)
    due_on = models.DateField(null=True)
    received = amount(default=0)
    # Nothing more is to come of it, though less came than was ordered.
    closed = models.BooleanField(default=False)

    class Meta:
        ordering = ["position"]

    @property
    def to_come(self) -> Any:
        """What is still to come, in the unit of the line."""
        return 0 if self.closed else max(self.quantity - self.received, 0)


class Receipt(models.Model):
    """So much of a line came in; never changed. ``slip``: the number of their delivery note."""

    line = models.ForeignKey(OrderLine, on_delete=models.PROTECT, related_name="receipts")
    quantity = amount()
    slip = models.CharField(max_length=100, blank=True, default="")
    move = models.OneToOneField(StockMove, on_delete=models.PROTECT, related_name="+")
    received_by = models.CharField(max_length=150)
    received_at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["id"]
