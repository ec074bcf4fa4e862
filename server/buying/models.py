"""Buying: on which terms suppliers sell, what they offered, rates of currencies, and plans that cover what builds take."""

from typing import Any

from definition.models.parts import Part, StockMove, amount
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils.timezone import now
from files.models import StoredFile
from inquiries.models import Inquiry
from partners.models import Partner, named_partner
from simple_history.models import HistoricalRecords

__all__ = [
    "Asked",
    "BuyPlan",
    "HeldChoice",
    "Offer",
    "OrderLine",
    "PlanBuild",
    "PlanNeed",
    "PriceList",
    "PurchaseOrder",
    "Rate",
    "Receipt",
    "Terms",
]


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
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version", "result", "planned_at", "planned_version"])

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
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version", "costs"])

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
