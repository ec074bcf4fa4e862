"""Standards, and the rounds that make them.

Amounts of money are whole millionths of the workspace's currency per stock unit of the part: exact, and what is kept by
element adds up to what is kept as a whole.
"""

from typing import Any

from definition.models.parts import Part, amount
from django.contrib.postgres.fields import ArrayField
from django.db import models
from simple_history.models import HistoricalRecords

__all__ = ["Proposal", "Revaluation", "Round", "Standard", "Tally", "TallyInputs", "TallyRow"]


def _by_element(**options: Any) -> ArrayField:
    """Millionths over the ``elements`` of the tally, which names them."""
    return ArrayField(models.BigIntegerField(), **options)


class Round(models.Model):
    """A set of proposed inputs that is tallied, compared, then accepted as a whole or dropped."""

    name = models.CharField(max_length=80, unique=True)
    # The day from which its standards hold, and as of which sheets and rates are read.
    first_day = models.DateField()
    note = models.TextField(blank=True, default="")
    status = models.CharField(max_length=8, default="open")  # open | accepted | dropped
    # all: every part; touched: what its proposals reach; chosen: ``chosen`` alone.
    scope = models.CharField(max_length=8, default="touched")
    chosen = models.ManyToManyField(Part, related_name="+")
    opened_by = models.CharField(max_length=150)
    opened_at = models.DateTimeField(auto_now_add=True)
    closed_by = models.CharField(max_length=150, blank=True, default="")
    closed_at = models.DateTimeField(null=True)
    # Counts every change of what it proposes and of whom it is for.
    version = models.IntegerField(default=1)
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name


class Proposal(models.Model):
    """One input as a round would have it. ``table`` and ``field`` are words of ``tally_core.structure.overlay.INPUTS``."""

    round = models.ForeignKey(Round, on_delete=models.CASCADE, related_name="proposals")
    table = models.CharField(max_length=12)
    # The key of the row: a number for parts and work centers, the lineage of lines and operations.
    key = models.CharField(max_length=36)
    field = models.CharField(max_length=30)
    # The part whose cost it changes first; none for a work center.
    part = models.ForeignKey(Part, on_delete=models.CASCADE, null=True, related_name="+")
    value = amount(null=True)
    # Where it comes from, in words: by hand, a file, a percentage over a selection.
    source = models.TextField(blank=True, default="")
    reason = models.TextField(blank=True, default="")
    proposed_by = models.CharField(max_length=150)
    proposed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["table", "id"]
        constraints = [models.UniqueConstraint(fields=["round", "table", "key", "field"], name="proposal_once")]


class Tally(models.Model):
    """What a round came to when it was tallied. One per round: a new one takes the place of the last."""

    round = models.OneToOneField(Round, on_delete=models.CASCADE, related_name="tally")
    # The version of the round it was made from, and how far the histories had come.
    round_version = models.IntegerField()
    mark = models.JSONField()
    last_standard = models.BigIntegerField()
    # What its rows, and the standards made of them, are kept over: the names of the elements and the causes.
    elements = ArrayField(models.CharField(max_length=30))
    causes = ArrayField(models.CharField(max_length=30))
    # How many parts it is of.
    parts = models.IntegerField(default=0)
    tallied_by = models.CharField(max_length=150)
    tallied_at = models.DateTimeField(auto_now_add=True)
    # Parts that cannot be costed because a sheet is missing, and bought ones without a price, by number.
    lacking = models.JSONField(default=list)
    unpriced = models.JSONField(default=list)


class TallyInputs(models.Model):
    """All inputs a tally was made from, packed; see ``rounds.snapshot``."""

    tally = models.OneToOneField(Tally, on_delete=models.CASCADE, related_name="inputs")
    content = models.BinaryField()


class TallyRow(models.Model):
    """One part of a tally, old and new."""

    tally = models.ForeignKey(Tally, on_delete=models.CASCADE, related_name="rows")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    lot = models.BigIntegerField()
    unit = models.BigIntegerField()
    elements = _by_element()
    this_level = _by_element()
    # Its standard so far; without one, what its inputs come to without the round.
    before = models.BigIntegerField()
    before_elements = _by_element()
    standard = models.BigIntegerField(null=True)
    # Over the ``causes`` of the tally.
    causes = ArrayField(models.BigIntegerField())


class Standard(models.Model):
    """The accepted cost of a part from a day on; never changed."""

    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="standards")
    round = models.ForeignKey(Round, on_delete=models.PROTECT, related_name="standards")
    first_day = models.DateField()
    lot = models.BigIntegerField()
    unit = models.BigIntegerField()
    elements = _by_element()
    this_level = _by_element()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "first_day"], name="standard_once")]


class Revaluation(models.Model):
    """What accepting a round did to the value of a part's stock; never changed."""

    round = models.ForeignKey(Round, on_delete=models.PROTECT, related_name="revaluations")
    part = models.ForeignKey(Part, on_delete=models.PROTECT, related_name="+")
    on_hand = amount()
    # Empty when the part had no standard before.
    before = models.BigIntegerField(null=True)
    after = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["round", "part"], name="revaluation_once")]
