"""What can be wrong in a structure: one short rule per thing, over all sheets at once.

A rule looks through a :class:`~tally_core.checks.survey.Survey` with whole columns and makes words only for what it finds. Its
name is the stable code of its findings.
"""

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from itertools import combinations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..basics.kinds import COMPONENT, HAS_PRICE, LIFECYCLES, MADE, PHANTOM, TAKES_SHEET
from ..basics.ordering import low_level_codes
from ..basics.units import FACTORS, SYMBOLS, dimension, is_count
from ..structure.effectivity import Candidate
from ..structure.loops import find_loop_in_force
from ..structure.tables import NO_END, NO_START
from .survey import Survey

__all__ = ["RULES", "Finding", "check"]

STOPS, LOOK = "stops", "look"
_EXACT_ENOUGH = 1e-9


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found. ``part``, ``sheet`` and ``line`` are rows of the survey, -1 where it has none."""

    code: str
    severity: str  # stops: cannot go on; look: may be waived with a reason
    part: int
    sheet: int
    line: int
    message: str
    mend: str


Rule = Callable[[Survey, int], Iterator[Finding]]
#: Every rule by its code, in the order in which findings are listed.
RULES: dict[str, Rule] = {}


def _rule(function: Rule) -> Rule:
    RULES[function.__name__.replace("_", "-")] = function
    return function


def check(survey: Survey, day: date) -> list[Finding]:
    """All findings of a survey, as of a day."""
    return [found for rule in RULES.values() for found in rule(survey, day.toordinal())]


def _at_line(s: Survey, code: str, severity: str, line: int, message: str, mend: str) -> Finding:
    sheet = int(s.sheet[line])
    return Finding(code, severity, int(s.part[sheet]), sheet, int(line), message, mend)


def _at_sheet(s: Survey, code: str, severity: str, sheet: int, message: str, mend: str) -> Finding:
    return Finding(code, severity, int(s.part[sheet]), int(sheet), -1, message, mend)


def _name(s: Survey, line: int) -> str:
    return s.numbers[s.child[line]]


def _now(s: Survey, day: int) -> np.ndarray:
    """Bool over lines: on a draft, or on a released sheet on a day when both are in force."""
    sheet_now = ~s.released | ((s.first_day <= day) & (day < s.last_day))
    return sheet_now[s.sheet] & (s.line_first_day <= day) & (day < s.line_last_day)


@_rule
def loop(s: Survey, day: int) -> Iterator[Finding]:
    """A part that contains itself on some day, through any sheet, alternates and drafts included."""
    uses = np.flatnonzero(s.counts & ~s.removes)
    parent, child = s.part[s.sheet[uses]], s.child[uses]
    count = len(s.numbers)
    if (low_level_codes(count, parent, child) >= 0).all():
        return
    _, label = connected_components(coo_array((np.ones(len(uses)), (parent, child)), shape=(count, count)).tocsr(),
                                    directed=True, connection="strong")  # fmt: skip
    inside = label[parent] == label[child]
    for group in np.unique(label[parent[inside]]).tolist():
        lines = uses[inside & (label[parent] == group)]
        sheets = np.flatnonzero(label[s.part] == group)
        path = find_loop_in_force(
            s.numbers,
            [
                Candidate(
                    i, int(s.part[i]), s.alternate[i], s.revision[i], "released" if s.released[i] else "draft",
                    _day(s.first_day[i]), _day(s.last_day[i]),
                )
                for i in sheets.tolist()
            ],
            [
                (int(s.sheet[x]), int(s.child[x]), _day(s.line_first_day[x]), _day(s.line_last_day[x]))
                for x in lines.tolist()
            ],
        )  # fmt: skip
        if path is None:
            continue
        steps = {(s.numbers[s.part[s.sheet[x]]], s.numbers[s.child[x]]): x for x in lines.tolist()}
        yield _at_line(
            s, "loop", STOPS, steps[path[0], path[1]], f"{path[0]} contains itself: {' → '.join(path)}",
            "take one of these lines away",
        )  # fmt: skip


def _day(ordinal: int) -> date | None:
    return None if ordinal in (NO_START, NO_END) else date.fromordinal(int(ordinal))


@_rule
def unit(s: Survey, day: int) -> Iterator[Finding]:
    """A line in a unit that does not convert to its part's stock unit."""
    at = np.flatnonzero(s.counts)
    for line in at[np.isnan(FACTORS[s.line_unit[at], s.unit[s.child[at]]])].tolist():
        own, stock = SYMBOLS[s.line_unit[line]], SYMBOLS[s.unit[s.child[line]]]
        yield _at_line(
            s, "unit", STOPS, line, f"{own} is {dimension(own)}, and {_name(s, line)} is stocked in {stock}, {dimension(stock)}",
            f"state the quantity by {dimension(stock)[2:].strip()}",
        )  # fmt: skip


