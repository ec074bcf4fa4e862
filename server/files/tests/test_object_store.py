"""Files on an object store: kept, handed out, backed up and let go as in a folder; and what is said when it does not answer.

The store is moto's, which speaks S3 as it is published; no store of any maker was at hand.
"""

import os
import tempfile
from pathlib import Path
from unittest.mock import patch

import boto3
from botocore.exceptions import EndpointConnectionError
from definition.models.parts import Part, PartFile
from django.core.files.storage import default_storage
from django.test import TestCase, override_settings
from moto import mock_aws
from tally_site.settings import object_store
from testing import Api, person
from verbs.parts.keep_file import drop_file, keep_file

from files.models import StoredFile
from files.store import opened

_KEYS = {"AWS_ACCESS_KEY_ID": "made-up", "AWS_SECRET_ACCESS_KEY": "made-up"}


class OnAStore(TestCase):
    def setUp(self) -> None:
        for there in (
            patch.dict(os.environ, _KEYS),
            mock_aws(),
            override_settings(STORAGES={"default": object_store("s3://tally-files/of%20us?region=eu-north-1")}),
        ):
            there.__enter__()
            self.addCleanup(there.__exit__, None, None, None)
        self.bucket = boto3.resource("s3", region_name="eu-north-1").Bucket("tally-files")
        self.bucket.create(CreateBucketConfiguration={"LocationConstraint": "eu-north-1"})
        self.user = person("engineer")
        for number in ("A", "B"):
            Part.objects.create(number=number)

    def there(self) -> list[str]:
        return [held.key for held in self.bucket.objects.all()]

    def test_a_content_lies_there_once_is_handed_out_and_goes_with_the_last_that_names_it(self) -> None:
        first, second = (keep_file(self.user, number, "a.txt", b"words") for number in ("A", "B"))
        (key,) = self.there()
        self.assertTrue(key.startswith("of us/kept/"), key)
        answer = Api("engineer").client.get(f"/api/parts/files/{first.pk}")
        self.assertEqual((answer.status_code, b"".join(answer.streaming_content)), (200, b"words"))
        self.assertEqual((answer["Content-Length"], answer["X-Content-Type-Options"]), ("5", "nosniff"))
        for row, left in ((first, 1), (second, 0)):
            with self.captureOnCommitCallbacks(execute=True):
                drop_file(self.user, row.pk)
            self.assertEqual(len(self.there()), left)

    def test_what_the_store_lost_is_said_of_the_file(self) -> None:
        row = keep_file(self.user, "A", "a.txt", b"words")
        self.bucket.objects.all().delete()
        self.assertFalse(default_storage.exists(row.file.content.name))
        status, answer = Api("engineer").get(f"/parts/files/{row.pk}")
        self.assertEqual(status, 404, answer)
        self.assertIn("The content of a.txt is missing", answer["message"])

    def test_a_store_that_does_not_answer_is_said_and_nothing_is_half_kept(self) -> None:
        row = keep_file(self.user, "A", "a.txt", b"words")
        away = EndpointConnectionError(endpoint_url="https://store.example.net")
        with patch("botocore.endpoint.Endpoint.make_request", side_effect=away), self.assertLogs("tally_site.api", "ERROR"):
            for status, answer in (
                Api("engineer").get(f"/parts/files/{row.pk}"),
                Api("engineer").upload("b.txt", b"other words", "/parts/one/files?number=B"),
            ):
                self.assertEqual(status, 503, answer)
                self.assertIn("The store of files does not answer", answer["message"])
            # The row goes; what lies there still is nobody's any more, and nobody is kept waiting for it.
            with self.assertLogs("files.store", "ERROR"), self.captureOnCommitCallbacks(execute=True):
                drop_file(self.user, row.pk)
        self.assertEqual((StoredFile.objects.count(), PartFile.objects.count(), len(self.there())), (0, 0, 1))

    def test_it_is_read_as_a_file_is(self) -> None:
        """As a folder's file is by what reads models: from its beginning, more than once."""
        row = keep_file(self.user, "A", "a.txt", b"words and more")
        with opened(row.file, "a.txt") as file:
            self.assertEqual((file.read(5), file.read()), (b"words", b" and more"))
            file.seek(0)
            with tempfile.TemporaryDirectory() as folder:
                (Path(folder) / "a").write_bytes(file.read())
                self.assertEqual((Path(folder) / "a").read_bytes(), b"words and more")
