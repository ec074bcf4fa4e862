"""The checks: nothing on sound sheets, each fault found by its code at its line, and only that."""

import copy
import unittest
from collections.abc import Callable
from datetime import date
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.basics.errors import TallyError
from tally_core.checks.checks import check
from tally_core.checks.finding import LOOK, RULES, STOPS, Finding
from tally_core.checks.survey import survey
from tally_core.cost.answers import Basis, ask
from tally_core.stated.bundle import read_bundle
from tally_core.stated.definition import Definition, Line, Operation, Part, Sheet, WorkCenter

from .generate import DAY, bundle

TODAY = date(2026, 11, 24)


def sound() -> Definition:
    """M takes two A and one N; N, a phantom, takes three A. All of it in order."""
    work = [Operation(10, "Fit", "W")]
    return Definition(
        work_centers=[WorkCenter("W")],
        parts=[
            Part("M", kind="made"),
            Part("N", kind="phantom"),
            Part("A", unit_cost=Decimal(1)),
            Part("K", unit="kg", unit_cost=Decimal(2)),
        ],
        sheets=[
            Sheet(
                "M",
                status="released",
                operations=work,
                lines=[
                    Line(10, part="A", quantity=Decimal(2), reference_designators=["X1", "X2"]),
                    Line(20, part="N", quantity=Decimal(1)),
                ],
            ),
            Sheet("N", status="released", lines=[Line(10, part="A", quantity=Decimal(3))]),
        ],
    )


def found(definition: Definition, day: date = TODAY, models: dict[str, dict[str, int]] | None = None) -> list[tuple[str, str, str, int]]:
    """(code, severity, part of the sheet, item of the line or -1)."""
    s = survey(definition)
    row = {number: at for at, number in enumerate(s.numbers)}
    s.modelled = {row[part]: {row[n]: count for n, count in held.items()} for part, held in (models or {}).items()}
    return [(f.code, f.severity, s.numbers[f.part], int(s.item[f.line]) if f.line >= 0 else -1) for f in check(s, day)]


def line(definition: Definition, sheet: int = 0, at: int = 0) -> Line:
    return definition.sheets[sheet].lines[at]


def add(**fields: object) -> Callable[[Definition], None]:
    return lambda d: d.sheets[0].lines.append(Line(90, **fields))  # type: ignore[arg-type]


def put(place: Callable[[Definition], object], **fields: object) -> Callable[[Definition], None]:
    def change(definition: Definition) -> None:
        for name, value in fields.items():
            setattr(place(definition), name, value)

    return change


def draft_of_n(d: Definition) -> None:
    d.sheets[1].status = "draft"


def obsolete_a(d: Definition) -> None:
    d.parts[2].lifecycle = "obsolete"


def overlapping(d: Definition) -> None:
    other = copy.deepcopy(d.sheets[0])
    other.revision, other.effective_from = "B", date(2026, 5, 1)
    d.sheets.append(other)


def loop_through_an_alternate(d: Definition) -> None:
    other = Sheet("N", alternate="B", lines=[Line(70, part="M", quantity=Decimal(1))])
    d.sheets.append(other)


def removing(quantity: str, **more: object) -> Callable[[Definition], None]:
    return add(part="A", quantity=Decimal(quantity), option="LESS", option_action="remove", **more)


