"""Every reader of files meets files that a mutator made of good ones: each is read, or refused in words; none fails, hangs or takes the process."""

import io
import json
import unittest
from collections import Counter
from random import Random
from typing import Any

from demo.shapes import demo_models
from fuzzing import INPUTS, Found, mutated, read_all
from PIL import Image
from tally_core.basics.errors import TallyError
from tally_core.stated.bundle import parse_bundle, read_bundle
from tally_core.stated.classes import evaluate
from testing import rod_and_tube

from formats.layouts import parse_layout
from formats.neutral import read_table
from formats.pictures import measure_picture, page_picture, small_picture
from formats.step import read_step
from formats.tables import parse_tables
from formats.tests.test_apart import spreadsheet, workbook
from formats.ubl_quoting import parse_quotation

_LISTS = [
    "Baugruppe:;LG-20;\n;;\nPos;Teilenummer;Benennung;Menge\n1;LG-30;Leiterplatte;1 Stk\n2;LG-60;Träger;1\n2.1;PB-1;Platte;1\n3;LN-1;Linse;2x\n"
    "4;GL-1;Kleber;12,50 g\n".encode("cp1252"),
    b"Parent\tPart number\tDescription\tQuantity\nLN-1\tGS-1\tGlass\t1\nLN-1\tRG-1\tRing\t2\nRG-1\tBR-1\tBar\t1/4\n",
    b'Level,Part,Description,Manufacturer / MPN,Qty,Unit,Ref des,DNP\n0,LG-1,Lamp,,1,ea,,\n1,RS-1,Resistor,Nordry / N-77,2,ea,R1-R2,\n1,CP-1,Capacitor,Nordry,3,ea,"C1,C2,C3",yes\n',
    b"Designator,Package,Mid X,Mid Y,Rotation,Layer\nR1,0603,1.5mm,2mm,90,Top\nR2,0603,10mil,20mil,0,Bottom\n",
    "Teil;Menge;Preis\nA-1;1.234,50;0,05\nA-2;2;1,5\n".encode("utf-16"),
]
_CELLS: dict[tuple[int, int], object] = {
    (0, 0): "Part",
    (0, 1): "Qty",
    (0, 2): "Price",
    (1, 0): "A-1",
    (1, 1): 3,
    (1, 2): 0.5,
    (2, 0): "A-2",
    (2, 1): "1/4",
}
_SHEET = spreadsheet(
    "<table:table-row><table:table-cell office:value-type='string'><text:p>Part</text:p></table:table-cell><table:table-cell office:value-type="
    "'string'><text:p>Qty</text:p></table:table-cell></table:table-row><table:table-row table:number-rows-repeated='2'><table:table-cell "
    "office:value-type='string'><text:p>A-1</text:p></table:table-cell><table:table-cell office:value-type='float' office:value='3.5'><text:p>3.5"
    "</text:p></table:table-cell><table:table-cell office:value-type='date' office:date-value='2026-12-01'/></table:table-row>"
)
_LAYOUT = b"""<?xml version="1.0" encoding="UTF-8"?><IPC-2581 revision="B" xmlns="http://webstds.ipc.org/2581"><Content><FunctionMode mode="ASSEMBLY"/></Content>
<Bom name="LG-30"><BomItem OEMDesignNumberRef="RS-1" quantity="2"><RefDes name="R1" packageRef="R"/><RefDes name="R2" packageRef="R"/></BomItem></Bom>
<Ecad><CadHeader units="INCH"/><CadData><Layer name="TOP" side="TOP"/><Layer name="BOT" side="BOTTOM"/><Step name="b"><Profile><Polygon>
<PolyBegin x="0" y="0"/><PolyStepSegment x="2" y="0"/><PolyStepSegment x="2" y="1"/></Polygon></Profile><Package name="R"><Outline><Polygon>
<PolyBegin x="0" y="0"/><PolyStepSegment x="0.1" y="0"/><PolyStepSegment x="0.1" y="0.1"/></Polygon></Outline></Package>
<Component refDes="R1" packageRef="R" layerRef="TOP"><Xform rotation="90.0"/><Location x="1.0" y="-0.5"/></Component>
<Component refDes="R2" packageRef="R" layerRef="BOT"><Location x="0.1" y="0"/></Component></Step></CadData></Ecad></IPC-2581>"""
_UBL = "urn:oasis:names:specification:ubl:schema:xsd:"
_QUOTATION = (
    f'<q:Quotation xmlns:q="{_UBL}Quotation-2" xmlns:g="{_UBL}CommonAggregateComponents-2" xmlns:b="{_UBL}CommonBasicComponents-2">'
    "<b:ID>1</b:ID><b:IssueDate>2026-11-20</b:IssueDate><b:PricingCurrencyCode>SEK</b:PricingCurrencyCode><g:ValidityPeriod><b:EndDate>2026-12-31"
    "</b:EndDate></g:ValidityPeriod><g:QuotationLine><g:LineItem><b:ID>1</b:ID><b:Quantity unitCode='MTR'>12.5</b:Quantity><b:MinimumQuantity>5"
    "</b:MinimumQuantity><g:Delivery><g:PromisedDeliveryPeriod><b:EndDate>2026-12-04</b:EndDate></g:PromisedDeliveryPeriod></g:Delivery><g:Price>"
    "<b:PriceAmount currencyID='EUR'>7.25</b:PriceAmount><b:BaseQuantity>100</b:BaseQuantity></g:Price><g:Item><b:PackQuantity>10</b:PackQuantity>"
    "<b:Name>Tube</b:Name><g:BuyersItemIdentification><b:ID>TUBE</b:ID></g:BuyersItemIdentification></g:Item></g:LineItem></g:QuotationLine>"
    "</q:Quotation>"
).encode()
_EXPRESSIONS = [
    b"round(mass * 1.2 + 3, 2)",
    b"'M' + str(a) if a > 2 else 'none'",
    b"max(a, b, 3) ** 2 / (b - 1)",
    b"floor(a) % 3 == 1 and b < 4",
]


