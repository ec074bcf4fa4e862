"""Finished orders come in as a list and become run times, by Python's statistics module."""

import statistics
from datetime import timedelta

from definition.models.sheets import Operation
from definition.models.work_centers import FinishedWork
from django.test import TestCase
from django.utils.timezone import localdate
from testing import Api, load, rod_and_tube, sheet_of

HEAD = "order,part,operation,quantity,run minutes,set-up minutes,finished\n"


def rows(*each: tuple[str, float, float], days: int = 1) -> bytes:
    first = localdate() - timedelta(days=days)
    listed = (f"{o},RT-1,10,{q},{m},,{(first - timedelta(days=n)).isoformat()}" for n, (o, q, m) in enumerate(each))
    return (HEAD + "\n".join(listed)).encode()


class Measured(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")
        self.operation = Operation.objects.get(sheet=sheet_of("RT-1"), sequence=10)

    def bring(self, content: bytes, name: str = "orders.csv") -> tuple[int, dict]:
        return self.api.upload(name, content, "/finished-orders/file")

    def measured(self, last: int = 10) -> dict:
        status, said = self.api.get("/finished-orders/measured", operation=str(self.operation.pk), last=last)
        self.assertEqual(status, 200, said)
        return said

    def test_the_mean_of_the_last_orders(self) -> None:
        status, said = self.bring(rows(("W1", 10, 35), ("W2", 20, 62), ("W3", 10, 40)))
        self.assertEqual((status, said), (200, {"kept": 3, "held": 0}))
        found = self.measured()
        self.assertEqual(float(found["run_minutes"]), round(statistics.fmean([3.5, 3.1, 4.0]), 4))
        self.assertAlmostEqual(found["spread"], statistics.stdev([3.5, 3.1, 4.0]))
        # By quantity: 137 minutes for 40 units.
        self.assertEqual(float(found["by_quantity"]), 3.425)
        self.assertEqual((found["number"], found["of"]), (3, 3))
        found = self.measured(last=2)
        self.assertEqual((float(found["run_minutes"]), found["number"], found["of"]), (3.3, 2, 3))
        self.assertEqual([o["order"] for o in found["orders"]], ["W1", "W2"])

    def test_what_is_there_already_is_passed_over_and_what_differs_is_named(self) -> None:
        self.bring(rows(("W1", 10, 35)).replace(b"RT-1", b"rt-1"))
        self.assertEqual(self.bring(rows(("W1", 10, 35), ("W2", 10, 36)))[1], {"kept": 1, "held": 1})
        status, said = self.bring(rows(("W1", 10, 99), ("W4", 10, 36)))
        self.assertEqual(status, 422)
        self.assertIn("order W1 is there already with other values", said["message"])
        self.assertEqual(FinishedWork.objects.count(), 2)

    def test_what_was_wrong_is_listed_reversed_with_a_reason_and_reported_anew(self) -> None:
        self.bring(rows(("W1", 10, 350), ("W2", 20, 62)))
        listed = self.api.get("/finished-orders", search="w1")[1]["rows"]
        self.assertEqual([(r["order"], r["run_minutes"], r["reversed"]) for r in listed], [("W1", 350.0, "")])
        address = f"/finished-orders/{listed[0]['id']}/reverse"
        self.assertEqual(self.api.post(address, {"reason": " "})[0], 422)
        self.assertEqual(Api("viewer").post(address, {"reason": "typed wrong"})[0], 403)
        status, said = self.api.post(address, {"reason": "a nought too many"})
        self.assertEqual(status, 200, said)
        self.assertIn("reversed by engineer", said["reversed"])
        self.assertEqual((self.measured()["number"], float(self.measured()["run_minutes"])), (1, 3.1))
        self.assertIn("engineer reversed it already", self.api.post(address, {"reason": "again"})[1]["message"])
        self.assertEqual(self.bring(rows(("W1", 10, 35)))[1], {"kept": 1, "held": 0})
        self.assertEqual(float(self.measured()["run_minutes"]), 3.3)
        # Both stay on record.
        self.assertEqual(len(self.api.get("/finished-orders", search="RT-1")[1]["rows"]), 3)

    def test_what_is_wrong_is_named_by_its_row_and_nothing_is_kept(self) -> None:
        tomorrow = (localdate() + timedelta(days=1)).isoformat()
        body = HEAD + f"W1,RT-1,10,10,35,,2026-11-01\nW2,NOPE,ten,0,-3,x,{tomorrow}\n"
        status, said = self.bring(body.encode())
        self.assertEqual(status, 422)
        for told in (
            "row 3: part NOPE is not known",
            "operation: “ten” is not a number",
            "quantity above 0",
            "run minutes is a number",
            "set-up minutes: “x” is not a number",
            "is still to come",
        ):
            self.assertIn(told, said["message"])
        self.assertEqual(FinishedWork.objects.count(), 0)
        self.assertIn("no column part", self.bring(b"order,finished\nW1,2026-01-01")[1]["message"])
        self.assertEqual(self.bring(b"\x00\x01", "orders.pdf")[0], 422)
        self.assertEqual(Api("viewer").upload("orders.csv", rows(("W1", 1, 1)), "/finished-orders/file")[0], 403)

    def test_a_taken_time_is_a_change_like_any_other(self) -> None:
        """Taken, undone, typed over: the sheet knows where its run time comes from."""
        self.bring(rows(("W1", 10, 35), ("W2", 20, 62)))
        found = self.measured()
        sheet = sheet_of("RT-1")
        before = {"run_minutes": "3", "run_from_orders": None}
        taken = {"run_minutes": found["run_minutes"], "run_from_orders": found["number"]}
        for a, b in ((before, taken), (taken, before)):
            change = {"table": "operation", "id": str(self.operation.pk), "before": a, "after": b}
            status, said = self.api.post(f"/sheets/{sheet.pk}/edits", {"version": sheet_of("RT-1").version, "changes": [change]})
            self.assertEqual(status, 200, said)
            self.operation.refresh_from_db()
            self.assertEqual(self.operation.run_from_orders, b["run_from_orders"])
        self.assertEqual(self.operation.history.count(), 3)
