"""The other side dies, stalls or refuses at every step of a handover; a worker is killed in the middle: both sides end as before or whole.

The steps are all writes of one handover of eight changes, where several things are written together and where they are written one by one.
"""

import tempfile
from typing import Any
from unittest.mock import patch

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from jobs.tests.workers import WithWorkers
from outside import by_resources
from testing import Api, load

from handover.models import Agreed, Handover
from handover.tests.beside import Beside, a_product, drop_records, emptied_server, records_of


def both_move(beside: Any, book: str) -> None:
    """Five things of ours and one of theirs: what is handed over then writes both sides."""
    for number in ("NUT", "ROD", "T-1", "RT-1"):
        beside.engineer.patch(f"/parts/one?number={number}", {"description": f"{number}, newly said"})
    sheet = BuildSheet.objects.get(part__number="T-1")
    beside.engineer.post("/parts", {"number": "PIN", "description": "pin"})
    sheet.lines.create(part=Part.objects.get(number="PIN"), quantity=2, position=9, item=20)
    BuildSheet.objects.filter(pk=sheet.pk).update(version=sheet.version + 1)
    structure = beside.there("structures", "RT-1|A", book)
    structure["rows"][2]["amount"] = "6"
    beside.server.put(book, "structures", "RT-1|A", structure)


def everything(beside: Any, book: str) -> dict[str, Any]:
    """All that stands on either side."""
    rows = beside.server.database.execute(
        "SELECT kind, key, body FROM thing WHERE book = %s AND body IS NOT NULL ORDER BY 1, 2", [book]
    ).fetchall()
    ours = list(Part.objects.order_by("number").values_list("number", "description", "lead_time_days"))
    lines = list(
        BuildSheet.objects.order_by("part__number", "revision")
        .values_list("part__number", "revision", "status", "lines__quantity", "lines__part__number")
        .order_by("part__number", "revision", "lines__position")
    )
    return {"theirs": rows, "ours": ours, "lines": lines, "agreed": Agreed.objects.count()}


class BreakingOff(Beside):
    def test_together_and_one_by_one_dead_stalled_and_refused_at_every_step(self) -> None:
        ways = {"yard": ("before", "after", "refuse", "stall"), "pier": ("before", "after", "refuse")}
        for book in ways:
            self.agreed(book)
        both_move(self, "yard")
        self.server.put("pier", "structures", "RT-1|A", self.there("structures", "RT-1|A", "yard"))
        for book, faults in ways.items():
            shown = self.begun(book)
            self.assertEqual(shown["compared"]["stops"], [])
            key = shown["head"]["id"]
            steps = 1 if book == "yard" else 6
            for step in range(1, steps + 1):
                for fault in faults:
                    with self.subTest(book=book, step=step, fault=fault), patch.object(by_resources, "_TIMEOUT", 1.0):
                        before = everything(self, book)
                        shown = self.read(key)
                        self.server.faults = {self.server.writes + step: fault}
                        ended = self.handed_over(shown)
                        self.assertEqual((ended["head"]["state"], self.server.faults), ("work", {}))
                        self.assertEqual(everything(self, book), before)
                        words = ended["head"]["log"][-1]["words"]
                        written = step > 1 or fault == "after"
                        self.assertIn("taken back" if written else "nothing was written", words)
                        self.assertIn({"refuse": "not now", "stall": "did not answer"}.get(fault, "broke off"), words)
            ended = self.handed_over(self.read(key))
            self.assertEqual((ended["head"]["state"], ended["head"]["failed"]), ("done", ""))
            self.assertEqual(self.begun(book)["compared"]["rows"], [])

    def test_down_until_somebody_finishes_it_or_takes_it_back(self) -> None:
        self.agreed("pier")
        both_move(self, "pier")
        for way, state in (("take-back", "work"), ("finish", "done")):
            with self.subTest(way=way):
                before = everything(self, "pier")
                shown = self.begun("pier")
                key = shown["head"]["id"]
                # It writes three things, dies at the fourth, and is dead when it is asked what stands.
                self.server.faults = {self.server.writes + 4: "down"}
                ended = self.handed_over(shown)
                self.assertEqual(ended["head"]["state"], "writing")
                self.assertIn("finish it or take it back", ended["head"]["failed"])
                self.assertEqual(everything(self, "pier")["ours"], before["ours"])
                self.assertNotEqual(everything(self, "pier")["theirs"], before["theirs"])
                status, refused = self.engineer.post("/handover", {"record": "pier", "top": "T-1"})
                self.assertEqual(status, 200)
                self.server.modes["pier"] = "well"
                self.known_beforehand(key, {"change", "let_go"})
                other = self.read(refused["id"])
                status, refused = self.engineer.post(f"/handover/{other['head']['id']}/hand-over", {"digest": other["compared"]["digest"]})
                self.assertEqual((status, "broke off in the middle" in refused["message"]), (422, True), refused)
                self.engineer.post(f"/handover/{other['head']['id']}/let-go", {})
                status, ended = self.engineer.post(f"/handover/{key}/{way}", {})
                self.assertEqual((status, ended["head"]["state"], ended["head"]["failed"]), (200, state, ""), ended["head"]["log"])
                if state == "work":
                    self.assertEqual(everything(self, "pier"), before)
                else:
                    self.assertEqual(self.begun("pier")["compared"]["rows"], [])

    def known_beforehand(self, key: int, refused: set[str]) -> None:
        """What a handover refuses is what its page says; what it does not refuse is not tried, since it would write over there."""
        at, told = f"/handover/{key}", self.shown(key)["head"]["why_not"]
        acts = {"change": ("POST", f"{at}/read", {}), "let_go": ("POST", f"{at}/let-go", {}), "settle": ("POST", f"{at}/finish", {})}
        tried = self.engineer.refusals({action: act for action, act in acts.items() if action in refused})
        self.assertEqual({action: words for action, words in told.items() if words}, tried)
        self.assertEqual(set(tried), refused)

    def test_what_a_handover_refuses_is_known_beforehand(self) -> None:
        shown = self.begun("pier")
        self.known_beforehand(shown["head"]["id"], {"settle"})
        self.handed_over(shown)
        self.known_beforehand(shown["head"]["id"], {"change", "let_go", "settle"})

    def test_what_somebody_changed_over_there_since_is_not_written_over(self) -> None:
        self.agreed("pier")
        both_move(self, "pier")
        shown = self.begun("pier")
        self.server.faults = {self.server.writes + 4: "down"}
        key = self.handed_over(shown)["head"]["id"]
        self.server.modes["pier"] = "well"
        self.server.put("pier", "items", "ROD", {"text": "settled otherwise", "measure": "metre"})
        # It cannot be finished any more, so what is ours over there is taken back; what is theirs stays.
        ended = self.engineer.post(f"/handover/{key}/finish", {})[1]
        self.assertEqual(ended["head"]["state"], "work")
        self.assertIn("It was taken back", ended["head"]["failed"])
        self.assertIn("ROD was changed over there meanwhile, and stays so", ended["head"]["log"][-1]["words"])
        self.assertEqual(self.there("items", "NUT", "pier")["text"], "nut for it")
        self.assertEqual(self.there("items", "ROD", "pier")["text"], "settled otherwise")


