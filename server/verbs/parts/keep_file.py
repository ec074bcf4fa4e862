"""Keep a picture or a file beside a part, or let one go."""

from typing import Any

from accounts.access import require
from definition.models.parts import Part, PartFile
from definition.models.work_centers import FileShown
from django.db import transaction
from django.db.models import ProtectedError
from files.store import SHOWN, kind_of, let_go, plain_name, store
from tally_core.basics.errors import MissingError, Problem, ProblemsError

from verbs.contract import writing

__all__ = ["drop_file", "keep_file"]

MOST_FILES = 60


def keep_file(user: Any, part_number: str, name: str, content: bytes, shown: bool = False) -> PartFile:
    """Keep a file. What it is, is found from its content, not its name; ``shown`` lets in only what is shown in place.

    Raises ProblemsError for one that is empty, too large, of a type not kept, or not what its name says. Raises Refused.
    """
    require(user, "parts")
    name = plain_name(name)
    kind = kind_of(name, content)
    if shown and kind not in SHOWN:
        raise ProblemsError(
            [
                Problem(
                    "file", f"{name} cannot be shown with an operation; pictures (PNG, JPEG, WebP, GIF), PDF and video as MP4 or WebM can"
                )
            ]
        )
    with transaction.atomic():
        part = Part.objects.select_for_update().filter(number=part_number).first()
        if part is None:
            raise MissingError(f"Part {part_number} is not known.")
        if part.files.count() >= MOST_FILES:
            raise ProblemsError([Problem("file", f"a part has at most {MOST_FILES} files")])
        return PartFile.objects.create(part=part, file=store(content, kind), name=name, added_by=str(user))


def drop_file(user: Any, file_id: int) -> None:
    """Let a file go; that it was there stays in the history. Raises ProblemsError when it is gone, and Refused."""
    with writing(user, "parts"):
        row = PartFile.objects.select_for_update().filter(pk=file_id).first()
        if row is None:
            raise MissingError("This file is no longer there.")
        try:
            row.delete()
        except ProtectedError as error:
            named = next(iter(error.protected_objects))
            how = "; take it away there first" if isinstance(named, FileShown) else ", and stays with it"
            raise ProblemsError([Problem("file", f"{row.name} is shown with {named}{how}")]) from None
        let_go([row.file_id])
