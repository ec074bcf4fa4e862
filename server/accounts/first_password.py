"""A password that somebody else gave: it opens the account for some days, and only to choose one of one's own."""

from datetime import timedelta
from typing import Any

from django.http import HttpRequest
from django.utils.timezone import now
from tally_core.basics.errors import Problem, ProblemsError

from accounts.models import FirstPassword

__all__ = ["FIRST", "choose_own", "give", "is_first", "was_given"]

#: Under which name a session says that it was opened with such a password.
FIRST = "first password"
_HOLDS = timedelta(days=7)


def give(person: Any) -> None:
    """The password of a person was given by somebody else just now."""
    FirstPassword.objects.update_or_create(person=person, defaults={"given_at": now()})


def choose_own(person: Any) -> None:
    """The password is the person's own from now on."""
    FirstPassword.objects.filter(person=person).delete()


def was_given(person: Any) -> bool:
    """Whether a person's password was given by somebody else, and is to be replaced by one of their own. One query.

    Raises ProblemsError where the one that was given has run out.
    """
    given = FirstPassword.objects.filter(person=person).first()
    if given is not None and now() - given.given_at > _HOLDS:
        days = _HOLDS.days
        raise ProblemsError(
            [Problem("password", f"This password was given to you more than {days} days ago; ask an administrator for another.")]
        )
    return given is not None


def is_first(request: HttpRequest) -> bool:
    """Whether a session was opened with a password that somebody else gave."""
    return bool(request.session.get(FIRST))
