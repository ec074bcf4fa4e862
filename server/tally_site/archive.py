"""A backup: the database and every file that it names, in one archive that says what is in it; and back again.

A tar archive of ``manifest.json`` (format 1), ``database.dump`` (PostgreSQL's own archive) and ``files/``. The manifest stands last and
holds the digest of everything before it, so that an archive that was cut off or changed is told before anything is written.
"""

import hashlib
import io
import json
import os
import re
import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path
from typing import IO, Any

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.contrib.auth import get_user_model
from django.core.files import File
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.db import connection, transaction
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from django.utils.timezone import now
from files.models import StoredFile
from tally_core.basics.errors import TallyError

__all__ = ["FORMAT", "VERSION", "back_up", "restore"]

FORMAT, VERSION = "round-tally-backup", 1
_MANIFEST, _DUMP, _FILES = "manifest.json", "database.dump", "files/"
_MOST_MANIFEST = 256 * 1024 * 1024
_TRIES = 3
#: How contents are named where they lie (``files.store``).
_NAME = re.compile(r"kept/[0-9a-f]{32}")


def _tool(name: str, *words: str, **more: Any) -> subprocess.CompletedProcess:
    """One of PostgreSQL's own programs on our database; the password goes by the environment. Raises TallyError."""
    folder = os.environ.get("TALLY_PG_BIN", "")
    program = shutil.which(name, path=folder or None) or shutil.which(name)
    if program is None:
        raise TallyError(f"{name} is not on this machine; it comes with PostgreSQL's client programs")
    held = connection.settings_dict
    environment = os.environ | {
        "PGPASSWORD": held["PASSWORD"],
        "PGUSER": held["USER"],
        "PGHOST": held["HOST"],
        "PGPORT": held["PORT"],
        "PGDATABASE": held["NAME"],
    }
    environment |= {f"PG{name.upper()}": value for name, value in held["OPTIONS"].items() if name.startswith("ssl")}
    done = subprocess.run([program, "--no-password", *words], env=environment, capture_output=True, check=False, **more)
    if done.returncode:
        said = done.stderr.decode(errors="replace").strip().splitlines()
        raise TallyError(f"{name}: {said[-1] if said else 'it failed'}")
    return done


# -- there


