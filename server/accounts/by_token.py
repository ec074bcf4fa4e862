"""Programs that read with a token of a person: what it opens, and nothing else."""

from datetime import timedelta

from django.contrib.auth.models import AbstractUser
from django.http import HttpRequest
from django.utils.timezone import localdate, now
from ninja.security import HttpBearer

from accounts.access import READABLE, Refused, sees_prices
from accounts.actions.keep_tokens import digest_of
from accounts.models import Token

__all__ = ["ByToken"]

#: How often it is noted that a token was used.
_NOTED = timedelta(hours=1)


class ByToken(HttpBearer):
    """``Authorization: Bearer TOKEN``, to read only; the person's own rights are the limit of what it reads."""

    def authenticate(self, request: HttpRequest, token: str) -> AbstractUser | None:
        held = Token.objects.select_related("user").filter(digest=digest_of(token), revoked_at=None).first()
        if held is None or held.until < localdate() or not held.user.is_active:
            return None
        if request.method not in ("GET", "HEAD"):
            raise Refused("A token only reads. Nothing was saved.")
        subject = next((s for s, starts in READABLE.items() if _first(request.path) in starts), "")
        if subject not in held.subjects:
            raise Refused(f"This token does not read {subject or 'this'}; it reads {', '.join(held.subjects)}.")
        if subject == "buying" and not sees_prices(held.user):
            raise Refused("What suppliers ask is not shown to whoever made this token.")
        if held.used_at is None or now() - held.used_at > _NOTED:
            Token.objects.filter(pk=held.pk).update(used_at=now())
        request.user = held.user
        return held.user


def _first(path: str) -> str:
    return path.removeprefix("/api/").split("/", 1)[0]
