"""Requests for quotation as they are shown, as the mail that goes out, and as the workbook to be filled in."""

from datetime import date
from typing import Any

from definition.firm import signed
from definition.models.parts import Workspace
from definition.records import plain_decimal
from django.utils.timezone import localdate
from formats.flat import Column, list_workbook
from formats.ubl_parts import PartyOf
from formats.ubl_quoting import RequestedLine, UblRequest, request_document
from partners.models import Partner

from buying.models import Request, RequestLine
from buying.states import REQUEST_ACTIONS

__all__ = ["first_words", "ourselves", "reminder_words", "request_row", "request_ubl", "request_workbook"]

#: The titles are those by which an answer is read back (``actions.take_offer_list``).
_TITLES = (
    "Part",
    "Description",
    "Wanted",
    "Unit",
    "Makers' numbers",
    "Article",
    "MPN",
    "From",
    "Price",
    "Per",
    "Currency",
    "Pack",
    "MOQ",
    "Stock",
    "Lead days",
    "Valid to",
)


def first_words(lines: list[RequestLine], wanted_by: date | None) -> str:
    """The mail as it is proposed."""
    rows = [
        f"- {plain_decimal(line.quantity)} {line.unit} of {line.part.number}, {line.part.description}"
        + (f" ({line.makers})" if line.makers else "")
        for line in lines
    ]
    until = f" by {wanted_by:%d %B %Y}" if wanted_by else ""
    words = "\n".join(
        [
            "Please quote for the following:",
            "",
            *rows,
            "",
            f"The workbook attached has a row for each; fill in what you offer and send it back{until}.",
            "Several prices of one part stand in rows of their own, each with the quantity from which it holds.",
        ]
    )
    return signed(words)


def ourselves(person: str) -> PartyOf:
    """Who we are in a document of ours; the person who sent it while nobody said it."""
    workspace = Workspace.the()
    return PartyOf("", workspace.firm or person, workspace.firm_mail)


def reminder_words(request: Request) -> str:
    """The mail that reminds."""
    asked = f" of {request.sent_at.date():%d %B %Y}" if request.sent_at else ""
    until = f"We had hoped for it by {request.wanted_by:%d %B %Y}." if request.wanted_by else ""
    return f"Our request {request.number}{asked} is still open. {until}\n\n{request.words}"


def request_workbook(request: Request) -> bytes:
    """A row for each part, with room for what is offered."""
    rows: list[list[Any]] = [
        [line.part.number, line.part.description, float(line.quantity), line.unit, line.makers, *[None] * 11]
        for line in request.lines.select_related("part")
    ]
    return list_workbook(
        request.number, [Column(t, number=t in ("Wanted", "From", "Price", "Per", "Pack", "MOQ", "Stock")) for t in _TITLES], rows
    )


def request_ubl(request: Request) -> bytes:
    """The request as a UBL 2.1 document; where several makers' numbers may be offered, they stand in the words of the line."""
    supplier = Partner.objects.get(name=request.supplier_id)
    lines = []
    for line in request.lines.select_related("part").prefetch_related("part__maker_numbers"):
        numbers = list(line.part.maker_numbers.all())
        one = numbers[0] if len(numbers) == 1 else None
        words = line.part.description + (f" ({line.makers})" if len(numbers) > 1 else "")
        lines.append(
            RequestedLine(line.part.number, words, one.maker_id or "" if one else "", one.number if one else "", line.quantity, line.unit)
        )
    return request_document(
        UblRequest(
            request.number,
            localdate(request.sent_at or request.made_at),
            ourselves(request.sent_by or request.made_by),
            PartyOf(supplier.code, supplier.name, supplier.mail),
            "",
            request.wanted_by,
            lines,
        )
    )


def request_row(request: Request) -> dict[str, Any]:
    """A request with its parts. ``late``: days since an answer was wanted, 0 while there is time or it came."""
    late = (localdate() - request.wanted_by).days if request.wanted_by and request.state == "sent" else 0
    return {
        "id": request.pk,
        "number": request.number,
        "supplier": request.supplier_id or "",
        "plan": request.plan_id,
        "state": request.state,
        "wanted_by": request.wanted_by.isoformat() if request.wanted_by else None,
        "words": request.words,
        "mail_to": request.mail_to,
        "made_by": request.made_by,
        "sent_by": request.sent_by,
        "sent_at": request.sent_at.isoformat() if request.sent_at else None,
        "reminders": request.reminders,
        "reminded_at": request.reminded_at.isoformat() if request.reminded_at else None,
        "answered_at": request.answered_at.isoformat() if request.answered_at else None,
        "late": max(late, 0),
        "version": request.version,
        "why_not": REQUEST_ACTIONS.answers(request.state, request.number),
        "lines": [
            {
                "part": line.part.number,
                "description": line.part.description,
                "quantity": plain_decimal(line.quantity) or "0",
                "unit": line.unit,
            }
            for line in request.lines.all()
        ],
    }
