"""Files that an operation shows, named by their keys."""

from typing import Any

from definition.models.parts import PartFile

__all__ = ["wrong_files"]

_MOST = 20


def wrong_files(files: Any) -> str | None:
    """What is wrong with the files that an operation is to show, or None. Within the transaction that saves it."""
    if not isinstance(files, list) or not all(type(f) is int and 0 < f < 2**63 for f in files):
        return "files are named by their keys"
    if len(files) > _MOST or len(set(files)) < len(files):
        return f"an operation shows each file once, and at most {_MOST}"
    # Held until the operation that names them is saved: nobody lets one go meanwhile.
    if files and len(PartFile.objects.select_for_update().filter(pk__in=files).order_by("pk")) < len(files):
        return "one of the files is no longer there"
    return None
