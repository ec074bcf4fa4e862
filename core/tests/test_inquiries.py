"""Lists of an inquiry: how they join, what is found on their lines, and what a later revision changes.

Chip sizes and IPC-7351 land pattern names are from memory of the published series; the rules are common practice of estimating.
"""

import itertools
import unittest
from decimal import Decimal
from pathlib import Path

from tally_core.inquiries.boards import find_boards
from tally_core.inquiries.check import RULES, Held, Known, check_lines
from tally_core.inquiries.join import join, own_top
from tally_core.inquiries.layout import Place, case_of_package, is_later_layout, layout_words, relaid
from tally_core.inquiries.line import FIELDS, InquiryLine, mended_value
from tally_core.inquiries.revise import revise
from tally_core.lists.neutral import read_list
from tally_core.lists.title_block import said_to_be_for
from tally_core.lists.titles import ColumnMap

_KEYS = itertools.count(1)


def line(part: str = "", row: int = 1, source: str = "a", **said) -> InquiryLine:
    if "quantity" in said and said["quantity"] is not None:
        said["quantity"] = str(said["quantity"])
    elif "quantity" not in said:
        said["quantity"] = "1"
    return InquiryLine.of(next(_KEYS), source, row, {"part": part} | said)


def head(part: str, source: str = "a") -> InquiryLine:
    return line(part, 0, source, level=0)


def codes(lines, held=None, places=None) -> list[tuple[str, int]]:
    rows = {x.key: x.row for x in lines}
    return [(f.code, rows[f.key]) for f in check_lines(lines, held or {}, [places] if places else [])]


class Joining(unittest.TestCase):
    def test_lists_join_by_number_in_any_order_and_spelling(self) -> None:
        top = [head("LAMP", "c"), line("HEAD-1", 2, "c", quantity=2), line("SCREW", 3, "c", quantity=8)]
        under = [head("head 1", "a"), line("LENS", 2, "a"), line("RING-9", 3, "a")]
        third = [head("RING9", "b"), line("ROD", 2, "b", quantity="0.5", unit="m")]
        said = set()
        for order in itertools.permutations([top, under, third]):
            found = join([x for some in order for x in some])
            said.add(repr((found.sheets, found.tops, found.problems, found.again)))
            self.assertEqual(list(found.sheets), ["HEAD1", "LAMP", "RING9"])
            self.assertEqual(found.tops, ["LAMP"])
        self.assertEqual(len(said), 1)

    def test_levels_parents_and_flat_lists_place_lines_alike(self) -> None:
        by_level = [head("TOP"), line("A", 1, level=1), line("B", 2, level=2), line("C", 3, level=2), line("D", 4, level=1)]
        by_parent = [
            head("TOP"),
            line("A", 1, parent="TOP"),
            line("B", 2, parent="A"),
            line("C", 3, parent="a"),
            line("D", 4, parent="TOP"),
        ]
        for lines in (by_level, by_parent):
            found = join(lines)
            names = {x.key: x.part for x in lines}
            self.assertEqual({t: [names[k] for k in keys] for t, keys in found.sheets.items()}, {"TOP": ["A", "D"], "A": ["B", "C"]})
        flat = [head("TOP"), line("A", 1), line("B", 2)]
        self.assertEqual(len(join(flat).sheets["TOP"]), 2)

    def test_a_list_may_name_what_it_is_for_in_its_own_first_row(self) -> None:
        own = [line("TOP", 5, level=0), line("A", 6, level=1), line("B", 7, level=1)]
        self.assertEqual(own_top(own).part, "TOP")
        self.assertEqual(list(join(own).sheets), ["TOP"])
        self.assertIsNone(own_top([line("A", 5, level=1), line("B", 6, level=1)]))
        self.assertIsNone(own_top([line("A", 5)]))
        roots = [line("T", 2, parent=""), line("A", 3, parent="T")]
        self.assertEqual(own_top(roots).part, "T")
        self.assertIsNone(own_top([*roots, line("U", 4, parent=""), line("B", 5, parent="U")]))

    def test_several_tops_in_one_file(self) -> None:
        found = join([line("T1", 1, level=0), line("A", 2, level=1), line("T2", 3, level=0), line("B", 4, level=1)])
        self.assertEqual(found.tops, ["T1", "T2"])

    def test_the_same_list_twice_counts_once_and_another_is_a_problem(self) -> None:
        lines = [head("TOP"), line("A", 1, level=1), line("B", 2, level=2), line("A", 3, level=1), line("B", 4, level=2)]
        found = join(lines)
        self.assertEqual((len(found.sheets["A"]), found.problems), (1, []))
        self.assertEqual(found.again, {lines[4].key: lines[2].key})
        lines[4].quantity = Decimal(2)
        self.assertEqual(join(lines).problems, [(lines[4].key, "A has other lines at row 2; one part has one list")])
        self.assertIn(("two-lists", 4), codes(lines))
        # One piece and no unit are the same as one "ea".
        lines[4].quantity, lines[4].unit = Decimal("1.0"), "ea"
        self.assertEqual(join(lines).problems, [])

    def test_without_a_number_a_line_is_its_makers_number_its_words_or_itself(self) -> None:
        self.assertEqual(line("", maker_number="NR-1").thing, "NR1")
        self.assertEqual(line("", description="steel pin").thing, "STEELPIN")
        one, other = line(""), line("")
        self.assertNotEqual(one.thing, other.thing)
        self.assertEqual((line("A-1").name, line("", 7).name), ("A-1", "row 7"))


