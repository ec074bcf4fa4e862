"""Cases of the checks that generated structures seldom meet."""

import unittest
from datetime import date
from decimal import Decimal as D

from tally_core.checks.checks import check
from tally_core.checks.survey import survey
from tally_core.stated.definition import Definition, Line, Part, Sheet
from tally_core.structure.tables import NO_END

from .test_edges_of_rules import product


class Checking(unittest.TestCase):
    TODAY = date(2026, 11, 24)

    def found(self, definition: Definition, day: date | None = None, code: str = "") -> list[tuple[str, str, str, int]]:
        s = survey(definition)
        return [
            (f.code, f.severity, s.numbers[f.part], int(s.item[f.line]) if f.line >= 0 else -1)
            for f in check(s, day or self.TODAY)
            if not code or f.code == code
        ]

    def test_a_sheet_counts_until_the_day_before_its_last(self) -> None:
        """M takes a made part whose only sheet ends today: from today on there is none (days are half open)."""
        for ends, said in ((date(2026, 11, 24), [("no-sheet", "stops", "M", 10)]), (date(2026, 11, 25), [])):
            definition = product()
            definition.parts.append(Part("SUB", kind="made"))
            definition.sheets[0].lines[0].part = "SUB"
            lines = [Line(10, part="A", quantity=D(1))]
            definition.sheets.append(Sheet("SUB", status="released", lines=lines, effective_to=ends))
            self.assertEqual(self.found(definition, code="no-sheet"), said, ends)

    def revisions(self, *days: tuple[str | None, str | None]) -> list[str]:
        definition = product()
        one = definition.sheets.pop(0)
        for name, (first, last) in zip("ABCDE", days, strict=False):
            definition.sheets.append(
                Sheet(
                    "M",
                    revision=name,
                    status="released",
                    lines=one.lines,
                    operations=one.operations,
                    effective_from=date.fromisoformat(first) if first else None,
                    effective_to=date.fromisoformat(last) if last else None,
                )
            )
        s = survey(definition)
        return [f.message for f in check(s, self.TODAY) if f.code == "overlap"]

    def test_days_that_overlap_further_on(self) -> None:
        """A from January on, B for February, C from May on: B lies inside A, and C meets A although B stands between."""
        said = self.revisions(("2026-01-01", None), ("2026-02-01", "2026-03-01"), ("2026-05-01", None))
        self.assertEqual(
            said, ["revisions A and B are both in force from 2026-02-01 on", "revisions A and C are both in force from 2026-05-01 on"]
        )
        self.assertEqual(self.revisions(("2026-01-01", "2026-02-01"), ("2026-02-01", "2026-05-01"), ("2026-05-01", None)), [])
        self.assertEqual(
            self.revisions((None, "2026-02-02"), ("2026-02-01", None)), ["revisions A and B are both in force from 2026-02-01 on"]
        )
        # In whatever order they were made.
        self.assertEqual(
            self.revisions(("2026-05-01", None), ("2026-01-01", None)), ["revisions B and A are both in force from 2026-05-01 on"]
        )
        self.assertEqual(self.revisions((None, None), (None, "2026-02-01")), ["revisions A and B are both in force from the start on"])
        self.assertEqual(
            self.revisions(("2026-01-01", "2026-03-01"), ("2026-02-01", "2026-06-01"), ("2026-05-01", None)),
            ["revisions A and B are both in force from 2026-02-01 on", "revisions B and C are both in force from 2026-05-01 on"],
        )

    def test_alternates_and_drafts_do_not_overlap(self) -> None:
        definition = product()
        first = definition.sheets[0]
        definition.sheets += [
            Sheet("M", alternate="B", status="released", lines=first.lines, operations=first.operations),
            Sheet("M", revision="C", lines=first.lines, operations=first.operations),
        ]
        self.assertEqual(self.found(definition, code="overlap"), [])

    def test_a_loop_on_no_day_is_none_and_one_on_some_day_is(self) -> None:
        def looping(first: str, last: str) -> list:
            definition = product()
            definition.sheets[1].lines.append(
                Line(70, part="M", quantity=D(1), effective_from=date.fromisoformat(first), effective_to=date.fromisoformat(last))
            )
            definition.sheets[0].effective_to = date(2027, 1, 1)
            return self.found(definition, code="loop")

        self.assertEqual(looping("2027-01-01", "2028-01-01"), [], "the sheets never meet")
        self.assertEqual(len(looping("2026-12-31", "2028-01-01")), 1)
        self.assertEqual(len(looping("2026-01-01", "2026-01-02")), 1)

    def test_days_of_lines_and_sheets(self) -> None:
        def obsolete(**days: date) -> list:
            definition = product()
            definition.parts[2].lifecycle = "obsolete"
            for name, value in days.items():
                setattr(definition.sheets[0].lines[0], name, value)
            return self.found(definition, code="lifecycle")

        self.assertEqual(len(obsolete(effective_from=self.TODAY)), 1)
        self.assertEqual(obsolete(effective_from=date(2026, 11, 25)), [])
        self.assertEqual(len(obsolete(effective_to=date(2026, 11, 25))), 1)
        self.assertEqual(obsolete(effective_to=self.TODAY), [])
        for first, last, count in ((self.TODAY, None, 1), (date(2026, 11, 25), None, 0), (None, self.TODAY, 0)):
            definition = product()
            definition.parts[2].lifecycle = "obsolete"
            definition.sheets[0].effective_from, definition.sheets[0].effective_to = first, last
            self.assertEqual(len(self.found(definition, code="lifecycle")), count, (first, last))

    def test_a_missing_sheet_under_a_draft_is_worth_a_look(self) -> None:
        definition = product()
        definition.sheets.pop()
        self.assertEqual(self.found(definition, code="no-sheet"), [("no-sheet", "stops", "M", 20)])
        definition.sheets[0].status = "draft"
        self.assertEqual(self.found(definition, code="no-sheet"), [("no-sheet", "look", "M", 20)])
        drafts = product()
        drafts.sheets[1].status = "draft"
        self.assertEqual(self.found(drafts, code="no-sheet"), [("no-sheet", "stops", "M", 20)])
        drafts.sheets[0].status = "draft"
        self.assertEqual(self.found(drafts, code="no-sheet"), [])

    def test_what_counts_nothing_or_is_not_ours_is_let_be(self) -> None:
        definition = product()
        definition.parts[2].unit_cost = None
        self.assertEqual(len(self.found(definition, code="no-cost")), 1)
        definition.sheets[0].lines[0].customer_supplied = True
        self.assertEqual(self.found(definition, code="no-cost"), [])
        definition.sheets[0].lines[0].customer_supplied, definition.sheets[0].lines[0].not_fitted = False, True
        self.assertEqual(self.found(definition, code="no-cost"), [])
        definition.sheets[0].lines[0].not_fitted = False
        definition.parts[2].given_cost = D(0)
        self.assertEqual(self.found(definition, code="no-cost"), [], "a cost given by hand is one")
        removing = product()
        removing.parts[2].unit_cost, removing.parts[2].lifecycle = None, "obsolete"
        removing.sheets[0].lines[0].not_fitted = True
        removing.sheets[0].lines.append(Line(30, part="A", quantity=D(0), option="X", option_action="remove"))
        self.assertEqual([f[0] for f in self.found(removing)], ["no-quantity"])
        unit = product()
        unit.sheets[1].lines[0].unit, unit.sheets[1].lines[0].not_fitted = "m", True
        self.assertEqual(self.found(unit, code="unit"), [])
        kilograms = product()
        kilograms.sheets[1].lines[0].unit = None
        self.assertEqual(self.found(kilograms, code="unit"), [], "a line without a unit is in its part's")

    def places(self, *lines: Line) -> list[tuple[str, int]]:
        definition = product()
        definition.sheets[0].lines[:1] = list(lines)
        return [(f.message, int(survey(definition).item[f.line])) for f in check(survey(definition), self.TODAY) if f.code == "designators"]

    def test_designators(self) -> None:
        """Common practice: as many reference designators as pieces, each place once; exchanged parts share theirs."""
        self.assertEqual(
            self.places(Line(10, part="A", quantity=D(1), unit="dozen", reference_designators=[f"R{n}" for n in range(12)])), []
        )
        self.assertEqual(self.places(Line(10, part="A", quantity=None, reference_designators=["R1"])), [], "as needed is no count")
        self.assertEqual(self.places(Line(10, part="B", quantity=D(3), reference_designators=["R1"])), [], "kilograms are no count")
        one = Line(10, part="A", quantity=D(1), reference_designators=["R1"])

        def other(**more: object) -> Line:
            return Line(30, part="A", quantity=D(1), reference_designators=["R1"], **more)  # type: ignore[arg-type]

        self.assertEqual(self.places(one, other()), [("R1 stands at item 10 too", 30)])
        self.assertEqual(self.places(one, other(option="X")), [])
        self.assertEqual(self.places(one, other(option="X", option_action="remove")), [])
        self.assertEqual(self.places(one, other(not_fitted=True)), [])
        xs = Line(10, part="A", quantity=D(1), reference_designators=["R1"], option="X")
        self.assertEqual(self.places(xs, other(option="Y")), [])
        self.assertEqual(self.places(xs, other(option="X")), [("R1 stands at item 10 too", 30)])

    def test_items_options_and_defaults(self) -> None:
        definition = product()
        definition.sheets[0].lines[0].item = definition.sheets[0].lines[1].item = 1
        self.assertEqual(self.found(definition, code="item-twice"), [("item-twice", "look", "M", 1)])
        definition.sheets[0].lines[0].item = definition.sheets[0].lines[1].item = None
        self.assertEqual(self.found(definition, code="item-twice"), [])
        options = product()
        for item, code in ((30, "X"), (40, "Y"), (50, "X")):
            options.sheets[0].lines.append(Line(item, part="A", quantity=D("1.5"), option=code, option_action="remove"))
        # X alone takes 3 of the 2 that are there; what it does together with Y is no second finding.
        self.assertEqual(self.found(options, code="option-removes"), [("option-removes", "stops", "M", 30)])
        stated = product()
        for item, code in ((30, "X"), (40, "Y")):
            stated.sheets[0].lines.append(Line(item, part="A", quantity=D("1.5"), option=code, option_action="remove"))
        self.assertEqual(self.found(stated, code="option-removes"), [("option-removes", "look", "M", 40)])
        for stating in ({"X": ["Y"]}, {"Y": ["X"]}):
            stated.not_together = stating
            self.assertEqual(self.found(stated, code="option-removes"), [])
        # By how much: 3 of 2 that are there.
        (too_much,) = (f for f in check(survey(options), self.TODAY) if f.code == "option-removes")
        self.assertIn("removes 1 ea of A more than is there", too_much.message)
        # Taking away all there is is not too much, however much it is and whatever the last bit of its sum says: 0.1 + 0.2 > 0.3.
        for there, taken in (("0.3", ("0.1", "0.2")), ("10000", ("10000",)), ("1", ("1",))):
            whole = product()
            whole.sheets[0].lines[0].quantity = D(there)
            whole.sheets[0].lines += [
                Line(30 + at, part="A", quantity=D(q), option="X", option_action="remove") for at, q in enumerate(taken)
            ]
            self.assertEqual(self.found(whole, code="option-removes"), [], there)
        adding = product()
        adding.sheets[0].lines += [
            Line(30, part="A", quantity=D(1), option="ADDS"),
            Line(40, part="A", quantity=D(3), option="LESS", option_action="remove"),
        ]
        self.assertEqual(
            self.found(adding, code="option-removes"),
            [("option-removes", "stops", "M", 40)],
            "what another option adds is not there without it",
        )
        self.assertEqual(survey(adding).removes.tolist(), [False, False, False, True, False])
        needed = product()
        needed.sheets[0].lines[0].quantity = None
        needed.sheets[0].lines.append(Line(30, part="A", quantity=D(1), option="X", option_action="remove"))
        self.assertEqual(
            self.found(needed, code="option-removes"), [("option-removes", "stops", "M", 30)], "as needed is nothing to take from"
        )
        lost = product()
        lost.parts[0].default_alternate = "Z"
        (finding,) = [f for f in check(survey(lost), self.TODAY) if f.code == "lost-default"]
        self.assertEqual((finding.part, finding.sheet, finding.line), (0, -1, -1))

    def test_the_survey_holds_what_was_stated(self) -> None:
        s = survey(product())
        self.assertEqual((s.item.tolist(), s.line_last_day.tolist()[0]), ([10, 20, 10], NO_END))
        self.assertEqual(s.counts.tolist(), [True, True, True])
        noted = product()
        noted.sheets[0].lines += [Line(None, kind="text", text="note"), Line(40, part="A", quantity=D(1), not_fitted=True)]
        found = survey(noted)
        self.assertEqual(
            (found.counts.tolist(), found.item.tolist(), found.child.tolist()[2]),
            ([True, True, False, False, True], [10, 20, 0, 40, 10], -1),
        )