def _pictures() -> list[bytes]:
    found = []
    for kind in ("PNG", "JPEG", "GIF", "WEBP"):
        buffer = io.BytesIO()
        Image.radial_gradient("L").resize((40, 24)).convert("RGB").save(buffer, kind)
        found.append(buffer.getvalue())
    return found


def _pages() -> list[bytes]:
    """A page by ISO 32000 with text, lines and a way back to itself, and one that holds a picture."""
    drawing = b"q 2 w 10 10 m 90 40 l S 0.5 g 20 20 30 15 re f BT /F1 12 Tf 20 60 Td (Tube) Tj ET Q"
    objects = [
        b"<< /Type /Catalog /Pages 2 0 R >>",
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 100] /Rotate 90 /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
        b"<< /Length %d >>\nstream\n%s\nendstream" % (len(drawing), drawing),
        b"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ]
    whole, places = b"%PDF-1.4\n", []
    for number, body in enumerate(objects, 1):
        places.append(len(whole))
        whole += b"%d 0 obj\n%s\nendobj\n" % (number, body)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    whole += b"xref\n0 %d\n0000000000 65535 f \n%strailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % (
        len(objects) + 1, table, len(objects) + 1, len(whole),
    )  # fmt: skip
    buffer = io.BytesIO()
    Image.radial_gradient("L").resize((40, 24)).save(buffer, "PDF")
    return [whole, buffer.getvalue()]


def _list(content: bytes) -> None:
    for table in parse_tables("list.csv", content):
        read_table(table.rows)


def _bundle(content: bytes) -> None:
    read_bundle(parse_bundle(content))


def _expression(content: bytes) -> None:
    try:
        evaluate(content.decode("utf-8", "replace"), {"a": 3.0, "b": 5.0, "mass": 1.5})
    except ValueError as error:
        raise TallyError(str(error)) from None


class Fuzzed(unittest.TestCase):
    def all_answered(self, read: Any, seeds: list[bytes], share: float = 1.0, least_read: int = 1) -> Found:
        """Both ways are gone: a mutator that damages everything, or nothing, tests little."""
        found = read_all(read, seeds, max(int(INPUTS * share), 10), seed=11)
        self.assertEqual(found.failed, {}, found)
        self.assertGreaterEqual(found.read, least_read)
        self.assertGreater(found.refused, 0)
        return found

    def test_lists_and_placements(self) -> None:
        self.all_answered(_list, _LISTS)

    def test_workbooks(self) -> None:
        self.all_answered(lambda content: parse_tables("list.xlsx", content), [workbook(_CELLS)])
        self.all_answered(lambda content: parse_tables("list.ods", content), [_SHEET])

    def test_quotations_and_layouts(self) -> None:
        self.all_answered(lambda content: parse_quotation("q.xml", content), [_QUOTATION])
        self.all_answered(lambda content: parse_layout("l.xml", content), [_LAYOUT])

    def test_pictures_and_pages(self) -> None:
        pictures = _pictures()
        self.all_answered(lambda content: measure_picture("p.png", content), pictures)
        self.all_answered(lambda content: small_picture("p.png", content), pictures)
        self.all_answered(lambda content: page_picture("p.pdf", content, 1), [*_pages(), *pictures], 0.3)

    def test_step_files(self) -> None:
        """Each in the reader's own process, which takes a moment; so only a few. A file that is read says what was wrong in it."""
        model = next(content for *_, content in demo_models() if len(content) < 200_000)
        ends: Counter[str] = Counter()
        for n in range(max(INPUTS // 40, 6)):
            content = mutated(Random(n), [model])
            try:
                self.assertIn("problems", read_step([("m.step", content)]))
                ends["read"] += 1
            except TallyError as error:
                self.assertLess(len(str(error)), 400)
                ends["refused"] += 1
        self.assertGreater(ends["read"], 0)

    def test_bundles(self) -> None:
        self.all_answered(_bundle, [json.dumps(rod_and_tube()).encode()])

    def test_expressions(self) -> None:
        self.all_answered(_expression, _EXPRESSIONS)
