"""Reading from a replica, where there is one: what may come from there, and that everybody sees what they wrote themselves.

An answer comes from one database as a whole: for its time the replica stands in the place of the primary in this thread, for the ORM and for
SQL of our own alike; and it cannot be written. How far the primary was when somebody wrote goes with them in a cookie, and a replica that is
not as far is passed over. So is one that does not answer, for a while.
"""

import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.conf import settings
from django.db import DatabaseError, connections
from django.http import HttpRequest, HttpResponse

__all__ = ["SeesOwnWrites", "from_replica", "may_come_from_replica", "pass_over"]

#: Lists, where-used and what leaves as files: read much, and not changed on the same screen.
_ADDRESSES = re.compile(
    r"/api/(lists/(look|file)|parts|parts/list/[a-z-]+|sheets/(list|where-used)|parts/one/uses|rounds/\d+/export/[a-z-]+|findings|shop/(orders|figures|stock/moves/[a-z-]+))"
)
_COOKIE, _PLACE = "tally_written", re.compile(r"[0-9A-F]{1,8}/[0-9A-F]{1,8}")
_FOR_A_WHILE = 10.0
#: When a replica that failed may be asked again, by this process's clock.
_again = [0.0]


def pass_over() -> None:
    """Do without the replica for a while."""
    _again[0] = time.monotonic() + _FOR_A_WHILE


def may_come_from_replica(request: HttpRequest) -> bool:
    """Whether the answer may be read there: there is one, it is of an address that is read there, and it has what this person wrote."""
    if "replica" not in connections.databases or time.monotonic() < _again[0] or not _ADDRESSES.fullmatch(request.path):
        return False
    written = request.COOKIES.get(_COOKIE, "")
    try:
        with connections["replica"].cursor() as cursor:
            if not _PLACE.fullmatch(written):
                return True
            cursor.execute("SELECT coalesce(pg_last_wal_replay_lsn(), pg_current_wal_insert_lsn()) >= %s::pg_lsn", [written])
            return cursor.fetchone()[0]
    except DatabaseError:
        connections["replica"].close()
        pass_over()
        return False


@contextmanager
def from_replica() -> Iterator[None]:
    """Within, this thread reads from the replica and cannot write."""
    primary = connections["default"]
    connections["default"] = connections["replica"]
    try:
        yield
    finally:
        connections["default"] = primary


class SeesOwnWrites:
    """Middleware: tells whoever wrote, or looked how far a job is, up to where the primary was then."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        wrote = request.method not in ("GET", "HEAD") or request.path.startswith("/api/jobs/")
        if "replica" in connections.databases and wrote and response.status_code < 400:
            try:
                with connections["default"].cursor() as cursor:
                    cursor.execute("SELECT pg_current_wal_insert_lsn()::text")
                    place = cursor.fetchone()[0]
            except DatabaseError:
                # Lost just behind the write: whatever the replica lags by then, it is not told.
                return response
            response.set_cookie(_COOKIE, place, max_age=3600, httponly=True, samesite="Lax", secure=settings.SESSION_COOKIE_SECURE)
        return response
