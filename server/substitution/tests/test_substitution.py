"""A table from generic things to real stock: read from a workbook, looked at before, exchanged and taken back in one step. Figures by hand."""

from decimal import Decimal
from typing import Any

from definition.models.sheets import BuildSheet, Line
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from testing import Api, load, workbook

from substitution.models import Substituted, SubstitutionTable

ROWS = [
    {"code": "screw, any m5", "part": "SCR-M5", "goes": "1", "comes": "1"},
    {"code": "GEN-BOARD", "part": "PLY-09", "goes": "2", "comes": "3", "note": "three narrow for two wide"},
]


def bench() -> dict:
    """A bench of two generic boards and eight generic screws on a released sheet; its leg on a draft takes screws, too."""
    return {
        "format": "round-tally-bundle",
        "version": 1,
        "currency": "EUR",
        "parts": [
            {"number": "BENCH", "kind": "made", "unit": "ea"},
            {"number": "LEG", "kind": "made", "unit": "ea"},
            {"number": "GEN-BOARD", "kind": "bought", "unit": "m2"},
            {"number": "GEN-SCREW", "kind": "bought", "unit": "ea", "description": "Screw,  any M5"},
            {"number": "PLY-09", "kind": "bought", "unit": "m2", "unit_cost": "10"},
            {"number": "SCR-M5", "kind": "bought", "unit": "ea", "unit_cost": "0.10"},
            {"number": "GLUE", "kind": "bought", "unit": "g", "unit_cost": "0.01"},
        ],
        "build_sheets": [
            {
                "part": "BENCH",
                "status": "released",
                "lines": [
                    {"item": 10, "part": "GEN-BOARD", "quantity": "2", "fixed_loss": "1"},
                    {"item": 20, "part": "GEN-SCREW", "quantity": "8"},
                    {"item": 30, "part": "LEG", "quantity": "4"},
                    {"item": 40, "part": "GLUE", "quantity": "5"},
                ],
            },
            {"part": "LEG", "status": "draft", "lines": [{"item": 10, "part": "GEN-SCREW", "quantity": "2"}]},
        ],
    }


