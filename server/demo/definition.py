"""The demo: Larkhaven Beacon Works and its harbour lanterns. All of it is invented."""

from typing import Any

__all__ = ["FINISHED", "MAKERS", "STOCK", "demo_bundle"]

# code, name, labor, set-up labor, machine, overhead per hour, overhead % of labor, efficiency %, stations
CENTERS = """
TURN  | Turning cell     | 36 | 38 | 24 |  4 | 35 |  95 | 2
MILL  | Machining cell   | 38 | 40 | 31 |  5 | 35 |  92 | 2
LASER | Laser            | 34 | 34 | 58 |  6 | 30 |  96 | 1
PLACE | Placement line   | 35 | 42 | 66 |  9 | 30 |  90 | 1
BENCH | Bench group      | 32 | 32 |  0 |  3 | 40 | 100 | 3
POT   | Potting room     | 33 | 33 | 12 |  7 | 40 | 100 | 1
TEST  | Test bay         | 37 | 37 | 18 |  4 | 35 | 100 | 1
PACK  | Packing          | 29 | 29 |  0 |  2 | 30 | 100 | 1
CUT   | Saw and joinery  | 30 | 30 | 14 |  3 | 35 |  95 | 1
"""

#: Machines run in two shifts, the placement line from Monday to Thursday in three.
SHIFTS = dict.fromkeys(("TURN", "MILL", "LASER"), "Mo-Fr 06:00-14:00; Mo-Th 14:00-22:00") | {
    "PLACE": "Mo-Th 06:00-14:00; Mo-Th 14:00-22:00; Mo-Th 22:00-06:00; Fr 06:00-14:00"
}

#: The hall or department of each.
GROUPS = dict.fromkeys(("TURN", "MILL", "LASER", "CUT"), "machine shop") | dict.fromkeys(
    ("PLACE", "TEST"), "electronics"
) | dict.fromkeys(("BENCH", "POT", "PACK"), "assembly")  # fmt: skip
#: Planned stops.
STOPS = {
    "PLACE": [{"start": "2026-12-07T06:00", "end": "2026-12-08T14:00", "reason": "feeders moved"}],
    "POT": [{"start": "2026-12-14T07:00", "end": "2026-12-14T12:00", "reason": "vessel cleaned"}],
}

#: The library; the second version of DEBURR is younger than the routing that follows it.
STANDARDS: list[dict[str, Any]] = [
    {"code": "DEBURR", "version": 2, "operation": {
        "name": "Deburr", "work_center": "BENCH", "run_minutes": "0.7",
        "instructions": "All edges, **inside too**.\n\n- scraper first, then fleece\n- blow out the threads",
    }},
    {"code": "INSPECT", "operation": {
        "name": "Inspect and record", "work_center": "TEST", "setup_minutes": "6", "run_minutes": "1.2", "queue_minutes": "60",
    }},
    {"code": "PACK-STD", "operation": {"name": "Pack and label", "work_center": "PACK", "setup_minutes": "5", "run_minutes": "2.5"}},
    {"code": "CURE-24", "operation": {
        "name": "Cure overnight", "work_center": "POT", "setup_minutes": "5", "run_minutes": "2", "run_basis": "per_lot",
        "wait_minutes": "1440",
    }},
]  # fmt: skip

#: What the shop reports: part, operation, minutes each that it really takes, and the units of its last orders.
FINISHED = [
    ("HL-155", 10, 6.9, (50, 40, 50, 60, 50, 30, 50, 50, 40, 50, 50, 60)),
    ("HL-155", 30, 5.6, (50, 40, 50, 60, 50, 30, 50, 50, 40, 50, 50, 60)),
    ("HL155-21", 10, 0.98, (100, 100, 120, 80, 100, 100)),
    ("HL155-30", 10, 9.4, (50, 50, 50, 40, 60, 50, 50)),
]

