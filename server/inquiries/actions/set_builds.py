"""Say how many of which product of an inquiry are wanted, and by when."""

from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any

from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import writing

from inquiries.lines import counting, held_inquiry
from inquiries.models import Build

__all__ = ["set_builds"]

_MOST = 50


def set_builds(user, inquiry_id: int, wanted: list[dict[str, Any]]) -> None:
    """Put builds in the place of those that stood there. ``wanted``: line, quantity, wanted_by.

    Raises ProblemsError placing each problem at its build (``[0].quantity``), and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        lines = set(counting(inquiry).filter(pk__in=[w["line"] for w in wanted]).values_list("pk", flat=True))
        problems, rows = [], []
        for at, w in enumerate(wanted):
            try:
                quantity = Decimal(str(w["quantity"]).strip().replace(",", "."))
            except InvalidOperation:
                quantity = Decimal(0)
            if not quantity.is_finite() or not 0 < quantity < 10**9:
                problems.append(Problem(f"[{at}].quantity", "how many are wanted, more than 0"))
            if w["line"] not in lines:
                problems.append(Problem(f"[{at}].line", "choose a product of this inquiry"))
            try:
                day = date.fromisoformat(w["wanted_by"]) if w.get("wanted_by") else None
            except ValueError:
                problems.append(Problem(f"[{at}].wanted_by", "a day as year-month-day"))
                continue
            rows.append(Build(inquiry=inquiry, line_id=w["line"], quantity=quantity, wanted_by=day))
        if len(wanted) > _MOST:
            problems.append(Problem("", f"at most {_MOST} builds"))
        if problems:
            raise ProblemsError(problems)
        Build.objects.filter(inquiry=inquiry).delete()
        Build.objects.bulk_create(rows)