def back_up(target: Path) -> dict[str, Any]:
    """Write a backup and answer its manifest. People go on working meanwhile; what is in it is of one moment.

    Raises TallyError where it cannot be written, and leaves nothing behind then.
    """
    aside = target.with_name(target.name + ".part")
    try:
        with os.fdopen(os.open(aside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
            with tarfile.open(fileobj=out, mode="w") as archive:
                manifest = _written(archive)
            out.flush()
            os.fsync(out.fileno())
        os.replace(aside, target)
    except OSError as error:
        aside.unlink(missing_ok=True)
        raise TallyError(f"{target} cannot be written: {error.strerror or error}") from None
    except BaseException:
        aside.unlink(missing_ok=True)
        raise
    return manifest


def _written(archive: tarfile.TarFile) -> dict[str, Any]:
    kept: dict[str, list[Any]] = {}
    for _ in range(_TRIES):
        # Most files are copied before the moment of the dump: none of them changes, and few come or go while it is made.
        missing = [n for n in _named() if not _keep(archive, n, kept)]
        # Bytes go after their row has: where a row is still there, the disk has lost them. That is no reason to have no backup.
        lost = [n for n in missing if StoredFile.objects.filter(content=n).exists()]
        with tempfile.TemporaryDirectory() as folder, transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
                cursor.execute("SELECT pg_export_snapshot()")
                moment = cursor.fetchone()[0]
            named = [n for n in _named() if n not in lost]
            # One that was let go meanwhile is still named at this moment; then it is begun anew, of a later one.
            if not all(_keep(archive, n, kept) for n in named):
                continue
            dump = Path(folder) / _DUMP
            _tool("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--snapshot={moment}", f"--file={dump}")
            archive.add(dump, _DUMP, filter=_plain)
            with dump.open("rb") as content:
                digest = hashlib.file_digest(content, "sha256").hexdigest()
            manifest = {
                "format": FORMAT,
                "version": VERSION,
                "made_at": now().isoformat(),
                "migrations": _applied(),
                **_counts(),
                "dump": digest,
                "files": {n: kept[n] for n in named},
                "lost": lost,
            }
        said = json.dumps(manifest).encode()
        head = _plain(tarfile.TarInfo(_MANIFEST))
        head.size = len(said)
        archive.addfile(head, io.BytesIO(said))
        return manifest
    raise TallyError("Files went while the backup was made, again and again; try it when fewer people are at work.")


def _named() -> list[str]:
    return list(StoredFile.objects.values_list("content", flat=True).order_by("pk"))


def _counts() -> dict[str, int]:
    """What a person knows it by, and a restored one is held against."""
    return {"parts": Part.objects.count(), "sheets": BuildSheet.objects.count(), "people": get_user_model().objects.count()}


def _applied() -> list[str]:
    return sorted(f"{app}.{name}" for app, name in MigrationRecorder(connection).applied_migrations())


def _plain(head: tarfile.TarInfo) -> tarfile.TarInfo:
    head.uid = head.gid = 0
    head.uname = head.gname = ""
    head.mode = 0o600
    return head


def _keep(archive: tarfile.TarFile, name: str, kept: dict[str, list[Any]]) -> bool:
    """Copy a content, unless it is in the archive already; False where the disk does not have it."""
    if name in kept:
        return True
    try:
        with default_storage.open(name) as file:
            content = file.read()
    except FileNotFoundError:
        return False
    head = _plain(tarfile.TarInfo(_FILES + name))
    head.size = len(content)
    archive.addfile(head, io.BytesIO(content))
    kept[name] = [len(content), hashlib.sha256(content).hexdigest()]
    return True


# -- and back


def restore(source: Path) -> dict[str, Any]:
    """Put a backup into an empty database and its files beside it, and answer its manifest; all of it, or nothing.

    Raises TallyError for a database that holds something, an archive that is none, is damaged, or is of a later version.
    """
    _refuse_what_is_there()
    try:
        with tarfile.open(source) as archive, tempfile.TemporaryDirectory() as folder:
            manifest = _checked(archive)
            dump = Path(folder) / _DUMP
            with dump.open("wb") as out:
                shutil.copyfileobj(_content(archive, _DUMP), out)
            script = Path(folder) / "database.sql"
            _tool("pg_restore", "--no-owner", "--no-privileges", f"--file={script}", str(dump))
            written: list[str] = []
            try:
                for name in manifest["files"]:
                    if not default_storage.exists(name):
                        written.append(name)
                        default_storage.save(name, File(_content(archive, _FILES + name)))
                connection.close()
                anew = ("--command=DROP SCHEMA public CASCADE", "--command=CREATE SCHEMA public")
                _tool("psql", "--quiet", "--no-psqlrc", "--single-transaction", "--set=ON_ERROR_STOP=1", *anew, f"--file={script}")
            except BaseException:
                for name in written:
                    default_storage.delete(name)
                raise
    except tarfile.TarError as error:
        raise TallyError(f"{source} is no backup of Round Tally, or is damaged: {error}") from None
    # What has been added to the tables since it was made.
    call_command("migrate", verbosity=0)
    if any(manifest.get(what) != count for what, count in _counts().items()):
        raise TallyError("What was restored is not what the backup says it holds. Nothing of it should be used.")
    return manifest


def _refuse_what_is_there() -> None:
    if StoredFile._meta.db_table not in connection.introspection.table_names():
        return
    held = _counts()
    if any(held.values()):
        raise TallyError(
            f"This database holds {held['parts']:,} parts, {held['sheets']:,} sheets and {held['people']:,} people; a backup is put back into an "
            "empty one only."
        )


def _content(archive: tarfile.TarFile, name: str) -> IO[bytes]:
    found = archive.extractfile(name)
    assert found is not None  # it was looked at before
    return found


def _checked(archive: tarfile.TarFile) -> dict[str, Any]:
    """The manifest of an archive in which all is as the manifest says. Raises TallyError."""
    digests: dict[str, str] = {}
    manifest: Any = None
    for member in archive:
        content = archive.extractfile(member) if member.isreg() else None
        if content is None:
            raise TallyError(f"{member.name} does not belong into a backup")
        if member.name == _MANIFEST and member.size < _MOST_MANIFEST:
            try:
                manifest = json.load(content)
            except ValueError:
                raise TallyError("The list of what is in the backup is damaged.") from None
        else:
            digests[member.name] = hashlib.file_digest(content, "sha256").hexdigest()  # type: ignore[arg-type]
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise TallyError("This is no backup of Round Tally, or it was cut off: it does not say what is in it.")
    if manifest.get("version") != VERSION:
        raise TallyError(f"The backup is of version {manifest.get('version')}; this program reads {VERSION}.")
    try:
        wanted = {_DUMP: manifest["dump"]} | {_FILES + name: digest for name, (_, digest) in manifest["files"].items()}
        migrations = set(manifest["migrations"])
    except (KeyError, TypeError, ValueError, AttributeError):
        raise TallyError("The list of what is in the backup is damaged.") from None
    wrong = [n for n, digest in wanted.items() if digests.get(n) != digest]
    if wrong or any(not _NAME.fullmatch(name) for name in manifest["files"]):
        raise TallyError(f"The backup is damaged: {', '.join(wrong[:3]) or 'a file of another name'} is not what it was.")
    known = {f"{app}.{name}" for app, name in MigrationLoader(None).disk_migrations}
    if later := sorted(migrations - known):
        raise TallyError(f"The backup was made by a later version of Round Tally (it knows {later[0]}); restore it with that one.")
    return manifest
