"""What a layout says of the components of a list: their packages, sides, and whether they are fitted.

Names of packages by IPC-7351 and common practice; case sizes by the published series of chip sizes (``pairing.values``).
"""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from tally_core.pairing.values import case_size

from .line import InquiryLine

__all__ = ["Place", "case_of_package", "layout_words"]


@dataclass(frozen=True, slots=True)
class Place:
    """Where a layout has a component, and what of it the list can be held against."""

    package: str = ""
    side: str = ""
    fitted: bool = True


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
