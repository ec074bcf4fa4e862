"""Open orders: a list that is taken whole or not at all, and what it replaces."""

from decimal import Decimal as D

from definition.models.parts import OpenOrder
from django.test import TestCase
from testing import Api, load, rod_and_tube


class OpenOrders(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("buyer")

    def send(self, *rows: tuple) -> tuple[int, dict]:
        return self.api.post("/parts/open-orders", {"rows": [["Order", "Part number", "Open", "Due"], *map(list, rows)]})

    def held(self) -> list[tuple]:
        return [(o.order, o.part.number, o.quantity) for o in OpenOrder.objects.order_by("order", "part__number")]

    def test_a_list_sets_what_is_still_to_come_and_nought_closes(self) -> None:
        self.assertEqual(
            self.send(("PO-1", "rod", "40", "2027-01-15"), ("PO-1", "NUT", "1000", ""), ("WO-7", "T-1", "12,5", ""))[1], {"count": 3}
        )
        self.assertEqual(self.held(), [("PO-1", "NUT", D(1000)), ("PO-1", "ROD", D(40)), ("WO-7", "T-1", D("12.5"))])
        self.send(("PO-1", "ROD", "15", "2027-01-20"), ("PO-1", "NUT", "0", ""))
        self.assertEqual(self.held(), [("PO-1", "ROD", D(15)), ("WO-7", "T-1", D("12.5"))])
        shown = self.api.get("/parts/one/open-orders", number="ROD")[1]
        self.assertEqual(shown, [{"order": "PO-1", "quantity": "15", "due_on": "2027-01-20", "by": "buyer"}])
        # Both values stay in the history.
        history = OpenOrder.objects.get(order="PO-1").history.order_by("history_id")
        self.assertEqual([h.quantity for h in history], [D(40), D(15)])

    def test_a_file_is_read_like_a_list(self) -> None:
        status, said = self.api.upload("orders.csv", b"Purchase order;Part;Still to come\nPO-9;ROD;7\n", "/parts/open-orders/file")
        self.assertEqual((status, said), (200, {"count": 1}))
        self.assertEqual(self.held(), [("PO-9", "ROD", D(7))])

    def test_one_wrong_row_keeps_all_of_them_out(self) -> None:
        for row, words in (
            (("PO-2", "NONE", "1", ""), "part NONE is not known"),
            (("PO-2", "ROD", "lots", ""), "“lots” is not a number"),
            (("PO-2", "ROD", "-3", ""), "-3 is no quantity"),
            (("PO-2", "ROD", "3", "soon"), "a day is written like"),
            (("", "ROD", "3", ""), "an order has a number"),
            (("P" * 70, "ROD", "3", ""), "an order has a number"),
        ):
            status, said = self.send(("PO-1", "ROD", "40", ""), row)
            self.assertEqual(status, 422, row)
            self.assertIn(words, said["message"])
            self.assertIn("row 3", said["problems"][0]["place"])
            self.assertEqual(self.held(), [])
        self.assertIn("no column Order".lower(), self.api.post("/parts/open-orders", {"rows": [["Part", "Open"]]})[1]["message"])
        self.assertEqual(Api("shop").post("/parts/open-orders", {"rows": [["Order", "Part", "Open"], ["A", "ROD", "1"]]})[0], 403)
