"""Fields of classes: what is stated is read, what is computed agrees with Python's own arithmetic, nothing else runs."""

import unittest
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st
from tally_core.stated.classes import Budget, check_class, compute_fields, read_values
from tally_core.stated.definition import ClassField, PartClass
from tally_core.stated.numbering import next_numbers, numbers_by_position
from tally_core.stated.run_times import run_minutes


def computed(expression: str, **values: str) -> str:
    own = PartClass("P", fields=[*(ClassField(n, "number") for n in values), ClassField("out", "computed", expression=expression)])
    return compute_fields(own, values, {})["out"]


def problems(*fields: ClassField) -> list[str]:
    return [f"{p.place}: {p.message}" for p in check_class(PartClass("P", fields=list(fields)))]


NUMBER = st.decimals(min_value=-1000, max_value=1000, places=3)
EXPRESSION = st.recursive(
    st.sampled_from(["a", "b", "2", "0.5", "10"]),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from(["+", "-", "*", "/"]), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"),
        st.tuples(st.sampled_from(["max", "min"]), inner, inner).map(lambda t: f"{t[0]}({t[1]}, {t[2]})"),
        st.tuples(inner, inner, inner).map(lambda t: f"({t[0]} if {t[1]} > 0 else {t[2]})"),
    ),
    max_leaves=8,
)


class RunTimes(unittest.TestCase):
    """Minutes by hand: 0.2 to take it up, 9 seconds for each of 4 bends, 0.8 for each of 1.25 metres that are cut."""

    def test_minutes_of_what_is_known(self) -> None:
        known = {"bends": 4.0, "cut_length_mm": 1250.0, "finish": "zinc"}
        self.assertEqual(run_minutes("0.2 + bends * 0.15 + cut_length_mm / 1000 * 0.8", known), Decimal("1.8"))
        self.assertEqual(run_minutes("3 if finish == 'zinc' else 1", known), 3)
        self.assertEqual(run_minutes("1 / 3", known), Decimal("0.333333"))
        self.assertEqual((run_minutes("0", known), str(run_minutes("100", known))), (0, "100"))

    def test_what_gives_no_run_time_is_said(self) -> None:
        for expression, words in (
            ("bends * cutouts", "needs cutouts"),
            ("1 / 0", "divides by nought"),
            ("-1", "-1 minutes are no run time"),
            ("1e14", "1e+14 minutes are no run time"),
            ("'ten'", "a run time is a number of minutes"),
            ("1 == 1", "a run time is a number of minutes"),
            ("bends.real", "no dots"),
            ("", "an expression is needed"),
            ("__import__('os')", "the functions are"),
            ("9" * 400, "at most 300 characters"),
            ("2 **", "cannot be read"),
            ("abs('x')", "cannot be computed"),
        ):
            with self.assertRaises(ValueError) as said:
                run_minutes(expression, {"bends": 4.0})
            self.assertIn(words, str(said.exception), expression)


class Computing(unittest.TestCase):
    @given(EXPRESSION, NUMBER, NUMBER)
    @settings(max_examples=150, deadline=None)
    def test_arithmetic_agrees_with_pythons_own(self, expression: str, a: Decimal, b: Decimal) -> None:
        found = computed(expression, a=str(a), b=str(b))
        try:
            wanted = eval(expression, {}, {"a": float(a), "b": float(b)})
        except ZeroDivisionError:
            self.assertEqual(found, "– divides by nought")
            return
        self.assertAlmostEqual(float(found), wanted, delta=1e-9 + abs(wanted) * 1e-9)

    def test_a_sheet_metal_blank(self) -> None:
        """Mass = length x width x thickness x density; 7.85 kg/dm3 is the usual value for mild steel (common practice)."""
        own = PartClass(
            "Sheet",
            fields=[
                ClassField("length_mm", "number", "mm"),
                ClassField("width_mm", "number", "mm"),
                ClassField("gauge_mm", "number", "mm"),
                ClassField("area_dm2", "computed", expression="length_mm * width_mm / 10000"),
                ClassField("blank_kg", "computed", "kg", expression="area_dm2 * gauge_mm / 100 * 7.85"),
                ClassField("heavy", "computed", expression="'two men' if blank_kg > 25 else 'one man'"),
            ],
        )
        self.assertEqual(list(check_class(own)), [])
        values, wrong = read_values(own, {"length_mm": "2000", "width_mm": "1000", "gauge_mm": "2"})
        self.assertEqual(wrong, [])
        # 2 m x 1 m x 2 mm = 4 dm3; 4 x 7.85 = 31.4 kg.
        self.assertEqual(compute_fields(own, values, {}), {"area_dm2": "200", "blank_kg": "31.4", "heavy": "two men"})
        del values["gauge_mm"]
        self.assertEqual(compute_fields(own, values, {})["heavy"], "– needs blank_kg")

    def test_what_every_part_has_can_be_used(self) -> None:
        own = PartClass("P", fields=[ClassField("per_kg", "computed", expression="unit_cost / mass_kg")])
        self.assertEqual(compute_fields(own, {}, {"unit_cost": Decimal("3"), "mass_kg": Decimal("1.5")}), {"per_kg": "2"})
        self.assertEqual(compute_fields(own, {}, {"unit_cost": Decimal("3")}), {"per_kg": "– divides by nought"})


