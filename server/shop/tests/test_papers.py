"""Papers: PDF read back by pypdf, their codes by a decoder of its own (ZXing), from the page as it is drawn."""

import io
import re
from uuid import uuid4

import pypdfium2
import zxingcpp
from definition.models.parts import Part, PartFile
from definition.models.sheets import Operation
from definition.shown_files import show_files
from PIL import Image
from pypdf import PdfReader
from tally_core.basics.errors import ProblemsError
from testing import Api, load, person, rod_and_tube
from verbs.parts.keep_file import drop_file, keep_file

from shop.actions.close_order import cancel_order
from shop.actions.work_outside import send_outside
from shop.papers import code_svg
from shop.reads import center_queue, one_order
from shop.tests.floor import Shop


def drawn(svg: str) -> Image.Image:
    """The picture of a code's SVG: its dark runs, as its path says them (horizontal strokes of one unit, by SVG 1.1)."""
    size = int(re.search(r'viewBox="0 0 (\d+) \d+"', svg).group(1))  # type: ignore[union-attr]
    picture = Image.new("L", (size, size), 255)
    path = re.search(r'd="([^"]+)"', svg).group(1)  # type: ignore[union-attr]
    x = y = 0.0
    for command, numbers in re.findall(r"([MmhH])([-\d.\s,]+)", path):
        given = [float(n) for n in re.findall(r"-?\d*\.?\d+", numbers)]
        if command == "M":
            x, y = given
        elif command == "m":
            x, y = x + given[0], y + given[1]
        else:
            end = x + given[0] if command == "h" else given[0]
            for at in range(int(x), int(end)):
                picture.putpixel((at, int(y)), 0)
            x = end
    return picture.resize((size * 8, size * 8), Image.NEAREST)


class Papers(Shop):
    def setUp(self) -> None:
        super().setUp()
        document = rod_and_tube("released")
        document["build_sheets"][0]["operations"][0]["instructions"] = "Break **all** edges.\n- mind the thread <b>"
        load(document)
        self.order = self.released("RT-1", "3")
        self.api = Api("shop")

    def paper(self, shape: str) -> PdfReader:
        status, body = self.api.get(f"/shop/orders/{self.order.pk}/paper/{shape}")
        self.assertEqual(status, 200, body)
        return PdfReader(io.BytesIO(body))

    def test_a_card_for_each_operation_with_what_it_takes(self) -> None:
        pages = [page.extract_text() for page in self.paper("cards").pages]
        self.assertEqual(len(pages), 2)
        for words in ("1 of 2", "10 Turn", "LATHE", "ROD", "6.3 m", "Break all edges.", "mind the thread <b>", f"{self.order.number}-10"):
            self.assertIn(words, pages[0])
        for words in ("2 of 2", "20 Fit", "T-1", "12 ea"):
            self.assertIn(words, pages[1])
        self.assertNotIn("ROD", pages[1])

    def test_a_file_that_an_order_shows_stays_as_long_as_the_order(self) -> None:
        """It was shown when the order was released: whatever the sheet shows later, whoever works to the order still finds it."""
        engineer = person("engineer")
        picture = io.BytesIO()
        Image.new("RGB", (8, 8), "red").save(picture, "PNG")
        kept = [keep_file(engineer, "RT-1", name, picture.getvalue()) for name in ("b jig.png", "a jig.png")]
        operation = Operation.objects.get(sheet__part__number="RT-1", sequence=10)
        show_files({operation: [file.pk for file in kept]}, engineer, "")
        order = self.released("RT-1", "2")
        show_files({operation: []}, engineer, "")
        shown = one_order(order)["stages"][0]["files"]
        self.assertEqual(shown, [{"id": file.pk, "name": file.name} for file in kept])
        (task, *_) = [t for t in center_queue("LATHE")["tasks"] if t["order"] == order.pk]
        self.assertEqual(task["files"], shown)
        with self.assertRaisesMessage(ProblemsError, f"b jig.png is shown with operation 10 of work order {order.number}"):
            drop_file(engineer, kept[0].pk)
        self.assertEqual(PartFile.objects.count(), 2)
        cancel_order(self.shop, order.pk, order.version, "not wanted")
        self.assertEqual(order.operations.get(sequence=10).shown.count(), 2)

    def test_one_requisition_by_operation_a_traveller_and_a_label_a_unit(self) -> None:
        text = self.paper("requisition").pages[0].extract_text()
        self.assertLess(text.index("for 10 Turn"), text.index("ROD"))
        self.assertLess(text.index("for 20 Fit"), text.index("NUT"))
        # A page for each store, and one for what no store is stated for; on each by operation.
        Part.objects.filter(number="ROD").update(kept_in="Main store, rack 2")
        Part.objects.filter(number="T-1").update(kept_in="Main store , bin 9")
        pages = [page.extract_text() for page in self.paper("requisition").pages]
        self.assertEqual(
            [[n for n in ("ROD", "NUT", "T-1", "for 10", "for 20") if re.search(rf"^{n}", text, re.MULTILINE)] for text in pages],
            [["ROD", "T-1", "for 10", "for 20"], ["NUT", "for 20"]],
        )
        self.assertTrue(re.search("rack 2", pages[0]) and re.search("bin 9", pages[0]))
        self.assertEqual(["from Main store" in t for t in pages], [True, False])
        self.assertEqual(len(self.paper("traveller").pages), 1)
        self.assertEqual(self.paper("labels").pages[0].extract_text().count("RT-1"), 3)

    def test_codes_are_read_back(self) -> None:
        for text in (f"{self.order.number}-10", "RT-1 WO-5001", "HL155-22 Größe 3"):
            found = zxingcpp.read_barcodes(drawn(code_svg(text)))
            self.assertEqual([b.text for b in found], [text])

    def test_the_code_on_the_page_itself(self) -> None:
        """The traveller drawn by PDFium, and every code on it decoded."""
        status, body = self.api.get(f"/shop/orders/{self.order.pk}/paper/traveller")
        self.assertEqual(status, 200)
        picture = pypdfium2.PdfDocument(body)[0].render(scale=2).to_pil()
        found = {b.text for b in zxingcpp.read_barcodes(picture)}
        self.assertEqual(found, {self.order.number, f"{self.order.number}-10", f"{self.order.number}-20"})

    def test_a_slip_for_what_was_sent(self) -> None:
        load(
            {
                "format": "round-tally-bundle",
                "version": 1,
                "parts": [{"number": "HOOK", "kind": "made", "unit": "ea"}],
                "build_sheets": [
                    {
                        "part": "HOOK",
                        "status": "released",
                        "operations": [{"sequence": 10, "name": "Coat", "subcontract": {"supplier": "Quay Coating", "unit_price": "2"}}],
                    }
                ],
            }
        )
        self.order = self.released("HOOK", "5")
        self.assertEqual(self.api.get(f"/shop/orders/{self.order.pk}/paper/slips")[0], 422)
        send_outside(self.shop, self.order.pk, uuid4(), 10, "3", "S-88")
        text = self.paper("slips").pages[0].extract_text()
        for words in ("S-88", "Quay Coating", "10 Coat", "3 ea of HOOK, sent on"):
            self.assertIn(words, text)

    def test_no_paper_before_its_release(self) -> None:
        status, said = self.api.post("/shop/orders", {"part": "RT-1", "quantity": "2", "nest": False})
        self.assertEqual(status, 200, said)
        status, said = self.api.get(f"/shop/orders/{said['id']}/paper/cards")
        self.assertEqual(status, 422, said)
        self.assertIn("has not been released yet", str(said))
