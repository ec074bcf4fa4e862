"""Long requests take turns; short ones never wait for them; what would take too long is refused by its size."""

import threading
from unittest.mock import patch

from api import sheet_lists
from django.test import TestCase
from readings import center_load as loading
from readings import matrix
from testing import Api, load, rod_and_tube

from jobs import long_work


class Turns(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.api = Api("viewer")

    def test_when_every_turn_is_taken_a_long_request_is_told_and_a_short_one_is_answered(self) -> None:
        taken = threading.BoundedSemaphore(1)
        taken.acquire()
        builds = {"builds": [{"part": "RT-1", "quantity": "2"}]}
        with patch.object(long_work, "_turns", taken), patch.object(long_work, "PATIENCE", 0.01):
            table = {"title": "x", "columns": [{"title": "a"}], "rows": [["b"]]}
            for path, body in (("/sheets/matrix", builds), ("/work-centers/load", builds), ("/sheets/table/csv", table)):
                status, said = self.api.post(path, body)
                self.assertEqual((status, "try again" in said["message"]), (503, True), path)
            self.assertEqual(self.api.get("/parts")[0], 200)
            taken.release()
            self.assertEqual(self.api.post("/sheets/matrix", builds)[0], 200)
            self.assertEqual(self.api.post("/sheets/matrix", {"builds": []})[0], 422)
            self.assertEqual(self.api.post("/sheets/matrix", builds)[0], 200, "a turn is given back after a refusal")

    def test_work_is_bounded_by_what_it_takes(self) -> None:
        build = {"part": "RT-1", "quantity": "2"}
        with patch.object(matrix, "MOST_WORK", 11):
            self.assertEqual(self.api.post("/sheets/matrix", {"builds": [build] * 2})[0], 200)
            self.assertIn("fewer of them", self.api.post("/sheets/matrix", {"builds": [build] * 3})[1]["message"])
        with patch.object(loading, "MOST_STEPS", 3):
            self.assertIn("in parts", self.api.post("/work-centers/load", {"builds": [build]})[1]["message"])
        table = {"title": "x", "columns": [{"title": "a"}, {"title": "b"}], "rows": [["1", 2]] * 3}
        with patch.object(sheet_lists, "MOST_CELLS", 5):
            self.assertIn("at most 5 cells", self.api.post("/sheets/table/xlsx", table)[1]["message"])
        self.assertEqual(self.api.post("/sheets/table/xlsx", table)[0], 200)
