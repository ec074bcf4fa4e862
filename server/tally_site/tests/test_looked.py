"""What is noted of who took files out, and of who saw costs and prices."""

from accounts.models import Seen
from django.test import Client, TestCase, override_settings
from lists.columns import COLUMNS
from testing import Api, load, rod_and_tube, sheet_of

from tally_site import looked


class Looked(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load(rod_and_tube())

    def setUp(self) -> None:
        looked._noted.clear()
        self.engineer = Api("engineer")

    def noted(self) -> list[tuple[str, str, str]]:
        return [(s.by, s.what, s.thing) for s in Seen.objects.order_by("pk")]

    def test_files_are_noted_each_time_also_those_that_a_program_takes(self) -> None:
        self.engineer.get("/parts/list/csv")
        self.engineer.get("/parts/list/csv")
        self.engineer.get("/lists/file", part=["RT-1", "T-1"], shape="list-csv", column=list(COLUMNS)[:3], drafts=True)
        token = self.engineer.post("/tokens", {"name": "Board", "subjects": ["parts"], "days": 30})[1]["token"]
        Client(headers={"Authorization": f"Bearer {token}"}).get("/api/parts/list/csv")
        self.assertEqual(
            self.noted(),
            [
                ("engineer", "took out", "parts/list/csv"),
                ("engineer", "took out", "parts/list/csv"),
                ("engineer", "took out", "lists/file?part=RT-1&part=T-1&shape=list-csv"),
                ("engineer, by a token", "took out", "parts/list/csv"),
            ],
        )
        seen = Api("administrator").get("/people")[1]
        self.assertEqual([s["by"] for s in seen["seen"]], ["engineer, by a token", "engineer", "engineer", "engineer"])
        self.assertFalse(seen["looks_noted"])

    def test_whatever_stands_in_an_address_the_file_is_handed_out_and_noted(self) -> None:
        for odd in ("\x00", "a\nb", "\ud800".encode("utf-8", "surrogatepass"), "x" * 5000):
            self.assertEqual(self.engineer.get("/parts/list/csv", code=odd)[0], 200, odd)
        things = [thing for _, _, thing in self.noted()]
        self.assertEqual(things[:2], ["parts/list/csv?code=?", "parts/list/csv?code=a?b"])
        self.assertEqual((len(things), max(map(len, things))), (4, 300))

    def test_looks_are_noted_once_a_day_where_that_is_set_and_refused_ones_are_not(self) -> None:
        view = f"/sheets/{sheet_of('RT-1').pk}/view"
        self.engineer.get(view)
        self.assertEqual(self.noted(), [])
        with override_settings(LOOKS_NOTED=True):
            for _ in range(2):
                self.engineer.get(view)
                # Another process does not know what this one has noted.
                looked._noted.clear()
            self.engineer.get("/parts/one", number="ROD")
            self.engineer.get("/orders")
            self.engineer.get("/parts/one", number="nothing")
            self.engineer.get("/session")
            with override_settings(PRICES_HIDDEN=True):
                Api("viewer").get("/orders")
            self.assertTrue(Api("administrator").get("/people")[1]["looks_noted"])
        self.assertEqual(
            self.noted(),
            [("engineer", "saw costs", view[1:]), ("engineer", "saw costs", "parts/one?number=ROD"), ("engineer", "saw prices", "orders")],
        )
