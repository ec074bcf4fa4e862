"""Prices that hold from a day on: the day of the basis picks them, and what was true stays what it was."""

from datetime import date, timedelta

from definition.models.parts import Part
from django.test import TestCase
from django.utils.timezone import localdate
from loading.reads import load_catalogue, load_question, part_named
from tally_core.cost.answers import Basis, tally
from testing import Api, load, rod_and_tube, sheet_of

from readings.export_bundle import export_bundle

DAYS = {"2026-03-01": "4", "2027-01-01": "6.5"}


class Prices(TestCase):
    """A rod and a tube: RT-1 takes rods by the metre, at 3 to begin with."""

    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.api = Api("engineer")
        self.before = self.cost(date(2026, 6, 1))
        prices = [{"first_day": d, "unit_cost": p} for d, p in reversed(DAYS.items())]
        status, said = self.api.patch("/parts/one?number=ROD", {"prices": prices})
        self.assertEqual(status, 200, said)
        # By their day, however they were sent.
        self.assertEqual([p["first_day"] for p in said["prices"]], list(DAYS))

    def cost(self, day: date) -> float:
        _, question = load_question(part_named("RT-1"), Basis(day))
        return float(tally(question)[0].unit[question.top].sum())

    def test_the_day_of_the_basis_picks_the_price(self) -> None:
        metres = self.before and (self.cost(date(2027, 1, 1)) - self.cost(date(2026, 12, 31))) / 2.5
        self.assertGreater(metres, 0)
        for day, price in ((date(2026, 2, 28), 3), (date(2026, 3, 1), 4), (date(2026, 12, 31), 4), (date(2027, 1, 1), 6.5)):
            self.assertAlmostEqual(self.cost(day), self.before + (price - 3) * metres, places=9, msg=str(day))
            held = load_catalogue(day)
            self.assertEqual(held.parts.unit_cost[held.row(Part.objects.get(number="ROD").pk)], price)

    def test_a_working_says_since_when(self) -> None:
        sheet = sheet_of("RT-1")
        for day, since in (("2026-02-01", None), ("2026-04-01", "2026-03-01")):
            part = Part.objects.get(number="ROD").pk
            status, working = self.api.get("/costing/working", sheet=str(sheet.pk), figure=f"unit:{part}", day=day)
            self.assertEqual(status, 200, working)
            (price,) = working["operands"]
            self.assertEqual(price["source"]["reason"], f"holds from {since} on" if since else "test")

    def test_they_leave_with_the_bundle_and_come_back(self) -> None:
        bundle = export_bundle()
        (rod,) = [p for p in bundle["parts"] if p["number"] == "ROD"]
        self.assertEqual({p["from"]: p["unit_cost"] for p in rod["prices"]}, DAYS)
        self.api.patch("/parts/one?number=ROD", {"prices": []})
        load(bundle)
        self.assertEqual(export_bundle(), bundle)

    def test_what_cannot_be_kept_is_named_and_the_rest_stays(self) -> None:
        held = Part.objects.get(number="ROD").prices
        for prices, place, words in (
            ([{"first_day": "2026-05-01", "unit_cost": "-1"}], "prices[0].unit_cost", "negative"),
            ([{"first_day": "", "unit_cost": "1"}], "prices[0].first_day", "first day of this price"),
            ([{"first_day": "soon", "unit_cost": "1"}], "prices[0].first_day", ""),
            ([{"first_day": "2026-05-01", "unit_cost": ""}], "prices[0].unit_cost", "price is needed"),
            ([{"first_day": "2026-05-01", "unit_cost": "dear"}], "prices[0].unit_cost", "not a number"),
            ([{"first_day": "2026-05-01", "unit_cost": p} for p in "12"], "prices[1].first_day", "twice"),
        ):
            status, said = self.api.patch("/parts/one?number=ROD", {"prices": prices})
            self.assertEqual((status, [p["place"] for p in said["problems"]]), (422, [place]), said)
            self.assertIn(words, said["message"])
        status, said = self.api.patch("/parts/one?number=T-1", {"prices": [{"first_day": "2026-05-01", "unit_cost": "1"}]})
        self.assertEqual((status, said["problems"][0]["place"]), (422, "prices"))
        self.assertEqual(Part.objects.get(number="ROD").prices, held)

    def test_the_history_tells_them(self) -> None:
        entry = self.api.get("/parts/one/history", number="ROD")[1][0]
        told = [(c["field"], c["before"], c["after"]) for c in entry["changes"]]
        self.assertEqual(told, [("Prices", "", "4 from 01 Mar 2026, 6.5 from 01 Jan 2027")])

    def test_a_price_of_tomorrow_moves_nothing_today(self) -> None:
        today = localdate()
        now = self.cost(today)
        prices = Part.objects.get(number="ROD").prices
        more = [{"first_day": (today + timedelta(days=1)).isoformat(), "unit_cost": "99"}]
        self.api.patch("/parts/one?number=ROD", {"prices": prices + more})
        self.assertEqual(self.cost(today), now)
        self.assertGreater(self.cost(today + timedelta(days=1)), now)
