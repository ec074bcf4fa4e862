"""Handing over: comparisons with a system of record, what was decided, what was written, and what both sides agree on since."""

from typing import Any

from definition.models.parts import Part, amount
from definition.models.sheets import BuildSheet
from django.db import models
from django.utils.timezone import now
from simple_history.models import HistoricalRecords

__all__ = ["STATES", "Agreed", "ByHand", "Decision", "Drift", "Handover", "KnownAs", "Opened", "WordMap"]

#: work: compared and decided; writing: both sides are written, or it broke off in the middle; done; undone: taken back; dropped.
STATES = ("work", "writing", "done", "undone", "dropped")


class Handover(models.Model):
    """A product beside a system of record, from the first look until both are in step, or it was let go."""

    number = models.CharField(max_length=20, unique=True)
    # Our name of the system of record (outside.services).
    record = models.CharField(max_length=40)
    top = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="handovers")
    # Keys of the parts whose sheets are handed over, ``top`` the first of them; none: the product with all beneath it.
    sheets = models.JSONField(default=list)
    state = models.CharField(max_length=8, default="work", choices=[(s, s) for s in STATES])
    # Counts every decision; what somebody saw before it changed is not written.
    version = models.IntegerField(default=1)
    opened_by = models.CharField(max_length=150)
    opened_at = models.DateTimeField(default=now)
    # Their side as it was read (handover.kept, with a format number), on the day whose sheets count.
    theirs = models.JSONField(null=True)
    read_at = models.DateTimeField(null=True)
    day = models.DateField(null=True)
    # The change sheet as it was written, and what is needed to finish or take back a writing that broke off (handover.kept).
    sheet = models.JSONField(null=True)
    journal = models.JSONField(null=True)
    # What happened to it, in order: when, by whom, in words.
    log = models.JSONField(default=list)
    ended_by = models.CharField(max_length=150, blank=True, default="")
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number

    def tell(self, by: str, words: str) -> None:
        """Add a word to what happened; saved with the next save."""
        self.log = [*self.log, {"at": now().isoformat(), "by": by, "words": words}]


class Decision(models.Model):
    """Whose state of a row, or of one field of it, is to stand. It holds as long as the row says what it said then."""

    handover = models.ForeignKey(Handover, on_delete=models.CASCADE, related_name="decisions")
    row = models.CharField(max_length=300)
    # Empty: the row as a whole, where one side only has it.
    field = models.CharField(max_length=100, blank=True, default="")
    choice = models.CharField(max_length=6, choices=[(c, c) for c in ("ours", "theirs", "leave")])
    # What it was decided on: a digest of what was agreed, ours and theirs.
    of = models.CharField(max_length=16)
    by = models.CharField(max_length=150)
    at = models.DateTimeField(default=now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["handover", "row", "field"], name="decided_once")]


class ByHand(models.Model):
    """A line that only their side has and is to keep: added here for them, or found there and left alone."""

    record = models.CharField(max_length=40)
    parent = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="+")
    alternate = models.CharField(max_length=20, default="A")
    # Their item, which need not be a part of ours.
    item = models.CharField(max_length=64)
    quantity = amount()
    unit = models.CharField(max_length=20)
    issue_at = models.IntegerField(null=True)
    reason = models.TextField()
    # Their key of the line; empty until it was written.
    known_as = models.CharField(max_length=64, blank=True, default="")
    # The handover that is to write it, or did.
    handover = models.ForeignKey(Handover, on_delete=models.SET_NULL, null=True, related_name="by_hand")
    by = models.CharField(max_length=150)
    at = models.DateTimeField(default=now)

    class Meta:
        ordering = ["id"]


class Agreed(models.Model):
    """What both sides agree on of one part and its sheets since a handover; never changed, the newest of a part counts."""

    record = models.CharField(max_length=40)
    number = models.CharField(max_length=64)
    handover = models.ForeignKey(Handover, on_delete=models.PROTECT, related_name="agreed")
    # handover.kept, with a format number.
    state = models.JSONField()
    at = models.DateTimeField(default=now)

    class Meta:
        indexes = [models.Index(fields=["record", "number", "-id"], name="agreed_last")]


class Opened(models.Model):
    """A draft that took over what they had moved: it is what is compared, until it is released."""

    handover = models.ForeignKey(Handover, on_delete=models.CASCADE, related_name="opened")
    sheet = models.ForeignKey(BuildSheet, on_delete=models.CASCADE, related_name="+")


class KnownAs(models.Model):
    """What a part of ours is called in a system of record, where that is not by our number."""

    record = models.CharField(max_length=40)
    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="+")
    code = models.CharField(max_length=64)
    by = models.CharField(max_length=150)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["record", "part"], name="known_as_one"),
            models.UniqueConstraint(fields=["record", "code"], name="one_known_as"),
        ]


class WordMap(models.Model):
    """The words of a system of record for our fields, as they were edited; until then those of its adapter hold."""

    record = models.CharField(max_length=40, unique=True)
    # handover.kept, with a format number.
    words = models.JSONField()
    version = models.IntegerField(default=1)
    # Who, for the row of history that the next save writes.
    _history_user: Any
    history = HistoricalRecords(excluded_fields=["version"])


class Drift(models.Model):
    """What the last nightly look found of a product that was handed over: verdicts and how many rows have each."""

    record = models.CharField(max_length=40)
    top = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="+")
    counts = models.JSONField(default=dict)
    # Why it could not be looked at.
    failed = models.TextField(blank=True, default="")
    at = models.DateTimeField(default=now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["record", "top"], name="drift_once")]
