"""The one place where files from outside lie: what they are, how much of them, and that none stays that nothing names."""

import hashlib
import logging
import uuid
from contextlib import suppress
from functools import partial
from typing import Any

import filetype
from django.conf import settings
from django.core.files.base import ContentFile, File
from django.db import connection, transaction
from django.db.models import ManyToOneRel, Sum
from django.http import FileResponse
from formats.apart import picture_size
from jobs.locks import FILES
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError

from files.models import StoredFile

__all__ = ["PICTURES", "SHOWN", "StoreAwayError", "kind_of", "let_go", "opened", "plain_name", "served", "store", "too_large"]

PICTURES = ("image/png", "image/jpeg", "image/webp", "image/gif")
#: What a browser shows in place.
SHOWN = (*PICTURES, "application/pdf", "video/mp4", "video/webm")
_KEPT = (*SHOWN, "application/zip")
#: Files of text, by the ending of their name and how they begin; served as plain text, whatever they hold.
_TEXT = {"txt": b"", "csv": b"", "step": b"ISO-10303-21;", "stp": b"ISO-10303-21;", "dxf": b""}


class StoreAwayError(OSError):
    """Where files are kept does not answer, or not as it should; the message is for the log."""


def plain_name(name: str) -> str:
    """What a file is called here: without a path, in characters that can be shown.

    >>> plain_name("../../etc/front view.png")
    'front view.png'
    """
    return "".join(c for c in name.replace("\\", "/").rsplit("/", 1)[-1] if c.isprintable())[-200:].strip() or "file"


def kind_of(name: str, content: bytes) -> str:
    """The type of a file that is kept beside something, found from its content.

    Raises ProblemsError for one that is empty, too large, damaged, of a type not kept, or not what its name says.
    """
    limit = settings.UPLOAD_LIMIT
    if not content:
        raise ProblemsError([Problem("file", f"{name} is empty")])
    if len(content) > limit:
        raise ProblemsError([Problem("file", f"{name} is larger than {limit // 1024 // 1024} MB")])
    found = filetype.guess_mime(content)
    if found in PICTURES:
        try:
            picture_size(name, content)
        except TallyError as error:
            raise ProblemsError([Problem("file", str(error))]) from None
    if found in _KEPT:
        return found
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    begins = _TEXT.get(ending)
    if found is None and begins is not None and content.lstrip()[: len(begins)] == begins and b"\x00" not in content:
        return "text/plain"
    raise ProblemsError(
        [
            Problem(
                "file",
                f"{name} is none of the files kept here: pictures (PNG, JPEG, WebP, GIF), PDF, MP4, WebM, ZIP, STEP, DXF, CSV and text",
            )
        ]
    )


def too_large(size: int) -> str:
    """Why a file of ``size`` bytes is not taken."""
    limit = settings.UPLOAD_LIMIT // 1024 // 1024
    return f"The file has {size / 1024 / 1024:.0f} MB; at most {limit} MB can be brought in. Nothing was read."


def store(content: bytes, content_type: str) -> StoredFile:
    """Keep a content, or find it where it is kept already; held until the caller's transaction ends, in which a row names it.

    Raises ProblemsError where there is no room.
    """
    digest = hashlib.sha256(content).hexdigest()
    # Two requests with one content would both find nothing and both keep it.
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s, %s)", [FILES, int(digest[:7], 16)])
    held = StoredFile.objects.select_for_update().filter(digest=digest).first()
    if held is not None:
        return held
    used = StoredFile.objects.aggregate(total=Sum("size"))["total"] or 0
    if used + len(content) > settings.FILES_LIMIT:
        raise ProblemsError([Problem("file", "there is no room for more files here; let some go first")])
    row = StoredFile(digest=digest, size=len(content), content_type=content_type)
    storage, stored = row.content.storage, f"kept/{uuid.uuid4().hex}"
    try:
        row.content.name = storage.save(stored, ContentFile(content))
        row.save()
    except BaseException:
        # Whatever was written of it must not stay behind without its row; what went wrong first is what is told.
        with suppress(OSError):
            storage.delete(stored)
        raise
    return row


def _naming() -> list[tuple[Any, str]]:
    """Models that name a content, and by which field; histories remember it without keeping it."""
    keys = [f for f in StoredFile._meta.get_fields(include_hidden=True) if isinstance(f, ManyToOneRel)]
    return [(k.related_model, k.field.name) for k in keys if not hasattr(k.related_model, "history_type")]


def let_go(file_ids: list[int]) -> None:
    """Let contents go that nothing names any more; their bytes go when the transaction surely has."""
    for row in StoredFile.objects.select_for_update().filter(pk__in=file_ids).order_by("pk"):
        if any(model._default_manager.filter(**{field: row}).exists() for model, field in _naming()):
            continue
        storage, stored = row.content.storage, str(row.content.name)
        row.delete()
        transaction.on_commit(partial(_dropped, storage, stored))


def _dropped(storage: Any, stored: str) -> None:
    try:
        storage.delete(stored)
    except OSError as error:
        # Its row is gone already, and whoever let it go has nothing to do about it.
        logging.getLogger(__name__).error("%s is nobody's any more, and could not be deleted: %s", stored, error)


def opened(row: StoredFile, name: str) -> File:
    """A content, open to be read. Raises MissingError where it is lost."""
    try:
        return row.content.open("rb")
    except FileNotFoundError:
        raise MissingError(f"The content of {name} is missing from where files are kept; restore it from a backup.") from None


def served(row: StoredFile, name: str) -> FileResponse:
    """A content as an answer: a picture is shown, all else is handed down; nothing in it can run here."""
    response = FileResponse(opened(row, name), as_attachment=row.content_type not in PICTURES, filename=name, content_type=row.content_type)
    response["X-Content-Type-Options"] = "nosniff"
    response["Content-Security-Policy"] = "sandbox; default-src 'none'"
    response["Cache-Control"] = "private, max-age=86400"
    return response
