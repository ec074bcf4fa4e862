"""A backup, and what comes back out of it: the same bundle byte for byte, the same costs, the same files; and what is refused."""

import io
import json
import os
import subprocess
import sys
import tarfile
import tempfile
from pathlib import Path
from unittest.mock import patch
from urllib.parse import quote

from definition.models.parts import Part, PartFile
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection
from django.test import TransactionTestCase
from files.models import StoredFile
from tally_core.basics.errors import TallyError
from testing import load, person, rod_and_tube
from verbs.parts.keep_file import drop_file, keep_file

from tally_site import archive
from tally_site.archive import back_up, restore

MANAGE = Path(__file__).resolve().parents[2] / "manage.py"


class Archive(TransactionTestCase):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.engineer = person("engineer")
        self.kept = keep_file(self.engineer, "RT-1", "how.txt", b"turn it slowly")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "all.tar"

    def elsewhere(self, name: str, *words: str) -> subprocess.CompletedProcess:
        """A command on another database of the same server, with files of its own."""
        held = connection.settings_dict
        url = f"postgres://{quote(held['USER'])}:{quote(held['PASSWORD'])}@{held['HOST']}:{held['PORT']}/{name}"
        more = {"DATABASE_URL": url, "TALLY_FILES": str(self.folder / name)}
        return subprocess.run([sys.executable, str(MANAGE), *words], env=os.environ | more, capture_output=True, text=True, timeout=120)

    def database(self, name: str) -> None:
        def drop() -> None:
            with connection.cursor() as cursor:
                cursor.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")

        drop()
        with connection.cursor() as cursor:
            cursor.execute(f"CREATE DATABASE {name}")
        self.addCleanup(drop)

    def test_what_comes_back_is_the_same_and_can_be_backed_up_again(self) -> None:
        made = back_up(self.file)
        self.assertEqual((made["parts"], made["sheets"], len(made["files"]), made["lost"]), (4, 2, 1, []))
        self.assertEqual(self.file.stat().st_mode & 0o777, 0o600)
        own = connection.settings_dict["NAME"]
        asked = (["export_bundle"], ["cost", "RT-1", "--qty", "7", "--json"], ["needs", "RT-1", "--qty", "7", "--json"])
        for one, other in (("", "tally_back_one"), ("tally_back_one", "tally_back_two")):
            self.database(other)
            if one:
                again = self.elsewhere(one, "backup", str(self.file))
                self.assertIn("4 parts, 2 sheets, 1 people and 1 files", again.stdout, again.stderr)
            back = self.elsewhere(other, "restore", str(self.file))
            self.assertIn("4 parts, 2 sheets, 1 people and 1 files are back", back.stdout, back.stderr)
            for words in asked:
                here = self.elsewhere(own, *words)
                self.assertEqual((here.returncode, here.stderr), (0, ""))
                self.assertEqual(self.elsewhere(other, *words).stdout, here.stdout, words)
            content = self.folder / other / StoredFile.objects.get().content.name
            self.assertEqual((content.read_bytes(), content.stat().st_mode & 0o777), (b"turn it slowly", 0o600))
            # Into what holds something nothing is put back.
            refused = self.elsewhere(other, "restore", str(self.file))
            self.assertEqual(refused.returncode, 1)
            self.assertIn("This database holds 4 parts, 2 sheets and 1 people", refused.stderr)

    def test_a_file_that_goes_while_the_dump_is_made_is_not_named_by_it(self) -> None:
        """Somebody lets a file go between the copying of files and the dump: the moment of the dump is another one then."""
        other = keep_file(self.engineer, "RT-1", "old.txt", b"no longer")
        keep = archive._keep

        def and_drop(into: tarfile.TarFile, name: str, kept: dict) -> bool:
            if name == other.file.content.name and other.pk:
                drop_file(self.engineer, other.pk)
                other.pk = None
            return keep(into, name, kept)

        with patch("tally_site.archive._keep", and_drop):
            made = back_up(self.file)
        self.assertEqual(list(made["files"]), [self.kept.file.content.name])
        self.assertEqual(PartFile.objects.count(), 1)

    def test_what_the_disk_has_lost_is_told_and_the_rest_is_kept(self) -> None:
        name = self.kept.file.content.name
        default_storage.delete(name)
        made = back_up(self.file)
        self.assertEqual((made["files"], made["lost"]), ({}, [name]))

    def changed(self, **members: bytes | None) -> Path:
        """The backup with members replaced, or left out."""
        target = self.folder / "changed.tar"
        with tarfile.open(self.file) as old, tarfile.open(target, "w") as new:
            for member in old:
                content = old.extractfile(member)
                assert content is not None
                said = members.get(member.name.split(".")[0].split("/")[0], content.read())
                if said is not None:
                    member.size = len(said)
                    new.addfile(member, io.BytesIO(said))
        return target

    def test_what_is_damaged_or_foreign_is_refused_before_anything_is_written(self) -> None:
        back_up(self.file)
        files = set(Path(settings.MEDIA_ROOT, "kept").iterdir())
        with tarfile.open(self.file) as held:
            manifest = json.load(held.extractfile("manifest.json"))  # type: ignore[arg-type]
        outside = json.dumps(manifest | {"files": {"../../x": [1, "0"]}}).encode()
        later = json.dumps(manifest | {"migrations": [*manifest["migrations"], "shop.9999_later"]}).encode()
        for why, members in (
            ("database.dump is not what it was", {"database": b"DROP TABLE"}),
            ("files/kept/", {"files": b"turn it fast"}),
            ("it was cut off", {"manifest": None}),
            ("list of what is in the backup is damaged", {"manifest": b"{"}),
            ("no backup of Round Tally", {"manifest": b"[]"}),
            ("list of what is in the backup is damaged", {"manifest": json.dumps(manifest | {"files": [1]}).encode()}),
            ("of version 2", {"manifest": json.dumps(manifest | {"version": 2}).encode()}),
            ("is damaged", {"manifest": outside}),
            ("a later version of Round Tally (it knows shop.9999_later)", {"manifest": later}),
        ):
            target = self.changed(**members)
            with patch("tally_site.archive._refuse_what_is_there"), self.subTest(why), self.assertRaises(TallyError) as said:
                restore(target)
            self.assertIn(why, str(said.exception))
        with patch("tally_site.archive._refuse_what_is_there"), self.assertRaisesMessage(TallyError, "is no backup"):
            self.file.write_bytes(b"not a tar at all")
            restore(self.file)
        self.assertEqual(Part.objects.count(), 4)
        self.assertEqual(set(Path(settings.MEDIA_ROOT, "kept").iterdir()), files)

    def test_a_backup_that_cannot_be_written_leaves_nothing(self) -> None:
        with self.assertRaisesMessage(TallyError, "cannot be written"):
            back_up(self.folder / "no such folder" / "all.tar")
        with patch("tally_site.archive._tool", side_effect=TallyError("pg_dump: no")), self.assertRaises(TallyError):
            back_up(self.file)
        self.assertEqual(list(self.folder.iterdir()), [])
