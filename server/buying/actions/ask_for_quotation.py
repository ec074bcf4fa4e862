"""Ask suppliers to quote: a draft for each, looked at before it leaves; sent, reminded of, and answered."""

from datetime import date
from decimal import ROUND_CEILING, Decimal
from typing import Any

from definition.models.parts import MakerNumber
from django.core.mail import EmailMessage
from django.db import connection
from django.utils.timezone import now
from jobs.locks import BUYING
from partners.models import Partner
from tally_core.basics.errors import MissingError, Problem, ProblemsError, TallyError
from tally_core.lists.cells import Cell
from verbs.contract import held, writing

from buying.actions.take_offer_list import OfferList, take_answer_list
from buying.models import BuyPlan, PlanNeed, Request, RequestLine
from buying.needs import whole_units
from buying.requests import first_words, reminder_words, request_ubl, request_workbook
from buying.states import REQUEST_ACTIONS

__all__ = ["ask_for_quotation", "remind", "send_request", "take_answer"]

_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_MOST_SUPPLIERS = 30


def ask_for_quotation(user: Any, plan_id: int, parts: list[str], suppliers: list[str], wanted_by: str | None) -> list[Request]:
    """A draft to each of some suppliers, by code, for some needs of a plan. Raises ProblemsError, MissingError and Refused."""
    with writing(user, "buying"):
        plan = BuyPlan.objects.select_for_update(of=("self",)).filter(pk=plan_id).first()
        if plan is None:
            raise MissingError("This plan is no longer there.")
        problems: list[Problem] = []
        needs = list(plan.needs.select_related("part").filter(part__number__in=parts))
        if not needs or len(needs) != len(set(parts)):
            problems.append(Problem("parts", "choose needs of this plan"))
        partners = list(Partner.objects.filter(code__in=suppliers))
        if not partners or len(partners) != len(set(suppliers)) or len(partners) > _MOST_SUPPLIERS:
            problems.append(Problem("suppliers", f"choose 1 to {_MOST_SUPPLIERS} suppliers"))
        try:
            until = date.fromisoformat(wanted_by) if wanted_by else None
        except ValueError:
            problems.append(Problem("wanted_by", "a day as year-month-day"))
            until = None
        if problems:
            raise ProblemsError(problems)
        makers: dict[int, list[str]] = {}
        for number in MakerNumber.objects.filter(part__in=[n.part_id for n in needs]):
            makers.setdefault(number.part_id, []).append(f"{number.maker_id or ''} {number.number}".strip())
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, 3)", [BUYING])
        known = Request.objects.filter(number__regex=r"^RQ[0-9]{4,9}$").order_by("-id").values_list("number", flat=True)[:50]
        last = max((int(n[2:]) for n in known), default=1000)
        made = []
        for at, partner in enumerate(partners, 1):
            lines = [
                RequestLine(part=n.part, quantity=_told(n), unit=n.said["buying_unit"], makers=" or ".join(makers.get(n.part_id, ())))
                for n in needs
            ]
            request = Request(
                number=f"RQ{last + at:04d}",
                supplier=partner,
                plan=plan,
                wanted_by=until,
                made_by=str(user),
                mail_to=partner.mail,
                words=first_words(lines, until),
            )
            request._history_user = user
            request.save()
            for line in lines:
                line.request = request
            RequestLine.objects.bulk_create(lines)
            made.append(request)
        return made


def _told(need: PlanNeed) -> Decimal:
    """So much as is asked for: whole where the part is bought in whole units."""
    quantity = Decimal(need.said["quantity"])
    return quantity.to_integral_value(ROUND_CEILING) if whole_units(need.part) else quantity


def _held(request_id: int, version: int | None) -> Request:
    return held(Request.objects.filter(pk=request_id), version, "This request", "This request is no longer there.")


def _saved(request: Request, user: Any) -> Request:
    request.version += 1
    request._history_user = user
    request.save()
    return request


def _mail(request: Request, subject: str, words: str) -> None:
    """Raises TallyError where the mail could not leave; the caller's transaction is undone with it."""
    mail = EmailMessage(subject, words, to=[request.mail_to])
    mail.attach(f"{request.number}.xlsx", request_workbook(request), _XLSX)
    mail.attach(f"{request.number}.xml", request_ubl(request), "application/xml")
    try:
        mail.send()
    except OSError as error:
        raise TallyError(f"The mail could not leave ({error}); nothing was changed.") from None


def send_request(user: Any, request_id: int, version: int | None, words: str, mail_to: str) -> Request:
    """Send a draft, in the words that were looked at. Raises ProblemsError, TallyError, MissingError and Refused."""
    with writing(user, "buying"):
        request = _held(request_id, version)
        REQUEST_ACTIONS.require("send", request.state, request.number)
        problems = []
        if not words.strip() or len(words) > 20_000 or "\x00" in words:
            problems.append(Problem("words", "say what is asked, in at most 20,000 characters"))
        if "@" not in mail_to or len(mail_to) > 254 or not mail_to.isprintable() or any(c in mail_to for c in " ,;<>"):
            problems.append(Problem("mail_to", "one address of mail"))
        if problems:
            raise ProblemsError(problems)
        request.words, request.mail_to = words.strip(), mail_to
        request.state, request.sent_by, request.sent_at = "sent", str(user), now()
        _saved(request, user)
        _mail(request, f"Request for quotation {request.number}", request.words)
        return request


def remind(user: Any, request_id: int, version: int | None) -> Request:
    """Remind of a request that is not answered. Raises ProblemsError, TallyError, MissingError and Refused."""
    with writing(user, "buying"):
        request = _held(request_id, version)
        REQUEST_ACTIONS.require("remind", request.state, request.number)
        request.reminded_at, request.reminders = now(), request.reminders + 1
        _saved(request, user)
        _mail(request, f"Reminder: request for quotation {request.number}", reminder_words(request))
        return request


def take_answer(user: Any, request_id: int, rows: list[list[Cell]], anyway: bool) -> OfferList:
    """The workbook that came back: its rows become offers of the supplier. Rows without a price are passed over.

    Raises ProblemsError, MissingError and Refused.
    """
    with writing(user, "buying"):
        request = Request.objects.select_for_update(of=("self",)).select_related("supplier").filter(pk=request_id).first()
        if request is None or request.supplier is None:
            raise MissingError("This request is no longer there.")
        REQUEST_ACTIONS.require("answer", request.state, request.number)
        said = take_answer_list(user, request.supplier, rows, request.number, anyway)
        if said.kept:
            request.state, request.answered_at = "answered", now()
            _saved(request, user)
        return said
