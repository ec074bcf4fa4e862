"""Orders as UBL 2.1 documents (OASIS Universal Business Language, ISO/IEC 19845)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from xml.etree import ElementTree as ET

from formats.ubl_parts import PartyOf, document, group, item, money, party, text, unit_code, written

__all__ = ["UblLine", "UblOrder", "order_document"]


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
    root = document("Order")
    text(root, "ID", order.number)
    text(root, "IssueDate", order.day.isoformat())
    if order.note:
        text(root, "Note", order.note)
    text(root, "DocumentCurrencyCode", order.currency)
    text(root, "LineCountNumeric", str(len(order.lines)))
    party(root, "BuyerCustomerParty", order.buyer)
    party(root, "SellerSupplierParty", order.seller)
    extras = [(words, sum_) for words, sum_ in (("Freight", order.freight), ("Small order charge", order.charge)) if sum_]
    for words, sum_ in extras:
        charge = group(root, "AllowanceCharge")
        text(charge, "ChargeIndicator", "true")
        text(charge, "AllowanceChargeReason", words)
        money(charge, "Amount", sum_, order.currency)
    goods = sum((_cents(line.quantity * line.price) for line in order.lines), Decimal(0))
    more = sum((_cents(sum_) for _, sum_ in extras), Decimal(0))
    total = group(root, "AnticipatedMonetaryTotal")
    money(total, "LineExtensionAmount", goods, order.currency)
    money(total, "ChargeTotalAmount", more, order.currency)
    money(total, "PayableAmount", goods + more, order.currency)
    for at, line in enumerate(order.lines, 1):
        _line(root, at, line, order.currency)
    return written(root)


def _line(root: ET.Element, at: int, line: UblLine, currency: str) -> None:
    item_of = group(group(root, "OrderLine"), "LineItem")
    text(item_of, "ID", str(at))
    code = unit_code(line.unit)
    text(item_of, "Quantity", f"{line.quantity.normalize():f}", unitCode=code)
    money(item_of, "LineExtensionAmount", line.quantity * line.price, currency)
    if line.due_on:
        text(group(group(item_of, "Delivery"), "RequestedDeliveryPeriod"), "EndDate", line.due_on.isoformat())
    price = group(item_of, "Price")
    text(price, "PriceAmount", f"{line.price.normalize():f}", currencyID=currency)
    text(price, "BaseQuantity", "1", unitCode=code)
    item(item_of, line.number, line.words, line.their_number, line.maker, line.maker_number)


def _cents(sum_: Decimal) -> Decimal:
    return sum_.quantize(Decimal("0.01"))
