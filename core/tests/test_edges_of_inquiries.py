"""Edges of inquiries: how lists join, what a rule stops at, and what a revision keeps.

Rules are common practice; chip sizes and names by IPC-7351 are from memory of the published series.
"""

import unittest

from tally_core.inquiries.check import Held, Known, check_lines
from tally_core.inquiries.join import join, own_top
from tally_core.inquiries.layout import Place, layout_words
from tally_core.inquiries.line import InquiryLine, in_short, mended_value
from tally_core.inquiries.revise import revise

from .test_inquiries import codes, head, line


class Join(unittest.TestCase):
    def test_what_a_list_is_for_is_its_one_lowest_row_and_the_first(self) -> None:
        at = lambda *levels: own_top([line(f"P{n}", n + 1, level=x) for n, x in enumerate(levels)])  # noqa: E731
        self.assertEqual(at(1, 2).part, "P0")
        self.assertEqual([at(2, 1, 2), at(1, 2, 1), at(1)], [None, None, None])
        self.assertIsNone(own_top([head("T"), line("A", 1, level=1)]))
        # By parents: the one row that has none and is named by others, in whatever case.
        self.assertEqual(own_top([line("a", 2, parent="t"), line("T", 3)]).part, "T")
        self.assertIsNone(own_top([line("A", 2, parent="T"), line("B", 3)]))

    def test_places_within_a_list(self) -> None:
        # A parent that stands on no row is a thing of its own; of two rows with one number the first is meant.
        lines = [line("A", 1, parent="X-1"), line("B", 2, parent="x1"), line("C", 3, parent="a"), line("A", 4, parent="X-1")]
        found = join(lines)
        self.assertEqual(found.sheets, {"X1": [lines[0].key, lines[1].key, lines[3].key], "A": [lines[2].key]})
        self.assertEqual(found.tops, ["X1"])
        # A level as high as the one before ends what stood beneath that one.
        lines = [
            head("T"),
            line("A", 1, level=1),
            line("B", 2, level=3),
            line("C", 3, level=2),
            line("D", 4, level=2),
            line("E", 5, level=1),
        ]
        found = join(lines)
        names = {x.key: x.part for x in lines}
        self.assertEqual({t: [names[k] for k in keys] for t, keys in found.sheets.items()}, {"T": ["A", "E"], "A": ["B", "C", "D"]})
        self.assertNotIn(lines[0].key, found.parents)

    def test_rows_are_joined_in_their_order_and_problems_name_where_the_other_list_stands(self) -> None:
        one = [head("T", "a"), line("B", 2, "a"), line("A", 1, "a")]
        other = [head("T", "b"), line("A", 1, "b", quantity=5)]
        for x in one:
            x.called = "first.xlsx"
        found = join([*one, *other])
        self.assertEqual(found.sheets, {"T": [one[2].key, one[1].key]})
        self.assertEqual(found.problems, [(other[1].key, "T has other lines at row 1 of first.xlsx; one part has one list")])
        self.assertEqual(found.again, {other[1].key: one[2].key})
        for x in one:
            x.called = ""
        self.assertIn("of another list;", join([*one, *other]).problems[0][1])
        # No quantity is not the same as one.
        same = [head("T", "b"), line("A", 1, "b"), line("B", 2, "b")]
        self.assertEqual(join([*one, *same]).problems, [])
        same[1].quantity = None
        self.assertEqual(len(join([*one, *same]).problems), 1)

    def test_a_list_that_says_parents_and_levels(self) -> None:
        """What no parent is said of stands beneath the row that others name, though that row has no level."""
        rows = [line("T", 1), line("A", 2, parent="T"), line("B", 3, level=1), line("C", 4, level=2)]
        found = join(rows)
        self.assertEqual([found.parents.get(x.key) for x in rows], [None, rows[0].thing, rows[0].thing, rows[2].thing])

    def test_things_stand_beneath_nothing_where_no_list_has_them(self) -> None:
        found = join([head("U", "b"), line("T", 1, "b"), head("T", "a"), line("A", 1, "a"), head("LONE", "c")])
        self.assertEqual((found.tops, list(found.sheets)), (["U"], ["T", "U"]))


