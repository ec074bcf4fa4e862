"""Say on which terms a supplier sells."""

from decimal import Decimal
from typing import Any

from outside.services import supplier_services
from partners.models import Partner
from tally_core.basics.errors import MissingError, Problem, ProblemsError
from verbs.contract import writing

from buying.models import Terms
from buying.typed_number import typed_number

__all__ = ["save_terms"]


def save_terms(user, code: str, version: int | None, given: dict[str, Any]) -> Terms:
    """Keep the terms of the supplier of a code; texts as they were typed, makers as names. What is left out stays.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        partner = Partner.objects.select_for_update().filter(code=code).first()
        if partner is None:
            raise MissingError(f"Partner {code} is not known.")
        terms = Terms.objects.filter(partner=partner).first() or Terms(partner=partner, version=0)
        if (version or 0) != terms.version:
            raise ProblemsError([Problem("", f"the terms of {partner.name} were changed by somebody else meanwhile; look at them again")])
        problems: list[Problem] = []
        for field in ("freight", "minimum_order", "small_order_charge"):
            if field in given:
                empty = None if field == "small_order_charge" else Decimal(0)
                setattr(terms, field, _money(field, given[field], empty, problems))
        if "transit_days" in given:
            days = str(given["transit_days"] or "0").strip()
            if days.isdecimal() and int(days) <= 1000:
                terms.transit_days = int(days)
            else:
                problems.append(Problem("transit_days", "whole days, at most 1,000"))
        for field in ("payment", "delivery"):
            if field in given:
                text = " ".join(str(given[field] or "").split())
                if len(text) > 200 or not text.isprintable():
                    problems.append(Problem(field, "at most 200 characters that can be printed"))
                setattr(terms, field, text)
        if "service" in given:
            terms.service = str(given["service"] or "")
            if terms.service and terms.service not in supplier_services():
                problems.append(Problem("service", "there is no such service here"))
        for field in ("only_makers", "not_makers"):
            if field in given:
                names = [" ".join(str(n).split()) for n in given[field] or []]
                if len(names) > 200 or any(len(n) > 200 or not n.isprintable() for n in names):
                    problems.append(Problem(field, "at most 200 names of 200 characters"))
                setattr(terms, field, [n for n in dict.fromkeys(names) if n])
        if problems:
            raise ProblemsError(problems)
        terms.version += 1
        terms._history_user = user
        terms.save()
        return terms


def _money(field: str, text: Any, empty: Decimal | None, problems: list[Problem]) -> Decimal | None:
    plain = str(text if text is not None else "").strip()
    if not plain:
        return empty
    number = typed_number(plain)
    if number is None or not 0 <= number < Decimal("1e9"):
        problems.append(Problem(field, f"an amount of money from 0, not {plain[:30]!r}"))
        return empty
    return number
