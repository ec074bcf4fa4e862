"""Whether a name and a password go together: slow on purpose, counted, and bounded."""

import threading
from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate
from django.http import HttpRequest
from tally_core.basics.errors import TallyError

from accounts.addresses import client_address
from accounts.people import note

__all__ = ["note_wrong", "proven"]

#: Hashing a password is slow on purpose; of those that ask at once, the others wait or are asked to try again.
_HASHING = threading.BoundedSemaphore(2)
_PATIENCE = 2.0


def proven(request: HttpRequest, name: str, password: str) -> Any:
    """The person whom a name and a password prove, or None. Wrong tries are counted by name and by place.

    Raises TallyError after too many of them, and while too many others ask.
    """
    if len(name) > 150 or len(password) > 1000 or "\x00" in name:
        return None
    if not _HASHING.acquire(timeout=_PATIENCE):
        raise TallyError("Many people sign in just now; try again in a moment.")
    try:
        user = authenticate(request, username=name, password=password)
    finally:
        _HASHING.release()
    if user is None and getattr(request, "axes_locked_out", False):
        minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
        raise TallyError(f"Too many wrong tries for this name or from this place; try again in {minutes} minutes.")
    return user


def note_wrong(sender: Any, credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    """Receiver of ``user_login_failed``: leaves a record of a wrong password, by where it came from; those of a closed door are too many for that."""
    if request is not None and not getattr(request, "axes_locked_out", False):
        note(client_address(request)[:150], credentials.get("username", ""), "wrong password")
