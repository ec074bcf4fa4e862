"""What can be wrong in how sheets and parts hang together: loops, what is not there, what does not fit, what is not in force."""

from collections import defaultdict
from collections.abc import Iterator
from datetime import date
from itertools import combinations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..basics.kinds import COMPONENT, LIFECYCLES, TAKES_SHEET
from ..basics.ordering import low_level_codes
from ..basics.units import FACTORS, SYMBOLS, dimension
from ..structure.effectivity import Candidate
from ..structure.loops import find_loop_in_force
from ..structure.tables import NO_END, NO_START
from .finding import LOOK, STOPS, Finding, at_line, at_sheet, counting_now, name_of, rule
from .survey import Survey

_EXACT_ENOUGH = 1e-9


@rule
def loop(s: Survey, day: int) -> Iterator[Finding]:
    """A part that contains itself on some day, through any sheet, alternates and drafts included."""
    uses = np.flatnonzero(s.counts & ~s.removes)
    parent, child = s.part[s.sheet[uses]], s.child[uses]
    count = len(s.numbers)
    if (low_level_codes(count, parent, child) >= 0).all():
        return
    _, label = connected_components(
        coo_array((np.ones(len(uses)), (parent, child)), shape=(count, count)).tocsr(), directed=True, connection="strong"
    )
    inside = label[parent] == label[child]
    for group in np.unique(label[parent[inside]]).tolist():
        lines = uses[inside & (label[parent] == group)]
        sheets = np.flatnonzero(label[s.part] == group)
        path = find_loop_in_force(
            s.numbers,
            [
                Candidate(
                    i,
                    int(s.part[i]),
                    s.alternate[i],
                    s.revision[i],
                    "released" if s.released[i] else "draft",
                    _day(s.first_day[i]),
                    _day(s.last_day[i]),
                )
                for i in sheets.tolist()
            ],
            [(int(s.sheet[x]), int(s.child[x]), _day(s.line_first_day[x]), _day(s.line_last_day[x])) for x in lines.tolist()],
        )
        if path is None:
            continue
        steps = {(s.numbers[s.part[s.sheet[x]]], s.numbers[s.child[x]]): x for x in lines.tolist()}
        yield at_line(
            s, "loop", STOPS, steps[path[0], path[1]], f"{path[0]} contains itself: {' → '.join(path)}", "take one of these lines away"
        )


def _day(ordinal: int) -> date | None:
    return None if ordinal in (NO_START, NO_END) else date.fromordinal(int(ordinal))


@rule
def unit(s: Survey, day: int) -> Iterator[Finding]:
    """A line in a unit that does not convert to its part's stock unit."""
    at = np.flatnonzero(s.counts)
    for line in at[np.isnan(FACTORS[s.line_unit[at], s.unit[s.child[at]]])].tolist():
        own, stock = SYMBOLS[s.line_unit[line]], SYMBOLS[s.unit[s.child[line]]]
        yield at_line(
            s,
            "unit",
            STOPS,
            line,
            f"{own} is {dimension(own)}, and {name_of(s, line)} is stocked in {stock}, {dimension(stock)}",
            f"state the quantity by {dimension(stock)[2:].strip()}",
        )


@rule
def no_sheet(s: Survey, day: int) -> Iterator[Finding]:
    """A made part or phantom that is taken, and has no sheet that says how it is built."""
    states = np.zeros(len(s.numbers), dtype=np.int8)  # 1: some draft; 2: released in force on the day
    np.maximum.at(states, s.part[~s.released], 1)
    np.maximum.at(states, s.part[s.released & (s.first_day <= day) & (day < s.last_day)], 2)
    at = np.flatnonzero(s.counts & counting_now(s, day) & (s.line_kind == COMPONENT))
    at = at[TAKES_SHEET[s.kind[s.child[at]]]]
    for line in at[states[s.child[at]] == 0].tolist():
        stops = bool(s.released[s.sheet[line]])
        yield at_line(
            s,
            "no-sheet",
            STOPS if stops else LOOK,
            line,
            f"{name_of(s, line)} is made, and no build sheet of it is in force",
            "start its sheet, or make it a bought part",
        )
    for line in at[(states[s.child[at]] == 1) & s.released[s.sheet[at]]].tolist():
        yield at_line(
            s,
            "no-sheet",
            STOPS,
            line,
            f"{name_of(s, line)} has only drafts, and stands on a released sheet",
            f"release the draft of {name_of(s, line)}",
        )


@rule
def lifecycle(s: Survey, day: int) -> Iterator[Finding]:
    """A part that is obsolete, at last buy, or still a draft, on a sheet that counts."""
    at = np.flatnonzero(s.counts & counting_now(s, day) & ~s.removes)
    state = s.lifecycle[s.child[at]]
    for word, severity, message, mend in (
        ("obsolete", STOPS, "is obsolete", "exchange it for another part"),
        ("last_buy", LOOK, "is at last buy", "find what will follow it, or buy for the rest of its life"),
        ("draft", LOOK, "is still a draft part", "complete it and make it active"),
    ):
        for line in at[state == LIFECYCLES.index(word)].tolist():
            yield at_line(s, "lifecycle", severity, line, f"{name_of(s, line)} {message}", mend)


