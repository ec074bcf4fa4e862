"""How long a session lasts: so many hours without a request, and so many days in all, whatever is done in it; and which ones are open."""

import hashlib
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

from django.conf import settings
from django.contrib.auth import logout
from django.contrib.auth.models import AbstractUser
from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils.timezone import now

from accounts.addresses import client_address

__all__ = ["begin", "name_of", "open_sessions", "sessions_of", "signed_in"]

_BEGAN, _SEEN, _PLACE, _PROGRAM = "began", "seen", "place", "program"
#: Seconds after which it is kept anew that a session is in use; each such is a write.
_KEPT = 300


def begin(sender: Any, request: HttpRequest, user: Any, **_: Any) -> None:
    """Receiver of ``user_logged_in``: keeps when and from where a session began."""
    moment = int(time.time())
    program = request.META.get("HTTP_USER_AGENT", "")[:200]
    # One that was opened on the way to a sign-on was for a quarter of an hour.
    request.session.set_expiry(None)
    request.session.update({_BEGAN: moment, _SEEN: moment, _PLACE: client_address(request), _PROGRAM: program})


def signed_in(request: HttpRequest) -> AbstractUser | None:
    """Who is signed in, where the session still lasts; one that does not is gone with this."""
    user = request.user
    if not user.is_authenticated:
        return None
    moment, held = int(time.time()), request.session
    seen = held.get(_SEEN, 0)
    if moment - seen > settings.SESSION_IDLE_SECONDS or moment - held.get(_BEGAN, 0) > settings.SESSION_COOKIE_AGE:
        logout(request)
        return None
    if moment - seen >= _KEPT:
        held[_SEEN] = moment
    return user


def sessions_of(user: Any) -> Iterator[Session]:
    """The sessions of a person that are kept, also those that were idle for too long."""
    for session in Session.objects.filter(expire_date__gte=now()).iterator():
        if session.get_decoded().get("_auth_user_id") == str(user.pk):
            yield session


def open_sessions(user: Any) -> list[dict[str, Any]]:
    """The sessions of a person that still last, the last used first: by which name, when each began and was last seen, from where, with which program."""
    oldest = time.time() - settings.SESSION_IDLE_SECONDS
    kept = [(name_of(session.session_key), session.get_decoded()) for session in sessions_of(user)]
    found = [
        {"name": name, "began": _moment(held[_BEGAN]), "seen": _moment(held[_SEEN]), "place": held[_PLACE], "program": held[_PROGRAM]}
        for name, held in kept
        if held.get(_SEEN, 0) >= oldest
    ]
    return sorted(found, key=lambda one: one["seen"], reverse=True)


def _moment(seconds: int) -> str:
    return datetime.fromtimestamp(seconds, UTC).isoformat()


def name_of(session_key: str) -> str:
    """By which a session can be named without opening it."""
    return hashlib.sha256(session_key.encode()).hexdigest()[:16]
