"""The life of a sheet: opened, released, dated, retired; its history; and two of them compared."""

from datetime import date

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.db import transaction
from django.test import TestCase
from loading.reads import load_question, part_named
from readings.export_bundle import export_bundle
from tally_core.cost.answers import Basis, cost_answer
from testing import Api, load, rod_and_tube


def unit_cost(number: str, day: str, options: tuple[str, ...] = ()) -> float:
    _, question = load_question(part_named(number), Basis(date.fromisoformat(day), None, options))
    return float(cost_answer(question)["unit_cost"])


class Revisions(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube("released"))
        self.api = Api("engineer")

    def sheet(self, revision: str, alternate: str = "A") -> BuildSheet:
        return BuildSheet.objects.get(part__number="RT-1", revision=revision, alternate=alternate)

    def post(self, revision: str, verb: str, alternate: str = "A", **body):
        sheet = self.sheet(revision, alternate)
        return self.api.post(f"/sheets/{sheet.id}/{verb}", {"version": sheet.version} | body)

    def revise(self, quantity: str) -> None:
        status, head = self.api.post("/sheets", {"part": "RT-1", "reason": "a longer rod"})
        self.assertEqual(status, 200)
        line = BuildSheet.objects.get(pk=head["id"]).lines.get(item=10)
        change = {"table": "line", "id": str(line.id), "before": {"quantity": "2"}, "after": {"quantity": quantity}}
        self.assertEqual(self.api.post(f"/sheets/{head['id']}/edits", {"version": 1, "changes": [change]})[0], 200)

    def test_revisions_take_turns_by_day_and_a_released_one_is_untouched(self) -> None:
        before = export_bundle()["build_sheets"]
        old = unit_cost("RT-1", "2026-06-01")
        self.revise("3")
        self.assertEqual(self.post("B", "release", first_day="2026-07-01", reason="longer")[0], 200)
        self.assertEqual(unit_cost("RT-1", "2026-06-30"), old)
        # One metre more of rod at 3.00, with 5 % scrap.
        self.assertAlmostEqual(unit_cost("RT-1", "2026-07-01"), old + 3.15, places=6)
        after = [s for s in export_bundle()["build_sheets"] if s["revision"] == "A"]
        self.assertEqual([{**s, "effective_to": None} for s in after], before)

    def test_what_a_sheet_refuses_is_known_beforehand(self) -> None:
        """In every state the head says of each action what the action itself says, and refuses nothing that is done."""
        asked = {
            "edits": ("edit", {"changes": []}),
            "release": ("release", {"first_day": "2026-07-01", "reason": "x"}),
            "days": ("days", {"first_day": None, "last_day": "2030-01-01", "reason": "x"}),
            "drop": ("drop", {}),
            "retire": ("retire", {"reason": "x"}),
        }
        self.revise("3")
        refused = 0
        for state in ("draft", "released", "retired"):
            if state == "retired":
                self.assertEqual(self.post("A", "retire", reason="x")[0], 200)
            revision = "B" if state == "draft" else "A"
            heads = self.api.get("/sheets", part="RT-1")[1]
            told = next(h for h in heads if h["revision"] == revision)["why_not"]
            self.assertEqual({action for action, _ in asked.values()}, set(told))
            for address, (action, body) in asked.items():
                with transaction.atomic():
                    status, said = self.post(revision, address, **body)
                    transaction.set_rollback(True)
                if told[action] is None:
                    self.assertLess(status, 300, (state, action, said))
                else:
                    self.assertEqual((status, said["message"]), (422, told[action]), (state, action))
                    refused += 1
        self.assertEqual(refused, 2 + 3 + 5)

    def test_drafts_are_released_together_or_not_at_all(self) -> None:
        """A product whose parts are drafts too: alone it is stopped, together with them it is not."""
        load(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "currency": "EUR",
                "parts": [{"number": n, "kind": "made", "unit": "ea"} for n in ("BOX", "LID", "TUB")],
                "build_sheets": [
                    {"part": "BOX", "status": "draft", "lines": [{"part": "LID", "quantity": "1"}, {"part": "TUB", "quantity": "1"}]},
                    {"part": "LID", "status": "draft", "lines": [{"part": "ROD", "quantity": "1", "unit": "m"}]},
                    {"part": "TUB", "status": "draft"},
                ],
            }
        )
        drafts = {s.part.number: s for s in BuildSheet.objects.filter(status="draft").select_related("part")}

        def release(*numbers: str, api: Api | None = None, **more):
            sheets = {str(drafts[n].pk): drafts[n].version for n in numbers}
            body = {"sheets": sheets, "first_day": "2026-07-01", "reason": "first of its kind"} | more
            return (api or self.api).post("/sheets/release", body)

        status, said = release("BOX", "LID", "TUB")
        # The empty one, and what takes it.
        places = {p["place"] for p in said["problems"]}
        self.assertEqual((status, places), (422, {f"sheet {drafts[n].pk}" for n in ("TUB", "BOX")}))
        self.assertEqual(BuildSheet.objects.filter(status="draft").count(), 3)
        drafts["TUB"].lines.create(part=Part.objects.get(number="NUT"), position=1, quantity=2)
        self.assertEqual(release("BOX", "LID", "TUB", api=Api("viewer"))[0], 403)
        self.assertEqual(release(reason="x")[1]["problems"][0]["place"], "sheets")
        self.assertEqual(release("LID", reason=" ")[1]["problems"][0]["place"], "reason")
        status, said = release("BOX", "LID", "TUB")
        self.assertEqual((status, {s["status"] for s in said}, len(said)), (200, {"released"}, 3), said)
        self.assertEqual(unit_cost("BOX", "2026-07-01"), 3.2)
        # Looked at in an older state: none of them.
        self.assertIn("is released, not a draft", release("LID")[1]["message"])

    def test_one_day_has_one_revision(self) -> None:
        self.revise("3")
        self.post("B", "release", first_day="2026-07-01", reason="longer")
        for first, last, place in (("2026-06-01", None, "first_day"), (None, None, "first_day"), ("2026-08-01", "2026-08-01", "last_day")):
            status, said = self.post("B", "days", first_day=first, last_day=last, reason="x")
            self.assertEqual((status, said["problems"][0]["place"]), (422, place), first)
        self.assertEqual(self.post("B", "days", first_day="2026-09-01", last_day="2026-10-01", reason=" ")[0], 422)
        self.assertEqual(self.post("B", "days", first_day="2026-09-01", last_day="2026-10-01", reason="later")[0], 200)
        # A revision released into a gap ends where the next begins, and cannot be put over one.
        self.revise("4")
        status, said = self.post("C", "release", first_day="2026-08-01", reason="gap")
        self.assertEqual(status, 422)
        self.assertIn("revision B is in force from 2026-09-01 up to 2026-10-01", said["message"])
        self.assertEqual(self.post("C", "release", first_day="2026-09-15", reason="half way")[0], 200)
        days = list(
            BuildSheet.objects.filter(status="released", part__number="RT-1")
            .order_by("revision")
            .values_list("revision", "effective_from", "effective_to")
        )
        self.assertEqual(days[1:], [("B", date(2026, 9, 1), date(2026, 9, 15)), ("C", date(2026, 9, 15), date(2026, 10, 1))])

    def test_a_retired_revision_counts_on_no_day(self) -> None:
        self.assertEqual(self.post("A", "retire", reason="")[1]["problems"][0]["place"], "reason")
        self.assertEqual(self.post("A", "retire", reason="wrong drawing")[0], 200)
        with self.assertRaisesRegex(Exception, "no released build sheet in force"):
            unit_cost("RT-1", "2026-06-01")
        for verb, body in (
            ("retire", {"reason": "x"}),
            ("days", {"first_day": None, "last_day": None, "reason": "x"}),
            ("release", {"first_day": "2026-01-01", "reason": "x"}),
            ("drop", {}),
        ):
            status, said = self.post("A", verb, **body)
            self.assertEqual((status, "is retired, not" in said["message"]), (422, True), verb)

    def test_a_dropped_draft_is_gone_and_its_record_stays(self) -> None:
        self.revise("3")
        sheet = self.sheet("B")
        self.assertEqual(Api("viewer").post(f"/sheets/{sheet.id}/drop", {"version": sheet.version})[0], 403)
        self.assertEqual(self.api.post(f"/sheets/{sheet.id}/drop", {"version": 1})[0], 422)
        self.assertEqual(self.post("B", "drop")[0], 200)
        self.assertFalse(BuildSheet.objects.filter(pk=sheet.pk).exists())
        self.assertEqual(BuildSheet.history.filter(id=sheet.pk, history_type="-").count(), 1)

    def test_an_alternate_counts_once_it_is_the_default(self) -> None:
        old = unit_cost("RT-1", "2026-06-01")
        status, head = self.api.post(
            "/sheets", {"part": "RT-1", "alternate": "B", "reference": "bought rod", "copy_of": self.sheet("A").id}
        )
        self.assertEqual((status, head["alternate"], head["revision"], head["reference"]), (200, "B", "A", "bought rod"))
        rod = self.sheet("A", "B").lines.get(item=10)
        change = {"table": "line", "id": str(rod.id), "before": {"quantity": "2"}, "after": {"quantity": "1"}}
        self.api.post(f"/sheets/{head['id']}/edits", {"version": 1, "changes": [change]})
        self.assertEqual(self.post("A", "release", "B", first_day="2026-01-01", reason="second way")[0], 200)
        self.assertEqual(unit_cost("RT-1", "2026-06-01"), old)
        self.assertEqual(self.api.patch("/parts/one?number=RT-1", {"default_alternate": "B"})[0], 200)
        self.assertAlmostEqual(unit_cost("RT-1", "2026-06-01"), old - 3.15, places=6)
        # The core says the same of the exported bundle.
        from tally_core.cost.answers import ask
        from tally_core.stated.bundle import read_bundle

        answer = cost_answer(ask(read_bundle(export_bundle()), "RT-1", Basis(date(2026, 6, 1))))
        self.assertAlmostEqual(float(answer["unit_cost"]), old - 3.15, places=6)

    def test_the_history_says_who_changed_what_and_why(self) -> None:
        self.revise("3")
        self.post("B", "release", first_day="2026-07-01", reason="longer by a metre")
        _, entries = self.api.get(f"/sheets/{self.sheet('B').id}/history")
        self.assertTrue(all(e["by"] == "engineer" for e in entries))
        told = [(c["what"], c["field"], c["before"], c["after"]) for e in entries for c in e["changes"]]
        self.assertIn(("item 10 ROD", "quantity", "2", "3"), told)
        self.assertIn(("this sheet", "status", "draft", "released"), told)
        self.assertIn("longer by a metre", [e["reason"] for e in entries])

    def test_a_comparison_adds_up_to_the_difference_in_cost(self) -> None:
        self.revise("3")
        a, b = self.sheet("A").id, self.sheet("B").id
        status, said = self.api.get("/sheets/compare", part="RT-1", left=a, right=b, drafts="true", quantity="25")
        self.assertEqual(status, 200)
        changed = [(r["state"], r["left"]["name"], r["fields"]) for r in said["rows"] if r["state"] == "changed" and r["table"] == "line"]
        self.assertEqual(changed, [("changed", "ROD", [{"name": "quantity", "left": "2", "right": "3"}])])
        self.assertAlmostEqual(sum(r["effect"] for r in said["rows"]), said["right_cost"] - said["left_cost"], places=9)
        # Two days of the sheets in force: nothing differs before the new one is released, and all of it after.
        same = self.api.get("/sheets/compare", part="RT-1", left_day="2026-06-01", right_day="2026-08-01")[1]
        self.assertEqual({r["state"] for r in same["rows"]}, {"same"})
        self.post("B", "release", first_day="2026-07-01", reason="longer")
        now = self.api.get("/sheets/compare", part="RT-1", left_day="2026-06-01", right_day="2026-08-01")[1]
        self.assertEqual((now["left"]["revision"], now["right"]["revision"]), ("A", "B"))
        self.assertEqual(self.api.get("/sheets/compare", part="RT-1", left=a, right=BuildSheet.objects.get(part__number="T-1").id)[0], 422)


