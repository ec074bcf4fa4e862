"""Reading a structure other ways: summed, where-used, the matrix; against linear algebra and against each other."""

import csv
import io
import random
import sys
from datetime import date
from decimal import Decimal
from pathlib import Path
from unittest.mock import patch

import networkx as nx
import numpy as np
from definition.models.parts import OpenOrder, Part
from django.db import transaction
from django.test import TestCase
from loading.reads import load_question, part_named
from openpyxl import load_workbook
from scipy.sparse import coo_array, identity
from scipy.sparse.linalg import inv
from tally_core.cost.answers import Basis, needs_answer
from testing import Api, load, person, rod_and_tube, sheet_of
from verbs.parts.move_stock import move_stock

sys.path.insert(0, str(Path(__file__).resolve().parents[3] / "core"))
from definition.models.sheets import BuildSheet
from tests.generate import DAY as GENERATED_DAY
from tests.generate import bundle


def tangle(count: int = 40, seed: int = 5) -> tuple[dict, np.ndarray, nx.MultiDiGraph]:
    """A bundle of ``count`` parts over several levels, its matrix A (rows take columns), and its graph."""
    r = random.Random(seed)
    lines = [(i, r.randint(i + 1, min(i + 12, count - 1)), r.randint(1, 9)) for i in range(count - 1) for _ in range(r.randint(0, 3))]
    made = {i for i, _, _ in lines}
    document = {
        "format": "round-tally-bundle",
        "version": 1,
        "parts": [{"number": f"N{i}", "kind": "made" if i in made else "bought", "unit": "kg", "unit_cost": "1"} for i in range(count)],
        "build_sheets": [
            {
                "part": f"N{i}",
                "status": "released",
                "lines": [
                    {"part": f"N{b}", "quantity": f"{q / 8}", "item": 10 * k}
                    for k, (_, b, q) in enumerate((x for x in lines if x[0] == i), 1)
                ],
            }
            for i in sorted(made)
        ],
    }
    use = coo_array(([q / 8 for *_, q in lines], ([a for a, *_ in lines], [b for _, b, _ in lines])), shape=(count, count))
    graph = nx.MultiDiGraph([(a, b) for a, b, _ in lines])
    graph.add_nodes_from(range(count))
    return document, use.toarray(), graph


class Readings(TestCase):
    """A. Vazsonyi, Management Science 1 (1954): (I − A)⁻¹ holds what each part takes of each, all paths together."""

    def setUp(self) -> None:
        self.document, use, self.graph = tangle()
        self.total = inv((identity(len(use)) - coo_array(use)).tocsc()).toarray()
        load(self.document)
        self.api = Api("viewer")

    def test_summed_lists_agree_with_the_inverse(self) -> None:
        for top in (0, 3, 7):
            if not self.graph.out_degree(top):
                continue
            view = self.api.get(f"/sheets/{sheet_of(f'N{top}').id}/view")[1]
            found = {p["number"]: p["need"] for p in view["parts"]}
            wanted = {f"N{i}": self.total[top, i] for i in np.flatnonzero(self.total[top])}
            self.assertEqual(found.keys(), wanted.keys())
            for number, need in wanted.items():
                self.assertAlmostEqual(found[number], need, places=5)

    def test_where_used_is_a_column_of_the_inverse_and_its_tops_are_the_sources(self) -> None:
        for part in range(0, len(self.total), 3):
            found = self.api.get("/sheets/where-used", part=f"N{part}")[1]
            users = {p["number"]: p for p in found["parts"]}
            above = nx.ancestors(self.graph, part) | {part}
            self.assertEqual(users.keys(), {f"N{i}" for i in above})
            for i in above:
                self.assertAlmostEqual(users[f"N{i}"]["taken"], self.total[i, part], delta=1e-8 * (1 + self.total[i, part]))
                self.assertEqual(users[f"N{i}"]["top"], self.graph.in_degree(i) == 0)
            longest = nx.dag_longest_path_length(self.graph.subgraph(above))
            self.assertEqual(max(p["levels"] for p in found["parts"]), longest)
            direct = sorted(found["parts"][u["user"]]["number"] for u in found["uses"] if u["takes"] == found["part"])
            self.assertEqual(direct, sorted(f"N{a}" for a, _ in self.graph.in_edges(part)))

    def test_very_many_users_keep_their_sums_and_only_the_direct_lines(self) -> None:
        part = max(range(len(self.total)), key=lambda i: len(nx.ancestors(self.graph, i)))
        whole = self.api.get("/sheets/where-used", part=f"N{part}")[1]
        with patch("readings.where_used.MOST_USES", 3):
            found = self.api.get("/sheets/where-used", part=f"N{part}")[1]
        self.assertEqual((whole["whole"], found["whole"], found["parts"]), (True, False, whole["parts"]))
        self.assertEqual(found["uses"], [u for u in whole["uses"] if u["takes"] == whole["part"]])
        self.assertLess(len(found["uses"]), len(whole["uses"]))

    def test_the_matrix_holds_both(self) -> None:
        body = {"builds": [{"part": "N0", "quantity": "16"}, {"part": "N3", "quantity": "8"}, {"part": "N7"}]}
        status, found = self.api.post("/sheets/matrix", body)
        self.assertEqual(status, 200)
        for row in found["rows"]:
            i = int(row["part"][1:])
            for cell, top in zip(row["each"], (0, 3, 7), strict=True):
                self.assertAlmostEqual(cell, self.total[top, i], delta=1e-8 * (1 + self.total[top, i]))
            wanted = 16 * self.total[0, i] + 8 * self.total[3, i]
            self.assertAlmostEqual(row["order"], wanted, delta=1e-8 * (1 + wanted))

    def test_a_tree_loaded_in_any_order_gives_the_same_lists(self) -> None:
        """Each sheet in a bundle of its own, in several orders; parts first, as their numbers must be known."""
        wanted = self.api.get(f"/sheets/{sheet_of('N0').id}/view")[1]["parts"]
        plain = [(p["number"], p["need"], p["cost"]) for p in wanted]
        for seed in (1, 2, 3):
            BuildSheet.objects.all().delete()
            Part.objects.all().delete()
            order = list(self.document["build_sheets"])
            random.Random(seed).shuffle(order)
            load({**self.document, "build_sheets": []})
            for sheet in order:
                load({**self.document, "parts": [], "build_sheets": [sheet]})
            again = self.api.get(f"/sheets/{sheet_of('N0').id}/view")[1]["parts"]
            self.assertEqual([(p["number"], p["need"], p["cost"]) for p in again], plain)


