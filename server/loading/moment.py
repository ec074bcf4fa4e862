"""What is read in several queries is of one moment, whoever writes meanwhile."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction

__all__ = ["one_moment"]


@contextmanager
def one_moment() -> Iterator[None]:
    """Everything within sees the database as it stood at its first query, and cannot write.

    Within a transaction it does nothing: what that one wrote is to be seen.
    """
    if connection.in_atomic_block:
        yield
        return
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield
