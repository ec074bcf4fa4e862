"""Bars and boards (rules K2 and K3): against published counts, everything tried out, and what must hold of any way of cutting.

The paper-mill example (a master of 5600, thirteen widths, 73 masters at least) is the common example of the cutting-stock problem in
textbooks and encyclopedias; its figures are from memory. That what is cut off a board edge to edge is a *guillotine* pattern, and first
fit by decreasing length as the plain rule to beat, are common practice.
"""

import json
import random
import unittest
from collections import Counter
from decimal import Decimal as D
from functools import cache
from typing import Any
from unittest.mock import patch

from tally_core.basics.errors import ProblemsError, TallyError
from tally_core.cuts import bars
from tally_core.cuts.bars import cut_bars
from tally_core.cuts.boards import cut_boards
from tally_core.cuts.cuts_file import cut, cutting_as_json, read_cuts
from tally_core.cuts.stock import Cutting, Panel, Piece, Placed, Stock

_WIDTHS = (1380, 1520, 1560, 1710, 1820, 1880, 1930, 2000, 2050, 2100, 2140, 2150, 2200)
_COUNTS = (22, 25, 12, 14, 18, 18, 20, 10, 12, 14, 16, 18, 20)


def said(document: dict[str, Any], seconds: float = 20.0) -> dict[str, Any]:
    asked = read_cuts(json.loads(json.dumps({"format": "round-tally-cuts", "version": 1} | document)))
    return cutting_as_json(asked, cut(asked, seconds))


