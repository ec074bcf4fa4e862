"""``./tally read``: lists, workbooks, placements and layouts as one neutral reading, and what is turned away."""

import io
import json
import sys
import tempfile
from pathlib import Path
from unittest.mock import patch

from django.core.management import call_command
from django.test import SimpleTestCase
from openpyxl import Workbook

from formats.neutral import read_table

#: A board by IPC-2581, written by hand; the names of elements and attributes are from memory.
LAYOUT = """<?xml version="1.0" encoding="UTF-8"?>
<IPC-2581 revision="B" xmlns="http://webstds.ipc.org/2581">
 <LogisticHeader><Enterprise id="E1" name="Ohmwerk" code="x"/></LogisticHeader>
 <Bom name="board"><BomHeader assembly="board"/>
  <BomItem OEMDesignNumberRef="RES-1" quantity="2" category="ELECTRICAL"><RefDes name="R1" packageRef="0603" populate="true"/>
   <RefDes name="R2" packageRef="0603" populate="false"/>
   <Characteristics><Textual textualCharacteristicName="DESCRIPTION" textualCharacteristicValue="10 kOhm"/></Characteristics></BomItem>
  <BomItem OEMDesignNumberRef="CAP-1" quantity="1"><RefDes name="C9" packageRef="0805" populate="true"/></BomItem>
 </Bom>
 <Ecad name="board"><CadHeader units="INCH"/><CadData><Layer name="TOP" side="TOP"/><Layer name="BOT" side="BOTTOM"/>
  <Step name="board">
   <Component refDes="R1" packageRef="0603" layerRef="TOP"><Xform rotation="90.0"/><Location x="1.0" y="-0.5"/></Component>
   <Component refDes="R2" packageRef="0603" layerRef="BOT"><Location x="0.1" y="0"/></Component>
   <Component refDes="U7" packageRef="QFN" layerRef="TOP"><Xform rotation="-90"/><Location x="0" y="0"/></Component>
  </Step></CadData></Ecad>
 <Avl name="avl"><AvlItem OEMDesignNumber="RES-1"><AvlVmpn><AvlMpn name="OW-10K"/><AvlVendor enterpriseRef="E1"/></AvlVmpn></AvlItem></Avl>
</IPC-2581>
"""


def workbook(*rows: list) -> bytes:
    book, out = Workbook(), io.BytesIO()
    sheet = book.active
    assert sheet is not None
    for row in rows:
        sheet.append(row)
    book.save(out)
    return out.getvalue()


