"""Edges of reading texts and of pairing: where a value begins and ends, which word names a kind, and what comes first among equals.

Prefixes by the SI brochure; letter codes by IEC 60062; the rest is our own rule (P1 to P4), worked out by hand.
"""

import math
import random
import unittest
from decimal import Decimal

from tally_core.pairing.compare import compare
from tally_core.pairing.describe import Said, describe
from tally_core.pairing.numbers import ALIKE, DIGIT, LETTER, SUFFIX, asked_keys, fold, kept_keys, learn_suffixes, near_way
from tally_core.pairing.propose import MOST, OFTEN, RAREST_WORDS, Asked, Often, Ours, Shelf, words_of
from tally_core.pairing.values import case_size, coded


def said(text: str) -> dict[str, tuple[str, str]]:
    """Field → its value, and the words it was read from."""
    found = describe(text).fields
    return {n: (f"{s.value:f}" if isinstance(s.value, Decimal) else s.value, text[s.start : s.end]) for n, s in found.items()}  # fmt: skip


class WhereValuesStand(unittest.TestCase):
    def test_each_field_with_the_words_it_was_read_from(self) -> None:
        for text, fields in (
            ("Resistor 5 mΩ 1/4 W 250VAC ±100ppm", {"resistance": ("0.005", "5 mΩ"), "power": ("0.25", "1/4 W"), "voltage": ("250", "250VAC"), "stability": ("100", "±100ppm")}),
            ("Resistor 2 GOhm +/-5 % 250mW", {"resistance": ("2000000000", "2 GOhm"), "tolerance": ("5", "+/-5 %"), "power": ("0.25", "250mW")}),
            # Nothing between two values: each has its own place.
            ("Resistor 1k ±5%±100ppm", {"resistance": ("1000", "1k"), "tolerance": ("5", "±5%"), "stability": ("100", "±100ppm")}),
            ("Resistor 4K7J", {"resistance": ("4700", "4K7J"), "tolerance": ("5", "J")}),
            ("Cap 4n7K 6,3V", {"capacitance": ("0.0000000047", "4n7K"), "tolerance": ("10", "K"), "voltage": ("6.3", "6,3V")}),
            ("Capacitor 100n", {"capacitance": ("0.0000001", "100n")}),
            ("Cap 0,47 uF np0 M1608", {"capacitance": ("0.00000047", "0,47 uF"), "dielectric": ("C0G", "np0"), "case": ("0603", "M1608")}),
            ("Choke 4,7 mH 500 mA 10 %", {"inductance": ("0.0047", "4,7 mH"), "current": ("0.5", "500 mA"), "tolerance": ("10", "10 %")}),
            ("Crystal 32.768 kHz 12.5pF", {"frequency": ("32768", "32.768 kHz"), "capacitance": ("0.0000000000125", "12.5pF")}),
            ("Screw M10x1,25x40", {"thread": ("M10x1.25", "M10x1,25"), "length": ("0.04", "40")}),
            ("Hex bolt M 8 x 30 mm ISO-4017 10,9 black", {"thread": ("M8", "M 8"), "length": ("0.03", "30"), "standard": ("ISO 4017", "ISO-4017"),
                                                         "property_class": ("10.9", "10,9"), "head": ("hexagon", "Hex"), "finish": ("black", "black")}),
            ("Screw M5 A2-70", {"thread": ("M5", "M5"), "material": ("stainless A2", "A2-70")}),
            ("Connector 2 x 5 pins RM 2,54", {"ways": ("10", "2 x 5 pins"), "pitch": ("0.00254", "RM 2,54")}),
            ("Stecker 12-polig, 5 mm pitch 16 A", {"ways": ("12", "12-polig"), "pitch": ("0.005", "5 mm pitch"), "current": ("16", "16 A")}),
            ("Kabel 3G1,5 mm² 10 m", {"cores": ("3", "3"), "section": ("0.0000015", "1,5 mm²"), "length": ("10", "10 m")}),
            ("Leitung 4-adrig 0,5 qmm", {"cores": ("4", "4-adrig"), "section": ("0.0000005", "0,5 qmm")}),
            ("Wire AWG 22, 20 cm", {"section": ("0.000000325534", "AWG 22"), "length": ("0.2", "20 cm")}),
            ("O-ring 2 cm x 3 mm", {}), ("O-ring 20x3 FPM", {"size": ("0.02 x 0.003", "20x3"), "material": ("fkm", "FPM")}),
            ("Plate 300 x 200 x 4 mm, alu", {"form": ("sheet", "Plate"), "size": ("0.3 x 0.2 x 0.004", "300 x 200 x 4 mm"), "material": ("aluminium", "alu")}),
            ("Round bar, steel, 2 cm", {"form": ("bar", "bar"), "size": ("0.02", "2 cm"), "material": ("steel", "steel")}),
        ):  # fmt: skip
            self.assertEqual(said(text), fields, text)

    def test_the_first_of_two_counts_and_places_hold_behind_letters_without_a_small_form(self) -> None:
        self.assertEqual(said("Cap 10n 25V 50V")["voltage"], ("25", "25V"))
        self.assertEqual(said("Wire 22 AWG")["section"], ("0.000000325534", "22 AWG"))
        self.assertEqual(said("İİ Screw M5 brass")["material"], ("brass", "brass"))

    def test_what_is_nearly_a_value_is_none(self) -> None:
        for text, without in (
            ("Resistor 4k7 1/0 W", "power"), ("Resistor X4K7", "resistance"), ("Resistor 4K7%", "resistance"), ("Resistor 1k 10603", "case"),
            ("Resistor 1k 0603.5", "case"), ("Resistor 1k 1234", "case"), ("Screw XM5", "thread"), ("Screw M5.5.2", "thread"), ("Screw M5 18.8", "property_class"),
            ("Screw M5 ISO 1", "standard"), ("Wire AWG 3", "section"), ("Wire AWG 41", "section"), ("Wire 1 mm", "section"), ("O-ring 20 mm", "size"),
            ("Cap 10k", "capacitance"), ("Cap 100 nFX", "capacitance"), ("Header 10 waysX", "ways"), ("Sheet 3 mm2", "size"), ("Screw M5 A3", "material"),
        ):  # fmt: skip
            self.assertNotIn(without, describe(text).fields, text)
        # Ends of the range of gauges.
        self.assertEqual([len(describe(f"Wire AWG {n}").fields) for n in (4, 40)], [1, 1])

    def test_no_more_than_a_line_of_text_is_read(self) -> None:
        self.assertEqual(describe(" " * 1990 + "resistor 4k7").fields, {})
        self.assertEqual(describe(" " * 1992 + "resistor").kind, "resistor")
        self.assertEqual(describe(" " * 1993 + "resistor").kind, "")


class WhatNamesAKind(unittest.TestCase):
    def test_by_word_within_compounds_at_their_end_or_alone(self) -> None:
        for text, kind in (
            ("Sechskantschraubenset", "fastener"), ("Flachkabel", "cable"), ("Kabelschelle", ""), ("Landscape", ""), ("Pin cap", "capacitor"), ("capped", ""),
            ("Zugstange", "stock"), ("Rundstab", "stock"), ("Stabilisator", ""), ("Tierod", ""), ("Screw for cable", "fastener"), ("Cable with screw", "cable"),
            ("Joint torique", "o-ring"), ("Réservoir", ""), ("rés", "resistor"), ("Lens", ""),
        ):  # fmt: skip
            self.assertEqual(describe(text).kind, kind, text)

    def test_by_a_value_where_no_word_does(self) -> None:
        for text, kind, main in (
            ("4k7 1% 0603", "resistor", "resistance"), ("10k", "resistor", "resistance"), ("100 nF", "capacitor", "capacitance"), ("100n", "capacitor", "capacitance"),
            ("10 µH", "inductor", "inductance"), ("16 MHz", "crystal", "frequency"), ("M5x16", "fastener", "thread"), ("5 V", "", ""),
        ):  # fmt: skip
            found = describe(text)
            self.assertEqual((found.kind, list(found.fields)[:1]), (kind, [main] if main else []), text)


class Coded(unittest.TestCase):
    def test_letters_stand_in_the_place_of_the_decimal_sign(self) -> None:
        """IEC 60062."""
        for text, capacitance, value in (
            ("4R7", False, "4.7"), ("4k7", False, "4700"), ("4E7", False, "4.7"), ("1M5", False, "1500000"), ("1m5", False, "0.0015"), ("1G", False, "1000000000"),
            ("r1", False, "0.1"), ("P33", True, "3.3E-13"), ("3p3", True, "3.3E-12"), ("4U7", True, "0.0000047"), ("1µ", True, "0.000001"),
        ):  # fmt: skip
            found = coded(text, capacitance)
            assert found is not None, text
            self.assertEqual((found[0], found[1]), (Decimal(value), ""), text)
        for text, capacitance in (
            ("R", False),
            ("4p7", False),
            ("4u7", False),
            ("4g7", False),
            ("4e7", False),
            ("4K7", True),
            ("4R7", True),
            ("4M7", True),
            ("47", False),
            ("4R7X", False),
        ):
            self.assertIsNone(coded(text, capacitance), text)  # fmt: skip
        self.assertEqual([case_size("0402", True), case_size("2220", False), case_size("2220", True)], ["01005", "2220", None])


class Against(unittest.TestCase):
    def verdict(self, asked: str, ours: str, name: str) -> str:
        return compare(describe(asked), describe(ours))[name]

    def test_as_good_or_better_or_not(self) -> None:
        for asked, ours, name, verdict in (
            ("Resistor 1k 0.1 W", "Resistor 1k 0.25 W", "power", "meets"), ("Resistor 1k 0.25 W", "Resistor 1k 0.1 W", "power", "differs"),
            ("Resistor 1k 5 %", "Resistor 1k 1 %", "tolerance", "meets"), ("Resistor 1k 1 %", "Resistor 1k 5 %", "tolerance", "differs"),
            # Nothing is better than the value itself.
            ("Resistor 1k", "Resistor 2k", "resistance", "differs"), ("Resistor 2k", "Resistor 1k", "resistance", "differs"),
            ("Cap 1n X7R", "Cap 1n C0G", "dielectric", "meets"), ("Cap 1n C0G", "Cap 1n X7R", "dielectric", "differs"), ("Cap 1n X7R", "Cap 1n X7S", "dielectric", "differs"),
            ("Screw M5 8.8", "Screw M5 8.8", "property_class", "agrees"), ("Screw M5 stainless", "Screw M5 steel", "material", "differs"),
        ):  # fmt: skip
            self.assertEqual(self.verdict(asked, ours, name), verdict, (asked, ours))
        # Values that differ by a rounding are one value.
        self.assertEqual(self.verdict("Resistor 1000.000001 Ohm", "Resistor 1k", "resistance"), "agrees")
        self.assertEqual(self.verdict("Resistor 1000.00001 Ohm", "Resistor 1k", "resistance"), "differs")
        # A kind that one side does not name is not held against the other.
        self.assertEqual(compare(describe("Lens"), describe("Resistor 1k")), {"resistance": "not stated"})

    def test_numbers_that_are_near(self) -> None:
        for asked, ours, way in (
            ("ABC123", "ABC123TR", SUFFIX), ("ABC123TR", "ABC123", SUFFIX), ("ABC123", "ABC123ABCD", SUFFIX), ("ABC123", "ABC123ABCDE", None), ("ABC123", "ABC12345", None),
            ("ABC12", "ABC12T", None), ("ABC123", "ABC123", None), ("ABCDE12345", "ABCDE12354", ALIKE), ("ABCDE12345", "ABCDE12O45", None), ("ABCDE10345", "ABCDE1O345", ALIKE),
            ("ABCDEF1234", "ABCDXF1234", LETTER), ("ABCDEF1234", "ABXYEF1234", None), ("ABCDE12345", "ABCDE1235", DIGIT), ("ABCDEF1234", "ABCDE1234", LETTER),
            ("ABCDE12345", "ABCDE123455", DIGIT), ("ABCDE12345", "ABCDE1234", DIGIT), ("ABCDE12345", "BACDE12354", None), ("ABCDE12345", "ABCED12345", ALIKE), ("ABCDE12345", "ABEDC12345", None),
            ("ABC123#TRPBF", "ABC123#PBF", SUFFIX), ("ABC123#TRPBF", "ABC123", SUFFIX), ("ABC12#TRPBF", "ABC12#PBFXX", None), ("ABC123+T", "ABC123", SUFFIX), ("AB1O50", "AB1050", ALIKE), ("ABOI50", "AB0150", ALIKE),
        ):  # fmt: skip
            self.assertEqual(near_way(asked, ours), way, (asked, ours))
            self.assertEqual(near_way(ours, asked), way, (ours, asked))
        for asked, ours, way in (
            ("ABC12313", "ABC1237", SUFFIX), ("ABC123", "ABC12313", SUFFIX), ("ABC12313", "ABC1247", None), ("ABC1213", "ABC127", None), ("ABC123REEL7", "ABC123", SUFFIX), ("ABC12314", "ABC1237", None),
        ):  # fmt: skip
            self.assertEqual(near_way(asked, ours, {"13", "7", "REEL7"}), way, (asked, ours))

    def test_what_is_near_is_found_by_a_key(self) -> None:
        """On numbers with slips and suffixes of all kinds: whatever is nearly the same shares a key; few others do."""
        r, met, keyed = random.Random(3), 0, 0
        known = {"13", "7", "TR"}
        numbers = [
            "".join(r.choices("AO0B8S5I1X", k=r.randint(5, 9))) + r.choice(["", "13", "7", "TR", "#PBF", "#TRPBF", "ABCD", "99"])
            for _ in range(400)
        ]
        for number in numbers[:200]:
            at = r.randrange(1, len(number) - 1)
            for slip in (
                number[:at] + number[at + 1] + number[at] + number[at + 2 :], number[:at] + number[at + 1 :], number[:at] + number[at] + number[at:],
                number[:at] + r.choice("AO0B8S5I1X") + number[at + 1 :], number.replace("O", "0").replace("1", "I"), number + "RV", number[:-2] + "13", number.partition("#")[0] + "#T",
            ):  # fmt: skip
                keys = asked_keys(slip, known)
                for ours in (number, *r.sample(numbers, 40)):
                    shared = bool(keys & kept_keys(ours))
                    near = near_way(slip, ours, known) is not None
                    met += near
                    keyed += shared
                    self.assertTrue(shared or not near, (slip, ours))
        self.assertGreater(met, 900)
        self.assertLess(keyed, 4 * met)
        self.assertEqual((kept_keys("ABC12"), asked_keys("ABC12")), (set(), set()))

    def test_suffixes_are_learned_from_what_was_agreed(self) -> None:
        learned = learn_suffixes([
            ("Tarn", "TA06034K7-TR", "TA06034K7"), ("TARN", "ta060310r-t7", "TA060310R TR"), ("Holm", "HM100001-13", "HM100001"), ("Holm", "HM100002", "HM100002-13"),
            # One pair alone makes no suffix of digits; nothing is learned of short numbers, of slips and of what goes on for too long.
            ("Lind", "LI100001-13", "LI100001"), ("Lind", "LI1TR", "LI1"), ("Lind", "LI1O0002", "LI100002"), ("Lind", "LI100003ABCDEFGHI", "LI100003"), ("Lind", "LI100004", "LI-100004"),
        ])  # fmt: skip
        self.assertEqual(learned, {"TARN": frozenset({"TR", "T7"}), "HOLM": frozenset({"13"})})
        # The same stem twice says it once.
        self.assertEqual(learn_suffixes([("Holm", "HM100001-13", "HM100001")] * 2), {})
        self.assertEqual(learn_suffixes([("H", "HM1000ABCDEFGH", "HM1000")]), {"H": frozenset({"ABCDEFGH"})})

    def test_full_width_letters_are_letters(self) -> None:
        self.assertEqual(fold("ａ－1 ＃b"), "A1#B")


