"""What a layout says of the components of a list: their packages, sides, and whether they are fitted.

Names of packages by IPC-7351 and common practice; case sizes by the published series of chip sizes (``pairing.values``).
"""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from tally_core.pairing.values import case_size

from .line import InquiryLine, in_short

__all__ = ["Place", "case_of_package", "is_later_layout", "layout_words", "relaid", "stays"]


@dataclass(frozen=True, slots=True)
class Place:
    """Where a layout has a component, and what of it the list can be held against."""

    package: str = ""
    side: str = ""
    fitted: bool = True
    x_mm: Decimal = Decimal(0)
    y_mm: Decimal = Decimal(0)
    rotation: Decimal = Decimal(0)


_PACKAGE_SIZE = re.compile(r"(?<!\d)(?P<code>0\d{3,4}|[1-6]\d{3})(?P<metric>\s?_?-?(?:M(?:ETRIC)?)\b)?(?!\d)", re.IGNORECASE)


def case_of_package(package: str) -> str:
    """The chip size that a package's name states, in its imperial code; empty where it states none.

    >>> case_of_package("R0603"), case_of_package("CAPC1608X90N"), case_of_package("SOT-23"), case_of_package("RES_0603M")
    ('0603', '0603', '', '0201')
    """
    found = _PACKAGE_SIZE.search(package.split("X")[0] if package.upper().startswith(("CAPC", "RESC", "INDC")) else package)
    if not found:
        return ""
    # Names by IPC-7351 (RESC1608X55N) state the metric size.
    metric = bool(found["metric"]) or package.upper().startswith(("CAPC", "RESC", "INDC"))
    return case_size(found["code"], metric) or ""


def layout_words(line: InquiryLine, places: Mapping[str, Place]) -> str:
    """What the layout has at the places of a line, in words; empty where it has none of them."""
    found = [places[d.upper()] for d in line.designators if d.upper() in places]
    if not found:
        return ""
    packages = Counter(p.package for p in found if p.package)
    sides = sorted({p.side for p in found if p.side})
    fitted = sum(p.fitted for p in found)
    words = [f"{len(found)} of {len(line.designators)} places"]
    words += [", ".join(packages)] if packages else []
    words += [" and ".join(sides)] if sides else []
    words += [f"{len(found) - fitted} not fitted"] if fitted < len(found) else []
    return "; ".join(words)


#: Nearer than this, in millimetres, a component stands where it stood: files round differently.
_HERE = Decimal("0.02")


def stays(before: Place, after: Place) -> bool:
    """Whether a component stands where it stood, however it is turned."""
    return abs(before.x_mm - after.x_mm) < _HERE and abs(before.y_mm - after.y_mm) < _HERE


def is_later_layout(before: Mapping[str, Place], after: Mapping[str, Place]) -> bool:
    """Whether a layout is a later one of the same board: more than half of the earlier's components stand in it where they stood, in the
    package in which they stood.

    Args:
        before, after: by designator, in capital letters.
    """
    same = sum(stays(was, after[d]) and was.package == after[d].package for d, was in before.items() if d in after)
    return same * 2 > len(before)


def relaid(before: Mapping[str, Place], after: Mapping[str, Place]) -> list[str]:
    """What is another in a later layout, in words, each kind of change once; arguments as for :func:`is_later_layout`."""
    both = [d for d in before if d in after]
    kinds = {
        "new": [d for d in after if d not in before],
        "gone": [d for d in before if d not in after],
        "moved": [d for d in both if not stays(before[d], after[d])],
        "turned": [d for d in both if (before[d].rotation - after[d].rotation) % 360 != 0],
        "on another side": [d for d in both if before[d].side != after[d].side],
        "now fitted": [d for d in both if after[d].fitted and not before[d].fitted],
        "no longer fitted": [d for d in both if before[d].fitted and not after[d].fitted],
    }
    words = [f"{kind}: {in_short(some)}" for kind, some in kinds.items() if some]
    changed: dict[tuple[str, str], list[str]] = {}
    for d in both:
        if before[d].package != after[d].package:
            changed.setdefault((before[d].package, after[d].package), []).append(d)
    return words + [
        f"package {new or 'not said'} instead of {old or 'none said'}: {in_short(some)}" for (old, new), some in changed.items()
    ]
