"""A part that the other side knows by another number: read, compared, written and found under ours, by either adapter."""

from typing import Any

from definition.models.parts import Part

from handover.models import Handover, KnownAs
from handover.tests.beside import Beside
from handover.tests.test_ways import rows


class OtherNumbers(Beside):
    def say(self, key: int, part: str, code: str) -> tuple[int, dict[str, Any]]:
        return self.engineer.send("PUT", f"/handover/{key}/known-as", {"part": part, "code": code})

    def test_what_is_called_otherwise_crosses_under_our_number(self) -> None:
        # Over there NUT is something else, and the nut of ours is X-9.
        self.server.put("yard", "items", "NUT", {"text": "a nutcracker"})
        self.server.put("yard", "items", "X-9", {"text": "nut, old"})
        key = self.begun()["head"]["id"]
        status, shown = self.say(key, "NUT", " X-9 ")
        self.assertEqual((status, shown["head"]["log"][-1]["words"]), (200, "NUT is called X-9 over there"))
        row = next(r for r in shown["compared"]["rows"] if r["key"] == "P|NUT")
        self.assertEqual(row["verdict"], "differs")
        self.assertEqual(next(f["theirs"] for f in row["fields"] if f["name"] == "description"), "nut, old")
        self.assertEqual(next(p["known_as"] for p in shown["compared"]["parts"] if p["number"] == "NUT"), "X-9")
        shown = self.decided(shown, {"P|NUT": "ours"})
        told = {(c["part"], c["known_as"]) for c in shown["compared"]["sheet"]["changes"]}
        self.assertTrue({("NUT", "X-9"), ("ROD", "")} <= told, told)
        done = self.handed_over(shown)
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""), done["head"])
        self.assertEqual([r["item"] for r in self.there("structures", "RT-1|A")["rows"]], ["ROD", "T-1", "X-9"])
        self.assertEqual((self.there("items", "X-9")["text"], self.there("items", "NUT")), ("nut for it", {"text": "a nutcracker"}))
        self.assertEqual(self.begun()["compared"]["rows"], [])
        # What they move of it is ours under our number; a row of theirs with what they call NUT is none of our nuts.
        self.server.put("yard", "items", "X-9", self.there("items", "X-9") | {"text": "nut, drawn"})
        structure = self.there("structures", "RT-1|A")
        structure["rows"].append({"item": "NUT", "quantity": "1", "unit": "ea"})
        self.server.put("yard", "structures", "RT-1|A", structure)
        shown = self.read(Handover.objects.latest("id").pk)
        found = {(r["part"], r["words"]): r["verdict"] for r in shown["compared"]["rows"]}
        wanted = {("NUT", "part"): "they moved", ("NUT (theirs)", "part"): "only there", ("RT-1", "line NUT (theirs)"): "only there"}
        self.assertEqual(found, wanted)
        line = next(r["key"] for r in shown["compared"]["rows"] if r["words"] == "line NUT (theirs)")
        self.assertEqual(self.engineer.post(f"/handover/{shown['head']['id']}/keep", {"row": line, "reason": "for the bench"})[0], 200)
        done = self.handed_over(self.shown(shown["head"]["id"]))
        self.assertEqual((done["head"]["state"], Part.objects.get(number="NUT").description), ("done", "nut, drawn"), done["head"])
        self.assertEqual([r["item"] for r in self.there("structures", "RT-1|A")["rows"]], ["ROD", "T-1", "X-9", "NUT"])
        # Found by either number.
        for words in ("NUT", "X-9"):
            self.assertIn("NUT", [i["code"] for i in self.engineer.get("/handover/items", record="yard", words=words)[1]])

    def test_a_folder_knows_it_by_their_number_too_and_what_moves_there_is_found(self) -> None:
        key = self.begun("files")["head"]["id"]
        self.assertEqual(self.say(key, "RT-1", "ASM-77")[0], 200)
        done = self.handed_over(self.shown(key))
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""), done["head"])
        self.assertEqual({r["code"] for r in rows("structures.csv")}, {"ASM-77", "T-1"})
        shown = self.begun("files")
        self.assertEqual(shown["compared"]["rows"], [])
        # Called as here again, it is not over there.
        shown = self.say(shown["head"]["id"], "RT-1", "RT-1")[1]
        self.assertEqual(KnownAs.objects.count(), 0)
        self.assertIn(("P part", "only here"), [(r["key"][0] + " " + r["words"], r["verdict"]) for r in shown["compared"]["rows"]])

    def test_a_number_too_long_for_them_and_one_that_is_anothers(self) -> None:
        Part.objects.filter(number="ROD").update(number="ROD-OF-MORE-THAN-TWENTY-LETTERS")
        shown = self.begun()
        key = shown["head"]["id"]
        self.assertTrue(any(s["words"].startswith("number: ") for s in shown["compared"]["stops"]), shown["compared"]["stops"])
        self.assertEqual(self.say(key, "ROD-OF-MORE-THAN-TWENTY-LETTERS", "T-1")[0], 200)
        stops = [s["words"] for s in self.shown(key)["compared"]["stops"]]
        self.assertIn("number: T-1 is what ROD-OF-MORE-THAN-TWENTY-LETTERS is called over there; say what T-1 is called", stops)
        for code, words in (
            ("T-1", "is what ROD-OF-MORE-THAN-TWENTY-LETTERS is called"),
            ("A|B", "none of them a bar"),
            ("A" * 65, "at most 64"),
        ):
            status, refused = self.say(key, "T-1", code)
            self.assertEqual((status, words in str(refused)), (422, True), refused)
        self.assertEqual(self.say(key, "NOPE", "X")[0], 404)
        self.assertEqual(self.say(key, "T-1", "TUBE")[0], 200)
        done = self.handed_over(self.shown(key))
        self.assertEqual((done["head"]["state"], done["head"]["failed"]), ("done", ""), done["head"])
        self.assertEqual([r["item"] for r in self.there("structures", "RT-1|A")["rows"]], ["T-1", "TUBE", "NUT"])
        # While one is written, what things are called is not changed.
        Handover.objects.filter(pk=key).update(state="writing")
        other = self.begun(top="T-1")["head"]["id"]
        status, refused = self.say(other, "T-1", "PIPE")
        self.assertEqual((status, "is being written" in str(refused)), (422, True), refused)