class Bars(unittest.TestCase):
    def check(self, stock: list[Stock], pieces: list[Piece], kerf: D, made: Cutting) -> None:
        """Every piece once, none over another or beyond its bar, no more bars than there are."""
        cut_out: Counter[str] = Counter()
        for used in made.used:
            end = -kerf
            for p in used.placed:
                self.assertGreaterEqual(p.x, end + kerf)
                end = p.x + p.along
                cut_out[p.name] += used.count
            self.assertLessEqual(end, stock[used.stock].length)
        self.assertEqual(cut_out, Counter({p.name: p.count for p in pieces if p.count}))
        for at, s in enumerate(stock):
            if s.available is not None:
                self.assertLessEqual(sum(u.count for u in made.used if u.stock == at), s.available)
        self.assertEqual(made.cost, sum((stock[u.stock].cost * u.count for u in made.used), D(0)))
        self.assertLessEqual(made.bound, made.cost)
        self.assertEqual(made.proven, made.bound == made.cost)

    def test_the_paper_mill(self) -> None:
        pieces = [{"name": str(w), "length_mm": str(w), "count": n} for w, n in zip(_WIDTHS, _COUNTS, strict=True)]
        answer = said({"kerf_mm": "0", "bars": [{"stock": "master", "length_mm": "5600"}], "pieces": pieces})
        self.assertEqual((answer["count"], answer["bound"], answer["proven"], answer["cost"]), (73, "73", True, None))
        # 407,160 of 73 × 5600 = 408,800 is paper.
        self.assertEqual(answer["waste_percent"], "0.401174")

    def test_against_everything_tried_out(self) -> None:
        """Up to nine pieces out of up to two kinds of bars, with kerf, costs and an end to what there is."""
        proven = short = 0
        for seed in range(150):
            r = random.Random(seed)
            kerf = D(r.choice(["0", "3", "2.5"]))
            stock = [
                Stock(
                    f"s{n}",
                    D(r.choice([1000, 1500, 2400])),
                    None,
                    D(r.choice([1, 2, 3])) if seed % 2 else D(1),
                    r.choice([None, None, 1, 3]),
                )
                for n in range(r.randint(1, 2))
            ]
            lengths = r.sample(range(180, 1000, 10), 4)
            pieces = [Piece(f"p{n}", D(length), r.randint(0, 3)) for n, length in enumerate(lengths)]
            least = self.tried(stock, pieces, kerf)
            try:
                made = cut_bars(stock, pieces, kerf, 20.0)
            except TallyError:
                self.assertIsNone(least, seed)
                short += 1
                continue
            self.check(stock, pieces, kerf, made)
            self.assertEqual(made.cost, least, seed)
            proven += made.proven
        self.assertGreater(proven, 110)
        self.assertGreater(short, 5)

    @staticmethod
    def tried(stock: list[Stock], pieces: list[Piece], kerf: D) -> D | None:
        """The least cost by trying every way; None where the bars do not suffice."""
        lengths = tuple(p.length for p in pieces)

        def fillings(left: tuple[int, ...], room: D, at: int = 0) -> list[tuple[int, ...]]:
            if at == len(left):
                return [()]
            found = []
            for n in range(left[at] + 1):
                taken = n * (lengths[at] + kerf)
                if taken <= room:
                    found += [(n, *rest) for rest in fillings(left, room - taken, at + 1)]
            return found

        @cache
        def least(left: tuple[int, ...], there: tuple[int | None, ...]) -> D | None:
            if not any(left):
                return D(0)
            best: D | None = None
            for s, bar in enumerate(stock):
                if there[s] == 0:
                    continue
                rest = tuple(n if i != s or n is None else n - 1 for i, n in enumerate(there))
                for filling in fillings(left, bar.length + kerf):
                    if any(filling):
                        more = least(tuple(a - b for a, b in zip(left, filling, strict=True)), rest)
                        if more is not None and (best is None or more + bar.cost < best):
                            best = more + bar.cost
            return best

        return least(tuple(p.count for p in pieces), tuple(s.available for s in stock))

    def test_many_pieces_are_proven_and_no_worse_than_first_fit(self) -> None:
        r = random.Random(4)
        pieces = [Piece(f"p{n}", D(length), r.randint(1, 30)) for n, length in enumerate(r.sample(range(150, 2600), 30))]
        stock, kerf = [Stock("bar", D(6000), None, D(1))], D(3)
        made = cut_bars(stock, pieces, kerf, 30.0)
        self.check(stock, pieces, kerf, made)
        self.assertTrue(made.proven)
        self.assertLessEqual(made.count, self.first_fit(pieces, D(6000), kerf))

    @staticmethod
    def first_fit(pieces: list[Piece], length: D, kerf: D) -> int:
        rooms: list[D] = []
        for piece in sorted(pieces, key=lambda p: -p.length):
            for _ in range(piece.count):
                at = next((i for i, room in enumerate(rooms) if room >= piece.length + kerf), None)
                if at is None:
                    rooms.append(length + kerf)
                    at = len(rooms) - 1
                rooms[at] -= piece.length + kerf
        return len(rooms)

    def test_a_kerf_is_lost_per_cut(self) -> None:
        """Two halves of a bar fit when nothing is lost, four quarters when three cuts are, and no more."""
        bar = [Stock("bar", D(1000), None, D(1))]
        for length, count, kerf, wanted in (
            ("500", 2, "0", 1),
            ("500", 2, "0.001", 2),
            ("247.75", 4, "3", 1),
            ("247.76", 4, "3", 2),
            ("998", 1, "5", 1),
        ):
            made = cut_bars(bar, [Piece("p", D(length), count)], D(kerf))
            self.assertEqual((made.count, made.proven), (wanted, True), (length, kerf))

    def test_same_lengths_by_several_names(self) -> None:
        stock, pieces = ([Stock("bar", D(1000), None, D(1))], [Piece("a", D(300), 4), Piece("b", D(300), 3), Piece("c", D(300), 2)])
        made = cut_bars(stock, pieces, D(0))
        self.check(stock, pieces, D(0), made)
        self.assertEqual(made.count, 3)

    def test_long_bars_and_fine_sizes_are_searched_without_a_table(self) -> None:
        stock, kerf = [Stock("bar", D("12000.001"), None, D(1))], D("2.003")
        pieces = [Piece(f"p{n}", D(f"{731 + 213 * n}.{n}57"), 7) for n in range(8)]
        made = cut_bars(stock, pieces, kerf)
        self.check(stock, pieces, kerf, made)
        self.assertTrue(made.proven)

    def test_where_a_search_is_cut_short_only_what_is_sure_is_claimed(self) -> None:
        stock, pieces = ([Stock("bar", D("12000.001"), None, D(1))], [Piece(f"p{n}", D(f"{731 + 213 * n}.{n}57"), 7) for n in range(8)])
        whole = cut_bars(stock, pieces, D("2.003"))
        with patch.object(bars, "_MOST_STEPS", 3):
            made = cut_bars(stock, pieces, D("2.003"), 5.0)
        self.check(stock, pieces, D("2.003"), made)
        # All pieces with a kerf each take 82,818.96 mm, which is 6.90 bars with a kerf.
        self.assertEqual((made.bound, made.count >= whole.count >= made.bound), (7, True))

    def test_what_is_left_of_a_bar_is_without_the_last_cut_and_never_less_than_nothing(self) -> None:
        """A bar of 1,000: a piece of 400 and a kerf of 4 leave 596; a piece of 998 leaves nothing, the saw runs out of the bar."""
        for length, left in (("400", "596"), ("998", "0"), ("996", "0"), ("995.5", "0.5")):
            document = {
                "kerf_mm": "4",
                "bars": [{"stock": "bar", "length_mm": "1000"}],
                "pieces": [{"name": "p", "length_mm": length, "count": 1}],
            }
            self.assertEqual(said(document)["used"][0]["patterns"][0]["left_mm"], left, length)

    def test_a_size_has_at_most_six_decimals(self) -> None:
        document = {"kerf_mm": "0", "bars": [{"stock": "bar", "length_mm": "1000"}], "pieces": [{"name": "p", "length_mm": "10.0000001", "count": 1}]}  # fmt: skip
        with self.assertRaises(ProblemsError) as wrong:
            said(document)
        self.assertEqual([p.message for p in wrong.exception.problems], ["at most six decimals"])

    def test_the_cheaper_of_two_lengths(self) -> None:
        """A long bar for 5, a short one for 3: four pieces of 900 take two short ones, since a long one holds only three."""
        document = {"kerf_mm": "0", "bars": [{"stock": "long", "length_mm": "3000", "cost": "5"}, {"stock": "short", "length_mm": "2000", "cost": "3"}],
                    "pieces": [{"name": "rail", "length_mm": "900", "count": 4}]}  # fmt: skip
        answer = said(document)
        self.assertEqual(
            (answer["used"][0]["stock"], answer["count"], answer["cost"], answer["bound"]), ("short", 2, "6.000000", "6.000000")
        )
        self.assertEqual([p["x_mm"] for p in answer["used"][0]["patterns"][0]["pieces"]], ["0", "900"])
        self.assertEqual(answer["used"][0]["patterns"][0]["left_mm"], "200")
        document["bars"][1]["available"] = 1  # type: ignore[index]
        self.assertEqual(said(document)["cost"], "8.000000")


