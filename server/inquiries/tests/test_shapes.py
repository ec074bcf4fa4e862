"""Six files in six shapes are one product, whatever order they come in; hostile ones end in a word and leave nothing."""

import io
import itertools
import json
import random
from typing import Any

import xlsxwriter
from django.db import transaction
from django.test import TestCase
from jobs.models import Job
from readings.export_bundle import export_bundle
from testing import Api, archive

from inquiries.models import InquiryFile, ListLine

_ODS = (
    '<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" '
    'office:version="1.2"><office:body><office:spreadsheet><table:table table:name="Teile">{}</table:table></office:spreadsheet>'
    "</office:body></office:document-content>"
)


def ods(rows: list[list[str]]) -> bytes:
    """An OpenDocument spreadsheet (OASIS ODF 1.2) of text cells."""
    cells = "".join(
        "<table:table-row>"
        + "".join(f'<table:table-cell office:value-type="string"><text:p>{c}</text:p></table:table-cell>' for c in row)
        + "</table:table-row>"
        for row in rows
    )
    manifest = (
        '<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.2">'
        '<manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>'
        '<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>'
    )
    return archive(
        {
            "mimetype": b"application/vnd.oasis.opendocument.spreadsheet",
            "META-INF/manifest.xml": manifest.encode(),
            "content.xml": _ODS.format(cells).encode(),
        }
    )


def xlsx(rows: list[list[Any]]) -> bytes:
    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True})
    sheet = book.add_worksheet("Blatt")
    for at, row in enumerate(rows):
        sheet.write_row(at, 0, row)
    book.close()
    return buffer.getvalue()


_LAYOUT = """<?xml version="1.0" encoding="UTF-8"?><IPC-2581 revision="B"><Bom name="LG-30">
<BomItem OEMDesignNumberRef="RS-1" quantity="2"><RefDes name="R1" packageRef="R"/><RefDes name="R2" packageRef="R"/></BomItem>
</Bom></IPC-2581>"""

#: A lamp of three levels: each list for another thing, in a shape of its own.
FILES: dict[str, bytes] = {
    # A block above, numbers as numbers, a second row of titles, units in a column.
    "top.xlsx": xlsx(
        [
            ["Works list"],
            ["Assembly", "LG-10", "Title", "Lamp"],
            [],
            ["Item", "Part", "Description", "Qty", "Unit"],
            ["no.", "number", "", "", ""],
            [10, "LG-20", "Head", 1, "pcs"],
            [20, "CB-1", "Cable, two cores", 3.5, "m"],
            [30, "SC-1", "Screw", 4, "pcs"],
        ]
    ),
    # Dotted item numbers, quantities with their unit.
    "head.csv": "Baugruppe:;LG-20;\n;;\nPos;Teilenummer;Benennung;Menge\n1;LG-30;Leiterplatte;1 Stk\n2;LG-60;Träger;1\n2.1;PB-1;Platte;1\n3;LN-1;Linse;2x\n4;GL-1;Kleber;12,50 g\n".encode(
        "cp1252"
    ),
    # A parent column; the sub-assembly of a sub-assembly.
    "rest.tsv": b"Parent\tPart number\tDescription\tQuantity\nLN-1\tGS-1\tGlass\t1\nLN-1\tRG-1\tRing\t2\nRG-1\tBR-1\tBar\t1/4\n",
    # Text cells of another office, a total beneath.
    "LG-40.ods": ods([["Part", "Description", "Qty"], ["SC-1", "Screw", "2"], ["BK-1", "Bracket", "1"], ["Total", "", "3"]]),
    # Indented numbers, one cell with two fields.
    "post.csv": b"List for,LG-50\n\nPart,Description,Manufacturer / MPN,Qty\nLG-41,Foot,,1\n  BK-2,Plate,Nordry / N-77,1\nSC-1,Screw,,6\n",
    # The bill that a layout carries.
    "board.xml": _LAYOUT.encode(),
}


