"""Which layouts show one board, and which board the components beneath each thing stand on.

Common practice: a designator is a name within one board; of an apparatus with two boards both have their R1.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .join import Joined
from .layout import Place, stays
from .line import InquiryLine

__all__ = ["Board", "Boards", "find_boards"]


@dataclass(slots=True)
class Board:
    """One board, by the layouts that show it.

    Attributes:
        layouts: which of the layouts given, the first first.
        places: designator in capital letters → where it stands; where two layouts say the same, as the last has it.
    """

    layouts: list[int]
    places: dict[str, Place]


@dataclass(slots=True)
class Boards:
    """Boards, and what stands on them.

    Attributes:
        boards: in the order of their first layouts.
        of_thing: thing with components → which of the boards they stand on, -1 for none of them. A thing of which it cannot be said
            does not stand there: it is named like another one, whose board it is.
    """

    boards: list[Board]
    of_thing: dict[str, int]
    _joined: Joined

    def board_of(self, line: InquiryLine) -> int | None:
        """Which board a line's components stand on; None where it cannot be said."""
        return self.of_thing.get(self._joined.parents.get(line.key, ""))

    def places_of(self, line: InquiryLine) -> Mapping[str, Place] | None:
        """Where the board of a line has each designator; None where there is no layout for it."""
        at = self.board_of(line)
        return None if at is None else self.boards[at].places if at >= 0 else {}


def find_boards(lines: Sequence[InquiryLine], joined: Joined, layouts: Sequence[Mapping[str, Place]]) -> Boards:
    """Put layouts together that show one board, and find for each thing the board that has the most of its designators.

    Layouts show one board unless one has a component elsewhere than the other. Two things that name more than half of their places
    alike do not share a board: the one it fits better has it.

    Args:
        lines: as mended.
        joined: what stands beneath what among them.
        layouts: each by designator in capital letters; empty where nothing says where components stand.
    """
    boards = _boards(layouts)
    named = _named(lines, joined)
    pairs = [
        (len(own & board.places.keys()) / len(own | board.places.keys()), at, thing)
        for thing, own in named.items()
        for at, board in enumerate(boards)
        if own & board.places.keys()
    ]
    # Of two that fit alike the later layout is meant.
    pairs.sort(key=lambda p: (-p[0], -p[1], p[2]))
    shared = {thing for _, _, thing in pairs}
    of_thing = {thing: -1 for thing in named if boards and thing not in shared}
    taken: list[set[str]] = [set() for _ in boards]
    for _, at, thing in pairs:
        here = named[thing] & boards[at].places.keys()
        if thing not in of_thing and 2 * len(here & taken[at]) <= len(here):
            of_thing[thing] = at
            taken[at] |= here
    return Boards(boards, of_thing, joined)


def _boards(layouts: Sequence[Mapping[str, Place]]) -> list[Board]:
    boards: list[Board] = []
    for at, places in enumerate(layouts):
        for board in boards:
            if all(stays(there, places[d]) for d, there in board.places.items() if d in places):
                board.layouts.append(at)
                board.places.update(places)
                break
        else:
            boards.append(Board([at], dict(places)))
    return boards


def _named(lines: Sequence[InquiryLine], joined: Joined) -> dict[str, set[str]]:
    """Thing → the designators of the lines beneath it, in capital letters."""
    named: dict[str, set[str]] = {}
    for x in lines:
        if x.designators:
            named.setdefault(joined.parents.get(x.key, ""), set()).update(d.upper() for d in x.designators)
    return named
