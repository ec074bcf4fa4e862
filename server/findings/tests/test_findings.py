"""Findings through the API: of a product now, of everything by the worker, before a release, and waived."""

from datetime import date, timedelta
from unittest.mock import patch

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line, Operation, Option
from definition.models.work_centers import WorkCenter
from django.conf import settings
from django.test import TestCase
from django.utils.timezone import now
from django_tasks_db.models import DBTaskResult
from jobs.every_night import queue_for_tonight
from jobs.models import Job
from loading.columns import fetch_columns
from readings.export_bundle import export_bundle
from readings.survey import below, find, load_survey
from tally_core.checks.checks import check
from tally_core.checks.survey import survey
from tally_core.stated.bundle import read_bundle
from testing import Api, load, rod_and_tube, sheet_of

from findings.actions.check_everything import nightly
from findings.models import Finding, Survey, Waiver

DAY = date(2026, 11, 24)


def faulty() -> dict:
    """RT-1 released; its nut at last buy, item 30 and 40 both with a designator X1, no cost on the rod."""
    document = rod_and_tube("released")
    document["parts"][0]["unit_cost"] = None
    document["parts"][1]["lifecycle"] = "last_buy"
    lines = document["build_sheets"][0]["lines"]
    lines[2]["reference_designators"] = ["X1", "X2", "X3", "X4"]
    lines.append({"item": 40, "part": "NUT", "quantity": "1", "reference_designators": ["X1"]})
    return document


