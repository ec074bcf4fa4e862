"""What every verb does before it does its own work: the right, one transaction, the row held, and its version."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, TypeVar
from uuid import UUID

from accounts.access import require, required_version
from django.db import transaction
from django.db.models import Model, QuerySet
from tally_core.basics.errors import MissingError, Problem, ProblemsError

__all__ = ["asked_before", "held", "writing"]

M = TypeVar("M", bound=Model)


@contextmanager
def writing(user: Any, subject: str) -> Iterator[None]:
    """Within it all is written or nothing; whoever may not write the subject is refused before anything else is looked at.

    Raises Refused.
    """
    require(user, subject)
    with transaction.atomic():
        yield


def asked_before(rows: QuerySet[M], key: UUID | None) -> M | None:
    """What was opened for whoever asked under a key, as where the answer was lost and they ask again; none where nothing was.

    To be asked under the lock that gives it its number: the first may be under way still.
    """
    return rows.filter(asked_as=key).first() if key is not None else None


def held(rows: QuerySet[M], version: int | None, word: str, gone: str = "", then: str = "look at it again") -> M:
    """The one row of some rows, locked until the transaction ends, as it was when somebody began to change it.

    Args:
        version: the version the change was made from.
        word: what the row is called.
        gone: what is said where it is not there.
        then: what to do where somebody else was faster.

    Raises MissingError, and ProblemsError where no version is stated or it is another by now.
    """
    row = rows.select_for_update(of=("self",)).first()
    if row is None:
        raise MissingError(gone or f"{word[:1].upper()}{word[1:]} is not known.")
    if required_version(version) != row.version:  # type: ignore[attr-defined]
        raise ProblemsError([Problem("", f"{word} was changed by somebody else meanwhile; {then}")])
    return row
