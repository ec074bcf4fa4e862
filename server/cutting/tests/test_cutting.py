"""Cutting from sheets to leftovers: pieces by rule K1 worked out by hand, patterns laid out without overlap, and what is left used first.

The DXF is read back by ezdxf, the workbook by openpyxl, PDF by pypdf. Bars: the least number is worked out by hand in each test.
"""

import csv
import io
from decimal import Decimal
from typing import Any

import ezdxf
import openpyxl
from definition.models.parts import Part, StockMove
from definition.models.sheets import Line
from django.test import TestCase
from django.utils.timezone import localdate
from pypdf import PdfReader
from testing import Api, load

from cutting.models import CutPlan, Leftover, StockSize


def crate(**panel: Any) -> dict:
    """A crate of two ends and two sides out of plywood, with edging and grain, and battens; its ends are a part of their own."""
    return {
        "format": "round-tally-bundle", "version": 1,
        "parts": [
            {"number": "CRATE", "kind": "made", "unit": "ea"}, {"number": "END", "kind": "made", "unit": "ea"},
            {"number": "PLY", "kind": "bought", "unit": "m2", "unit_cost": "10", "size_mm": "2500 x 1250 x 9", "description": "=Plywood"},
            {"number": "BAR", "kind": "bought", "unit": "m", "unit_cost": "1", "size_mm": "3000 x 30 x 30"}, {"number": "GLUE", "kind": "bought", "unit": "g"},
        ],
        "build_sheets": [
            {"part": "CRATE", "status": "released", "lines": [
                {"item": 10, "part": "END", "quantity": "2"},
                {"item": 20, "part": "PLY", "quantity": "0.36", "cut": "2 × 600 × 300, grain length, edges 1 1 0 0, over 2"},
                {"item": 30, "part": "BAR", "quantity": "4", "scrap_percent": "5", "cut": "4 × 990"}, {"item": 40, "part": "GLUE", "quantity": "5"}]},
            {"part": "END", "status": "released", "lines": [{"item": 10, "part": "PLY", "quantity": "0.12", "cut": "1 × 400 × 300"} | panel]},
        ],
    }  # fmt: skip


