"""Requests for quotation and quotations as UBL 2.1 documents (OASIS Universal Business Language, ISO/IEC 19845)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from xml.etree import ElementTree as ET

from tally_core.basics.errors import TallyError
from tally_core.lists.cells import Cell

from formats.ubl_parts import CAC, UNIT_OF_CODE, PartyOf, document, group, item, party, text, unit_code, written

__all__ = ["QuotedLine", "RequestedLine", "UblRequest", "is_quotation", "parse_quotation", "quotation_rows", "request_document"]

_MOST_LINES = 20_000


@dataclass(frozen=True, slots=True)
class RequestedLine:
    """A part that is asked for; without a quantity, at whatever quantity it is offered."""

    number: str
    words: str
    maker: str
    maker_number: str
    quantity: Decimal | None
    unit: str


@dataclass(frozen=True, slots=True)
class UblRequest:
    """A request to a supplier; ``until``: by when an answer is wanted."""

    number: str
    day: date
    buyer: PartyOf
    seller: PartyOf
    note: str
    until: date | None
    lines: Sequence[RequestedLine]


@dataclass(frozen=True, slots=True)
class QuotedLine:
    """A price of a quotation: from ``least`` on, so much for each ``per``; what is not stated is None or empty."""

    number: str
    their_number: str
    maker: str
    maker_number: str
    least: Decimal
    most: Decimal | None
    unit: str
    price: Decimal
    per: Decimal
    currency: str
    pack: Decimal | None
    lead_days: int | None
    valid_to: date | None


def request_document(request: UblRequest) -> bytes:
    """The request as an XML document."""
    root = document("RequestForQuotation")
    text(root, "ID", request.number)
    text(root, "IssueDate", request.day.isoformat())
    if request.until:
        text(root, "SubmissionDueDate", request.until.isoformat())
    if request.note:
        text(root, "Note", request.note)
    text(root, "LineCountNumeric", str(len(request.lines)))
    party(root, "OriginatorCustomerParty", request.buyer)
    party(root, "SellerSupplierParty", request.seller)
    for at, line in enumerate(request.lines, 1):
        of = group(root, "RequestForQuotationLine")
        text(of, "ID", str(at))
        said = group(of, "LineItem")
        text(said, "ID", str(at))
        if line.quantity is not None:
            text(said, "Quantity", f"{line.quantity.normalize():f}", unitCode=unit_code(line.unit))
        item(said, line.number, line.words, "", line.maker, line.maker_number)
    return written(root)


def parse_quotation(name: str, content: bytes) -> list[QuotedLine]:
    """The prices of a quotation, in its order. Raises TallyError, in the user's words, for what is none."""
    if b"\x00" in content:
        raise TallyError(f"{name} is not written in UTF-8.")
    if b"<!DOCTYPE" in content or b"<!ENTITY" in content:
        raise TallyError(f"{name} declares a document type or entities of its own; a quotation needs none, and they are not read.")
    try:
        root = ET.fromstring(content)
    except ET.ParseError as error:
        raise TallyError(f"{name} breaks off or is damaged: line {error.position[0]} is not XML.") from None
    except LookupError:
        raise TallyError(f"{name} is written in an encoding that nobody knows.") from None
    if root.tag.rsplit("}", 1)[-1] != "Quotation":
        raise TallyError(f"{name} is no UBL quotation but a {root.tag.rsplit('}', 1)[-1][:40]}.")
    issued, until = _day(root, "IssueDate"), _day(root, "{*}ValidityPeriod/{*}EndDate")
    currency = _said(root, "PricingCurrencyCode")
    lines = root.findall(f"{{{CAC}}}QuotationLine/{{{CAC}}}LineItem")
    if len(lines) > _MOST_LINES:
        raise TallyError(f"{name} has more than {_MOST_LINES:,} lines.")
    return [_quoted(name, at, line, currency, issued, until) for at, line in enumerate(lines, 1)]


def _quoted(name: str, at: int, line: ET.Element, currency: str, issued: date | None, until: date | None) -> QuotedLine:
    price = line.find("{*}Price/{*}PriceAmount")
    if price is None:
        raise TallyError(f"{name}, line {at}: it has no price.")
    least = _amount(name, at, line, "MinimumQuantity")
    if least is None:
        least = _amount(name, at, line, "Quantity")
    promised = _day(line, "{*}Delivery/{*}PromisedDeliveryPeriod/{*}EndDate")
    units = [e.get("unitCode", "") for p in ("Price/{*}BaseQuantity", "MinimumQuantity", "Quantity") for e in line.findall(f"{{*}}{p}")]
    code = next(filter(None, units), "C62")
    amount = _amount(name, at, line, "Price/{*}PriceAmount")
    per = _amount(name, at, line, "Price/{*}BaseQuantity")
    return QuotedLine(
        number=_said(line, "Item/{*}BuyersItemIdentification/{*}ID"),
        their_number=_said(line, "Item/{*}SellersItemIdentification/{*}ID"),
        maker=_said(line, "Item/{*}ManufacturerParty/{*}PartyName/{*}Name"),
        maker_number=_said(line, "Item/{*}ManufacturersItemIdentification/{*}ID"),
        least=Decimal(1) if least is None else least,
        most=_amount(name, at, line, "MaximumQuantity"),
        unit=UNIT_OF_CODE.get(code, code),
        price=amount if amount is not None else Decimal(0),
        per=per or Decimal(1),
        currency=price.get("currencyID") or currency,
        pack=_amount(name, at, line, "Item/{*}PackQuantity") or None,
        lead_days=max((promised - issued).days, 0) if promised and issued else None,
        valid_to=_day(line, "Price/{*}ValidityPeriod/{*}EndDate") or until,
    )


def is_quotation(content: bytes) -> bool:
    """Whether a file says of itself that it is one; only its beginning is looked at."""
    return b"ubl:schema:xsd:Quotation-2" in content[:4096]


def quotation_rows(name: str, content: bytes) -> list[list[Cell]]:
    """The prices of a quotation as a list with titles, as any price list comes in. Raises TallyError."""
    titles = ("part", "article", "maker", "mpn", "from", "price", "per", "currency", "unit", "pack", "stock", "lead days", "valid to")
    rows = [
        (
            line.number,
            line.their_number,
            line.maker,
            line.maker_number,
            line.least,
            line.price,
            line.per,
            line.currency,
            line.unit,
            line.pack,
            line.most,
            line.lead_days,
            line.valid_to,
        )
        for line in parse_quotation(name, content)
    ]
    return [list(titles), *([_cell(value) for value in row] for row in rows)]


def _cell(value: str | Decimal | int | date | None) -> Cell:
    if isinstance(value, Decimal):
        # As text, which keeps every digit; no comma stands in it, so it reads in one way.
        return f"{value:f}"
    return "" if value is None else value


def _said(of: ET.Element, path: str) -> str:
    return " ".join((of.findtext(f"{{*}}{path}") or "").split())[:200]


def _day(of: ET.Element, path: str) -> date | None:
    said = of.findtext(path if path.startswith("{") else f"{{*}}{path}") or ""
    try:
        return date.fromisoformat(said.strip()[:10]) if said.strip() else None
    except ValueError:
        return None


def _amount(name: str, at: int, of: ET.Element, path: str) -> Decimal | None:
    said = (of.findtext(f"{{*}}{path}") or "").strip()
    if not said:
        return None
    try:
        number = Decimal(said)
    except InvalidOperation:
        number = Decimal("NaN")
    if not number.is_finite() or not 0 <= number < Decimal("1e12"):
        raise TallyError(f"{name}, line {at}: “{said[:40]}” is no usable number.")
    return number
