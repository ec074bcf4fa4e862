"""The data of the sheet screen: its own rows first, and what is held in memory of a product, which is only ever a shortcut."""

from dataclasses import replace
from typing import Any

import numpy as np
from definition.models.parts import Workspace
from definition.models.sheets import BuildSheet
from demo.load_demo import load_demo
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils.timezone import localdate
from loading.reads import load_product
from loading.times_read import load_times
from tally_core.basics.errors import TallyError
from tally_core.cost.answers import Basis
from testing import Api, load, rod_and_tube, sheet_of

from readings import held


class SheetView(TestCase):
    def setUp(self) -> None:
        self.api = Api("engineer")
        held._held.clear()

    def view(self, sheet: BuildSheet, **asked: str) -> dict[str, Any]:
        status, view = self.api.get(f"/sheets/{sheet.pk}/view", **asked)
        self.assertEqual(status, 200)
        return view

    def test_its_own_rows_are_those_of_the_whole(self) -> None:
        load_demo()
        compared = 0
        for sheet in BuildSheet.objects.filter(part__kind__in=("made", "phantom")).select_related("part"):
            for basis in ({}, {"drafts": "true", "quantity": "40"}):
                held._held.clear()
                own, whole = self.view(sheet, own="true", **basis), self.view(sheet, **basis)
                self.assertEqual((own["whole"], whole["whole"], own["stamp"]), (False, True, whole["stamp"]))
                apart = ("whole", "top", "parts", "lines", "operations")
                self.assertEqual(*({n: v for n, v in x.items() if n not in apart} for x in (own, whole)))
                numbers = [[p["number"] for p in x["parts"]] for x in (own, whole)]
                parts = {p["number"]: p for p in whole["parts"]}
                self.assertEqual([p["unit_cost"] for p in own["parts"]], [parts[n]["unit_cost"] for n in numbers[0]])
                self.assertEqual([p.get("cost") for p in own["parts"]], [parts[n].get("cost") for n in numbers[0]])
                self.assertEqual(own["parts"][own["top"]]["number"], sheet.part.number)
                for table in ("lines", "operations"):
                    rows = []
                    for x, names in zip((own, whole), numbers, strict=True):
                        mine = [r for r in x[table] if r["parent"] == x["top"]]
                        rows.append(
                            [
                                r
                                | {"parent": "", "child": names[r["child"]] if r.get("child", -1) >= 0 else ""}
                                # Elements of which nothing stands anywhere are left out of a table.
                                | {"elements": {n: c for n, c in (r["elements"] or {}).items() if c}}
                                for r in mine
                            ]
                        )
                    self.assertEqual(*rows)
                    self.assertEqual(len(rows[0]), len(own[table]))
                    compared += len(rows[0])
        self.assertGreater(compared, 100)

    def test_what_is_held_is_read_once_and_never_stale(self) -> None:
        """Whatever changes around a sheet, its view is the one that is read afresh."""
        load(rod_and_tube())
        sheet = sheet_of("RT-1")

        def asked() -> tuple[dict[str, Any], int]:
            with CaptureQueriesContext(connection) as seen:
                found = self.view(sheet, drafts="true")
            return found, len(seen)

        first, many = asked()
        again, few = asked()
        self.assertEqual(again, first)
        self.assertLess(few, many)
        writers = {
            "a price": lambda: self.api.send("PATCH", "/parts/one?number=ROD", {"unit_cost": "4", "version": 1}),
            "a rate": lambda: self.api.send("PATCH", "/work-centers/one?code=LATHE", {"labor_rate": "50", "version": 1}),
            "the sheet": lambda: self.api.post(
                f"/sheets/{sheet.pk}/edits",
                {
                    "version": 1,
                    "changes": [{"table": "line", "id": str(sheet.lines.get(item=10).pk), "before": {}, "after": {"quantity": "3"}}],
                },
            ),
            "a part beneath": lambda: self.api.send("PATCH", "/parts/one?number=T-1", {"costing_lot": "25", "version": 1}),
            "stock": lambda: self.api.post("/parts/one/stock?number=ROD", {"quantity": "7", "reason": "counted"}),
            "the currency": lambda: (200, Workspace.objects.update_or_create(pk=1, defaults={"currency": "CHF"})),
        }
        before = first
        for what, write in writers.items():
            self.assertLess(write()[0], 300, what)
            found, _ = asked()
            held._held.clear()
            self.assertEqual(found, asked()[0], what)
            self.assertNotEqual(found, before, what)
            before = found
        self.assertEqual(next(p for p in before["parts"] if p["number"] == "ROD")["on_hand"], 7)

    def test_a_part_that_is_taken_away_while_it_is_read_is_said(self) -> None:
        load(rod_and_tube())
        sheet = sheet_of("RT-1")
        loaded = load_product(sheet.part, Basis(localdate()), sheet)
        gone = replace(loaded, part_ids=np.append(loaded.part_ids, loaded.part_ids[-1] + 10**6))
        with self.assertRaisesRegex(TallyError, "ask once more"):
            load_times(gone)

    def test_where_there_is_no_answer_the_rows_stand_without_figures(self) -> None:
        load(rod_and_tube())
        sheet = sheet_of("RT-1")
        view = self.view(sheet, own="true", options="NONE")
        self.assertIn("NONE", view["problem"])
        self.assertEqual((len(view["lines"]), view["lines"][0].get("cost"), view["stamp"]), (3, None, None))
