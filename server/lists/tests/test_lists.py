"""Lists for their readers: rows as they stand, columns, order, what is kept out, the files, and what is kept.

Figures are worked out by hand from the rules (a line with 5 % scrap takes 2 · 1.05); workbooks are read back by openpyxl, and
PDF by pypdf, which know nothing of us.
"""

import csv
import io
import json
import unittest
import zipfile
from typing import Any

import openpyxl
from definition.models.sheets import BuildSheet
from demo.definition import demo_bundle
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from formats.tests.spreadsheet_program import PROGRAM, opened_and_saved
from PIL import Image
from pypdf import PdfReader
from testing import Api, load, rod_and_tube, sheet_of

from lists.models import KeptList


def picture(size: tuple[int, int] = (640, 480), kind: str = "PNG") -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", size, (20, 90, 160)).save(buffer, kind)
    return buffer.getvalue()


class Lists(TestCase):
    def setUp(self) -> None:
        document = rod_and_tube("released")
        document["parts"][0] |= {"description": "=Rod", "material": "S235", "own_values": {}}
        document["build_sheets"][0]["lines"].append({"kind": "text", "text": "Mind the edge."})
        load(document)
        self.api = Api("engineer")

    def look(self, *columns: str, **asked: Any) -> list[list[Any]]:
        status, made = self.api.get("/lists/look", part="RT-1", column=list(columns), **asked)
        self.assertEqual(status, 200, made)
        self.made = made
        return [row["cells"] for row in made["rows"]]

    def file(self, shape: str | list[str], *columns: str, **asked: Any) -> bytes:
        asked = {"part": "RT-1", **asked}
        response = self.api.client.get("/api/lists/file", {"shape": shape, "column": list(columns)} | asked)
        self.assertEqual(response.status_code, 200, response.content)
        return response.content

    def test_rows_stand_by_their_arrangement(self) -> None:
        columns = ("level", "number", "quantity", "unit", "needed")
        expected = [
            [0, "RT-1", 1, "ea", 10], [1, "ROD", 2, "m", 21], [1, "T-1", 1, "ea", 10], [2, "ROD", 500, "mm", 5], [1, "NUT", 4, "ea", 40],
        ]  # fmt: skip
        rows = self.look(*columns, quantity="10")
        self.assertEqual([row for row in rows if row[1]], expected)
        self.assertEqual([(r["kind"], r["number"]) for r in self.made["rows"]][-1], ("text", ""))
        one = self.look(*columns, quantity="10", arrangement="one level")
        self.assertEqual([row for row in one if row[1]], [row for row in expected if row[0] == 1])
        # Every part once: 2.1 m and half a metre within the tube.
        self.assertEqual(
            self.look("number", "quantity", "needed", arrangement="summed", quantity="10"),
            [["NUT", 4, 40], ["ROD", 2.6, 26], ["T-1", 1, 10]],
        )
        self.assertEqual(self.look("number", "needed", arrangement="top"), [["NUT", 4], ["ROD", 2.1], ["T-1", 1]])
        self.assertEqual(self.look("number", "needed", "kind", arrangement="products"), [["RT-1", 1, "made"]])
        taken = self.look("item", "number", "description", "operation", arrangement="operations")
        self.assertEqual(
            [(row[0], row[1] or row[2]) for row in taken],
            [(10, "Turn · LATHE"), (10, "ROD"), (None, "Mind the edge."), (20, "Fit · LATHE"), (20, "T-1"), (30, "NUT")],
        )
        self.assertEqual(taken[1][3], "10 Turn")

    def test_every_level_adds_up_to_every_part_once(self) -> None:
        """On the demo's product, two ways to the same needs."""
        load(demo_bundle())
        asked = {"part": "HL-155", "drafts": "true"}
        deep = json.loads(self.file("list-json", "number", "kind", "needed", **asked))["rows"]
        flat = json.loads(self.file("list-json", "number", "kind", "needed", arrangement="summed", **asked))
        sums: dict[str, float] = {}
        for row in deep[1:]:
            if row["kind"] in ("bought", "made") and row["cells"][2] is not None:
                sums[row["cells"][0]] = sums.get(row["cells"][0], 0.0) + row["cells"][2]
        self.assertGreater(len(flat["rows"]), 15)
        for row in flat["rows"]:
            if row["kind"] != "charge":
                self.assertAlmostEqual(sums[row["cells"][0]], row["cells"][2], places=6, msg=row["cells"][0])

    def test_columns_order_and_what_is_kept_out(self) -> None:
        rows = self.look("number", "each=Preis je Stück", arrangement="summed", sort="each")
        self.assertEqual([r[0] for r in rows], ["NUT", "T-1", "ROD"])
        self.assertEqual([c["title"] for c in self.made["columns"]], ["Part", "Preis je Stück"])
        rows = self.look("number", "each", arrangement="summed", sort="each", down="true")
        self.assertEqual([r[0] for r in rows], ["ROD", "T-1", "NUT"])
        # Sorted within what takes them: the tree stays a tree.
        self.assertEqual([r[0] for r in self.look("number", sort="number")][:5], ["RT-1", "NUT", "ROD", "T-1", "ROD"])
        rows = self.look("number", keep_out=["part:T-1", "kind:text"])
        self.assertEqual([r[0] for r in rows], ["RT-1", "ROD", "NUT"])
        # The tube, the rod within it, and the words.
        self.assertEqual((self.made["kept_out"], self.made["kinds"]), (3, ["bought", "made", "text"]))

    def test_fields_of_a_class_are_columns(self) -> None:
        fields = [
            {"name": "finish", "kind": "text"}, {"name": "weight", "kind": "number"},
            {"name": "double", "kind": "computed", "expression": "weight * 2"},
        ]  # fmt: skip
        document = rod_and_tube("released") | {"part_classes": [{"name": "tubes", "fields": fields}]}
        document["parts"][2] |= {"part_class": "tubes", "own_values": {"finish": "ground", "weight": "1.5"}}
        load(document)
        rows = self.look("number", "own:finish=Surface", "own:double", arrangement="summed")
        self.assertEqual({r[0]: r[1:] for r in rows}["T-1"], ["ground", 3])
        self.assertEqual({r[0]: r[1:] for r in rows}["ROD"], ["", ""])
        self.assertIn("own:finish", {c["key"] for c in self.api.get("/lists/words")[1]["columns"]})
        self.look("number", keep_out=["class:tubes"])
        self.assertEqual((self.made["kept_out"], self.made["classes"]), (2, ["tubes"]))

    def test_a_workbook_carries_its_pictures_and_text_stays_text(self) -> None:
        for name, kind in (("rod.png", "PNG"), ("second.jpg", "JPEG")):
            self.assertEqual(self.api.upload(name, picture(kind=kind), "/parts/one/files?number=ROD")[0], 200)
        content = self.file("list-xlsx", "number", "description", "picture", "quantity", "tick")
        sheet = openpyxl.load_workbook(io.BytesIO(content)).active
        cells = [[c.value for c in row] for row in sheet.iter_rows()]
        self.assertEqual(cells[0], ["Part", "Description", "Picture", "Quantity", "Checked"])
        self.assertEqual([row[1] for row in cells if row[0] == "ROD"], ["=Rod", "=Rod"])
        self.assertEqual({sheet.cell(3, 2).data_type, sheet.cell(5, 2).data_type}, {"s"})
        anchored = sorted((i.anchor._from.row, i.anchor._from.col) for i in sheet._images)
        self.assertEqual(anchored, [(2, 2), (4, 2)])
        self.assertEqual({(i.width, i.height) for i in sheet._images}, {(240, 180)})
        self.assertEqual(cells[2][3], 2)
        # Beneath the product and deeper: each further in.
        self.assertEqual([sheet.cell(r, 1).alignment.indent for r in (2, 3, 5)], [0, 1, 2])

    @unittest.skipUnless(PROGRAM, "no spreadsheet program is installed")
    def test_a_spreadsheet_program_shows_its_pictures_and_calculates_no_text(self) -> None:
        self.assertEqual(self.api.upload("rod.png", picture(), "/parts/one/files?number=ROD")[0], 200)
        content = self.file("list-xlsx", "number", "description", "picture", "quantity")
        page = opened_and_saved(content).active
        rows = [[c.value for c in row] for row in page.iter_rows()]
        self.assertEqual([row[1] for row in rows if row[0] == "ROD"], ["=Rod", "=Rod"])
        rods = [at for at, row in enumerate(rows) if row[0] == "ROD"]
        self.assertEqual(sorted((i.anchor._from.row, i.anchor._from.col) for i in page._images), [(at, 2) for at in rods])

    def test_it_prints_with_pictures_and_boxes(self) -> None:
        self.api.upload("rod.png", picture(), "/parts/one/files?number=ROD")
        content = self.file("list-pdf", "number", "description", "picture", "quantity", "tick", decimal=",", quantity="2.5")
        page = PdfReader(io.BytesIO(content)).pages[0]
        text = page.extract_text()
        for words in ("RT-1", "=Rod", "Checked", "Mind the edge."):
            self.assertIn(words, text)
        self.assertGreaterEqual(len(page.images), 1)

    def test_text_of_a_reader_with_a_comma(self) -> None:
        content = self.file("list-csv", "number=Teil", "needed=Bedarf", "description", arrangement="summed", decimal=",")
        rows = list(csv.reader(io.StringIO(content.decode("utf-8-sig")), delimiter=";"))
        self.assertEqual(rows[0], ["Teil", "Bedarf", "Description"])
        self.assertEqual(rows[2], ["ROD", "2,6", "'=Rod"])
        point = self.file("list-csv", "number", "needed", arrangement="summed").decode("utf-8-sig")
        self.assertIn("ROD,2.6", point)

    def test_one_place_for_every_shape_of_one_product_or_several(self) -> None:
        for shape, begins in (
            ("calculates", b"PK"),
            ("costs-csv", b"\xef\xbb\xbflevel"),
            ("costs-pdf", b"%PDF"),
            ("bundle", b"{"),
            ("cyclonedx", b"{"),
            ("list-json", b"{"),
            ("list-pdf", b"%PDF"),
        ):
            self.assertTrue(self.file(shape).startswith(begins), shape)
        content = self.file(["list-xlsx", "calculates", "list-json"], part=["RT-1", "T-1"])
        with zipfile.ZipFile(io.BytesIO(content)) as held:
            self.assertEqual(
                sorted(held.namelist()),
                ["RT-1-A.list.json", "RT-1-A.list.xlsx", "RT-1-A.xlsx", "T-1-A.list.json", "T-1-A.list.xlsx", "T-1-A.xlsx", "manifest.json"],
            )  # fmt: skip
        # A revision that is not in force leaves when it is chosen.
        draft = self.api.post("/sheets", {"part": "RT-1", "copy_of": sheet_of("RT-1").pk})[1]
        self.assertTrue(self.file("list-json", sheet=draft["id"], drafts="true"))
        for wrong in ({"shape": "exe"}, {"part": "NONE", "shape": "list-csv"}, {"part": "NUT", "shape": "list-csv"}, {"shape": "list-csv", "column": "nothing"},
                      {"shape": "list-csv", "sort": "nothing", "column": "number"}, {"shape": "list-csv", "decimal": "x"}, {"shape": "list-csv", "keep_out": "all"},
                      {"shape": "list-csv", "column": "number=" + "x" * 200}, {"shape": "list-csv", "arrangement": "round"}):  # fmt: skip
            status, said = self.api.get("/lists/file", **({"part": "RT-1"} | wrong))
            self.assertIn(status, (404, 422), wrong)
            self.assertTrue(said["message"])

    def test_what_is_kept_is_ones_own_or_for_all(self) -> None:
        wanted = {"arrangement": "summed", "columns": [{"key": "number", "title": "Teil"}, {"key": "needed", "title": "Bedarf"}], "sort": "needed", "down": True, "keep_out": ["kind:made"], "decimal": ","}  # fmt: skip
        status, kept = self.api.post("/lists/kept", wanted | {"name": "For the saw", "for_all": True})
        self.assertEqual((status, kept[0]["name"], kept[0]["columns"]), (200, "For the saw", wanted["columns"]))
        self.assertEqual(self.api.post("/lists/kept", wanted | {"name": "Mine"})[0], 200)
        viewer, buyer = Api("viewer"), Api("buyer")
        self.assertEqual([k["name"] for k in viewer.get("/lists/words")[1]["kept"]], ["For the saw"])
        # By its key alone a program or a colleague gets the list as it was meant.
        rows = viewer.client.get("/api/lists/file", {"part": "RT-1", "shape": "list-csv", "kept": kept[0]["id"]})
        self.assertEqual(rows.content.decode("utf-8-sig").splitlines(), ["Teil;Bedarf", "NUT;4", "ROD;2,6"])
        self.assertEqual(viewer.post("/lists/kept", wanted | {"name": "Look", "for_all": True})[0], 403)
        self.assertEqual(viewer.post("/lists/kept", wanted | {"name": "Look"})[0], 200)
        self.assertEqual(buyer.post("/lists/kept", wanted | {"name": "For the saw", "for_all": True})[0], 422)
        self.assertEqual(viewer.post(f"/lists/kept/{kept[0]['id']}/drop", {})[0], 403)
        own = KeptList.objects.get(name="Mine").pk
        self.assertEqual(buyer.post(f"/lists/kept/{own}/drop", {})[0], 404)
        self.assertEqual(buyer.get("/lists/look", part="RT-1", kept=own)[0], 404)
        self.assertEqual(buyer.post(f"/lists/kept/{kept[0]['id']}/drop", {})[0], 200)
        self.assertEqual(list(KeptList.objects.order_by("name").values_list("name", flat=True)), ["Look", "Mine"])
        for wrong in ({"name": ""}, {"name": "a\nb"}, {"name": "x", "columns": [{"key": "nothing", "title": ""}]}):
            self.assertEqual(self.api.post("/lists/kept", wanted | wrong)[0], 422)

    def test_queries_do_not_grow_with_the_list(self) -> None:
        columns = [c["key"] for c in self.api.get("/lists/words")[1]["columns"]]
        asked = {"part": "RT-1", "column": columns}

        def queries() -> int:
            with CaptureQueriesContext(connection) as seen:
                self.assertEqual(self.api.get("/lists/look", **asked)[0], 200)
            return len(seen)

        before = queries()
        document = rod_and_tube("released")
        document["parts"] += [{"number": f"P{n}", "kind": "bought", "unit": "ea", "supplier": f"Firm {n}"} for n in range(30)]
        document["build_sheets"][1]["lines"] += [{"part": f"P{n}", "quantity": "1"} for n in range(30)]
        BuildSheet.objects.filter(part__number="T-1").update(status="draft")
        document["build_sheets"][1] |= {"revision": "B"}
        load(document)
        self.assertEqual(queries(), before)