class Findings(TestCase):
    def setUp(self) -> None:
        load(faulty())
        self.api = Api("engineer")
        self.sheet = sheet_of("RT-1")

    def product(self) -> list[dict]:
        status, found = self.api.get(f"/findings/product/{self.sheet.id}")
        self.assertEqual(status, 200)
        return found

    def test_the_database_and_a_bundle_in_memory_are_found_alike(self) -> None:
        for change in (
            lambda: None,
            lambda: Part.objects.filter(number="NUT").update(lifecycle="obsolete"),
            lambda: BuildSheet.objects.filter(part__number="T-1").update(status="draft"),
            lambda: Operation.objects.filter(sheet=self.sheet).update(stations=3),
            lambda: Operation.objects.filter(sheet=self.sheet, sequence=20).update(any_of_group=True),
        ):
            change()
            held = survey(read_bundle(export_bundle()))
            theirs = sorted((f.code, f.severity, held.numbers[f.part], f.message) for f in check(held, DAY))
            ours = sorted((f["code"], f["severity"], f["part"], f["message"]) for f in find(load_survey(), DAY))
            self.assertEqual(ours, theirs)
            self.assertGreater(len(ours), 3)
        (crowded,) = (f["message"] for f in find(load_survey(), DAY) if f["code"] == "stations")
        self.assertIn("operation 10 on 3 of 1 at LATHE, operation 20 on 3 of 1 at LATHE", crowded)
        (groupless,) = (f["message"] for f in find(load_survey(), DAY) if f["code"] == "group-of-none")
        self.assertIn("operation 20 at LATHE", groupless)
        WorkCenter.objects.update(group="turning")
        self.assertNotIn("group-of-none", {f["code"] for f in find(load_survey(), DAY)})

    def test_each_leads_to_its_line(self) -> None:
        found = {(f["code"], f["item"]): f for f in self.product()}
        self.assertEqual(set(found), {("lifecycle", 30), ("lifecycle", 40), ("no-cost", 10), ("designators", 40), ("no-routing", None)})
        twice = found["designators", 40]
        self.assertEqual(twice["line"], str(self.sheet.lines.get(item=40).id))
        self.assertEqual((twice["sheet"], twice["message"]), (self.sheet.id, "X1 stands at item 30 too"))

    def test_a_loop_through_an_alternate_overlapping_days_and_an_option_that_takes_too_much(self) -> None:
        """What the screens refuse to save can still come from a time before they did; it is found, and leads to its line."""
        rod, tube = Part.objects.get(number="ROD"), sheet_of("T-1")
        other = BuildSheet.objects.create(part=tube.part, alternate="B", revision="A", status="draft")
        back = Line.objects.create(sheet=other, position=1, item=70, part=self.sheet.part, quantity=1)
        twin = BuildSheet.objects.create(part=tube.part, alternate="A", revision="B", status="released", effective_from="2026-06-01")
        Line.objects.create(sheet=twin, position=1, item=10, part=rod, quantity=1, unit="m")
        less = Line.objects.create(
            sheet=self.sheet,
            position=9,
            item=90,
            part=Part.objects.get(number="NUT"),
            quantity=9,
            option=Option.objects.create(code="BARE"),
            option_action="remove",
        )
        view = self.api.get(f"/sheets/{self.sheet.id}/view", options="BARE")[1]
        self.assertIn("option", view["problem"])
        stops = {f["code"]: f for f in self.product() if f["severity"] == "stops"}
        self.assertEqual(stops["option-removes"]["line"], str(less.id))
        self.assertIn("T-1", stops["overlap"]["message"] + stops["overlap"]["part"])
        self.assertEqual(stops["loop"]["line"], str(back.id))
        self.assertIn("RT-1 → T-1 → RT-1", stops["loop"]["message"].replace("T-1 → RT-1 → T-1", "RT-1 → T-1 → RT-1"))

    def test_a_part_made_obsolete_while_on_a_released_sheet(self) -> None:
        self.assertEqual(self.api.patch("/parts/one?number=NUT", {"lifecycle": "obsolete"})[0], 200)
        stops = [(f["item"], f["message"]) for f in self.product() if f["severity"] == "stops"]
        self.assertEqual(stops, [(30, "NUT is obsolete"), (40, "NUT is obsolete")])

    def test_a_release_is_refused_for_what_stops_and_nothing_is_kept_of_it(self) -> None:
        Part.objects.filter(number="NUT").update(lifecycle="obsolete")
        _, head = self.api.post("/sheets", {"part": "RT-1"})
        before = export_bundle()
        status, said = self.api.post(
            f"/sheets/{head['id']}/release", {"version": head["version"], "first_day": "2026-12-01", "reason": "x"}
        )
        self.assertEqual(status, 422)
        self.assertIn("item 30: NUT is obsolete; exchange it for another part", said["message"])
        draft = BuildSheet.objects.get(pk=head["id"])
        self.assertEqual({p["place"] for p in said["problems"]}, {str(draft.lines.get(item=i).id) for i in (30, 40)})
        self.assertEqual((export_bundle(), draft.status), (before, "draft"))
        draft.lines.filter(part__number="NUT").delete()
        self.assertEqual(
            self.api.post(f"/sheets/{head['id']}/release", {"version": head["version"], "first_day": "2026-12-01", "reason": "x"})[0], 200
        )

    def test_a_waiver_needs_a_reason_and_holds_for_the_next_revision(self) -> None:
        twice = next(f for f in self.product() if f["code"] == "designators")
        self.assertEqual(self.api.post("/findings/waivers", {"key": twice["key"], "reason": " "})[1]["problems"][0]["place"], "reason")
        self.assertEqual(Api("viewer").post("/findings/waivers", {"key": twice["key"], "reason": "x"})[0], 403)
        for key in ("loop|RT-1", "nonsense", "designators|NONE|A", "\x00"):
            self.assertEqual(self.api.post("/findings/waivers", {"key": key, "reason": "x"})[0], 422, key)
        self.assertEqual(self.api.post("/findings/waivers", {"key": twice["key"], "reason": "one nut holds both"})[0], 200)
        _, head = self.api.post("/sheets", {"part": "RT-1"})
        found = self.api.get(f"/findings/product/{head['id']}")[1]
        held = next(f for f in found if f["code"] == "designators")
        self.assertEqual((held["waived"]["reason"], held["waived"]["by"]), ("one nut holds both", "engineer"))
        self.assertEqual(self.api.post("/findings/waivers/back", {"key": twice["key"]})[0], 200)
        self.assertEqual(self.api.post("/findings/waivers/back", {"key": twice["key"]})[0], 422)
        self.assertEqual((Waiver.objects.count(), Waiver.history.count()), (0, 2))

    def test_a_line_taken_away_while_its_sheet_is_looked_through(self) -> None:
        """Between its columns and its designators another edit may come; what is left is looked through all the same."""
        line = Line.objects.exclude(reference_designators=[]).first()
        assert line is not None

        def read_and_lose(columns: dict, *more: object) -> dict:
            found = fetch_columns(columns, *more)  # type: ignore[arg-type]
            if "places" in columns:
                Line.objects.filter(pk=line.pk).delete()
            return found

        with patch("readings.survey.fetch_columns", read_and_lose):
            load_survey(below(line.sheet.part_id))
        self.assertFalse(Line.objects.filter(pk=line.pk).exists())

    def test_what_stops_cannot_be_waived(self) -> None:
        Part.objects.filter(number="NUT").update(lifecycle="obsolete")
        stops = next(f for f in self.product() if f["severity"] == "stops")
        status, said = self.api.post("/findings/waivers", {"key": stops["key"], "reason": "never mind"})
        self.assertEqual((status, "cannot be waived" in said["message"]), (422, True))