class Refusing(unittest.TestCase):
    def test_nothing_but_arithmetic(self) -> None:
        for expression in (
            "__import__('os').system('true')", "a.__class__", "().__class__.__bases__", "[x for x in (1, 2)]", "open('f')",
            "(lambda: 1)()", "f'{a}'", "a[0]", "exec('1')", "round(a, ndigits=1)", "9 ** 9 ** 9", "2 ** a", "1 << 99", "a := 2",
            "a; b", "", "a +", "\x00", "(" * 400, "a" + " + a" * 200, "b''", "None", "max", "lambda: 1", "a if b", "print(a)",
        ):  # fmt: skip
            said = problems(ClassField("a", "number"), ClassField("out", "computed", expression=expression))
            self.assertTrue(said and said[0].startswith("fields[1].expression: "), expression)

    def test_what_would_grow_without_bound_is_stopped(self) -> None:
        """Also where it was kept before it was refused, or came in with a bundle: it is the field's own message."""
        joined = " + ".join(["a"] * 20)
        for expression in (
            "'a' * 1000000000", "1e308 * 1e308", "sqrt(0 - 1)", "round(a, 0 - 999999999)", "round(a, 999999999)", "round(a, 1.5)", "round(a, 10)",
            "'%300000000d' % a", "'x' - 1", "a * 'x'", "a + 'x'", "'x' + a", joined.replace("a", "'" + "x" * 20 + "'"),
            "a * 1e14 * 1e14", "a // 0.5 % 'x'", "'\\ud800'", "9 ** 99", "a.b", "(", "1e15", "'" + "x" * 201 + "'", "a if",
        ):  # fmt: skip
            self.assertTrue(computed(expression, a="1").startswith("– cannot be computed"), expression)
        digits = "*".join(["a ** 3"] * 10)
        self.assertTrue(computed(digits, a="999999999999").startswith("– cannot be computed"), "numbers grow in no digits")
        own = PartClass("P", fields=[ClassField("t"), ClassField("out", "computed", expression="t + t + t")])
        self.assertIn("at most 200", compute_fields(own, {"t": "x" * 100}, {})["out"])
        self.assertEqual(compute_fields(own, {"t": "x" * 66}, {})["out"], "x" * 198)
        # To the last character: 100 and 100, not 100 and 101.
        pair = PartClass("P", fields=[ClassField("t"), ClassField("u"), ClassField("out", "computed", expression="t + u")])
        self.assertEqual(compute_fields(pair, {"t": "x" * 100, "u": "y" * 100}, {})["out"], "x" * 100 + "y" * 100)
        self.assertIn("at most 200", compute_fields(pair, {"t": "x" * 100, "u": "y" * 101}, {})["out"])
        one = PartClass("P", fields=[ClassField("t"), ClassField("out", "computed", expression="t")])
        self.assertEqual(len(compute_fields(one, {"t": "x" * 2000}, {})["out"]), 200)
        two = [ClassField("a", "computed", expression="b"), ClassField("b", "computed", expression="a")]
        self.assertIn("need one another", compute_fields(PartClass("P", fields=two), {}, {})["a"])
        kept = PartClass("P", fields=[ClassField("n", "number"), ClassField("out", "computed", expression="n + 1")])
        self.assertEqual(compute_fields(kept, {"n": "soon"}, {})["out"], "– needs n")

    def test_what_is_computed_together_is_bounded(self) -> None:
        own = PartClass("P", fields=[ClassField("a", "number"), ClassField("out", "computed", expression="a + 1")])
        # The expression, its sum, its sign, a name with its manner, a number: what the tree of "a + 1" holds.
        budget = Budget(steps=6 * 3)
        found = [compute_fields(own, {"a": "1"}, {}, budget)["out"] for _ in range(4)]
        self.assertEqual(found[:3], ["2", "2", "2"])
        self.assertIn("too much", found[3])

    def test_results_as_text(self) -> None:
        for expression, wanted in (
            ("2 * 'x'", "– cannot be computed: text is only compared and joined"), ("'x' * 2", "– cannot be computed: text is only compared and joined"),
            ("7 // 2", "3"), ("7 % 4", "3"), ("1 / 3", "0.333333333"), ("2 > 1", "yes"), ("not 2", "no"), ("'a' + 'b'", "ab"),
            ("round(2.567, 2)", "2.57"), ("round(2.5)", "2"), ("round(2.123456789, 9)", "2.123456789"), ("999999999999999 / 1", "999999999999999"),
        ):  # fmt: skip
            self.assertEqual(computed(expression), wanted, expression)

    def test_powers_are_squares_and_cubes(self) -> None:
        self.assertEqual([computed("a ** 2", a="3"), computed("a ** 3", a="3")], ["9", "27"])
        for expression in ("(a ** 3) ** 3 ** 3", "a ** a", "9 ** 99"):
            said = problems(ClassField("a", "number"), ClassField("out", "computed", expression=expression))
            self.assertIn("of powers only", said[0], expression)

    def test_a_loop_between_fields_is_refused_with_its_path(self) -> None:
        said = problems(
            ClassField("a", "computed", expression="b + 1"),
            ClassField("b", "computed", expression="c * 2"),
            ClassField("c", "computed", expression="a"),
        )
        self.assertEqual(len(said), 1)
        self.assertRegex(said[0], r"fields\[\d\]\.expression: these fields need one another: (\w) → \w → \w → \1$")
        self.assertIn("need one another: a → a", problems(ClassField("a", "computed", expression="a + 1"))[0])

    def test_an_unknown_name_is_named_with_its_place(self) -> None:
        said = problems(ClassField("length", "number"), ClassField("out", "computed", expression="lenght * 2"))
        self.assertIn("fields[1].expression: lenght is not known here; known are length, unit_cost", said[0])

    def test_what_every_part_has_and_what_functions_are_called_is_no_field(self) -> None:
        self.assertEqual([problems(ClassField(n, "number")) for n in ("unit_cost", "sqrt", "size")], [
            ["fields[0].name: unit_cost is the name of something every part has"], ["fields[0].name: sqrt is the name of something every part has"], [],
        ])  # fmt: skip
        # Only of what is counted or computed the unit has to be one.
        self.assertEqual(
            [len(problems(ClassField("a", k, unit="cubits", expression="1"))) for k in ("number", "computed", "text")], [1, 1, 0]
        )

    def test_fields_that_cannot_be(self) -> None:
        for own, told in (
            (ClassField("2nd"), "beginning with a letter"),
            (ClassField("mass_kg"), "every part has"),
            (ClassField("a", "picture"), "one of text"),
            (ClassField("a", "choice"), "name the choices"),
            (ClassField("a", "number", "furlong"), "furlong"),
        ):
            self.assertIn(told, problems(own)[0])
        self.assertIn("stands twice", problems(ClassField("a"), ClassField("A"))[0])

    def test_values_that_do_not_fit(self) -> None:
        own = PartClass(
            "P",
            fields=[
                ClassField("n", "number"),
                ClassField("d", "date"),
                ClassField("c", "choice", choices=["red", "blue"]),
                ClassField("x", "computed", expression="n"),
            ],
        )
        values, wrong = read_values(own, {"n": "1,5", "d": "soon", "c": "green", "x": "1", "y": "1", "m": ""}, "own.")
        self.assertEqual(values, {})
        self.assertEqual([p.place for p in wrong], ["own.n", "own.d", "own.c", "own.x", "own.y", "own.m"])
        self.assertEqual(read_values(own, {"n": "1.50", "d": "2026-01-31", "c": "red"})[0], {"n": "1.5", "d": "2026-01-31", "c": "red"})