class FirstAmongEquals(unittest.TestCase):
    def shelf(self, *parts: Ours, **more) -> Shelf:
        return Shelf(parts, **more)

    def found(self, shelf: Shelf, **asked: str) -> list[tuple[str, str, bool]]:
        return [(p.part, p.road, p.certain) for p in shelf.propose(Asked(**asked))]

    def test_what_differs_stands_behind_and_what_agrees_on_rarer_things_before(self) -> None:
        shelf = self.shelf(
            Ours("R-1", "Resistor 1k 5 % 0603"), Ours("R-2", "Resistor 1k 5 % 0805"), Ours("R-3", "Resistor 1k 5 % 0805"),
            Ours("R-4", "Resistor 1k 10 % 0603 0.5 W"), Ours("R-5", "Resistor 1k 10 %", lifecycle="obsolete"), Ours("R-6", "Resistor 1k 10 %", on_stock=True), Ours("R-7", "Resistor 1k 10 %"),
        )  # fmt: skip
        # R-1 agrees on all. In one field differ R-4, which shares a case that 2 of 7 have, R-2 and R-3, which share a tolerance that
        # 3 have, and last those that share nothing but the value; among equals active before ended, on stock before not, then by number.
        self.assertEqual(
            [p for p, _, _ in self.found(shelf, description="Resistor 1k 5 % 0603")], ["R-1", "R-4", "R-2", "R-3", "R-6", "R-7", "R-5"]
        )

    def test_a_part_met_twice_takes_its_best_rank(self) -> None:
        shelf = self.shelf(
            Ours("P-1", makers=[("Norwick", "N-100", 3), ("Norwick", "N-200", 1)]),
            Ours("P-2", makers=[("Norwick", "N-100", 2)]),
        )  # fmt: skip
        self.assertEqual([p for p, _, _ in self.found(shelf, number="N-100", maker_number="N-200", maker="Norwick")], ["P-1", "P-2"])

    def test_by_rank_of_the_maker_and_another_maker_behind(self) -> None:
        shelf = self.shelf(
            Ours("P-1", makers=[("Norwick", "N-100", 2)]), Ours("P-2", makers=[("Norwick", "N-100", 1)]), Ours("P-3", makers=[("Holm", "N-100", 0)]),
        )  # fmt: skip
        self.assertEqual(
            self.found(shelf, maker_number="N-100", maker="Norwick"),
            [("P-2", "exact", True), ("P-1", "exact", True), ("P-3", "exact", False)],
        )
        # Who names no maker may mean any.
        self.assertEqual([c for _, _, c in self.found(shelf, maker_number="n100")], [True, True, True])

    def test_a_weaker_road_never_takes_the_place_of_a_stronger_one(self) -> None:
        shelf = self.shelf(
            Ours("N1000001", "Resistor 1k"), Ours("P-2", "Resistor 1k", [("Tarn", "N1000001TR", 0)]),
            remembered={fold("K-1"): "P-2", "GONE": "P-9"},
        )  # fmt: skip
        self.assertEqual(
            self.found(shelf, number="N-1000001", description="Resistor 1k"), [("N1000001", "exact", True), ("P-2", "near", False)]
        )
        self.assertEqual(self.found(shelf, number="K-1", maker_number="N-1000001TR")[0], ("P-2", "remembered", True))
        self.assertEqual(self.found(shelf, number="gone"), [])
        # Also where the weaker one is met first: nearly the maker's number, and exactly ours.
        self.assertEqual(self.found(shelf, maker_number="N1000001T", number="P-2")[0], ("P-2", "exact", True))
        # A slip at its beginning: the end is whole.
        slip = self.shelf(Ours("P-3", makers=[("Tarn", "A0CDEF12345", 0)]))
        self.assertEqual(self.found(slip, maker_number="AOCDEF12345"), [("P-3", "near", False)])
        self.assertEqual(self.found(shelf, number="--", maker_number=" / "), [])

    def near(self, shelf: Shelf, number: str, text: str = "", maker: str = "Tarn") -> list[str]:
        return [p.part for p in shelf.propose(Asked(maker=maker, maker_number=number, description=text)) if p.road == "near"]

    def test_a_slip_that_may_be_another_part_counts_where_nothing_else_is_meant(self) -> None:
        shelf = self.shelf(
            Ours("K10", "Resistor 10 kΩ 1 % 0603", [("Tarn", "TA0603-10KF", 1)]), Ours("K10J", "Resistor 10 kΩ 5 % 0603", [("Tarn", "TA0603-10KJ", 1)]),
            Ours("K100", "Resistor 100 kΩ 1 % 0603", [("Tarn", "TA0603-100KF-13", 1)]), Ours("TRAY", "Tray", [("Tarn", "TRAYBLUE", 1)]),
        )  # fmt: skip
        # A tolerance left out may be either of two; what the text says decides.
        self.assertEqual(self.near(shelf, "TA0603-10KG"), [])
        self.assertEqual(self.near(shelf, "TA0603-10KG", "Resistor 10k 5 % 0603"), ["K10J", "K10"])
        self.assertEqual(self.near(shelf, "TA0603-10KG", "Resistor 10k 1 % 0603"), ["K10"])
        self.assertEqual(self.near(shelf, "TA0603-10KG", "Resistor 22k 0603"), [])
        # A digit typed twice is another value, but for the word of the text.
        self.assertEqual(self.near(shelf, "TA0603-110KF"), [])
        self.assertEqual(self.near(shelf, "TA0603-110KF", "Resistor 10k 1 % 0603"), ["K10"])
        self.assertEqual(self.near(shelf, "TA0603-110KF", "Resistor 11k"), [])
        # One alone is near; not where its text is of something else.
        self.assertEqual(self.near(shelf, "TRAYBLU"), ["TRAY"])
        one = self.shelf(Ours("K10", "Resistor 10 kΩ 0603", [("Tarn", "TA0603-10KF", 1)]))
        self.assertEqual((self.near(one, "TA0603-10KG"), self.near(one, "TA0603-10KG", "Resistor 10k 0805")), (["K10"], []))

    def test_what_stands_there_as_written_is_no_slip(self) -> None:
        shelf = self.shelf(
            Ours("K10", "Resistor 10 kΩ 0603", [("Tarn", "TA0603-10KF", 1)]), Ours("K01", "Resistor 1 kΩ 0603", [("Tarn", "TA0603-01KF", 1)]),
            Ours("REEL", "Resistor 10 kΩ 0603", [("Tarn", "TA0603-10KF-TR", 1)]),
        )  # fmt: skip
        self.assertEqual(self.near(shelf, "TA0603-10KF"), ["REEL"])
        # Unless the text says that it is not it, or another maker's is meant.
        self.assertEqual(self.near(shelf, "TA0603-10KF", "Resistor 1k 0603"), ["K01"])
        self.assertEqual(self.near(shelf, "TA0603-10KF", "", "Holm"), ["REEL"])

    def test_a_suffix_that_is_known_of_the_maker(self) -> None:
        parts = Ours("P-1", makers=[("Tarn", "TA100001-13", 2), ("Holm", "HM100001-13", 1)])
        shelf = self.shelf(parts, suffixes={"TARN": {"13", "7"}})
        self.assertEqual(self.near(shelf, "TA100001-7"), ["P-1"])
        self.assertEqual(self.near(shelf, "TA100001-7", maker=""), ["P-1"])
        self.assertEqual(self.near(shelf, "TA100001-7", maker="Holm"), [])
        self.assertEqual(self.near(shelf, "HM100001-7", maker="Holm"), [])

    def test_one_number_of_two_makers_is_certain_for_the_one_that_is_asked(self) -> None:
        for makers in ([("Holm", "N-1", 1), ("Norwick", "N1", 2)], [("Norwick", "N1", 2), ("Holm", "N-1", 1)]):
            shelf = self.shelf(Ours("P-1", makers=makers), Ours("P-2", makers=[("Norwick", "N1", 1)]))
            found = self.found(shelf, maker_number="n 1", maker="norwick")
            self.assertEqual(found, [("P-2", "exact", True), ("P-1", "exact", True)])

    def test_by_words_where_the_rare_ones_are_shared(self) -> None:
        shelf = self.shelf(
            Ours("L-1", "Lens moulded clear"), Ours("L-2", "Lens moulded red"), Ours("L-3", "Lens ground clear"), Ours("B-1", "Bracket bent"),
            *(Ours(f"X-{n}", "Lens") for n in range(3)),
        )  # fmt: skip
        self.assertEqual(self.found(shelf, description="clear moulded lens")[0], ("L-1", "by words", False))
        self.assertEqual([p for p, _, _ in self.found(shelf, description="lens")][:3], ["X-0", "X-1", "X-2"])
        self.assertEqual(self.found(shelf, description="a bolted thing"), [])
        self.assertEqual(words_of("A 5 Kg-box"), {"5", "kg", "box"})

    def test_shares_are_weighed_by_how_rare_words_are(self) -> None:
        """Worked out: log(1 + parts / how many have the word), what is shared over all that either has, at least 0.6."""
        often = Often(parts=100, values={}, words={"lens": 50, "clear": 50, "xk": 1})

        def weight(*words: str) -> float:
            return sum(math.log(1 + 100 / {"lens": 50, "clear": 50, "xk": 1}.get(w, 1)) for w in words)

        self.assertGreater(weight("xk") / weight("xk", "lens", "clear"), 0.6)
        self.assertLess(weight("lens") / weight("lens", "clear"), 0.6)
        shelf = self.shelf(Ours("A", "xk lens clear"), Ours("B", "lens clear"), often=often)
        self.assertEqual([p for p, _, _ in self.found(shelf, description="xk")], ["A"])
        self.assertEqual(self.found(shelf, description="lens"), [])
        # A word in too many parts begins no search; with a rarer one beside it, the part is found.
        many = Often(parts=10 * OFTEN, values={}, words={"lens": OFTEN + 1, "clear": OFTEN})
        shelf = self.shelf(Ours("A", "lens"), Ours("B", "clear"), often=many)
        self.assertEqual(self.found(shelf, description="lens"), [])
        self.assertEqual([p for p, _, _ in self.found(shelf, description="clear")], ["B"])
        # Only so many of the rarest words begin a search.
        words = [f"w{n}" for n in range(RAREST_WORDS + 1)]
        counts = Often(parts=1000, values={}, words={w: n + 1 for n, w in enumerate(words)})
        shelf = self.shelf(*(Ours(f"P{n}", w) for n, w in enumerate(words)), often=counts)
        self.assertEqual(self.found(shelf, description=" ".join(words)), [])
        self.assertEqual([p for p, _, _ in self.found(shelf, description=words[-1])], [f"P{RAREST_WORDS}"])

    def test_at_most_ten_by_words(self) -> None:
        shelf = self.shelf(*(Ours(f"L{n:02}", "Lens moulded") for n in range(15)))
        self.assertEqual([p for p, _, _ in self.found(shelf, description="moulded lens")], [f"L{n:02}" for n in range(MOST)])

    def test_what_was_read_before_is_not_read_again(self) -> None:
        part = Ours("R", "nothing", said=describe("Resistor 1k"))
        self.assertEqual(self.found(self.shelf(part), description="Resistor 1k"), [("R", "by values", False)])
        self.assertEqual(describe("Resistor 1k").fields["resistance"], Said(Decimal(1000), 9, 11))
