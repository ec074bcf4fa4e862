"""The basis of a figure, as it stands in an address."""

import re
from datetime import date
from decimal import Decimal, InvalidOperation

from django.utils.timezone import localdate
from ninja import Schema
from tally_core.basics.errors import Problem, ProblemsError
from tally_core.cost.answers import Basis

from loading.laid_over import read_what_if

__all__ = ["BasisIn", "read_basis"]


class BasisIn(Schema):
    """``quantity`` empty means standard lots; ``day`` empty means today; ``options`` are codes with commas.

    ``prices``: inputs (empty), standards, level or round:KEY. ``what_if``: table,key,field,value; with semicolons between.
    """

    quantity: str = ""
    day: str = ""
    options: str = ""
    drafts: bool = False
    prices: str = ""
    what_if: str = ""


def read_basis(given: BasisIn) -> Basis:
    """A basis from an address. Raises ProblemsError naming the field."""
    problems = []
    quantity, day = None, localdate()
    if given.quantity.strip():
        try:
            quantity = Decimal(given.quantity.strip())
        except InvalidOperation:
            quantity = Decimal(0)
        if not quantity.is_finite() or not 0 < quantity < Decimal("1e12"):
            problems.append(Problem("quantity", f"a job is for a quantity above 0, not {given.quantity[:40]}"))
    if given.day.strip():
        try:
            day = date.fromisoformat(given.day.strip())
        except ValueError:
            problems.append(Problem("day", f"a day like 2026-01-31 is needed, not {given.day[:40]}"))
    prices = given.prices or "inputs"
    if not re.fullmatch(r"inputs|standards|level|round:\d{1,15}", prices):
        problems.append(Problem("prices", f"prices are inputs, standards, level or a round, not {prices[:40]}"))
    what_if: tuple = ()
    try:
        what_if = read_what_if(given.what_if)
    except ProblemsError as error:
        problems += error.problems
    if problems:
        raise ProblemsError(problems)
    options = tuple(dict.fromkeys(code for code in given.options.split(",") if code))
    return Basis(day, quantity, options, given.drafts, prices, what_if)
