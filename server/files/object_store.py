"""Files on an object store that speaks S3, in place of a folder."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from botocore.config import Config
from botocore.exceptions import BotoCoreError, ClientError
from django.core.files.base import File
from storages.backends.s3 import S3Storage

from files.store import StoreAwayError

__all__ = ["ObjectStore"]


class ObjectStore(S3Storage):
    """Files are handed out by this server alone, so nothing is public and no address of the store goes out."""

    def get_default_settings(self) -> dict[str, Any]:
        waits = Config(connect_timeout=3, read_timeout=20, retries={"max_attempts": 2})
        return super().get_default_settings() | {"default_acl": None, "file_overwrite": False, "client_config": waits}

    def _open(self, name: str, mode: str = "rb") -> File:
        with _answering():
            file = super()._open(name, mode)
            # Read at once: it is at most what may be uploaded, and a store that goes away is said before the answer has begun.
            file.file  # noqa: B018
            return file

    def _save(self, name: str, content: File) -> str:
        with _answering():
            return str(super()._save(name, content))

    def exists(self, name: str) -> bool:
        with _answering():
            return bool(super().exists(name))

    def delete(self, name: str) -> None:
        with _answering():
            super().delete(name)


@contextmanager
def _answering() -> Iterator[None]:
    try:
        yield
    except (BotoCoreError, ClientError) as error:
        raise StoreAwayError(str(error)) from error
