"""Set a second factor up, and take it away."""

from base64 import b32encode
from typing import Any

import segno
from django.contrib.auth import get_user_model
from django.db import transaction
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from accounts.access import require
from accounts.models import Authenticator
from accounts.people import end_sessions, note
from accounts.second import has_second, spare_as_kept

__all__ = ["begin_second", "confirm_second", "drop_second", "take_second_away"]

_CODES = 8


def begin_second(user: Any) -> dict[str, str]:
    """A secret for an authenticator, for who has proven the password; it counts once a code of it was typed. One that was begun before is gone.

    Raises ProblemsError where there is one already.
    """
    with transaction.atomic():
        _held(user)
        if has_second(user):
            raise ProblemsError([Problem("", "You have a second factor; take it away before you set another one up.")])
        Authenticator.objects.filter(user=user).delete()
        device = Authenticator.made_for(user, confirmed=False)
    address = device.config_url
    return {
        "secret": b32encode(device.bin_key).decode().rstrip("="),
        "address": address,
        "picture": segno.make(address, error="m").svg_data_uri(scale=4, border=3),
    }


def confirm_second(user: Any, code: str) -> list[str]:
    """Take the first code of what was begun; answers the codes for the day it is lost, of which only digests are kept.

    Raises ProblemsError where the code does not hold, or nothing was begun.
    """
    with transaction.atomic():
        _held(user)
        device = Authenticator.objects.select_for_update().filter(user=user, confirmed=False).first()
        if device is None:
            raise ProblemsError([Problem("", "Begin to set it up first.")])
        holds = device.verify_token("".join(code.split()))
        if holds:
            device.confirmed = True
            device.save()
            StaticDevice.objects.filter(user=user).delete()
            spare = StaticDevice.objects.create(user=user, name="for the day it is lost")
            codes = [StaticToken.random_token() for _ in range(_CODES)]
            StaticToken.objects.bulk_create(StaticToken(device=spare, token=spare_as_kept(spare, c)) for c in codes)
            note(user, user, "set up a second factor")
    if not holds:
        raise ProblemsError([Problem("code", "This code does not hold; is the clock of the device right?")])
    return codes


def drop_second(user: Any) -> None:
    """Take one's own away, for who has proven both."""
    with transaction.atomic():
        _gone(_held(user))
        note(user, user, "took the second factor away")


def take_second_away(user: Any, name: str) -> None:
    """Take that of a person away who lost it; all their sessions end. Raises ProblemsError, MissingError and Refused."""
    require(user, "people")
    with transaction.atomic():
        person = get_user_model().objects.select_for_update().filter(username=name).first()
        if person is None:
            raise MissingError(f"There is nobody of the name {name}.")
        if person.is_superuser and not user.is_superuser:
            raise ProblemsError([Problem("", f"{name} has all rights; only who has them too takes that away")])
        if not has_second(person):
            raise ProblemsError([Problem("", f"{name} has no second factor.")])
        _gone(person)
        end_sessions(person)
        note(user, name, "has no second factor any more")


def _held(user: Any) -> Any:
    return get_user_model().objects.select_for_update().get(pk=user.pk)


def _gone(person: Any) -> None:
    Authenticator.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