def guillotine(placed: list[Placed], x: D, y: D, right: D, top: D, kerf: D) -> bool:
    """Whether some cuts from edge to edge, each a kerf wide, take all pieces of a rectangle apart. Written apart from what lays them."""
    if len(placed) <= 1:
        return all(x <= p.x and p.x + p.along <= right and y <= p.y and p.y + p.across <= top for p in placed)
    for along in (True, False):
        ends = sorted({p.x + p.along if along else p.y + p.across for p in placed})
        for at in ends[:-1]:
            before = [p for p in placed if (p.x + p.along if along else p.y + p.across) <= at]
            behind = [p for p in placed if (p.x if along else p.y) >= at + kerf]
            if len(before) + len(behind) == len(placed) and before and behind:
                first = (x, y, at, top) if along else (x, y, right, at)
                second = (at + kerf, y, right, top) if along else (x, at + kerf, right, top)
                return guillotine(before, *first, kerf) and guillotine(behind, *second, kerf)
    return False


class Boards(unittest.TestCase):
    def check(self, stock: list[Stock], panels: list[Panel], kerf: D, made: Cutting) -> None:
        """Every panel once, in its grain, none over another; taken apart by cuts from edge to edge."""
        of = {p.name: p for p in panels}
        cut_out: Counter[str] = Counter()
        for used in made.used:
            board = stock[used.stock]
            assert board.width is not None
            for p in used.placed:
                panel = of[p.name]
                cut_out[p.name] += used.count
                sizes = (panel.width, panel.length) if p.turned else (panel.length, panel.width)
                self.assertEqual((p.along, p.across), sizes)
                self.assertIn((panel.grain, p.turned), {("none", False), ("none", True), ("length", False), ("width", True)})
            self.assertTrue(guillotine(list(used.placed), D(0), D(0), board.length, board.width, kerf))
        self.assertEqual(cut_out, Counter({p.name: p.count for p in panels if p.count}))
        for at, s in enumerate(stock):
            if s.available is not None:
                self.assertLessEqual(sum(u.count for u in made.used if u.stock == at), s.available)
        self.assertLessEqual(made.bound, made.cost)

    def test_generated(self) -> None:
        for seed in range(25):
            r = random.Random(seed)
            kerf = D(r.choice(["0", "4", "3.2"]))
            stock = [Stock("board", D(2800), D(2070), D(r.choice([1, 7])), None)]
            if seed % 3 == 0:
                stock.append(Stock("rest", D(1200), D(800), D("0.5"), 2))
            panels = [
                Panel(f"p{n}", D(r.randint(100, 1900)), D(r.randint(60, 700)), r.randint(0, 5), r.choice(["none", "length", "width"]))
                for n in range(r.randint(1, 9))
            ]
            made = cut_boards(stock, panels, kerf, 4.0)
            self.check(stock, panels, kerf, made)

    def test_the_check_itself_refuses(self) -> None:
        """Four panels around a hole (a pinwheel) cannot be taken apart from edge to edge; nor can two that overlap or leave no kerf."""
        wheel = [Placed("a", D(0), D(0), D(60), D(30)), Placed("b", D(60), D(0), D(30), D(60)), Placed("c", D(30), D(60), D(60), D(30)), Placed("d", D(0), D(30), D(30), D(60))]  # fmt: skip
        self.assertFalse(guillotine(wheel, D(0), D(0), D(90), D(90), D(0)))
        two = [Placed("a", D(0), D(0), D(50), D(50)), Placed("b", D(50), D(0), D(50), D(50))]
        self.assertTrue(guillotine(two, D(0), D(0), D(100), D(50), D(0)))
        self.assertFalse(guillotine(two, D(0), D(0), D(100), D(50), D(1)))

    def test_worked_out_by_hand(self) -> None:
        for panels, kerf, boards in (
            # A board of 1000 × 500 is two of 500 × 500, when nothing is lost.
            ([Panel("half", D(500), D(500), 2)], "0", 1),
            ([Panel("half", D(500), D(500), 2)], "1", 2),
            # Turned, 500 × 1000 fits; with its grain along its own length it does not turn.
            ([Panel("turn", D(500), D(1000), 1)], "0", 1),
            ([Panel("grain", D(500), D(1000), 1, "width")], "0", 1),
            ([Panel("ten", D(200), D(250), 10)], "0", 1),
            ([Panel("strip", D(1000), D(100), 5, "length")], "0", 1),
            ([Panel("strip", D(1000), D(99), 5, "length")], "1", 1),
            ([Panel("strip", D(1000), D(100), 5, "length")], "1", 2),
        ):
            stock = [Stock("board", D(1000), D(500), D(1))]
            made = cut_boards(stock, panels, D(kerf))
            self.check(stock, panels, D(kerf), made)
            self.assertEqual(made.count, boards, (panels, kerf))
        with self.assertRaisesRegex(TallyError, r"grain \(500 × 1000 mm, grain length\) fits on no board"):
            cut_boards([Stock("board", D(1000), D(500), D(1))], [Panel("grain", D(500), D(1000), 1, "length")], D(0))

    def test_against_the_bound_and_against_plain_shelves(self) -> None:
        r = random.Random(2)
        panels = [Panel(f"p{n}", D(r.randint(150, 1400)), D(r.randint(100, 700)), 6, r.choice(["none", "length"])) for n in range(16)]
        stock, kerf = [Stock("board", D(2800), D(2070), D(1))], D(4)
        made = cut_boards(stock, panels, kerf, 10.0)
        self.check(stock, panels, kerf, made)
        self.assertLessEqual(made.count, self.shelves(panels, stock[0], kerf))
        self.assertLessEqual(made.count, made.bound + 1)

    @staticmethod
    def shelves(panels: list[Panel], board: Stock, kerf: D) -> int:
        """Panels as they are, the widest first, side by side on shelves; a shelf on the first board with room."""
        assert board.width is not None
        boards: list[D] = []
        shelf, high = D(0), D(0)
        for panel in sorted(panels, key=lambda p: -p.width):
            for _ in range(panel.count):
                if shelf < panel.length + kerf:
                    high = panel.width + kerf
                    at = next((i for i, room in enumerate(boards) if room >= high), None)
                    if at is None:
                        boards.append(board.width + kerf)
                        at = len(boards) - 1
                    boards[at] -= high
                    shelf = board.length + kerf
                shelf -= panel.length + kerf
        return len(boards)

    def test_boards_that_do_not_suffice(self) -> None:
        stock = [Stock("board", D(1000), D(500), D(1), 1)]
        with self.assertRaisesRegex(TallyError, "their area is too small"):
            cut_boards(stock, [Panel("half", D(500), D(500), 3)], D(0))
        with self.assertRaisesRegex(TallyError, "no way was found"):
            cut_boards(stock, [Panel("odd", D(600), D(300), 2)], D(0), 3.0)
        self.assertEqual(cut_boards(stock, [Panel("none", D(600), D(300), 0)], D(0)).count, 0)


