"""An inquiry from its files to sheets, as the API does it: read, paired, decided, asked; and nothing half saved."""

import io
from unittest.mock import patch

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from openpyxl import load_workbook
from testing import Api, workbook

from inquiries.models import Decision, RememberedPair
from inquiries.tests.at_work import LIST, InquiryCase


class Inquiries(InquiryCase):
    def test_a_list_is_read_paired_and_checked(self) -> None:
        answer = self.bring()
        self.assertEqual(
            (answer["lines"], answer["decided"], answer["files"][0]["role"], answer["files"][0]["maps"]), (4, 0, "list", {"": "found"})
        )
        found = self.lines()
        self.assertEqual((found["QP-7"]["row"], found["QP-7"]["description"]), (0, "Pier light"))
        self.assertEqual(found["K-100"]["proposals"], [1, "RES-1", "exact", True])
        # A higher voltage meets what is asked; another case size differs, and is shown behind it.
        beside = self.api.get(f"{self.at}/lines/{found['K-101']['id']}")[1]
        self.assertEqual([p["part"] for p in beside["proposals"]], ["CAP-1", "CAP-2"])
        ledger = {x["field"]: (x["theirs"], x["ours"], x["verdict"]) for x in beside["proposals"][0]["ledger"]}
        self.assertEqual(ledger["voltage"], ("25 V", "50 V", "meets"))
        text = next(t for t in beside["texts"] if t["field"] == "description")["text"]
        self.assertEqual([text[s["start"] : s["end"]] for s in beside["spans"]], ["100 nF", "25 V", "X7R", "0603"])
        self.assertEqual((beside["kind"], beside["proposals"][0]["certain"]), ("capacitor", False))
        # How many queries it takes does not depend on how many lines there are.
        with self.assertNumQueries(10):
            self.api.get(f"{self.at}/lines/{found['K-100']['id']}")

    def test_what_is_decided_is_remembered_for_the_sender_and_taken_back(self) -> None:
        self.bring()
        status, answer = self.decide("K-100", "take", "RES-1")
        self.assertEqual((status, answer["met"]), (200, []))
        line = self.lines()["K-100"]
        self.assertEqual((line["state"], line["ours"], line["road"], line["by"]), ("paired", "RES-1", "exact", "engineer"))
        self.assertEqual(RememberedPair.objects.get().told["maker_number"], "NR-0603-10K")
        status, _ = self.api.post(f"{self.at}/decisions/{answer['batch']}/back", {})
        self.assertEqual((status, self.lines()["K-100"]["state"], RememberedPair.objects.count()), (200, "open", 0))
        self.assertEqual(self.api.post(f"{self.at}/decisions/{answer['batch']}/back", {})[0], 422)
        # It is listed for the sender, and forgotten by who may decide.
        self.decide("K-100", "take", "RES-1")
        code = self.api.get(self.at)[1]["customer_code"]
        pair = self.api.get("/inquiries/pairs", sender=code)[1][0]
        self.assertEqual((pair["number"], pair["part"], pair["by"]), ("K-100", "RES-1", "engineer"))
        self.assertEqual(Api("viewer").post(f"/inquiries/pairs/{pair['id']}/forget", {})[0], 403)
        self.assertEqual(self.api.post(f"/inquiries/pairs/{pair['id']}/forget", {})[0], 200)
        self.assertEqual((self.api.get("/inquiries/pairs", sender=code)[1], self.lines()["K-100"]["state"]), ([], "paired"))
        self.assertEqual(self.api.post(f"/inquiries/pairs/{pair['id']}/forget", {})[0], 404)
        # Refused, it is shown no more; the next stands first.
        self.decide("K-101", "refuse", "CAP-1")
        self.assertEqual(self.lines()["K-101"]["proposals"][1], "CAP-2")
        # By hand, and it stays with another inquiry of the same sender, on its own road.
        self.decide("K-102", "take", "CAP-2")
        status, other = self.api.post("/inquiries", {"title": "More lights", "customer": "kestrel piers"})
        self.at = f"/inquiries/{other['id']}"
        self.bring("again.xlsx", [["Part No.", "Designation", "Qty"], ["k102", "Housing, moulded", 4]])
        self.assertEqual(self.lines()["k102"]["proposals"], [1, "CAP-2", "remembered", True])
        # With another sender it is not known.
        status, other = self.api.post("/inquiries", {"title": "Others", "customer": "Somebody Else"})
        self.at = f"/inquiries/{other['id']}"
        self.bring("again.xlsx", [["Part No.", "Designation", "Qty"], ["k102", "Housing, moulded", 4]])
        self.assertEqual(self.lines()["k102"]["proposals"][0], 0)

    def test_one_decision_is_for_all_lines_of_the_same_thing(self) -> None:
        self.bring(
            rows=[*LIST, [4, "k 102", "Housing, moulded", "", 3, ""], [5, "K-103", "Foot", "", 1, ""], [6, "K103", "Foot", "", 1, ""]]
        )
        batch = self.decide("K-102", "take", "CAP-2")[1]["batch"]
        self.assertEqual({n: self.lines()[n]["ours"] for n in ("K-102", "k 102")}, {"K-102": "CAP-2", "k 102": "CAP-2"})
        self.api.post(f"{self.at}/decisions/{batch}/back", {})
        self.assertEqual({self.lines()[n]["state"] for n in ("K-102", "k 102")}, {"open"})
        # But for one that somebody refused it for.
        self.decide("k 102", "refuse", "CAP-2")
        self.decide("K-102", "take", "CAP-2")
        self.assertEqual(self.lines()["k 102"]["state"], "open")
        line = self.lines()["K-103"]
        self.api.post(f"{self.at}/parts", [{"line": line["id"], "seen": line["stamp"]}])
        self.assertEqual({self.lines()[n]["ours"] for n in ("K-103", "K103")}, {"K-103"})

    def test_a_sender_is_renamed_and_joined_with_what_is_remembered(self) -> None:
        self.bring()
        self.decide("K-102", "take", "CAP-2")
        code = self.api.get(self.at)[1]["customer_code"]
        self.assertEqual(self.api.send("PATCH", f"/partners/one?code={code}", {"version": 1, "name": "Kestrel Quays"})[0], 200)
        self.assertEqual(self.api.get(self.at)[1]["customer"], "Kestrel Quays")
        self.assertEqual(RememberedPair.objects.get().customer_id, "Kestrel Quays")
        # Another of the same number stays as it is with whom it is joined; nothing is lost otherwise.
        other = self.api.post("/partners", {"name": "Old Quays", "customer": True})[1]
        RememberedPair.objects.create(customer_id="Old Quays", folded="K102", number="K-102", part=Part.objects.get(number="CAP-1"))
        RememberedPair.objects.create(customer_id="Old Quays", folded="K999", number="K-999", part=Part.objects.get(number="CAP-1"))
        status, said = self.api.post(f"/partners/one/join?code={other['code']}", {"version": other["version"], "into": code})
        self.assertEqual(status, 200, said)
        self.assertEqual(dict(RememberedPair.objects.values_list("number", "part__number")), {"K-102": "CAP-2", "K-999": "CAP-1"})

    def test_two_decisions_on_one_line_are_both_shown(self) -> None:
        self.bring()
        seen = self.lines()["K-101"]["stamp"]
        other = Api("buyer")
        self.assertEqual(self.decide("K-101", "take", "CAP-1", other, seen)[1]["met"], [])
        status, answer = self.decide("K-101", "take", "CAP-2", seen=seen)
        self.assertEqual((status, answer["batch"]), (200, 0))
        self.assertEqual([(m["by"], m["part"], m["yours"]) for m in answer["met"]], [("buyer", "CAP-1", "CAP-2")])
        self.assertEqual(self.lines()["K-101"]["ours"], "CAP-1")
        # The same decision twice is no conflict; and one who knows of the other's may go on.
        self.assertEqual(self.decide("K-101", "take", "CAP-1", seen=seen)[1]["met"], [])
        self.decide("K-101", "take", "CAP-2", seen=seen, over=True)
        self.assertEqual(self.lines()["K-101"]["ours"], "CAP-2")
        # Who looks on is told of what was written since, and of nothing else.
        stamp = self.api.get(f"{self.at}/lines")[1]["stamp"]
        self.decide("K-100", "take", "RES-1", other)
        self.assertEqual(set(self.lines(since=stamp + 1)), {"K-100"})
        # What another decided is opened anew, not taken back.
        batch = Decision.objects.order_by("-batch").first().batch
        self.assertIn("buyer decided this", self.api.post(f"{self.at}/decisions/{batch}/back", {})[1]["message"])

    def test_mended_waived_and_asked(self) -> None:
        rows = [*LIST[:4], [1, "K-100", "Resistor 10k", "", 3, "R1, R2"], [2, "K-101", "Cap", "", "two", "C1"]]
        self.bring(rows=rows)
        found = self.lines()
        self.assertEqual([f["code"] for f in found["K-100"]["findings"]], ["designator-count"])
        self.assertEqual([(f["code"], f["severity"], f["field"]) for f in found["K-101"]["findings"]], [("unread", "stops", "quantity")])
        line = found["K-101"]
        mend = {"seen": line["stamp"], "field": "quantity", "text": "2"}
        status, beside = self.api.post(f"{self.at}/lines/{line['id']}/mend", mend)
        self.assertEqual(status, 200, beside)
        self.assertEqual([f["code"] for f in self.lines()["K-101"]["findings"]], ["designator-count"])
        self.assertEqual(self.lines()["K-101"]["mended"], ["quantity"])
        # From what was seen before, nothing more is written.
        self.assertEqual(self.api.post(f"{self.at}/lines/{line['id']}/mend", mend)[0], 422)
        line = self.lines()["K-101"]
        bad = self.api.post(f"{self.at}/lines/{line['id']}/mend", mend | {"seen": line["stamp"], "text": "-1"})
        self.assertEqual((bad[0], bad[1]["problems"][0]["place"]), (422, "quantity"))
        waive = {"seen": line["stamp"], "code": "designator-count", "reason": " both at one place "}
        self.assertEqual(self.api.post(f"{self.at}/lines/{line['id']}/waive", waive)[0], 200)
        self.assertEqual(self.lines()["K-101"]["findings"][0]["waived"]["reason"], "both at one place")
        # The waiver was of what was found then: found otherwise, it stands again.
        line = self.lines()["K-101"]
        self.api.post(f"{self.at}/lines/{line['id']}/mend", {"seen": line["stamp"], "field": "quantity", "text": "3"})
        self.assertIsNone(self.lines()["K-101"]["findings"][0]["waived"])
        # Asked: the workbook goes out in their words, and what comes back is laid on the line.
        line = self.lines()["K-100"]
        asked = {"about": "designator-count", "field": "quantity", "text": "3 pieces, but R1 and R2: which holds?"}
        self.assertEqual(self.api.post(f"{self.at}/lines/{line['id']}/ask", asked)[0], 200)
        mail = self.api.get(f"{self.at}/questions")[1]
        self.assertIn("list.xlsx, row 5, K-100: 3 pieces", mail["body"])
        self.assertIn("Quantities and designators", mail["body"])
        content = self.api.client.get(f"/api{self.at}/questions.xlsx").content
        book = load_workbook(io.BytesIO(content))
        sheet = book.active
        self.assertEqual([c.value for c in sheet[2]][1:3], ["5", "K-100"])
        sheet.cell(2, 8).value = 2
        back = io.BytesIO()
        book.save(back)
        status, laid = self.api.upload("answers.xlsx", back.getvalue(), f"{self.at}/answers")
        self.assertEqual((status, laid), (200, {"lines": 1, "told": []}))
        line = self.lines()["K-100"]
        self.assertEqual((line["quantity"], line["findings"], line["asked"], line["answered"]), ("2", [], 0, 1))
        beside = self.api.get(f"{self.at}/lines/{line['id']}")[1]
        self.assertEqual(next(t["own"] for t in beside["texts"] if t["field"] == "quantity"), "3")
        self.assertEqual(self.api.upload("list.xlsx", workbook(LIST), f"{self.at}/answers")[0], 422)

    def test_a_large_inquiry_is_checked_behind_the_write(self) -> None:
        self.bring(rows=[*LIST[:4], [1, "K-100", "Resistor 10k", "", 3, "R1, R2"]])
        line = self.lines()["K-100"]
        with (
            patch("inquiries.deciding.MOST_AT_ONCE", 0),
            patch("inquiries.deciding.check") as at_once,
            self.captureOnCommitCallbacks(execute=True),
        ):
            self.api.post(f"{self.at}/lines/{line['id']}/mend", {"seen": line["stamp"], "field": "quantity", "text": "2"})
        at_once.assert_not_called()
        self.assertEqual(self.lines()["K-100"]["findings"], [])

    def test_it_becomes_sheets_whole_or_not_at_all(self) -> None:
        self.bring()
        status, _ = self.api.post(f"{self.at}/result", {})
        self.assertEqual(status, 422)
        self.assertEqual((BuildSheet.objects.count(), Part.objects.count()), (0, 3))
        self.assertEqual(len(self.api.get(f"{self.at}/result")[1]["problems"]), 4)
        self.decide_all()
        planned = self.api.get(f"{self.at}/result")[1]
        self.assertEqual(planned["problems"], [])
        self.assertEqual([x["words"] for x in planned["sheets"][0]["lines"]], ["new, 2 ea", "new, 1 ea", "new, 1 ea"])
        # Who may not change sheets may pair, and not save.
        self.assertEqual(Api("buyer").post(f"{self.at}/result", {})[0], 403)
        status, made = self.api.post(f"{self.at}/result", {})
        self.assertEqual(status, 200, made)
        self.assertEqual([(p["part"], p["revision"], p["top"]) for p in made["products"]], [("QP-7", "A", True)])
        self.assertEqual(made["state"], "ready")
        lines = Line.objects.filter(sheet__part__number="QP-7")
        self.assertEqual(
            [(x.item, x.part.number, x.quantity, x.reference_designators) for x in lines],
            [(1, "RES-1", 2, ["R1", "R2"]), (2, "CAP-1", 1, ["C1"]), (3, "K-102", 1, [])],
        )
        self.assertEqual(
            {p.kind: p.lifecycle for p in Part.objects.filter(number__in=["QP-7", "K-102"])}, {"made": "draft", "bought": "draft"}
        )
        # The sheet leads back to it, and each line to its row.
        sheet = BuildSheet.objects.get()
        with self.assertNumQueries(7):
            came = self.api.get(f"/inquiries/origins/{sheet.pk}")[1]
        self.assertEqual([i["number"] for i in came["inquiries"]], [self.inquiry["number"]])
        self.assertEqual(
            [(came["lines"][str(x.pk)]["file"], came["lines"][str(x.pk)]["row"]) for x in lines],
            [("list.xlsx", 5), ("list.xlsx", 6), ("list.xlsx", 7)],
        )
        # Saved again, it stands as it is.
        self.assertEqual(self.api.post(f"{self.at}/result", {})[0], 200)
        self.assertEqual(BuildSheet.objects.count(), 1)
