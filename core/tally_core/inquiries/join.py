"""What several lists say together: whose lines stand beneath what, whatever order the lists come in."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from .line import InquiryLine

__all__ = ["Joined", "join", "own_top"]


@dataclass(slots=True)
class Joined:
    """Lists joined by the numbers of what they are for.

    Attributes:
        sheets: thing → keys of the lines beneath it, in the order of their rows.
        parents: key of a line → the thing it stands beneath; a top has none.
        again: key of a line → key of the line where the same thing's list stands first; it counts once.
        tops: things that stand beneath nothing, in the order of their words.
        problems: (key, words) of lines whose lists contradict one another.
    """

    sheets: dict[str, list[int]] = field(default_factory=dict)
    parents: dict[int, str] = field(default_factory=dict)
    again: dict[int, int] = field(default_factory=dict)
    tops: list[str] = field(default_factory=list)
    problems: list[tuple[int, str]] = field(default_factory=list)


def own_top(lines: Sequence[InquiryLine]) -> InquiryLine | None:
    """The row that a list is for, where it stands in the list itself: its one row of the lowest level, first, with others beneath it."""
    placed = [x for x in lines if x.row > 0]
    if any(x.parent for x in placed):
        numbers = {x.parent.casefold() for x in placed if x.parent}
        roots = [x for x in placed if not x.parent and x.part.casefold() in numbers]
        return roots[0] if len(roots) == 1 else None
    levels = [x.level for x in placed if x.level is not None]
    if not levels or placed[0].level != min(levels) or len(levels) < 2:
        return None
    return placed[0] if levels.count(min(levels)) == 1 else None


def _beneath(lines: Sequence[InquiryLine]) -> list[tuple[InquiryLine, InquiryLine | str | None]]:
    """The lines of one list, each with what it stands beneath: a line, a number that stands on no line of the list, or nothing."""
    top = next((x for x in lines if x.row == 0), None) or own_top(lines)
    by_number = {x.part.casefold(): x for x in reversed(lines) if x.part}
    found: list[tuple[InquiryLine, InquiryLine | str | None]] = []
    above: list[InquiryLine] = []
    for line in lines:
        if line is top:
            found.append((line, None))
            above = [line] if line.row else []
        elif line.parent:
            found.append((line, by_number.get(line.parent.casefold(), line.parent)))
        elif line.level is None:
            found.append((line, top))
        else:
            while above and (above[-1].level or 0) >= line.level:
                above.pop()
            found.append((line, above[-1] if above else top))
            above.append(line)
    return found


def join(lines: Iterable[InquiryLine]) -> Joined:
    """Join lists by part number (the order in which they are given makes no difference).

    A thing whose list stands twice with the same lines has one list; with others, that is a problem of the second.
    """
    lists: dict[str, list[InquiryLine]] = defaultdict(list)
    for line in lines:
        lists[line.source].append(line)
    joined = Joined()
    runs: dict[str, list[list[InquiryLine]]] = defaultdict(list)
    things: dict[str, str] = {}
    for name in sorted(lists):
        own = sorted(lists[name], key=lambda x: x.row)
        # A sub-assembly that is named again begins a new list of what it takes.
        begun: dict[int | str, list[InquiryLine]] = {}
        for line, over in _beneath(own):
            things.setdefault(line.thing, line.name)
            if over is None:
                continue
            thing = over.thing if isinstance(over, InquiryLine) else InquiryLine(0, part=over).thing
            things.setdefault(thing, over.name if isinstance(over, InquiryLine) else over)
            joined.parents[line.key] = thing
            key = over.key if isinstance(over, InquiryLine) else thing
            if key not in begun:
                begun[key] = []
                runs[thing].append(begun[key])
            begun[key].append(line)
    for thing in sorted(runs):
        first, *others = runs[thing]
        joined.sheets[thing] = [x.key for x in first]
        for other in others:
            if _says(other) != _says(first):
                there = first[0].called or "another list"
                where = f"row {first[0].row}" + (f" of {there}" if first[0].source != other[0].source else "")
                joined.problems.append((other[0].key, f"{things[thing]} has other lines at {where}; one part has one list"))
            for line in other:
                joined.again[line.key] = first[0].key
    beneath = {x.thing for own in lists.values() for x in own if x.key in joined.parents}
    joined.tops = sorted(set(joined.sheets) - beneath)
    return joined


def _says(lines: Sequence[InquiryLine]) -> list[tuple[str, str, str]]:
    return sorted((x.thing, "" if x.quantity is None else f"{x.quantity.normalize():f}", x.unit or "ea") for x in lines)
