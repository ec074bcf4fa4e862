"""Lists from outside: read wherever their header stands, saved whole or not at all; hostile files are turned away."""

import io
import zipfile

import xlsxwriter
from definition.models.parts import Part
from definition.models.sheets import BuildSheet, Line
from django.test import TestCase
from testing import Api, load, rod_and_tube

TITLE = [["Harbour yard"], ["Drawing", "D-204"], [], ["For quotation"], [], []]
HEADER = ["Level", "Pos", "Part No.", "Designation", "Qty", "UoM", "Ref Des"]


def workbook(rows: list[list]) -> bytes:
    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True, "strings_to_formulas": False})
    sheet = book.add_worksheet("List")
    for i, row in enumerate(rows):
        sheet.write_row(i, 0, row)
    book.close()
    return buffer.getvalue()


def archive(entries: dict[str, bytes]) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in entries.items():
            file.writestr(name, content)
    return buffer.getvalue()


class Reading(TestCase):
    def setUp(self) -> None:
        self.api = Api("engineer")

    def bring(self, name: str, content: bytes) -> dict:
        status, intake = self.api.upload(name, content)
        self.assertEqual((status, intake["state"], intake["failed"]), (200, "read", ""))
        return intake

    def mapping(self, intake: dict, **more) -> dict:
        return {"table": 0, "top": ""} | intake["tables"][0]["proposal"] | more

    def save(self, intake: dict, **more):
        return self.api.post(f"/intake/{intake['id']}/save", self.mapping(intake, **more))

    def plan(self, intake: dict, **more):
        return self.api.post(f"/intake/{intake['id']}/plan", self.mapping(intake, **more))

    def test_rows_without_a_number_take_the_next_of_a_class(self) -> None:
        load(rod_and_tube())
        self.api.post("/parts/classes", {"name": "Bought things", "prefix": "BT-", "digits": 3})
        rows = [
            ["Part No.", "Designation", "Qty"],
            ["", "Hinge", 2],
            ["ROD", "", 1],
            ["", "Latch", 1],
            ["", "hinge", 4],
            ["", "A remark", ""],
        ]
        intake = self.bring("list.xlsx", workbook(rows))
        status, plan = self.plan(intake, top="BX-9")
        self.assertEqual((status, plan["stops"]), (200, 3), "a remark that stands alone is no row")
        status, plan = self.plan(intake, top="BX-9", number_class="Bought things")
        self.assertEqual([r["part"] for r in plan["rows"]], ["BT-001", "ROD", "BT-002", "BT-001"])
        self.assertEqual(self.plan(intake, top="BX-9", number_class="Unheard")[0], 422)
        self.assertEqual(self.save(intake, top="BX-9", number_class="Bought things")[0], 200)
        made = Part.objects.filter(number__startswith="BT-").order_by("number")
        self.assertEqual(
            [(p.description, p.part_class, p.lifecycle) for p in made],
            [("Hinge", "Bought things", "draft"), ("Latch", "Bought things", "draft")],
        )

    def test_what_a_sheet_would_refuse_is_refused_in_the_preview(self) -> None:
        """The checks of the records stand before a list, too: bounds of numbers, and what a part may hold."""
        long = "R" * 61
        rows = f"part,quantity,unit cost,scrap,reference designators\nA-1,10000000000000,1,,\nA-2,1,1e13,,\nA-3,1,1,0.12345678912,\nA-4,1,1,,{long}\nA-5,1,1,1,R1\n"
        plan = self.plan(self.bring("list.csv", rows.encode()), top="BOX-3")[1]
        told = [" ".join(r["problems"]) for r in plan["rows"]]
        for text, words in zip(
            told,
            ("not a usable number", "not a usable number", "more than nine decimals", "at most 60 characters", ""),
            strict=True,
        ):
            self.assertIn(words, text)
        self.assertEqual((told[4], plan["stops"]), ("", 4))

    def test_lists_come_in_in_any_order(self) -> None:
        """The list of the whole first: its door is a bought draft then, and becomes made when the list of the door comes in."""
        whole = workbook([["Part No.", "Designation", "Qty"], ["DOOR", "", 1], ["BODY", "Body", 1]])
        door = workbook([["Part No.", "Designation", "Qty"], ["HINGE", "Hinge", 2], ["BODY", "ignored", 1]])
        self.assertEqual(self.save(self.bring("whole.xlsx", whole), top="BOX")[0], 200)
        Part.objects.filter(number="DOOR").update(unit_cost=4)
        intake = self.bring("door.xlsx", door)
        plan = self.plan(intake, top="DOOR")[1]
        self.assertEqual((plan["stops"], plan["problems"]), (0, []))
        nested = self.bring(
            "nested.csv", b"level,part,designation,qty\n1,DOOR,Door of the box,1\n2,HINGE,,2\n1,LID,,1\n"
        )
        rows = self.plan(nested, top="BOX-2")[1]["rows"]
        self.assertIn("came in as bought and is a made part from now on", rows[0]["becomes"])
        self.assertIn("its description is filled", rows[0]["becomes"])
        self.assertEqual(self.save(nested, top="BOX-2")[0], 200)
        part = Part.objects.get(number="DOOR")
        self.assertEqual(
            (part.kind, part.description, part.unit_cost, part.lifecycle), ("made", "Door of the box", 4, "draft")
        )
        self.assertEqual(part.history.first().history_change_reason, "list nested.csv")
        self.assertEqual(Part.objects.get(number="BODY").description, "Body")
        # One that was bought on purpose stays so, and is named.
        load(rod_and_tube())
        refused = self.plan(self.bring("rod.csv", b"part,qty\nNUT,1\n"), top="ROD")[1]
        self.assertIn("ROD is a bought part", refused["problems"][0])

    def test_a_numeric_cell_stays_what_it_is_and_text_of_the_other_sign_is_named(self) -> None:
        load(rod_and_tube())
        rows = [["Part No.", "Qty", "Unit cost"], ["A-1", 3.5, "12,50"], ["A-2", "0,25", 4.75], ["A-3", "3.5", 1]]
        intake = self.bring("list.xlsx", workbook(rows))
        self.assertTrue(intake["tables"][0]["proposal"]["comma"])
        plan = self.plan(intake, top="BX-7")[1]
        self.assertEqual(
            [(r["quantity"], r["unit_cost"]) for r in plan["rows"]], [("3.5", "12.5"), ("0.25", "4.75"), (None, "1")]
        )
        self.assertEqual([len(r["problems"]) for r in plan["rows"]], [0, 0, 1])
        self.assertEqual(self.save(intake, top="BX-7")[0], 422)
        intake = self.bring("list.xlsx", workbook(rows[:-1]))
        self.assertEqual(self.save(intake, top="BX-7")[0], 200)
        kept = Line.objects.filter(sheet__part__number="BX-7").order_by("position")
        self.assertEqual([(float(x.quantity), float(x.part.unit_cost)) for x in kept], [(3.5, 12.5), (0.25, 4.75)])

    def test_a_header_on_row_seven_and_three_levels(self) -> None:
        load(rod_and_tube())
        rows = [*TITLE, HEADER, [0, "", "BX-1", "Box", 1, "pcs"], [1, 10, "BX-2", "Door", 2, "pcs"], [2, 10, "HNG", "Hinge", 2, "PCE"],
                [2, 20, "ROD", "", 250, "mm"], [1, 20, "nut", "", 4, "pcs"], [1, 30, "RES", "Resistor", 3, "", "R1-R3"]]  # fmt: skip
        intake = self.bring("list.xlsx", workbook(rows))
        self.assertEqual(intake["tables"][0]["proposal"]["header"], 6)
        wanted = {
            "level": 0,
            "item": 1,
            "part": 2,
            "description": 3,
            "quantity": 4,
            "unit": 5,
            "reference_designators": 6,
        }
        self.assertEqual(intake["tables"][0]["proposal"]["columns"], wanted)
        status, plan = self.plan(intake)
        self.assertEqual((status, plan["top"], plan["stops"], plan["new_parts"]), (200, "BX-1", 0, 4))
        self.assertFalse(Part.objects.filter(number="BX-1").exists())
        status, head = self.save(intake)
        self.assertEqual((status, head["part"], head["status"]), (200, "BX-1", "draft"))
        lines = BuildSheet.objects.get(part__number="BX-2").lines
        self.assertEqual(
            [(x.part.number, str(x.quantity.normalize()), x.unit) for x in lines.all()],
            [("HNG", "2", ""), ("ROD", "2.5E+2", "mm")],
        )
        self.assertEqual(Line.objects.get(part__number="RES").reference_designators, ["R1", "R2", "R3"])
        hinge = Part.objects.get(number="HNG")
        self.assertEqual(
            (hinge.lifecycle, hinge.kind, Part.objects.get(number="BX-2").kind), ("draft", "bought", "made")
        )
        self.assertEqual(hinge.history.get().history_change_reason, "list list.xlsx")
        self.assertEqual(self.save(intake)[0], 422)

    def test_semicolons_decimal_commas_and_a_parent_column(self) -> None:
        text = "Teil;Menge;Einheit;Parent\nP-1;1,5;kg;\nP-2;2;Stk;\nP-3;0,25;m;P-2\n"
        intake = self.bring("liste.csv", text.encode("cp1252"))
        self.assertTrue(intake["tables"][0]["proposal"]["comma"])
        columns = {"part": 0, "quantity": 1, "unit": 2, "parent": 3}
        status, _ = self.save(intake, columns=columns, top="TOP")
        self.assertEqual(status, 200)
        self.assertEqual(str(Line.objects.get(part__number="P-3").quantity.normalize()), "0.25")
        self.assertEqual(Line.objects.get(part__number="P-3").sheet.part.number, "P-2")
        self.assertEqual(BuildSheet.objects.get(part__number="TOP").lines.count(), 2)

    def test_a_bad_row_is_named_and_nothing_is_saved(self) -> None:
        load(rod_and_tube())
        rows = [HEADER, [1, 10, "A B", "", 1], [1, 20, "OK", "", "many"], [3, 30, "DEEP", "", 1], [1, 40, "ROD", "", 1, "kg"], [1, 50, "NEG", "", -2],
                [1, 60, "PL\u0410TE", "", 1], [1, 70, "NUT", "", 1], [2, 10, "UNDER", "", 1]]  # fmt: skip
        intake = self.bring("list.xlsx", workbook(rows))
        parts = Part.objects.count()
        status, said = self.save(intake, top="TOP")
        self.assertEqual(status, 422)
        told = {p["place"]: p["message"] for p in said["problems"]}
        for row, words in (
            (2, "holds no blanks"),
            (3, "is not a number"),
            (4, "a level is missing"),
            (5, "kg is a mass"),
            (6, "must be more than 0"),
            (7, "easily confused"),
            (8, "is a bought part, but the list has lines under it"),
        ):
            self.assertIn(words, told[f"row {row}"])
        self.assertEqual(Part.objects.count(), parts)

    def test_a_loop_within_the_list_and_with_what_is_there(self) -> None:
        intake = self.bring("a.csv", b"parent,part,quantity\nP,Q,1\nQ,P,1\n")
        status, plan = self.plan(intake, top="P")
        self.assertIn("P → Q → P", str(plan["rows"]))
        self.assertEqual(self.save(intake, top="P")[0], 422)
        load(rod_and_tube())
        intake = self.bring("b.csv", b"part,quantity\nRT-1,1\n")
        status, said = self.save(intake, top="T-1")
        self.assertEqual(status, 422)
        self.assertIn("T-1 → RT-1 → T-1", said["message"])
        self.assertEqual(BuildSheet.objects.filter(part__number="T-1").count(), 1)

    def test_a_known_sub_assembly_stands_or_is_revised(self) -> None:
        load(rod_and_tube())
        rows = [HEADER, [1, 10, "T-1", "", 1], [2, 10, "ROD", "", 500, "mm"]]
        intake = self.bring("a.xlsx", workbook(rows))
        _, plan = self.plan(intake, top="NEW")
        self.assertEqual(plan["sheets"], ["NEW, revision A"])
        rows[2][4] = 600
        intake = self.bring("a.xlsx", workbook(rows))
        _, plan = self.plan(intake, top="NEW")
        self.assertEqual(sorted(plan["sheets"]), ["NEW, revision A", "T-1, revision B"])
        self.assertEqual(self.save(intake, top="NEW")[0], 200)
        self.assertEqual(BuildSheet.objects.get(part__number="T-1", revision="B").status, "draft")

    def test_hostile_files_are_turned_away_with_a_word(self) -> None:
        head = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa">]><x>&a;</x>'
        bomb = archive({"xl/workbook.xml": b"<x/>", "xl/worksheets/sheet1.xml": b"0" * (300 * 1024 * 1024)})
        self.assertLess(len(bomb), 1024 * 1024)
        for name, content, words in (
            ("bomb.xlsx", bomb, "unpacks to more than"),
            ("entities.xlsx", archive({"xl/workbook.xml": head}), "entities"),
            ("utf16.xlsx", archive({"xl/workbook.xml": head.decode().encode("utf-16")}), "entities"),
            ("picture.xlsx", b"\x89PNG\r\n\x1a\n" + b"0" * 500, "is not a workbook"),
            ("hollow.xlsx", archive({"xl/workbook.xml": b"<x/>"}), "cannot be read as a workbook"),
            ("other.xlsx", archive({"word/document.xml": b"<x/>"}), "is not a workbook"),
            ("book.csv", workbook([["a"]]), "is not text"),
            ("raw.csv", b"a,b\x00c\n", "is not text"),
            ("list.exe", b"MZ", "neither CSV nor XLSX nor ODS"),
            ("empty.csv", b"", "is empty"),
        ):
            status, intake = self.api.upload(name, content)
            self.assertEqual((status, intake["state"]), (200, "failed"), name)
            self.assertIn(words, intake["failed"], name)
        status, said = self.api.upload("large.csv", b"a" * (60 * 1024 * 1024))
        self.assertEqual(status, 413)
        self.assertIn("at most 20 MB", said["message"])

    def test_another_persons_list_is_not_shown(self) -> None:
        intake = self.bring("a.csv", b"part,quantity\nA,1\n")
        self.assertEqual(Api("accountant").get(f"/intake/{intake['id']}")[0], 404)