class Found(unittest.TestCase):
    def test_designators_against_quantity_and_one_another(self) -> None:
        lines = [
            head("T"),
            line("A", 1, quantity=3, designators=["R1", "R2"]),
            line("B", 2, quantity=2, designators=["R2", "R3"]),
            line("C", 3, quantity=2, designators=["C1", "C1"]),
            line("D", 4, quantity=0, designators=["C5"], not_fitted=True),
            line("E", 5, quantity="1.5", unit="m", designators=["W1"]),
        ]
        self.assertEqual(codes(lines), [("designator-count", 1), ("designator-count", 3), ("designator-twice", 2), ("designator-twice", 3)])
        told = {f.code: f.message for f in check_lines(lines, {}) if f.key == lines[2].key}
        self.assertEqual(told["designator-twice"], "R2 stands at row 1 too")
        # The same designators on another board are other places.
        other = [head("U", "b"), line("A", 1, "b", quantity=2, designators=["R1", "R2"])]
        self.assertEqual(codes([head("T"), line("B", 1, quantity=2, designators=["R1", "R2"]), *other]), [])

    def test_quantities(self) -> None:
        lines = [head("T"), line("A", 1, quantity=None), line("B", 2, quantity=-1), line("C", 3, quantity=0),
                 line("D", 4, quantity=None, not_fitted=True), line("E", 5, quantity=0, not_fitted=True)]  # fmt: skip
        self.assertEqual(codes(lines), [("no-quantity", 1), ("quantity-nothing", 2), ("quantity-nothing", 3)])
        weights = {f.key: f.severity for f in check_lines(lines, {})}
        self.assertEqual([weights[x.key] for x in lines[1:4]], ["stops", "stops", "look"])

    def test_what_has_no_number_stands_twice_or_in_itself(self) -> None:
        lines = [head("T"), line("", 1, description="pin"), line("A", 2), line("a", 3)]
        self.assertEqual(codes(lines), [("no-number", 1), ("listed-twice", 3)])
        # Held for one part, two numbers are one.
        held = {lines[1].key: Held("P"), lines[2].key: Held("P")}
        self.assertIn(("listed-twice", 2), codes(lines[:3], held))
        loop = [head("T"), line("A", 1, level=1), line("T", 2, level=2)]
        found = [f for f in check_lines(loop, {}) if f.code == "loop"]
        self.assertEqual([(f.severity, "T → A → T" in f.message or "A → T → A" in f.message) for f in found], [("stops", True)])

    def test_the_layout_is_a_check_on_the_list(self) -> None:
        lines = [
            head("T"),
            line("A", 1, quantity=2, designators=["R1", "r2"], description="Resistor 10k 1% 0603"),
            line("B", 2, quantity=2, designators=["C1", "C9"], description="Capacitor 100n X7R"),
            line("C", 3, designators=["U1"], not_fitted=True),
            line("D", 4, designators=["U2"]),
        ]
        places = {"R1": Place("R0603", "top"), "R2": Place("R0805", "bottom"), "C1": Place("CAPC1608X90N", "top"),
                  "U1": Place("SOT-23"), "U2": Place("SOT-23", fitted=False)}  # fmt: skip
        self.assertEqual(
            codes(lines, {}, places), [("case-size-of-layout", 1), ("not-on-layout", 2), ("fitted-on-layout", 3), ("fitted-on-layout", 4)]
        )
        self.assertEqual(layout_words(lines[1], places), "2 of 2 places; R0603, R0805; bottom and top")
        self.assertEqual(layout_words(lines[4], places), "1 of 1 places; SOT-23; 1 not fitted")
        self.assertEqual(layout_words(line("Z", 9, designators=["X1"]), places), "")
        places["R2"] = Place("R0603", "top")
        self.assertNotIn("case-size-of-layout", [c for c, _ in codes(lines, {}, places)])
        held = {lines[1].key: Held("RES", "Resistor 10k 1 % 0805")}
        self.assertIn(("case-size-of-part", 1), codes(lines, held, places))
        # Without a layout nothing is said to be missing on it.
        self.assertEqual(codes(lines), [])

    def test_two_boards_have_each_their_own_r1(self) -> None:
        """An apparatus of two boards, each with its list and its layout: by hand, which line is held against which."""

        def box(*parts: InquiryLine) -> list[InquiryLine]:
            return [head("BOX"), line("A", 1, level=1), *parts]

        power, control = Place("R0805", "top", x_mm=Decimal(1)), Place("R0603", "top", x_mm=Decimal(9))
        layouts = [{"R1": power, "R2": power}, {"R1": control, "R2": control, "R3": control}]
        first = line("RES-1", 2, level=2, quantity=2, designators=["R1", "R2"], description="Resistor 10k 0805")
        board = line("B", 3, level=1)
        second = line("RES-2", 4, level=2, quantity=3, designators=["R1", "R2", "R3"], description="Resistor 10k 0805")
        lines = box(first, board, second)
        found = find_boards(lines, join(lines), layouts)
        self.assertEqual(([b.layouts for b in found.boards], found.of_thing), ([[0], [1]], {"A": 0, "B": 1}))
        self.assertEqual([f.key for f in check_lines(lines, {}, layouts)], [second.key])
        # In whatever order the layouts come, and with a second one of the same board.
        more = [layouts[1], {"R3": control, "C1": Place("C0402")}, layouts[0]]
        found = find_boards(lines, join(lines), more)
        self.assertEqual(([b.layouts for b in found.boards], found.of_thing), ([[0, 1], [2]], {"A": 1, "B": 0}))
        self.assertEqual(sorted(found.places_of(second)), ["C1", "R1", "R2", "R3"])
        # Of one board a layout came, of the other none: nothing is said of that one.
        found = find_boards(lines, join(lines), layouts[1:])
        self.assertEqual((found.of_thing, found.places_of(first)), ({"B": 0}, None))
        self.assertEqual([f.key for f in check_lines(lines, {}, layouts[1:])], [second.key])
        # Two groups of one board share it, also with a slip of one designator on both; what is on no board is told so.
        wound = line("COIL", 6, level=2, designators=["R9"])
        lines = box(line("RES-1", 2, level=2, designators=["r1"]), line("B", 3, level=1), line("RES-2", 4, level=2, designators=["R3", "R2", "R1"]),
                    line("C", 5, level=1), wound)  # fmt: skip
        split = [
            line("RES-1", 2, level=2, designators=["R1", "R4"]),
            line("B", 3, level=1),
            line("RES-2", 4, level=2, designators=["R3", "R2", "R1"]),
        ]
        whole = {"R1": control, "R2": control, "R3": control, "R4": control}
        found = find_boards(box(*split), join(box(*split)), [whole])
        self.assertEqual(found.of_thing, {"A": 0, "B": 0})
        found = find_boards(lines, join(lines), [whole])
        self.assertEqual((found.of_thing, found.places_of(wound), found.board_of(wound)), ({"B": 0, "C": -1}, {}, -1))
        self.assertEqual(find_boards(lines, join(lines), []).of_thing, {})

    def test_the_board_that_fits_best_and_of_two_alike_the_later(self) -> None:
        """Shares by hand: 2 of 2 places against 2 of 4; then 2 of 2 against 2 of 2."""
        here, there = Place(x_mm=Decimal(1)), Place(y_mm=Decimal(1))
        self.assertEqual((here.y_mm, there.x_mm, Place().rotation), (0, 0, 0))
        small, large = {"R1": here, "R2": here}, dict.fromkeys(("R1", "R2", "R3", "R4"), there)
        lines = [head("T"), line("RES", 1, quantity=2, designators=["R1", "R2"])]
        for layouts in ([small, large], [large, small]):
            found = find_boards(lines, join(lines), layouts)
            self.assertEqual((len(found.boards), sorted(found.places_of(lines[1]))), (2, ["R1", "R2"]))
        alike = find_boards(lines, join(lines), [small, {"R1": there, "R2": there}])
        self.assertEqual(alike.of_thing, {"T": 1})

    def test_a_later_layout_of_a_board_says_what_is_another(self) -> None:
        def place(package: str, x: str, side: str = "top", fitted: bool = True, rotation: str = "0") -> Place:
            return Place(package, side, fitted, Decimal(x), Decimal(5), Decimal(rotation))

        before = {"R1": place("0603", "1"), "R2": place("0603", "2"), "R3": place("0603", "3"), "C1": place("0805", "4")}
        before |= {"U1": place("SOT-23", "5", rotation="90"), "C2": place("", "6")}
        after = {"R1": place("0603", "1.019"), "R2": place("0603", "2.02"), "R3": place("0603", "3", "bottom"), "R9": place("0603", "9")}
        after |= {"C1": place("0805", "4", fitted=False, rotation="360"), "U1": place("SOT-89", "5")}
        # R1, R3 and C1 of six stand as they stood; U1 in another package: that is half of them, and not more.
        self.assertFalse(is_later_layout(before, after))
        after["C2"] = place("", "6")
        self.assertTrue(is_later_layout(before, after))
        del after["C2"]
        self.assertEqual(
            relaid(before, after),
            [
                "new: R9",
                "gone: C2",
                "moved: R2",
                "turned: U1",
                "on another side: R3",
                "no longer fitted: C1",
                "package SOT-89 instead of SOT-23: U1",
            ],
        )
        self.assertEqual(relaid(after, before)[:2], ["new: C2", "gone: R9"])
        self.assertIn("now fitted: C1", relaid(after, before))
        self.assertEqual(relaid({"C2": place("", "6")}, {"C2": place("0402", "6")}), ["package 0402 instead of none said: C2"])
        self.assertEqual(relaid({"C2": place("0402", "6")}, {"C2": place("", "6")}), ["package not said instead of 0402: C2"])
        self.assertEqual(relaid(before, before), [])
        # Nothing is a later layout of nothing, and one side alone none of a whole board.
        self.assertFalse(is_later_layout({}, before))
        self.assertFalse(is_later_layout(before, {d: before[d] for d in ("R1", "R2", "R3")}))

    def test_case_sizes_of_packages_in_both_systems(self) -> None:
        for package, size in (("0603", "0603"), ("C0402", "0402"), ("RESC1608X55N", "0603"), ("CAPC2012X125N", "0805"), ("R_0603_1608Metric", "0603"),
                              ("1608M", "0603"), ("0603M", "0201"), ("QFN-32", ""), ("SOIC127P600X175-8", ""), ("", "")):  # fmt: skip
            self.assertEqual(case_of_package(package), size, package)

    def test_a_metric_name_that_is_an_imperial_code_too(self) -> None:
        """IPC-7351 names state metric sizes: RESC0603 is 0201 in inches; a code of no published size says nothing."""
        found = [case_of_package(p) for p in ("RESC0603X30N", "INDC0402X20N", "R0603", "RESC9999X50N", "R5999")]
        self.assertEqual(found, ["0201", "01005", "0603", "", ""])

    def test_against_what_a_line_is_held_for(self) -> None:
        lines = [
            head("T"),
            line("A", 1, unit="kg"),
            line("B", 2, level=1),
            line("C", 3, level=2),
            line("D", 4, level=1),
            line("E", 5, level=1, description="Cap 100n 25 V"),
        ]
        held = {
            lines[1].key: Held("ROD", unit="m"),
            lines[2].key: Held("BOUGHT"),
            lines[4].key: Held("OLD", lifecycle="obsolete"),
            lines[5].key: Held("CAP", road="remembered", told={"description": "Cap 10n 25 V"}),
        }
        found = {(f.code, f.severity) for f in check_lines(lines, held)}
        self.assertEqual(found, {("unit", "stops"), ("has-lines", "stops"), ("ended", "look"), ("said-otherwise", "look")})
        held[lines[1].key] = Held("ROD", unit="g")
        held[lines[2].key] = Held("MADE", kind="made")
        held[lines[4].key] = Held("LAST", lifecycle="last_buy")
        held[lines[5].key] = Held("CAP", road="by hand", told={"description": "Cap 10n 25 V"})
        last = check_lines(lines, held)
        self.assertEqual([(f.code, f.message) for f in last], [("ended", "LAST is at its last buy")])
        # Other words that say the same are no finding.
        held = {lines[5].key: Held("CAP", road="remembered", told={"description": "Kondensator 100 nF 25V"})}
        self.assertEqual(codes(lines, held), [])

    def test_what_parts_data_know_of_makers_numbers(self) -> None:
        lines = [head("T"), line("A", 1, maker_number="N-1"), line("B", 2, maker_number="N-2", description="Resistor 10k 0603"),
                 line("C", 3, maker_number="N-3", designators=["C1"]), line("D", 4, maker_number="N-4", description="Resistor 10k 0805")]  # fmt: skip
        known = {lines[1].key: Known(found=False), lines[2].key: Known(lifecycle="ended", case="0603", replacement="N-9"),
                 lines[3].key: Known(case="1608M"), lines[4].key: Known(lifecycle="active", case="0603")}  # fmt: skip
        found = check_lines(lines, {}, [{"C1": Place("CAPC2012X90N")}], known)
        self.assertEqual([(f.code, f.message) for f in found], [
            ("number-unknown", "parts data do not know N-1"), ("number-ended", "N-2 has ended; N-9 takes its place"),
            ("case-size-of-number", "N-3 is 0603, list and layout have 0805"), ("case-size-of-number", "N-4 is 0603, list and layout have 0805")])  # fmt: skip
        self.assertEqual(check_lines(lines[:2], {}, (), {lines[1].key: Known(lifecycle="last buy")})[0].message, "N-1 is at its last buy")

    def test_what_other_columns_say(self) -> None:
        lines = [head("T"), line("A", 1, description="Resistor 10k", case="0603", designators=["R1"]), line("B", 2, lifecycle="NRND since May"), line("C", 3, lifecycle="active"),
                 line("D", 4, description="Resistor 10k 0603", case="0603", material="alumina")]  # fmt: skip
        found = check_lines(lines, {}, [{"R1": Place("R0805"), "R2": Place("R0603")}])
        self.assertEqual([(f.code, f.message) for f in found], [
            ("case-size-of-layout", "the list says 0603, the layout has 0805"), ("said-ended", "the list says of it: NRND since May")])  # fmt: skip
        self.assertEqual((lines[1].words, lines[4].words), ("Resistor 10k; 0603", "Resistor 10k 0603; alumina"))

    def test_every_rule_has_a_test_here(self) -> None:
        said = Path(__file__).read_text(encoding="utf-8")
        for code in RULES:
            self.assertIn(f'"{code}"', said)


