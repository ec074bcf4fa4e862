"""Rounds over the API: from a proposal to a standard, and everything that may stand in the way."""

import copy
from datetime import timedelta

from definition.models.parts import Part, StockMove
from definition.models.sheets import BuildSheet, Line
from definition.models.work_centers import WorkCenter
from django.contrib.auth.models import Group
from django.utils.timezone import localdate
from standards.models import Revaluation, Round, Standard, TallyRow
from testing import Api, person, rod_and_tube, sheet_of
from verbs.sheets.edit_sheet import edit_sheet
from verbs.sheets.open_sheet import open_sheet
from verbs.sheets.release_revision import release_revision

from rounds.tests.with_rounds import TODAY, WithRounds


class Rounds(WithRounds):
    def test_from_a_percentage_to_standards_stock_and_history(self) -> None:
        first = self.accepted()
        StockMove.objects.create(part=Part.objects.get(number="RT-1"), quantity=7, reason="counted", made_by="shop")
        self.engineer.post("/parts/open-orders", {"rows": [["Order", "Part", "Open"], ["PO-1", "RT-1", "20"]]})
        key = self.opened()
        status, proposed = self.engineer.post(
            f"/rounds/{key}/proposals/percent", {"table": "part", "field": "unit_cost", "percent": "8", "part_class": "Metal"}
        )
        self.assertEqual((status, proposed["inputs"]), (200, 1), proposed)
        self.tallied(key)
        rows = self.rows(key)
        # The nut is not reached by what is proposed. 2 m of rod with 5 % scrap, and half a metre in the tube: 3.00 → 3.24.
        self.assertEqual(set(rows), {"ROD", "T-1", "RT-1"})
        self.assertEqual((rows["ROD"]["before"], rows["ROD"]["after"]), (3.0, 3.24))
        top = rows["RT-1"]
        self.assertAlmostEqual(top["after"] - top["before"], 0.24 * (2.1 + 0.5), places=9)
        self.assertEqual(list(top["causes"].values()), [0.624, 0, 0, 0, 0, 0])
        self.assertAlmostEqual(top["elements"]["scrap"] - top["before_elements"]["scrap"], 0.1 * 0.24, places=9)
        self.assertAlmostEqual(top["stock_moved"], 7 * 0.624, places=9)
        self.assertAlmostEqual(top["orders_moved"], 20 * 0.624, places=9)
        # Changing an input, and proposing one, changes no standard.
        self.assertEqual(Standard.objects.exclude(round=first).count(), 0)
        self.assertEqual(Part.objects.get(number="ROD").unit_cost, 3)

        status, refused = self.accept(key, self.engineer)
        self.assertEqual(status, 403)
        self.assertIn("accountant", refused["message"])
        status, the_round = self.accept(key)
        self.assertEqual((status, the_round["status"], the_round["closed_by"]), (200, "accepted", "accountant"))
        stock = Revaluation.objects.get(round=key)
        self.assertEqual((stock.part.number, stock.on_hand, stock.after - stock.before), ("RT-1", 7, 624_000))
        _, history = self.engineer.get("/costing/standards", number="RT-1")
        self.assertEqual([h["name"] for h in history], ["First", "Metal up"])
        self.assertAlmostEqual(history[1]["stock_moved"], 7 * 0.624, places=9)
        self.assertIn("stock of 1 parts valued anew", Round.objects.get(pk=key).history.first().history_change_reason)
        status, listed = self.engineer.get("/rounds")
        self.assertEqual(status, 200)
        self.assertEqual(
            [(r["name"], r["status"], r["proposals"], r["parts"]) for r in listed],
            [("Metal up", "accepted", 1, 3), ("First", "accepted", 0, TallyRow.objects.filter(tally__round=first).count())],
        )

    def test_what_it_cost_on_a_day_and_the_prices_of_the_basis(self) -> None:
        self.accepted()
        key = self.opened()
        self.propose(key, ("part", "ROD", "unit_cost", "4"), ("work_center", "LATHE", "labor_rate", "60"))
        sheet = sheet_of("RT-1")

        def cost(**basis) -> float:
            status, view = self.engineer.get(f"/sheets/{sheet.pk}/view", **basis)
            self.assertEqual(status, 200, view)
            return view["parts"][view["top"]]["cost"]

        now = cost()
        # 2.6 m of rod; 12 min of set-up over ten, 3 and 1 min a piece: 5.2 min at 20 more an hour.
        self.assertAlmostEqual(cost(prices=f"round:{key}"), now + 2.6 + 5.2 / 60 * 20, places=6)
        self.tallied(key)
        self.assertEqual(self.accept(key)[1]["status"], "accepted")

        def priced(unit_cost: str) -> None:
            body = {"unit_cost": unit_cost, "version": Part.objects.get(number="ROD").version}
            self.assertEqual(self.accountant.patch("/parts/one?number=ROD", body)[0], 200)

        priced("5")
        before = (TODAY - timedelta(days=1)).isoformat()
        # All levels on standards: what is bought at its standard of the day, work at today's rates.
        self.assertAlmostEqual(cost(prices="standards"), now + 2.6, places=6)
        self.assertAlmostEqual(cost(prices="standards", day=before), now, places=6)
        self.assertAlmostEqual(cost(), now + 2 * 2.6, places=6)
        priced("9")
        # One level: the tube stands at its own standard, too.
        self.assertAlmostEqual(cost(prices="level"), now + 2.6, places=6)
        self.assertAlmostEqual(cost(what_if=f"part,{Part.objects.get(number='ROD').pk},unit_cost,3"), now, places=6)
        self.assertEqual(Part.objects.get(number="ROD").unit_cost, 9)
        _, working = self.engineer.get(
            "/costing/working", sheet=sheet.pk, prices="level", figure=f"unit:{Part.objects.get(number='T-1').pk}"
        )
        self.assertEqual(working["operands"][0]["source"]["by"], "accountant")
        for wrong in (
            {"prices": "cheap"},
            {"prices": "round:99999"},
            {"what_if": "part,1"},
            {"what_if": "part,x,unit_cost,1"},
            {"what_if": f"part,{sheet.part_id},colour,1"},
            {"what_if": f"part,{sheet.part_id},unit_cost,-1"},
        ):
            self.assertEqual(self.engineer.get(f"/sheets/{sheet.pk}/view", **wrong)[0], 422, wrong)

    def test_both_sides_open_as_they_were(self) -> None:
        self.accepted()
        rod = Part.objects.get(number="ROD")
        self.accountant.patch("/parts/one?number=ROD", {"unit_cost": "5", "version": rod.version})
        key = self.opened()
        self.propose(key, ("part", "ROD", "unit_cost", "6"))
        self.tallied(key)
        found = {}
        for side in ("old", "new"):
            status, working = self.engineer.get(f"/rounds/{key}/working", part_id=rod.pk, side=side, figure=f"unit:{rod.pk}")
            self.assertEqual(status, 200, working)
            price = working["operands"][0]
            found[side] = (price["value"], price["source"]["by"], price["source"]["reason"])
        self.assertEqual(found["old"], (3.0, "", "test"))
        self.assertEqual(found["new"], (6.0, "engineer", "proposed in Metal up; by hand"))

    def test_causes_of_every_kind_against_the_inputs_of_the_accepted_round(self) -> None:
        self.accepted()
        sheet = sheet_of("T-1")
        Part.objects.filter(number="T-1").update(costing_lot=20)
        WorkCenter.objects.update(labor_rate=50)
        document = copy.deepcopy(rod_and_tube("released"))
        document["work_centers"][0]["labor_rate"] = "50"
        line = sheet.lines.get()
        type(line).objects.filter(pk=line.pk).update(quantity=600)
        top = sheet_of("RT-1")
        turn = top.operations.get(sequence=10)
        type(turn).objects.filter(pk=turn.pk).update(run_minutes=6, setup_minutes=24)
        type(line).objects.filter(sheet=top, part__number="NUT").delete()
        key = self.opened(scope="all")
        self.propose(key, ("part", "ROD", "unit_cost", "4"), ("part", "RT-1", "costing_lot", "20"))
        self.tallied(key)
        row = self.rows(key)["RT-1"]
        # Price 1 × 2.6 m; usage 0.1 m at 4; rate 10 × (1.2 + 4) min; time 50 × (1.2 + 3) min; lot 50 × 1.2 min; the nuts.
        wanted = [2.6, 0.4, 10 * 5.2 / 60, 50 * 4.2 / 60, -50 * 1.2 / 60, -0.4]
        for found, value in zip(row["causes"].values(), wanted, strict=True):
            self.assertAlmostEqual(found, value, places=5)
        self.assertEqual(round(sum(row["causes"].values()) * 1e6), round((row["after"] - row["before"]) * 1e6))
        # Exactly, in the millionths that are kept.
        for kept in TallyRow.objects.filter(tally__round=key):
            self.assertEqual(sum(kept.causes), kept.unit - kept.before)
            self.assertEqual(sum(kept.elements), kept.unit)

    def test_stale_after_an_input_changed_but_not_after_a_word(self) -> None:
        key = self.opened()
        self.propose(key, ("part", "ROD", "unit_cost", "4"))
        self.assertEqual(self.tallied(key)["tally"]["stale"], [])
        part = Part.objects.get(number="T-1")
        self.engineer.patch("/parts/one?number=T-1", {"description": "Tube, drawn", "version": part.version})
        self.assertEqual(self.engineer.get(f"/rounds/{key}")[1]["tally"]["stale"], [])
        self.engineer.patch("/parts/one?number=T-1", {"costing_lot": "12", "version": part.version + 1})
        self.assertEqual(self.engineer.get(f"/rounds/{key}")[1]["tally"]["stale"], ["T-1: costing lot"])
        status, refused = self.accept(key)
        self.assertEqual(status, 422)
        self.assertIn("Changed since Metal up was tallied: T-1: costing lot. Tally it again", refused["message"])
        self.tallied(key)
        center = WorkCenter.objects.get()
        self.accountant.patch("/work-centers/one?code=LATHE", {"labor_rate": "41", "version": center.version})
        self.assertIn("RT-1: its operations", self.engineer.get(f"/rounds/{key}")[1]["tally"]["stale"][0])
        self.tallied(key)
        self.propose(key, ("part", "ROD", "unit_cost", "4.5"))
        self.assertIn("what it proposes", self.accept(key)[1]["message"])
        self.assertEqual(Standard.objects.count(), 0)
        self.tallied(key)
        self.assertEqual(self.accept(key)[1]["status"], "accepted")
        # A new revision that is in force counts, too.
        again = self.opened("Again", TODAY + timedelta(days=1), scope="all")
        self.tallied(again)
        draft = self.engineer.post("/sheets", {"part": "T-1"})[1]
        line = BuildSheet.objects.get(pk=draft["id"]).lines.get()
        edit_sheet(
            person("engineer"),
            draft["id"],
            draft["version"],
            [{"table": "line", "id": line.pk, "before": {}, "after": {"quantity": "750"}}],
        )
        self.assertEqual(self.engineer.get(f"/rounds/{again}")[1]["tally"]["stale"], [])
        draft = BuildSheet.objects.get(pk=draft["id"])
        status, said = self.engineer.post(
            f"/sheets/{draft.pk}/release", {"version": draft.version, "first_day": TODAY.isoformat(), "reason": "longer"}
        )
        self.assertEqual(status, 200, said)
        self.assertIn("T-1: its lines", self.engineer.get(f"/rounds/{again}")[1]["tally"]["stale"])

    def test_two_rounds_over_one_part(self) -> None:
        one, other = self.opened("One"), self.opened("Other")
        for key, price in ((one, "4"), (other, "5")):
            self.propose(key, ("part", "ROD", "unit_cost", price))
            self.tallied(key)
        self.assertEqual(self.engineer.get(f"/rounds/{one}")[1]["overlaps"], [{"id": other, "name": "Other", "parts": 3}])
        self.assertEqual(self.accept(one)[1]["status"], "accepted")
        status, refused = self.accept(other)
        self.assertEqual(status, 422)
        self.assertIn("has a new standard, by One", refused["message"])
        # Tallied again it is compared with what was accepted meanwhile; its day must come after.
        self.assertIn("later day", self.engineer.post(f"/rounds/{other}/tally", {})[1]["failed"])
        self.engineer.post(f"/rounds/{other}/change", {"first_day": (TODAY + timedelta(days=1)).isoformat()})
        self.tallied(other)
        self.assertEqual(self.rows(other)["ROD"]["before"], 4.0)
        self.assertEqual(self.accept(other)[1]["status"], "accepted")

    def test_a_part_outside_stands_at_its_standard_and_a_chosen_round_keeps_to_its_parts(self) -> None:
        self.accepted()
        key = self.opened(scope="chosen", chosen=["RT-1"])
        status, refused = self.propose(key, ("part", "ROD", "unit_cost", "4"))
        self.assertEqual(status, 422)
        self.assertIn("ROD is not among the parts of Metal up", refused["message"])
        Part.objects.filter(number="ROD").update(unit_cost=9)
        self.propose(key, ("part", "RT-1", "costing_lot", "20"))
        self.tallied(key)
        rows = self.rows(key)
        self.assertEqual(set(rows), {"RT-1"})
        # The rod has become dearer, but its standard has not.
        self.assertEqual(list(rows["RT-1"]["causes"].values()), [0, 0, 0, 0, -0.4, 0])

    def test_only_what_is_in_the_round_or_below_it_makes_it_stale(self) -> None:
        self.accepted()
        key = self.opened(scope="chosen", chosen=["RT-1"])
        self.propose(key, ("part", "RT-1", "costing_lot", "20"))
        self.tallied(key)
        # The bought part the tube is made of stands at its standard in this round; another round gives it a new one.
        other = self.opened("Rod alone", scope="chosen", chosen=["ROD"])
        self.propose(other, ("part", "ROD", "unit_cost", "4"))
        self.tallied(other)
        self.assertEqual(self.accept(other)[1]["status"], "accepted")
        self.assertEqual(self.engineer.get(f"/rounds/{key}")[1]["tally"]["stale"], ["ROD has a new standard, by Rod alone"])
        self.tallied(key)
        # A part that is neither in it nor below, and one that is new, change nothing of it.
        self.engineer.post("/parts", {"number": "ELSE", "kind": "bought", "unit": "ea", "unit_cost": "1"})
        alone = self.opened("Nut alone", scope="chosen", chosen=["NUT"])
        self.propose(alone, ("part", "NUT", "unit_cost", "0.2"))
        self.tallied(alone)
        part = Part.objects.get(number="RT-1")
        self.engineer.patch("/parts/one?number=RT-1", {"costing_lot": "15", "version": part.version})
        self.assertEqual(self.engineer.get(f"/rounds/{alone}")[1]["tally"]["stale"], [])
        self.assertEqual(self.accept(alone)[1]["status"], "accepted")

    def test_a_line_stays_what_it_is_over_a_revision(self) -> None:
        """Its loss is proposed, then the sheet gets a revision: the proposal holds for the line of that, too."""
        self.accepted()
        key = self.opened()
        line = Line.objects.get(sheet__part__number="RT-1", part__number="ROD")
        self.propose(key, ("line", str(line.pk), "scrap_percent", "15"))
        self.tallied(key)
        first = self.rows(key)["RT-1"]
        user = person("engineer")
        draft = open_sheet(user, "RT-1", reason="the next one")
        copy = Line.objects.get(sheet=draft, part__number="ROD")
        self.assertEqual((copy.lineage == line.lineage, copy.pk == line.pk), (True, False))
        release_revision(user, draft.pk, draft.version, localdate(), "for good")
        self.assertEqual(Line.objects.filter(lineage=line.lineage).count(), 2)
        self.tallied(key)
        again = self.rows(key)["RT-1"]
        self.assertEqual((again["after"], again["before"]), (first["after"], first["before"]))
        self.assertGreater(again["after"], again["before"])
        page = self.engineer.get(f"/rounds/{key}/proposals")[1]["items"]
        self.assertEqual([(p["name"], p["more"].split(",")[1], p["now"], p["value"]) for p in page], [("RT-1", " ROD", "5", "15")])
        found = self.engineer.get("/costing/working", sheet=draft.pk, figure=f"gross:{copy.pk}", prices=f"round:{key}")[1]
        self.assertIn("proposed in Metal up", str(found))

    def test_another_alternate_has_lines_of_its_own(self) -> None:
        user = person("engineer")
        line = Line.objects.get(sheet__part__number="RT-1", part__number="ROD")
        draft = open_sheet(user, "RT-1", "B", copy_of=line.sheet_id)
        self.assertNotEqual(Line.objects.get(sheet=draft, part__number="ROD").lineage, line.lineage)

    def test_what_a_round_refuses_is_known_beforehand(self) -> None:
        accepted = self.accepted("accepted", TODAY - timedelta(days=40))
        fresh, ready, moved, dropped = (self.opened(name) for name in ("fresh", "ready", "moved", "dropped"))
        for key in (ready, moved):
            self.propose(key, ("part", "ROD", "unit_cost", "9"))
            self.tallied(key)
        self.propose(moved, ("part", "NUT", "unit_cost", "2"))
        self.accountant.post(f"/rounds/{dropped}/drop", {})
        may = {}
        for key in (fresh, ready, moved, dropped, accepted):
            told = self.accountant.get(f"/rounds/{key}")[1]
            at = f"/rounds/{key}"
            tried = self.accountant.refusals(
                {
                    "change": ("POST", f"{at}/change", {"note": "x"}),
                    "tally": ("POST", f"{at}/tally", {}),
                    "drop": ("POST", f"{at}/drop", {}),
                    "accept": ("POST", f"{at}/accept", {"version": told["version"]}),
                }
            )
            both = Api("engineer")
            both.user.groups.add(Group.objects.get(name="accountant"))
            tried |= both.refusals({"take_over": ("POST", f"{at}/inputs", {})})
            self.assertEqual(tried, told["why_not"], told["name"])
            may[told["name"]] = [action for action, words in tried.items() if words is None]
        whole = ["change", "tally", "drop"]
        self.assertEqual(may, {"fresh": whole, "ready": [*whole, "accept"], "moved": whole, "dropped": [], "accepted": ["take_over"]})

    def test_a_dropped_round_changes_nothing(self) -> None:
        key = self.opened()
        self.propose(key, ("part", "ROD", "unit_cost", "4"))
        self.tallied(key)
        status, the_round = self.engineer.post(f"/rounds/{key}/drop", {})
        self.assertEqual((status, the_round["status"]), (200, "dropped"))
        self.assertEqual((Standard.objects.count(), Part.objects.get(number="ROD").unit_cost), (0, 3))
        for path, body in (
            ("tally", {}),
            ("accept", {"version": the_round["version"]}),
            ("change", {"name": "x"}),
            ("proposals", {"items": [{"table": "part", "key": "ROD", "field": "unit_cost", "value": "1"}]}),
        ):
            status, said = self.accountant.post(f"/rounds/{key}/{path}", body)
            self.assertEqual(status, 422)
            self.assertIn("was dropped by engineer", said["message"])
