"""The few words that a field may take, and what they mean: kinds of parts and lines, states, bases of a run time.

In columns a word stands as its place here. The order is part of no stored format: what is kept holds the words themselves.
"""

from dataclasses import dataclass

import numpy as np

__all__ = [
    "BEARS_OVERHEAD", "BOUGHT", "BYPRODUCT", "CHARGE", "COMPONENT", "FIELD_KINDS", "GIVES_BACK", "HAS_PRICE", "IS_ITSELF", "LIFECYCLES",
    "GIVEN_AS", "IN_PROPORTION", "LINE_KIND", "LINE_KINDS", "LISTS", "MADE", "NAMES_PART", "PART_KIND", "PART_KINDS", "PER_CYCLE", "PER_LOT", "PER_UNIT",
    "PHANTOM", "ROLL_UPS", "RUN_BASES", "STATUSES", "TAKES_SHEET", "TEXT", "LineKind", "PartKind",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class PartKind:
    """What a kind of part is.

    Attributes:
        word: for people.
        takes_sheet: it is put together by a build sheet.
        priced_as: it costs what is paid for it, and the element that goes to (rule C1); empty for what is put together.
        bears_overhead: overhead on material is added to what is paid.
        itself: it is a thing of its own, with stock, lots, routings and a cost; a phantom is not (rule S4).
        stocked: it lies on a shelf.
    """

    word: str
    takes_sheet: bool = False
    priced_as: str = ""
    bears_overhead: bool = False
    itself: bool = True
    stocked: bool = True


PART_KIND = {
    "made": PartKind("made", takes_sheet=True),
    "bought": PartKind("bought", priced_as="material", bears_overhead=True),
    "phantom": PartKind("phantom", takes_sheet=True, itself=False, stocked=False),
    "charge": PartKind("charge", priced_as="other", stocked=False),
}
PART_KINDS = tuple(PART_KIND)
MADE, BOUGHT, PHANTOM, CHARGE = map(PART_KINDS.index, ("made", "bought", "phantom", "charge"))


@dataclass(frozen=True, slots=True)
class LineKind:
    """What a kind of line is.

    Attributes:
        word: for people.
        names_part: it names a part, and counts.
        gives_back: what it names comes out of the lot and is credited (rule C4); it takes no losses.
    """

    word: str
    names_part: bool = True
    gives_back: bool = False


LINE_KIND = {
    "component": LineKind("component"),
    "byproduct": LineKind("by-product", gives_back=True),
    "text": LineKind("text", names_part=False),
}
LINE_KINDS = tuple(LINE_KIND)
COMPONENT, BYPRODUCT, TEXT = map(LINE_KINDS.index, ("component", "byproduct", "text"))

#: How a cost given by hand stands: as one element, or split as the roll-up that it takes the place of.
GIVEN_AS = ("one_element", "proportion")
IN_PROPORTION = 1
RUN_BASES = ("per_unit", "per_cycle", "per_lot")
PER_UNIT, PER_CYCLE, PER_LOT = range(3)
LIFECYCLES = ("draft", "active", "last_buy", "obsolete")
STATUSES = ("draft", "released", "retired")
#: The lists that a line can be kept off.
LISTS = ("lines", "parts", "top")
#: What a field of a class holds.
FIELD_KINDS = ("text", "number", "money", "date", "choice", "computed")
#: How a field of a class rolls up over a structure (rule C6); empty for one that does not.
ROLL_UPS = ("", "sum", "largest", "worst")

# Over the codes of part kinds.
TAKES_SHEET = np.array([kind.takes_sheet for kind in PART_KIND.values()])
HAS_PRICE = np.array([bool(kind.priced_as) for kind in PART_KIND.values()])
BEARS_OVERHEAD = np.array([kind.bears_overhead for kind in PART_KIND.values()])
IS_ITSELF = np.array([kind.itself for kind in PART_KIND.values()])
# Over the codes of line kinds.
NAMES_PART = np.array([kind.names_part for kind in LINE_KIND.values()])
GIVES_BACK = np.array([kind.gives_back for kind in LINE_KIND.values()])
