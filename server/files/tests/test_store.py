"""The store of files: each content once, kept while anything names it."""

import tempfile
from pathlib import Path

from definition.models.parts import Part, PartFile
from django.test import TestCase, override_settings
from testing import person
from verbs.parts.keep_file import drop_file, keep_file

from files.models import StoredFile


class Store(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        changed = override_settings(MEDIA_ROOT=folder.name)
        changed.enable()
        self.addCleanup(changed.disable)
        self.user = person("engineer")
        for number in ("A", "B"):
            Part.objects.create(number=number)

    def left(self) -> int:
        return sum(p.is_file() for p in self.folder.rglob("*"))

    def test_one_content_is_kept_once_and_goes_with_the_last_that_names_it(self) -> None:
        first = keep_file(self.user, "A", "a.txt", b"words")
        second = keep_file(self.user, "B", "b.txt", b"words")
        other = keep_file(self.user, "B", "c.txt", b"other words")
        self.assertEqual((first.file_id == second.file_id, StoredFile.objects.count(), self.left()), (True, 2, 2))
        for row, contents in ((first, 2), (other, 1), (second, 0)):
            with self.captureOnCommitCallbacks(execute=True):
                drop_file(self.user, row.pk)
            self.assertEqual((StoredFile.objects.count(), self.left()), (contents, contents), row.name)
        self.assertEqual(PartFile.history.filter(history_type="-").count(), 3)