# number, description, kind, unit, unit cost, overhead %, costing lot, lead time in days
PARTS = """
HL-155   | Harbour lantern, 155 mm               | made    | ea |         |   | 50  | 0
HL-200   | Harbour lantern, 200 mm               | made    | ea |         |   | 20  | 0
HL155-10 | Lens assembly, 155 mm                 | made    | ea |         |   | 50  | 0
HL155-11 | Retaining ring, turned                | made    | ea |         |   | 200 | 0
HL155-20 | Light engine                          | made    | ea |         |   | 100 | 0
HL155-21 | Circuit board assembly                | made    | ea |         |   | 100 | 0
HL155-22 | Heat spreader, anodised               | made    | ea |         |   | 200 | 0
HL155-30 | Base, machined and coated             | made    | ea |         |   | 50  | 0
HL155-40 | Solar collar                          | made    | ea |         |   | 25  | 0
SK-155   | Seal kit, 155 mm                      | phantom | ea |         |   |     | 0
GSK-155  | Gasket, base to lens                  | made    | ea |         |   | 500 | 0
CMP-0402 | Potting compound, two-part            | made    | kg |         |   | 12  | 0
CR-155   | Crate, 155 mm lantern                 | made    | ea |         |   | 25  | 0
CR-155-1 | Crate panel, cut                      | made    | ea |         |   | 150 | 0
LNS-155  | Lens, moulded, clear, 155 mm          | bought  | ea | 8.40    | 3 |     | 35
LNS-200  | Lens, moulded, clear, 200 mm          | bought  | ea | 13.90   | 3 |     | 35
ORG-150  | Seal ring, 150 x 4 mm                 | bought  | ea | 0.62    | 3 |     | 14
BAR-AL65 | Aluminium tube, 160 x 6 mm            | bought  | m  | 41.50   | 3 |     | 21
SWF-AL   | Aluminium swarf                       | bought  | kg | 0.85    |   |     | 0
PCB-1021 | Bare board, 92 mm, four layers        | bought  | ea | 3.95    | 3 |     | 28
EMT-4700 | Emitter, white, 3 W                   | bought  | ea | 1.18    | 3 |     | 42
DRV-0310 | Constant-current driver, 1 A          | bought  | ea | 2.36    | 3 |     | 56
RES-0472 | Resistor 4.7 kΩ, 1 %, 0603            | bought  | ea | 0.0042  | 3 |     | 21
RES-0151 | Resistor 150 Ω, 1 %, 0805             | bought  | ea | 0.0061  | 3 |     | 21
CAP-0475 | Capacitor 4.7 µF, 25 V, 0805          | bought  | ea | 0.038   | 3 |     | 28
CAP-0104 | Capacitor 100 nF, 50 V, 0603          | bought  | ea | 0.0088  | 3 |     | 21
SHT-AL3  | Aluminium sheet, 3 mm                 | bought  | m2 | 38.20   | 3 |     | 14
CMP-0417 | Thermal paste                         | bought  | g  | 0.046   | 3 |     | 10
CST-155  | Base casting, aluminium               | bought  | ea | 11.75   | 3 |     | 42
SHT-EPDM | Gasket sheet, 3 mm                    | bought  | m2 | 22.60   | 3 |     | 14
SCR-M5   | Screw M5 x 16, stainless              | bought  | ea | 0.094   | 3 |     | 10
WSH-M5   | Washer M5, stainless                  | bought  | ea | 0.021   | 3 |     | 10
RSN-20   | Resin, part A                         | bought  | kg | 9.80    | 3 |     | 21
HRD-20   | Hardener, part B                      | bought  | kg | 16.40   | 3 |     | 21
FIL-07   | Mineral filler                        | bought  | kg | 1.35    | 3 |     | 14
CMP-0455 | Thread locker                         | bought  | mL | 0.31    | 3 |     | 10
GRS-02   | Silicone grease                       | bought  | g  | 0.028   | 3 |     | 10
FLS-01   | Flasher module, plain                 | bought  | ea | 6.20    | 3 |     | 28
SYN-01   | Timing module, synchronised           | bought  | ea | 19.80   | 3 |     | 49
GLD-20   | Mains gland, M20                      | bought  | ea | 1.74    | 3 |     | 14
PNL-12   | Solar panel, 12 W                     | bought  | ea | 14.60   | 3 |     | 42
BAT-07   | Battery, 7 Ah                         | bought  | ea | 17.30   | 3 |     | 28
LBL-0031 | Name plate, etched                    | bought  | ea | 0.86    | 3 |     | 21
PLY-09   | Plywood, 9 mm                         | bought  | m2 | 11.20   | 3 |     | 10
BTN-30   | Batten, 30 x 30 mm                    | bought  | m  | 1.05    | 3 |     | 10
NIL-40   | Nail, 40 mm                           | bought  | kg | 3.10    | 3 |     | 7
FRT-IN   | Inbound freight, share of one lantern | charge  | ea | 1.20    |   |     | 0
SC-40    | Shore controller                      | made    | ea |         |   | 20  | 0
SC40-21  | Controller board, assembled here      | made    | ea |         |   | 40  | 0
SC40-B   | Controller board, bought in           | bought  | ea | 31.40   | 3 |     | 49
PCB-1044 | Bare board, 140 mm, two layers        | bought  | ea | 4.60    | 3 |     | 28
MCU-0808 | Microcontroller, 32 pins              | bought  | ea | 3.15    | 3 |     | 70
BOX-40   | Enclosure, sealed, 200 x 120 mm       | bought  | ea | 12.80   | 3 |     | 21
RAD-01   | Radio module, harbour band            | bought  | ea | 18.90   | 3 |     | 56
CAB-05   | Signal cable, five cores              | bought  | m  | 1.36    | 3 |     | 14
TOR-M5   | Torque label, sealed screws           | bought  | ea |         |   |     | 0
"""


