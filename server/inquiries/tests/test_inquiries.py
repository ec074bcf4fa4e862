"""An inquiry from its files to sheets, as the API does it: read, paired, decided, asked, revised; and nothing half saved."""

import io
from typing import Any
from unittest.mock import patch

from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from django.test import TestCase
from openpyxl import load_workbook
from testing import Api, load, workbook

from inquiries.models import Decision, ListLine, RememberedPair

LIST = [
    ["Kestrel Piers, quotation"],
    ["Assembly", "QP-7", "Title", "Pier light"],
    [],
    ["Pos", "Part No.", "Designation", "Manufacturer / MPN", "Qty", "Ref Des"],
    [1, "K-100", "Resistor 10k 1% 0603", "Nordry / NR-0603-10K", 2, "R1, R2"],
    [2, "K-101", "Capacitor 100 nF 25 V X7R 0603", "", 1, "C1"],
    [3, "K-102", "Housing, moulded", "", 1, ""],
]


def stock() -> dict[str, Any]:
    """Our own parts: what the list's lines may be."""
    return {
        "format": "round-tally-bundle", "version": 1, "currency": "EUR",
        "parts": [
            {"number": "RES-1", "kind": "bought", "unit": "ea", "description": "Resistor 10 kΩ 1 % 0.1 W 0603",
             "maker_numbers": [{"maker": "Nordry", "number": "NR0603-10K"}]},
            {"number": "CAP-1", "kind": "bought", "unit": "ea", "description": "Capacitor 100 nF 50 V X7R 0603"},
            {"number": "CAP-2", "kind": "bought", "unit": "ea", "description": "Capacitor 100 nF 25 V X7R 0805"},
        ],
    }  # fmt: skip