class Mending(unittest.TestCase):
    def test_what_was_typed_is_read_as_its_field(self) -> None:
        for name, text, value in (("quantity", "2,50", "2.5"), ("quantity", " ", None), ("unit", "Stk", "ea"), ("level", "2", 2), ("part", " A-1 ", "A-1"),
                                  ("designators", "R1-R3, R7", ["R1", "R2", "R3", "R7"]), ("not_fitted", "yes", True), ("unit_cost", "0", "0")):  # fmt: skip
            self.assertEqual(mended_value(name, text), value, (name, text))
        for name, text in (("quantity", "-1"), ("quantity", "two"), ("quantity", "1e13"), ("unit", "bushel"), ("level", "1.5"), ("level", "100"),
                           ("part", "a\x00b"), ("note", "x" * 2001), ("not_fitted", "perhaps")):  # fmt: skip
            with self.assertRaises(ValueError, msg=(name, text)):
                mended_value(name, text)
        with self.assertRaises(KeyError):
            mended_value("key", "1")
        self.assertEqual({n for n in FIELDS if not hasattr(InquiryLine, n) and n not in InquiryLine.__dataclass_fields__}, set())


class Revised(unittest.TestCase):
    def test_a_line_is_the_same_by_number_places_or_item(self) -> None:
        before = [
            head("T"),
            line("A", 1, quantity=2, designators=["R1", "R2"], item="1"),
            line("B", 2, item="2"),
            line("C", 3, item="3"),
            line("D", 4),
        ]
        after = [head("T"), line("B", 1, item="2", quantity=4), line("A9", 2, quantity=2, designators=["R1", "R2"], item="1"),
                 line("C2", 3, item="3"), line("E", 4)]  # fmt: skip
        found = revise(before, after)
        was = {x.key: x.part for x in before}
        same = {x.part: was[found.same[x.key]] for x in after if x.key in found.same}
        self.assertEqual(same, {"T": "T", "B": "B", "A9": "A", "C2": "C"})
        changed = {x.part: found.changed.get(x.key, {}) for x in after}
        self.assertEqual(changed["B"], {"quantity": ("1", "4")})
        self.assertEqual(changed["A9"], {"part": ("A", "A9")})
        self.assertEqual((found.added, found.taken), ([after[4].key], [before[4].key]))

    def test_each_line_is_matched_once_and_the_nearest_first(self) -> None:
        before = [line("A", 1, designators=["R1"]), line("A", 2, designators=["R2"])]
        after = [line("A", 1, designators=["R2"]), line("A", 2, designators=["R1"]), line("A", 3, designators=["R3"])]
        found = revise(before, after)
        self.assertEqual(found.same, {after[0].key: before[1].key, after[1].key: before[0].key})
        self.assertEqual((found.changed, found.added, found.taken), ({}, [after[2].key], []))

    def test_nothing_changed_is_nothing_said(self) -> None:
        rows = [head("T"), line("A", 3, unit_cost="1.50", not_fitted=True)]
        later = [head("T"), line("A", 9, unit_cost="1.5", not_fitted=True)]
        found = revise(rows, later)
        self.assertEqual((found.changed, found.added, found.taken), ({}, [], []))


