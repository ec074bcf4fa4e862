"""From where a request came."""

from django.conf import settings
from django.http import HttpRequest

__all__ = ["client_address"]


def client_address(request: HttpRequest) -> str:
    """The address that a request came from: what our own proxies say of it, and nothing that its sender could write.

    ``TRUSTED_PROXIES`` says how many proxies of ours stand before the server; each adds one entry at the right of
    X-Forwarded-For, and what stands further left is anybody's word.
    """
    told = [part.strip() for part in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",") if part.strip()]
    trusted = settings.TRUSTED_PROXIES
    if trusted and len(told) >= trusted:
        return told[-trusted]
    return request.META.get("REMOTE_ADDR", "")