#: The class of a part by how its number begins.
CLASSES = {
    "HL-": "lantern", "SC-": "controller", "HL155": "lantern assembly", "SC40": "controller assembly", "LNS": "optics", "ORG": "seal",
    "GSK": "seal", "SK-": "seal", "BAR": "bar and sheet", "SHT": "bar and sheet", "PLY": "timber", "BTN": "timber", "CR-": "crate",
    "PCB": "electronics", "EMT": "electronics", "DRV": "electronics", "RES": "electronics", "CAP": "electronics", "MCU": "electronics",
    "FLS": "electronics", "SYN": "electronics", "RAD": "electronics", "RSN": "compound", "HRD": "compound", "FIL": "compound",
    "CMP": "compound", "GRS": "compound", "SCR": "hardware", "WSH": "hardware", "NIL": "hardware", "CST": "casting",
}  # fmt: skip

#: Who parts of a class are bought from.
SUPPLIERS = {
    "electronics": "Northquay Components", "hardware": "Fathom Fasteners", "compound": "Lantern Chandlery", "seal": "Lantern Chandlery",
    "bar and sheet": "Holm Metals", "casting": "Holm Metals", "timber": "Holm Metals", "optics": "Northquay Components",
}  # fmt: skip

#: Classes with running numbers and fields of their own.
PART_CLASSES: list[dict[str, Any]] = [
    {
        "name": "electronics", "fields": [
            {"name": "tolerance_pct", "kind": "number"},
            {"name": "mounting", "kind": "choice", "choices": ["surface", "through hole"]},
            {"name": "approved_on", "kind": "date"},
        ],
    },
    {"name": "hardware", "prefix": "SCR-", "digits": 5, "start": 100, "step": 10, "fields": [
        {"name": "head", "kind": "choice", "choices": ["countersunk", "pan", "hexagon"]},
        {"name": "length_mm", "kind": "number", "unit": "mm"},
    ]},
    {
        "name": "bar and sheet", "prefix": "STK-", "digits": 4, "fields": [
            {"name": "length_mm", "kind": "number", "unit": "mm"},
            {"name": "width_mm", "kind": "number", "unit": "mm"},
            {"name": "gauge_mm", "kind": "number", "unit": "mm"},
            {"name": "density_kg_dm3", "kind": "number"},
            {"name": "piece_kg", "kind": "computed", "unit": "kg",
             "expression": "length_mm * width_mm * gauge_mm / 1000000 * density_kg_dm3"},
            {"name": "cut", "kind": "computed", "expression": "'saw' if gauge_mm > 12 else 'laser'"},
        ],
    },
]  # fmt: skip

