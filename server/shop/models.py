"""Work orders, their operations and components, and the ledger of what was done on them."""

import uuid
from typing import Any

from definition.models.parts import Part, PartFile, StockMove, amount
from definition.models.sheets import BuildSheet
from definition.models.work_centers import WorkCenter
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils.timezone import now
from simple_history.models import HistoricalRecords

__all__ = ["OPEN", "Component", "Entry", "OrderOperation", "Posting", "WorkOrder"]

#: The states in which something is still to be done.
OPEN = ("planned", "released", "running", "done")


class WorkOrder(models.Model):
    """So many of a made part, by a day. ``state``: planned, released, running, done, closed or cancelled.

    Releasing fixes the sheet and keeps what the order rests on (``plan``: ``tally_core.shop.kept_plan``); closing keeps what it came to
    (``came_to``: ``shop.outcome``). Both carry a format number.
    """

    number = models.CharField(max_length=20, unique=True)
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="work_orders")
    quantity = amount()
    options = ArrayField(models.CharField(max_length=64), default=list)
    # Empty: the one that counts on the day of release.
    alternate = models.CharField(max_length=20, blank=True, default="")
    sheet = models.ForeignKey(BuildSheet, on_delete=models.PROTECT, null=True, related_name="work_orders")
    wanted = models.DateField(null=True)
    # The order that takes what comes out of this one.
    parent = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="nested")
    state = models.CharField(max_length=9, default="planned", db_index=True)
    note = models.TextField(blank=True, default="")
    # When its operations are laid, first and last moment.
    starts_at = models.DateTimeField(null=True)
    ends_at = models.DateTimeField(null=True)
    plan = models.JSONField(null=True)
    # What the ordered quantity is expected to cost, and what was spent so far.
    expected = amount(null=True)
    spent = amount(default=0)
    # Good units received.
    good = amount(default=0)
    came_to = models.JSONField(null=True)
    # What whoever asked called it, so that asking again after a lost answer opens no second one.
    asked_as = models.UUIDField(null=True, unique=True)
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(default=now)
    released_by = models.CharField(max_length=150, blank=True, default="")
    released_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)
    closed_by = models.CharField(max_length=150, blank=True, default="")
    closed_at = models.DateTimeField(null=True)
    version = models.IntegerField(default=1)
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords(excluded_fields=["version", "plan", "came_to", "spent", "good", "asked_as"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number


class OrderOperation(models.Model):
    """An operation of a released order, or what works beside one, in the row of the plan that it has; sums of what the ledger says of it."""

    order = models.ForeignKey(WorkOrder, on_delete=models.CASCADE, related_name="operations")
    row = models.IntegerField()
    sequence = models.IntegerField()
    # What works beside an operation has the number of its resource; it is reported with it.
    resource = models.SmallIntegerField(default=0)
    name = models.TextField(blank=True, default="")
    center = models.ForeignKey(WorkCenter, on_delete=models.PROTECT, null=True, related_name="+")
    # Any work center of this group may do it; ``center`` is where it is planned, then where it was begun or reported last.
    group = models.CharField(max_length=60, blank=True, default="")
    outside = models.BooleanField(default=False)
    supplier = models.CharField(max_length=200, blank=True, default="")
    # Rows of those it follows.
    follows = ArrayField(models.IntegerField(), default=list)
    # Units planned to start.
    planned = amount()
    setup_minutes = amount(default=0)
    run_minutes = amount(default=0)
    starts_at = models.DateTimeField(null=True)
    ends_at = models.DateTimeField(null=True)
    instructions = models.TextField(blank=True, default="")
    good = amount(default=0)
    scrapped = amount(default=0)
    # What was sent to the supplier of work outside.
    sent = amount(default=0)
    # Somebody is at it: since when, and who.
    begun_at = models.DateTimeField(null=True)
    begun_by = models.CharField(max_length=150, blank=True, default="")

    class Meta:
        ordering = ["order", "row"]
        constraints = [models.UniqueConstraint(fields=["order", "row"], name="operation_row_once")]

    def __str__(self) -> str:
        return f"operation {self.sequence} of work order {self.order.number}"


class ShownFile(models.Model):
    """A file that the sheet showed with an operation when its order was released, at its place; it stays as long as the order."""

    operation = models.ForeignKey(OrderOperation, on_delete=models.CASCADE, related_name="shown")
    file = models.ForeignKey(PartFile, on_delete=models.PROTECT, related_name="+")
    position = models.SmallIntegerField()

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["operation", "file"], name="shown_file_once")]

    def __str__(self) -> str:
        return str(self.operation)


class Component(models.Model):
    """What a released order takes of a part, in the row of the plan that it has; sums of what the ledger says of it."""

    order = models.ForeignKey(WorkOrder, on_delete=models.CASCADE, related_name="components")
    row = models.IntegerField()
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    item = models.IntegerField(null=True)
    # The row of the operation at which it is issued; None where the order has none.
    operation = models.IntegerField(null=True)
    # For the ordered quantity, in the part's stock unit.
    required = amount()
    issued = amount(default=0)
    # How much of it other parts stand for.
    stood_in = amount(default=0)
    byproduct = models.BooleanField(default=False)
    customer_supplied = models.BooleanField(default=False)
    # Taken with what is reported at its operation; else the store issues it.
    backflush = models.BooleanField(default=True)

    class Meta:
        ordering = ["order", "row"]
        constraints = [models.UniqueConstraint(fields=["order", "row"], name="component_row_once")]


class Entry(models.Model):
    """One act in the shop: all its postings, or none. Never changed; one that was wrong is reversed by another. ``key`` makes it stand once."""

    key = models.UUIDField(default=uuid.uuid4, unique=True)
    order = models.ForeignKey(WorkOrder, on_delete=models.PROTECT, related_name="entries")
    # report | issue | sent | invoice | receipt | closing | reversal
    kind = models.CharField(max_length=8)
    # When it happened, and who did it; when and by whom it was written down.
    at = models.DateTimeField()
    done_by = models.CharField(max_length=150)
    posted_at = models.DateTimeField(default=now)
    posted_by = models.CharField(max_length=150)
    reason = models.TextField(blank=True, default="")
    reverses = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="reversed_by")

    class Meta:
        ordering = ["id"]


class Posting(models.Model):
    """One line of an entry. Costs are what the order bears, in the currency of the workspace; what it gives to stock is negative."""

    entry = models.ForeignKey(Entry, on_delete=models.PROTECT, related_name="postings")
    order = models.ForeignKey(WorkOrder, on_delete=models.PROTECT, related_name="postings")
    # work | issue | sent | invoice | receipt | rest
    kind = models.CharField(max_length=8)
    # The row of the operation it is about.
    operation = models.IntegerField(null=True)
    # The row of the component it is for; none for what no list asks for.
    component = models.IntegerField(null=True)
    part = models.ForeignKey(Part, on_delete=models.PROTECT, null=True, related_name="+")
    # Taken or received, in the part's stock unit; sent, in units of the order.
    quantity = amount(default=0)
    # How much of the component another part stands for.
    stood_in = amount(default=0)
    good = amount(default=0)
    scrapped = amount(default=0)
    setup_minutes = amount(default=0)
    run_minutes = amount(default=0)
    value = amount(default=0)
    # The value by element, as decimal text.
    elements = models.JSONField(default=dict)
    move = models.OneToOneField(StockMove, on_delete=models.PROTECT, null=True, related_name="posting")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["order", "kind"], name="posting_of_order")]
