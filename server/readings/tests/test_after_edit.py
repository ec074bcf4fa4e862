"""What an edit answers, laid on the view before it, is the view that is read afresh."""

import uuid
from dataclasses import replace
from typing import Any
from unittest.mock import patch

from definition.models.parts import Part
from definition.models.sheets import BuildSheet
from demo.load_demo import load_demo
from django.test import TestCase
from testing import Api, load, rod_and_tube, rows_of, sheet_of

from readings import held


def laid_on(view: dict[str, Any], answer: dict[str, Any]) -> dict[str, Any]:
    """The view after an edit, as the screen makes it (``withEdit`` of the sheet screen)."""
    figures = answer["figures"]
    parts = list(view["parts"])
    for row, values in zip(figures["parts"]["rows"], named(figures["parts"]), strict=True):
        parts[row] = parts[row] | values
    for row, need in zip(figures["needs"]["rows"], figures["needs"]["need"], strict=True):
        parts[row] = parts[row] | {"need": need}

    def others(table: str, own: bool = False) -> list[dict]:
        changed = dict(zip(figures[table]["keys"], named(figures[table]), strict=True))
        rows = [(r, changed.get(r["id"].replace("-", ""))) for r in view[table] if own or r["parent"] != view["top"]]
        return [r | values if values else r for r, values in rows]

    operations = figures["own_operations"]

    return view | {
        "sheet": {n: answer[n] for n in view["sheet"]},
        "stamp": figures["stamp"],
        "missing": figures["missing"],
        "options": figures["options"],
        "parts": parts,
        "lines": others("lines") + rows_of(figures["own_lines"]),
        "operations": others("operations", own=operations is None) + (rows_of(operations) if operations else []),
    }


def named(columns: dict[str, Any]) -> list[dict[str, Any]]:
    """Columns of figures as rows."""
    count = len(next(iter(columns["each"].values())))
    return rows_of({"count": count, "same": {}} | columns)


def in_order(view: dict[str, Any]) -> dict[str, Any]:
    """Rows by their keys, and without elements that cost nothing."""

    def plain(row: dict[str, Any]) -> dict[str, Any]:
        return row | {"elements": {n: c for n, c in (row["elements"] or {}).items() if c}}

    tables = ("parts", "lines", "operations")
    return view | {table: sorted(map(plain, view[table]), key=lambda r: str(r["id"])) for table in tables}


