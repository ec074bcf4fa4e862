"""What a rule finds, and the list of the rules.

A rule looks through a :class:`~tally_core.checks.survey.Survey` with whole columns and makes words only for what it finds. Its
name is the stable code of its findings.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from .survey import Survey

__all__ = ["LOOK", "RULES", "STOPS", "Finding", "at_line", "at_sheet", "counting_now", "name_of", "rule"]

STOPS, LOOK = "stops", "look"


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


def rule(function: Rule) -> Rule:
    RULES[function.__name__.replace("_", "-")] = function
    return function


def at_line(s: Survey, code: str, severity: str, line: int, message: str, mend: str) -> Finding:
    sheet = int(s.sheet[line])
    return Finding(code, severity, int(s.part[sheet]), sheet, int(line), message, mend)


def at_sheet(s: Survey, code: str, severity: str, sheet: int, message: str, mend: str) -> Finding:
    return Finding(code, severity, int(s.part[sheet]), int(sheet), -1, message, mend)


def name_of(s: Survey, line: int) -> str:
    return s.numbers[s.child[line]]


def counting_now(s: Survey, day: int) -> np.ndarray:
    """Bool over lines: on a draft, or on a released sheet on a day when both are in force."""
    sheet_now = ~s.released | ((s.first_day <= day) & (day < s.last_day))
    return sheet_now[s.sheet] & (s.line_first_day <= day) & (day < s.line_last_day)
