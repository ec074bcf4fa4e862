"""Telling a place outside that something happened: a signed POST to the address that an administrator allows, and to no other.

The name is looked up once, what it leads to is checked, and the call goes to that very address: a name that leads elsewhere a moment later
changes nothing. Redirects are not followed. ``Tally-Signature`` is the HMAC-SHA256 of ``Tally-Time``, a point, and the body (RFC 2104).
"""

import hashlib
import hmac
import ipaddress
import socket
import time
from urllib.parse import urlsplit

from outside.calling import CallFailed, calling
from outside.services import HookPlace

__all__ = ["signature", "tell"]


def signature(key: str, moment: str, body: bytes) -> str:
    """What signs a body sent at a moment, in seconds since 1970."""
    return hmac.new(key.encode(), moment.encode() + b"." + body, hashlib.sha256).hexdigest()


def tell(place: HookPlace, event: str, number: int, body: bytes) -> str:
    """Tell it; answers what was answered, in words. Raises CallFailed where it was not taken."""
    parts = urlsplit(place.address)
    host = parts.hostname or ""
    port = parts.port or (443 if parts.scheme == "https" else 80)
    address = _allowed_address(place, host, port)
    moment = str(int(time.time()))
    headers = {
        "Content-Type": "application/json",
        "Host": parts.netloc.rpartition("@")[2],
        "Tally-Event": event,
        "Tally-Number": str(number),
        "Tally-Time": moment,
        "Tally-Signature": signature(place.key, moment, body),
    }
    there = f"[{address}]" if ":" in address else address
    target = f"{parts.scheme}://{there}:{port}"
    with calling(target, most=100_000) as caller:
        status, _ = caller.once("POST", (parts.path or "/") + (f"?{parts.query}" if parts.query else ""), body, headers, host)
    if not 200 <= status < 300:
        more = "; where it leads is not followed" if 300 <= status < 400 else ""
        raise CallFailed(f"it answered {status}{more}")
    return f"it answered {status}"


def _allowed_address(place: HookPlace, host: str, port: int) -> str:
    try:
        found = sorted({str(x[4][0]) for x in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)})
    except OSError:
        raise CallFailed(f"{host} is not known") from None
    for address in found:
        if address in place.resolves_to or (not place.resolves_to and ipaddress.ip_address(address).is_global):
            return address
    raise CallFailed(f"{host} leads to an address that is not allowed; an administrator says which are")