class Substitution(TestCase):
    def setUp(self) -> None:
        load(bench())
        self.api = Api("engineer")
        status, self.table = self.api.post("/substitution", {"name": "Timber and hardware", "rows": ROWS})
        self.assertEqual(status, 200, self.table)

    def preview(self) -> dict[str, Any]:
        status, said = self.api.post(f"/substitution/{self.table['id']}/preview", {"products": ["BENCH"]})
        self.assertEqual(status, 200, said)
        return said

    def test_what_is_exchanged_what_has_no_entry_and_what_it_costs(self) -> None:
        said = self.preview()
        bench, leg = said["sheets"]
        self.assertEqual(
            [(x["old"], x["new"], x["quantity"], x["new_quantity"]) for x in bench["lines"]],
            [("GEN-BOARD", "PLY-09", "2", "3"), ("GEN-SCREW", "SCR-M5", "8", "8")],
        )
        self.assertEqual((leg["part"], leg["status"], len(leg["lines"])), ("LEG", "draft", 1))
        self.assertEqual([row["part"] for row in said["none"]], ["GLUE"])
        # Glue alone before; then 3 m² and 1.5 lost at 10, eight screws, two in each of four legs.
        self.assertAlmostEqual(bench["before"], 0.05, 9)
        self.assertAlmostEqual(bench["after"], 0.05 + 45 + 1.6, 9)
        self.assertAlmostEqual(leg["after"], 0.2, 9)

    def test_it_is_exchanged_on_drafts_and_taken_back_in_one_step(self) -> None:
        sheets = {s["sheet"]: s["version"] for s in self.preview()["sheets"]}
        status, done = self.api.post(f"/substitution/{self.table['id']}/apply", {"sheets": sheets, "reason": "stock of the yard"})
        self.assertEqual(status, 200, done)
        self.assertEqual((done["parts"], done["lines"]), (["BENCH", "LEG"], 3))
        draft = BuildSheet.objects.get(part__number="BENCH", status="draft")
        board = draft.lines.get(item=10)
        self.assertEqual((board.part.number, board.quantity, board.fixed_loss), ("PLY-09", 3, Decimal("1.5")))
        # The released sheet stands as it did.
        self.assertTrue(Line.objects.filter(sheet__status="released", part__number="GEN-BOARD").exists())
        self.assertEqual(board.history.first().history_change_reason, "substituted by Timber and hardware: stock of the yard")
        self.assertEqual(self.preview()["sheets"], [])
        # What is kept for taking it back, as format 1 has it for ever.
        kept = Substituted.objects.get()
        screw = {"quantity": "2", "unit": "", "fixed_loss": "0"}
        leg = BuildSheet.objects.get(part__number="LEG")
        line = {"line": str(leg.lines.get().pk), "before": {"part": "GEN-SCREW", **screw}, "after": {"part": "SCR-M5", **screw}}
        self.assertEqual((kept.said["format"], kept.said["sheets"][1]), (1, {"sheet": leg.pk, "part": "LEG", "lines": [line]}))
        status, back = self.api.post(f"/substitution/done/{done['id']}/back", {})
        self.assertEqual((status, back["undone_by"]), (200, "engineer"))
        self.assertEqual({x.part.number for x in Line.objects.select_related("part")}, {"GEN-BOARD", "GEN-SCREW", "LEG", "GLUE"})
        self.assertEqual(draft.lines.get(item=10).quantity, 2)
        self.assertEqual(self.api.post(f"/substitution/done/{done['id']}/back", {})[0], 422)

    def test_what_was_changed_since_is_not_taken_back(self) -> None:
        sheets = {s["sheet"]: s["version"] for s in self.preview()["sheets"]}
        done = self.api.post(f"/substitution/{self.table['id']}/apply", {"sheets": sheets, "reason": "stock"})[1]
        Line.objects.filter(sheet__part__number="LEG").update(quantity=3)
        status, said = self.api.post(f"/substitution/done/{done['id']}/back", {})
        self.assertEqual(status, 422)
        self.assertIn("1 of its lines on LEG A/A were changed since", str(said))
        self.assertTrue(Line.objects.filter(part__number="PLY-09").exists())
        self.assertIsNone(Substituted.objects.get().undone_at)

    def test_all_sheets_or_none(self) -> None:
        load({"format": "round-tally-bundle", "version": 1, "parts": [{"number": "ROPE", "kind": "bought", "unit": "m"}]})
        self.api.post(
            "/substitution",
            {"id": self.table["id"], "version": 1, "name": "Timber", "rows": [ROWS[0], {"code": "GEN-BOARD", "part": "ROPE"}]},
        )
        said = self.preview()
        self.assertIn("ROPE is stocked in m", said["sheets"][0]["lines"][0]["stops"])
        sheets = {s["sheet"]: s["version"] for s in said["sheets"]}
        self.assertEqual(self.api.post(f"/substitution/{self.table['id']}/apply", {"sheets": sheets, "reason": "stock"})[0], 422)
        self.assertFalse(Line.objects.filter(part__number="SCR-M5").exists())
        leg = next(s for s in said["sheets"] if s["part"] == "LEG")
        stale = self.api.post(f"/substitution/{self.table['id']}/apply", {"sheets": {leg["sheet"]: leg["version"] + 1}, "reason": "stock"})
        self.assertIn("was changed meanwhile", str(stale))
        self.assertEqual(
            self.api.post(f"/substitution/{self.table['id']}/apply", {"sheets": {leg["sheet"]: leg["version"]}, "reason": " "})[0], 422
        )
        self.assertEqual(
            self.api.post(f"/substitution/{self.table['id']}/apply", {"sheets": {leg["sheet"]: leg["version"]}, "reason": "stock"})[0], 200
        )

    def test_a_table_comes_out_of_a_workbook_and_what_is_wrong_is_placed(self) -> None:
        content = workbook([["Stock", "Generic", "Note"], ["SCR-M5", "GEN-SCREW", "=1+1"], ["", "", ""], ["PLY-09", "Board", ""]])
        status, rows = self.api.upload("table.xlsx", content, "/substitution/file")
        self.assertEqual(
            (status, [(r["code"], r["part"], r["note"]) for r in rows]), (200, [("GEN-SCREW", "SCR-M5", "=1+1"), ("Board", "PLY-09", "")])
        )
        self.assertIn("no column generic", str(self.api.upload("table.xlsx", workbook([["A", "B"], ["1", "2"]]), "/substitution/file")[1]))
        wrong = [
            {"code": "", "part": "PLY-09"},
            {"code": "X", "part": "NOPE"},
            {"code": "x ", "part": "PLY-09"},
            {"code": "GLUE", "part": "GLUE"},
            {"code": "Y", "part": "PLY-09", "goes": "0"},
        ]
        status, said = self.api.post("/substitution", {"name": "timber AND hardware", "rows": wrong})
        self.assertEqual(
            [p["place"] for p in said["problems"]], ["name", "rows[0].code", "rows[1].part", "rows[2].code", "rows[3].part", "rows[4].goes"]
        )
        self.assertEqual(Api("viewer").post("/substitution", {"name": "Mine", "rows": []})[0], 403)
        self.assertEqual(self.api.post(f"/substitution/{self.table['id']}/preview", {"products": ["NOPE"]})[0], 404)
        self.assertEqual(self.api.post(f"/substitution/{self.table['id']}/drop", {}), (200, {"done": True}))
        self.assertFalse(SubstitutionTable.objects.exists())
        self.assertEqual(self.api.post(f"/substitution/{self.table['id']}/preview", {"products": ["BENCH"]})[0], 404)

    def test_queries_do_not_grow_with_lines(self) -> None:
        def queries() -> int:
            with CaptureQueriesContext(connection) as seen:
                self.preview()
            return len(seen)

        few = queries()
        sheet = BuildSheet.objects.get(part__number="LEG")
        screw = Line.objects.filter(part__number="GEN-SCREW").first()
        assert screw is not None
        Line.objects.bulk_create(Line(sheet=sheet, part=screw.part, position=n, quantity=1) for n in range(10, 60))
        self.assertEqual(queries(), few)