class Rules(unittest.TestCase):
    def told(self, lines, held=None, places=None, known=None) -> dict[str, str]:
        return {f.code: f.message for f in check_lines(lines, held or {}, [places] if places else [], known)}

    def test_a_line_that_stands_nowhere_needs_no_quantity(self) -> None:
        self.assertEqual(codes([line("A", 1, quantity=None)]), [])
        self.assertEqual(codes([head("T"), line("A", 1, quantity=None, not_fitted=True)]), [])
        self.assertEqual(self.told([head("T"), line("A", 1, quantity="-0.5")]), {"quantity-nothing": "quantity -0.5 is below nothing"})

    def test_designators_count_by_the_piece(self) -> None:
        lines = [
            head("T"),
            line("A", 1, quantity=2, unit="ea", designators=["R1"]),
            line("B", 2, quantity=2, unit="kg", designators=["R2"]),
            line("C", 3, quantity=1, designators=["R3"], not_fitted=True),
            line("D", 4, quantity=2, designators=["R4"], not_fitted=True),
        ]
        self.assertEqual(codes(lines), [("designator-count", 1), ("designator-count", 4)])
        twice = [head("T"), line("A", 1, quantity=2, designators=["R1", "R2"]), line("B", 2, quantity=2, designators=["r1", "r2"])]
        self.assertEqual(self.told(twice)["designator-twice"], "r1, r2 stand at row 1 too")
        seven = [f"R{n}" for n in range(1, 8)]
        self.assertEqual(
            self.told([head("T"), line("A", 1, quantity=7, designators=[*seven, *seven])])["designator-twice"],
            "R1, R2, R3, R4, R5 named twice",
        )

    def test_nameless_lines_are_not_one_another(self) -> None:
        lines = [head("T"), line("", 1, maker_number="N-1"), line("", 2, quantity=1), line("", 3, quantity=1), line("N-1", 4)]
        self.assertEqual(codes(lines), [("no-number", 2), ("no-number", 3), ("listed-twice", 4)])
        # The same part beneath two things stands once beneath each.
        self.assertEqual(codes([head("T"), line("A", 1, level=1), line("N", 2, level=2), line("B", 3, level=1), line("N", 4, level=2)]), [])

    def test_the_way_of_a_loop_is_named(self) -> None:
        lines = [head("T"), line("A", 1, level=1), line("B", 2, level=2), line("A", 3, level=3)]
        found = [f for f in check_lines(lines, {}) if f.code == "loop"]
        self.assertEqual([f.message for f in found], ["it would contain itself: A → B → A"])
        self.assertIn(found[0].key, [x.key for x in lines[2:]])
        self.assertEqual(self.told([line("A", 1)]), {})

    def test_what_the_layout_has(self) -> None:
        places = {"R1": Place("", "top"), "R2": Place("R0805", ""), "R3": Place("R0805", "top", fitted=False)}
        self.assertEqual(layout_words(line("A", designators=["r1", "R2", "R3", "R9"]), places), "3 of 4 places; R0805; top; 1 not fitted")
        self.assertEqual(layout_words(line("A", designators=["R2"]), places), "1 of 1 places; R0805")
        seven = [f"X{n}" for n in range(1, 8)]
        told = self.told(
            [head("T"), line("A", 1, quantity=7, designators=seven), line("B", 2, quantity=6, designators=[f"Y{n}" for n in range(6)])],
            None,
            places,
        )
        self.assertEqual(told["not-on-layout"], "Y0, Y1, Y2, Y3, Y4, Y5 on no layout")
        self.assertEqual(
            self.told([head("T"), line("A", 1, quantity=7, designators=seven)], None, places)["not-on-layout"],
            "X1, X2, X3, X4, X5, X6 … on no layout",
        )
        self.assertEqual(self.told([head("T"), line("A", 1, designators=["X1"], not_fitted=True)], None, places), {})
        self.assertEqual(
            self.told([head("T"), line("A", 1, quantity=2, designators=["R1", "R3"], not_fitted=True)], None, places),
            {"fitted-on-layout": "not fitted on the list, fitted at 1 places of the layout"},
        )
        self.assertEqual(
            self.told([head("T"), line("A", 1, quantity=2, designators=["R2", "R3"])], None, places),
            {"fitted-on-layout": "fitted on the list, not fitted at 1 places of the layout"},
        )
        self.assertEqual(self.told([head("T"), line("A", 1, designators=["R3"], not_fitted=True)], None, places), {})

    def test_against_our_part(self) -> None:
        lines = [head("T"), line("A", 1, unit="m", designators=["R2"])]
        places = {"R2": Place("R0805")}
        held = {lines[0].key: Held("TOP", kind="made", unit="kg"), lines[1].key: Held("ROD", "Resistor 10k 0805", unit="mm")}
        self.assertEqual(self.told(lines, held, places), {})
        held[lines[1].key] = Held("ROD", "Resistor 10k 0603", unit="kg")
        self.assertEqual(
            self.told(lines, held, places),
            {"case-size-of-part": "ROD is 0603, the layout has 0805", "unit": "m does not convert to kg of ROD"},
        )
        # What is held for the top is no line with a unit of its own.
        lines[0].unit = "m"
        self.assertNotIn(lines[0].key, [f.key for f in check_lines(lines, held, [places])])
        # Told nothing, or by another road, nothing moved.
        for road, told in (("remembered", {}), ("remembered", {"description": "Cap 10n"}), ("exact", {"description": "Cap 1n"})):
            lines[1] = line("A", 1, description="Cap 10n")
            self.assertEqual(self.told(lines, {lines[1].key: Held("C", road=road, told=told)}), {})

    def test_against_parts_data(self) -> None:
        lines = [head("T"), line("A", 1, maker_number="N-1", description="Cap 10n 0603", designators=["C1"])]
        places = {"C1": Place("C0805")}
        for known, told in (
            (Known(case="0805"), {}),
            (Known(case="0603"), {}),
            (Known(case="1206"), {"case-size-of-number": "N-1 is 1206, list and layout have 0603, 0805"}),
            (Known(lifecycle="ended"), {"number-ended": "N-1 has ended"}),
            (Known(lifecycle="active"), {}),
            (Known(case="SOT-23"), {}),
        ):
            found = self.told(lines, None, places, {lines[1].key: known})
            self.assertEqual({k: v for k, v in found.items() if "number" in k}, told, known)
        # A list that stands twice is looked at once.
        again = [head("T", "b"), line("A", 1, "b", maker_number="N-1", description="Cap 10n 0603", designators=["C1"])]
        self.assertEqual(
            len([f for f in check_lines([*lines, *again], {}, (), {again[1].key: Known(found=False)}) if f.code == "number-unknown"]), 0
        )


