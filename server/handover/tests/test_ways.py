"""Other ways to hand over: a folder of CSV files, words that are edited, a side that owns a field; what nights find, and what hostile records say."""

import csv
import json
from pathlib import Path
from typing import Any
from unittest.mock import patch

from definition.models.parts import Part
from django.conf import settings
from django.utils.timezone import now
from formats.apart import read_tables
from outside.records import Read, Thing
from testing import Api

from handover.actions.compare_every_night import nightly
from handover.kept import agreed_from
from handover.looking import agreed_of
from handover.models import Agreed, Drift, Handover
from handover.tests.beside import Beside
from handover.wording import crossing, their_side, words_of


def folder() -> Path:
    return Path(json.loads(Path(settings.SERVICES).read_text())["records"]["files"]["folder"])


def rows(name: str) -> list[dict[str, str]]:
    with open(folder() / name, newline="", encoding="utf-8") as file:
        return list(csv.DictReader(file))


def written(name: str, content: list[dict[str, str]]) -> None:
    with open(folder() / name, "w", newline="", encoding="utf-8") as file:
        out = csv.DictWriter(file, list(dict.fromkeys(n for row in content for n in row)))
        out.writeheader()
        out.writerows(content)


class Ways(Beside):
    def test_a_folder_of_files_round_trips(self) -> None:
        self.engineer.patch("/parts/one?number=NUT", {"description": '=1+1, "nut"\nsecond line'})
        self.agreed("files")
        self.assertEqual(self.begun("files")["compared"]["rows"], [])
        # What stands in a file is what was stated, to the letter.
        self.assertEqual(next(r["text"] for r in rows("items.csv") if r["code"] == "NUT"), '=1+1, "nut"\nsecond line')
        lines = rows("structures.csv")
        self.assertEqual([(r["code"], r["item"], r["quantity"], r["unit"], r["step"]) for r in lines],
                         [("RT-1", "ROD", "2", "m", "10"), ("RT-1", "T-1", "1", "ea", "20"), ("RT-1", "NUT", "4", "ea", "20"),
                          ("T-1", "ROD", "500", "mm", "")])  # fmt: skip
        # They add a column of their own, move an amount, write a line more; the column stays.
        lines[2] |= {"quantity": "6"}
        for line in lines:
            line["bin"] = "B-7"
        lines.insert(
            3, {"code": "RT-1", "variant": "A", "lot": "1", "position": "40", "item": "ROD", "quantity": "0.25", "unit": "m", "bin": "C-1"}
        )
        written("structures.csv", lines)
        self.engineer.patch("/parts/one?number=ROD", {"description": "rod, drawn"})
        self.engineer.patch("/parts/one?number=T-1", {"description": "tube"})
        shown = self.begun("files")
        self.assertEqual(
            sorted((r["words"], r["verdict"]) for r in shown["compared"]["rows"]),
            [("line 30, NUT", "they moved"), ("line 40, ROD", "only there"), ("part", "we moved"), ("part", "we moved")],
        )
        row = next(r["key"] for r in shown["compared"]["rows"] if r["words"] == "line 40, ROD")
        shown = self.decided(shown, {row: "ours"})
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        self.assertEqual([(r["item"], r["quantity"], r["bin"]) for r in rows("structures.csv")],
                         [("ROD", "2", "B-7"), ("T-1", "1", "B-7"), ("NUT", "6", "B-7"), ("ROD", "500", "B-7")])  # fmt: skip
        self.assertEqual(self.begun("files")["compared"]["rows"], [])
        # Somebody writes while it is handed over; a file that cannot be read is told.
        self.engineer.patch("/parts/one?number=NUT", {"description": "nut"})
        shown = self.read(Handover.objects.latest("id").pk)
        items = rows("items.csv")
        items[0]["text"] = "moved"
        written("items.csv", items)
        self.assertIn("moved over there meanwhile", self.handed_over(shown)["head"]["failed"])
        (folder() / "items.csv").write_bytes(b"code,text\nA,\xff\xfe\n")
        self.assertIn("is no CSV file in UTF-8", self.read(shown["head"]["id"])["head"]["failed"])
        (folder() / "items.csv").write_bytes(b"text\nA\n")
        self.assertIn("has a row without a code", self.read(shown["head"]["id"])["head"]["failed"])

    def test_words_are_edited_and_a_field_may_belong_to_a_side(self) -> None:
        self.agreed()
        found = self.engineer.get("/handover/words", record="yard")[1]
        days = next(f for f in found["fields"] if f["ours"] == "lead_time_days")
        self.assertEqual((found["version"], days["theirs"], days["owner"]), (0, "days", "theirs"))
        # Theirs by rule: what we moved is not proposed to them.
        self.assertEqual(self.engineer.patch("/parts/one?number=ROD", {"lead_time_days": "9"})[0], 200)
        row = self.begun()["compared"]["rows"][0]
        self.assertEqual((row["verdict"], row["fields"][0]["proposal"]), ("we moved", "theirs"))

        status, refused = self.engineer.send("PUT", "/handover/words?record=yard", {
            "fields": [{"table": "parts", "ours": "number", "theirs": "code"}, {"table": "parts", "ours": "unit", "theirs": "x", "owner": "mine"},
                       {"table": "parts", "ours": "kind", "theirs": "x"}],
            "values": {"unit": {"ea": "p", "m": "p"}}, "version": 0})  # fmt: skip
        self.assertEqual((status, sorted(p["place"] for p in refused["problems"])),
                         (422, ["lines.part", "operations.sequence", "parts.kind", "parts.number", "parts.unit", "values.unit"]))  # fmt: skip
        # One field crosses no longer, another does from now on: of that one nothing was agreed.
        fields = [f for f in found["fields"] if f["ours"] != "lead_time_days"]
        more = next(f for f in found["more"] if (f["table"], f["ours"]) == ("parts", "size_mm"))
        plain = [{n: f[n] for n in ("table", "ours", "theirs", "owner")} for f in [*fields, more | {"theirs": "size"}]]
        body = {"fields": plain, "values": found["values"], "version": 0}
        status, kept = self.engineer.send("PUT", "/handover/words?record=yard", body)
        self.assertEqual((status, kept["version"]), (200, 1), kept)
        self.assertEqual(self.engineer.send("PUT", "/handover/words?record=yard", body)[0], 422)
        self.engineer.patch("/parts/one?number=ROD", {"size_mm": "20 x 3000"})
        shown = self.shown(Handover.objects.latest("id").pk)
        self.assertEqual(
            [(r["key"], r["verdict"], [f["name"] for f in r["fields"]]) for r in shown["compared"]["rows"]],
            [("P|ROD", "differs", ["size_mm"])],
        )
        shown = self.decided(shown, {"P|ROD": "ours"})
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        self.assertEqual(self.there("items", "ROD")["size"], "20 x 3000")

    def test_every_night_what_drifted_is_told(self) -> None:
        with patch("handover.actions.compare_every_night.queue_for_tonight"):
            self.agreed()
            nightly.call()
            heap = self.heap()
            self.assertEqual((heap["rows"], heap["empty"]), ([], "What was handed over is in step, as of last night."))
            self.server.put("yard", "items", "ROD", self.there("items", "ROD") | {"text": "rod, drawn"})
            self.engineer.patch("/parts/one?number=NUT", {"description": "nut"})
            nightly.call()
            (row,) = self.heap()["rows"]
            self.assertEqual(
                (row["name"], sorted(row["more"].split(", ")), row["to"]),
                ("RT-1", ["1 they moved", "1 we moved"], "/handover?top=RT-1&record=yard"),
            )
            self.server.modes["yard"] = "refusing"
            nightly.call()
            self.assertIn("does not take our account", self.heap()["rows"][0]["more"])
            self.assertEqual(Drift.objects.count(), 1)

    def heap(self) -> dict[str, Any]:
        heaps = self.engineer.get("/today")[1]["heaps"]
        return next(h for h in heaps if h["title"] == "Out of step with the records")

    def test_the_agreed_state_of_any_day(self) -> None:
        self.agreed()
        between = now()
        self.engineer.patch("/parts/one?number=NUT", {"description": "hexagon nut"})
        self.agreed()
        words = words_of("yard")

        def said(until: Any) -> str:
            of, _ = agreed_of("yard", ["NUT"], words, until)
            assert of is not None
            return of.definition.parts[0].description

        self.assertEqual((said(between), said(None)), ("nut for it", "hexagon nut"))
        # A golden state of format 1 opens for ever.
        golden = {
            "format": 1, "fields": {"parts": ["description"], "sheets": ["batch"], "lines": ["item", "part", "quantity"], "operations": ["sequence"]},
            "part": {"number": "X", "description": "d", "_open": ["description"]},
            "sheets": [{"part": "X", "alternate": "A", "batch": "2", "operations": [{"sequence": 10}],
                        "lines": [{"item": 10, "part": "Y", "quantity": "2.5", "_lineage": "l-1", "_known_as": "r7"}]}],
        }  # fmt: skip
        of, known = agreed_from([golden], crossing(words))
        sheet = of.definition.sheets[0]
        self.assertEqual((str(sheet.batch), str(sheet.lines[0].quantity), known), ("2", "2.5", {"r7": "l-1"}))
        self.assertIn("description", of.open[id(of.definition.parts[0])])
        # What did not cross then is not agreed now.
        self.assertIn("unit", of.open[id(sheet.lines[0])])

    def test_records_that_say_nonsense_are_named_and_nothing_of_it_is_believed(self) -> None:
        self.agreed()
        structure = self.there("structures", "RT-1|A")
        structure["rows"][0] |= {"amount": "many", "measure": "cubit", "position": {"a": 1}, "places": [1, None]}
        structure["rows"].append("no row")
        self.server.put("yard", "structures", "RT-1|A", {"rows": [r for r in structure["rows"] if isinstance(r, dict)], "lot": [7]})
        shown = self.begun()
        words = " ".join(s["words"] for s in shown["compared"]["stops"])
        for said in ('their measure "cubit" is no unit', "quantity: ", "item: ", "batch: "):
            self.assertIn(said, words)
        read = Read([Thing("structures", "X|A", "1", {"rows": ["no row", 7]}), Thing("plans", "X|A", "1", {"steps": "none"})], "")
        side = their_side(read, words_of("yard"), {}, set())
        self.assertEqual(side.of.definition.sheets[0].lines, [])

    def test_a_part_that_is_new_over_there_is_made_here(self) -> None:
        self.agreed()
        self.server.put("yard", "items", "CLIP-7", {"text": "clip", "supply": "purchased", "measure": "piece"})
        structure = self.there("structures", "T-1|A")
        structure["rows"].append({"position": 20, "item": "CLIP-7", "amount": "2", "measure": "piece"})
        self.server.put("yard", "structures", "T-1|A", structure)
        shown = self.begun()
        self.assertEqual([(r["kind"], r["part"], r["choices"]) for r in shown["compared"]["rows"]],
                         [("lines", "T-1", ["ours", "theirs", "leave"]), ("parts", "CLIP-7", ["theirs", "leave"])])  # fmt: skip
        torn = self.decided(shown, {"P|CLIP-7": "leave"})["compared"]["stops"]
        self.assertIn("CLIP-7 is no part of ours and is left out", torn[0]["words"])
        shown = self.decided(self.shown(shown["head"]["id"]), {"P|CLIP-7": "theirs"})
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        self.assertEqual(Part.objects.get(number="CLIP-7").description, "clip")

    def test_whoever_may_not_is_refused_and_papers_say_all(self) -> None:
        self.agreed()
        self.engineer.patch("/parts/one?number=NUT", {"description": "=HYPERLINK(1)"})
        shown = self.begun()
        key = shown["head"]["id"]
        viewer = Api("viewer")
        self.assertEqual(viewer.get(f"/handover/{key}")[0], 200)
        self.assertEqual(viewer.post(f"/handover/{key}/decisions", {"decisions": []})[0], 403)
        self.assertEqual(viewer.post(f"/handover/{key}/hand-over", {"digest": shown["compared"]["digest"]})[0], 403)
        said = json.dumps(self.engineer.get("/handover")[1]) + json.dumps(shown)
        self.assertNotIn("ledger-key", said)
        self.assertNotIn("127.0.0.1", said)
        book = self.engineer.get(f"/handover/{key}/changes.xlsx")[1]
        cells = [str(c) for table in read_tables("c.xlsx", book) for row in table.rows for c in row]
        self.assertIn("=HYPERLINK(1)", cells)
        self.assertEqual(self.engineer.get(f"/handover/{key}/changes.pdf")[1][:5], b"%PDF-")
        self.assertEqual(self.engineer.get(f"/handover/{key}/changes.exe")[0], 422)
        # Two looks at once: a decision on what is another by now is refused.
        row = shown["compared"]["rows"][0]
        self.engineer.patch("/parts/one?number=NUT", {"description": "nut, again"})
        stale = {"decisions": [{"row": row["key"], "field": "description", "choice": "ours", "of": row["fields"][0]["of"]}]}
        status, refused = self.engineer.post(f"/handover/{key}/decisions", stale)
        self.assertEqual((status, "moved since it was shown" in refused["message"]), (422, True))
        self.assertEqual(Agreed.objects.values("handover").distinct().count(), 1)
        self.assertEqual(self.engineer.post(f"/handover/{key}/let-go", {})[0], 200)
        self.assertEqual(self.engineer.post(f"/handover/{key}/read", {})[0], 422)
        for body in ({"record": "nowhere", "top": "RT-1"}, {"record": "yard", "top": "NONE"}):
            self.assertEqual(self.engineer.post("/handover", body)[0], 404)
        self.assertEqual(self.engineer.post("/handover", {"record": "yard", "top": "ROD"})[0], 422)