#: What some parts are bought by, held at, and made of.
MORE: dict[str, dict[str, Any]] = {
    "BAR-AL65": {
        "buying_unit": "bar",
        "stock_per_buying_unit": "3",
        "reorder_level": "12",
        "order_multiple": "3",
        "material": "aluminium, drawn",
    },
    "SHT-AL3": {
        "own_values": {"length_mm": "2000", "width_mm": "1000", "gauge_mm": "3", "density_kg_dm3": "2.7"},
        "material": "aluminium, rolled",
    },
    "CMP-0417": {"unmodelled": True, "supplier": "Lantern Chandlery", "supplier_number": "LC-2210"},
    "CMP-0455": {"unmodelled": True, "supplier": "Lantern Chandlery", "supplier_number": "LC-2044"},
    "GRS-02": {"unmodelled": True, "supplier": "Lantern Chandlery", "supplier_number": "LC-7702"},
    "TOR-M5": {"unmodelled": True, "supplier": "Bright Press Labels", "supplier_number": "BP-0114"},
    "CAB-05": {"buying_unit": "roll", "stock_per_buying_unit": "50", "reorder_level": "40", "order_multiple": "50"},
    "RES-0472": {
        "reorder_level": "2000",
        "order_minimum": "5000",
        "order_multiple": "5000",
        "size_mm": "1.6 x 0.8 x 0.45",
        "own_values": {"tolerance_pct": "1", "mounting": "surface", "approved_on": "2026-03-12"},
    },
    "CAP-0475": {
        "reorder_level": "1000",
        "order_minimum": "2000",
        "order_multiple": "2000",
        "size_mm": "2 x 1.25 x 0.85",
    },
    "SCR-M5": {
        "buying_unit": "hundred",
        "reorder_level": "1500",
        "order_multiple": "100",
        "material": "stainless steel",
    },
    "LNS-155": {
        "reorder_level": "60",
        "order_minimum": "50",
        "mass_kg": "0.31",
        "size_mm": "155 x 155 x 98",
        "material": "polycarbonate, clear",
    },
    "CST-155": {
        "reorder_level": "40",
        "order_minimum": "25",
        "mass_kg": "1.9",
        "size_mm": "190 x 190 x 74",
        "material": "aluminium, cast",
    },
    "HL-155": {
        "mass_kg": "4.8",
        "size_mm": "190 x 190 x 240",
        "second_description": "Marine lantern for harbour entrances",
        "sold": True,
    },
    "HL155-20": {"sold": True, "second_description": "Sold as a spare, too"},
}

#: Approved manufacturers' numbers, the first choice first; all invented.
MAKERS: dict[str, list[tuple[str, str, str]]] = {
    "RES-0472": [("Norwick Passive", "NR0603-4K7-F", "0603"), ("Tarn Components", "TC-1608-472", "0603")],
    "CAP-0475": [("Norwick Passive", "NC0805-475-25", "0805"), ("Elder & Finch", "EF2012X475", "0805")],
    "EMT-4700": [("Brightwater Optics", "BW-3W-47", "3535"), ("Tarn Components", "TL3535-W", "3535")],
    "DRV-0310": [("Holmfirth Semiconductor", "HS0310-A", "SO-8")],
    "MCU-0808": [("Holmfirth Semiconductor", "HS8-32", "QFP-32")],
}