class Sheets(unittest.TestCase):
    def codes(self, *sheets: Sheet, **of_part) -> set[str]:
        definition = Definition()
        definition.parts = [Part("A", kind="made"), Part("M", kind="made", **of_part), Part("B", kind="bought", unit_cost=D(1))]
        definition.sheets = [Sheet("A", status="released", lines=[Line(10, part="M", quantity=D(1))]), *sheets]
        return {f.code for f in check(survey(definition), date(2026, 11, 24))}

    def test_a_sheet_is_there_from_its_first_day_on(self) -> None:
        def of_m(first: date) -> Sheet:
            return Sheet("M", status="released", lines=[Line(10, part="B", quantity=D(1))], effective_from=first)

        self.assertNotIn("no-sheet", self.codes(of_m(date(2026, 11, 24))))
        self.assertIn("no-sheet", self.codes(of_m(date(2026, 11, 25))))

    def test_a_default_is_lost_where_that_alternate_has_no_sheet(self) -> None:
        def of_m(alternate: str) -> Sheet:
            return Sheet("M", alternate, lines=[Line(10, part="B", quantity=D(1))])

        self.assertNotIn("lost-default", self.codes(of_m("C"), default_alternate="C"))
        self.assertIn("lost-default", self.codes(of_m("A"), default_alternate="C"))


