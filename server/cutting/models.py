"""Cutting: what stock is cut from, what is left of it, and plans of how products are cut."""

from definition.models.parts import Part, amount
from django.db import models

__all__ = ["CutPlan", "Leftover", "StockSize"]


class StockSize(models.Model):
    """A size in which a material comes: a bar, or a board where it has a width; the grain of a board runs along its length."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="stock_sizes")
    length_mm = amount()
    width_mm = amount(null=True)
    # What one costs; by its size and the part's own cost where nothing is stated.
    cost = amount(null=True)
    changed_by = models.CharField(max_length=150)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["part", "-length_mm", "-width_mm", "id"]


class CutPlan(models.Model):
    """How some builds are cut. Made by the worker; once it was cut, its leftovers are stock, and it stays as it was."""

    number = models.CharField(max_length=20, unique=True)
    # The builds as they were asked: part, quantity, options.
    builds = models.JSONField()
    kerf_mm = amount()
    # What is shorter or narrower is waste.
    keep_mm = amount()
    day = models.DateField()
    state = models.CharField(max_length=8, default="asked")  # asked | made | cut
    # What came of it: ``cutting.planned`` says its form, with a format number; none until it is made.
    said = models.JSONField(null=True)
    made_by = models.CharField(max_length=150)
    made_at = models.DateTimeField(auto_now_add=True)
    cut_by = models.CharField(max_length=150, blank=True, default="")
    cut_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.number


class Leftover(models.Model):
    """What is left of a bar or a board and worth keeping, until another plan takes it."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="leftovers")
    length_mm = amount()
    width_mm = amount(null=True)
    # The plan that left it, or a word of whoever counted it.
    left_by = models.ForeignKey(CutPlan, on_delete=models.PROTECT, null=True, related_name="leftovers")
    note = models.TextField(blank=True, default="")
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now_add=True)
    # The plan that took it, or who said that it is gone.
    used_by = models.ForeignKey(CutPlan, on_delete=models.PROTECT, null=True, related_name="used")
    gone_by = models.CharField(max_length=150, blank=True, default="")

    class Meta:
        ordering = ["part", "-length_mm", "-width_mm", "id"]
        indexes = [models.Index(fields=["part"], condition=models.Q(used_by=None, gone_by=""), name="leftover_there")]
