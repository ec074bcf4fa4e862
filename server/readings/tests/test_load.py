"""The load of builds: hours add up to what the cost rules count, weeks to what calendars hold; over is over."""

from datetime import date
from decimal import Decimal
from unittest.mock import patch

from definition.models.parts import Workspace
from definition.models.sheets import BuildSheet, Operation
from definition.models.work_centers import WorkCenter
from demo.load_demo import load_demo
from django.test import TestCase
from loading.reads import load_question, part_named
from tally_core.cost.answers import Basis
from tally_core.cost.cost import job_lots, operation_costs
from tally_core.structure.needs import job_needs
from testing import Api, load, rod_and_tube, sheet_of

TODAY = date(2026, 11, 25)  # a Wednesday


class Load(TestCase):
    def setUp(self) -> None:
        now = patch("readings.center_load.localdate", return_value=TODAY)
        now.start()
        self.addCleanup(now.stop)
        self.api = Api("engineer")

    def load(self, *builds: dict, **more: object) -> dict:
        status, said = self.api.post("/work-centers/load", {"builds": list(builds), "day": "2026-11-25"} | more)
        self.assertEqual(status, 200, said)
        return said

    def test_by_hand(self) -> None:
        """A thousand of RT-1 at one lathe: 12 + 3000 and 1000 minutes. Of 2,400 minutes a week the last two hold 4,012,
        the last of them whole, wanted on Friday 18 December."""
        load(rod_and_tube())
        said = self.load({"part": "RT-1", "quantity": "1000", "wanted": "2026-12-18"}, drafts=True)
        lathe = said["centers"][0]
        self.assertEqual(said["weeks"], ["2026-12-07", "2026-12-14"])
        self.assertEqual(lathe["load"], [round((4012 - 2400) / 60, 6), 40.0])
        self.assertEqual((lathe["capacity"], lathe["over"]), ([40.0, 40.0], 0))
        # Twice the same build asks for twice as much in the same weeks, and that is too much for one lathe.
        build = {"part": "RT-1", "quantity": "1000", "wanted": "2026-12-18"}
        said = self.load(build, build, drafts=True)
        self.assertEqual((said["centers"][0]["load"][1], said["centers"][0]["over"]), (80.0, 2))
        WorkCenter.objects.filter(code="LATHE").update(stations=2)
        self.assertEqual(self.load(build, build, drafts=True)["centers"][0]["over"], 0)

    def test_a_lot_shared_by_stations_takes_the_same_hours_in_less_time(self) -> None:
        load(rod_and_tube())
        WorkCenter.objects.filter(code="LATHE").update(stations=4)
        build = {"part": "RT-1", "quantity": "1000", "wanted": "2026-12-18"}
        alone = self.load(build, drafts=True)
        Operation.objects.filter(sequence=10).update(stations=4)
        shared = self.load(build, drafts=True)
        for said in (alone, shared):
            self.assertAlmostEqual(sum(said["centers"][0]["load"]), 4012 / 60, places=4)
        self.assertEqual((len(alone["weeks"]), len(shared["weeks"])), (2, 1))

    def test_stations_that_differ_in_pace(self) -> None:
        """Stations at 100 and 50 %: a lot of 3,000 minutes shared by both takes 2,000; one alone takes the first. Hours stay those of the
        lot, and a week of 40 hours holds 60 of them."""
        load(rod_and_tube())
        WorkCenter.objects.filter(code="LATHE").update(stations=2, paces="100, 50")
        Operation.objects.filter(sequence=10).update(stations=2)
        said = self.load({"part": "RT-1", "quantity": "1000", "wanted": "2026-12-18"}, drafts=True)["centers"][0]
        # 12 + 2,000 minutes, then 1,000: 1,400 of the 2,012 lie in the last week, and each of them is 3,012 / 2,012 of work.
        self.assertAlmostEqual(said["load"][1], (1000 + 1400 * 3012 / 2012) / 60, places=5)
        self.assertAlmostEqual(said["load"][0], 612 * 3012 / 2012 / 60, places=5)
        self.assertEqual(said["capacity"], [60.0, 60.0])
        # The faster one stands first now: what takes one station takes that, 1,000 minutes in 500; 3,000 shared take 1,200.
        WorkCenter.objects.filter(code="LATHE").update(paces="200, 50")
        said = self.load({"part": "RT-1", "quantity": "1000", "wanted": "2026-12-18"}, drafts=True)
        self.assertEqual((len(said["weeks"]), said["centers"][0]["capacity"]), (1, [100.0]))
        self.assertAlmostEqual(said["centers"][0]["load"][0], 4012 / 60, places=5)
        for wrong in ("100", "100, 100, 80", "100, fast", "100, 0"):
            status, told = self.api.patch("/work-centers/one?code=LATHE", {"paces": wrong})
            self.assertEqual((status, told["problems"][0]["place"]), (422, "paces"), told)

    def test_what_any_of_a_group_may_do_goes_where_it_fills_least(self) -> None:
        """Turning 1,000 is 1,612 minutes in the first week and 1,400 in the last; fitting them keeps the lathe for 1,000 of the last.

        Of three builds two go to the other lathe: 53.7 of 40 hours there are less than 50 + 23.3 here; the third then fills the first
        lathe to 73.3 hours, which is less than the 80.6 of the other one.
        """
        load(rod_and_tube())
        WorkCenter.objects.filter(code="LATHE").update(group="turning")
        WorkCenter.objects.create(code="LATHE-2", group="turning", labor_rate=99)
        WorkCenter.objects.create(code="SAW", group="cutting")
        build = {"part": "RT-1", "quantity": "1000", "wanted": "2026-12-18"}
        stated = self.load(build, build, build, drafts=True)
        self.assertEqual([c["code"] for c in stated["centers"]], ["LATHE"])
        Operation.objects.filter(sequence=10).update(any_of_group=True)
        few = self.load(build | {"quantity": "300"}, drafts=True)
        self.assertEqual([c["code"] for c in few["centers"]], ["LATHE"], "there is time where it is stated")
        said = self.load(build, build, build, drafts=True)
        hours = {c["code"]: [round(x, 4) for x in c["load"]] for c in said["centers"]}
        first, last = 1612 / 60, 1400 / 60
        self.assertEqual(hours, {"LATHE": [round(first, 4), round(50 + last, 4)], "LATHE-2": [round(2 * first, 4), round(2 * last, 4)]})
        self.assertEqual(
            {(x["center"], x["sequence"], x["any_of"]) for x in said["sources"]},
            {("LATHE", 10, "turning"), ("LATHE-2", 10, "turning"), ("LATHE", 20, "")},
        )
        # It costs what it costs where it is stated.
        cost = self.api.get(f"/sheets/{sheet_of('RT-1').pk}/view")[1]["parts"][0]["cost"]
        Operation.objects.filter(sequence=10).update(any_of_group=False)
        self.assertEqual(self.api.get(f"/sheets/{sheet_of('RT-1').pk}/view")[1]["parts"][0]["cost"], cost)

    def test_hours_are_those_of_the_cost_rules(self) -> None:
        """Over the whole demo product, stops and closed days in between: nothing is lost, nothing counted twice."""
        load_demo()
        Workspace.objects.update_or_create(pk=1, defaults={"closed_days": [date(2026, 12, 10), date(2026, 12, 24)]})
        said = self.load({"part": "HL-155", "quantity": "200", "wanted": "2027-02-12", "options": ["SYNC"]})
        _, question = load_question(part_named("HL-155"), Basis(TODAY, Decimal(200), ("SYNC",)))
        s = question.structure
        needs = job_needs(s, question.top, 200.0)
        work = operation_costs(s.operations, s.starts, job_lots(s, needs)[s.operations.parent])
        met = needs.lot[s.operations.parent] > 0
        hours = float((work.setup_hours + work.run_hours)[met].sum())
        self.assertAlmostEqual(sum(sum(c["load"]) for c in said["centers"]), hours, places=3)
        self.assertAlmostEqual(sum(x["hours"] for x in said["sources"]), hours, places=3)
        self.assertIn("electronics", {c["group"] for c in said["centers"]})

    def test_what_cannot_be_laid_is_placed_at_its_build(self) -> None:
        load(rod_and_tube("released"))
        BuildSheet.objects.update(effective_from=date(2026, 1, 1))
        for build, place, told in (
            ({"part": "NOPE"}, "builds[1].part", "not known"),
            ({"part": "RT-1", "wanted": "2026-11-24"}, "builds[1].wanted", "is past"),
            ({"part": "RT-1", "wanted": "soon"}, "builds[1].wanted", "a day like"),
            ({"part": "RT-1", "quantity": "-1"}, "builds[1].quantity", ""),
            ({"part": "RT-1", "options": ["X"]}, "builds[1].part", "option X is not known"),
        ):
            status, said = self.api.post("/work-centers/load", {"builds": [{"part": "RT-1"}, build], "day": "2026-11-25"})
            self.assertEqual((status, said["problems"][0]["place"]), (422, place), said)
            self.assertIn(told, said["message"])
        self.assertEqual(self.api.post("/work-centers/load", {"builds": []})[0], 422)

    def test_a_stop_is_kept_and_moves_what_is_planned(self) -> None:
        load(rod_and_tube())
        build = {"part": "RT-1", "quantity": "100", "wanted": "2026-12-18"}
        before = self.load(build, drafts=True)
        stop = {"start": "2026-12-14T00:00", "end": "2026-12-19T00:00", "reason": "moved"}
        status, said = self.api.patch("/work-centers/one?code=LATHE", {"stops": [stop]})
        self.assertEqual((status, said["stops"]), (200, [stop]))
        after = self.load(build, drafts=True)
        self.assertEqual((before["weeks"], after["weeks"]), (["2026-12-14"], ["2026-12-07"]))
        for wrong, told in (
            ({"start": "soon", "end": ""}, "a moment like"),
            ({"start": stop["end"], "end": stop["start"]}, "ends after it begins"),
        ):
            status, said = self.api.patch("/work-centers/one?code=LATHE", {"stops": [stop, wrong]})
            self.assertEqual(status, 422)
            self.assertIn(told, said["message"])
