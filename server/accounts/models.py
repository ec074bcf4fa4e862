"""What a person keeps for themselves."""

import os
from binascii import unhexlify
from typing import Any

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESSIV
from cryptography.hazmat.primitives.hashes import SHA512
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django_otp.plugins.otp_totp.models import TOTPDevice
from tally_core.basics.errors import Problem, ProblemsError

__all__ = ["Authenticator", "FirstPassword", "Identity", "Noted", "SavedColumns", "Seen", "Token"]


class Authenticator(TOTPDevice):
    """What shows a person six digits. Its secret lies in the database sealed by the server's key and bound to its person (AES-SIV, RFC 5297)."""

    class Meta:
        proxy = True

    @classmethod
    def made_for(cls, user: Any, secret: bytes | None = None, **more: Any) -> "Authenticator":
        """A new one; its secret is of 160 bits, as RFC 4226 asks, where none is given."""
        sealed = _seal().encrypt(os.urandom(20) if secret is None else secret, [str(user.pk).encode()])
        return cls.objects.create(user=user, name="authenticator", key=sealed.hex(), **more)

    @property
    def bin_key(self) -> bytes:
        """Its secret. Raises ProblemsError where it was sealed by another key of the server, or for somebody else."""
        try:
            return _seal().decrypt(unhexlify(self.key), [str(self.user_id).encode()])
        except InvalidTag:
            words = (
                "The key of this server is another one since you set your second factor up; use one of your codes for the day it is lost."
            )
            raise ProblemsError([Problem("code", words)]) from None


def _seal() -> AESSIV:
    return AESSIV(HKDF(SHA512(), 64, salt=None, info=b"round-tally authenticators").derive(settings.SECRET_KEY.encode()))


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