class Everything(TestCase):
    """In the tests the worker's work is done at once."""

    def setUp(self) -> None:
        load(faulty())
        self.api = Api("viewer")

    def test_all_sheets_are_looked_through_and_the_page_shows_them(self) -> None:
        self.assertEqual(self.api.get("/findings")[1]["total"], 0)
        status, told = self.api.post("/findings/survey", {})
        self.assertEqual((status, told["job"], told["lines"], told["stops"]), (200, None, 5, 0))
        page = self.api.get("/findings")[1]
        self.assertEqual(page["total"], told["looks"])
        self.assertEqual(told["codes"]["lifecycle"], 2)
        self.assertEqual({f["code"] for f in self.api.get("/findings", code="lifecycle")[1]["items"]}, {"lifecycle"})
        self.assertEqual(self.api.get("/findings", search="t-1")[1]["total"], page["total"])
        key = page["items"][0]["key"]
        Api("engineer").post("/findings/waivers", {"key": key, "reason": "known"})
        self.assertEqual(self.api.get("/findings")[1]["total"], page["total"] - sum(f["key"] == key for f in page["items"]))
        self.assertEqual(self.api.get("/findings", waived="true")[1]["total"], page["total"])

    def test_only_the_last_looks_are_kept_and_a_broken_one_says_so(self) -> None:
        for _ in range(5):
            self.api.post("/findings/survey", {})
        self.assertEqual(Survey.objects.count(), 3)
        stuck = Job.objects.create(kind="check", title="the check of all sheets", asked_by="x")
        self.assertEqual(self.api.post("/findings/survey", {})[1]["job"]["doing"], "waiting for the worker")
        Job.objects.filter(pk=stuck.pk).update(asked_at=now() - timedelta(hours=2))
        newest = Survey.objects.latest("id").pk
        self.assertEqual(self.api.post("/findings/survey", {})[1]["job"], None)
        self.assertGreater(Survey.objects.latest("id").pk, newest)
        with patch("findings.actions.check_everything.find", side_effect=ZeroDivisionError):
            self.api.post("/findings/survey", {})
        self.assertIn("could not be finished (ZeroDivisionError)", self.api.get("/findings/survey")[1]["failed"])

    def test_every_night_once(self) -> None:
        with self.settings(TASKS={"default": settings.TASKS["default"] | {"BACKEND": "django_tasks_db.DatabaseBackend"}}):
            queue_for_tonight(nightly)
            queue_for_tonight(nightly)
            queued = DBTaskResult.objects.filter(task_path=nightly.module_path)
            self.assertEqual(queued.count(), 1)
            self.assertEqual(queued.get().run_after.hour, 2)
            queued.update(status="SUCCESSFUL")
            nightly.call()
            self.assertEqual(queued.filter(status="READY").count(), 1)
        self.assertGreater(Finding.objects.filter(survey__asked_by="nightly").count(), 3)