class Maps(unittest.TestCase):
    ROWS = [["Order list"], [], ["Ref", "What", "Pcs", "What it costs"], ["A-1", "pin", "1,5", "1.200,5"], ["A-2", "nut", "2", "3,25"]]

    def test_a_map_is_laid_over_titles_that_nobody_knows(self) -> None:
        given = ColumnMap(
            2,
            {"part": (0, 0), "description": (1, 0), "quantity": (2, 0), "unit_cost": (3, 0)},
            {"quantity": True},
            ("Ref", "What", "Pcs", "What it costs"),
        )
        found = read_list(self.ROWS, given)
        self.assertEqual(
            [(r.row, r.part, r.quantity, r.unit_cost) for r in found.rows],
            [(4, "A-1", Decimal("1.5"), Decimal("1200.5")), (5, "A-2", Decimal(2), Decimal("3.25"))],
        )
        later = [["Order list"], ["page 2"], [], ["REF:", "what", "pcs.", "What it costs"], *self.ROWS[3:]]
        self.assertEqual(given.found_in(later).header, 3)
        self.assertEqual(found.map.shape, read_list(later, given.found_in(later)).map.shape)
        # Two rows of titles are known again, too; other titles are another shape.
        two = ColumnMap(1, given.columns, {}, ("Part Ref", "What"))
        self.assertEqual(two.found_in([["Part", "What"], ["Ref", ""], ["A", "b"]]).header, 1)
        self.assertIsNone(two.found_in([["x"], ["y"], ["z"]]))
        self.assertIsNone(ColumnMap(0, given.columns).found_in(self.ROWS))

    def test_what_a_list_is_for(self) -> None:
        block = [["KESTREL PIERS", ""], ["Baugruppe: QP-7 ", "", "Titel", "Pier light"], ["", ""], ["Part", "Qty"]]
        self.assertEqual(said_to_be_for(block, 3, "x.xlsx"), ("QP-7", "Pier light"))
        self.assertEqual(said_to_be_for([["Drawing no", ""], ["Part", "Qty"]], 1, "C:\\lists\\QP-9 lamp.xlsx"), ("QP-9", ""))
        self.assertEqual(said_to_be_for([], -1, ".csv"), ("", ""))
