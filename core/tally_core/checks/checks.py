"""All that can be wrong in a structure, over all sheets at once."""

from datetime import date

# The rules enter the list by being there; findings are listed in this order.
from . import rules_of_content, rules_of_structure  # noqa: F401
from .finding import RULES, Finding
from .survey import Survey

__all__ = ["check"]


def check(survey: Survey, day: date) -> list[Finding]:
    """All findings of a survey, as of a day."""
    return [found for rule in RULES.values() for found in rule(survey, day.toordinal())]
