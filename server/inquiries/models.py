"""Inquiries: what customers ask to be quoted or built, their lists line by line, and what each line is held for."""

from typing import Any

from definition.models.parts import Part, amount
from definition.models.sheets import BuildSheet
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.utils.timezone import now
from files.models import StoredFile
from partners.models import named_partner
from simple_history.models import HistoricalRecords

__all__ = [
    "STATES",
    "Build",
    "ColumnMapKept",
    "Decision",
    "Inquiry",
    "InquiryFile",
    "ListLine",
    "Origin",
    "Product",
    "Question",
    "RememberedPair",
]

#: How an inquiry stands, by its code, in the order in which it goes on.
STATES = {
    "work": "in work",
    "waiting": "waiting for the customer",
    "ready": "ready to price",
    "quoted": "quoted",
    "won": "won",
    "lost": "lost",
    "dropped": "dropped",
}


class PartSaid(models.Model):
    """What a part's texts say, read once: how lines find their like among very many parts. Kept up to date by ``ours.bring_up``."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, primary_key=True, related_name="said")
    # Of the texts and numbers it was read from.
    signature = models.CharField(max_length=32)
    texts = models.TextField(blank=True, default="")
    kind = models.CharField(max_length=20, blank=True, default="")
    # The value of its kind's main field, as text.
    main = models.TextField(blank=True, default="")
    # Field → value, as text; of which type it is the field says.
    fields = models.JSONField(default=dict)
    # Of a part that states no main value.
    words = ArrayField(models.TextField(), default=list)

    class Meta:
        indexes = [models.Index(fields=["kind", "main"], name="said_main"), GinIndex(fields=["words"], name="said_words", fastupdate=False)]


class PartNumber(models.Model):
    """A number that a part goes by, folded: its own, and its makers'. ``keys``: hashes under which what is nearly the same finds it."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="folded")
    folded = models.TextField()
    maker = models.TextField(blank=True, default="")
    rank = models.IntegerField(default=0)
    keys = ArrayField(models.BigIntegerField(), default=list)

    class Meta:
        # Without fastupdate: who pairs a list would look through what was written last one by one, forty times as long.
        indexes = [models.Index(fields=["folded"], name="number_folded"), GinIndex(fields=["keys"], name="number_nearly", fastupdate=False)]


class Inquiry(models.Model):
    """What a customer asks; without one, a list of our own on its way in."""

    number = models.CharField(max_length=20, unique=True)
    title = models.CharField(max_length=200)
    customer = named_partner(db_column="customer")
    their_reference = models.CharField(max_length=100, blank=True, default="")
    wanted_by = models.DateField(null=True)
    state = models.CharField(max_length=8, default="work")
    held_by = models.CharField(max_length=150, blank=True, default="")
    note = models.TextField(blank=True, default="")
    opened_by = models.CharField(max_length=150)
    opened_at = models.DateTimeField(auto_now_add=True)
    version = models.IntegerField(default=1)
    # Counts every write to its lines: who looks on asks what was written since.
    stamp = models.IntegerField(default=0)
    # The stamp at which lines last came or went; who looks on from before it reads all of them.
    laid = models.IntegerField(default=0)
    # What whoever asked called it, so that asking again after a lost answer opens no second one.
    asked_as = models.UUIDField(null=True, unique=True)
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords(excluded_fields=["version", "stamp", "laid", "asked_as"])

    class Meta:
        ordering = ["wanted_by", "number"]

    def __str__(self) -> str:
        return self.number


class InquiryFile(models.Model):
    """A file of an inquiry. ``role``: a list, a layout of a board, a piece of a model that names it, or anything else."""

    inquiry = models.ForeignKey(Inquiry, on_delete=models.CASCADE, related_name="files")
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)
    role = models.CharField(max_length=8, default="unread")  # unread | list | layout | piece | other
    # The later revision that was taken in its place.
    replaced_by = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="replaces")
    # Every table with its cells, each in its own type, once the worker has read the file.
    grid = models.JSONField(default=list)
    # How each of its sheets is read (``column_maps``), and ``from``: found | remembered | by hand.
    column_map = models.JSONField(null=True)
    # Components as layouts and placement files have them, as in a neutral reading.
    places = models.JSONField(default=list)
    # Of a layout, in millimetres: ``outline`` of the board, ``packages`` with the box around each.
    board = models.JSONField(default=dict)
    # What could not be read, or is worth a look: row, message, field.
    troubles = models.JSONField(default=list)
    # What the list that this one replaced had and this one has no more: row, name, description.
    taken = models.JSONField(default=list)
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class ListLine(models.Model):
    """One line of a list. ``said`` is what the sender wrote and never changes; ``mended`` what of it was set right here.

    Row 0 is what the list is for, where no row of it says so.
    """

    inquiry = models.ForeignKey(Inquiry, on_delete=models.CASCADE, related_name="lines")
    file = models.ForeignKey(InquiryFile, on_delete=models.CASCADE, related_name="lines")
    sheet = models.CharField(max_length=100, blank=True, default="")
    row = models.IntegerField()
    position = models.IntegerField()
    said = models.JSONField(default=dict)
    mended = models.JSONField(default=dict)
    # What it is of, however it is spelled (``InquiryLine.thing``), as mended; empty where nothing says.
    thing = models.TextField(blank=True, default="")
    # open | paired | out (not a part of the product)
    state = models.CharField(max_length=6, default="open")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, null=True, related_name="+")
    road = models.CharField(max_length=12, blank=True, default="")
    decided_by = models.CharField(max_length=150, blank=True, default="")
    decided_at = models.DateTimeField(null=True)
    # Parts that it is not, and what the worker found that it may be: part, road, certain, verdicts.
    refused = models.JSONField(default=list)
    proposals = models.JSONField(default=list)
    findings = models.JSONField(default=list)
    # What the layout of its board has at its places, in words.
    layout = models.TextField(blank=True, default="")
    # Code of a finding → reason, by, at.
    waived = models.JSONField(default=dict)
    # Of a later revision: field → what it said before; {"": "added"} for a line that is new.
    changed = models.JSONField(default=dict)
    stamp = models.IntegerField(default=0)

    class Meta:
        ordering = ["position", "id"]
        indexes = [
            models.Index(fields=["inquiry", "stamp"], name="inquiry_line_since"),
            models.Index(fields=["inquiry", "thing"], name="inquiry_line_thing"),
        ]

    def as_mended(self) -> dict[str, Any]:
        """What it says, as set right."""
        return {**self.said, **self.mended}


