"""What a person keeps for themselves."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

__all__ = ["FirstPassword", "Identity", "Noted", "SavedColumns", "Seen", "Token"]


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


class FirstPassword(models.Model):
    """A person's password was given by somebody else, and they have not chosen their own yet."""

    person = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="first_password")
    given_at = models.DateTimeField()


class Identity(models.Model):
    """Somebody here as a sign-on outside knows them: by its issuer and its own key for them, which never becomes another's."""

    person = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="identity")
    issuer = models.CharField(max_length=300)
    subject = models.CharField(max_length=255)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["issuer", "subject"], name="identity_once")]


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


class Seen(models.Model):
    """What somebody took out as a file, each time; or what costs and prices they saw, once a day. Never changed."""

    at = models.DateTimeField(auto_now_add=True)
    # Of a look its day; of a file nothing.
    day = models.DateField(null=True)
    by = models.CharField(max_length=170)
    what = models.CharField(max_length=20)
    # The address, and what tells one thing of it from another.
    thing = models.CharField(max_length=300)

    class Meta:
        ordering = ["-id"]
        constraints = [models.UniqueConstraint(fields=["day", "by", "what", "thing"], name="look_once_a_day")]

    def __str__(self) -> str:
        return f"{self.by} {self.what} {self.thing}"