class Killed(WithWorkers):
    def setUp(self) -> None:
        load(a_product())
        self.engineer = Api("engineer")
        self.server = emptied_server()
        answering = records_of(self.server, tempfile.mkdtemp())
        answering.__enter__()
        self.addCleanup(answering.__exit__, None, None, None)

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        drop_records()

    def there(self, kind: str, key: str, book: str) -> dict[str, Any]:
        return self.server.things(book, [(kind, key)])[0]["body"]

    def run_worker(self) -> None:
        self.assertEqual(self.worker("--batch").wait(60), 0)

    def test_a_worker_that_dies_when_theirs_is_written_and_ours_is_not(self) -> None:
        status, head = self.engineer.post("/handover", {"record": "yard", "top": "RT-1"})
        self.assertEqual(status, 200, head)
        with services_in_environment():
            self.run_worker()
            key = head["id"]
            shown = self.engineer.get(f"/handover/{key}")[1]
            before = everything(self, "yard")
            self.engineer.post(f"/handover/{key}/hand-over", {"digest": shown["compared"]["digest"]})
            self.kill_where("LOCK TABLE handover_agreed IN SHARE MODE")
            self.assertEqual(len(everything(self, "yard")["theirs"]), 7)
            self.assertEqual(Agreed.objects.count(), 0)
            head = self.engineer.get(f"/handover/{key}")[1]["head"]
            self.assertEqual((head["state"], "ended in the middle" in head["failed"]), ("writing", True), head)
            self.engineer.post(f"/handover/{key}/take-back", {})
            self.run_worker()
            self.assertEqual((Handover.objects.get(pk=key).state, everything(self, "yard")), ("work", before))
            # Once more, and finished this time.
            shown = self.engineer.get(f"/handover/{key}")[1]
            self.engineer.post(f"/handover/{key}/hand-over", {"digest": shown["compared"]["digest"]})
            self.kill_where("LOCK TABLE handover_agreed IN SHARE MODE")
            self.engineer.post(f"/handover/{key}/finish", {})
            self.run_worker()
            self.assertEqual((Handover.objects.get(pk=key).state, Agreed.objects.count()), ("done", 4))


def services_in_environment() -> Any:
    """Have processes of their own read the same file of services."""
    from django.conf import settings

    return patch.dict("os.environ", {"TALLY_SERVICES": settings.SERVICES})
