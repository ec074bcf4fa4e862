"""What one answer tells is of one moment: somebody may write between two of its queries."""

from concurrent.futures import ThreadPoolExecutor
from unittest.mock import patch

import numpy as np
from definition.models.parts import Part
from definition.models.sheets import Line
from django.db import InternalError, connection
from django.test import TransactionTestCase
from findings import reads
from loading.loaded import rows_of
from readings.survey import below
from tally_core.basics.errors import TallyError
from testing import Api, load, rod_and_tube, sheet_of


def _write_beside(sheet_id: int) -> None:
    """A new part on a new line, by somebody else."""
    Line.objects.create(sheet_id=sheet_id, item=990, position=990, part=Part.objects.create(number="NEW", kind="bought"), quantity=1)
    connection.close()


class OneMoment(TransactionTestCase):
    def test_a_product_is_looked_through_as_it_stood_when_the_look_began(self) -> None:
        load(rod_and_tube())
        engineer = Api("engineer")
        sheet = sheet_of("RT-1")
        before = engineer.get(f"/findings/product/{sheet.pk}")[1]

        def meanwhile(part_id: int) -> list[int]:
            found = below(part_id)
            with ThreadPoolExecutor(1) as other:
                other.submit(_write_beside, sheet.pk).result()
            return found

        with patch.object(reads, "below", meanwhile):
            status, found = engineer.get(f"/findings/product/{sheet.pk}")
        self.assertEqual((status, found), (200, before))
        self.assertNotEqual(engineer.get(f"/findings/product/{sheet.pk}")[1], before)

    def test_what_only_reads_cannot_write(self) -> None:
        engineer = Api("engineer")
        load(rod_and_tube())
        with (
            patch.object(reads, "below", lambda part_id: Part.objects.filter(pk=part_id).update(description="written") and [part_id]),
            self.assertRaises(InternalError),
        ):
            engineer.get(f"/findings/product/{sheet_of('RT-1').pk}")
        self.assertFalse(Part.objects.filter(description="written").exists())

    def test_within_a_write_rows_that_do_not_fit_are_refused(self) -> None:
        ids = np.array([3, 5, 9])
        self.assertEqual(rows_of(ids, np.array([9, -1, 3])).tolist(), [2, -1, 0])
        for keys in ([4], [10], [3, 11]):
            with self.assertRaises(TallyError):
                rows_of(ids, np.array(keys))
        with self.assertRaises(TallyError):
            rows_of(ids[:0], np.array([3]))
