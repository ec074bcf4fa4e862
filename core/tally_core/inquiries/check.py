"""What is wrong with the lines of an inquiry, or worth a look: one short rule each; its name is the stable code of its findings.

The rules are common practice of estimating; case sizes by the published series of chip sizes (``pairing.values``).
"""

import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from tally_core.basics.errors import UnitError
from tally_core.basics.kinds import PART_KIND
from tally_core.basics.ordering import find_loop
from tally_core.basics.units import factor
from tally_core.checks.finding import LOOK, STOPS
from tally_core.pairing.compare import DIFFERS, compare
from tally_core.pairing.describe import describe

from .boards import Boards, find_boards
from .join import Joined, join
from .layout import Place, case_of_package
from .line import InquiryLine

__all__ = ["RULES", "Held", "Known", "LineFinding", "check_lines"]


@dataclass(frozen=True, slots=True)
class LineFinding:
    """One thing found on a line. ``field`` is what mends it where it is changed; empty where nothing typed does."""

    code: str
    severity: str
    key: int
    message: str
    mend: str
    field: str = ""


@dataclass(frozen=True, slots=True)
class Held:
    """A part of ours that a line is held for. ``told`` is on what texts of the line it was decided, empty where that is not known."""

    number: str
    texts: str = ""
    unit: str = "ea"
    kind: str = "bought"
    lifecycle: str = "active"
    road: str = ""
    told: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Known:
    """What a parts-data service says of a line's maker's number; ``found`` is whether it knows it at all."""

    found: bool = True
    lifecycle: str = ""
    case: str = ""
    replacement: str = ""


@dataclass(slots=True)
class Case:
    """What the rules look through: the lines as mended, how they join, what they are held for, what layouts and parts data say."""

    lines: Sequence[InquiryLine]
    joined: Joined
    held: Mapping[int, Held]
    boards: Boards
    known: Mapping[int, Known]

    def standing(self) -> Iterator[InquiryLine]:
        """Every line that counts: not the head of a list, and not what stands elsewhere already."""
        return (x for x in self.lines if x.row > 0 and x.key not in self.joined.again)

    def placed(self, line: InquiryLine) -> list[Place]:
        """Where the layout of its board has the components of a line."""
        there = self.boards.places_of(line) or {}
        return [there[d.upper()] for d in line.designators if d.upper() in there]

    def cases(self, line: InquiryLine) -> list[str]:
        """The chip sizes that its places state."""
        return sorted({c for p in self.placed(line) if (c := case_of_package(p.package))})


Rule = Callable[[Case], Iterator[LineFinding]]

#: Every rule by its code, in the order in which findings are listed.
RULES: dict[str, Rule] = {}


def _rule(function: Rule) -> Rule:
    RULES[function.__name__.strip("_").replace("_", "-")] = function
    return function


def check_lines(
    lines: Sequence[InquiryLine],
    held: Mapping[int, Held],
    layouts: Sequence[Mapping[str, Place]] = (),
    known: Mapping[int, Known] | None = None,
) -> list[LineFinding]:
    """Everything that is found on some lines, by the order of the rules.

    Args:
        held: key of a line → the part of ours it is held for.
        layouts: each by designator in capital letters (:func:`boards.find_boards`).
        known: key of a line → what is known of its maker's number; nothing stands there for one that was not asked.
    """
    joined = join(lines)
    case = Case(lines, joined, held, find_boards(lines, joined, layouts), known or {})
    return [found for rule in RULES.values() for found in rule(case)]


# -- what a row says by itself


