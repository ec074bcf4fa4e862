"""Make a token by which a program reads, or revoke one; everybody has their own."""

import hashlib
import secrets
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils.timezone import localdate, now
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from accounts.access import READABLE
from accounts.models import Token
from accounts.people import note

__all__ = ["digest_of", "make_token", "revoke_token"]

_MOST, _LONGEST = 20, 400
_START = 8


def digest_of(token: str) -> str:
    """What is kept of a token. It is as long as a key is, so that no salt and no slow digest is needed."""
    return hashlib.sha256(token.encode()).hexdigest()


def make_token(user: Any, name: str, subjects: list[str], days: int) -> tuple[Token, str]:
    """A new token, and what it is: told once. Raises ProblemsError."""
    name = " ".join(name.split())
    problems = []
    if not 0 < len(name) <= 60 or not name.isprintable():
        problems.append(Problem("name", "say in 1 to 60 characters what it is for"))
    if not subjects or set(subjects) - READABLE.keys():
        problems.append(Problem("subjects", f"choose what it may read: {', '.join(READABLE)}"))
    if not 1 <= days <= _LONGEST:
        problems.append(Problem("days", f"it holds for 1 to {_LONGEST} days"))
    with transaction.atomic():
        there = Token.objects.select_for_update().filter(user=user, revoked_at=None, until__gte=localdate())
        if len(there) >= _MOST:
            problems.append(Problem("", f"you have {_MOST} tokens that hold; revoke one first"))
        if problems:
            raise ProblemsError(problems)
        token = f"rt_{secrets.token_urlsafe(32)}"
        made = Token.objects.create(
            user=user,
            name=name,
            subjects=[s for s in READABLE if s in subjects],
            start=token[:_START],
            digest=digest_of(token),
            until=localdate() + timedelta(days=days),
        )
        note(user, user, f"made a token, {name}, that reads {', '.join(made.subjects)}")
    return made, token


def revoke_token(user: Any, token_id: int) -> None:
    """It is taken no more, from this moment on. Raises MissingError for one that is not one's own, or was revoked."""
    with transaction.atomic():
        if not Token.objects.filter(pk=token_id, user=user, revoked_at=None).update(revoked_at=now()):
            raise MissingError("This token is no longer there.")
        note(user, user, "revoked a token")
