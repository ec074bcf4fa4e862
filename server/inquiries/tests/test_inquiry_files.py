"""Files of an inquiry: later revisions, maps by hand, layouts, what is broken; its head and builds."""

from decimal import Decimal

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from django.db import transaction

from inquiries.models import Decision, ListLine
from inquiries.tests.at_work import LIST, InquiryCase


class InquiryFiles(InquiryCase):
    def test_a_later_revision_is_read_as_a_change(self) -> None:
        self.bring()
        self.decide_all()
        first_seal = self.api.get(f"{self.at}/result")[1]["seal"]
        self.api.post(f"{self.at}/result", {})
        sheet = BuildSheet.objects.get()
        # Somebody adds what stands on no list, and sets a scrap; both stay.
        first = sheet.lines.get(part__number="RES-1")
        self.api.post(
            f"/sheets/{sheet.pk}/edits",
            {
                "version": sheet.version,
                "changes": [
                    {"table": "line", "id": str(first.pk), "before": {"scrap_percent": None}, "after": {"scrap_percent": "3"}},
                    {
                        "table": "line",
                        "id": "11111111-1111-4111-8111-111111111111",
                        "before": None,
                        "after": {"part": "CAP-2", "quantity": "0.5", "item": 90, "position": 9},
                    },
                ],
            },
        )
        later = [
            *LIST[:4],
            [1, "K-100", "Resistor 10k 1% 0603", "Nordry / NR-0603-10K", 3, "R1, R2, R5"],
            [3, "K-102", "Housing, moulded", "", 1, ""],
            [4, "K-109", "Washer", "", 4, ""],
        ]
        answer = self.bring("list rev B.xlsx", later)
        self.assertEqual([f["replaced_by"] is not None for f in answer["files"]], [True, False])
        self.assertEqual(answer["files"][1]["taken"], ["K-101 Capacitor 100 nF 25 V X7R 0603, row 6"])
        found = self.lines()
        self.assertEqual(found["K-100"]["changed"], {"quantity": "2", "designators": "R1 R2"})
        self.assertEqual((found["K-109"]["changed"], found["K-102"]["changed"]), ({"": "added"}, {}))
        self.assertEqual(
            {n: x["state"] for n, x in found.items()}, {"QP-7": "paired", "K-100": "paired", "K-102": "paired", "K-109": "open"}
        )
        self.decide("K-109", "out")
        seen = self.api.get(f"{self.at}/result")[1]
        planned = seen["sheets"][0]
        self.assertEqual(
            [(x["verb"], x["part"], x["words"]) for x in planned["lines"]],
            [
                ("changed", "RES-1", "quantity 2 → 3, designators R1 R2 → R1 R2 R5"),
                ("stays", "K-102", "as it stands"),
                ("gone", "CAP-1", "taken away"),
                ("not from a list", "CAP-2", "not from a list"),
            ],
        )
        # Somebody changed the list since that was seen: what was not seen is not saved.
        self.assertNotEqual(seen["seal"], first_seal)
        status, refused = self.api.post(f"{self.at}/result", {"seal": first_seal})
        self.assertEqual((status, "has changed since it was shown" in refused["message"]), (422, True))
        self.assertEqual(sheet.lines.count(), 4)
        self.assertEqual(self.api.post(f"{self.at}/result", {"seal": seen["seal"]})[0], 200)
        lines = sheet.lines.all()
        self.assertEqual(
            {x.part.number: (float(x.quantity), x.scrap_percent and float(x.scrap_percent)) for x in lines},
            {"RES-1": (3.0, 3.0), "K-102": (1.0, None), "CAP-2": (0.5, None)},
        )
        # The file taken away, the one before counts again.
        newest = answer["files"][1]["id"]
        self.assertEqual(self.api.post(f"{self.at}/files/{newest}/drop", {})[0], 200)
        self.assertEqual(set(self.lines()), {"QP-7", "K-100", "K-101", "K-102"})
        # With what was decided on its lines, and where the sheet's lines came from.
        self.assertEqual(Decision.objects.filter(line__said__part="K-100", verb="take").count(), 1)
        came = self.api.get(f"/inquiries/origins/{sheet.pk}")[1]["lines"]
        self.assertEqual({x["file"] for x in came.values()}, {"list.xlsx"})

    def test_what_a_list_says_of_parts_is_filled_where_they_say_nothing(self) -> None:
        """Material and link from any list; where we buy and what it costs only from one of our own."""
        rows = [
            ["Assembly", "QP-7"],
            ["Part no", "Description", "Qty", "Material", "Supplier", "Supplier part no", "Link", "Unit cost"],
            ["CAP-1", "Capacitor 100 nF 25 V X7R 0603", 2, "ceramic", "Fathom", "F-77", "https://fathom.example/f77", "0.02"],
            ["RES-1", "Resistor", 2, "", "", "", "javascript:alert(1)", ""],
            ["NEW-1", "Bracket", 1, "S235", "Quay Metals", "QM-1", "https://quay.example/1", "3.50"],
        ]
        Part.objects.filter(number="CAP-1").update(description="")
        for own in (False, True):
            with self.subTest(own=own), transaction.atomic():
                if own:
                    self.at = self.api.inquiry()
                self.bring(rows=rows)
                self.assertEqual([self.lines()[n]["material"] for n in ("CAP-1", "NEW-1")], ["ceramic", "S235"])
                new = [x for x in self.lines().values() if x["state"] == "open" and not x["proposals"][0]]
                self.api.post(f"{self.at}/parts", [{"line": x["id"], "seen": x["stamp"]} for x in new])
                for number in ("CAP-1", "RES-1"):
                    self.decide(number, "take", number)
                seen = self.api.get(f"{self.at}/result")[1]
                shown = {(x["part"], x["field"]): x["text"] for x in seen["filled"]}
                whole = {
                    ("CAP-1", "description"): "Capacitor 100 nF 25 V X7R 0603",
                    ("CAP-1", "material"): "ceramic",
                    ("CAP-1", "link"): "https://fathom.example/f77",
                }
                self.assertEqual(shown, whole | ({("CAP-1", "supplier"): "Fathom", ("CAP-1", "supplier's number"): "F-77"} if own else {}))
                status, said = self.api.post(f"{self.at}/result", {"seal": seen["seal"]})
                self.assertEqual(status, 200, said)
                cap, new_one = (Part.objects.get(number=n) for n in ("CAP-1", "NEW-1"))
                self.assertEqual(
                    (cap.material, cap.supplier_link, cap.supplier_id, cap.supplier_number),
                    ("ceramic", "https://fathom.example/f77", *(("Fathom", "F-77") if own else (None, ""))),
                )
                self.assertEqual(
                    (new_one.material, new_one.supplier_id, new_one.unit_cost),
                    ("S235", "Quay Metals" if own else None, Decimal("3.5") if own else None),
                )
                # What a part says stays as it says it.
                self.assertEqual(Part.objects.get(number="RES-1").description, "Resistor 10 kΩ 1 % 0.1 W 0603")
                self.assertIn("inquiry", cap.history.first().history_change_reason)
                transaction.set_rollback(True)

    def test_columns_named_like_fields_of_a_class_come_with_the_parts(self) -> None:
        """A new part has them, ours get what they lack; what is no value of its field is not taken, and another revision says what changed."""
        self.api.post(
            "/parts/classes",
            {
                "name": "Bars",
                "fields": [
                    {"name": "length_mm", "kind": "number", "unit": "mm"},
                    {"name": "finish", "kind": "choice", "choices": ["bright", "black"]},
                ],
            },
        )
        self.api.patch("/parts/one?number=CAP-1", {"part_class": "Bars", "own_values": {"finish": "bright"}})
        self.api.patch("/parts/one?number=CAP-2", {"part_class": "Bars"})
        rows = [
            ["Assembly", "QP-7"],
            ["Part no", "Description", "Qty", "Length (mm)", "Finish"],
            ["CAP-1", "Capacitor 100 nF 50 V X7R 0603", 2, "12,5", "Black"],
            ["CAP-2", "Capacitor 100 nF 25 V X7R 0805", 2, 40, "pink"],
            ["NEW-1", "Bar", 1, 300, "Black"],
            ["NEW-2", "Bar, bent", 1, "as drawn", ""],
        ]
        answer = self.bring(rows=rows)
        self.assertEqual(self.lines()["CAP-1"]["own_fields"], "finish Black; length mm 12.5")
        # What is no number is said, and keeps no sheet from being made.
        (found,) = [f for f in self.lines()["NEW-2"]["findings"] if f["code"] == "unread"]
        self.assertEqual((found["severity"], found["field"], "length mm" in found["message"]), ("look", "own_fields", True))
        for number in ("CAP-1", "CAP-2"):
            self.decide(number, "take", number)
        # What is none of a field's choices is said once its part is known.
        (found,) = [f for f in self.lines()["CAP-2"]["findings"] if f["code"] == "no-value"]
        self.assertEqual((found["severity"], found["message"]), ("look", "finish “pink”: choose one of bright, black"))
        self.assertFalse([f for f in self.lines()["CAP-1"]["findings"] if f["code"] == "no-value"])
        new = {n: x for n, x in self.lines().items() if x["state"] == "open"}
        body = [
            {"line": x["id"], "seen": x["stamp"]} | ({"part_class": "Bars", "number": n} if n == "NEW-1" else {}) for n, x in new.items()
        ]
        status, said = self.api.post(f"{self.at}/parts", body)
        self.assertEqual(status, 200, said)
        seen = self.api.get(f"{self.at}/result")[1]
        shown = {(x["part"], x["field"]): x["text"] for x in seen["filled"]}
        self.assertEqual(shown, {("CAP-1", "length mm"): "12.5", ("CAP-2", "length mm"): "40"})
        self.assertEqual(self.api.post(f"{self.at}/result", {"seal": seen["seal"]})[0], 200)
        kept = {p.number: p.own_values for p in Part.objects.filter(part_class="Bars")}
        self.assertEqual(kept["CAP-1"], {"finish": "bright", "length_mm": "12.5"})
        self.assertEqual((kept["CAP-2"], kept["NEW-1"]), ({"length_mm": "40"}, {"length_mm": "300", "finish": "black"}))
        # Said by hand what a column holds; a field that no class has is refused.
        at = f"{self.at}/files/{answer['files'][0]['id']}/map"
        columns = {"part": [0, 0], "quantity": [2, 0], "own: finish": [1, 0]}
        status, said = self.api.send("PUT", at, {"sheet": "", "header": 1, "columns": columns | {"own: colour": [3, 0]}, "commas": {}})
        self.assertEqual((status, "colour" in str(said)), (422, True))
        status, said = self.api.send("PUT", at, {"sheet": "", "header": 1, "columns": columns, "commas": {}})
        self.assertEqual(status, 200, said)
        self.assertEqual(self.lines()["NEW-1"]["own_fields"], "finish Bar")
        # A later revision of the list is read so, too, and says what it said before.
        rows[4][1] = "Rod"
        self.bring("later.xlsx", rows)
        self.assertEqual(self.lines()["NEW-1"]["changed"], {"own_fields": "finish Bar"})

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
        answer = self.bring("odd two.xlsx", [["For your eyes"], ["REF.", "what it is", "Pieces"], ["K-3", "Pin", "2,25"]])
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
        (board,) = self.api.get(f"{self.at}/boards")[1]
        self.assertEqual(board["name"], "QP-7")
        self.assertEqual(board["outline"], [[0, 0], [50.8, 0], [50.8, 25.4]])
        self.assertEqual((board["extent"], board["packages"]), ([0, 0, 50.8, 25.4], {"R0603": [-0.762, -0.381, 0.762, 0.381]}))
        self.assertEqual([(p["designator"], p["x"], p["line"]) for p in board["places"]], [("R1", 25.4, self.lines()["K-100"]["id"])])
        self.assertIn("not-on-layout", [f["code"] for f in self.lines()["K-100"]["findings"]])

    def test_a_later_layout_takes_the_place_of_the_earlier(self) -> None:
        """Placement files as programs write them, from memory."""
        titles = ["Designator", "Footprint", "X (mm)", "Y (mm)", "Rotation", "Side"]
        rows = [["R1", "0603", 10, 5, 0, "top"], ["R2", "0603", 12, 5, 0, "top"], ["C1", "0805", 20, 5, 90, "top"]]
        self.bring()
        self.bring("places.xlsx", [titles, *rows])
        self.assertIn("0603", self.api.get(f"{self.at}/lines/{self.lines()['K-100']['id']}")[1]["layout"])
        answer = self.bring("places later.xlsx", [titles, *rows[:2], ["C1", "0805", 22, 5, 90, "bottom"], ["R3", "0402", 14, 5, 0, "top"]])
        early, late = answer["files"][1:]
        self.assertEqual((early["replaced_by"], late["role"]), (late["id"], "layout"))
        self.assertIn("against places.xlsx: new: R3; moved: C1; on another side: C1", late["troubles"])
        self.assertEqual(sorted(p["x"] for p in self.api.get(f"{self.at}/boards")[1][0]["places"]), [10, 12, 14, 22])
        # Gone again, the earlier one counts.
        self.assertEqual(self.api.post(f"{self.at}/files/{late['id']}/drop", {})[0], 200)
        self.assertEqual(sorted(p["x"] for p in self.api.get(f"{self.at}/boards")[1][0]["places"]), [10, 12, 20])
        # Another board has names of its own for what stands elsewhere; that is said, and both count.
        other = self.bring("other board.xlsx", [titles, ["R1", "0603", 100, 50, 0, "top"], ["R2", "0603", 12, 5, 0, "top"]])["files"][-1]
        self.assertEqual(other["troubles"], ["places.xlsx has R1 elsewhere: the two are held for two boards"], other["troubles"])
        self.assertIsNone(self.api.get(self.at)[1]["files"][1]["replaced_by"])
        # A later one of the other board: both are said.
        rows[1] = ["R2", "0603", 13, 5, 0, "top"]
        files = self.bring("later still.xlsx", [titles, *rows])["files"]
        self.assertEqual((files[1]["replaced_by"], files[-2]["replaced_by"]), (files[-1]["id"], None))
        self.assertEqual(len(files[-1]["troubles"]), 2)

    def test_an_apparatus_of_two_boards(self) -> None:
        """Both have their R1; a line is held against the layout of its own board, and each board is shown by itself."""
        titles = ["Designator", "Footprint", "X (mm)", "Y (mm)", "Rotation", "Side"]
        rows = [["Level", "Part", "Quantity", "Designators", "Description"], [0, "BOX-1"], [1, "PCB-A", 1], [2, "RES-1", 2, "R1, R2", "Resistor 10k 0805"],
                [1, "PCB-B", 1], [2, "RES-2", 2, "R1, R2", "Resistor 22k 0805"], [2, "CAP-2", 1, "C1", "Capacitor 100n"]]  # fmt: skip
        self.bring("box.xlsx", rows)
        self.bring("a.xlsx", [titles, ["R1", "0805", 1, 1, 0, "top"], ["R2", "0805", 2, 1, 0, "top"]])
        self.bring("b.xlsx", [titles, ["R1", "0603", 7, 9, 0, "top"], ["R2", "0603", 8, 9, 0, "bottom"], ["C1", "0402", 9, 9, 0, "top"]])
        lines = self.lines()
        codes = {name: [f["code"] for f in lines[name]["findings"] if "layout" in f["code"]] for name in ("RES-1", "RES-2", "CAP-2")}
        self.assertEqual(codes, {"RES-1": [], "RES-2": ["case-size-of-layout"], "CAP-2": []})
        # The row that the list is for needs no quantity.
        self.assertEqual(lines["BOX-1"]["findings"], [])
        layout = [self.api.get(f"{self.at}/lines/{lines[name]['id']}")[1]["layout"] for name in ("RES-1", "RES-2")]
        self.assertEqual(layout, ["2 of 2 places; 0805; top", "2 of 2 places; 0603; bottom and top"])
        boards = self.api.get(f"{self.at}/boards")[1]
        self.assertEqual([(b["name"], b["extent"]) for b in boards], [("PCB-A", [1, 1, 2, 1]), ("PCB-B", [7, 9, 9, 9])])
        self.assertEqual({p["line"] for p in boards[0]["places"]}, {lines["RES-1"]["id"]})
        # The layout of one of them gone, nothing is said of its lines any more.
        files = self.api.get(self.at)[1]["files"]
        self.assertEqual(self.api.post(f"{self.at}/files/{files[2]['id']}/drop", {})[0], 200)
        gone = self.lines()["RES-2"]
        self.assertEqual([f["code"] for f in gone["findings"]], [])
        self.assertEqual(self.api.get(f"{self.at}/lines/{gone['id']}")[1]["layout"], "")

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
            "PUT", f"{self.at}/builds", [{"line": top, "quantity": "250", "wanted_by": "2027-02-01"}, {"line": top, "quantity": "1000"}]
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
