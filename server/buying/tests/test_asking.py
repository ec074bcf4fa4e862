"""Suppliers asked by their services for what a plan needs: kept with their hour, not asked twice, and planned with."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import Any

from django.utils.timezone import localdate, now
from outside.tests.standing import switch
from testing import Api

from buying.models import Asked, Offer, Rate
from standins.suppliers import Server

from .lamps import SCREWS, Lamps, screw_services


class AskingSuppliers(Lamps):
    def setUp(self) -> None:
        super().setUp()
        for name in ("Holm Metals", "Fathom Bolts", "Elsewhere"):
            self.buyer.post("/partners", {"name": name, "supplier": True})
        self.server = Server(0, SCREWS)

    @contextmanager
    def services(self) -> Iterator[str]:
        with screw_services(self.server) as at:
            self.terms("Holm Metals", service="holm")
            self.terms("Fathom Bolts", service="fathom")
            yield at

    def asking(self, plan: dict[str, Any], again: bool = False) -> dict[str, Any]:
        status, answer = self.buyer.post(f"/buying/plans/{plan['id']}/asking", {"again": again})
        self.assertEqual(status, 200, answer)
        return answer

    def test_asked_kept_and_planned_with(self) -> None:
        plan = self.plan()
        self.assertEqual(plan["needs"]["SCR"]["reason"], "no offer")
        with self.services():
            first = self.buyer.get(f"/buying/plans/{plan['id']}/asking")[1]
            self.assertEqual(
                [(a["supplier"], a["numbers"], a["waiting"]) for a in first["suppliers"]], [("Fathom Bolts", 1, 1), ("Holm Metals", 1, 1)]
            )
            self.assertEqual(self.asking(plan)["failed"], "")
            # 520 screws: 100 at a time; 0.11 each from Holm, 14 a hundred from Fathom.
            planned = self.read(plan["id"])
            bought = planned["needs"]["SCR"]["bought"][0]
            self.assertEqual(
                (bought["supplier"], bought["quantity"], bought["cost"], planned["behind"]), ("Holm Metals", "600", "66", False)
            )
            offers = self.buyer.get("/buying/offers", part="SCR")[1]["offers"]
            self.assertEqual(
                {(o["supplier"], o["their_number"], o["source"], o["source_words"]) for o in offers},
                {("Holm Metals", "H5", "service", "holm"), ("Fathom Bolts", "F5", "service", "fathom")},
            )
            fathom = next(o for o in offers if o["supplier"] == "Fathom Bolts")
            self.assertEqual((fathom["breaks"], fathom["minimum"], fathom["lead_days"]), ([["100", "0.14"], ["1000", "0.09"]], "100", 3))
            # What was said still holds: nobody is asked, unless it is wished.
            asked = self.server.asked
            status, answer = self.buyer.post(f"/buying/plans/{plan['id']}/asking", {})
            self.assertEqual((status, "still holds" in answer["message"], self.server.asked), (422, True, asked))
            self.asking(plan, again=True)
            self.assertEqual((self.server.asked, Offer.objects.count()), (asked + 2, 2))
            self.assertEqual(Offer.objects.exclude(confirmed_at=None).count(), 2)
            # A day later it does not.
            Asked.objects.filter(supplier="Holm Metals").update(asked_at=now() - timedelta(hours=25))
            self.asking(plan)
            self.assertEqual(self.server.asked, asked + 3)

    def test_another_price_takes_the_place_and_what_is_gone_is_let_go(self) -> None:
        plan = self.plan()
        with self.services() as at:
            self.asking(plan)
            switch(at, "holm", "moving")
            self.asking(plan, again=True)
            old, new = Offer.objects.filter(supplier="Holm Metals").order_by("id")
            self.assertEqual((old.let_go_by, old.breaks[1][1], new.let_go_at, new.breaks[1][1]), ("the service", "0.11", None, "0.1122"))
            self.assertEqual(self.read(plan["id"])["needs"]["SCR"]["bought"][0]["cost"], "67.32")
            switch(at, "holm", "well")
            self.server.shelves["holm"]["items"] = {}
            self.asking(plan, again=True)
            self.assertFalse(Offer.objects.filter(supplier="Holm Metals", let_go_at=None).exists())
            self.assertEqual(self.read(plan["id"])["needs"]["SCR"]["bought"][0]["supplier"], "Fathom Bolts")
            # An offer that was typed is nobody's to let go.
            self.offer("SCR", "Holm Metals", [["1", "0.01"]], maker_number="N-5")
            self.assertTrue(self.buyer.get(f"/buying/plans/{plan['id']}")[1]["behind"], "an offer came since")
            self.asking(plan, again=True)
            self.assertTrue(Offer.objects.filter(supplier="Holm Metals", let_go_at=None, source="by hand").exists())

    def test_one_is_down_and_what_the_other_said_is_kept(self) -> None:
        plan = self.plan()
        with self.services() as at:
            switch(at, "fathom", "down")
            failed = self.asking(plan)["failed"]
            self.assertIn("Fathom Bolts: 1 of 1 calls came to nothing: the service answered 503", failed)
            self.assertEqual(list(Offer.objects.values_list("supplier", flat=True)), ["Holm Metals"])
            self.assertEqual(self.read(plan["id"])["needs"]["SCR"]["bought"][0]["supplier"], "Holm Metals")
            switch(at, "fathom", "well")
            state = self.asking(plan)
            self.assertEqual((state["failed"], [a["waiting"] for a in state["suppliers"]]), ("", [0, 0]))

    def test_only_what_they_may_sell_and_whoever_may(self) -> None:
        plan = self.plan()
        with self.services():
            self.terms("Holm Metals", not_makers=["NORDRY"])
            self.asking(plan)
            self.assertEqual(set(Offer.objects.values_list("supplier", flat=True)), {"Fathom Bolts"})
            for who in ("engineer", "viewer"):
                self.assertEqual(Api(who).post(f"/buying/plans/{plan['id']}/asking", {})[0], 403)
                self.assertEqual(Api(who).get(f"/buying/plans/{plan['id']}/asking")[0], 200)
            code = next(p["code"] for p in self.buyer.get("/partners")[1] if p["name"] == "Elsewhere")
            answer = self.buyer.send("PUT", f"/buying/terms?code={code}", {"service": "nobody", "version": 0})
            self.assertEqual((answer[0], answer[1]["problems"][0]["place"]), (422, "service"))
            said = json.dumps([self.buyer.get(p)[1] for p in ("/buying/services", f"/buying/plans/{plan['id']}/asking", "/buying/feed")])
            self.assertNotIn("127.0.0.1", said)
            self.assertNotIn("very-secret", said)
        self.assertIn("No supplier is asked by a service", self.buyer.post(f"/buying/plans/{plan['id']}/asking", {})[1]["message"])

    def test_rates_from_the_feed(self) -> None:
        self.buyer.post("/partners", {"name": "Overseas", "supplier": True, "currency": "USD"})
        monday = localdate() - timedelta(days=localdate().weekday() + 7)
        self.buyer.post("/buying/rates", {"currency": "USD", "day": monday.isoformat(), "rate": "0.5"})
        with self.services() as at:
            switch(at, "rates", "down")
            self.assertIn("could not be taken: the service answered 503", self.buyer.post("/buying/feed", {})[1]["failed"])
            switch(at, "rates", "well")
            self.assertEqual(self.buyer.post("/buying/feed", {})[1]["failed"], "")
            self.assertEqual(set(Rate.objects.values_list("currency", flat=True)), {"USD"}, "of currencies somebody uses")
            self.assertEqual(Rate.objects.get(day=monday).rate, 0.5, "what was stated by hand stands")
            count = Rate.objects.count()
            self.assertGreater(count, 15)
            self.buyer.post("/buying/feed", {})
            self.assertEqual(Rate.objects.count(), count)
        self.assertEqual(self.buyer.post("/buying/feed", {})[0], 422)