class Lines(unittest.TestCase):
    def test_ranges_of_designators_begin_at_three(self) -> None:
        self.assertEqual(in_short(["R1", "R2"]), "R1 R2")
        self.assertEqual(in_short(["R1", "R2", "R4", "R5", "R6", "C7", "R01", "R02", "R10000000"]), "R1 R2 R4-R6 C7 R01 R02 R10000000")
        self.assertEqual(in_short([]), "")

    def test_a_line_of_which_nothing_is_said(self) -> None:
        bare = InquiryLine(1)
        self.assertEqual((bare.row, bare.customer_supplied, bare.not_fitted, bare.name), (0, False, False, "row 0"))
        texts = ("part", "parent", "item", "description", "unit", "maker", "maker_number", "note")
        for said in ({}, dict.fromkeys(("unit_cost", "quantity", "scrap_percent", *texts), ""), dict.fromkeys(("unit_cost", *texts))):
            read = InquiryLine.of(1, "a", 0, said)
            self.assertEqual([getattr(read, n) for n in texts], [""] * len(texts), said)
            self.assertEqual((read.unit_cost, read.quantity, read.scrap_percent, read.designators), (None, None, None, []))

    def test_of_plain_values_and_back(self) -> None:
        read = InquiryLine.of(
            7, "a", 3, {"quantity": "", "unit_cost": "0", "scrap_percent": None, "item": 10, "designators": ("R1",), "customer_supplied": 1}
        )
        self.assertEqual(
            (read.quantity, read.unit_cost, read.scrap_percent, read.item, read.designators, read.customer_supplied, read.not_fitted),
            (None, 0, None, "10", ["R1"], True, False),
        )
        self.assertEqual([mended_value("quantity", t) for t in ("1,5", "1.5", "1,234.5", "0.0000000001")[:3]], ["1.5", "1.5", "1234.5"])
        self.assertEqual([mended_value("quantity", t) for t in ("0", "999999999999", "2.50")], ["0", "999999999999", "2.5"])
        self.assertEqual([mended_value("level", t) for t in ("0", "99")], [0, 99])
        self.assertEqual(mended_value("note", "x" * 2000), "x" * 2000)
        self.assertEqual([mended_value("customer_supplied", t) for t in ("", "NO", "Yes")], [False, False, True])


