"""Parts that two people make at once, numbers that papers name, parts that nothing names, and files on a full disk."""

import threading
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

from definition.models.parts import OpenOrder, Part, PartFile
from definition.models.sheets import BuildSheet
from django.core.files.storage import FileSystemStorage
from django.db import connection
from django.test import TestCase, TransactionTestCase, override_settings
from django.utils.timezone import now
from files.models import StoredFile
from psycopg.errors import DeadlockDetected
from testing import Api, load, person, rod_and_tube

from verbs.parts import save_parts as saving
from verbs.parts.move_stock import move_stock

CLASS = {"name": "Ceramics", "prefix": "CCM-", "digits": 4}


class Numbers(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api, self.other = Api("engineer"), Api("buyer")
        self.api.post("/parts/classes", CLASS)

    def test_a_number_that_two_previews_showed_makes_one_part(self) -> None:
        text = "Class\tDescription\tUnit cost\nCeramics\t{}\t0.10"
        previews = [
            api.post("/parts/rows/pasted", {"text": text.format(word)})[1]["rows"]
            for api, word in ((self.api, "ours"), (self.other, "theirs"))
        ]
        self.assertEqual([p[0]["number"] for p in previews], ["CCM-0001", "CCM-0001"])
        first, second = ([{n: row[n] for n in ("number", "fields", "version")} for row in rows] for rows in previews)
        self.assertEqual(self.api.post("/parts/rows", {"rows": first}), (200, {"made": 1, "changed": 0}))
        status, said = self.other.post("/parts/rows", {"rows": second})
        self.assertEqual(status, 422)
        self.assertIn("made by somebody else meanwhile; the next free number is CCM-0002", said["message"])
        self.assertEqual(Part.objects.get(number="CCM-0001").description, "ours")

    def test_a_number_on_released_papers_stays_whoever_asks(self) -> None:
        BuildSheet.objects.filter(part__number="RT-1").update(status="released")
        for number in ("ROD", "T-1"):
            status, said = self.api.patch(f"/parts/one?number={number}", {"number": "X-9"})
            self.assertEqual((status, said["problems"][0]["place"]), (422, "number"))
            self.assertIn("keeps its number", said["message"])
            change = {"old": number, "new": "X-9", "version": Part.objects.get(number=number).version}
            self.assertEqual(self.api.post("/parts/renumber", {"changes": [change]})[0], 422)
        self.api.post("/parts", {"number": "FREE", "kind": "bought", "unit": "ea"})
        self.assertEqual(self.api.patch("/parts/one?number=FREE", {"number": "FREED"})[0], 200)

    def test_a_change_says_from_which_version_it_was_made(self) -> None:
        for path, fields in (("/parts/one?number=ROD", {"description": "x"}), ("/work-centers/one?code=LATHE", {"name": "x"})):
            status, said = self.api.send("PATCH", path, fields)
            self.assertEqual((status, said["problems"][0]["place"]), (422, "version"))
        self.assertEqual(self.api.post("/parts/classes?name=Ceramics", CLASS)[0], 422)
        self.assertEqual(self.api.send("PATCH", "/parts/one?number=NONE", {"version": 1})[0], 404)

    def test_a_part_that_nothing_names_is_taken_away_with_a_record(self) -> None:
        self.api.post("/parts", {"number": "SLIP", "kind": "bought", "unit": "ea"})
        self.assertEqual(Api("viewer").post("/parts/drop", {"numbers": ["SLIP"]})[0], 403)
        for number, word in (("ROD", "line"), ("RT-1", "build sheet"), ("NONE", "not known")):
            status, said = self.api.post("/parts/drop", {"numbers": ["SLIP", number]})
            self.assertEqual((status, word in said["message"]), (422, True), said)
        move_stock(self.api.user, "SLIP", "1", "counted")
        self.assertIn("stock move", self.api.post("/parts/drop", {"numbers": ["SLIP"]})[1]["message"])
        Part.objects.get(number="SLIP").moves.all().delete()
        OpenOrder.objects.create(part=Part.objects.get(number="SLIP"), order="O", quantity=1, added_by="x")
        self.assertIn("open order", self.api.post("/parts/drop", {"numbers": ["SLIP"]})[1]["message"])
        OpenOrder.objects.all().delete()
        self.assertEqual(self.api.post("/parts/drop", {"numbers": ["SLIP"]}), (200, {"count": 1}))
        gone = Part.history.filter(number="SLIP", history_type="-").get()
        self.assertEqual((gone.history_user.username, gone.history_change_reason), ("engineer", "taken away; nothing named it"))
        self.assertEqual(self.api.post("/parts/drop", {"numbers": []})[0], 422)

    def test_text_has_an_end(self) -> None:
        for field in ("description", "material"):
            status, said = self.api.patch("/parts/one?number=ROD", {field: "x" * 5000})
            self.assertEqual((status, said["problems"][0]["place"]), (422, field))
        sheet = BuildSheet.objects.get(part__number="RT-1")
        change = {"table": "line", "id": None, "before": None, "after": {}}
        status, said = self.api.post(f"/sheets/{sheet.pk}/edits", {"version": 1, "changes": [change] * 5001})
        self.assertEqual((status, "too many" in said["message"]), (422, True))

    def test_a_list_whose_numbers_are_written_the_other_way_is_named(self) -> None:
        text = "Part number\tUnit cost\nROD\t3,50\nNUT\t4.75\nT-9\t1,25"
        rows = self.api.post("/parts/rows/pasted", {"text": text})[1]["rows"]
        self.assertEqual(rows[0]["changes"][0]["after"], "3.5")
        self.assertIn("decimal point", rows[1]["problems"][0])
        self.assertEqual([len(r["problems"]) for r in rows], [0, 1, 0])


class AtOnce(TransactionTestCase):
    """Requests that meet in the database: the second is told in words, a deadlock is carried out once more."""

    def setUp(self) -> None:
        load(rod_and_tube())

    def together(self, *calls) -> list[tuple[int, dict]]:
        found: list[tuple[int, dict]] = []

        def run(call) -> None:
            try:
                found.append(call())
            finally:
                connection.close()

        threads = [threading.Thread(target=run, args=(call,)) for call in calls]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(60)
        return found

    def test_the_same_thing_made_twice_at_once(self) -> None:
        apis = [Api(role) for role in ("engineer", "accountant")]
        for path, body in (
            ("/parts", {"number": "TWIN", "kind": "bought", "unit": "ea"}),
            ("/work-centers", {"code": "TWIN"}),
            ("/parts/classes", {"name": "Twins", "prefix": "TW-", "digits": 3}),
            ("/parts/open-orders", {"rows": [["order", "part", "open"], ["PO-1", "ROD", "5"]]}),
        ):
            said = self.together(*(partial(api.post, path, body) for api in apis * 2))
            self.assertTrue(all(status in (200, 422) for status, _ in said), said)
            self.assertGreaterEqual([status for status, _ in said].count(200), 1)
            for status, answer in said:
                self.assertNotIn("database", answer.get("message", "").lower() if status == 422 else "")
        self.assertEqual(OpenOrder.objects.count(), 1)

    def test_rows_in_opposite_orders_do_not_lock_one_another_out(self) -> None:
        numbers = [f"P-{n}" for n in range(40)]
        api = Api("engineer")
        api.post("/parts/rows", {"rows": [{"number": n, "fields": {"kind": "bought"}, "version": None} for n in numbers]})

        def change(order: list[str], days: str):
            rows = [{"number": n, "fields": {"lead_time_days": days}, "version": 1} for n in order]
            return lambda: api.post("/parts/rows", {"rows": rows})

        said = self.together(change(numbers, "3"), change(numbers[::-1], "4"), change(numbers, "5"))
        self.assertEqual(sorted(status for status, _ in said), [200, 422, 422])

    def test_a_deadlock_is_carried_out_once_more(self) -> None:
        real, times = saving.plan_parts, []

        def once(*args, **more):
            times.append(1)
            if len(times) == 1:
                from django.db import OperationalError

                raise OperationalError("deadlock detected") from DeadlockDetected()
            return real(*args, **more)

        api = Api("engineer")
        rows = [{"number": "ROD", "fields": {"lead_time_days": "9"}, "version": 1}]
        with patch.object(saving, "plan_parts", once):
            self.assertEqual(api.post("/parts/rows", {"rows": rows}), (200, {"made": 0, "changed": 1}))
        self.assertEqual(len(times), 2)
        always = patch.object(saving, "plan_parts", side_effect=_deadlock)
        with always as asked:
            status, said = api.post("/parts/rows", {"rows": rows})
        self.assertEqual((status, asked.call_count), (503, 4))
        self.assertIn("Several people changed the same", said["message"])


def _deadlock(*_: object, **__: object) -> None:
    from django.db import OperationalError

    raise OperationalError("deadlock detected") from DeadlockDetected()


class Files(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "files"
        media = override_settings(MEDIA_ROOT=str(self.folder))
        media.enable()
        self.addCleanup(media.disable)
        load(rod_and_tube())
        self.api = Api("engineer")
        self.path = "/parts/one/files?number=ROD"

    def left(self) -> list[Path]:
        return [p for p in self.folder.rglob("*") if p.is_file()]

    def test_files_are_their_owners_alone(self) -> None:
        self.assertEqual(self.api.upload("a.txt", b"words", self.path)[0], 200)
        (stored,) = self.left()
        self.assertEqual((stored.stat().st_mode & 0o777, stored.parent.stat().st_mode & 0o777), (0o600, 0o700))

    def test_a_full_disk_is_said_and_leaves_nothing(self) -> None:
        def full(storage: FileSystemStorage, name: str, content) -> str:
            Path(storage.path(name)).parent.mkdir(parents=True, exist_ok=True)
            Path(storage.path(name)).write_bytes(content.read()[:2])
            raise OSError(28, "No space left on device")

        with patch.object(FileSystemStorage, "_save", full):
            status, said = self.api.upload("a.txt", b"words", self.path)
        self.assertEqual((status, "disk is full" in said["message"]), (507, True))
        self.assertEqual((self.left(), PartFile.objects.count()), ([], 0))

    def test_a_row_that_cannot_be_kept_takes_its_content_along(self) -> None:
        with patch.object(StoredFile, "save", side_effect=OSError(30, "Read-only file system")):
            self.assertEqual(self.api.upload("a.txt", b"words", self.path)[0], 507)
        self.assertEqual(self.left(), [])

    def test_missing_content_and_a_full_quota_are_said(self) -> None:
        kept = self.api.upload("a.txt", b"words", self.path)[1]
        for stored in self.left():
            stored.unlink()
        status, said = self.api.get(f"/parts/files/{kept['id']}")
        self.assertEqual((status, "restore it from a backup" in said["message"]), (404, True))
        with override_settings(FILES_LIMIT=8):
            status, said = self.api.upload("b.txt", b"other words", self.path)
        self.assertEqual((status, "no room" in said["message"]), (422, True))


class Waiting(TestCase):
    def test_a_person_has_so_many_lists_waiting_and_an_inquiry_so_many_files(self) -> None:
        from inquiries.actions import add_file
        from inquiries.models import InquiryFile
        from jobs.models import Job

        user = person("engineer")
        for n in range(add_file.MOST_WAITING):
            Job.objects.create(kind=add_file.KIND, about=n, title="reading x", asked_by=str(user))
        api = Api("engineer")
        at = f"{api.inquiry()}/files"
        status, said = api.upload("a.csv", b"part,quantity\nA,1\n", at)
        self.assertEqual((status, "wait to be read" in said["message"]), (422, True))
        self.assertEqual(Api("accountant").upload("a.csv", b"part\nA\n", at)[0], 403)
        Job.objects.update(ended_at=now())
        with patch.object(add_file, "MOST_FILES", 2):
            answers = [api.upload("a.csv", b"part,quantity\nA,1\n", at)[0] for _ in range(3)]
        self.assertEqual((answers, InquiryFile.objects.count()), ([200, 200, 422], 2))