#: On hand at the start of three months; what was received and issued since follows from it.
STOCK = {
    "LNS-155": 140, "CST-155": 90, "EMT-4700": 4200, "DRV-0310": 610, "RES-0472": 9000, "CAP-0475": 5200, "SCR-M5": 4000, "WSH-M5": 4000,
    "PCB-1021": 260, "FLS-01": 180, "GLD-20": 240, "LBL-0031": 300, "BAR-AL65": 27, "CMP-0417": 900, "RSN-20": 64, "HRD-20": 22,
    "HL-155": 21, "HL155-21": 70, "HL155-30": 28, "SC-40": 7,
}  # fmt: skip

#: What is still to come: order, part, quantity, days from now.
OPEN_ORDERS = [
    ("PO-2201", "BAR-AL65", "40", 14), ("PO-2201", "SHT-AL3", "12", 14), ("PO-2204", "PCB-1021", "400", 25),
    ("PO-2207", "CST-155", "60", 38), ("PO-2208", "LNS-155", "120", 21), ("WO-4107", "HL-155", "50", 30),
    ("WO-4109", "SC-40", "20", 33),
]  # fmt: skip

#: The inputs of the standards in force, where they were others than they are now, and what is proposed for the next ones.
FIRST_ROUND = [
    ("part", "BAR-AL65", "unit_cost", "39.80"), ("part", "SHT-AL3", "unit_cost", "36.90"), ("part", "CST-155", "unit_cost", "11.40"),
    ("part", "PCB-1021", "unit_cost", "4.10"), ("part", "HL-155", "costing_lot", "40"), ("work_center", "TURN", "labor_rate", "35"),
    ("work_center", "BENCH", "labor_rate", "31"),
]  # fmt: skip
NEXT_ROUND = [("work_center", "PLACE", "machine_rate", "69"), ("part", "EMT-4700", "unit_cost", "1.12")]


#: Parts that are not active.
LIFECYCLES = {"DRV-0310": "last_buy", "TOR-M5": "draft"}


def _cells(text: str) -> list[list[str]]:
    return [[cell.strip() for cell in row.split("|")] for row in text.strip().splitlines()]


def _center(row: list[str]) -> dict[str, Any]:
    names = (
        "code",
        "name",
        "labor_rate",
        "setup_labor_rate",
        "machine_rate",
        "overhead_per_hour",
        "overhead_percent_of_labor",
        "efficiency_percent",
    )
    return dict(zip(names, row, strict=False)) | {
        "stations": int(row[8]),
        "shifts": SHIFTS.get(row[0], "Mo-Fr 07:00-15:30"),
        "group": GROUPS[row[0]],
        "stops": STOPS.get(row[0], []),
    }


def _part(row: list[str]) -> dict[str, Any]:
    number, description, kind, unit, cost, overhead, lot, days = row
    part_class = next((name for start, name in CLASSES.items() if number.startswith(start)), "")
    return {
        "number": number, "description": description, "kind": kind, "unit": unit, "unit_cost": cost or None,
        "overhead_percent": overhead or None, "costing_lot": lot or None, "lead_time_days": int(days),
        "lifecycle": LIFECYCLES.get(number, "active"), "default_alternate": "A" if number == "SC-40" else None,
        "part_class": part_class, "supplier": SUPPLIERS.get(part_class, "") if kind == "bought" else "",
        **MORE.get(number, {}),
    }  # fmt: skip


def _op(sequence: int, name: str, center: str, setup: str, run: str, **more: Any) -> dict[str, Any]:
    return {
        "sequence": sequence,
        "name": name,
        "work_center": center,
        "setup_minutes": setup,
        "run_minutes": run,
    } | more