class Decision(models.Model):
    """What somebody decided on a line; never changed. Those of one ``batch`` are taken back together."""

    inquiry = models.ForeignKey(Inquiry, on_delete=models.CASCADE, related_name="decisions")
    line = models.ForeignKey(ListLine, on_delete=models.CASCADE, related_name="decisions")
    batch = models.IntegerField()
    # take | refuse | out | open | mend | waive | answer
    verb = models.CharField(max_length=8)
    # What it found and what it left, by field of the line: part, road, state, refused, mended, waived.
    before = models.JSONField(default=dict)
    after = models.JSONField(default=dict)
    words = models.TextField(blank=True, default="")
    by = models.CharField(max_length=150)
    at = models.DateTimeField(default=now)
    taken_back_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["inquiry", "batch"], name="inquiry_batch")]


class RememberedPair(models.Model):
    """A sender's number and the part of ours it was paired with; ``told`` is what the line said then."""

    customer = named_partner(db_column="customer")
    folded = models.CharField(max_length=200)
    number = models.CharField(max_length=500)
    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="+")
    told = models.JSONField(default=dict)
    decided_by = models.CharField(max_length=150)
    decided_at = models.DateTimeField(default=now)
    # Who, for the row of history that the next save writes.
    _history_user: Any
    history = HistoricalRecords()

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["customer", "folded"], name="remembered_once")]


class ColumnMapKept(models.Model):
    """How lists of one sender and shape are read; no customer for lists of our own."""

    FORMAT = 1

    customer = named_partner(db_column="customer")
    shape = models.TextField()
    format = models.IntegerField(default=FORMAT)
    # ``column_maps.as_json``
    map = models.JSONField()
    changed_by = models.CharField(max_length=150)
    changed_at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["customer", "shape"], nulls_distinct=False, name="column_map_once")]


class Question(models.Model):
    """What the sender is asked about a line, and what came back."""

    line = models.ForeignKey(ListLine, on_delete=models.CASCADE, related_name="questions")
    # The code of the finding it is about; "free" for what somebody asks.
    about = models.CharField(max_length=30, default="free")
    # What an answer is laid on; empty: nothing of the line.
    field = models.CharField(max_length=20, blank=True, default="")
    text = models.TextField()
    asked_by = models.CharField(max_length=150)
    asked_at = models.DateTimeField(auto_now_add=True)
    answer = models.TextField(blank=True, default="")
    answered_at = models.DateTimeField(null=True)
    laid_by = models.CharField(max_length=150, blank=True, default="")

    class Meta:
        ordering = ["about", "line__position", "id"]


class NumberData(models.Model):
    """What the parts-data service said of a maker's number, with its day; empty where it does not know it."""

    folded = models.CharField(max_length=200, unique=True)
    number = models.CharField(max_length=500)
    # The plain values of ``outside.parts_data.PartData``.
    data = models.JSONField(default=dict)
    asked_at = models.DateTimeField(default=now)


class Build(models.Model):
    """How many of what are wanted, and by when; buying prices them."""

    inquiry = models.ForeignKey(Inquiry, on_delete=models.CASCADE, related_name="builds")
    # The top of a list, by its line; its part is known once it is paired.
    line = models.ForeignKey(ListLine, on_delete=models.CASCADE, related_name="builds")
    quantity = amount()
    wanted_by = models.DateField(null=True)

    class Meta:
        ordering = ["quantity", "id"]


class Origin(models.Model):
    """Which line of which list a line of a sheet came from. ``lineage`` is that of the sheet's line, over all its revisions."""

    lineage = models.UUIDField()
    line = models.ForeignKey(ListLine, on_delete=models.CASCADE, related_name="became")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["lineage", "line"], name="origin_once")]


class Product(models.Model):
    """A sheet that an inquiry was turned into."""

    inquiry = models.ForeignKey(Inquiry, on_delete=models.CASCADE, related_name="products")
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, related_name="inquiries")
    top = models.BooleanField(default=False)
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)