@_rule
def no_sheet(s: Survey, day: int) -> Iterator[Finding]:
    """A made part or phantom that is taken, and has no sheet that says how it is built."""
    states = np.zeros(len(s.numbers), dtype=np.int8)  # 1: some draft; 2: released in force on the day
    np.maximum.at(states, s.part[~s.released], 1)
    np.maximum.at(states, s.part[s.released & (s.first_day <= day) & (day < s.last_day)], 2)
    at = np.flatnonzero(s.counts & _now(s, day) & (s.line_kind == COMPONENT))
    at = at[TAKES_SHEET[s.kind[s.child[at]]]]
    for line in at[states[s.child[at]] == 0].tolist():
        stops = bool(s.released[s.sheet[line]])
        yield _at_line(
            s, "no-sheet", STOPS if stops else LOOK, line, f"{_name(s, line)} is made, and no build sheet of it is in force",
            "start its sheet, or make it a bought part",
        )  # fmt: skip
    for line in at[(states[s.child[at]] == 1) & s.released[s.sheet[at]]].tolist():
        yield _at_line(
            s, "no-sheet", STOPS, line, f"{_name(s, line)} has only drafts, and stands on a released sheet",
            f"release the draft of {_name(s, line)}",
        )  # fmt: skip


@_rule
def lifecycle(s: Survey, day: int) -> Iterator[Finding]:
    """A part that is obsolete, at last buy, or still a draft, on a sheet that counts."""
    at = np.flatnonzero(s.counts & _now(s, day) & ~s.removes)
    state = s.lifecycle[s.child[at]]
    for word, severity, message, mend in (
        ("obsolete", STOPS, "is obsolete", "exchange it for another part"),
        ("last_buy", LOOK, "is at last buy", "find what will follow it, or buy for the rest of its life"),
        ("draft", LOOK, "is still a draft part", "complete it and make it active"),
    ):
        for line in at[state == LIFECYCLES.index(word)].tolist():
            yield _at_line(s, "lifecycle", severity, line, f"{_name(s, line)} {message}", mend)


@_rule
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
                yield _at_sheet(
                    s, "overlap", STOPS, row,
                    f"revisions {s.revision[longest]} and {s.revision[row]} are both in force from {since or 'the start'} on",
                    f"end revision {s.revision[longest]} on that day, or retire one of them",
                )  # fmt: skip
            if s.last_day[row] > s.last_day[longest]:
                longest = row


@_rule
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
                yield _at_line(
                    s, "option-removes", STOPS, line,
                    f"option {s.options[option]} removes {short((option,)):g} {stock} of {_name(s, line)} more than is there",
                    "lower the quantity it removes, or add the line it is to remove",
                )  # fmt: skip
        for one, other in combinations(options, 2):
            names = s.options[one], s.options[other]
            excluded = names[1] in s.not_together.get(names[0], ()) or names[0] in s.not_together.get(names[1], ())
            if not excluded and not {one, other} & alone and short((one, other)):
                line = next(x for x in takers if s.option[x] == other)
                yield _at_line(
                    s, "option-removes", LOOK, line,
                    f"options {names[0]} and {names[1]} together remove more {_name(s, line)} than is there",
                    "say that they cannot be chosen together",
                )  # fmt: skip


@_rule
def phantom_work(s: Survey, day: int) -> Iterator[Finding]:
    """A phantom with operations, quantities per lot or fixed losses (rule U8)."""
    phantom = s.kind[s.part] == PHANTOM
    for sheet in np.flatnonzero(phantom & (s.operations > 0)).tolist():
        yield _at_sheet(s, "phantom-work", STOPS, sheet, f"{s.numbers[s.part[sheet]]} is a phantom, and its sheet has operations",
                        "take the operations away, or make it a made part")  # fmt: skip
    for line in np.flatnonzero(phantom[s.sheet] & s.counts & (s.per_lot | (s.fixed_loss != 0))).tolist():
        yield _at_line(s, "phantom-work", STOPS, line, f"{_name(s, line)} is counted per lot, and a phantom has no lots",
                       "count it per unit, without a fixed loss")  # fmt: skip


@_rule
def wrong_kind(s: Survey, day: int) -> Iterator[Finding]:
    """A sheet of a part that is bought or a charge."""
    for sheet in np.flatnonzero(HAS_PRICE[s.kind[s.part]]).tolist():
        yield _at_sheet(s, "wrong-kind", STOPS, sheet, f"{s.numbers[s.part[sheet]]} is not made, and has a build sheet",
                        "make it a made part, or retire the sheet")  # fmt: skip


