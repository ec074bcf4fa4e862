"""Lots and serial numbers: given when they come, taken oldest first or as told, and the structure as built in both directions."""

from decimal import Decimal
from uuid import uuid4

from definition.models.parts import Lot, LotMove, StockWorth
from testing import Api, load, person, rod_and_tube
from verbs.parts.move_stock import move_stock
from verbs.parts.trace_part import trace_part

from shop.actions.issue_components import Issue, issue_components
from shop.actions.reverse_entry import reverse_entry
from shop.models import Component
from shop.tests.floor import Shop


class Tracing(Shop):
    def setUp(self) -> None:
        super().setUp()
        load(rod_and_tube("released"))
        self.api = Api("engineer")
        self.stock(ROD="10", NUT="100")
        for number, by in (("ROD", "lot"), ("T-1", "serial"), ("RT-1", "serial")):
            trace_part(person("engineer"), number, by)

    def lots(self, number: str) -> dict[str, Decimal]:
        return {x.code: x.quantity for x in Lot.objects.filter(part__number=number) if x.quantity}

    def check_lots(self) -> None:
        for number in ("ROD", "T-1", "RT-1"):
            worth = StockWorth.objects.filter(part__number=number).first()
            there = worth.quantity if worth else Decimal(0)
            self.assertEqual(sum(self.lots(number).values(), Decimal(0)), there, number)
        for lot in Lot.objects.exclude(code="before"):
            self.assertEqual(lot.quantity, sum(m.quantity for m in lot.moves.all()), lot.code)

    def test_what_went_into_a_unit_and_where_a_lot_went(self) -> None:
        self.assertEqual(self.lots("ROD"), {"before": 10})
        tubes = self.released("T-1", "3")
        self.report(tubes, 0, "3", codes=["TA", "TB", "TC"])
        self.assertEqual(self.lots("T-1"), {"TA": 1, "TB": 1, "TC": 1})
        # The rod that comes now is a lot of its own; what is older goes first: 8.5 m before, then 4.1 m of it.
        move_stock(self.shop, "ROD", "20", "received")
        fresh = next(code for code in self.lots("ROD") if code != "before")
        order = self.released("RT-1", "6")
        Component.objects.filter(order=order, part__number="T-1").update(backflush=False)
        self.report(order, 10, "6")
        self.assertEqual(self.lots("ROD"), {fresh: Decimal("15.9")})
        self.refused(
            "which serial they are of", lambda: issue_components(self.shop, order.pk, uuid4(), [Issue(1, "2", codes=[("TB", "1")])])
        )
        self.refused(
            "only 0 ea of TX are there", lambda: issue_components(self.shop, order.pk, uuid4(), [Issue(1, "1", codes=[("TX", "1")])])
        )
        issue_components(self.shop, order.pk, uuid4(), [Issue(1, "2", codes=[("TC", "1"), ("TA", "1")])])
        self.assertEqual(self.lots("T-1"), {"TB": 1})
        self.refused("there already", lambda: self.report(tubes, 0, "1", codes=["TB"], reason="one more", beyond=True))
        self.report(order, 20, "2")
        self.assertEqual(set(self.lots("RT-1")), {f"{order.number}-001", f"{order.number}-002"})
        self.check_lots()
        status, unit = self.api.get("/shop/as-built", part="RT-1", code=f"{order.number}-002")
        self.assertEqual(status, 200, unit)
        self.assertEqual(
            {(r["part"], r["code"], r["quantity"]) for r in unit["made_of"]},
            {("ROD", "before", "8.5"), ("ROD", fresh, "4.1"), ("T-1", "TA", "1"), ("T-1", "TC", "1")},
        )
        gone = self.api.get("/shop/as-built", part="ROD", code="before")[1]
        self.assertEqual(
            {(r["part"], r["code"]) for r in gone["went_into"]},
            {("T-1", "TA"), ("T-1", "TB"), ("T-1", "TC"), ("RT-1", f"{order.number}-001"), ("RT-1", f"{order.number}-002")},
        )
        self.assertEqual(self.api.get("/shop/as-built", part="T-1", code="TA")[1]["made_of"][0]["code"], "before")
        self.assertEqual(self.api.get("/shop/as-built", part="T-1", code="NOPE")[0], 404)

    def test_what_is_reversed_comes_back_to_its_lots(self) -> None:
        move_stock(self.shop, "ROD", "20", "received")
        before = self.lots("ROD")
        order = self.released("RT-1", "6")
        entry = self.report(order, 10, "6")
        self.assertNotEqual(self.lots("ROD"), before)
        reverse_entry(self.shop, order.pk, entry.pk, uuid4(), "not this order")
        self.assertEqual(self.lots("ROD"), before)
        self.check_lots()

    def test_units_that_were_received_by_mistake_go_out_as_the_same_units(self) -> None:
        tubes = self.released("T-1", "4")
        self.report(tubes, 0, "1", codes=["OLD"])
        wrong = self.report(tubes, 0, "2", codes=["NEW-1", "NEW-2"])
        reverse_entry(self.shop, tubes.pk, wrong.pk, uuid4(), "counted twice")
        self.assertEqual(self.lots("T-1"), {"OLD": 1})
        self.check_lots()

    def test_how_a_part_is_traced_is_said_and_taken_back(self) -> None:
        said = self.api.get("/shop/lots", part="NUT")[1]
        self.assertEqual((said["by"], said["lots"]), ("", []))
        said = self.api.post("/shop/lots?part=NUT", {"by": "lot"})[1]
        self.assertEqual((said["by"], said["lots"]), ("lot", [{"code": "before", "quantity": "100"}]))
        for number, by, words in (("NUT", "colour", "by lot, by serial"), ("ROD", "serial", "whole units")):
            status, refused = self.api.post(f"/shop/lots?part={number}", {"by": by})
            self.assertEqual(status, 422)
            self.assertIn(words, str(refused))
        self.assertEqual(self.api.post("/shop/lots?part=NUT", {"by": ""})[1]["by"], "")
        move_stock(self.shop, "NUT", "-5", "issued")
        self.assertFalse(LotMove.objects.filter(lot__part__number="NUT").exists())
        self.assertEqual(Api("viewer").post("/shop/lots?part=NUT", {"by": "lot"})[0], 403)
