"""Open an inquiry, or change what stands at its head."""

from datetime import date
from typing import Any
from uuid import UUID

from accounts.access import required_version
from django.contrib.auth.models import User
from django.db import connection
from jobs.locks import INQUIRIES
from partners.models import Partner
from partners.naming import partners_named
from tally_core.basics.errors import Problem, ProblemsError
from verbs.contract import asked_before, writing

from inquiries.lines import held_inquiry
from inquiries.models import STATES, Inquiry

__all__ = ["change_inquiry", "open_inquiry"]

_TEXTS = {"title": 200, "their_reference": 100, "note": 5000}


def open_inquiry(user, fields: dict[str, Any], key: UUID | None = None) -> Inquiry:
    """Open one. ``fields``: title, customer (a name, made where nobody knows it), their_reference, wanted_by, held_by, note. ``key``: see
    :func:`asked_before`.

    Raises ProblemsError and Refused.
    """
    with writing(user, "inquiries"):
        inquiry = Inquiry(opened_by=str(user), held_by=str(user), asked_as=key)
        _lay_on(inquiry, {"title": ""} | fields, user)
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 0)", [INQUIRIES])
        if before := asked_before(Inquiry.objects.all(), key):
            return before
        inquiry.number = _next_number()
        inquiry._history_user = user
        inquiry.save()
        return inquiry


def _next_number() -> str:
    last = Inquiry.objects.filter(number__regex=r"^I[0-9]{4,9}$").order_by("-id").values_list("number", flat=True)
    return f"I{max((int(n[1:]) for n in last[:20]), default=1000) + 1:04d}"


def change_inquiry(user, inquiry_id: int, version: int | None, fields: dict[str, Any]) -> Inquiry:
    """Change what stands at the head, from the version that somebody saw. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "inquiries"):
        inquiry = held_inquiry(inquiry_id)
        if required_version(version) != inquiry.version:
            raise ProblemsError([Problem("", f"{inquiry.number} was changed by somebody else meanwhile; look at it again")])
        _lay_on(inquiry, fields, user)
        inquiry.version += 1
        inquiry._history_user = user
        inquiry.save()
        return inquiry


def _lay_on(inquiry: Inquiry, fields: dict[str, Any], user: Any) -> None:
    problems = []
    for name, most in _TEXTS.items():
        if name in fields:
            text = " ".join(str(fields[name]).split()) if name != "note" else str(fields[name]).strip()
            if len(text) > most or "\x00" in text:
                problems.append(Problem(name, f"at most {most} characters"))
            elif name == "title" and not text:
                problems.append(Problem(name, "say in a few words what is asked for"))
            else:
                setattr(inquiry, name, text)
    if "state" in fields:
        if fields["state"] not in STATES:
            problems.append(Problem("state", f"one of {', '.join(STATES)}"))
        else:
            inquiry.state = fields["state"]
    if "wanted_by" in fields:
        try:
            inquiry.wanted_by = date.fromisoformat(fields["wanted_by"]) if fields["wanted_by"] else None
        except ValueError:
            problems.append(Problem("wanted_by", "a day as year-month-day"))
    if "held_by" in fields:
        name = fields["held_by"] or ""
        if name and not User.objects.filter(username=name, is_active=True).exists():
            problems.append(Problem("held_by", f"{name[:40]} is nobody who signs in here"))
        else:
            inquiry.held_by = name
    customer = " ".join(str(fields.get("customer") or "").split())
    if len(customer) > 200 or "\x00" in customer:
        problems.append(Problem("customer", "at most 200 characters"))
    if problems:
        raise ProblemsError(problems)
    if "customer" in fields:
        named = partners_named([customer], "customer", user).get(customer)
        inquiry.customer = Partner.objects.get(name=named) if named else None
