"""What a person keeps for themselves."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

__all__ = ["Noted", "SavedColumns", "Token"]


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


class Token(models.Model):
    """By which a program of a person reads what they may read. The token itself is shown once and kept nowhere: only its digest is."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=60)
    # Its first characters, by which a person tells it from others.
    start = models.CharField(max_length=12)
    digest = models.CharField(max_length=64, unique=True)
    # Subjects of ``access.READABLE``.
    subjects = ArrayField(models.CharField(max_length=40), default=list)
    made_at = models.DateTimeField(auto_now_add=True)
    # The last day on which it is taken.
    until = models.DateField()
    # To the hour.
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name


class Noted(models.Model):
    """What was done about an account: signing in, roles, passwords, tokens. Never changed; names stay when the people go."""

    at = models.DateTimeField(auto_now_add=True)
    by = models.CharField(max_length=150)
    person = models.CharField(max_length=150)
    what = models.TextField()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.what
