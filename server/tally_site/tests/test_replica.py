"""Where there is a replica: lists are read there, writes and the rest are not, and everybody sees what they wrote."""

from typing import Any
from unittest.mock import patch

from django.db import OperationalError, connection, connections
from django.test import TransactionTestCase
from django.test.utils import CaptureQueriesContext
from testing import Api, load, rod_and_tube, sheet_of

from tally_site import replica

#: Further than any primary of a test is.
_AHEAD = "FFFFFFF/0"


class Replica(TransactionTestCase):
    """Both stand for one database here, each by a connection of its own; how far a true one lags is said by what it is asked."""

    def setUp(self) -> None:
        load(rod_and_tube())
        self.engineer = Api("engineer")
        self.enterContext(patch.dict(connections.databases, {"replica": connections.databases["default"]}))
        connections["replica"] = connection.copy()
        self.addCleanup(connections["replica"].close)
        self.addCleanup(replica._again.__setitem__, 0, 0.0)

    def read_there(self, path: str, **query: Any) -> bool:
        """Whether the parts or lines that an answer shows were read at the replica; the answer is the same either way."""
        connections["replica"].ensure_connection()
        with CaptureQueriesContext(connections["replica"]) as there:
            status, _ = self.engineer.get(path, **query)
        self.assertEqual(status, 200)
        return any("definition_" in q["sql"] for q in there.captured_queries)

    def test_lists_are_read_there_and_the_rest_is_not(self) -> None:
        sheet = sheet_of("RT-1")
        for path, query in (
            ("/parts", {}),
            ("/sheets/where-used", {"part": "ROD"}),
            ("/parts/one/uses", {"number": "ROD"}),
            ("/parts/list/csv", {}),
        ):
            self.assertTrue(self.read_there(path, **query), path)
        for path, query in (("/parts/one", {"number": "ROD"}), (f"/sheets/{sheet.pk}/view", {"drafts": "true"}), ("/today", {})):
            self.assertFalse(self.read_there(path, **query), path)

    def test_who_wrote_reads_where_it_stands(self) -> None:
        status, _ = self.engineer.patch("/parts/one?number=ROD", {"description": "Drawn"})
        self.assertEqual(status, 200)
        place = self.engineer.client.cookies["tally_written"].value
        self.assertRegex(place, r"^[0-9A-F]+/[0-9A-F]+$")
        self.assertTrue(self.read_there("/parts"), "it is as far as the write")
        self.engineer.client.cookies["tally_written"] = _AHEAD
        self.assertFalse(self.read_there("/parts"), "it is not as far")
        self.engineer.client.cookies["tally_written"] = "'; DROP TABLE definition_part; --"
        self.assertTrue(self.read_there("/parts"))

    def test_only_within_it_stands_in_the_place_of_the_primary(self) -> None:
        with replica.from_replica():
            self.assertIs(connections["default"], connections["replica"])
        self.assertIsNot(connections["default"], connections["replica"])

    def test_one_that_goes_away_is_passed_over(self) -> None:
        with patch("tally_site.api.from_replica", side_effect=OperationalError("gone")):
            self.assertEqual(self.engineer.get("/parts")[0], 200)
        self.assertFalse(self.read_there("/parts"), "for a while it is not asked")
        replica._again[0] = 0.0
        self.assertTrue(self.read_there("/parts"))
        with patch.object(connections["replica"], "cursor", side_effect=OperationalError("gone")):
            self.assertEqual(self.engineer.get("/parts")[0], 200)
        self.assertGreater(replica._again[0], 0)