FAULTS: list[tuple[Callable[[Definition], None], list[tuple[str, str, str, int]]]] = [
    (add(part="K", quantity=Decimal(1), unit="m"), [("unit", STOPS, "M", 90)]),
    (lambda d: d.sheets.pop(1), [("no-sheet", STOPS, "M", 20)]),
    (draft_of_n, [("no-sheet", STOPS, "M", 20)]),
    (obsolete_a, [("lifecycle", STOPS, "M", 10), ("lifecycle", STOPS, "N", 10)]),
    (put(lambda d: d.parts[3], lifecycle="last_buy"), []),
    (put(lambda d: d.parts[2], lifecycle="last_buy"), [("lifecycle", LOOK, "M", 10), ("lifecycle", LOOK, "N", 10)]),
    (overlapping, [("overlap", STOPS, "M", -1)]),
    (loop_through_an_alternate, [("loop", STOPS, "M", 20)]),
    (removing("3"), [("option-removes", STOPS, "M", 90)]),
    (removing("2"), []),
    (removing("0.1", unit="dozen"), []),
    (removing("1", unit="dozen"), [("option-removes", STOPS, "M", 90)]),
    (put(lambda d: d.sheets[1], operations=[Operation(10, "x", "W")]), [("phantom-work", STOPS, "N", -1)]),
    (put(lambda d: line(d, 1), fixed_loss=Decimal(1)), [("phantom-work", STOPS, "N", 10)]),
    (
        lambda d: d.sheets.append(Sheet("K", operations=[Operation(10, "x", "W")])),
        [("wrong-kind", STOPS, "K", -1), ("no-lines", LOOK, "K", -1)],
    ),
    (put(lambda d: d.parts[2], unit_cost=None), [("no-cost", LOOK, "M", 10), ("no-cost", LOOK, "N", 10)]),
    (put(lambda d: d.sheets[0], operations=[]), [("no-routing", LOOK, "M", -1)]),
    (put(lambda d: d.sheets[0].operations[0], stations=2), [("stations", LOOK, "M", -1)]),
    (put(lambda d: d.sheets[0].operations[0], any_of_group=True), [("group-of-none", LOOK, "M", -1)]),
    (put(line, quantity=Decimal(3)), [("designators", LOOK, "M", 10)]),
    (put(line, reference_designators=["X1", "X1"]), [("designators", LOOK, "M", 10)]),
    (put(lambda d: line(d, 0, 1), item=10), [("item-twice", LOOK, "M", 10)]),
    (put(lambda d: line(d, 1), quantity=Decimal(0)), [("no-quantity", LOOK, "N", 10)]),
    (put(lambda d: line(d, 1), effective_from=date(2030, 1, 1), effective_to=date(2030, 1, 1)), [("never-in-force", LOOK, "N", 10)]),
    (put(lambda d: d.parts[0], default_alternate="Z"), [("lost-default", LOOK, "M", -1)]),
    (put(lambda d: line(d, 0, 1), not_fitted=True), []),
]


#: What models hold beside sound sheets.
MODELS: list[tuple[dict[str, dict[str, int]], list[tuple[str, str, str, int]]]] = [
    ({"M": {"A": 2, "N": 1}, "N": {"A": 3}}, []),
    ({"M": {"A": 3}}, [("model-count", LOOK, "M", 10)]),
    ({"N": {"A": 2, "K": 1}}, [("model-count", LOOK, "N", 10), ("model-count", LOOK, "N", -1)]),
]


class Checks(unittest.TestCase):
    def test_sound_sheets_give_nothing(self) -> None:
        self.assertEqual(found(sound()), [])

    def test_each_fault_is_found_where_it_is_and_nothing_else(self) -> None:
        for change, wanted in FAULTS:
            definition = sound()
            change(definition)
            self.assertEqual(found(definition), wanted)
        for held, wanted in MODELS:
            self.assertEqual(found(sound(), models=held), wanted)
        s = survey(sound())
        s.computed = {0: [(20, "1.8", "gives 2.1 min"), (30, "1", "needs bends")]}
        (computed,) = check(s, TODAY)
        self.assertEqual((computed.severity, computed.sheet), (LOOK, 0))
        self.assertIn("operation 20 states 1.8 min, and its expression gives 2.1 min, operation 30", computed.message)
        codes = {computed.code} | {code for _, wanted in (*FAULTS, *MODELS) for code, *_ in wanted}
        self.assertEqual(codes, set(RULES), "a rule without a fault that sets it off")

    def test_what_is_retired_or_past_is_let_be(self) -> None:
        definition = sound()
        obsolete_a(definition)
        definition.sheets[0].effective_to = date(2026, 1, 1)
        self.assertEqual([f[2] for f in found(definition)], ["N"])
        self.assertEqual([f[2] for f in found(definition, date(2025, 12, 31))], ["M", "N"])
        definition.sheets[1].status = "retired"
        self.assertEqual(found(definition), [])

    def test_options_that_only_together_remove_too_much(self) -> None:
        definition = sound()
        for code in ("LESS", "BARE"):
            definition.sheets[0].lines.append(Line(50, part="A", quantity=Decimal("1.5"), option=code, option_action="remove"))
        self.assertEqual([f[:2] for f in found(definition)], [("option-removes", LOOK)])
        definition.not_together = {"LESS": ["BARE"]}
        self.assertEqual(found(definition), [])

    @given(st.integers(0, 5000))
    @settings(max_examples=60, deadline=None)
    def test_what_the_checks_pass_can_be_tallied_and_what_they_stop_has_a_message(self, seed: int) -> None:
        """Generated structures: no stopping finding means that a cost comes out, under every single option."""
        document, top, options = bundle(seed)
        definition = read_bundle(document)
        findings: list[Finding] = check(survey(definition), date.fromisoformat(DAY))
        self.assertTrue(all(f.message and f.mend and f.code in RULES for f in findings))
        if any(f.severity == STOPS for f in findings):
            return
        for chosen in [(), *[(o,) for o in options]]:
            try:
                ask(definition, top, Basis(date.fromisoformat(DAY), None, chosen))
            except TallyError as error:
                self.fail(f"{seed}: {error}")
