"""Which file speaks to which kind of system of record."""

from collections.abc import Callable

from outside.by_folder import ByFolder
from outside.by_resources import ByResources
from outside.records import Book
from outside.services import RecordService

__all__ = ["open_book"]

_KINDS: dict[str, Callable[[RecordService], Book]] = {"resources": ByResources, "folder": ByFolder}


def open_book(service: RecordService) -> Book:
    """The system of record that a service leads to."""
    return _KINDS[service.kind](service)