class Revisions(unittest.TestCase):
    def same(self, before: list[InquiryLine], after: list[InquiryLine]) -> dict[int, int]:
        rows = {x.key: n for n, x in enumerate(before)}
        found = revise(before, after)
        return {n: rows[found.same[x.key]] for n, x in enumerate(after) if x.key in found.same}

    def test_the_head_stays_the_head_whatever_it_is_called(self) -> None:
        before, after = [head("T"), line("U", 1)], [head("U"), line("T", 1)]
        self.assertEqual(self.same(before, after), {0: 0})
        self.assertEqual(revise(before, after).changed[after[0].key], {"part": ("T", "U")})

    def test_what_tells_two_rows_of_one_number_apart_comes_first(self) -> None:
        # By level, then by parent, then by item, and only then by order.
        self.assertEqual(
            self.same([line("A", 1, level=1), line("A", 2, level=2)], [line("A", 1, level=2), line("A", 2, level=1)]), {0: 1, 1: 0}
        )
        self.assertEqual(
            self.same([line("A", 1, parent="T"), line("A", 2, parent="U")], [line("A", 1, parent="U"), line("A", 2, parent="T")]),
            {0: 1, 1: 0},
        )
        self.assertEqual(
            self.same([line("A", 1, item="1"), line("A", 2, item="2")], [line("A", 1, item="2"), line("A", 2, item="1")]), {0: 1, 1: 0}
        )
        self.assertEqual(self.same([line("A", 1, level=1)], [line("A", 1, level=2)]), {0: 0})
        # Without a number of its own, by its places and by its item beneath the same thing; without any, it is another.
        self.assertEqual(self.same([line("A", 1, item="5", level=1)], [line("B", 1, item="5", level=2)]), {})
        self.assertEqual(self.same([line("A", 1, item="5", level=1)], [line("B", 1, item="5", level=1)]), {0: 0})
        self.assertEqual(self.same([line("A", 1)], [line("B", 1)]), {})
        self.assertEqual(self.same([line("A", 1, designators=["R1"])], [line("B", 1, designators=["R1"])]), {0: 0})

    def test_how_a_change_is_told(self) -> None:
        before = [line("A", 1, quantity="10", unit_cost="1.50", designators=["R1", "R2", "R3"], not_fitted=True, level=1)]
        after = [line("A", 1, quantity=None, unit_cost="0", designators=["R1"], not_fitted=False, level=2, scrap_percent="2.0")]
        self.assertEqual(
            revise(before, after).changed[after[0].key],
            {
                "level": ("1", "2"),
                "quantity": ("10", ""),
                "designators": ("R1-R3", "R1"),
                "not_fitted": ("yes", ""),
                "unit_cost": ("1.5", "0"),
                "scrap_percent": ("", "2"),
            },
        )