class AsFiles(unittest.TestCase):
    def test_what_is_wrong_is_named(self) -> None:
        good = {"format": "round-tally-cuts", "version": 1, "kerf_mm": "3", "bars": [{"stock": "b", "length_mm": "6000", "cost": "1", "available": None}],
                "pieces": [{"name": "p", "length_mm": "700", "count": 2}]}  # fmt: skip
        read_cuts(good)
        for path, value, place in (
            (("kerf_mm",), "-1", "kerf_mm"), (("kerf_mm",), "wide", "kerf_mm"), (("format",), "other", "format"), (("version",), 2, "format"),
            (("bars", 0, "length_mm"), "0", "bars[0].length_mm"), (("bars", 0, "length_mm"), None, "bars[0].length_mm"),
            (("bars", 0, "cost"), "0", "bars[0].cost"), (("bars", 0, "available"), -1, "bars[0].available"), (("bars", 0, "stock"), "", "bars[0].stock"),
            (("pieces", 0, "count"), 1.5, "pieces[0].count"), (("pieces", 0, "count"), None, "pieces[0].count"), (("pieces", 0, "count"), "-2", "pieces[0].count"), (("pieces", 0, "name"), None, "pieces[0].name"),
            (("pieces", 0, "length_mm"), "1e99", "pieces[0].length_mm"), (("pieces", 0, "colour"), "red", "pieces[0].colour"), (("pieces", 0), 7, "pieces[0]"),
            (("bars",), [], "bars"), (("bars",), 3, "bars"), (("boards",), [], ""), (("more",), 1, "more"),
        ):  # fmt: skip
            document = json.loads(json.dumps(good))
            at: Any = document
            for step in path[:-1]:
                at = at[step]
            at[path[-1]] = value
            with self.assertRaises(ProblemsError, msg=(path, value)) as refused:
                read_cuts(document)
            self.assertIn(place, [p.place for p in refused.exception.problems], (path, value))
        twice = json.loads(json.dumps(good))
        twice["bars"].append({"stock": "c", "length_mm": "3000"})
        with self.assertRaisesRegex(ProblemsError, "either all of them have a cost, or none"):
            read_cuts(twice)
        alone = {n: v for n, v in good.items() if n != "bars"}
        with self.assertRaises(ProblemsError) as refused:
            read_cuts(alone)
        self.assertEqual([p.place for p in refused.exception.problems], ["bars"])
        for document in ([], "x", None, {}):
            with self.assertRaises(ProblemsError):
                read_cuts(document)

    def test_what_cannot_be_cut_is_said(self) -> None:
        long = {"kerf_mm": "0", "bars": [{"stock": "b", "length_mm": "600"}], "pieces": [{"name": "mast", "length_mm": "700", "count": 1}]}
        with self.assertRaisesRegex(TallyError, "mast is 700 mm long, and the longest bar is 600 mm"):
            said(long)
        long["bars"] = [{"stock": "b", "length_mm": "800", "available": 2}]
        long["pieces"][0]["count"] = 3  # type: ignore[index]
        with self.assertRaisesRegex(TallyError, "do not suffice"):
            said(long)
        long["pieces"][0]["count"] = 0  # type: ignore[index]
        self.assertEqual((said(long)["count"], said(long)["used"], said(long)["waste_percent"]), (0, [], "0.000000"))

    def test_a_board_as_it_is_printed(self) -> None:
        answer = said({"kerf_mm": "4", "boards": [{"stock": "ply", "length_mm": "2500", "width_mm": "1250", "cost": "38.5"}],
                       "panels": [{"name": "side", "length_mm": "800", "width_mm": "1200", "count": 2, "grain": "width"}]})  # fmt: skip
        (used,) = answer["used"]
        (pattern,) = used["patterns"]
        self.assertEqual((used["stock"], used["count"], answer["cost"], answer["bound"]), ("ply", 1, "38.500000", "1"))
        self.assertEqual({p["length_mm"] for p in pattern["panels"]}, {"1200"})
        self.assertTrue(all(p["turned"] for p in pattern["panels"]))
