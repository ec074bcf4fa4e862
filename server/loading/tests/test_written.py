"""What was written since: by whoever was done, and by whoever was about to write when the mark was taken."""

from threading import Event, Thread

from definition.models.parts import Part
from definition.models.sheets import Option
from django.db import connection, transaction
from django.db.utils import ConnectionHandler
from django.test import TransactionTestCase
from django.utils.timezone import now
from testing import load, rod_and_tube

from loading.written import mark_now, written_since


class WrittenSince(TransactionTestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.key = dict(Part.objects.values_list("number", "pk"))

    def describe(self, number: str) -> None:
        part = Part.objects.get(number=number)
        part.version += 1
        part.save()

    def test_parts_their_sheets_centers_and_options_are_told_apart(self) -> None:
        mark = mark_now()
        self.assertFalse(written_since(mark)[1])
        self.describe("NUT")
        sheet = Part.objects.get(number="RT-1").sheets.get()
        sheet.save()
        center = sheet.operations.exclude(work_center=None)[0].work_center
        center.save()
        option = Option.objects.create(code="LONG")
        later, written = written_since(mark)
        self.assertEqual(written.parts, {self.key["NUT"], self.key["RT-1"]})
        self.assertEqual((written.centers, written.options, written.whole), ({center.pk}, {option.pk}, False))
        self.assertEqual(written_since(mark, but=sheet.pk)[1].parts, {self.key["NUT"]})
        self.assertFalse(written_since(later)[1])

    def test_who_counted_first_may_be_done_last(self) -> None:
        wrote, go = Event(), Event()

        def slow() -> None:
            with transaction.atomic():
                self.describe("ROD")
                wrote.set()
                go.wait(20)
            connection.close()

        writer = Thread(target=slow)
        writer.start()
        self.assertTrue(wrote.wait(20))
        self.describe("NUT")
        mark = mark_now()
        self.assertFalse(mark.certain)
        self.assertNotIn(self.key["ROD"], written_since(mark)[1].parts)
        go.set()
        writer.join(20)
        # Its row of history is numbered below the mark, and was not there when that was taken.
        self.assertIn(self.key["ROD"], written_since(mark)[1].parts)

    def test_who_writes_to_another_database_is_not_waited_for(self) -> None:
        elsewhere = ConnectionHandler({"default": connection.settings_dict | {"NAME": "postgres"}})["default"]
        with elsewhere.cursor() as cursor:
            cursor.execute("BEGIN")
            cursor.execute("SELECT pg_current_xact_id()")
        try:
            self.describe("NUT")
            mark = mark_now()
            self.assertFalse(written_since(mark)[1])
        finally:
            elsewhere.close()

    def test_very_many_count_as_all(self) -> None:
        mark = mark_now()
        kept = Option.history.model
        kept.objects.bulk_create(kept(id=n, code=f"O{n}", name="", history_date=now(), history_type="+") for n in range(2_500))
        self.assertTrue(written_since(mark)[1].whole)