class Cutting(TestCase):
    def setUp(self) -> None:
        load(crate())
        self.api = Api("engineer")

    def plan(self, quantity: str = "3", part: str = "CRATE", **more: Any) -> dict[str, Any]:
        with self.captureOnCommitCallbacks(execute=True):
            status, said = self.api.post("/cutting", {"builds": [{"part": part, "quantity": quantity}], "kerf_mm": "3", "keep_mm": "200"} | more)  # fmt: skip
        self.assertEqual(status, 200, said)
        return self.api.get(f"/cutting/{said['id']}")[1]

    def check_laid(self, pattern: dict[str, Any], kerf: Decimal) -> None:
        """Nothing reaches over the edge, and any two pieces are a cut apart on one side at least."""
        size = [Decimal(pattern["length"]), Decimal(pattern["width"] or 1)]
        boxes = [[Decimal(p[n]) for n in ("x", "y", "along", "across")] for p in pattern["placed"]]
        for x, y, along, across in boxes:
            self.assertTrue(x >= 0 and x + along <= size[0])
            self.assertTrue(pattern["width"] is None or (y >= 0 and y + across <= size[1]))
        for i, (x, y, along, across) in enumerate(boxes):
            for u, v, a, c in boxes[:i]:
                apart = [u - x - along, x - u - a] + ([v - y - across, y - v - c] if pattern["width"] else [])
                self.assertGreaterEqual(max(apart), kerf)

    def test_pieces_of_all_levels_are_cut_and_counted(self) -> None:
        said = self.plan()
        bars, boards = said["materials"]
        self.assertEqual((said["state"], said["behind"], bars["part"], boards["part"]), ("made", "", "BAR", "PLY"))
        pieces = {p["name"]: p for p in bars["pieces"] + boards["pieces"]}
        self.assertEqual({n: p["count"] for n, p in pieces.items()}, {"CRATE / 30": 12, "CRATE / 20": 6, "END / 10": 6})
        # K1: the width loses an edging on the front and the back, and both sides gain what is worked off.
        side = pieces["CRATE / 20"]
        self.assertEqual((side["cut_length"], side["cut_width"]), ("602", "300"))
        # Three of 990 with two cuts take 2976 of 3000: four bars, and none could do with fewer.
        self.assertEqual((bars["count"], bars["bound"], bars["proven"]), (4, "4", True))
        self.assertEqual((bars["cost"], bars["taken"], bars["loss_percent"]), ("12", "12", "1.0"))
        self.assertEqual(boards["count"], 1)
        for material in said["materials"]:
            cut = {p["name"]: 0 for p in material["pieces"]}
            for pattern in material["used"]:
                self.check_laid(pattern, Decimal(3))
                for placed in pattern["placed"]:
                    cut[placed["name"]] += pattern["count"]
                    if placed["name"] == "CRATE / 20":
                        self.assertEqual((placed["along"], placed["turned"]), ("602", False), "the grain runs along the length")
            self.assertEqual(cut, {p["name"]: p["count"] for p in material["pieces"]})

    def test_what_is_left_is_stock_and_used_first(self) -> None:
        shop = Api("shop")
        for number, amount in (("BAR", "20"), ("PLY", "10")):
            self.assertEqual(shop.post(f"/parts/one/stock?number={number}", {"quantity": amount, "reason": "counted"})[0], 200)
        first = self.plan("1")
        bars, boards = first["materials"]
        # Four of 990: two bars, of the second 3000 - 990 - 3.
        self.assertEqual([(x["length"], x["count"]) for x in bars["left"]], [("2007", 1)])
        self.assertEqual(shop.post(f"/cutting/{first['id']}/cut", {})[0], 200)
        self.assertEqual(shop.get("/cutting/sizes", number="BAR")[1]["leftovers"][0]["length_mm"], "2007")
        moved = {m.part.number: m for m in StockMove.objects.filter(quantity__lt=0).select_related("part")}
        self.assertEqual(moved["BAR"].quantity, Decimal("-3.993"))
        self.assertEqual(moved["BAR"].reason, "cut by C-1")
        self.assertEqual(moved["PLY"].quantity, -Decimal(boards["taken"]))
        second = self.plan("1")
        # Some of the four come out of the leftover, so one bar is taken from the rack instead of two.
        self.assertEqual(sorted((bool(u["leftover"]), u["count"]) for u in second["materials"][0]["used"]), [(False, 1), (True, 1)])
        self.assertTrue(all(u["leftover"] for u in second["materials"][1]["used"]), "the panels fit on what is left of the board")
        third = self.plan("1")
        self.assertEqual(shop.post(f"/cutting/{second['id']}/cut", {"moves_stock": False})[0], 200)
        # What it counted on is gone by now: said, and nothing is half done.
        self.assertEqual(self.api.get(f"/cutting/{third['id']}")[1]["behind"], "A leftover that it takes is no longer there.")
        held = list(Leftover.objects.order_by("pk").values())
        self.assertEqual(shop.post(f"/cutting/{third['id']}/cut", {})[0], 422)
        self.assertEqual((list(Leftover.objects.order_by("pk").values()), CutPlan.objects.get(pk=third["id"]).state), (held, "made"))
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(self.api.post(f"/cutting/{third['id']}/again", {})[0], 200)
        self.assertEqual(self.api.get(f"/cutting/{third['id']}")[1]["behind"], "")
        self.assertEqual(self.api.post(f"/cutting/{first['id']}/again", {})[0], 422)
        self.assertEqual(self.api.post(f"/cutting/{first['id']}/drop", {})[0], 422)
        self.assertEqual([p["number"] for p in self.api.post(f"/cutting/{third['id']}/drop", {})[1]], ["C-2", "C-1"])

    def test_what_a_plan_refuses_is_known_beforehand(self) -> None:
        may = {}
        fresh, behind, stops, cut = (self.plan() for _ in range(4))
        asked = CutPlan.objects.create(number="C-99", builds=CutPlan.objects.get(pk=fresh["id"]).builds, made_by="x", day=localdate(), kerf_mm=3, keep_mm=200)  # fmt: skip
        CutPlan.objects.filter(pk=behind["id"]).update(said={"format": 1, "materials": [CutPlan.objects.get(pk=fresh["id"]).said["materials"][0]]})  # fmt: skip
        of = CutPlan.objects.get(pk=stops["id"])
        of.said["materials"][0]["stops"] = "a piece is longer than any bar"
        of.save()
        status, said = self.api.post(f"/cutting/{cut['id']}/cut", {"moves_stock": False})
        self.assertEqual(status, 200, said)
        for name, key in {"fresh": fresh["id"], "behind": behind["id"], "stops": stops["id"], "asked": asked.pk, "cut": cut["id"]}.items():  # fmt: skip
            at, told = f"/cutting/{key}", self.api.get(f"/cutting/{key}")[1]
            tried = self.api.refusals({"change": ("POST", f"{at}/drop", {}), "cut": ("POST", f"{at}/cut", {"moves_stock": False})})  # fmt: skip
            self.assertEqual(tried, told["why_not"], name)
            self.assertEqual(self.api.refusals({"change": ("POST", f"{at}/again", {})})["change"], tried["change"])
            may[name] = [action for action, words in tried.items() if words is None]
        self.assertEqual(may, {"fresh": ["change", "cut"], "behind": ["change"], "stops": ["change"], "asked": ["change"], "cut": []})  # fmt: skip

    def test_more_than_is_there_is_not_taken(self) -> None:
        said = self.plan()
        status, answer = self.api.post(f"/cutting/{said['id']}/cut", {})
        self.assertEqual((status, "on hand" in answer["message"]), (422, True))
        self.assertEqual((Leftover.objects.count(), StockMove.objects.count(), CutPlan.objects.get().state), (0, 0, "made"))

    def test_sizes_are_stated_and_cost_decides(self) -> None:
        self.assertEqual(self.api.get("/cutting/sizes", number="BAR")[1]["sizes"][0]["by_part"], "3.00")
        # Bars of two lengths: 2000 holds two of 990 and costs half of 3000, which holds three.
        status, said = self.api.send(
            "PUT", "/cutting/sizes?number=BAR", [{"length_mm": "3000", "cost": "3.20"}, {"length_mm": "2000", "cost": "1.60"}]
        )
        self.assertEqual((status, said["stated"], len(said["sizes"])), (200, True, 2))
        bars = self.plan("1")["materials"][0]
        self.assertEqual([(u["stock"], u["count"]) for u in bars["used"]], [("2000", 2)])
        self.assertEqual((bars["cost"], bars["bound"], bars["proven"]), ("3.2", "3.2", True))
        for wrong in ([{"length_mm": "x"}], [{"length_mm": ""}], [{"length_mm": "-1"}], [{"length_mm": "3", "cost": "0"}], [{"length_mm": "3"}, {"length_mm": "3", "width_mm": "3"}], [{"length_mm": "3"}] * 31):  # fmt: skip
            self.assertEqual(self.api.send("PUT", "/cutting/sizes?number=BAR", wrong)[0], 422, wrong)
        self.assertEqual(StockSize.objects.count(), 2)
        self.assertEqual(
            self.api.post("/cutting/leftovers?number=BAR", {"length_mm": "1990", "count": "2", "note": "behind the saw"})[0], 200
        )
        bars = self.plan("1")["materials"][0]
        self.assertEqual([(bool(u["leftover"]), len(u["placed"])) for u in bars["used"]], [(True, 2), (True, 2)])
        first = Leftover.objects.order_by("pk")[0]
        self.assertEqual(self.api.post(f"/cutting/leftovers/{first.pk}/gone", {})[0], 200)
        self.assertEqual(self.api.post(f"/cutting/leftovers/{first.pk}/gone", {})[0], 404)
        for wrong in (
            {"length_mm": "0"},
            {"length_mm": "5", "count": "0"},
            {"length_mm": "5", "count": "1e9"},
            {"length_mm": "5", "note": "a\nb"},
        ):
            self.assertEqual(self.api.post("/cutting/leftovers?number=BAR", wrong)[0], 422, wrong)
        self.assertEqual(Api("viewer").post("/cutting/leftovers?number=BAR", {"length_mm": "5"})[0], 403)

    def test_what_does_not_come_through_is_cut_too(self) -> None:
        """Of the ends 80 % pass: for 6 good ones 7.5 are started, so 8 panels are cut; a sheet of a batch states its lines for all of it."""
        document = crate()
        document["work_centers"] = [{"code": "SAW"}]
        document["build_sheets"][1] |= {
            "batch": "4",
            "revision": "B",
            "operations": [{"sequence": 10, "name": "Saw", "work_center": "SAW", "yield_percent": "80"}],
        }
        document["build_sheets"][1]["lines"][0]["quantity"] = "0.48"
        load(document)
        boards = self.plan()["materials"][1]
        end = next(p for p in boards["pieces"] if p["parent"] == "END")
        self.assertEqual((end["count"], end["stated"], end["finished"]), (8, "0.12", "0.12"))

    def test_what_is_lost_goes_onto_the_lines_in_drafts(self) -> None:
        key = self.plan()["id"]
        drafts = self.api.post(f"/cutting/{key}/loss", {"part": "BAR"})[1]
        self.assertEqual([(d["part"], d["status"], d["revision"]) for d in drafts], [("CRATE", "draft", "B")])
        self.assertEqual(
            {(x.sheet.revision, x.scrap_percent) for x in Line.objects.filter(part__number="BAR").select_related("sheet")},
            {("A", Decimal(5)), ("B", Decimal(1))},
        )
        self.assertEqual(len(self.api.post(f"/cutting/{key}/loss", {"part": "PLY"})[1]), 2)
        self.assertEqual(self.api.post(f"/cutting/{key}/loss", {"part": "GLUE"})[0], 422)
        self.assertEqual(Api("shop").post(f"/cutting/{key}/loss", {"part": "BAR"})[0], 403)

    def test_what_cannot_be_cut_is_said(self) -> None:
        Part.objects.filter(number="PLY").update(size_mm="")
        Line.objects.filter(cut="4 × 990").update(cut="4 × 3990")
        bars, boards = self.plan()["materials"]
        self.assertEqual(boards["stops"], "nothing says in which sizes PLY comes")
        self.assertIn("3990 mm long, and the longest bar is 3000 mm", bars["stops"])
        plan = CutPlan.objects.get()
        self.assertIn("cannot be cut whole", self.api.post(f"/cutting/{plan.pk}/cut", {})[1]["message"])
        for wrong, words in (
            ({"builds": [{"part": "PLY", "quantity": "1"}]}, "PLY"), ({"builds": [{"part": "NONE", "quantity": "1"}]}, "NONE"), ({"builds": []}, "1 to 40"),
            ({"builds": [{"part": "CRATE", "quantity": ""}]}, "how many"), ({"builds": [{"part": "CRATE", "quantity": "1"}], "kerf_mm": "x"}, "number"),
            ({"builds": [{"part": "CRATE", "quantity": "1"}], "keep_mm": "-1"}, "0 to 5000"),
        ):  # fmt: skip
            status, said = self.api.post("/cutting", wrong)
            self.assertIn(status, (404, 422), wrong)
            self.assertIn(words, said["message"])
        for text in (
            "12 x",
            "4",
            "a × b",
            "1.5 × 20",
            "2 × 20, grain across",
            "2 × 20, grain length",
            "1 × 5 × 5, edges 3 3 0 0",
            "1 × 9 × 9 × 9",
            "2 × -3",
            "1e9 × 2",
        ):
            line = str(Line.objects.get(item=30).pk)
            sheet = Line.objects.get(item=30).sheet
            edit = {
                "version": sheet.version,
                "changes": [{"table": "line", "id": line, "before": {"cut": "4 × 3990"}, "after": {"cut": text}}],
                "reason": "x",
            }
            self.assertNotEqual(self.api.post(f"/sheets/{sheet.pk}/edits", edit)[0], 200, text)

    def test_a_plan_leaves_on_paper_and_for_a_machine(self) -> None:
        key = self.plan()["id"]

        def paper(shape: str) -> bytes:
            answer = self.api.client.get(f"/api/cutting/{key}/paper/{shape}")
            self.assertEqual(answer.status_code, 200, answer.content)
            return answer.content

        rows = [[c.value for c in row] for row in openpyxl.load_workbook(io.BytesIO(paper("xlsx"))).active.iter_rows()]
        self.assertIn(["PLY", "CRATE / 20", "CRATE", 6, 600, 300, "along the length", "1 / 1 / 0 / 0", 602, 300], rows)
        self.assertEqual(len(list(csv.reader(io.StringIO(paper("csv").decode("utf-8-sig"))))), 4)
        text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(paper("pdf"))).pages)
        for words in ("Cutting C-1", "=Plywood", "602", "proven the least", "3 CRATE"):
            self.assertIn(words, text)
        labels = PdfReader(io.BytesIO(paper("labels"))).pages
        self.assertEqual(len(labels), 2)
        self.assertIn("12 of 12", labels[0].extract_text() + labels[1].extract_text())
        drawn = ezdxf.read(io.StringIO(paper("dxf").decode()))
        pieces = [e for e in drawn.modelspace() if e.dxf.layer == "PIECES"]
        said = self.api.get(f"/cutting/{key}")[1]
        self.assertEqual(len(pieces), sum(len(u["placed"]) for m in said["materials"] for u in m["used"]))
        sizes = set()
        for outline in pieces:
            xs, ys = zip(*[(x, y) for x, y, *_ in outline.get_points()], strict=True)
            sizes.add((round(max(xs) - min(xs), 3), round(max(ys) - min(ys), 3)))
        self.assertIn((602.0, 300.0), sizes)
        self.assertEqual(drawn.units, ezdxf.units.MM)
