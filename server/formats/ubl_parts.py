"""What documents of UBL 2.1 (OASIS Universal Business Language, ISO/IEC 19845) are made of."""

from dataclasses import dataclass
from decimal import Decimal
from xml.etree import ElementTree as ET

__all__ = ["CAC", "UNIT_OF_CODE", "PartyOf", "document", "group", "item", "money", "party", "text", "unit_code", "written"]

_SPACE = "urn:oasis:names:specification:ubl:schema:xsd:"
CAC, _CBC = f"{_SPACE}CommonAggregateComponents-2", f"{_SPACE}CommonBasicComponents-2"

#: Our units as codes of UN/ECE Recommendation 20; a unit that is none of measure goes as the name of a package ("PK").
_CODES = {
    "ea": "C62",
    "pair": "PR",
    "dozen": "DZN",
    "hundred": "CEN",
    "kg": "KGM",
    "g": "GRM",
    "mg": "MGM",
    "t": "TNE",
    "lb": "LBR",
    "oz": "ONZ",
    "m": "MTR",
    "mm": "MMT",
    "cm": "CMT",
    "km": "KMT",
    "in": "INH",
    "ft": "FOT",
    "m2": "MTK",
    "mm2": "MMK",
    "cm2": "CMK",
    "ft2": "FTK",
    "L": "LTR",
    "mL": "MLT",
    "m3": "MTQ",
    "gal": "GLL",
    "h": "HUR",
    "min": "MIN",
    "s": "SEC",
    "d": "DAY",
}
#: The other way; pieces have several codes.
UNIT_OF_CODE = {code: unit for unit, code in _CODES.items()} | {"H87": "ea", "EA": "ea", "PCE": "ea", "NMP": "ea"}


@dataclass(frozen=True, slots=True)
class PartyOf:
    """A firm: its code with us, its name, and where it is written to."""

    code: str
    name: str
    mail: str = ""


def unit_code(unit: str) -> str:
    """The code of one of our units."""
    return _CODES.get(unit, "PK")


def document(name: str) -> ET.Element:
    """The root of a document."""
    space = f"{_SPACE}{name}-2"
    ET.register_namespace("", space)
    ET.register_namespace("cac", CAC)
    ET.register_namespace("cbc", _CBC)
    root = ET.Element(f"{{{space}}}{name}")
    text(root, "UBLVersionID", "2.1")
    return root


def written(root: ET.Element) -> bytes:
    """The document as bytes."""
    return ET.tostring(root, encoding="utf-8", xml_declaration=True)


def party(root: ET.Element, name: str, of: PartyOf) -> None:
    """A firm in its role."""
    firm = group(group(root, name), "Party")
    if of.code:
        text(group(firm, "PartyIdentification"), "ID", of.code)
    text(group(firm, "PartyName"), "Name", of.name)
    if of.mail:
        text(group(firm, "Contact"), "ElectronicMail", of.mail)


def item(parent: ET.Element, number: str, words: str, their_number: str, maker: str, maker_number: str) -> None:
    """What a line is about: our number and words, theirs, and the maker's."""
    of = group(parent, "Item")
    if words:
        text(of, "Description", words)
    text(of, "Name", (words or number)[:100])
    for name, said in (("Buyers", number), ("Sellers", their_number), ("Manufacturers", maker_number)):
        if said:
            text(group(of, f"{name}ItemIdentification"), "ID", said)
    if maker:
        text(group(group(of, "ManufacturerParty"), "PartyName"), "Name", maker)


def group(parent: ET.Element, name: str) -> ET.Element:
    """An aggregate."""
    return ET.SubElement(parent, f"{{{CAC}}}{name}")


def text(parent: ET.Element, name: str, words: str, **attributes: str) -> None:
    """A basic element."""
    # What XML cannot hold is no part of a name or a note.
    clean = "".join(c for c in words if c.isprintable() or c == "\n")
    ET.SubElement(parent, f"{{{_CBC}}}{name}", attributes).text = clean


def money(parent: ET.Element, name: str, amount: Decimal, currency: str) -> None:
    """An amount of money, rounded to the cent."""
    text(parent, name, f"{amount.quantize(Decimal('0.01')):f}", currencyID=currency)
