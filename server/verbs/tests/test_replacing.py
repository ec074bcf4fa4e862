"""Exchanging a part across sheets: the effect beforehand, whole or not at all, released ones through revisions."""

from definition.models.sheets import BuildSheet, Line
from django.test import TestCase
from readings.export_bundle import export_bundle
from testing import Api, load, rod_and_tube, sheet_of


class Replacing(TestCase):
    """RT-1 (a draft) and T-1 (released) take ROD at 3.00 per m; BAR costs 4.00 per m and is stocked in mm."""

    def setUp(self) -> None:
        document = rod_and_tube()
        document["parts"] += [
            {"number": "BAR", "kind": "bought", "unit": "mm", "unit_cost": "0.004"},
            {"number": "OIL", "kind": "bought", "unit": "L", "unit_cost": "1"},
            {"number": "OLD", "kind": "bought", "unit": "m", "unit_cost": "1", "lifecycle": "obsolete"},
            {"number": "BOX", "kind": "made", "unit": "m"},
        ]
        document["build_sheets"].append({"part": "BOX", "status": "released", "lines": [{"part": "T-1", "quantity": "1"}]})
        load(document)
        self.api = Api("engineer")

    def look(self, new: str = "BAR") -> dict[str, dict]:
        status, found = self.api.get("/sheets/replacement", old="ROD", new=new)
        self.assertEqual(status, 200, found)
        return {row["part"]: row for row in found["rows"]}

    def exchange(self, *sheets: dict, new: str = "BAR", reason: str = "cheaper to hold", api: Api | None = None):
        body = {"old": "ROD", "new": new, "reason": reason, "sheets": {str(s["sheet"]): s["version"] for s in sheets}}
        return (api or self.api).post("/sheets/replacement", body)

    def test_so_many_come_for_so_many_that_go(self) -> None:
        """Three for two: 2 m become 3 m; half a metre three quarters; what is lost per lot follows."""
        Line.objects.filter(sheet=sheet_of("RT-1"), item=10).update(fixed_loss="0.5")
        status, found = self.api.get("/sheets/replacement", old="ROD", new="BAR", goes="2", comes="3")
        rows = {row["part"]: row for row in found["rows"]}
        self.assertEqual((status, rows["T-1"]["after"]), (200, 3.0))
        body = {
            "old": "ROD",
            "new": "BAR",
            "reason": "thinner",
            "goes": "2",
            "comes": "3",
            "sheets": {str(r["sheet"]): r["version"] for r in rows.values()},
        }
        status, said = self.api.post("/sheets/replacement", body)
        self.assertEqual(status, 200, said)
        line = Line.objects.get(sheet=sheet_of("RT-1"), item=10)
        self.assertEqual((float(line.quantity or 0), float(line.fixed_loss)), (3.0, 0.75))
        self.assertIn("3 for 2", line.history.latest().history_change_reason)
        for wrong in ("0", "-1", "x", "1e9"):
            status, said = self.api.get("/sheets/replacement", old="ROD", new="BAR", goes=wrong)
            self.assertEqual((status, said["problems"][0]["place"]), (422, "goes"), wrong)

    def test_the_effect_is_what_the_costs_become(self) -> None:
        rows = self.look()
        # Half a metre in T-1: 1.50 becomes 2.00. RT-1 takes 2 m with 5 % scrap and one T-1: 6.30 + 1.50 becomes 8.40 + 2.00.
        self.assertEqual((rows["T-1"]["before"], rows["T-1"]["after"]), (1.5, 2.0))
        self.assertAlmostEqual(rows["RT-1"]["after"] - rows["RT-1"]["before"], 2.6, places=9)
        status, drafts = self.exchange(rows["RT-1"], rows["T-1"])
        self.assertEqual((status, {(d["part"], d["revision"]) for d in drafts}), (200, {("RT-1", "A"), ("T-1", "B")}))
        view = self.api.get(f"/sheets/{sheet_of('RT-1').id}/view", drafts="true")[1]
        self.assertAlmostEqual(view["parts"][view["top"]]["cost"], rows["RT-1"]["after"], places=6)
        # A quantity keeps its meaning: 2 m of a part in millimetres; 500 mm were stated as such.
        held = {
            (x.sheet.part.number, x.sheet.revision): (x.quantity, x.unit)
            for x in Line.objects.filter(part__number="BAR").select_related("sheet__part")
        }
        self.assertEqual(held, {("RT-1", "A"): (2, "m"), ("T-1", "B"): (500, "mm")})
        self.assertEqual(BuildSheet.objects.get(part__number="T-1", revision="A").lines.get().part.number, "ROD")
        said = self.api.get(f"/sheets/{drafts[0]['id']}/history")[1]
        self.assertTrue(any("ROD exchanged for BAR: cheaper to hold" in e["reason"] for e in said))

    def test_all_of_it_or_nothing(self) -> None:
        rows = self.look()
        before = export_bundle()
        for sheets, more, told in (
            ((rows["RT-1"] | {"version": 9}, rows["T-1"]), {}, "changed meanwhile"),
            ((rows["RT-1"], {"sheet": 999_999, "version": 1}), {}, "no longer there"),
            ((rows["RT-1"],), {"reason": " "}, "why the part is exchanged"),
            ((), {}, "choose the sheets"),
            ((rows["RT-1"],), {"new": "OIL"}, "a volume"),
            ((rows["RT-1"],), {"new": "OLD"}, "is obsolete"),
            ((rows["RT-1"],), {"new": "ROD"}, "for itself"),
            ((rows["RT-1"],), {"new": "NONE"}, "is not known"),
            ((rows["RT-1"], {"sheet": sheet_of("BOX").id, "version": 1}), {}, "does not take ROD"),
            ((rows["T-1"],), {"new": "BOX"}, "contains itself"),
        ):
            status, said = self.exchange(*sheets, **more)
            wanted = 404 if told == "is not known" else 422
            self.assertEqual((status, told in said["message"]), (wanted, True), (told, said["message"]))
        self.assertEqual(export_bundle(), before)
        self.assertEqual(self.exchange(rows["RT-1"], api=Api("buyer"))[0], 403)

    def test_what_cannot_be_done_is_seen_beforehand(self) -> None:
        self.assertEqual(self.look("BOX")["T-1"]["stops"], "BOX contains T-1")
        self.api.post("/sheets", {"part": "T-1"})
        rows = self.api.get("/sheets/replacement", old="ROD", new="BAR")[1]["rows"]
        released = next(r for r in rows if r["part"] == "T-1" and r["status"] == "released")
        status, said = self.exchange(released)
        self.assertEqual((status, "has an open draft, revision B" in said["message"]), (422, True))
        draft = next(r for r in rows if r["part"] == "T-1" and r["status"] == "draft")
        status, drafts = self.exchange(released, draft)
        self.assertEqual((status, [d["revision"] for d in drafts]), (200, ["B"]))