class SameFigures(TestCase):
    """One question, three screens: the summed list, the matrix and the contract's own answer give the same needs."""

    def test_of_generated_products_as_a_job(self) -> None:
        compared = 0
        for seed in (1000, 1004, 1009, 1016, 1025, 1031):
            document, top, options = bundle(seed)
            with transaction.atomic():
                load(document)
                api = Api("viewer")
                basis = Basis(date.fromisoformat(GENERATED_DAY), Decimal(24), tuple(options))
                _, question = load_question(part_named(top), basis)
                wanted = {n["part"]: n for n in needs_answer(question)["needs"]}
                body = {"builds": [{"part": top, "quantity": "24", "options": options}], "day": GENERATED_DAY}
                status, found = api.post("/sheets/matrix", body)
                self.assertEqual(status, 200, found)
                cells = {row["part"]: row["needs"][0] for row in found["rows"]}
                view = api.get(f"/sheets/{sheet_of(top).id}/view", quantity="24", day=GENERATED_DAY, options=",".join(options))[1]
                summed = {p["number"]: p for p in view["parts"]}
                for number, need in wanted.items():
                    self.assertAlmostEqual(cells[number], float(need["gross"]), delta=1e-5 * max(1, float(need["gross"])))
                    self.assertAlmostEqual(summed[number]["need"], float(need["gross"]), delta=1e-5 * max(1, float(need["gross"])))
                    self.assertAlmostEqual(summed[number]["lot"], float(need["lot"]), delta=1e-5 * max(1, float(need["lot"])))
                    compared += 1
                kinds = {p["number"]: p["kind"] for p in document["parts"]}
                self.assertFalse({n for n in cells if kinds[n] == "phantom"})
                transaction.set_rollback(True)
        self.assertGreater(compared, 25)


