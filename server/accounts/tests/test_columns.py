"""Column sets: everybody's own, by name, a bounded number."""

from django.test import TestCase
from testing import Api


class ColumnSets(TestCase):
    def test_a_set_is_kept_replaced_and_let_go(self) -> None:
        api, other = Api("viewer"), Api("buyer")
        body = {"list_name": "parts only", "name": "for Monday", "hidden": ["class", "unit"]}
        self.assertEqual(api.post("/session/columns", body), (200, [{"name": "for Monday", "hidden": ["class", "unit"]}]))
        self.assertEqual(api.post("/session/columns", body | {"hidden": ["kind"]})[1][0]["hidden"], ["kind"])
        self.assertEqual(other.get("/session/columns", list_name="parts only"), (200, []))
        self.assertEqual(other.post("/session/columns/drop", {"list_name": "parts only", "name": "for Monday"}), (200, []))
        self.assertEqual(len(api.get("/session/columns", list_name="parts only")[1]), 1)
        self.assertEqual(api.get("/session/columns", list_name="top level")[1], [])
        self.assertEqual(api.post("/session/columns/drop", {"list_name": "parts only", "name": "for Monday"}), (200, []))

    def test_what_cannot_be_kept(self) -> None:
        api = Api("viewer")
        for change in (
            {"name": " "},
            {"name": "x" * 61},
            {"name": "a\nb"},
            {"hidden": ["x" * 61]},
            {"hidden": ["\x00"]},
            {"hidden": ["k"] * 201},
            {"list_name": "x" * 61},
            {"name": None},
            {"hidden": "all"},
        ):
            body = {"list_name": "parts only", "name": "a", "hidden": []} | change
            self.assertEqual(api.post("/session/columns", body)[0], 422, change)
        for index in range(31):
            status, _ = api.post("/session/columns", {"list_name": "l", "name": f"set {index}", "hidden": []})
            self.assertEqual(status, 200 if index < 30 else 422)
        self.assertEqual(self.client.get("/api/session/columns?list_name=l").status_code, 401)