class AfterAnEdit(TestCase):
    def setUp(self) -> None:
        self.api = Api("engineer")

    def view(self, sheet: BuildSheet, **basis: str) -> dict[str, Any]:
        status, view = self.api.get(f"/sheets/{sheet.id}/view", **basis)
        self.assertEqual(status, 200)
        return view

    def edit(self, view: dict[str, Any], query: str, *changes: dict) -> dict[str, Any]:
        body = {"version": view["sheet"]["version"], "stamp": view["stamp"], "changes": list(changes)}
        status, said = self.api.post(f"/sheets/{view['sheet']['id']}/edits?{query}", body)
        self.assertEqual(status, 200, said)
        return said

    def test_every_line_of_every_draft_of_the_demo(self) -> None:
        load_demo()
        sheets = list(BuildSheet.objects.filter(status="draft", part__kind="made").select_related("part"))
        self.assertGreater(len(sheets), 0)
        edits = 0
        for sheet in sheets:
            for basis in ({"drafts": "true"}, {"drafts": "true", "quantity": "250"}):
                query = "&".join(f"{n}={v}" for n, v in basis.items())
                view = self.view(sheet, **basis)
                for line in [x for x in view["lines"] if x["parent"] == view["top"] and x["quantity"]][:6]:
                    more = {"quantity": str(float(line["quantity"]) * 1.5), "scrap_percent": None, "yield_percent": "90"}
                    answer = self.edit(view, query, change("line", line["id"], {}, more))
                    view = laid_on(view, answer)
                    edits += 1
                for step in [o for o in view["operations"] if o["parent"] == view["top"]]:
                    answer = self.edit(view, query, change("operation", step["id"], {}, {"yield_percent": "96"}))
                    view = laid_on(view, answer)
                answer = self.edit(view, query, change("sheet", None, {}, {"batch": "7"}))
                view = laid_on(view, answer)
                held._held.clear()
                self.assertEqual(in_order(view), in_order(self.view(sheet, **basis)), (str(sheet), basis))
        self.assertGreater(edits, 4)

    def test_operations_and_lines_that_come_and_go(self) -> None:
        load(rod_and_tube())
        sheet = sheet_of("RT-1")
        self.api.post("/sheets/options", {"code": "BARE", "name": "Bare", "not_with": []})
        view = self.view(sheet, drafts="true")
        step, line = str(uuid.uuid4()), str(uuid.uuid4())
        work = {"sequence": 5, "work_center": "LATHE", "run_minutes": "6"}
        for changes in (
            [change("operation", step, None, work)],
            [change("line", line, None, {"part": "NUT", "quantity": "3", "position": 0.5, "operation": step})],
            [change("line", line, {}, {"operation": None, "option": "BARE"})],
            [change("operation", step, work, None)],
        ):
            view = laid_on(view, self.edit(view, "drafts=true", *changes))
            self.assertEqual(in_order(view), in_order(self.view(sheet, drafts="true")))

    def test_another_process_answers_with_all_figures(self) -> None:
        """What one process holds the other does not: its answer is longer, and the view it makes the same."""
        load(rod_and_tube())
        sheet = sheet_of("RT-1")
        rod = str(sheet.lines.get(item=10).id)
        view, other = self.view(sheet, drafts="true"), held._held.copy()
        for quantity in "3456":
            answer = self.edit(view, "drafts=true", change("line", rod, {}, {"quantity": quantity}))
            view = laid_on(view, answer)
            here = held._held.copy()
            held._held.clear()
            self.assertEqual(in_order(view), in_order(self.view(sheet, drafts="true")))
            held._held.clear()
            held._held.update(other)
            other = here
            # The rod is needed more often, and costs what it did.
            counted = [len(answer["figures"][table]["rows"]) for table in ("parts", "needs")]
            self.assertEqual(counted, [1, 1] if quantity == "3" else [4, 4])
        held._held.clear()
        answer = self.edit(view, "drafts=true", change("line", rod, {}, {"quantity": "9"}))
        self.assertEqual(in_order(laid_on(view, answer)), in_order(self.view(sheet, drafts="true")))

    def test_what_was_written_elsewhere_does_not_matter(self) -> None:
        """Another product, another price: the product held is used all the same, without reading its state."""
        load(rod_and_tube())
        sheet = sheet_of("RT-1")
        rod = str(sheet.lines.get(item=10).id)
        for number in ("ELSE-1", "ELSE-2"):
            view = self.view(sheet, drafts="true")
            self.api.post("/parts", {"number": number, "kind": "made", "unit": "ea"})
            self.api.post("/sheets", {"part": number})
            for key, product in held._held.items():
                # Other databases of the same server may be written to meanwhile; this one is not.
                held._held[key] = replace(product, mark=replace(product.mark, certain=True))
            with patch("readings.held.state_around", side_effect=AssertionError("the state was read")):
                answer = self.edit(view, "drafts=true", change("line", rod, {}, {"quantity": number[-1]}))
            self.assertEqual(in_order(laid_on(view, answer)), in_order(self.view(sheet, drafts="true")))

    def test_what_changed_around_the_sheet_is_read_again(self) -> None:
        """A price, a work center, another sheet, another part: no figures then, and the screen reads all anew."""
        load(rod_and_tube())
        sheet = sheet_of("RT-1")
        rod = str(sheet.lines.get(item=10).id)
        more = change("line", rod, {}, {"quantity": "3"})

        def price() -> None:
            nut = Part.objects.get(number="NUT")
            said = self.api.patch("/parts/one?number=NUT", {"unit_cost": "0.20", "version": nut.version})
            self.assertEqual(said[0], 200, said)

        def rate() -> None:
            bundle = rod_and_tube()
            bundle["work_centers"][0]["labor_rate"] = "41"
            load(bundle | {"build_sheets": [], "parts": []})

        def loaded() -> None:
            load(
                rod_and_tube() | {"parts": [{"number": "NUT", "kind": "bought", "unit": "ea", "unit_cost": "0.30"}]} | {"build_sheets": []}
            )

        def below() -> None:
            tube = sheet_of("T-1")
            body = {"version": tube.version, "reason": "withdrawn"}
            self.assertEqual(self.api.post(f"/sheets/{tube.id}/retire", body)[0], 200)

        for happens in (price, rate, loaded, below):
            view = self.view(sheet, drafts="true")
            happens()
            self.assertIsNone(self.edit(view, "drafts=true", more)["figures"], happens.__name__)
        view = self.view(sheet, drafts="true")
        new = change("line", uuid.uuid4(), None, {"part": "LID", "make": "bought", "quantity": "1", "position": 9})
        self.assertIsNone(self.edit(view, "drafts=true", new)["figures"])
        view = self.view(sheet, drafts="true")
        self.assertIsNone(self.edit(view | {"stamp": "0.0.1"}, "drafts=true", more)["figures"])
        lid = change("line", new["id"], {}, {"part": "NUT"})
        view = self.view(sheet, drafts="true")
        self.assertIsNone(self.edit(view, "drafts=true", lid)["figures"], "a part is no longer taken")


def change(table: str, key: Any, before: dict | None, after: dict | None) -> dict:
    return {"table": table, "id": str(key) if key else None, "before": before, "after": after}