class MatrixOrders(TestCase):
    def setUp(self) -> None:
        document = rod_and_tube("released")
        document["build_sheets"][0]["lines"].append({"item": 40, "part": "NUT", "quantity": "2", "option": "LONG"})
        document["parts"].append({"number": "KIT", "kind": "made", "unit": "ea"})
        document["build_sheets"].append({"part": "KIT", "status": "released", "lines": [{"item": 10, "part": "RT-1", "quantity": "3"}]})
        load(document)
        self.api = Api("viewer")

    def rows(self, *builds: dict, **more) -> dict[str, dict]:
        status, found = self.api.post("/sheets/matrix", {"builds": list(builds), **more})
        self.assertEqual(status, 200, found)
        return {row["part"]: row for row in found["rows"]}

    def test_a_product_with_other_options_beside_itself_is_no_part_of_itself(self) -> None:
        plain, long = {"part": "RT-1", "quantity": "10"}, {"part": "RT-1", "quantity": "5", "options": ["LONG"]}
        rows = self.rows(plain, long)
        self.assertEqual(set(rows), {"ROD", "NUT", "T-1"})
        # Ten with four nuts, five with four and two more.
        self.assertEqual(rows["NUT"]["needs"], [40.0, 30.0])
        self.assertEqual(rows["NUT"]["total"], 70.0)

    def test_a_product_that_another_takes_is_a_part_of_that_one_only(self) -> None:
        rows = self.rows({"part": "RT-1", "quantity": "10"}, {"part": "KIT", "quantity": "2"})
        self.assertEqual(rows["RT-1"]["needs"], [0.0, 6.0])
        self.assertEqual(rows["RT-1"]["total"], 6.0)
        self.assertNotIn("KIT", rows)

    def test_the_order_is_what_is_short_in_whole_boxes(self) -> None:
        part = Part.objects.get(number="NUT")
        part.buying_unit, part.stock_per_buying_unit, part.order_minimum = "box", 25, 60
        part.save()
        move_stock(person("buyer"), "NUT", "8", "counted")
        OpenOrder.objects.create(part=part, order="PO-1", quantity=20, added_by="x")
        build = {"part": "RT-1", "quantity": "10"}
        row = self.rows(build)["NUT"]
        # 40 less 8 and 20 are 12; at least 60, so three boxes of 25.
        self.assertEqual((row["total"], row["on_hand"], row["on_order"], row["order"]), (40, 8, 20, 75))
        self.assertEqual(self.rows(build, stock=False)["NUT"]["order"], 75)
        self.assertEqual(self.rows({"part": "RT-1", "quantity": "7"})["NUT"]["order"], 0)


class Counting(TestCase):
    """Of several sheets of a part, the one that counts on the day is marked: the same that a parent is costed with."""

    def test_the_one_in_force_on_the_day_and_drafts_where_they_count(self) -> None:
        document = rod_and_tube("released")
        tube = next(s for s in document["build_sheets"] if s["part"] == "T-1")
        tube |= {"effective_to": "2027-01-01"}
        later = tube | {
            "revision": "B",
            "effective_from": "2027-01-01",
            "effective_to": None,
            "lines": [{"item": 10, "part": "ROD", "quantity": "900", "unit": "mm"}],
        }
        draft = tube | {"revision": "C", "status": "draft", "effective_to": None}
        document["build_sheets"] += [later, draft]
        load(document)
        api = Api("viewer")
        for day, drafts, revision in (("2026-12-31", False, "A"), ("2027-01-01", False, "B"), ("2027-01-01", True, "C")):
            status, sheets = api.get("/sheets", part="T-1", day=day, drafts=str(drafts).lower())
            self.assertEqual((status, [s["revision"] for s in sheets if s["counts"]]), (200, [revision]), day)
            top = BuildSheet.objects.get(part__number="RT-1").pk
            view = api.get(f"/sheets/{top}/view", day=day, drafts=str(drafts).lower())[1]
            own = next(s["id"] for s in sheets if s["revision"] == revision)
            below = next(p for p in view["parts"] if p["number"] == "T-1")
            alone = api.get(f"/sheets/{own}/view", day=day, drafts=str(drafts).lower())[1]
            self.assertEqual(below["cost"], alone["parts"][alone["top"]]["cost"], "the parent rolls up what the sheet shows")
        self.assertEqual([s["counts"] for s in api.get("/sheets", part="T-1", day="2000-01-01")[1]].count(True), 1)


class MatrixRefusals(TestCase):
    def test_each_is_placed_at_its_build(self) -> None:
        load(rod_and_tube("released"))
        api = Api("viewer")
        for builds, place in (
            ([{"part": "RT-1"}, {"part": "NONE"}], "builds[1].part"),
            ([{"part": "RT-1", "quantity": "-1"}], "builds[0].quantity"),
            ([{"part": "RT-1", "options": ["GPS"]}], "builds[0]"),
        ):
            status, said = api.post("/sheets/matrix", {"builds": builds})
            self.assertEqual((status, said["problems"][0]["place"]), (422, place))
        self.assertEqual(api.post("/sheets/matrix", {"builds": []})[0], 422)
        self.assertEqual(api.post("/sheets/matrix", {"builds": [{"part": "RT-1"}] * 41})[0], 422)