class Reading(SimpleTestCase):
    def read(self, *files: tuple[str, bytes]) -> tuple[int, dict, str]:
        out, wrong, code = io.StringIO(), io.StringIO(), 0
        with tempfile.TemporaryDirectory() as folder, patch.object(sys, "stderr", wrong):
            paths = []
            for name, content in files:
                paths.append(str(Path(folder) / name))
                Path(paths[-1]).write_bytes(content)
            try:
                call_command("read", *paths, "--json", stdout=out)
            except SystemExit as stop:
                code = int(stop.code or 0)
        return code, json.loads(out.getvalue() or "{}"), wrong.getvalue()

    def test_a_workbook_whose_numbers_stay_numbers(self) -> None:
        """3.5 that the file calls a number stays 3.5 beside text with a decimal comma."""
        content = workbook(
            ["Lamp"],
            [],
            ["Pos", "Part", "Description", "Menge", "Maker", "MPN"],
            [10, "ROD", "Rod", 3.5, None, None],
            [20, "BAR", "Bar", "12,50 m", "Ohmwerk", "OW-1"],
            ["Total", None, None, 16],
        )
        code, said, _ = self.read(("lamp.xlsx", content))
        self.assertEqual((code, said["problems"], "places" in said), (0, [], False))
        self.assertEqual(
            said["rows"],
            [
                {"row": 4, "item": 10, "part": "ROD", "description": "Rod", "quantity": "3.5"},
                {
                    "row": 5,
                    "item": 20,
                    "part": "BAR",
                    "description": "Bar",
                    "quantity": "12.5",
                    "unit": "m",
                    "maker": "Ohmwerk",
                    "maker_number": "OW-1",
                },
            ],
        )

    def test_an_item_that_is_a_digit_and_no_number_stays_text(self) -> None:
        """A raised figure (Unicode: a digit, and not a decimal one) cannot be read as a number by Python."""
        said = read_table([["Pos", "Part", "Qty"], ["³", "A-1", "1"], ["20", "A-2", "1"]])
        self.assertEqual([row["item"] for row in said.rows], ["³", 20])

    def test_a_layout_with_its_bill(self) -> None:
        code, said, _ = self.read(("board.xml", LAYOUT.encode()))
        self.assertEqual(code, 0)
        place = {"designator": "R1", "package": "0603", "x_mm": "25.4", "y_mm": "-12.7", "rotation": "90", "side": "top", "fitted": True}
        self.assertEqual(said["places"][0], place)
        self.assertEqual(
            [(p["side"], p["fitted"], p["rotation"]) for p in said["places"][1:]], [("bottom", False, "0"), ("top", True, "270")]
        )
        row = {
            "row": 1,
            "part": "RES-1",
            "description": "10 kOhm",
            "quantity": "2",
            "maker": "Ohmwerk",
            "maker_number": "OW-10K",
            "designators": ["R1", "R2"],
            "not_fitted": False,
        }
        self.assertEqual(said["rows"][0], row)
        self.assertEqual(
            [p["message"] for p in said["problems"]], ["U7 is placed and stands in no bill", "C9 stands in the bill and is not placed"]
        )

    def test_several_files_name_theirs(self) -> None:
        code, said, _ = self.read(("a.csv", b"Part;Qty\nA;1\n"), ("p.csv", b"Ref,X (mm),Y (mm)\nR1,1,2\n"))
        self.assertEqual((code, said["rows"][0]["file"], said["places"][0]["file"]), (0, "a.csv", "p.csv"))
        # The same as words for whoever looks.
        out = io.StringIO()
        with tempfile.NamedTemporaryFile("w", suffix=".csv") as file:
            file.write("Level,Part,Qty\n0,TOP,1\n1,A,1/2\n")
            file.flush()
            call_command("read", file.name, stdout=out)
        self.assertEqual([line.split() for line in out.getvalue().splitlines()], [["2", "TOP", "1"], ["3", "A", "0.5"]])

    def test_what_is_no_list_ends_in_one_clear_line(self) -> None:
        entities = LAYOUT.replace("?>", '?><!DOCTYPE x [<!ENTITY a "b">]>', 1)
        for name, content, told in (
            ("words.csv", b"Dear all,\nplease find the list in my next mail.\n", "holds neither a list"),
            ("empty.csv", b"", "is empty"),
            ("list.pdf", b"%PDF-1.4", "neither CSV nor XLSX nor ODS"),
            ("cut.xml", LAYOUT[:900].encode(), "breaks off or is damaged"),
            ("entities.xml", entities.encode(), "declares a document type"),
            ("units.xml", LAYOUT.replace("INCH", "FURLONG").encode(), "The layout is in FURLONG"),
            ("nan.xml", LAYOUT.replace('x="1.0"', 'x="NaN"').encode(), "not a usable number"),
            ("list.xlsx", b"PK\x03\x04junk", "list.xlsx"),
        ):
            code, _, wrong = self.read((name, content))
            self.assertEqual((code, wrong.count("\n")), (1, 1), (name, wrong))
            self.assertIn(told, wrong)
        code, _, wrong = self.read(("a.csv", b"Part;Qty\nA;1\n"), ("b.csv", b""))
        self.assertEqual((code, "b.csv is empty" in wrong), (1, True))

    def test_a_layout_of_many_places_is_read_within_bounds(self) -> None:
        one = '<Component refDes="R{0}" packageRef="0603" layerRef="TOP"><Location x="{0}.5" y="1"/></Component>'
        body = LAYOUT.replace("</Step>", "".join(one.format(n) for n in range(1000, 61_000)) + "</Step>")
        code, said, wrong = self.read(("large.xml", body.encode()))
        self.assertEqual((code, wrong, len(said["places"])), (0, "", 60_003))
