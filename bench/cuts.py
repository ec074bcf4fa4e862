"""Cutting bars to the proven least, against first fit; boards against the bound by area, and against plain shelves."""

import random
import time
from decimal import Decimal as D

from bench.measure import report

__all__ = ["bars_to_the_proven_least", "boards_against_their_area"]


def bars_to_the_proven_least(pieces: int, lengths: int) -> bool:
    """So many pieces of so many lengths out of bars of six metres, a kerf of three millimetres."""
    from tally_core.cuts.bars import cut_bars
    from tally_core.cuts.stock import Piece, Stock

    r = random.Random(7)
    sizes = r.sample(range(200, 2600), lengths)
    wanted = [pieces // lengths] * lengths
    wanted[0] += pieces - sum(wanted)
    began = time.perf_counter()
    asked = [Piece(str(x), D(x), n) for x, n in zip(sizes, wanted, strict=True)]
    made = cut_bars([Stock("bar", D(6000), None, D(1))], asked, D(3))
    took = time.perf_counter() - began
    plain = _first_fit(sizes, wanted, 6000, 3)
    words = f"bars for {pieces:,} pieces of {lengths} lengths / first fit by decreasing length"
    more = f"{made.count} and {plain} bars, bound {made.bound:f}, {took:.1f} s"
    return report(words, made.count / plain, "proven, at most 1", made.proven and made.count <= plain, more)


def _first_fit(sizes: list[int], wanted: list[int], length: int, kerf: int) -> int:
    rooms: list[int] = []
    for size, n in sorted(zip(sizes, wanted, strict=True), reverse=True):
        for _ in range(n):
            at = next((i for i, room in enumerate(rooms) if room >= size + kerf), len(rooms))
            if at == len(rooms):
                rooms.append(length + kerf)
            rooms[at] -= size + kerf
    return len(rooms)


def boards_against_their_area(panels: int, sizes: int) -> bool:
    """So many panels of so many sizes, some with grain, out of boards of 2800 by 2070, a kerf of four millimetres."""
    from tally_core.cuts.boards import cut_boards
    from tally_core.cuts.stock import Panel, Stock

    r = random.Random(7)
    asked = [
        Panel(f"p{n}", D(r.randint(150, 1400)), D(r.randint(100, 700)), panels // sizes, r.choice(["none", "none", "length"]))
        for n in range(sizes)
    ]
    began = time.perf_counter()
    made = cut_boards([Stock("board", D(2800), D(2070), D(1))], asked, D(4))
    took = time.perf_counter() - began
    plain = _shelves(asked)
    words = f"boards for {panels} panels of {sizes} sizes / plain shelves"
    more = f"{made.count} and {plain} boards, bound by area {made.bound:f}, waste {made.waste_percent:.1f} %, {took:.1f} s"
    return report(
        words, made.count / plain, "at most 1, within one board of the bound", made.count <= made.bound + 1 and made.count <= plain, more
    )


def _shelves(asked) -> int:
    rooms: list[D] = []
    shelf, high = D(0), D(0)
    for panel in sorted(asked, key=lambda p: -p.width):
        for _ in range(panel.count):
            if shelf < panel.length + 4:
                high = panel.width + 4
                at = next((i for i, room in enumerate(rooms) if room >= high), len(rooms))
                if at == len(rooms):
                    rooms.append(D(2074))
                rooms[at] -= high
                shelf = D(2804)
            shelf -= panel.length + 4
    return len(rooms)