@_rule
def no_cost(s: Survey, day: int) -> Iterator[Finding]:
    """A bought part or charge without a cost, where it would cost something."""
    lacking = HAS_PRICE[s.kind] & ~s.costed
    at = np.flatnonzero(s.counts & _now(s, day) & ~s.customer_supplied & ~s.removes)
    for line in at[lacking[s.child[at]]].tolist():
        yield _at_line(s, "no-cost", LOOK, line, f"{_name(s, line)} has no unit cost", "state one on the part")


@_rule
def no_routing(s: Survey, day: int) -> Iterator[Finding]:
    """A made part's sheet without operations: it costs no work."""
    for sheet in np.flatnonzero((s.kind[s.part] == MADE) & (s.operations == 0)).tolist():
        yield _at_sheet(s, "no-routing", LOOK, sheet, "the sheet has no operations, so it costs no work",
                        "add the operations that make it")  # fmt: skip


@_rule
def no_lines(s: Survey, day: int) -> Iterator[Finding]:
    """A sheet that takes nothing."""
    filled = np.bincount(s.sheet[s.counts], minlength=len(s.part)) > 0
    for sheet in np.flatnonzero(~filled).tolist():
        yield _at_sheet(s, "no-lines", LOOK, sheet, "the sheet takes no component", "add its lines")


@_rule
def designators(s: Survey, day: int) -> Iterator[Finding]:
    """Reference designators that do not agree with the quantity, or stand twice on a sheet (common practice)."""
    seen: dict[tuple[int, str], int] = {}
    for line in sorted(s.designators):
        names = s.designators[line]
        quantity = s.quantity[line]
        countable = not np.isnan(quantity) and is_count(SYMBOLS[s.line_unit[line]])
        if countable and quantity * FACTORS[s.line_unit[line], 0] != len(names):
            yield _at_line(s, "designators", LOOK, line, f"quantity {quantity:g}, but {len(names)} reference designators",
                           "correct the quantity or the designators")  # fmt: skip
        for place, name in enumerate(names):
            first = seen.setdefault((int(s.sheet[line]), name), line)
            if first == line and names.index(name) == place:
                continue
            exchanged = s.option[line] != s.option[first] or s.removes[line] != s.removes[first]
            if not exchanged and not s.not_fitted[line] and not s.not_fitted[first]:
                yield _at_line(s, "designators", LOOK, line, f"{name} stands at item {s.item[first]} too",
                               "name each place once")  # fmt: skip


@_rule
def item_twice(s: Survey, day: int) -> Iterator[Finding]:
    """Two lines of a sheet with the same item number, neither of an option nor bounded by days."""
    at = np.flatnonzero((s.item > 0) & (s.option < 0) & (s.line_first_day == NO_START) & (s.line_last_day == NO_END))
    key = s.sheet[at].astype(np.int64) << 32 | s.item[at]
    order = np.argsort(key, kind="stable")
    key, at = key[order], at[order]
    for line in at[1:][key[1:] == key[:-1]].tolist():
        yield _at_line(s, "item-twice", LOOK, line, f"item {s.item[line]} stands twice on this sheet",
                       "give one of them another number")  # fmt: skip


@_rule
def no_quantity(s: Survey, day: int) -> Iterator[Finding]:
    """A line that takes a quantity of nought."""
    for line in np.flatnonzero(s.counts & (s.quantity == 0)).tolist():
        yield _at_line(s, "no-quantity", LOOK, line, f"{_name(s, line)} stands here with a quantity of 0",
                       "state a quantity, clear it for as-needed, or take the line away")  # fmt: skip


@_rule
def never_in_force(s: Survey, day: int) -> Iterator[Finding]:
    """A line whose days do not meet those of its sheet."""
    first = np.maximum(s.line_first_day, s.first_day[s.sheet])
    last = np.minimum(s.line_last_day, s.last_day[s.sheet])
    for line in np.flatnonzero(s.counts & (first >= last)).tolist():
        yield _at_line(s, "never-in-force", LOOK, line, f"{_name(s, line)} is in force on no day of this sheet",
                       "change its days, or take the line away")  # fmt: skip


@_rule
def lost_default(s: Survey, day: int) -> Iterator[Finding]:
    """A part whose default alternate has no sheet."""
    held = {(int(p), a) for p, a in zip(s.part.tolist(), s.alternate, strict=True)}
    for row, alternate in enumerate(s.default_alternate):
        if alternate is not None and (row, alternate) not in held:
            yield Finding("lost-default", LOOK, row, -1, -1, f"{s.numbers[row]} is to be counted by alternate {alternate}, "
                          "which has no sheet", "choose another default alternate")  # fmt: skip
