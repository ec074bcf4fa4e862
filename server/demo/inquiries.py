"""The demo's two inquiries: what two customers sent, each in a style of its own. All of it is invented."""

import io
import math
from datetime import timedelta
from typing import Any
from xml.sax.saxutils import quoteattr

import xlsxwriter
from django.contrib.auth.models import User
from django.db import transaction
from django.utils.timezone import localdate
from inquiries.actions.add_file import KIND, add_file, read_file
from inquiries.actions.ask_sender import ask_sender
from inquiries.actions.decide import Asked, decide
from inquiries.actions.open_inquiry import open_inquiry
from inquiries.actions.set_builds import set_builds
from inquiries.lines import counting
from inquiries.models import Inquiry
from jobs.work import last_job
from partners.models import Partner
from verbs.partners.save_partner import save_partner

__all__ = ["load_inquiries", "load_lantern_inquiry"]

_TITLES = ["Level", "Pos.", "Article", "Designation", "Manufacturer / Type", "Qty", "Unit", "Ref. des.", "Remark"]
_PIER = """
1 | 10 | QPL-41  | Control board, assembled          |                                  | 1  | pcs |         |
2 | 1  | QE-1001 | RES 4K7 1% 0603                   | Norwick Passive / NR0603-4K7F    | 8  | pcs | R1-R8   |
2 | 2  | QE-1002 | Resistor 150R 1% 0805             |                                  | 12 | pcs | R10-R20 |
2 | 3  | QE-1003 | Capacitor 4.7uF 16V 0805          |                                  | 6  | pcs | C1-C6   |
2 | 4  | QE-1004 | Capacitor 100nF 50V 0603          |                                  | 8  | pcs | C10-C17 |
2 | 5  | QE-1005 | Driver, constant current, 1 A     | Holmfirth Semiconductor / HS0310-A-TR | 2 | pcs | U1, U2 |
2 | 6  | QE-1006 | Microcontroller, 32 pins          | Holmfirth Semiconductor / HS8-32 | 1  | pcs | U3      |
2 | 7  | QE-1007 | Emitter, white, 3 W               | Brightwater Optics / BW-3W-47    | 24 | pcs | D1-D24  |
2 | 8  | QE-1008 | Connector 4 way, pitch 3.5 mm     |                                  | 2  | pcs | J1, J2  |
2 | 9  | QE-1009 | Resistor 10k 1% 0603              |                                  | 2  | pcs | R30, R31 | not fitted
2 | 10 | QE-1010 | Bare board, 92 mm, four layers    |                                  | 1  | pcs |         |
1 | 20 | QPL-42  | Lens, moulded, clear, 155 mm      |                                  | 1  | pcs |         |
1 | 30 | QPL-43  | Screw ISO 4762 M5x16 A2           |                                  | 8  | pcs |         |
1 | 40 | QPL-44  | Washer M5 stainless               |                                  | 8  | pcs |         |
1 | 50 | QPL-45  | Seal ring 150 x 4 NBR             |                                  | 1  | pcs |         |
1 | 60 | QPL-46  | Mains gland, M20                  |                                  | 1  | pcs |         | customer supplied
1 | 70 |         | Silicone grease                   |                                  | 5  | g   |         |
"""
#: What their second revision says otherwise: by article, or taken away.
_PIER_LATER = {
    "QE-1007": ["2", "7", "QE-1007", "Emitter, white, 3 W", "Brightwater Optics / BW-3W-47", "30", "pcs", "D1-D30", ""],
    "QE-1003": ["2", "3", "QE-1003", "Capacitor 4.7uF 25V 0805", "", "6", "pcs", "C1-C6", ""],
    "QPL-44": None,
}
_SKERRY = """Skerry Light Service;;;;
Anfrage;SK-2207;;;
Bezeichnung:;Schärenfeuer, Umbau;;;
;;;;
Pos;Teilenummer;Benennung;Menge;Bemerkung
1;SKF-100;Laterne, komplett;1 Stk;
1.1;SKF-110;Linse, geformt, klar, 200 mm;1 Stk;
1.2;SKF-120;Dichtring 150 x 4 mm NBR;2 Stk;
1.3;SKF-130;Gehäuse, dicht, 200 x 120 mm;1 Stk;
1.3.1;SKF-131;Schraube M5x16 A2;6x;
1.3.2;SKF-132;Signalkabel, 5 adrig;1,5 m;
1.3.3;SKF-133;Kondensator 4,7 µF 25 V 0805;12 Stk;
1.4;SKF-140;Solarmodul 12 W;2 Stk;
1.5;SKF-150;Batterie 7 Ah;1 Stk;beigestellt
1.6;SKF-160;Aluminiumblech 3 mm;0,25 m2;
1.7;SKF-170;Funkmodul, Hafenband;1 Stk;
1.8;SKF-180;Silikonfett;3,5 g;
Summe;;;;
"""


