"""Keep a picture or a file beside a part, or let one go."""

import uuid
from typing import Any

import filetype
from accounts.access import require
from definition.models.parts import Part, PartFile
from definition.models.sheets import Operation
from definition.models.work_centers import StandardOperation
from django.conf import settings
from django.core.files.base import ContentFile
from django.db import transaction
from django.db.models import Sum
from formats.apart import picture_size
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError

from verbs.contract import writing

__all__ = ["PICTURES", "drop_file", "keep_file"]

PICTURES = ("image/png", "image/jpeg", "image/webp", "image/gif")
_SHOWN = ("application/pdf", "video/mp4", "video/webm")
_OTHERS = (*_SHOWN, "application/zip")
#: Files of text, by the ending of their name and how they begin; served as plain text, whatever they hold.
_TEXT = {"txt": b"", "csv": b"", "step": b"ISO-10303-21;", "stp": b"ISO-10303-21;", "dxf": b""}
MOST_FILES = 60


def keep_file(user: Any, part_number: str, name: str, content: bytes, shown: bool = False) -> PartFile:
    """Keep a file. What it is, is found from its content, not its name; ``shown`` lets in only what is shown in place.

    Raises ProblemsError for one that is empty, too large, of a type not kept, or not what its name says. Raises Refused.
    """
    require(user, "parts")
    name = "".join(c for c in name.replace("\\", "/").rsplit("/", 1)[-1] if c.isprintable())[-200:].strip() or "file"
    limit = settings.UPLOAD_LIMIT
    if not content:
        raise ProblemsError([Problem("file", f"{name} is empty")])
    if len(content) > limit:
        raise ProblemsError([Problem("file", f"{name} is larger than {limit // 1024 // 1024} MB")])
    kind = _kind(name, content)
    if shown and kind not in (*PICTURES, *_SHOWN):
        raise ProblemsError(
            [
                Problem(
                    "file",
                    f"{name} cannot be shown with an operation; pictures (PNG, JPEG, WebP, GIF), PDF and video as MP4 or WebM can",
                )
            ]
        )
    with transaction.atomic():
        part = Part.objects.select_for_update().filter(number=part_number).first()
        if part is None:
            raise MissingError(f"Part {part_number} is not known.")
        if part.files.count() >= MOST_FILES:
            raise ProblemsError([Problem("file", f"a part has at most {MOST_FILES} files")])
        row = PartFile(part=part, name=name, content_type=kind, size=len(content), added_by=str(user))
        held = PartFile.objects.aggregate(total=Sum("size"))["total"] or 0
        if held + len(content) > settings.FILES_LIMIT:
            raise ProblemsError([Problem("file", "there is no room for more files here; let some go first")])
        storage, stored = row.content.storage, f"parts/{uuid.uuid4().hex}"
        try:
            row.content.name = storage.save(stored, ContentFile(content))
            row.save()
        except BaseException:
            # Whatever was written of it must not stay behind without its row.
            storage.delete(stored)
            raise
        return row


def _kind(name: str, content: bytes) -> str:
    found = filetype.guess_mime(content)
    if found in PICTURES:
        _check_picture(name, content)
        return found
    if found in _OTHERS:
        return found
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    begins = _TEXT.get(ending)
    if found is None and begins is not None and content.lstrip()[: len(begins)] == begins and b"\x00" not in content:
        return "text/plain"
    raise ProblemsError(
        [
            Problem(
                "file",
                f"{name} is none of the files kept here: pictures (PNG, JPEG, WebP, GIF), PDF, MP4, WebM, ZIP, STEP, "
                "DXF, CSV and text",
            )
        ]
    )


def _check_picture(name: str, content: bytes) -> None:
    try:
        picture_size(name, content)
    except TallyError as error:
        raise ProblemsError([Problem("file", str(error))]) from None


def drop_file(user: Any, file_id: int) -> None:
    """Let a file go; that it was there stays in the history. Raises ProblemsError when it is gone, and Refused."""
    with writing(user, "parts"):
        row = PartFile.objects.select_for_update().filter(pk=file_id).first()
        if row is None:
            raise MissingError("This file is no longer there.")
        shown = Operation.objects.filter(files__contains=[file_id]).select_related("sheet__part").first()
        if shown is not None:
            raise ProblemsError(
                [
                    Problem(
                        "file",
                        f"{row.name} is shown with operation {shown.sequence} of {shown.sheet}; take it away there first",
                    )
                ]
            )
        entry = StandardOperation.objects.filter(files__contains=[file_id]).first()
        if entry is not None:
            raise ProblemsError([Problem("file", f"{row.name} is shown with {entry.code} of the library")])
        storage, stored = row.content.storage, str(row.content.name)
        row.delete()
        # The content goes when the row surely has.
        transaction.on_commit(lambda: storage.delete(stored))