@_rule
def no_quantity(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        if x.quantity is None and x.key in case.joined.parents and not x.not_fitted:
            yield LineFinding("no-quantity", STOPS, x.key, "no quantity is stated", "type the quantity, or ask for it", "quantity")


@_rule
def quantity_nothing(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        if x.quantity is not None and x.quantity < 0:
            yield LineFinding(
                "quantity-nothing", STOPS, x.key, f"quantity {x.quantity:f} is below nothing", "type what is meant", "quantity"
            )
        elif x.quantity == 0 and not x.not_fitted:
            yield LineFinding("quantity-nothing", LOOK, x.key, "quantity 0, and not said to be not fitted",
                              "mark it as not fitted, or type the quantity", "quantity")  # fmt: skip


@_rule
def no_number(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        if not x.part and not x.maker_number:
            yield LineFinding(
                "no-number", LOOK, x.key, "neither a number nor a maker's number", "pair it by what its words say, or ask", "part"
            )


@_rule
def designator_count(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        counted = x.quantity is not None and x.unit in ("", "ea") and not (x.not_fitted and x.quantity == 0)
        if x.designators and counted and x.quantity != len(set(x.designators)):
            yield LineFinding("designator-count", LOOK, x.key, f"quantity {x.quantity:f}, but {len(set(x.designators))} designators",
                              "correct the quantity or the designators, or ask which is meant", "quantity")  # fmt: skip


@_rule
def designator_twice(case: Case) -> Iterator[LineFinding]:
    """One designator on two lines of what one thing takes, or twice on one line."""
    first: dict[tuple[str, str], InquiryLine] = {}
    for x in case.standing():
        twice = sorted(d for d, n in Counter(x.designators).items() if n > 1)
        elsewhere: dict[int, list[str]] = defaultdict(list)
        for d in dict.fromkeys(x.designators):
            at = first.setdefault((case.joined.parents.get(x.key, ""), d.upper()), x)
            if at is not x:
                elsewhere[at.row].append(d)
        words = [f"{', '.join(twice[:5])} named twice"] if twice else []
        words += [f"{', '.join(d[:5])} {'stand' if len(d) > 1 else 'stands'} at row {row} too" for row, d in elsewhere.items()]
        if words:
            yield LineFinding("designator-twice", LOOK, x.key, "; ".join(words), "take it away from one of the two, or ask", "designators")


@_rule
def listed_twice(case: Case) -> Iterator[LineFinding]:
    """The same part twice beneath one thing: it may be meant, and is often a slip."""
    first: dict[tuple[str, str], InquiryLine] = {}
    for x in case.standing():
        key = (case.joined.parents.get(x.key, ""), case.held[x.key].number if x.key in case.held else x.thing)
        at = first.setdefault(key, x)
        if at is not x and not key[1].startswith("·"):
            yield LineFinding(
                "listed-twice", LOOK, x.key, f"the same part stands at row {at.row} too", "leave one of them out, or let both stand"
            )


# -- how lists join


@_rule
def two_lists(case: Case) -> Iterator[LineFinding]:
    for key, words in case.joined.problems:
        yield LineFinding("two-lists", STOPS, key, words, "make both say the same, or give one a number of its own")


@_rule
def loop(case: Case) -> Iterator[LineFinding]:
    things = {t: i for i, t in enumerate(dict.fromkeys((*(x.thing for x in case.lines), *case.joined.sheets)))}
    edges = [(x, things[case.joined.parents[x.key]], things[x.thing]) for x in case.lines if x.key in case.joined.parents]
    if not edges:
        return
    found = find_loop(len(things), np.array([e[1] for e in edges]), np.array([e[2] for e in edges]))
    if found is not None:
        names = {things[x.thing]: x.name for x in reversed(case.lines)}
        at = next(x for x, over, under in edges if (over, under) == (found[0], found[1]))
        path = " → ".join(names.get(i, "?") for i in found)
        yield LineFinding("loop", STOPS, at.key, f"it would contain itself: {path}", "correct the number or the level", "part")


# -- against the layout


@_rule
def case_size_of_layout(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        sizes = case.cases(x)
        said = describe(x.words).fields.get("case") if sizes else None
        if said is not None and sizes != [said.value]:
            yield LineFinding("case-size-of-layout", LOOK, x.key, f"the list says {said.value}, the layout has {', '.join(sizes)}",
                              "ask which holds, or correct the description", "description")  # fmt: skip


@_rule
def not_on_layout(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        there = case.boards.places_of(x)
        missing = [d for d in x.designators if d.upper() not in there] if there is not None else []
        if missing and not x.not_fitted:
            yield LineFinding("not-on-layout", LOOK, x.key, f"{', '.join(missing[:6])}{' …' if len(missing) > 6 else ''} on no layout",
                              "correct the designators, or ask", "designators")  # fmt: skip


@_rule
def fitted_on_layout(case: Case) -> Iterator[LineFinding]:
    for x in case.standing():
        places = case.placed(x)
        fitted = sum(p.fitted for p in places)
        if x.not_fitted and fitted:
            yield LineFinding("fitted-on-layout", LOOK, x.key, f"not fitted on the list, fitted at {fitted} places of the layout",
                              "ask which holds", "not_fitted")  # fmt: skip
        elif not x.not_fitted and places and fitted < len(places):
            yield LineFinding("fitted-on-layout", LOOK, x.key, f"fitted on the list, not fitted at {len(places) - fitted} places of the layout",
                              "ask which holds", "not_fitted")  # fmt: skip


# -- against what a line is held for


def _pairs(case: Case) -> Iterator[tuple[InquiryLine, Held]]:
    return ((x, case.held[x.key]) for x in case.lines if x.key in case.held)


@_rule
def case_size_of_part(case: Case) -> Iterator[LineFinding]:
    for x, ours in _pairs(case):
        sizes = case.cases(x)
        own = describe(ours.texts).fields.get("case")
        if own is not None and sizes and sizes != [own.value]:
            yield LineFinding("case-size-of-part", LOOK, x.key, f"{ours.number} is {own.value}, the layout has {', '.join(sizes)}",
                              "take a part of the size of the layout, or ask")  # fmt: skip


@_rule
def ended(case: Case) -> Iterator[LineFinding]:
    for x, ours in _pairs(case):
        if ours.lifecycle in ("last_buy", "obsolete"):
            words = "is at its last buy" if ours.lifecycle == "last_buy" else "has ended"
            yield LineFinding(
                "ended", LOOK, x.key, f"{ours.number} {words}", "hold the line for its successor, or let it stand with a reason"
            )


@_rule
def unit(case: Case) -> Iterator[LineFinding]:
    for x, ours in _pairs(case):
        if x.unit and x.unit != ours.unit and x.row > 0:
            try:
                factor(x.unit, ours.unit)
            except UnitError:
                yield LineFinding(
                    "unit",
                    STOPS,
                    x.key,
                    f"{x.unit} does not convert to {ours.unit} of {ours.number}",
                    "type the unit that is meant",
                    "unit",
                )


@_rule
def has_lines(case: Case) -> Iterator[LineFinding]:
    for x, ours in _pairs(case):
        if x.thing in case.joined.sheets and not PART_KIND[ours.kind].takes_sheet:
            yield LineFinding("has-lines", STOPS, x.key, f"{ours.number} is a {ours.kind} part, but lists have lines beneath it",
                              "hold it for a made part")  # fmt: skip


@_rule
def said_otherwise(case: Case) -> Iterator[LineFinding]:
    """A pair taken by what was agreed before, whose texts no longer say what they said then."""
    for x, ours in _pairs(case):
        told = ours.told.get("description", "")
        if ours.road == "remembered" and told and told != x.description:
            moved = [n for n, v in compare(describe(told), describe(x.description)).items() if v == DIFFERS]
            if moved:
                yield LineFinding("said-otherwise", LOOK, x.key, f"paired before when it said “{told}”; {', '.join(moved)} is another now",
                                  "look at the pair again")  # fmt: skip


# -- what is known of makers' numbers


def _known(case: Case) -> Iterator[tuple[InquiryLine, Known]]:
    return ((x, case.known[x.key]) for x in case.standing() if x.key in case.known)


@_rule
def number_unknown(case: Case) -> Iterator[LineFinding]:
    for x, known in _known(case):
        if not known.found:
            yield LineFinding(
                "number-unknown", LOOK, x.key, f"parts data do not know {x.maker_number}", "look at the number again, or ask",
                "maker_number",
            )  # fmt: skip


@_rule
def number_ended(case: Case) -> Iterator[LineFinding]:
    for x, known in _known(case):
        if known.lifecycle in ("ended", "last buy"):
            words = "has ended" if known.lifecycle == "ended" else "is at its last buy"
            after = f"; {known.replacement} takes its place" if known.replacement else ""
            yield LineFinding(
                "number-ended", LOOK, x.key, f"{x.maker_number} {words}{after}", "offer the successor, or ask", "maker_number"
            )  # fmt: skip


_ENDED = re.compile(r"\b(?:obsolete|discontinued|ended|eol|end of life|last (?:time )?buy|ltb|nrnd|not (?:recommended )?for new designs?|abgekündigt|obsolète|obsoleto)\b", re.IGNORECASE)  # fmt: skip


@_rule
def said_ended(case: Case) -> Iterator[LineFinding]:
    """What the list itself says of a lifecycle, in the words that makers use (common practice)."""
    for x in case.standing():
        if _ENDED.search(x.lifecycle):
            yield LineFinding(
                "said-ended", LOOK, x.key, f"the list says of it: {x.lifecycle[:60]}", "offer a successor, or ask", "lifecycle"
            )  # fmt: skip


@_rule
def case_size_of_number(case: Case) -> Iterator[LineFinding]:
    for x, known in _known(case):
        size = case_of_package(known.case)
        said = describe(x.words).fields.get("case")
        other = sorted({*case.cases(x)} | ({str(said.value)} if said else set()))
        if size and other and size not in other:
            yield LineFinding(
                "case-size-of-number", LOOK, x.key, f"{x.maker_number} is {size}, list and layout have {', '.join(other)}",
                "ask which holds", "maker_number",
            )  # fmt: skip