class Inquiries(TestCase):
    def setUp(self) -> None:
        load(stock())
        self.api = Api("engineer")
        status, self.inquiry = self.api.post(
            "/inquiries", {"title": "Pier lights", "customer": "Kestrel Piers", "wanted_by": "2026-12-10"}
        )
        self.assertEqual(status, 200, self.inquiry)
        self.at = f"/inquiries/{self.inquiry['id']}"

    def bring(self, name: str = "list.xlsx", rows: list[list[Any]] | bytes = LIST) -> dict[str, Any]:
        content = rows if isinstance(rows, bytes) else workbook(rows)
        status, answer = self.api.upload(name, content, f"{self.at}/files")
        self.assertEqual(status, 200, answer)
        return answer

    def lines(self, api: Api | None = None, since: int = 0) -> dict[str, dict[str, Any]]:
        """The lines by their number."""
        table = (api or self.api).get(f"{self.at}/lines", since=since)[1]["table"]
        rows = [dict(table["same"]) | {n: c[at] for n, c in table["each"].items()} for at in range(table["count"])]
        return {r["part"] or f"row {r['row']}": r for r in rows}

    def decide(
        self, number: str, verb: str, part: str = "", api: Api | None = None, seen: int | None = None, **more: Any
    ) -> Any:
        line = self.lines()[number]
        body = [
            {"line": line["id"], "seen": line["stamp"] if seen is None else seen, "verb": verb, "part": part} | more
        ]
        return (api or self.api).post(f"{self.at}/decisions", body)

    def decide_all(self) -> None:
        self.decide("K-100", "take", "RES-1")
        self.decide("K-101", "take", "CAP-1")
        new = [self.lines()[n] for n in ("QP-7", "K-102")]
        status, answer = self.api.post(f"{self.at}/parts", [{"line": x["id"], "seen": x["stamp"]} for x in new])
        self.assertEqual(status, 200, answer)

    def test_a_list_is_read_paired_and_checked(self) -> None:
        answer = self.bring()
        self.assertEqual(
            (answer["lines"], answer["decided"], answer["files"][0]["role"], answer["files"][0]["maps"]),
            (4, 0, "list", {"": "found"}),
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
        with self.assertNumQueries(11):
            self.api.get(f"{self.at}/lines/{found['K-100']['id']}")

    def test_what_is_decided_is_remembered_for_the_sender_and_taken_back(self) -> None:
        self.bring()
        status, answer = self.decide("K-100", "take", "RES-1")
        self.assertEqual((status, answer["met"]), (200, []))
        line = self.lines()["K-100"]
        self.assertEqual(
            (line["state"], line["ours"], line["road"], line["by"]), ("paired", "RES-1", "exact", "engineer")
        )
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
        self.assertEqual(
            (self.api.get("/inquiries/pairs", sender=code)[1], self.lines()["K-100"]["state"]), ([], "paired")
        )
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
            rows=[
                *LIST,
                [4, "k 102", "Housing, moulded", "", 3, ""],
                [5, "K-103", "Foot", "", 1, ""],
                [6, "K103", "Foot", "", 1, ""],
            ]
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
        self.assertEqual(
            self.api.send("PATCH", f"/partners/one?code={code}", {"version": 1, "name": "Kestrel Quays"})[0], 200
        )
        self.assertEqual(self.api.get(self.at)[1]["customer"], "Kestrel Quays")
        self.assertEqual(RememberedPair.objects.get().customer_id, "Kestrel Quays")
        # Another of the same number stays as it is with whom it is joined; nothing is lost otherwise.
        other = self.api.post("/partners", {"name": "Old Quays", "customer": True})[1]
        RememberedPair.objects.create(
            customer_id="Old Quays", folded="K102", number="K-102", part=Part.objects.get(number="CAP-1")
        )
        RememberedPair.objects.create(
            customer_id="Old Quays", folded="K999", number="K-999", part=Part.objects.get(number="CAP-1")
        )
        status, said = self.api.post(
            f"/partners/one/join?code={other['code']}", {"version": other["version"], "into": code}
        )
        self.assertEqual(status, 200, said)
        self.assertEqual(
            dict(RememberedPair.objects.values_list("number", "part__number")), {"K-102": "CAP-2", "K-999": "CAP-1"}
        )

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
        self.assertEqual(
            [(f["code"], f["severity"], f["field"]) for f in found["K-101"]["findings"]],
            [("unread", "stops", "quantity")],
        )
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
            self.api.post(
                f"{self.at}/lines/{line['id']}/mend", {"seen": line["stamp"], "field": "quantity", "text": "2"}
            )
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
        self.assertEqual([(x.item, x.part.number, x.quantity, x.reference_designators) for x in lines],
                         [(1, "RES-1", 2, ["R1", "R2"]), (2, "CAP-1", 1, ["C1"]), (3, "K-102", 1, [])])  # fmt: skip
        self.assertEqual(
            {p.kind: p.lifecycle for p in Part.objects.filter(number__in=["QP-7", "K-102"])},
            {"made": "draft", "bought": "draft"},
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

    def test_a_later_revision_is_read_as_a_change(self) -> None:
        self.bring()
        self.decide_all()
        first_seal = self.api.get(f"{self.at}/result")[1]["seal"]
        self.api.post(f"{self.at}/result", {})
        sheet = BuildSheet.objects.get()
        # Somebody adds what stands on no list, and sets a scrap; both stay.
        first = sheet.lines.get(part__number="RES-1")
        self.api.post(f"/sheets/{sheet.pk}/edits", {"version": sheet.version, "changes": [
            {"table": "line", "id": str(first.pk), "before": {"scrap_percent": None}, "after": {"scrap_percent": "3"}},
            {"table": "line", "id": "11111111-1111-4111-8111-111111111111", "before": None, "after": {"part": "CAP-2", "quantity": "0.5", "item": 90, "position": 9}},
        ]})  # fmt: skip
        later = [*LIST[:4], [1, "K-100", "Resistor 10k 1% 0603", "Nordry / NR-0603-10K", 3, "R1, R2, R5"], [3, "K-102", "Housing, moulded", "", 1, ""],
                 [4, "K-109", "Washer", "", 4, ""]]  # fmt: skip
        answer = self.bring("list rev B.xlsx", later)
        self.assertEqual([f["replaced_by"] is not None for f in answer["files"]], [True, False])
        self.assertEqual(answer["files"][1]["taken"], ["K-101 Capacitor 100 nF 25 V X7R 0603, row 6"])
        found = self.lines()
        self.assertEqual(found["K-100"]["changed"], {"quantity": "2", "designators": "R1 R2"})
        self.assertEqual((found["K-109"]["changed"], found["K-102"]["changed"]), ({"": "added"}, {}))
        self.assertEqual(
            {n: x["state"] for n, x in found.items()},
            {"QP-7": "paired", "K-100": "paired", "K-102": "paired", "K-109": "open"},
        )
        self.decide("K-109", "out")
        seen = self.api.get(f"{self.at}/result")[1]
        planned = seen["sheets"][0]
        self.assertEqual([(x["verb"], x["part"], x["words"]) for x in planned["lines"]], [
            ("changed", "RES-1", "quantity 2 → 3, designators R1 R2 → R1 R2 R5"), ("stays", "K-102", "as it stands"),
            ("gone", "CAP-1", "taken away"), ("not from a list", "CAP-2", "not from a list")])  # fmt: skip
        # Somebody changed the list since that was seen: what was not seen is not saved.
        self.assertNotEqual(seen["seal"], first_seal)
        status, refused = self.api.post(f"{self.at}/result", {"seal": first_seal})
        self.assertEqual((status, "has changed since it was shown" in refused["message"]), (422, True))
        self.assertEqual(sheet.lines.count(), 4)
        self.assertEqual(self.api.post(f"{self.at}/result", {"seal": seen["seal"]})[0], 200)
        lines = sheet.lines.all()
        self.assertEqual({x.part.number: (float(x.quantity), x.scrap_percent and float(x.scrap_percent)) for x in lines},
                         {"RES-1": (3.0, 3.0), "K-102": (1.0, None), "CAP-2": (0.5, None)})  # fmt: skip
        # The file taken away, the one before counts again.
        newest = answer["files"][1]["id"]
        self.assertEqual(self.api.post(f"{self.at}/files/{newest}/drop", {})[0], 200)
        self.assertEqual(set(self.lines()), {"QP-7", "K-100", "K-101", "K-102"})
        # With what was decided on its lines, and where the sheet's lines came from.
        self.assertEqual(Decision.objects.filter(line__said__part="K-100", verb="take").count(), 1)
        came = self.api.get(f"/inquiries/origins/{sheet.pk}")[1]["lines"]
        self.assertEqual({x["file"] for x in came.values()}, {"list.xlsx"})

    def test_a_map_by_hand_is_remembered_for_lists_of_this_shape(self) -> None:
        rows = [["Ref", "What it is", "Pieces"], ["K-1", "Pin", "1,5"], ["K-2", "Nut", "2"]]
        answer = self.bring("odd.xlsx", rows)
        file = answer["files"][0]
        grid = self.api.get(f"{self.at}/files/{file['id']}/grid")[1][0]
        self.assertEqual(grid["rows"][0], ["Ref", "What it is", "Pieces"])
        said = {
            "sheet": "",
            "header": 0,
            "columns": {"part": [0, 0], "description": [1, 0], "quantity": [2, 0]},
            "commas": {"quantity": True},
        }
        status, answer = self.api.send("PUT", f"{self.at}/files/{file['id']}/map", said)
        self.assertEqual((status, answer["files"][0]["maps"]), (200, {"": "by hand"}))
        self.assertEqual(self.lines()["K-1"]["quantity"], "1.5")
        answer = self.bring(
            "odd two.xlsx", [["For your eyes"], ["REF.", "what it is", "Pieces"], ["K-3", "Pin", "2,25"]]
        )
        self.assertEqual(answer["files"][1]["maps"], {"": "remembered"})
        self.assertEqual(self.lines()["K-3"]["quantity"], "2.25")
        bad = self.api.send("PUT", f"{self.at}/files/{file['id']}/map", said | {"columns": {"quantity": [7, 0]}})
        self.assertEqual((bad[0], len(bad[1]["problems"])), (422, 2))

    def test_other_files_are_kept_and_broken_ones_say_why(self) -> None:
        answer = self.bring("photo.png", b"\x89PNG")
        self.assertEqual((answer["files"][0]["role"], answer["lines"]), ("other", 0))
        answer = self.bring("broken.xlsx", b"PK\x03\x04nonsense")
        self.assertEqual(answer["files"][1]["role"], "unread")
        self.assertIn("broken.xlsx", answer["files"][1]["failed"])
        answer = self.bring("prose.csv", b"Dear all;\nnothing to see\n")
        self.assertIn("neither a list", answer["files"][2]["failed"])
        self.assertEqual(ListLine.objects.count(), 0)
        self.assertEqual(self.api.post(f"{self.at}/files/{answer['files'][1]['id']}/again", {})[0], 200)

    def test_the_board_of_a_layout(self) -> None:
        """An outline in inches, a package with a box of its own; elements of IPC-2581, from memory."""
        layout = (
            '<IPC-2581 revision="C"><Ecad><CadHeader units="INCH"/><CadData><Layer name="T" side="TOP"/><Step><Profile><Polygon>'
            '<PolyBegin x="0" y="0"/><PolyStepSegment x="2" y="0"/><PolyStepCurve x="2" y="1" centerX="2" centerY="0.5"/></Polygon></Profile>'
            '<Package name="R0603"><Outline><Polygon><PolyBegin x="-0.03" y="-0.015"/><PolyStepSegment x="0.03" y="0.015"/></Polygon></Outline>'
            '</Package><Component refDes="R1" packageRef="R0603" layerRef="T"><Location x="1" y="0.5"/></Component></Step></CadData></Ecad></IPC-2581>'
        )
        self.bring()
        self.bring("board.xml", layout.encode())
        board = self.api.get(f"{self.at}/board")[1]
        self.assertEqual(board["outline"], [[0, 0], [50.8, 0], [50.8, 25.4]])
        self.assertEqual(
            (board["extent"], board["packages"]), ([0, 0, 50.8, 25.4], {"R0603": [-0.762, -0.381, 0.762, 0.381]})
        )
        self.assertEqual(
            [(p["designator"], p["x"], p["line"]) for p in board["places"]], [("R1", 25.4, self.lines()["K-100"]["id"])]
        )
        self.assertIn("not-on-layout", [f["code"] for f in self.lines()["K-100"]["findings"]])

    def test_heads_and_builds(self) -> None:
        self.assertRegex(self.inquiry["number"], r"^I\d{4}$")
        self.assertEqual(self.api.post("/inquiries", {"title": " "})[1]["problems"][0]["place"], "title")
        for bad in ({"wanted_by": "soon"}, {"held_by": "nobody"}, {"state": "asleep"}):
            self.assertEqual(self.api.send("PATCH", self.at, bad | {"version": 1})[0], 422, bad)
        status, answer = self.api.send("PATCH", self.at, {"state": "waiting", "version": 1})
        self.assertEqual((status, answer["state"], answer["version"]), (200, "waiting", 2))
        self.assertEqual(self.api.send("PATCH", self.at, {"state": "won", "version": 1})[0], 422)
        self.assertEqual(self.api.send("PATCH", self.at, {"state": "won"})[0], 422)
        self.bring()
        top = self.lines()["QP-7"]["id"]
        status, answer = self.api.send(
            "PUT",
            f"{self.at}/builds",
            [{"line": top, "quantity": "250", "wanted_by": "2027-02-01"}, {"line": top, "quantity": "1000"}],
        )
        self.assertEqual(
            [(b["product"], b["quantity"], b["wanted_by"]) for b in answer["builds"]],
            [("QP-7", "250", "2027-02-01"), ("QP-7", "1000", None)],
        )
        bad = self.api.send("PUT", f"{self.at}/builds", [{"line": 0, "quantity": "0", "wanted_by": "x"}])
        self.assertEqual([p["place"] for p in bad[1]["problems"]], ["[0].quantity", "[0].line", "[0].wanted_by"])
        self.assertEqual([r["number"] for r in self.api.get("/inquiries")[1]], [self.inquiry["number"]])
        self.api.send("PATCH", self.at, {"state": "lost", "version": 2})
        self.assertEqual((self.api.get("/inquiries")[1], len(self.api.get("/inquiries", closed=True)[1])), ([], 1))