class Numbering(unittest.TestCase):
    @given(st.integers(1, 5), st.integers(1, 50), st.integers(1, 20), st.sets(st.integers(0, 99_999), max_size=30))
    @settings(max_examples=60, deadline=None)
    def test_next_numbers_are_new_in_the_scheme_and_behind_all_taken(self, count: int, start: int, step: int, taken: set[int]) -> None:
        own = PartClass("P", "X-", 6, start, step)
        new = next_numbers(own, [f"x-{n:06}" for n in taken] + ["Y-000001", "X-1A", "X-"], count)
        read = [int(n[2:]) for n in new]
        self.assertEqual(len(set(new)), count)
        self.assertTrue(all((n - start) % step == 0 and n >= start for n in read))
        self.assertTrue(all(n > max(taken, default=-1) for n in read))
        self.assertEqual(read, list(range(read[0], read[0] + count * step, step)))
        self.assertTrue(read[0] - step < start or read[0] - step <= max(taken, default=-1), "no number is left out")

    def test_digits_that_do_not_suffice(self) -> None:
        with self.assertRaisesRegex(ValueError, "2 digits end at 99"):
            next_numbers(PartClass("P", "X", 2), ["X98"], 2)

    def test_positions_of_a_tree(self) -> None:
        """Numbers by position as an assembly drawing counts them (common practice): 1, 1.1, 1.1.1."""
        takes = {0: [1, 2], 1: [3, 4], 4: [5], 2: [4, 6]}
        self.assertEqual(numbers_by_position(0, takes, ""), {1: "1", 2: "2", 3: "1.1", 4: "1.2", 6: "2.2", 5: "1.2.1"})