def _outside(sequence: int, name: str, supplier: str, price: str, least: str, days: int, **more: Any) -> dict[str, Any]:
    return {
        "sequence": sequence, "name": name,
        "subcontract": {"supplier": supplier, "unit_price": price, "minimum_charge": least, "lead_days": days},
    } | more  # fmt: skip


def _sheet(part: str, operations: list[dict], *lines: tuple[str, str, str, dict], **head: Any) -> dict[str, Any]:
    """Lines as (part, quantity, unit, more); items count by tens, and a text line has no part."""
    made = []
    for index, (number, quantity, unit, more) in enumerate(lines, 1):
        line: dict[str, Any] = {
            "item": 10 * index,
            "part": number or None,
            "quantity": quantity or None,
            "unit": unit or None,
        }
        made.append(line | more)
    return {
        "part": part,
        "status": "released",
        "effective_from": "2026-02-02",
        "operations": operations,
        "lines": made,
    } | head


_TEST = """## Test at 24 V

1. Grease the seal ring *thinly*, close the lens.
2. Eight screws crosswise, **2.2 Nm**, thread locker on each.
3. Ten minutes at 24 V; keep the record with the lantern.
"""


def _lantern(engine: str, revision: str, **head: Any) -> dict[str, Any]:
    at = {n: {"issue_at": n} for n in (10, 20, 30, 40)}
    return _sheet(
        "HL-155",
        [
            _op(10, "Fit light engine", "BENCH", "12", "6.5", stations=2),
            _op(20, "Pot and cure", "POT", "20", "4", wait_minutes="1440", yield_percent="99"),
            _op(30, "Close, seal, test", "TEST", "8", "5", instructions=_TEST),
            _op(40, "Pack", "PACK", "5", "3"),
        ],
        ("HL155-20", engine, "ea", at[10]),
        ("HL155-30", "1", "ea", at[10] | {"scrap_percent": "1"}),
        ("FLS-01", "1", "ea", at[10]),
        ("FLS-01", "1", "ea", at[10] | {"option": "SYNC", "option_action": "remove"}),
        ("SYN-01", "1", "ea", at[10] | {"option": "SYNC"}),
        ("GLD-20", "1", "ea", at[10]),
        ("GLD-20", "1", "ea", at[10] | {"option": "SOLAR", "option_action": "remove"}),
        ("HL155-40", "1", "ea", at[10] | {"option": "SOLAR"}),
        ("CMP-0402", "0.32", "kg", at[20] | {"scrap_percent": "5"}),
        ("SK-155", "1", "ea", at[30]),
        ("HL155-10", "1", "ea", at[30] | {"yield_percent": "99"}),
        ("LNS-155", "1", "ea", at[30] | {"option": "SPARE"}),
        ("CMP-0455", "0.4", "mL", at[30]),
        ("GRS-02", "", "g", at[30]),
        ("LBL-0031", "1", "ea", at[30]),
        (
            "",
            "",
            "",
            at[30] | {"kind": "text", "text": "Test at 24 V for ten minutes; keep the record with the lantern."},
        ),
        ("CR-155", "1", "ea", at[40]),
        ("FRT-IN", "1", "ea", at[40]),
        revision=revision,
        **head,
    )


def _controller(alternate: str, reference: str, board: tuple[str, str, str, dict]) -> dict[str, Any]:
    return _sheet(
        "SC-40",
        [_op(10, "Assemble", "BENCH", "10", "9"), _op(20, "Test", "TEST", "12", "6")],
        board,
        ("BOX-40", "1", "ea", {"issue_at": 10}),
        ("GLD-20", "2", "ea", {"issue_at": 10}),
        ("RAD-01", "1", "ea", {"issue_at": 10, "option": "RADIO"}),
        ("CAB-05", "12", "m", {"issue_at": 20, "option": "WIRED"}),
        ("LBL-0031", "1", "ea", {"issue_at": 20}),
        alternate=alternate,
        reference=reference,
    )


