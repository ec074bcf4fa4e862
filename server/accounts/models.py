"""What a person keeps for themselves."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

__all__ = ["SavedColumns"]


class SavedColumns(models.Model):
    """A set of columns of one kind of list, by name; a person's own."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="saved_columns")
    list_name = models.CharField(max_length=60)
    name = models.CharField(max_length=60)
    hidden = ArrayField(models.TextField(), default=list)
    saved_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["user", "list_name", "name"], name="columns_once")]