class AgainstModels(unittest.TestCase):
    def told(self, held: dict[str, int], *lines: Line, **of_sheet) -> list[tuple[int, str]]:
        """What is found on the sheet of A against a model that holds so many of what: B counted, C in metres."""
        definition = Definition()
        definition.parts = [Part("A", kind="made"), Part("B", kind="bought"), Part("C", kind="bought", unit="m"), Part("D", kind="bought")]
        definition.sheets = [Sheet("A", status="released", lines=list(lines), **of_sheet)]
        s = survey(definition)
        at = {n: i for i, n in enumerate(s.numbers)}
        s.modelled = {at["A"]: {at[n]: count for n, count in held.items()}}
        found = [f for f in check(s, date(2026, 11, 24)) if f.code == "model-count"]
        return [(int(s.item[f.line]) if f.line >= 0 else 0, f.message) for f in found]

    def line(self, part: str, quantity: str | None, item: int = 10, **more) -> Line:
        return Line(item, part=part, quantity=None if quantity is None else D(quantity), **more)

    def test_what_the_sheet_takes_otherwise_and_not_at_all(self) -> None:
        self.assertEqual(self.told({"B": 4}, self.line("B", "4")), [])
        self.assertEqual(self.told({"B": 4}, self.line("B", "3")), [(10, "the model holds 4 of B, and the sheet takes 3")])
        self.assertEqual(self.told({"B": 4, "D": 2}, self.line("B", "4")), [(0, "the model holds 2 D, which the sheet does not take")])
        # On two lines, in a dozen, or for a batch of ten it is the same number; what no model knows is not held against it.
        self.assertEqual(self.told({"B": 4}, self.line("B", "1"), self.line("B", "3", 20), self.line("D", "9", 30)), [])
        self.assertEqual(self.told({"B": 12}, self.line("B", "1", unit="dozen")), [])
        self.assertEqual(self.told({"B": 4}, self.line("B", "40"), batch=D(10)), [])
        self.assertEqual(self.told({"B": 4}, self.line("B", "4"), batch=D(10)), [(10, "the model holds 4 of B, and the sheet takes 0.4")])

    def test_what_cannot_be_counted_is_let_be(self) -> None:
        for line in (self.line("B", "3", option="X"), self.line("B", None), self.line("C", "0.4")):
            self.assertEqual(self.told({line.part: 4}, line), [], line)
        # Neither what is taken once for a lot, nor a line or a revision on other days than today's, nor a sheet without lines.
        lot = self.line("B", "3", quantity_basis="per_lot")
        self.assertEqual(self.told({"B": 4}, lot, self.line("D", "1", 20)), [(0, "the model holds 4 B, which the sheet does not take")])
        later = self.line("B", "3", effective_from=date(2027, 1, 1))
        self.assertEqual(self.told({"B": 4}, later, self.line("B", "4", 20)), [])
        self.assertEqual(self.told({"B": 4}, self.line("B", "3"), effective_from=date(2027, 1, 1)), [])
        self.assertEqual(self.told({"B": 4}), [])
        self.assertEqual(
            self.told({"B": 1, "C": 1, "D": 1}, self.line("A", "1"))[0][1], "the model holds 1 B, 1 C, 1 D, which the sheet does not take"
        )
