"""Who is at what, across processes: locks that a process holds only as long as it lives."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection

__all__ = [
    "BUYING",
    "CUTTING",
    "FILES",
    "HANDOVER",
    "INQUIRIES",
    "JOB",
    "LOADING",
    "OUR_PARTS",
    "PARTNERS",
    "SHOP",
    "WORKER",
    "hold",
    "in_hand",
]

#: The first half of a lock's key says what it is about.
JOB, WORKER, LOADING, PARTNERS, FILES, INQUIRIES, OUR_PARTS, BUYING, HANDOVER, CUTTING, SHOP = (
    0x7A11,
    0x7A14,
    0x7A15,
    0x7A16,
    0x7A17,
    0x7A18,
    0x7A19,
    0x7A1A,
    0x7A1B,
    0x7A1C,
    0x7A1D,
)


def in_hand(what: int, key: int = 0) -> bool:
    """Whether a process is at it. One that was killed holds no lock."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT EXISTS (SELECT FROM pg_locks WHERE locktype = 'advisory' AND classid = %s AND objid = %s AND granted "
            "AND database = (SELECT oid FROM pg_database WHERE datname = current_database()))",
            [what, key],
        )
        return cursor.fetchone()[0]


@contextmanager
def hold(what: int, key: int) -> Iterator[bool]:
    """Be at something; answers whether nobody else is."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s, %s)", [what, key])
        got = cursor.fetchone()[0]
        try:
            yield got
        finally:
            if got:
                cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [what, key])
