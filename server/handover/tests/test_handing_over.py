"""Handing over: compared, decided, written on both sides or on none, and agreed from then on."""

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.utils.timezone import localdate
from testing import load

from handover.models import Agreed, Handover
from handover.tests.beside import Beside, a_product


class HandingOver(Beside):
    def test_all_of_it_to_an_empty_record(self) -> None:
        shown = self.begun()
        rows = shown["compared"]["rows"]
        self.assertEqual({r["verdict"] for r in rows}, {"only here"})
        self.assertEqual(shown["compared"]["stops"], [])
        done = self.handed_over(shown)
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""))
        self.assertEqual(self.there("items", "ROD"), {"text": "rod for it", "supply": "purchased", "measure": "metre", "days": 0})  # fmt: skip
        structure = self.there("structures", "RT-1|A")
        self.assertEqual([(r["item"], r["amount"], r["measure"], r["step"]) for r in structure["rows"]],
                         [("ROD", "2", "metre", 10), ("T-1", "1", "piece", 20), ("NUT", "4", "piece", 20)])  # fmt: skip
        self.assertEqual([s["title"] for s in self.there("plans", "RT-1|A")["steps"]], ["Turn", "Fit"])
        again = self.begun()
        self.assertNotEqual(again["head"]["id"], shown["head"]["id"])
        self.assertEqual(again["compared"]["rows"], [])
        self.assertEqual(again["compared"]["agreeing"], {"parts": 4, "sheets": 2, "operations": 2, "lines": 4})
        self.assertEqual(Agreed.objects.count(), 4)

    def test_chosen_sheets_alone(self) -> None:
        """The sheet of RT-1 without that of its tube, then both; what was agreed of the other one stays as it was."""
        for record in ("yard", "files"):
            with self.subTest(record):
                shown = self.begun(record, beside=[])
                self.assertEqual((shown["head"]["sheets"], shown["compared"]["sheet"]["sheets"]), (["RT-1"], ["RT-1"]))
                self.assertEqual({r["part"] for r in shown["compared"]["rows"]}, {"RT-1", "ROD", "T-1", "NUT"})
                self.assertEqual({r["part"] for r in shown["compared"]["rows"] if not r["key"].startswith("P|")}, {"RT-1"})
                self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
                self.assertEqual(self.begun(record, beside=[])["compared"]["rows"], [])
                # The tube's own sheet is left to do, and nothing else.
                shown = self.begun(record)
                self.assertEqual({r["part"] for r in shown["compared"]["rows"]}, {"T-1"})
                self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        structure = self.there("structures", "T-1|A")
        structure["rows"][0]["amount"] = "9"
        self.server.put("yard", "structures", "T-1|A", structure)
        self.server.put("yard", "items", "BOLT", {"text": "a bolt", "supply": "purchased", "measure": "piece"})
        structure = self.there("structures", "RT-1|A")
        structure["rows"].append({"position": 40, "item": "BOLT", "amount": "1", "measure": "piece", "sort": "takes"})
        self.server.put("yard", "structures", "RT-1|A", structure)
        self.engineer.patch("/parts/one?number=T-1", {"description": "tube, deburred"})
        shown = self.begun(beside=[])
        self.assertEqual(sorted(self.verdicts(shown)), [("L line 40, BOLT", "only there", []), ("P part", "only there", []), ("P part", "we moved", ["description"])])  # fmt: skip
        leave = {r["key"]: "leave" for r in shown["compared"]["rows"] if r["verdict"] == "only there"}
        # What moves beneath the tube meanwhile is none of this one's.
        self.server.put("yard", "structures", "T-1|A", self.there("structures", "T-1|A") | {"bin": "B-9"})
        self.assertEqual(self.handed_over(self.decided(shown, leave))["head"]["state"], "done")
        # The tube was a part on it, not a sheet: what they moved of that one is told as before.
        shown = self.begun(top="T-1", beside=["RT-1"])
        self.assertEqual((shown["head"]["top"], shown["head"]["sheets"]), ("T-1", ["T-1", "RT-1"]))
        (moved,) = [(r["part"], r["verdict"]) for r in shown["compared"]["rows"] if r["fields"]]
        self.assertEqual(moved, ("T-1", "they moved"))
        self.assertEqual(self.handed_over(self.decided(shown, leave))["head"]["state"], "done")
        self.assertEqual(BuildSheet.objects.filter(part__number="T-1", status="draft").count(), 1)
        # The same choice goes on with the same handover; another one is another.
        one, same, other = (self.begun(beside=b)["head"]["id"] for b in (["T-1"], ["T-1"], []))
        self.assertEqual((one == same, one == other), (True, False))
        for beside, words in ((["ROD"], "what is handed over has a build sheet"), (["NONE"], "part NONE is not known")):
            status, refused = self.engineer.post("/handover", {"record": "yard", "top": "RT-1", "beside": beside})
            self.assertEqual((status in (404, 422), words in refused["message"]), (True, True), refused)

    def test_who_moved_is_told_and_what_one_moved_is_written_on_the_other(self) -> None:
        self.agreed()
        # Ours: a part's text. Theirs: the days of it, an amount, a step's time, and a line more.
        self.engineer.patch("/parts/one?number=NUT", {"description": "hexagon nut"})
        item = self.there("items", "ROD") | {"days": 12}
        self.server.put("yard", "items", "ROD", item, "Ines Albu")
        structure = self.there("structures", "RT-1|A")
        structure["rows"][2]["amount"] = "6"
        structure["rows"].append({"position": 40, "item": "T-1", "amount": "1", "measure": "piece", "sort": "takes", "bin": "B-7"})
        self.server.put("yard", "structures", "RT-1|A", structure)
        plan = self.there("plans", "RT-1|A")
        plan["steps"][0]["each"] = "2.5"
        self.server.put("yard", "plans", "RT-1|A", plan)
        shown = self.begun()
        self.assertEqual(
            sorted(self.verdicts(shown)),
            [("L line 30, NUT", "they moved", ["quantity"]), ("L line 40, T-1", "only there", []), ("O operation 10, Turn", "they moved", ["run_minutes"]),
             ("P part", "they moved", ["lead_time_days"]), ("P part", "we moved", ["description"])],
        )  # fmt: skip
        self.assertEqual(shown["compared"]["stops"], [])
        row = next(r for r in shown["compared"]["rows"] if r["key"] == "P|ROD")
        who = self.engineer.get(f"/handover/{shown['head']['id']}/who", row="P|ROD")[1]
        self.assertEqual((who["their_by"], row["fields"][0]["proposal"]), ("Ines Albu", "theirs"))
        sheet = shown["compared"]["sheet"]
        self.assertEqual([(c["side"], c["verb"], c["words"]) for c in sheet["changes"]],
                         [("ours", "change", "operation 10, Turn"), ("ours", "change", "line 30, NUT"), ("ours", "add", "line 40, T-1"),
                          ("ours", "change", "part"), ("theirs", "change", "part")])  # fmt: skip
        done = self.handed_over(shown)
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""))
        self.assertEqual(self.there("items", "NUT")["text"], "hexagon nut")
        # What is theirs alone stays: they wrote it, we did not touch it.
        self.assertEqual(self.there("structures", "RT-1|A")["rows"][3]["bin"], "B-7")
        self.assertEqual(Part.objects.get(number="ROD").lead_time_days, 12)
        draft = BuildSheet.objects.get(part__number="RT-1", revision="B")
        self.assertEqual(draft.status, "draft")
        self.assertEqual([(x.part.number, str(x.quantity.normalize())) for x in draft.lines.all() if x.part],
                         [("ROD", "2"), ("T-1", "1"), ("NUT", "6"), ("T-1", "1")])  # fmt: skip
        self.assertEqual(draft.operations.get(sequence=10).run_minutes, 2.5)
        # The draft took over what they moved; both are in step.
        self.assertEqual(self.begun()["compared"]["rows"], [])
        status, saved = self.engineer.post(
            f"/sheets/{draft.pk}/release", {"version": draft.version, "reason": "as made", "first_day": localdate().isoformat()}
        )
        self.assertEqual(status, 200, saved)
        self.assertEqual(self.read(Handover.objects.latest("id").pk)["compared"]["rows"], [])

    def test_both_moved_stops_until_somebody_decides(self) -> None:
        self.agreed()
        self.engineer.patch("/parts/one?number=NUT", {"description": "hexagon nut"})
        self.server.put("yard", "items", "NUT", self.there("items", "NUT") | {"text": "nut, hex"})
        shown = self.begun()
        self.assertEqual(self.verdicts(shown), [("P part", "both moved", ["description"])])
        self.assertEqual([(s["row"], "decide whose" in s["words"]) for s in shown["compared"]["stops"]], [("P|NUT", True)])
        key = shown["head"]["id"]
        status, refused = self.engineer.post(f"/handover/{key}/hand-over", {"digest": shown["compared"]["digest"]})
        self.assertEqual((status, refused["problems"][0]["place"]), (422, "P|NUT"))
        # Left this time: nothing to write, and it is both moved still.
        left = self.decided(shown, {"P|NUT": "leave"})["compared"]
        self.assertEqual((left["stops"], left["sheet"]["changes"], [x["part"] for x in left["sheet"]["left"]]), ([], [], ["NUT"]))
        shown = self.decided(shown, {"P|NUT": "ours"})
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        self.assertEqual(self.there("items", "NUT")["text"], "hexagon nut")

    def test_what_moves_after_it_was_decided_is_to_be_decided_again(self) -> None:
        self.agreed()
        self.engineer.patch("/parts/one?number=NUT", {"description": "hexagon nut"})
        self.server.put("yard", "items", "NUT", self.there("items", "NUT") | {"text": "nut, hex"})
        shown = self.decided(self.begun(), {"P|NUT": "ours"})
        key = shown["head"]["id"]
        self.engineer.patch("/parts/one?number=NUT", {"description": "hexagon nut, M5"})
        status, refused = self.engineer.post(f"/handover/{key}/hand-over", {"digest": shown["compared"]["digest"]})
        self.assertEqual(status, 422)
        self.assertIn("moved since it was decided", refused["message"])
        shown = self.decided(self.shown(key), {"P|NUT": "ours"})
        # Over there somebody moves something else of it: nothing is written, and it is read again.
        self.server.put("yard", "items", "ROD", self.there("items", "ROD") | {"text": "rod, drawn"}, "Ines Albu")
        stopped = self.handed_over(shown)
        self.assertEqual(stopped["head"]["state"], "work")
        self.assertIn("ROD (Ines Albu) moved over there meanwhile", stopped["head"]["failed"])
        self.assertEqual(self.there("items", "NUT")["text"], "nut, hex")
        self.assertEqual([(r["key"], r["verdict"], r["fields"][0]["choice"]) for r in stopped["compared"]["rows"]],
                         [("P|ROD", "they moved", ""), ("P|NUT", "both moved", "ours")])  # fmt: skip
        self.assertEqual(self.handed_over(stopped)["head"]["state"], "done")
        self.assertEqual(Part.objects.get(number="ROD").description, "rod, drawn")

    def test_drafts_and_rules_of_theirs_stop_and_parts_of_it_are_whole(self) -> None:
        self.agreed()
        long = "NUT-WITH-A-VERY-LONG-NAME"
        for number, words in ((long, "nut"), ("PIN", "")):
            self.engineer.post("/parts", {"number": number, "description": words})
        sheet = BuildSheet.objects.get(part__number="T-1")
        status, opened = self.engineer.post("/sheets", {"part": "T-1"})
        self.assertEqual(status, 200, opened)
        draft = BuildSheet.objects.get(part__number="T-1", status="draft")
        edits = [{"table": "line", "id": f"00000000-0000-4000-8000-00000000000{n}", "before": None,
                  "after": {"part": number, "quantity": "1", "item": 20 + n, "position": 9 + n, "kind": "component"}} for n, number in enumerate((long, "PIN"))]  # fmt: skip
        status, saved = self.engineer.post(f"/sheets/{draft.pk}/edits", {"version": draft.version, "changes": edits})
        self.assertEqual(status, 200, saved)
        # As long as it is a draft, what is in force is compared.
        self.assertEqual(self.begun()["compared"]["rows"], [])
        draft.refresh_from_db()
        status, saved = self.engineer.post(
            f"/sheets/{draft.pk}/release", {"version": draft.version, "reason": "pinned", "first_day": localdate().isoformat()}
        )
        self.assertEqual(status, 200, saved)
        sheet.refresh_from_db()
        shown = self.shown(Handover.objects.latest("id").pk)
        stops = {s["row"]: s["words"] for s in shown["compared"]["stops"]}
        self.assertEqual(stops[f"P|{long}"], f"number: a number has at most 20 characters there, and this one has {len(long)}")
        self.assertEqual(stops["P|PIN"], "description: a text is needed there")
        # Left out: then its line is, too, or it would be torn.
        shown = self.decided(shown, {f"P|{long}": "leave", "P|PIN": "leave"})
        torn = [s for s in shown["compared"]["stops"] if "is not over there and is left out" in s["words"]]
        self.assertEqual(len(torn), 2)
        shown = self.decided(shown, {torn[0]["row"]: "leave", torn[1]["row"]: "leave"})
        self.assertEqual((shown["compared"]["stops"], shown["compared"]["sheet"]["changes"]), ([], []))
        self.assertEqual(self.engineer.post(f"/handover/{shown['head']['id']}/hand-over", {"digest": shown["compared"]["digest"]})[1]["message"],
                         "There is nothing to write.")  # fmt: skip
        # One is mended and goes; the other is left, and is still there the next time.
        self.engineer.patch("/parts/one?number=PIN", {"description": "pin"})
        shown = self.shown(shown["head"]["id"])
        pin = next(r["key"] for r in shown["compared"]["rows"] if r["words"].endswith("PIN"))
        shown = self.decided(shown, {"P|PIN": "ours", pin: "ours"})
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        self.assertEqual([r["item"] for r in self.there("structures", "T-1|A")["rows"]], ["ROD", "PIN"])
        self.assertEqual({r["part"] for r in self.begun()["compared"]["rows"]}, {long, "T-1"})

    def test_a_line_by_hand_is_written_and_stays(self) -> None:
        self.agreed()
        self.server.put("yard", "items", "LUB-1", {"text": "sealant, clear", "supply": "purchased", "measure": "gram"})
        shown = self.begun()
        key = shown["head"]["id"]
        found = self.engineer.get("/handover/items", record="yard", words="seal")[1]
        self.assertEqual(found, [{"code": "LUB-1", "text": "sealant, clear"}])
        wrong = self.engineer.post(
            f"/handover/{key}/by-hand", {"part": "RT-1", "item": "LUB-9", "quantity": "0", "unit": "g", "issue_at": 15}
        )
        self.assertEqual(sorted(p["place"] for p in wrong[1]["problems"]), ["issue_at", "item", "quantity", "reason"])
        stray = {"part": "ROD", "item": "LUB-1", "quantity": "1", "unit": "g", "reason": "why not"}
        refused = self.engineer.post(f"/handover/{key}/by-hand", stray)[1]
        self.assertIn("ROD has no build sheet A in this product", refused["message"])
        said = {"part": "RT-1", "item": "LUB-1", "quantity": "0.5", "unit": "g", "issue_at": 20, "reason": "the seat weeps"}
        status, shown = self.engineer.post(f"/handover/{key}/by-hand", said)
        self.assertEqual((status, shown["compared"]["sheet"]["changes"][0]["by_hand"]), (200, "the seat weeps"))
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        row = self.there("structures", "RT-1|A")["rows"][-1]
        self.assertEqual((row["item"], row["amount"], row["measure"], row["step"]), ("LUB-1", "0.5", "gram", 20))
        # It is not found again, nor taken out, whatever else is handed over; they may change it.
        structure = self.there("structures", "RT-1|A")
        structure["rows"][-1]["amount"] = "0.7"
        structure["rows"][0]["waste"] = "7"
        self.server.put("yard", "structures", "RT-1|A", structure)
        again = self.begun()
        self.assertEqual([r["verdict"] for r in again["compared"]["rows"]], ["they moved", "kept by hand"])
        self.assertEqual((again["compared"]["rows"][1]["choices"], again["compared"]["stops"]), ([], []))
        self.assertEqual(self.handed_over(again)["head"]["state"], "done")
        self.assertEqual(self.there("structures", "RT-1|A")["rows"][-1]["amount"], "0.7")
        self.assertFalse(Part.objects.filter(number="LUB-1").exists())
        # Another that they added themselves is left to them.
        structure = self.there("structures", "RT-1|A")
        structure["rows"].append({"position": 90, "item": "LUB-1", "amount": "2", "measure": "gram"})
        self.server.put("yard", "structures", "RT-1|A", structure)
        shown = self.begun()
        row = next(r for r in shown["compared"]["rows"] if r["verdict"] == "only there" and r["kind"] == "lines")
        status, shown = self.engineer.post(f"/handover/{shown['head']['id']}/keep", {"row": row["key"], "reason": "for the thread"})
        self.assertEqual((status, {r["verdict"] for r in shown["compared"]["rows"]}), (200, {"kept by hand"}))
        last = max(x["id"] for x in shown["compared"]["by_hand"])
        shown = self.engineer.post(f"/handover/{shown['head']['id']}/by-hand/{last}/let-go", {})[1]
        self.assertIn("only there", {r["verdict"] for r in shown["compared"]["rows"]})

    def test_what_they_moved_goes_into_a_draft_that_somebody_works_at(self) -> None:
        self.agreed()
        # A draft that came with a file: its rows have no lineage in common with the released ones. Somebody took the nut to eight.
        draft = a_product()
        sheet = draft["build_sheets"][0] | {"revision": "B", "status": "draft"}
        sheet["lines"] = [x | ({"quantity": "8"} if x["part"] == "NUT" else {}) for x in sheet["lines"]] + [
            {"item": 90, "part": "LID", "quantity": "1"}
        ]
        lid = {"number": "LID", "kind": "bought", "unit": "ea", "description": "lid"}
        load(draft | {"parts": [lid], "work_centers": [], "build_sheets": [sheet]})
        self.assertEqual(self.begun()["compared"]["rows"], [])
        structure, plan = self.there("structures", "RT-1|A"), self.there("plans", "RT-1|A")
        structure["rows"][0]["amount"] = "3"
        plan["steps"][1]["each"] = "4"
        self.server.put("yard", "structures", "RT-1|A", structure)
        self.server.put("yard", "plans", "RT-1|A", plan)
        done = self.handed_over(self.begun())
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""))
        held = BuildSheet.objects.get(part__number="RT-1", status="draft")
        self.assertEqual([str(x.quantity.normalize()) for x in held.lines.all() if x.quantity], ["3", "1", "8", "1"])
        self.assertEqual(held.operations.get(sequence=20).run_minutes, 4)
        # Their moves are taken over; what somebody changed here is ours to hand over, once it is released.
        again = self.begun()["compared"]
        self.assertEqual(
            [(r["words"], r["verdict"]) for r in again["rows"]],
            [("line 30, NUT", "we moved"), ("line 90, LID", "only here"), ("part", "only here")],
        )
        self.assertIn("revision B is a draft", again["stops"][0]["words"])

    def test_a_quantity_goes_nowhere_without_its_unit(self) -> None:
        self.agreed()
        sheet = BuildSheet.objects.get(part__number="RT-1")
        sheet.lines.filter(part__number="ROD").update(quantity=3)
        BuildSheet.objects.filter(pk=sheet.pk).update(version=sheet.version + 1)
        structure = self.there("structures", "RT-1|A")
        structure["rows"][0] |= {"amount": "2500", "measure": "millimetre"}
        self.server.put("yard", "structures", "RT-1|A", structure)
        shown = self.begun()
        (row,) = shown["compared"]["rows"]
        # They moved the unit alone, and both the quantity: 3 mm or 2,500 m would be nobody's amount.
        self.assertEqual([(f["name"], f["verdict"], f["proposal"]) for f in row["fields"]],
                         [("quantity", "both moved", None), ("unit", "they moved", None)])  # fmt: skip
        self.assertTrue(row["open"])
        shown = self.decided(shown, {row["key"]: "ours"}, "quantity")
        self.assertEqual([f["choice"] for f in shown["compared"]["rows"][0]["fields"]], ["ours", "ours"])
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        held = self.there("structures", "RT-1|A")["rows"][0]
        self.assertEqual((held["amount"], held["measure"]), ("3", "metre"))
        # The other way, by the unit.
        sheet.lines.filter(part__number="ROD").update(quantity=4)
        BuildSheet.objects.filter(pk=sheet.pk).update(version=sheet.version + 2)
        structure = self.there("structures", "RT-1|A")
        structure["rows"][0] |= {"amount": "2500", "measure": "millimetre"}
        self.server.put("yard", "structures", "RT-1|A", structure)
        shown = self.begun()
        shown = self.decided(shown, {shown["compared"]["rows"][0]["key"]: "theirs"}, "unit")
        self.assertEqual(self.handed_over(shown)["head"]["state"], "done")
        draft = BuildSheet.objects.get(part__number="RT-1", status="draft").lines.get(part__number="ROD")
        self.assertEqual((draft.quantity, draft.unit), (2500, "mm"))
        self.assertEqual(self.begun()["compared"]["rows"], [])
