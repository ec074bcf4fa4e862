"""Files of parts over HTTP."""

from typing import Any

from definition.models.parts import PartFile
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from files.store import PICTURES, served
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from tally_core.basics.errors import MissingError
from verbs.parts.keep_file import drop_file, keep_file

from api.parts import Count, the_part

__all__ = ["router"]

router = Router(tags=["parts"])


class FileOut(Schema):
    """A picture or a file of a part; its content stands at ``/api/parts/files/{id}``."""

    id: int
    name: str
    size: int
    picture: bool
    content_type: str
    by: str
    at: str


class FilesNamed(Schema):
    ids: list[int]


@router.get("/one/files", response=list[FileOut])
def list_files(request: HttpRequest, number: str) -> Any:
    """The pictures and files of a part, the oldest first."""
    return [_file(row) for row in the_part(number).files.select_related("file")]


def _file(row: PartFile) -> FileOut:
    return FileOut(
        id=row.pk,
        name=row.name,
        size=row.file.size,
        picture=row.file.content_type in PICTURES,
        content_type=row.file.content_type,
        by=row.added_by,
        at=row.added_at.isoformat(),
    )


@router.post("/one/files", response=FileOut)
def add_file(
    request: HttpRequest,
    number: str,
    shown_with: str = "",
    file: UploadedFile = File(...),  # noqa: B008
) -> Any:
    """Keep a picture or a file beside a part; one that is shown with an operation has to be of a type shown in place."""
    return _file(keep_file(request.user, number, file.name or "file", file.read(), shown=shown_with == "operation"))


@router.post("/files/named", response=list[FileOut])
def read_named_files(request: HttpRequest, payload: FilesNamed) -> Any:
    """Files by their keys, those that are still there. Saves nothing."""
    return [_file(row) for row in PartFile.objects.filter(pk__in=payload.ids[:200]).select_related("file")]


@router.post("/files/{file_id}/drop", response=Count)
def remove_file(request: HttpRequest, file_id: int) -> Any:
    """Let a file go."""
    drop_file(request.user, file_id)
    return {"count": 1}


@router.get("/files/{file_id}")
def read_content(request: HttpRequest, file_id: int) -> HttpResponseBase:
    """The content of a file. A picture is shown, all else is handed down; nothing in it can run here."""
    row = PartFile.objects.filter(pk=file_id).select_related("file").first()
    if row is None:
        raise MissingError("This file is no longer there.")
    return served(row.file, row.name)