def _workbook(title: str, day: str, rows: list[list[str]]) -> bytes:
    """Their list: a block above, titles on row 7, numbers as numbers."""
    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True})
    sheet = book.add_worksheet("List of parts")
    for at, row in enumerate([["Quayside Harbour Trust"], [], ["Assembly", "QPL-40"], ["Title", title], ["Date", day], [], _TITLES, *rows]):
        for column, text in enumerate(row):
            if at > 6 and column in (0, 1, 5) and text:
                sheet.write_number(at, column, float(text))
            elif text:
                sheet.write_string(at, column, text)
    book.close()
    return buffer.getvalue()


_PACKAGES = {"R": "RESC1608X55N", "C": "CAPC2012X125N", "D": "LED3535", "U": "SOIC8", "J": "TERM-3.5-4"}


#: Length and width of its packages, millimetres.
_BOXES = {
    "RESC1608X55N": (1.6, 0.8),
    "RESC2012X60N": (2.0, 1.25),
    "CAPC2012X125N": (2.0, 1.25),
    "LED3535": (3.5, 3.5),
    "SOIC8": (6.0, 4.9),
    "TERM-3.5-4": (14.0, 7.6),
}


def _ring(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    return [(x + radius * math.cos(math.pi * n / 36), y + radius * math.sin(math.pi * n / 36)) for n in range(72)]


def _polygon(points: list[tuple[float, float]]) -> str:
    first, *rest = points
    steps = "".join(f'<PolyStepSegment x="{x:.3f}" y="{y:.3f}"/>' for x, y in (*rest, first))
    return f'<Polygon><PolyBegin x="{first[0]:.3f}" y="{first[1]:.3f}"/>{steps}</Polygon>'


def _outlines() -> str:
    return "".join(
        f"<Package name={quoteattr(name)}><Outline>{_polygon([(-a / 2, -b / 2), (a / 2, -b / 2), (a / 2, b / 2), (-a / 2, b / 2)])}</Outline></Package>"
        for name, (a, b) in _BOXES.items()
    )


def _layout() -> bytes:
    """Their board as IPC-2581: emitters on a ring, the rest within; larger places for C10 to C17 than their list says."""
    names = [f"D{n}" for n in range(1, 31)]
    inner = [f"R{n}" for n in (*range(1, 9), *range(10, 21), 30, 31)] + [f"C{n}" for n in (*range(1, 7), *range(10, 18))]
    placed: list[tuple[str, float, float, float, str]] = []
    for at, name in enumerate(names):
        turn = 2 * math.pi * at / len(names)
        placed.append((name, 46 + 38 * math.cos(turn), 46 + 38 * math.sin(turn), round(math.degrees(turn), 1), "TOP"))
    for at, name in enumerate(inner):
        placed.append((name, 20 + 6.5 * (at % 9), 30 + 8 * (at // 9), 90.0 * (at % 2), "BOTTOM" if name[0] == "R" else "TOP"))
    placed += [
        ("U1", 34, 64, 0, "TOP"),
        ("U2", 58, 64, 0, "TOP"),
        ("U3", 46, 22, 45, "TOP"),
        ("J1", 28, 22, 0, "TOP"),
        ("J2", 64, 22, 0, "TOP"),
    ]

    def package(name: str) -> str:
        return "RESC2012X60N" if name[0] == "R" and 10 <= int(name[1:]) <= 20 else _PACKAGES[name[0]]

    parts = "".join(
        f'<Component refDes="{n}" packageRef={quoteattr(package(n))} layerRef="{side}" part="x">'
        f'<Xform rotation="{turn}"/><Location x="{x:.3f}" y="{y:.3f}"/></Component>'
        for n, x, y, turn, side in placed
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<IPC-2581 revision="C" xmlns="http://webstds.ipc.org/2581"><Ecad name="QPL-41">'
        '<CadHeader units="MILLIMETER"/><CadData><Layer name="TOP" side="TOP"/><Layer name="BOTTOM" side="BOTTOM"/>'
        f'<Step name="QPL-41"><Profile>{_polygon(_ring(46, 46, 46))}</Profile>{_outlines()}{parts}</Step></CadData></Ecad></IPC-2581>'
    ).encode()


def _bring(user: User, inquiry: Inquiry, name: str, content: bytes) -> None:
    file = add_file(user, inquiry.pk, name, content)
    job = last_job(KIND, file.pk)
    assert job is not None
    # A worker that takes it later finds it done.
    read_file.call(file.pk, job.pk)


def load_inquiries(engineer: User) -> None:
    """Quayside pier lights, half decided, with a layout and the second revision of its list; Skerry beacon refit, untouched."""
    with transaction.atomic():
        today = localdate()
        rows = [[cell.strip() for cell in row.split("|")] for row in _PIER.strip().splitlines()]
        pier = open_inquiry(
            engineer,
            {
                "title": "Quayside pier lights",
                "customer": "Quayside Harbour Trust",
                "their_reference": "QHT 26/114",
                "wanted_by": (today + timedelta(days=9)).isoformat(),
                "note": "40 lights a year, the first lot in spring.",
            },
        )
        skerry = open_inquiry(
            engineer,
            {
                "title": "Skerry beacon refit",
                "customer": "Skerry Light Service",
                "their_reference": "SK-2207",
                "wanted_by": (today + timedelta(days=16)).isoformat(),
            },
        )
    for name, mail in (("Quayside Harbour Trust", "works@quayside.example"), ("Skerry Light Service", "einkauf@skerry.example")):
        customer = Partner.objects.get(name=name)
        save_partner(engineer, {"mail": mail}, customer.code, customer.version)
    _bring(engineer, pier, "QPL-40 list of parts.xlsx", _workbook("Pier light", "rev 1", rows))
    _bring(engineer, pier, "QPL-41 board.xml", _layout())
    _decide(
        engineer,
        pier,
        {"QE-1001": "RES-0472", "QE-1006": "MCU-0808", "QE-1007": "EMT-4700", "QPL-42": "LNS-155", "QPL-44": "WSH-M5", "QPL-46": "GLD-20"},
    )
    line = {x.said.get("part"): x for x in counting(pier)}["QE-1002"]
    ask_sender(engineer, pier.pk, line.pk, "designator-count", "quantity", "Quantity 12, but R10 to R20 are 11 places. Which holds?")
    top = counting(pier).filter(row=0).get()
    set_builds(engineer, pier.pk, [{"line": top.pk, "quantity": q, "wanted_by": None} for q in ("10", "40", "160")])
    later = [r for row in rows if (r := _PIER_LATER.get(row[2], row) if row[2] else row) is not None]
    _bring(engineer, pier, "QPL-40 list of parts rev 2.xlsx", _workbook("Pier light", "rev 2", later))
    _bring(engineer, skerry, "Anfrage SK-2207.csv", _SKERRY.encode("cp1252"))


def _decide(user: User, inquiry: Inquiry, pairs: dict[str, str]) -> None:
    lines: dict[Any, Any] = {x.said.get("part"): x for x in counting(inquiry)}
    asked = [Asked(line=lines[theirs].pk, seen=lines[theirs].stamp, verb="take", part=ours, over=False) for theirs, ours in pairs.items()]
    decide(user, inquiry.pk, asked)


def load_lantern_inquiry(engineer: User) -> Inquiry:
    """Three quantities of a lantern that is made here already: a list of one line, paired with it."""
    with transaction.atomic():
        wanted = (localdate() + timedelta(days=6)).isoformat()
        inquiry = open_inquiry(
            engineer,
            {
                "title": "Lanterns for three harbours",
                "customer": "Quayside Harbour Trust",
                "their_reference": "QHT 26/121",
                "wanted_by": wanted,
            },
        )
    _bring(engineer, inquiry, "Lanterns.csv", b"Part number;Description;Quantity\nHL-155;Harbour lantern, 155 mm;1\n")
    _decide(engineer, inquiry, {"HL-155": "HL-155"})
    line = counting(inquiry).get(said__part="HL-155")
    set_builds(engineer, inquiry.pk, [{"line": line.pk, "quantity": q, "wanted_by": None} for q in ("60", "250", "1000")])
    return inquiry
