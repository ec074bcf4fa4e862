"""What is proposed in a round: refused, listed, given by hand, taken over into the inputs."""

from datetime import timedelta
from decimal import Decimal as D

from definition.models.parts import Part
from definition.models.work_centers import WorkCenter
from standards.models import Proposal
from testing import Api, sheet_of

from rounds.tests.with_rounds import TODAY, WithRounds


class Proposals(WithRounds):
    def test_every_bad_input_is_named_and_nothing_is_kept(self) -> None:
        key = self.opened()
        line = sheet_of("T-1").lines.get().pk
        for items, words in (
            ([("part", "ROD", "unit_cost", "-1")], "ROD: unit cost is not below 0"),
            ([("part", "ROD", "unit_cost", "cheap")], "unit cost is a number, not cheap"),
            ([("part", "ROD", "unit_cost", "")], "unit cost cannot be empty"),
            ([("part", "NONE", "unit_cost", "1")], "part NONE is not known"),
            ([("part", "T-1", "unit_cost", "1")], "T-1 is made"),
            ([("part", "ROD", "costing_lot", "5")], "ROD is bought and has no costing lot"),
            ([("part", "T-1", "given_cost", "9")], "say why"),
            ([("part", "ROD", "colour", "1")], "there is no input colour of a part"),
            ([("line", str(line), "quantity", "0")], "quantity is above 0"),
            ([("line", "no-key", "quantity", "1")], "not known"),
            ([("work_center", "LATHE", "efficiency_percent", "0")], "efficiency, % is above 0"),
            ([("part", "ROD", "unit_cost", "4"), ("part", "NUT", "unit_cost", "1e13")], "NUT: unit cost is a number below"),
        ):
            status, said = self.propose(key, *items)
            self.assertEqual(status, 422, items)
            self.assertIn(words, said["message"])
        for body, words in (
            ({"percent": "-120", "part_class": "Metal"}, "-120 % makes unit cost of ROD -0.6"),
            ({"percent": "lots", "part_class": "Metal"}, "a percentage is a number"),
            ({"percent": "8", "part_class": "Wood"}, "nothing of class Wood has a unit cost"),
            ({"percent": "8", "field": "colour"}, "choose what the percentage is of"),
        ):
            status, said = self.engineer.post(f"/rounds/{key}/proposals/percent", {"table": "part", "field": "unit_cost"} | body)
            self.assertEqual(status, 422, body)
            self.assertIn(words, said["message"])
        for text, words in (
            ("Colour\tSize\nred\t1", "the first row must name the columns"),
            ("Part\tUnit cost\nROD\t4\nNONE\t5", "row 3: part NONE is not known"),
        ):
            status, said = self.engineer.post(f"/rounds/{key}/proposals/list", {"text": text})
            self.assertEqual(status, 422, text)
            self.assertIn(words, said["message"])
        self.assertEqual(Proposal.objects.count(), 0)
        self.assertIn("has not been tallied yet", self.accept(key)[1]["message"])
        self.assertIn("proposes nothing that reaches a part", self.engineer.post(f"/rounds/{key}/tally", {})[1]["failed"])
        for fields, words in (
            ({"name": ""}, "1 to 80 characters"),
            ({"name": "Metal up", "first_day": "2027-01-01"}, "there is a round Metal up"),
            ({"name": "x", "first_day": "soon"}, "say the day"),
            ({"name": "x", "first_day": "2027-01-01", "scope": "some"}, "a round is of"),
            ({"name": "x", "first_day": "2027-01-01", "scope": "chosen", "chosen": ["NONE"]}, "no such part"),
        ):
            status, said = self.engineer.post("/rounds", fields)
            self.assertEqual(status, 422, fields)
            self.assertIn(words, said["message"])
        self.assertEqual(Api("viewer").post("/rounds", {"name": "x", "first_day": "2027-01-01"})[0], 403)

    def test_proposals_by_list_shown_beside_what_stands_and_taken_back(self) -> None:
        key = self.opened()
        status, said = self.engineer.post(
            f"/rounds/{key}/proposals/list", {"text": "Part\tUnit cost\tReason\nrod\t3,50\tquoted\nNUT\t0.2\t"}
        )
        self.assertEqual((status, said.get("inputs")), (200, 2), said)
        page = self.engineer.get(f"/rounds/{key}/proposals")[1]
        self.assertEqual(
            [(p["name"], p["now"], p["value"], p["source"], p["reason"]) for p in page["items"]],
            [("ROD", "3", "3.5", "pasted", "quoted"), ("NUT", "0.1", "0.2", "pasted", "")],
        )
        status, said = self.engineer.upload("prices.csv", b"Work center;Labor rate\nLATHE;44\n", f"/rounds/{key}/proposals/file")
        self.assertEqual((status, said.get("inputs")), (200, 1), said)
        self.engineer.post(f"/rounds/{key}/proposals/withdraw", {"ids": [page["items"][1]["id"]]})
        self.assertEqual([(p.field, p.value) for p in Proposal.objects.order_by("id")], [("unit_cost", D("3.5")), ("labor_rate", D(44))])

    def test_a_cost_given_by_hand_needs_its_reason_and_a_markup_rolls_on(self) -> None:
        part = Part.objects.get(number="T-1")
        status, said = self.engineer.send("PATCH", "/parts/one?number=T-1", {"markup_percent": "10", "version": part.version})
        self.assertEqual(status, 422)
        self.assertIn("say why", said["message"])
        status, said = self.engineer.send(
            "PATCH", "/parts/one?number=T-1", {"markup_percent": "10", "given_reason": "scrap not yet measured", "version": part.version}
        )
        self.assertEqual(status, 200, said)
        sheet = sheet_of("RT-1")
        _, view = self.engineer.get(f"/sheets/{sheet.pk}/view")
        tube = next(p for p in view["parts"] if p["number"] == "T-1")
        self.assertAlmostEqual(tube["cost"], 1.65)
        self.assertEqual(tube["given"], "10 % over the roll-up: scrap not yet measured")
        self.assertAlmostEqual(tube["elements"]["other"], 0.15)
        _, working = self.engineer.get("/costing/working", sheet=sheet.pk, figure=f"unit:{part.pk}")
        self.assertEqual([o["label"] for o in working["operands"]], ["unit cost of T-1 before the markup", "markup"])
        self.assertEqual(working["operands"][1]["operands"][1]["note"], "scrap not yet measured")

    def test_what_an_accepted_round_proposed_becomes_the_inputs_when_asked(self) -> None:
        key = self.opened(day=TODAY + timedelta(days=10))
        line = sheet_of("T-1").lines.get()
        self.propose(
            key,
            ("part", "ROD", "unit_cost", "4"),
            ("part", "T-1", "costing_lot", ""),
            ("part", "RT-1", "markup_percent", "5", "agreed"),
            ("work_center", "LATHE", "labor_rate", "44"),
            ("work_center", "LATHE", "efficiency_percent", "90"),
            ("line", str(line.pk), "scrap_percent", "3"),
        )
        self.assertEqual(self.accountant.post(f"/rounds/{key}/inputs", {})[0], 422)
        self.tallied(key)
        self.assertEqual(self.accept(key)[1]["status"], "accepted")
        self.assertEqual(Part.objects.get(number="ROD").unit_cost, 3)
        self.assertEqual(self.engineer.post(f"/rounds/{key}/inputs", {})[0], 403)
        status, done = self.accountant.post(f"/rounds/{key}/inputs", {})
        self.assertEqual((status, done), (200, {"parts": 3, "centers": 1, "left": 1}))
        rod = Part.objects.get(number="ROD")
        # The price holds from the round's day on, too.
        later = [{"first_day": (TODAY + timedelta(days=10)).isoformat(), "unit_cost": "4"}]
        self.assertEqual((rod.unit_cost, rod.prices), (3, later))
        self.assertIsNone(Part.objects.get(number="T-1").costing_lot)
        top = Part.objects.get(number="RT-1")
        self.assertEqual((top.markup_percent, top.given_reason), (5, "agreed"))
        center = WorkCenter.objects.get()
        # The rate holds from the round's day on; the one of before stays until then.
        self.assertEqual(center.rates, [{"first_day": (TODAY + timedelta(days=10)).isoformat(), "labor_rate": "44"}])
        self.assertEqual((center.labor_rate, center.efficiency_percent), (40, 90))
        # A round of the day after moves nothing but the line that stands on a released sheet.
        after = self.opened("After", TODAY + timedelta(days=11), scope="all")
        self.tallied(after)
        moved = {n: r["causes"] for n, r in self.rows(after, moved=True).items()}
        self.assertEqual(set(moved), {"T-1", "RT-1"})
        self.assertTrue(all(moved == 0 for row in moved.values() for cause, moved in row.items() if cause != "usage"))
        self.assertEqual(
            [e["what"][:8] for e in self.engineer.get(f"/rounds/{key}/history")[1]], ["3 parts ", "accepted", "proposed", "opened"]
        )
