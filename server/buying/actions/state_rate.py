"""State what a currency is worth from a day on."""

import re
from datetime import date
from decimal import Decimal

from definition.models.parts import Workspace
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

from buying.models import Rate
from buying.typed_number import typed_number

__all__ = ["state_rate"]


def state_rate(user, currency: str, day: str, rate: str, source: str = "by hand") -> Rate:
    """Keep the rate of a day, in the place of one stated for it before. Raises ProblemsError and Refused."""
    with writing(user, "buying"):
        problems = []
        code = currency.strip().upper()
        if not re.fullmatch(r"[A-Z]{3}", code):
            problems.append(Problem("currency", "a currency has three letters, such as USD"))
        elif code == Workspace.the().currency:
            problems.append(Problem("currency", f"{code} is our own currency"))
        number = typed_number(rate) or Decimal(0)
        if not Decimal("1e-6") <= number < Decimal("1e6"):
            problems.append(Problem("rate", "what one unit of it is worth in ours, more than 0"))
        try:
            since = date.fromisoformat(day)
        except ValueError:
            problems.append(Problem("day", "a day as year-month-day"))
        if problems:
            raise ProblemsError(problems)
        row = Rate.objects.filter(currency=code, day=since).first() or Rate(currency=code, day=since)
        row.rate, row.source, row.stated_by = number, source, str(user)
        row._history_user = user
        row.save()
        return row