class Shapes(TestCase):
    def setUp(self) -> None:
        self.api = Api("engineer")

    def brought(self, names: tuple[str, ...]) -> dict[str, Any]:
        """The product that the files become in one order, exported; nothing of it stays."""
        with transaction.atomic():
            at = f"/inquiries/{self.api.post('/inquiries', {'title': 'Lamp'})[1]['id']}"
            for name in names:
                answer = self.api.upload(name, FILES[name], f"{at}/files")[1]
                self.assertEqual(answer["files"][-1]["failed"], "", name)
                if name == "board.xml":
                    self.assertEqual(self.api.post(f"{at}/files/{answer['files'][-1]['id']}/bill", {})[0], 200)
            # The layout names no assembly but in its own name.
            table = self.api.get(f"{at}/lines")[1]["table"]
            rows = [dict(table["same"]) | {n: c[i] for n, c in table["each"].items()} for i in range(table["count"])]
            head = next((r for r in rows if r["row"] == 0 and r["part"] == "board"), None)
            if head is not None:
                self.api.post(f"{at}/lines/{head['id']}/mend", {"seen": head["stamp"], "field": "part", "text": "LG-30"})
                table = self.api.get(f"{at}/lines")[1]["table"]
                rows = [dict(table["same"]) | {n: c[i] for n, c in table["each"].items()} for i in range(table["count"])]
            status, answer = self.api.post(f"{at}/parts", [{"line": r["id"], "seen": r["stamp"]} for r in rows if r["state"] == "open"])
            self.assertEqual(status, 200, answer)
            status, made = self.api.post(f"{at}/result", {})
            self.assertEqual(status, 200, made)
            self.tops = [p["part"] for p in made["products"] if p["top"]]
            bundle = export_bundle()
            transaction.set_rollback(True)
        return bundle

    def test_six_files_are_one_product_in_any_order(self) -> None:
        orders = list(itertools.permutations(FILES))
        some = [tuple(FILES), tuple(reversed(FILES)), *random.Random(4).sample(orders, 2)]
        said = {json.dumps(self.brought(names), sort_keys=False) for names in some}
        self.assertEqual(len(said), 1)
        bundle = json.loads(said.pop())
        sheets = {s["part"]: [(x["part"], x["quantity"], x.get("unit")) for x in s["lines"]] for s in bundle["build_sheets"]}
        self.assertEqual(
            sheets,
            {
                "LG-10": [("LG-20", "1", None), ("CB-1", "3.5", None), ("SC-1", "4", None)],
                "LG-20": [("LG-30", "1", None), ("LG-60", "1", None), ("LN-1", "2", None), ("GL-1", "12.5", None)],
                "LG-30": [("RS-1", "2", None)],
                "LG-60": [("PB-1", "1", None)],
                "LN-1": [("GS-1", "1", None), ("RG-1", "2", None)],
                "RG-1": [("BR-1", "0.25", None)],
                "LG-40": [("SC-1", "2", None), ("BK-1", "1", None)],
                "LG-41": [("BK-2", "1", None)],
                "LG-50": [("LG-41", "1", None), ("SC-1", "6", None)],
            },
        )


#: What ends in a word: the file, and a piece of what is said of it.
HOSTILE: dict[str, tuple[bytes, str]] = {
    "cut.xlsx": (FILES["top.xlsx"][:900], "cut.xlsx"),
    "wrong.xlsx": (b"%PDF-1.7 not a workbook", "wrong.xlsx"),
    "nothing.csv": (b"", "nothing.csv"),
    "prose.csv": (b"Dear all,\nno list today\n", "neither a list"),
    "bomb.xlsx": (archive({"xl/workbook.xml": b"0" * 60_000_000, "[Content_Types].xml": b"<Types/>"}), "bomb.xlsx"),
    "entities.xml": (b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><IPC-2581 revision="B">&b;</IPC-2581>', "entities"),
    "broken.xml": (_LAYOUT[:200].encode(), "breaks off"),
    "control.csv": (b"Part\x00;Qty\n\x01\x02;\x03\n", "control.csv"),
    "far.csv": (b"Part;Qty\n" + b";\n" * 2_000_000, "empty rows"),
}


class Hostile(TestCase):
    def setUp(self) -> None:
        self.api = Api("engineer")
        self.at = f"/inquiries/{self.api.post('/inquiries', {'title': 'Lamp'})[1]['id']}"

    def test_each_ends_in_a_word_and_nothing_is_lost(self) -> None:
        self.api.upload("head.csv", FILES["head.csv"], f"{self.at}/files")
        lines = list(ListLine.objects.values_list("said", flat=True))
        for name, (content, words) in HOSTILE.items():
            answer = self.api.upload(name, content, f"{self.at}/files")[1]
            file = answer["files"][-1]
            self.assertEqual((file["role"], file["lines"]), ("unread", 0), name)
            self.assertIn(words, file["failed"], name)
            self.assertNotIn("Error", file["failed"], name)
            self.assertEqual(list(ListLine.objects.values_list("said", flat=True)), lines, name)

    def test_formulas_and_control_characters_are_text(self) -> None:
        self.api.upload("f.csv", b"Part;Description;Qty\n=1+1;\x07bell\x0b;1\n+cmd;@x;2\n", f"{self.at}/files")
        said = {x.said.get("part") for x in ListLine.objects.exclude(row=0)}
        self.assertEqual(said, {"=1+1", "+cmd"})
        book = self.api.client.get(f"/api{self.at}/questions.xlsx")
        self.assertEqual(book.status_code, 200)

    def test_a_worker_that_was_killed_leaves_a_file_that_says_so_and_can_be_read_again(self) -> None:
        self.api.upload("head.csv", FILES["head.csv"], f"{self.at}/files")
        file = InquiryFile.objects.get()
        ListLine.objects.all().delete()
        InquiryFile.objects.update(role="unread", grid=[])
        # It had begun, and holds no lock any more.
        Job.objects.filter(about=file.pk, kind="inquiry").update(ended_at=None, doing="reading its lines")
        shown = self.api.get(self.at)[1]["files"][0]
        self.assertIn("The worker ended in the middle of reading head.csv", shown["failed"])
        self.assertIsNone(shown["job"])
        status, answer = self.api.post(f"{self.at}/files/{file.pk}/again", {})
        self.assertEqual((status, answer["files"][0]["role"], answer["files"][0]["failed"]), (200, "list", ""))
        self.assertGreater(ListLine.objects.count(), 0)
