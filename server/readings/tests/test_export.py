"""What leaves: a workbook that recalculates to the same cost, CSV that is inert, a bundle."""

import csv
import hashlib
import io
import json
import re
import sys
import tempfile
import zipfile
from datetime import date
from decimal import Decimal
from pathlib import Path

import formulas
import networkx as nx
from definition.models.sheets import BuildSheet
from demo.definition import demo_bundle
from django.db import transaction
from django.test import TestCase
from openpyxl import load_workbook
from python_calamine import CalamineWorkbook
from tally_core.cost.answers import Basis, tally
from testing import Api, load, rod_and_tube, sheet_of

from readings.cost_list import cost_list_csv, listed
from readings.cost_workbook import cost_list_workbook

sys.path.insert(0, str(Path(__file__).resolve().parents[3] / "core"))
from tests.generate import DAY as GENERATED_DAY
from tests.generate import bundle

DAY = date(2026, 11, 24)


def recalculated(workbook: bytes, changes: dict[str, float]) -> dict[str, float]:
    """The workbook's formulas calculated afresh by the package formulas, with some inputs changed."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "list.xlsx"
        path.write_bytes(workbook)
        model = formulas.ExcelModel().loads(str(path)).finish()
        inputs = {f"'[list.xlsx]{sheet.upper()}'!{cell}": value for (sheet, cell), value in ((k.split("!"), v) for k, v in changes.items())}
        solution = model.calculate(inputs=inputs)
    found = {}
    for key, ranges in solution.items():
        value = getattr(ranges, "value", None)
        if value is not None and ":" not in str(key) and value.shape == (1, 1):
            found[str(key).replace("'[list.xlsx]", "").replace("'", "")] = value[0, 0]
    return found


class CostListWorkbook(TestCase):
    def unit_cost(self, sheet: BuildSheet, quantity: int | None, options: tuple[str, ...] = ()) -> float:
        question = listed(sheet, Basis(DAY, None if quantity is None else Decimal(quantity), options, True)).question
        return float(tally(question)[0].unit[question.top].sum())

    def test_it_recalculates_to_the_same_unit_cost(self) -> None:
        """The demo lantern, as a job and at standard lots; and the workbook answers for another quantity."""
        load(demo_bundle())
        sheet = BuildSheet.objects.select_related("part").get(part__number="HL-155", revision="A")
        for quantity, options in ((250, ("SYNC",)), (None, ())):
            basis = Basis(DAY, None if quantity is None else Decimal(quantity), options, True)
            book = cost_list_workbook(listed(sheet, basis))
            found = recalculated(book, {})
            self.assertAlmostEqual(float(found["COST LIST!N2"]), self.unit_cost(sheet, quantity, options), places=6)
            if quantity is not None:
                found = recalculated(book, {"Basis!B3": 7})
                self.assertAlmostEqual(float(found["COST LIST!N2"]), self.unit_cost(sheet, 7, options), places=6)

    def test_the_workbook_of_any_definition_recalculates(self) -> None:
        """Generated definitions with options, yields, lots, cycles, by-products, costs by hand in proportion: every cost and element of every part,
        not the top alone."""
        for seed in (1002, 1011, 1023, 1039):
            document, top, options = bundle(seed)
            with transaction.atomic():
                load(document)
                sheet = BuildSheet.objects.select_related("part").get(part__number=top)
                basis = Basis(date.fromisoformat(GENERATED_DAY), Decimal(24), tuple(options))
                listing = listed(sheet, basis)
                found = recalculated(cost_list_workbook(listing), {})
                costs, needs = listing.costs, listing.needs
                assert needs is not None
                for row in range(len(listing.loaded.part_ids)):
                    for column, wanted in (
                        ("V", costs.unit[row].sum()),
                        ("K", needs.gross[row]),
                        ("L", costs.lots[row]),
                        *((chr(ord("M") + e), amount) for e, amount in enumerate(costs.unit[row])),
                    ):
                        value = found.get(f"PARTS!{column}{row + 2}", 0)
                        self.assertAlmostEqual(float(value or 0), wanted, delta=1e-6 * max(1, abs(wanted)), msg=f"{seed} {column}{row + 2}")
                transaction.set_rollback(True)

    def test_no_formula_refers_to_itself_or_holds_a_program_s_own_words(self) -> None:
        """What one spreadsheet takes, another may not: no loop among cells, no reference with a sheet's name in its second half."""
        load(demo_bundle())
        sheet = BuildSheet.objects.select_related("part").get(part__number="HL-155", revision="A")
        book = load_workbook(io.BytesIO(cost_list_workbook(listed(sheet, Basis(DAY, Decimal(250), (), True)))))
        graph = nx.DiGraph()
        for page in book:
            for row in page.iter_rows():
                for cell in row:
                    if cell.data_type != "f":
                        continue
                    text = str(cell.value)
                    self.assertNotRegex(text, r"np\.|float64|nan|:[A-Za-z ']+!", f"{page.title}!{cell.coordinate}")
                    for name, first, last in re.findall(r"(?:('[^']+'|[A-Za-z]+)!)?\$?([A-Z]{1,2}\$?\d+)(?::\$?([A-Z]{1,2}\$?\d+))?", text):
                        target = book[name.strip("'")] if name else page
                        block = target[f"{first}:{last}" if last else f"{first}:{first}"]
                        for part in block:
                            for used in part:
                                graph.add_edge((page.title, cell.coordinate), (target.title, used.coordinate))
        self.assertGreater(graph.number_of_edges(), 2000)
        self.assertTrue(nx.is_directed_acyclic_graph(graph))

    def test_text_never_becomes_a_formula(self) -> None:
        document = rod_and_tube()
        document["parts"][1] |= {"number": "=NUT", "description": "@SUM(1)"}
        document["parts"][0]["description"] = "=HYPERLINK(1)"
        document["build_sheets"][0]["lines"][2]["part"] = "=NUT"
        document["build_sheets"][0]["operations"][0]["name"] = "+cmd"
        load(document)
        listing = listed(sheet_of("RT-1"), Basis(DAY, None, (), True))
        book = CalamineWorkbook.from_filelike(io.BytesIO(cost_list_workbook(listing)))
        cells = {cell for row in book.get_sheet_by_name("Cost list").to_python() for cell in row}
        self.assertTrue({"=NUT", "@SUM(1)", "=HYPERLINK(1)", "+cmd"} <= cells)
        for row in csv.reader(io.StringIO(cost_list_csv(listing))):
            for cell in row:
                self.assertFalse(cell.startswith(("=", "+", "@")), cell)

    def test_csv_adds_up(self) -> None:
        load(demo_bundle())
        sheet = BuildSheet.objects.select_related("part").get(part__number="HL-155", revision="A")
        rows = list(csv.DictReader(io.StringIO(cost_list_csv(listed(sheet, Basis(DAY, None, (), True))))))
        top = float(rows[0]["cost in one"])
        self.assertAlmostEqual(top, self.unit_cost(sheet, None), places=5)
        self.assertAlmostEqual(sum(float(r["cost in one"] or 0) for r in rows if r["level"] == "1"), top, places=4)
        self.assertGreaterEqual(max(int(r["level"]) for r in rows), 3)

    def test_it_is_served_with_a_name(self) -> None:
        load(rod_and_tube())
        api, sheet = Api("viewer"), sheet_of("RT-1")
        asked = {"part": "RT-1", "sheet": sheet.pk, "drafts": "true"}
        for shape, ending, start in (("calculates", "xlsx", b"PK"), ("costs-csv", "csv", b"\xef\xbb\xbflevel")):
            response = api.client.get("/api/lists/file", asked | {"shape": shape})
            self.assertEqual(response.status_code, 200)
            self.assertTrue(response.content.startswith(start))
            self.assertIn(f'filename="RT-1-A.{ending}"', response["Content-Disposition"])
        status, document = api.get("/lists/file", **asked, shape="bundle")
        self.assertEqual((status, document["format"]), (200, "round-tally-bundle"))

    def test_several_products_leave_in_one_archive_that_says_what_is_in_it(self) -> None:
        document = rod_and_tube()
        for number in ("../T/2", ".._T_2"):
            document["parts"].append({"number": number, "kind": "made", "unit": "ea"})
            document["build_sheets"].append({"part": number, "status": "released", "lines": [{"part": "NUT", "quantity": "1"}]})
        load(document)
        api = Api("viewer")
        asked = {"part": ["T-1", "RT-1", "../T/2", ".._T_2"], "shape": ["calculates", "bundle"]}
        status, content = api.get("/lists/file", **asked)
        self.assertEqual(status, 200)
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            manifest = json.loads(archive.read("manifest.json"))
            names = archive.namelist()
            for file in manifest["files"]:
                body = archive.read(file["name"])
                self.assertEqual((len(body), hashlib.sha256(body).hexdigest()), (file["bytes"], file["sha256"]))
            bundle_of = json.loads(archive.read("T-1-A.json"))
        self.assertEqual((manifest["format"], manifest["version"], bundle_of["format"]), ("round-tally-files", 1, "round-tally-bundle"))
        self.assertEqual(sorted(names), sorted([*(f["name"] for f in manifest["files"]), "manifest.json"]))
        self.assertEqual(len(set(names)), 7)
        self.assertFalse([n for n in names if "/" in n or "\\" in n])
        # A draft does not count unless drafts are asked for; it is said, not left out silently.
        self.assertEqual(manifest["left_out"], [{"part": "RT-1", "why": "no sheet of it is in force on the day of the basis"}])
        self.assertEqual(manifest["basis"]["lots"], "standard")
        for part, shape, expected in (("NONE", "calculates", 404), ("T-1", "exe", 422)):
            self.assertEqual(api.get("/lists/file", part=part, shape=shape)[0], expected)
        many = {"part": [f"P{n}" for n in range(31)], "shape": "costs-csv"}
        self.assertEqual(api.get("/lists/file", **many)[0], 422)
