"""Orders as UBL 2.1 documents (OASIS Universal Business Language, ISO/IEC 19845)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from xml.etree import ElementTree as ET

__all__ = ["PartyOf", "UblLine", "UblOrder", "order_document"]

_ORDER = "urn:oasis:names:specification:ubl:schema:xsd:Order-2"
_CAC = "urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2"
_CBC = "urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2"

#: Our units as codes of UN/ECE Recommendation 20; a unit that is none of measure goes as the name of a package ("PK").
_CODES = {
    "ea": "C62", "pair": "PR", "dozen": "DZN", "hundred": "CEN", "kg": "KGM", "g": "GRM", "mg": "MGM", "t": "TNE", "lb": "LBR", "oz": "ONZ",
    "m": "MTR", "mm": "MMT", "cm": "CMT", "km": "KMT", "in": "INH", "ft": "FOT", "m2": "MTK", "mm2": "MMK", "cm2": "CMK", "ft2": "FTK",
    "L": "LTR", "mL": "MLT", "m3": "MTQ", "gal": "GLL", "h": "HUR", "min": "MIN", "s": "SEC", "d": "DAY",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class PartyOf:
    """A firm: its code with us, its name, and where it is written to."""

    code: str
    name: str
    mail: str = ""


@dataclass(frozen=True, slots=True)
class UblLine:
    """A line: our number and words, theirs and the maker's, so much of a unit at a price each, by a day."""

    number: str
    words: str
    their_number: str
    maker: str
    maker_number: str
    quantity: Decimal
    unit: str
    price: Decimal
    due_on: date | None


@dataclass(frozen=True, slots=True)
class UblOrder:
    """An order to a supplier; money in ``currency``."""

    number: str
    day: date
    currency: str
    buyer: PartyOf
    seller: PartyOf
    note: str
    freight: Decimal
    charge: Decimal
    lines: Sequence[UblLine]


def order_document(order: UblOrder) -> bytes:
    """The order as an XML document; amounts of lines and of the order are rounded to the cent."""
    ET.register_namespace("", _ORDER)
    ET.register_namespace("cac", _CAC)
    ET.register_namespace("cbc", _CBC)
    root = ET.Element(f"{{{_ORDER}}}Order")
    _text(root, "UBLVersionID", "2.1")
    _text(root, "ID", order.number)
    _text(root, "IssueDate", order.day.isoformat())
    if order.note:
        _text(root, "Note", order.note)
    _text(root, "DocumentCurrencyCode", order.currency)
    _text(root, "LineCountNumeric", str(len(order.lines)))
    _party(root, "BuyerCustomerParty", order.buyer)
    _party(root, "SellerSupplierParty", order.seller)
    extras = [
        (words, sum_) for words, sum_ in (("Freight", order.freight), ("Small order charge", order.charge)) if sum_
    ]
    for words, sum_ in extras:
        charge = _group(root, "AllowanceCharge")
        _text(charge, "ChargeIndicator", "true")
        _text(charge, "AllowanceChargeReason", words)
        _money(charge, "Amount", sum_, order.currency)
    goods = sum((_cents(line.quantity * line.price) for line in order.lines), Decimal(0))
    more = sum((_cents(sum_) for _, sum_ in extras), Decimal(0))
    total = _group(root, "AnticipatedMonetaryTotal")
    _money(total, "LineExtensionAmount", goods, order.currency)
    _money(total, "ChargeTotalAmount", more, order.currency)
    _money(total, "PayableAmount", goods + more, order.currency)
    for at, line in enumerate(order.lines, 1):
        _line(root, at, line, order.currency)
    return ET.tostring(root, encoding="utf-8", xml_declaration=True)


def _line(root: ET.Element, at: int, line: UblLine, currency: str) -> None:
    item_of = _group(_group(root, "OrderLine"), "LineItem")
    _text(item_of, "ID", str(at))
    code = _CODES.get(line.unit, "PK")
    _text(item_of, "Quantity", f"{line.quantity.normalize():f}", unitCode=code)
    _money(item_of, "LineExtensionAmount", line.quantity * line.price, currency)
    if line.due_on:
        _text(_group(_group(item_of, "Delivery"), "RequestedDeliveryPeriod"), "EndDate", line.due_on.isoformat())
    price = _group(item_of, "Price")
    _text(price, "PriceAmount", f"{line.price.normalize():f}", currencyID=currency)
    _text(price, "BaseQuantity", "1", unitCode=code)
    item = _group(item_of, "Item")
    if line.words:
        _text(item, "Description", line.words)
    _text(item, "Name", (line.words or line.number)[:100])
    _text(_group(item, "BuyersItemIdentification"), "ID", line.number)
    if line.their_number:
        _text(_group(item, "SellersItemIdentification"), "ID", line.their_number)
    if line.maker_number:
        _text(_group(item, "ManufacturersItemIdentification"), "ID", line.maker_number)
    if line.maker:
        _text(_group(_group(item, "ManufacturerParty"), "PartyName"), "Name", line.maker)


def _party(root: ET.Element, name: str, party: PartyOf) -> None:
    of = _group(_group(root, name), "Party")
    if party.code:
        _text(_group(of, "PartyIdentification"), "ID", party.code)
    _text(_group(of, "PartyName"), "Name", party.name)
    if party.mail:
        _text(_group(of, "Contact"), "ElectronicMail", party.mail)


def _group(parent: ET.Element, name: str) -> ET.Element:
    return ET.SubElement(parent, f"{{{_CAC}}}{name}")


def _text(parent: ET.Element, name: str, text: str, **attributes: str) -> None:
    # What XML cannot hold is no part of a name or a note.
    clean = "".join(c for c in text if c.isprintable() or c == "\n")
    ET.SubElement(parent, f"{{{_CBC}}}{name}", attributes).text = clean


def _money(parent: ET.Element, name: str, sum_: Decimal, currency: str) -> None:
    _text(parent, name, f"{_cents(sum_):f}", currencyID=currency)


def _cents(sum_: Decimal) -> Decimal:
    return sum_.quantize(Decimal("0.01"))
