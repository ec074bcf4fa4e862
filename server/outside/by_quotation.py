"""A supplier that takes a UBL 2.1 RequestForQuotation of many lines, and answers with a Quotation: ``POST quotations``."""

from datetime import date

from formats.ubl_parts import PartyOf
from formats.ubl_quoting import RequestedLine, UblRequest, parse_quotation, request_document
from pydantic import ValidationError
from tally_core.basics.errors import TallyError
from tally_core.pairing.numbers import fold

from outside.calling import Caller, CallFailed
from outside.offered import OfferedBreak, ServiceOffer

__all__ = ["AT_A_TIME", "ask"]

#: Numbers that one call asks for.
AT_A_TIME = 50


def ask(caller: Caller, numbers: list[str]) -> dict[str, ServiceOffer]:
    """What is offered for some makers' numbers; those without an offer are left out. Raises CallFailed."""
    lines = [RequestedLine(number="", words=n, maker="", maker_number=n, quantity=None, unit="ea") for n in numbers]
    us, them = PartyOf("", "buyer"), PartyOf("", "supplier")
    document = request_document(UblRequest("1", date.today(), us, them, "", None, lines))
    said = caller.call("POST", "quotations", document, "application/xml")
    if said is None:
        raise CallFailed("the service answered 404")
    try:
        return _read(numbers, said)
    except (TallyError, ValidationError):
        raise CallFailed("the service answered something else than a quotation") from None


def _read(numbers: list[str], said: bytes) -> dict[str, ServiceOffer]:
    asked = {fold(n): n for n in numbers}
    found: dict[str, ServiceOffer] = {}
    for line in parse_quotation("the answer", said):
        number = asked.get(fold(line.maker_number))
        if number is None:
            raise CallFailed("the service answered for another number than it was asked for")
        step = OfferedBreak(start=line.least, price=line.price, per=line.per)
        held = found.get(number)
        if held is None:
            found[number] = ServiceOffer(
                maker=line.maker,
                maker_number=number,
                their_number=line.their_number,
                currency=line.currency,
                unit=line.unit,
                breaks=[step],
                minimum=line.least,
                multiple=line.pack,
                available=line.most,
                lead_days=line.lead_days or 0,
                valid_to=line.valid_to,
            )
        else:
            held.breaks.append(step)
            held.minimum = min(held.minimum, line.least)
    return found
