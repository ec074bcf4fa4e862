"""Whom we buy from, whom we sell to, and who makes what we buy."""

from typing import Any

from django.db import models
from django.db.models.functions import Upper
from simple_history.models import HistoricalRecords

__all__ = ["ROLES", "Partner", "named_partner"]

#: What a partner may be to us; each is a column.
ROLES = ("customer", "supplier", "maker")


class Partner(models.Model):
    """A firm we deal with. Whatever names one names it by its name: so a list, a file and a history read as they are."""

    code = models.CharField(max_length=20, unique=True)
    name = models.CharField(max_length=200, unique=True)
    customer = models.BooleanField(default=False, db_default=False)
    supplier = models.BooleanField(default=False, db_default=False)
    maker = models.BooleanField(default=False, db_default=False)
    # Empty: the currency of this workspace.
    currency = models.CharField(max_length=3, blank=True, default="")
    contact = models.TextField(blank=True, default="")
    mail = models.EmailField(blank=True, default="")
    note = models.TextField(blank=True, default="")
    version = models.IntegerField(default=1)
    # Who and why, for the row of history that the next save writes.
    _history_user: Any
    _change_reason: str
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(Upper("name"), name="partner_name_any_case"),
            models.UniqueConstraint(Upper("code"), name="partner_code_any_case"),
        ]

    def __str__(self) -> str:
        return self.name


def named_partner(**options: Any) -> models.ForeignKey:
    """A key to a partner that holds its name; renaming a partner renames it wherever it is named."""
    return models.ForeignKey(Partner, to_field="name", on_delete=models.PROTECT, null=True, related_name="+", **options)