def demo_bundle() -> dict[str, Any]:
    """The demo as a bundle."""
    chips = [f"R{i}" for i in range(1, 9)]
    sheets = [
        _lantern("1", "A"),
        _lantern("1", "B", status="draft", effective_from=None),
        _sheet(
            "HL-200",
            [_op(10, "Assemble", "BENCH", "15", "11"), _op(20, "Pot and cure", "POT", "20", "6", wait_minutes="1440"),
             _op(30, "Close, seal, test", "TEST", "8", "7")],
            ("HL155-20", "2", "ea", {"issue_at": 10}), ("FLS-01", "1", "ea", {"issue_at": 10}), ("CMP-0402", "0.55", "kg", {"issue_at": 20, "scrap_percent": "5"}),
            ("LNS-200", "1", "ea", {"issue_at": 30, "yield_percent": "98.5"}), ("SK-155", "1", "ea", {"issue_at": 30}), ("LBL-0031", "1", "ea", {"issue_at": 30}),
        ),
        _sheet(
            "HL155-10", [_op(10, "Press in seal, fit ring", "BENCH", "6", "2.2")],
            ("LNS-155", "1", "ea", {"scrap_percent": "1.5"}), ("ORG-150", "1", "ea", {}), ("HL155-11", "1", "ea", {}),
        ),
        _sheet(
            "HL155-11", [_op(10, "Turn and part off", "TURN", "35", "3.4", yield_percent="98"), _op(20, "Deburr", "BENCH", "0", "0.8", standard="DEBURR", standard_version=1)],
            ("BAR-AL65", "14", "mm", {"fixed_loss": "90"}), ("SWF-AL", "38", "g", {"kind": "byproduct"}),
        ),
        _sheet(
            "HL155-20", [_op(10, "Paste and mount board", "BENCH", "8", "3.5"), _op(20, "Light test", "TEST", "10", "1.5", yield_percent="99.5")],
            ("HL155-21", "1", "ea", {"scrap_percent": "1"}), ("HL155-22", "1", "ea", {}), ("CMP-0417", "0.8", "g", {"scrap_percent": "10"}),
        ),
        _sheet(
            "HL155-21", [_op(10, "Print and place", "PLACE", "75", "0.9", yield_percent="98.5", transfer_quantity="24"), _op(20, "Reflow", "PLACE", "10", "6", run_basis="per_cycle", cycle_quantity="24"),
                         _op(30, "Inspect and trim", "BENCH", "5", "1.6")],
            ("PCB-1021", "1", "ea", {"issue_at": 10}),
            ("EMT-4700", "12", "ea", {"issue_at": 10, "scrap_percent": "0.5", "reference_designators": [f"D{i}" for i in range(1, 13)]}),
            ("DRV-0310", "2", "ea", {"issue_at": 10, "reference_designators": ["U1", "U2"]}),
            ("RES-0472", "8", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "20", "reference_designators": chips}),
            ("RES-0151", "4", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "20", "reference_designators": ["R9", "R10", "R11", "R12"]}),
            ("CAP-0475", "3", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "10", "reference_designators": ["C1", "C2", "C3"]}),
            ("CAP-0104", "6", "ea", {"issue_at": 10, "scrap_percent": "2", "fixed_loss": "10", "reference_designators": [f"C{i}" for i in range(4, 10)]}),
            ("CAP-0104", "2", "ea", {"issue_at": 10, "not_fitted": True, "reference_designators": ["C10", "C11"]}),
        ),
        _sheet(
            "HL155-22", [_op(10, "Cut blank", "LASER", "15", "0.7"), _outside(20, "Anodise, black", "Quayside Finishing", "1.85", "240", 7)],
            ("SHT-AL3", "0.0121", "m2", {"scrap_percent": "12"}),
        ),
        _sheet(
            "HL155-30", [_op(10, "Face, bore, drill", "MILL", "40", "8.5", yield_percent="97"), _outside(20, "Powder coat, yellow", "Saltmarsh Coatings", "4.60", "310", 10),
                         _op(30, "Fit inserts", "BENCH", "4", "2")],
            ("CST-155", "1", "ea", {"issue_at": 10}), ("SWF-AL", "0.19", "kg", {"kind": "byproduct", "issue_at": 10}),
        ),
        _sheet(
            "HL155-40", [_op(10, "Fit panel and battery", "BENCH", "6", "7")],
            ("PNL-12", "1", "ea", {}), ("BAT-07", "1", "ea", {}), ("SCR-M5", "6", "ea", {}), ("WSH-M5", "6", "ea", {}),
        ),
        _sheet(
            "SK-155", [],
            ("GSK-155", "1", "ea", {}), ("SCR-M5", "8", "ea", {"scrap_percent": "2"}), ("WSH-M5", "8", "ea", {"scrap_percent": "2"}),
        ),
        _sheet("GSK-155", [_op(10, "Cut", "LASER", "10", "0.35")], ("SHT-EPDM", "0.0289", "m2", {"scrap_percent": "18"})),
        _sheet(
            "CMP-0402", [_op(10, "Weigh and mix", "POT", "15", "25", run_basis="per_cycle", cycle_quantity="10")],
            ("RSN-20", "7.2", "kg", {}), ("HRD-20", "2.1", "kg", {}), ("FIL-07", "2.9", "kg", {"scrap_percent": "1"}), batch="12",
        ),
        _sheet(
            "CR-155", [_op(10, "Nail together", "CUT", "5", "6")],
            ("CR-155-1", "6", "ea", {}), ("BTN-30", "2.4", "m", {"scrap_percent": "8"}), ("NIL-40", "60", "g", {}),
        ),
        _sheet("CR-155-1", [_op(10, "Cut to size", "CUT", "12", "0.9")], ("PLY-09", "0.0576", "m2", {"scrap_percent": "14"})),
        _controller("A", "own assembly", ("SC40-21", "1", "ea", {"issue_at": 10})),
        _controller("B", "bought-in board", ("SC40-B", "1", "ea", {"issue_at": 10})),
        _sheet(
            "SC40-21", [_op(10, "Print and place", "PLACE", "60", "0.7", yield_percent="98"), _op(20, "Reflow", "PLACE", "10", "6", run_basis="per_cycle", cycle_quantity="18")],
            ("PCB-1044", "1", "ea", {}), ("MCU-0808", "1", "ea", {"reference_designators": ["U1"]}), ("DRV-0310", "1", "ea", {"reference_designators": ["U2"]}),
            ("RES-0472", "6", "ea", {"scrap_percent": "2", "reference_designators": [f"R{i}" for i in range(1, 6)]}),
            ("CAP-0104", "4", "ea", {"scrap_percent": "2", "reference_designators": [f"C{i}" for i in range(1, 5)]}),
        ),
    ]  # fmt: skip
    draft = sheets[1]
    # What the draft changes: a second look at the compound, and a tighter test.
    draft["lines"][8]["quantity"] = "0.29"
    draft["operations"][2]["run_minutes"] = "4.5"
    draft["lines"].append({"item": 190, "part": "TOR-M5", "quantity": "8", "unit": "ea", "issue_at": 30})
    return {
        "format": "round-tally-bundle", "version": 1, "currency": "EUR",
        "options": [{"code": "SOLAR", "name": "Solar collar instead of mains"}, {"code": "SPARE", "name": "Spare lens"},
                    {"code": "SYNC", "name": "Synchronised timing"}, {"code": "RADIO", "name": "Joined by radio", "not_with": ["WIRED"]},
                    {"code": "WIRED", "name": "Joined by cable"}],
        "work_centers": [_center(row) for row in _cells(CENTERS)],
        "standard_operations": STANDARDS,
        "part_classes": PART_CLASSES,
        "parts": [_part(row) for row in _cells(PARTS)],
        "build_sheets": sheets,
    }  # fmt: skip
