"""A worker that is killed while it plans, and while it asks: as before, or whole."""

import os
from unittest.mock import patch

from django.conf import settings
from jobs.tests.workers import WithWorkers
from testing import Api, load

from buying.models import Asked, BuyPlan, Offer, PlanNeed
from standins.suppliers import Server

from .lamps import SCREWS, lamps, screw_services


class Killed(WithWorkers):
    def setUp(self) -> None:
        load(lamps())
        self.buyer = Api("buyer")
        self.offer("0.10")
        body = {"title": "Spring", "builds": [{"part": "LAMP", "quantity": "100"}]}
        self.plan = f"/buying/plans/{self.buyer.post('/buying/plans', body)[1]['id']}"
        self.worker("--batch").wait(60)

    def offer(self, price: str) -> None:
        body = {"part": "SCR", "supplier": "Fathom Bolts", "breaks": [["1", price]], "maker_number": "N-5"}
        self.assertEqual(self.buyer.post("/buying/offers", body)[0], 200)

    def test_while_it_plans(self) -> None:
        before = (BuyPlan.objects.get().result, list(PlanNeed.objects.order_by("position").values()))
        self.assertEqual(before[0]["total"], "52")
        self.offer("0.09")
        self.buyer.post(f"{self.plan}/plan", {})
        self.kill_where("LOCK TABLE buying_planneed IN EXCLUSIVE MODE")
        self.assertEqual((BuyPlan.objects.get().result, list(PlanNeed.objects.order_by("position").values())), before)
        said = self.buyer.get(self.plan)[1]
        self.assertIn("The worker ended in the middle of planning", said["failed"])
        self.assertEqual((said["total"], said["behind"]), ("52", True))
        self.buyer.post(f"{self.plan}/plan", {})
        self.worker("--batch").wait(60)
        said = self.buyer.get(self.plan)[1]
        self.assertEqual((said["failed"], said["total"], said["behind"]), ("", "46.8", False))

    def test_while_it_asks(self) -> None:
        for name in ("Holm Metals", "Fathom Bolts"):
            self.buyer.post("/partners", {"name": name, "supplier": True})
        codes = {p["name"]: p["code"] for p in self.buyer.get("/partners")[1]}
        with screw_services(Server(0, SCREWS)), patch.dict(os.environ, {"TALLY_SERVICES": settings.SERVICES}):
            for name, service in (("Holm Metals", "holm"), ("Fathom Bolts", "fathom")):
                self.buyer.send("PUT", f"/buying/terms?code={codes[name]}", {"service": service, "version": 0})
            self.buyer.post(f"{self.plan}/asking", {})
            self.kill_where("LOCK TABLE buying_asked IN EXCLUSIVE MODE")
            self.assertEqual((Asked.objects.count(), Offer.objects.filter(source="service").count()), (0, 0))
            said = self.buyer.get(f"{self.plan}/asking")[1]
            self.assertIn("The worker ended in the middle of asking suppliers", said["failed"])
            self.buyer.post(f"{self.plan}/asking", {})
            self.worker("--batch").wait(60)
            self.worker("--batch").wait(60)
        self.assertEqual(sorted(Offer.objects.filter(source="service").values_list("supplier", flat=True)), ["Fathom Bolts", "Holm Metals"])
        self.assertEqual(self.buyer.get(self.plan)[1]["behind"], False, "planned anew with what they said")