@rule
def overlap(s: Survey, day: int) -> Iterator[Finding]:
    """Two released revisions of one alternate in force on the same day: each is named beside the one that lasts longest of those
    that came before it."""
    ways: dict[tuple[int, str], list[int]] = defaultdict(list)
    for row in np.flatnonzero(s.released).tolist():
        ways[int(s.part[row]), s.alternate[row]].append(row)
    for rows in ways.values():
        if len(rows) < 2:
            continue
        rows.sort(key=lambda row: int(s.first_day[row]))
        longest = rows[0]
        for row in rows[1:]:
            if s.last_day[longest] > s.first_day[row]:
                since = _day(s.first_day[row])
                yield at_sheet(
                    s,
                    "overlap",
                    STOPS,
                    row,
                    f"revisions {s.revision[longest]} and {s.revision[row]} are both in force from {since or 'the start'} on",
                    f"end revision {s.revision[longest]} on that day, or retire one of them",
                )
            if s.last_day[row] > s.last_day[longest]:
                longest = row


@rule
def option_removes(s: Survey, day: int) -> Iterator[Finding]:
    """Options that take away more than is there, alone or two together (rule U6)."""
    groups: dict[tuple[int, int, int, bool], list[int]] = defaultdict(list)
    removing = s.counts & s.removes & ~np.isnan(s.quantity)
    if not removing.any():
        return
    involved = np.isin(s.sheet, s.sheet[removing]) & s.counts & ~np.isnan(s.quantity)
    for line in np.flatnonzero(involved).tolist():
        groups[int(s.sheet[line]), int(s.child[line]), int(s.line_kind[line]), bool(s.per_lot[line])].append(line)
    for lines in groups.values():
        takers = [x for x in lines if s.removes[x]]
        if not takers:
            continue

        def amount(which: list[int]) -> float:
            factors = [FACTORS[s.line_unit[x], s.unit[s.child[x]]] for x in which]
            return float(sum(s.quantity[x] * f for x, f in zip(which, factors, strict=True)))

        def short(chosen: tuple[int, ...], lines: list[int] = lines, amount=amount) -> float:
            there = amount([x for x in lines if not s.removes[x] and (s.option[x] < 0 or s.option[x] in chosen)])
            taken = amount([x for x in lines if s.removes[x] and s.option[x] in chosen])
            return taken - there if taken > there * (1 + _EXACT_ENOUGH) + _EXACT_ENOUGH else 0.0

        options = sorted({int(s.option[x]) for x in takers})
        stock = SYMBOLS[s.unit[s.child[takers[0]]]]
        alone = set()
        for option in options:
            if short((option,)):
                alone.add(option)
                line = next(x for x in takers if s.option[x] == option)
                yield at_line(
                    s,
                    "option-removes",
                    STOPS,
                    line,
                    f"option {s.options[option]} removes {short((option,)):g} {stock} of {name_of(s, line)} more than is there",
                    "lower the quantity it removes, or add the line it is to remove",
                )
        for one, other in combinations(options, 2):
            names = s.options[one], s.options[other]
            excluded = names[1] in s.not_together.get(names[0], ()) or names[0] in s.not_together.get(names[1], ())
            if not excluded and not {one, other} & alone and short((one, other)):
                line = next(x for x in takers if s.option[x] == other)
                yield at_line(
                    s,
                    "option-removes",
                    LOOK,
                    line,
                    f"options {names[0]} and {names[1]} together remove more {name_of(s, line)} than is there",
                    "say that they cannot be chosen together",
                )


@rule
def never_in_force(s: Survey, day: int) -> Iterator[Finding]:
    """A line whose days do not meet those of its sheet."""
    first = np.maximum(s.line_first_day, s.first_day[s.sheet])
    last = np.minimum(s.line_last_day, s.last_day[s.sheet])
    for line in np.flatnonzero(s.counts & (first >= last)).tolist():
        yield at_line(
            s,
            "never-in-force",
            LOOK,
            line,
            f"{name_of(s, line)} is in force on no day of this sheet",
            "change its days, or take the line away",
        )


@rule
def lost_default(s: Survey, day: int) -> Iterator[Finding]:
    """A part whose default alternate has no sheet."""
    held = {(int(p), a) for p, a in zip(s.part.tolist(), s.alternate, strict=True)}
    for row, alternate in enumerate(s.default_alternate):
        if alternate is not None and (row, alternate) not in held:
            yield Finding(
                "lost-default",
                LOOK,
                row,
                -1,
                -1,
                f"{s.numbers[row]} is to be counted by alternate {alternate}, which has no sheet",
                "choose another default alternate",
            )
