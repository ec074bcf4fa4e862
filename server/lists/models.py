"""Lists as a reader wants them, kept under a name."""

from django.conf import settings
from django.db import models

__all__ = ["KeptList"]


class KeptList(models.Model):
    """How a list is made for a reader: a person's own, or one for all."""

    name = models.CharField(max_length=60)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="kept_lists")
    for_all = models.BooleanField(default=False)
    # The plain form of ``lists.wanted.Wanted``, with its format number.
    value = models.JSONField()
    kept_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(fields=["user", "name"], name="kept_list_once"),
            models.UniqueConstraint(fields=["name"], condition=models.Q(for_all=True), name="kept_list_for_all_once"),
        ]

    def __str__(self) -> str:
        return self.name
