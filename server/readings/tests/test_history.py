"""The history of a sheet, told in words, is the whole story: replayed, it gives what stands there now."""

import random
import uuid

from definition.models.sheets import BuildSheet, Line
from django.test import TestCase
from testing import Api, load, rod_and_tube, sheet_of


class History(TestCase):
    """Random edits by two people; the entries are read back and laid on one another, the oldest first."""

    def setUp(self) -> None:
        load(rod_and_tube())
        self.people = [Api("engineer")]
        self.sheet = sheet_of("RT-1")

    def send(self, *changes: dict, reason: str = "") -> int:
        body = {"version": sheet_of("RT-1").version, "changes": list(changes), "reason": reason}
        return self.people[0].post(f"/sheets/{self.sheet.id}/edits", body)[0]

    def change(self, key: object, before: dict | None, after: dict | None) -> dict:
        return {"table": "line", "id": str(key), "before": before, "after": after}

    def test_replayed_it_gives_the_quantities_that_stand_there(self) -> None:
        r = random.Random(4)
        for step in range(40):
            lines = list(self.sheet.lines.select_related("part").order_by("position"))
            line = r.choice(lines)
            kind = r.choice(["quantity", "quantity", "quantity", "add", "remove"])
            if kind == "quantity":
                old, new = f"{line.quantity.normalize():f}", str(r.randint(1, 60))
                changes = [self.change(line.id, {"quantity": old}, {"quantity": new})]
            elif kind == "add":
                # Item numbers name the lines in the story, so each is given once.
                after = {"part": "NUT", "quantity": str(step + 1), "item": 100 + step, "position": 50 + step}
                changes = [self.change(uuid.uuid4(), None, after)]
            elif len(lines) > 2:
                changes = [self.change(line.id, {"quantity": f"{line.quantity.normalize():f}"}, None)]
            else:
                continue
            self.assertEqual(self.send(*changes, reason=f"step {step}"), 200)

        status, entries = self.people[0].get(f"/sheets/{self.sheet.id}/history")
        self.assertEqual(status, 200)
        told: dict[str, str | None] = {}
        for entry in entries[::-1]:
            for c in entry["changes"]:
                if not c["what"].startswith("item "):
                    continue
                if c["after"] == "added":
                    told[c["what"]] = None
                elif c["after"] == "taken away":
                    del told[c["what"]]
                elif c["field"] == "quantity":
                    # What it was before is what the story had come to.
                    self.assertIn(told[c["what"]], (None, c["before"]))
                    told[c["what"]] = c["after"]
        now = {f"item {x.item} {x.part.number}": f"{x.quantity.normalize():f}" for x in self.sheet.lines.select_related("part")}
        self.assertEqual(told.keys(), now.keys())
        for what, quantity in told.items():
            if quantity is not None:
                self.assertEqual(quantity, now[what])
        self.assertEqual(sum(entry["reason"].startswith("step") for entry in entries), len(entries) - 1)

    def test_names_of_parts_and_operations_stand_for_their_keys(self) -> None:
        line = self.sheet.lines.get(item=30)
        first = str(self.sheet.operations.get(sequence=10).id)
        self.send(self.change(line.id, {"part": "NUT", "operation": str(line.operation_id)}, {"part": "ROD", "operation": first}))
        entry = self.people[0].get(f"/sheets/{self.sheet.id}/history")[1][0]
        found = {(c["field"], c["before"], c["after"]) for c in entry["changes"]}
        self.assertEqual(found, {("part", "NUT", "ROD"), ("operation", "20", "10")})

    def test_a_move_is_told_as_one_and_a_long_save_says_how_much_is_left_out(self) -> None:
        line = self.sheet.lines.get(item=10)
        self.send(self.change(line.id, {"position": line.position}, {"position": 99}))
        entry = self.people[0].get(f"/sheets/{self.sheet.id}/history")[1][0]
        self.assertEqual([(c["what"], c["after"]) for c in entry["changes"]], [("item 10 ROD", "moved")])
        many = [self.change(uuid.uuid4(), None, {"part": "NUT", "quantity": "1", "item": 200 + i, "position": 200 + i}) for i in range(60)]
        self.send(*many, reason="sixty nuts")
        entry = self.people[0].get(f"/sheets/{self.sheet.id}/history")[1][0]
        self.assertEqual((entry["reason"], len(entry["changes"]), entry["more"] >= 20), ("sixty nuts", 40, True))

    def test_the_story_takes_as_many_queries_however_long_it_is(self) -> None:
        def queries() -> int:
            from django.db import connection
            from django.test.utils import CaptureQueriesContext

            with CaptureQueriesContext(connection) as caught:
                self.people[0].get(f"/sheets/{self.sheet.id}/history")
            return len(caught)

        few = queries()
        for i in range(12):
            self.send(self.change(uuid.uuid4(), None, {"part": "NUT", "quantity": "1", "item": 300 + i, "position": 300 + i}))
        self.assertEqual(Line.objects.filter(sheet=self.sheet).count(), 15)
        self.assertEqual(queries(), few)
        self.assertEqual(BuildSheet.history.filter(id=self.sheet.id).count(), 13)