class Options(TestCase):
    def setUp(self) -> None:
        document = rod_and_tube("released")
        document["build_sheets"][0]["lines"] += [
            {"item": 40, "part": "NUT", "quantity": "1", "option": code} for code in ("GPS", "SUN", "LOG")
        ]
        load(document)
        self.api = Api("engineer")

    def test_what_excludes_one_another_does_so_both_ways_and_everywhere(self) -> None:
        body = {"code": "GPS", "name": "Receiver", "not_with": ["SUN"]}
        self.assertEqual(self.api.post("/sheets/options", body)[0], 200)
        held = {o["code"]: o["not_with"] for o in self.api.get("/sheets/options")[1]}
        self.assertEqual(held, {"GPS": ["SUN"], "LOG": [], "SUN": ["GPS"]})
        for options in (("GPS", "LOG"), ("SUN", "LOG")):
            unit_cost("RT-1", "2026-06-01", options)
        with self.assertRaisesRegex(Exception, "options SUN and GPS cannot be chosen together"):
            unit_cost("RT-1", "2026-06-01", ("SUN", "GPS"))
        once = export_bundle()
        load(once)
        self.assertEqual(export_bundle(), once)
        self.api.post("/sheets/options", {"code": "SUN", "name": "", "not_with": []})
        self.assertEqual({o["code"]: o["not_with"] for o in self.api.get("/sheets/options")[1]}["GPS"], [])

    def test_refusals(self) -> None:
        for body in (
            {"code": "GPS", "name": "", "not_with": ["GPS"]},
            {"code": "GPS", "name": "", "not_with": ["NONE"]},
            {"code": "G S", "name": "", "not_with": []},
            {"code": "", "name": "", "not_with": []},
        ):
            self.assertEqual(self.api.post("/sheets/options", body)[0], 422, body)
        self.assertEqual(Api("viewer").post("/sheets/options", {"code": "X", "name": "", "not_with": []})[0], 403)
