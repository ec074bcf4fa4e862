"""A second factor: six digits of an authenticator (TOTP, RFC 6238) or one of the codes for the day it is lost, beside the password."""

import hashlib
from base64 import b64encode
from collections.abc import Iterable
from typing import Any

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from django_otp.plugins.otp_static.models import StaticDevice
from tally_core.basics.errors import Problem, ProblemsError

from accounts.models import Authenticator

__all__ = ["SESSION", "has_second", "is_needed", "is_wanting", "prove_second", "remaining", "spare_as_kept", "who_have_one"]

#: Under which name a session says that it was opened with both.
SESSION = "second factor"


def has_second(user: Any) -> bool:
    """Whether a person signs in with a second factor. One query."""
    return Authenticator.objects.filter(user=user, confirmed=True).exists()


def who_have_one(users: Iterable[Any]) -> set[int]:
    """Of some people the keys of those who have one. One query."""
    return set(Authenticator.objects.filter(user__in=users, confirmed=True).values_list("user", flat=True))


def remaining(user: Any) -> int:
    """How many codes for the day it is lost are left. One query."""
    return StaticDevice.objects.filter(user=user, token_set__isnull=False).values("token_set").count()


def is_needed(user: Any) -> bool:
    """Whether this installation asks it of a person (``SECOND_FACTOR``): of nobody, of those who may change who signs in, or of everybody."""
    if settings.SECOND_FACTOR == "everybody":
        return True
    return settings.SECOND_FACTOR == "administrators" and (user.is_superuser or user.groups.filter(name="administrator").exists())


def is_wanting(request: HttpRequest) -> bool:
    """Whether a session was opened without the second factor that it needs: then it only sets one up."""
    return bool(settings.SECOND_FACTOR) and not request.session.get(SESSION) and is_needed(request.user)


def spare_as_kept(device: StaticDevice, code: str) -> str:
    """How a code for the day it is lost is kept: slow to guess from, and another one for each person. 96 bits, as many as the field takes."""
    salt = f"{device.pk} {device.created_at.isoformat()}".encode()
    return b64encode(hashlib.scrypt(code.lower().encode(), salt=salt, n=2**14, r=8, p=1, dklen=12)).decode()


def prove_second(user: Any, code: str) -> bool:
    """Take a code of a person; each holds once. True where it was one for the day it is lost.

    Raises ProblemsError, in words, where there is none, it does not hold, or too many did not.
    """
    code = "".join(code.split())
    if not code:
        raise ProblemsError(
            [Problem("code", "Type the six digits that your second factor shows now, or one of your codes for the day it is lost.")]
        )
    # Outside a transaction what was counted would be lost to another try at the same moment.
    with transaction.atomic():
        devices = [
            *Authenticator.objects.select_for_update().filter(user=user, confirmed=True),
            *StaticDevice.objects.select_for_update().filter(user=user, confirmed=True),
        ]
        mine = [d for d in devices if isinstance(d, Authenticator) == (code.isdecimal() and len(code) == 6)]
        held = [d.verify_is_allowed()[0] for d in mine]
        proven = [
            d
            for d, allowed in zip(mine, held, strict=True)
            if allowed and d.verify_token(spare_as_kept(d, code) if isinstance(d, StaticDevice) else code)
        ]
    if proven:
        return isinstance(proven[0], StaticDevice)
    if mine and not any(held):
        raise ProblemsError([Problem("code", "Too many codes that do not hold; wait a while before the next.")])
    raise ProblemsError([Problem("code", "This code does not hold; wait for the next one.")])