class Tables(TestCase):
    TABLE = {
        "title": "Parts of [RT-1]",
        "columns": [{"title": "part"}, {"title": "needed", "number": True}, {"title": "value", "number": True, "total": True}],
        "rows": [["=1+1", 2.5, 10], ["+A", None, 2.25], ["plain", 0, 0]],
    }

    def test_a_list_leaves_as_it_stands_with_totals_that_calculate(self) -> None:
        api = Api("viewer")
        status, body = api.post("/sheets/table/xlsx", self.TABLE)
        self.assertEqual(status, 200)
        sheet = load_workbook(io.BytesIO(body)).active
        assert sheet is not None
        rows = list(sheet.iter_rows(values_only=True))
        self.assertEqual(rows[1:4], [("=1+1", 2.5, 10), ("+A", None, 2.25), ("plain", 0, 0)])
        self.assertEqual((sheet["A2"].data_type, rows[4]), ("s", ("total", None, "=SUM(C2:C4)")))
        cached = load_workbook(io.BytesIO(body), data_only=True).active
        assert cached is not None
        self.assertEqual(Decimal(str(cached["C5"].value)), Decimal("12.25"))
        body = api.post("/sheets/table/csv", self.TABLE)[1]
        self.assertEqual(list(csv.reader(io.StringIO(body.decode("utf-8-sig"))))[1:3], [["'=1+1", "2.5", "10"], ["'+A", "", "2.25"]])

    def test_what_is_no_list_is_refused(self) -> None:
        api = Api("viewer")
        for change in ({"columns": []}, {"rows": [["short"]]}, {"rows": [[{}, 1, 2]]}):
            self.assertEqual(api.post("/sheets/table/xlsx", self.TABLE | change)[0], 422)
        self.assertEqual(api.post("/sheets/table/pdf", self.TABLE)[0], 422)


class Pasting(TestCase):
    """Rows of a spreadsheet on their way into a sheet: read, shown, never written."""

    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")
        self.path = f"/sheets/{sheet_of('RT-1').id}/paste"

    def read(self, text: str) -> list[tuple]:
        status, found = self.api.post(self.path, {"text": text})
        self.assertEqual(status, 200, found)
        return [(r["row"], r["part"], r["known"], r["values"]["quantity"], r["values"]["unit"], len(r["problems"])) for r in found["rows"]]

    def test_with_a_header_and_without(self) -> None:
        self.assertEqual(
            self.read("Part\tQty\tUnit\nrod\t250\tmm\nNEW-1\t2\t\n"), [(2, "ROD", True, "250", "mm", 0), (3, "NEW-1", False, "2", None, 0)]
        )
        self.assertEqual(self.read("rod\t250\tmm\nnut\t2\tpcs"), [(1, "ROD", True, "250", "mm", 0), (2, "NUT", True, "2", None, 0)])
        self.assertEqual(
            self.read("2\tA part nobody has\tNEW-2\n1\tIts nut\tNUT"), [(1, "NEW-2", False, "2", None, 0), (2, "NUT", True, "1", None, 0)]
        )
        self.assertEqual(self.read("NUT\t1,5"), [(1, "NUT", True, "1.5", None, 0)])

    def test_a_bad_row_is_named_and_the_others_are_read(self) -> None:
        found = self.read("Part\tQty\tUnit\nROD\t2\tkg\nNUT\t-1\t\nT 1\t1\t\nNUT\t4\t")
        self.assertEqual([(row, problems > 0) for row, *_, problems in found], [(2, True), (3, True), (4, True), (5, False)])

    def test_words_alone_become_notes(self) -> None:
        text = "Lantern list\nPart\tQty\nNUT\t2\nFit the seal dry\t\nNEW-1\t1"
        status, said = self.api.post(self.path, {"text": text})
        self.assertEqual(status, 200, said)
        self.assertEqual(
            [(r["row"], r["values"].get("kind"), r["part"]) for r in said["rows"]], [(3, None, "NUT"), (4, "text", ""), (5, None, "NEW-1")]
        )
        alone = self.api.post(self.path, {"text": "Fit the seal dry\nWipe it off"})[1]
        self.assertEqual(
            [r["values"] for r in alone["rows"]], [{"kind": "text", "text": "Fit the seal dry"}, {"kind": "text", "text": "Wipe it off"}]
        )

    def test_what_cannot_be_read_is_said(self) -> None:
        for text in ("", "\t\n \t", "\x00", "1\t2\t3", "A\t1\n" * 2001):
            status, said = self.api.post(self.path, {"text": text})
            self.assertEqual(status, 422, text[:20])
            self.assertTrue(said["message"])
        self.assertEqual(self.api.post("/sheets/999999/paste", {"text": "A\t1"})[0], 404)
        self.assertEqual(sheet_of("RT-1").version, 1)
